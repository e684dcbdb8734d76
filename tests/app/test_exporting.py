"""Exporting through the dialog."""

import os
import threading

import pytest
from PyQt6.QtCore import QEventLoop, QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest

from rhabdos.app.leaving import exports
from rhabdos.app.leaving.export_dialog import ExportDialog
from rhabdos.app.leaving.many_dialog import ManyDialog
from rhabdos.app.leaving.tables_dialog import TablesDialog, offered_tables
from rhabdos.app.session.tasks import Task
from rhabdos.data.steps.joining import Join
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.paint import export as paint_export
from rhabdos.paint.fonts import measure
from rhabdos.paint.inside import recipe_in
from rhabdos.project.folders import Folders
from rhabdos.scene.build import build


@pytest.fixture
def dialog(hands, tmp_path):
    hands.window.filing.folders = Folders(latest=str(tmp_path))
    hands.press("Ctrl+Shift+E")
    return hands.window.findChild(ExportDialog)


def export(dialog, stopped=False):
    QTest.mouseClick(dialog.export_button, Qt.MouseButton.LeftButton)
    if dialog._task and not stopped:
        loop = QEventLoop()
        dialog._task.succeeded.connect(loop.quit)
        dialog._task.refused.connect(loop.quit)
        loop.exec()


def choose(dialog, format_):
    QTest.mouseClick(dialog.format_buttons[format_], Qt.MouseButton.LeftButton, pos=QPoint(8, 10))


def test_a_figure_is_exported_in_two_steps_with_sensible_beginnings(hands, dialog, tmp_path):
    assert dialog.path.text() == str(tmp_path / "two-harvests-hide-in-saltmere.png")
    assert dialog.pixels.text() == "1,890 × 1,181 pixels"
    export(dialog)
    assert QImage(dialog.path.text()).width() == 1890
    assert os.listdir(tmp_path) == ["two-harvests-hide-in-saltmere.png"]


@pytest.mark.parametrize("format_", ["svg", "pdf"])
def test_lines_and_text_need_no_resolution(hands, dialog, tmp_path, format_):
    choose(dialog, format_)
    assert not dialog.dpi.isEnabled()
    assert dialog.path.text().endswith(f".{format_}")
    export(dialog)
    assert (tmp_path / f"two-harvests-hide-in-saltmere.{format_}").stat().st_size > 5000


def test_size_in_pixels_resolution_and_no_paper(hands, dialog, tmp_path):
    dialog.dpi.setValue(200)
    QTest.keyClicks(dialog.size_fields.unit, "px")
    dialog.size_fields.unit.activated.emit(dialog.size_fields.unit.currentIndex())
    assert (dialog.size_fields.width_.value(), dialog.size_fields.height_.value()) == (1260, 787)
    dialog.size_fields.width_.setValue(1000)
    dialog.size_fields.height_.setValue(600)
    QTest.mouseClick(dialog.transparent, Qt.MouseButton.LeftButton, pos=QPoint(8, 10))
    export(dialog)
    picture = QImage(str(tmp_path / "two-harvests-hide-in-saltmere.png"))
    assert (picture.width(), picture.height()) == (1000, 600)
    assert picture.dotsPerMeterX() == round(200 / 0.0254)
    assert picture.pixelColor(2, 2).alpha() == 0


def test_the_figure_on_the_screen_takes_the_exported_size_and_can_be_undone(hands, dialog):
    dialog.size_fields.width_.setValue(12)
    dialog.size_fields.height_.setValue(12)
    export(dialog)
    scene = hands.window.figure.stage.canvas.scene
    assert scene.width == pytest.approx(scene.height)
    assert hands.window.menus.undo.iconText() == "Undo Figure size 12x12cm"
    hands.press("Ctrl+Z")
    assert hands.recipe.page.size is None


def test_a_folder_that_cannot_be_written_is_told_and_the_dialog_stays(hands, dialog, tmp_path):
    dialog.path.setText(str(tmp_path / "nowhere" / "a.png"))
    export(dialog)
    assert dialog.isVisible()
    assert "no folder" in dialog.fault.text()
    dialog.path.setText(str(tmp_path / "a"))
    export(dialog)
    assert (tmp_path / "a.png").exists()


@pytest.mark.parametrize(
    ("path", "size", "words"),
    [
        ("", 16, "Name a file"),
        ("x.png", 0.5, "too small"),
        ("x.png", 9000, "too small or too large"),
    ],
)
def test_what_cannot_be_exported_is_told(hands, dialog, path, size, words):
    dialog.path.setText(path)
    dialog.size_fields.width_.setValue(size)
    export(dialog)
    assert dialog.isVisible()
    assert words in dialog.fault.text()


def test_a_large_picture_is_written_aside_with_progress_and_can_be_stopped(
    hands, dialog, tmp_path, monkeypatch
):
    monkeypatch.setattr(exports, "_AT_ONCE_PIXELS", 1_000_000)
    monkeypatch.setattr(paint_export, "_BAND_PIXELS", 100_000)
    at_once = tmp_path / "at-once.png"
    paint_export.write_figure(build(hands.readings, measure, dpi=300), at_once)
    export(dialog, stopped=True)
    assert dialog.progress.isVisible()
    assert not dialog.export_button.isEnabled()
    assert not dialog.path.isEnabled()
    dialog.reject()
    assert "was stopped" in dialog.fault.text()
    assert dialog.isVisible()
    assert Task.wait_for_all(20)
    hands.qtbot.wait(20)
    assert os.listdir(tmp_path) == ["at-once.png"]
    export(dialog)
    aside = QImage(str(tmp_path / "two-harvests-hide-in-saltmere.png"))
    assert aside == QImage(str(at_once))  # the same pixels, band by band in a thread


def test_a_picture_never_goes_over_the_data(hands, tmp_path):
    path = tmp_path / "catch.png"
    path.write_text("v\n1\n2\n3\n")
    hands.open(path)
    hands.press("Ctrl+Shift+E")
    dialog = hands.window.findChild(ExportDialog)
    dialog.path.setText(str(path))
    export(dialog)
    assert "holds the data or the recipe" in dialog.fault.text()
    assert path.read_text().startswith("v")


def test_nothing_else_goes_over_the_data_or_a_table_that_is_joined(hands, tmp_path):
    data, joined = tmp_path / "catch.csv", tmp_path / "sites.csv"
    data.write_text("site,v\n" + "".join(f"{i % 3},{i}.5\n" for i in range(30)))
    joined.write_text("site,depth\n0,3\n1,5\n2,9\n")
    kept = [path.read_bytes() for path in (data, joined)]
    hands.open(data)
    hands.window.session.rows.prepare("Join", Join(file=str(joined), keys=("site",)))
    hands.qtbot.waitUntil(lambda: hands.window.session.document.steps != (), timeout=5_000)
    hands.press("Ctrl+Alt+M")
    many = hands.window.findChild(ManyDialog)
    many.numbers.setChecked(True)
    many.path.setText(str(tmp_path / "catch.pdf"))
    assert many.remark.text() == "catch.csv is there already and will be replaced."
    QTest.mouseClick(many.make_button, Qt.MouseButton.LeftButton)
    assert many.fault.text().startswith("catch.csv holds the data")
    many.reject()
    tables = TablesDialog(offered_tables(hands.window.session), tmp_path, "f", hands.window,
                          hands.window.filing._not_over())  # fmt: skip
    tables.save_to(joined)
    assert tables.fault.text().startswith("sites.csv holds the data")
    assert [path.read_bytes() for path in (data, joined)] == kept


def test_a_picture_too_large_to_paint_is_refused_before_it_is_begun(hands, dialog):
    dialog.size_fields.width_.setValue(120)
    dialog.size_fields.height_.setValue(120)
    dialog.dpi.setValue(600)
    export(dialog)
    assert "at most 250,000,000" in dialog.fault.text()


def test_several_formats_and_sizes_are_written_at_once(hands, dialog, tmp_path):
    for tick in (dialog.also_formats["svg"], dialog.also_sizes["slide"]):
        QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
    export(dialog)
    stem = "two-harvests-hide-in-saltmere"
    names = [f"{stem}{size}.{ending}" for size in ("", "-slide") for ending in ("png", "svg")]
    assert sorted(os.listdir(tmp_path)) == sorted(names)
    slide = QImage(str(tmp_path / f"{stem}-slide.png"))
    assert slide.width() == round(25.4 / 2.54 * 300)
    assert b'width="254mm"' in (tmp_path / f"{stem}-slide.svg").read_bytes()
    assert "and 3 beside it" in hands.window.statusBar().currentMessage()


def test_the_last_export_is_one_key_away(hands, dialog, tmp_path):
    choose(dialog, "svg")
    dialog.letters.setCurrentIndex(dialog.letters.findData("outlines"))
    export(dialog)
    before = (tmp_path / "two-harvests-hide-in-saltmere.svg").read_bytes()
    hands.window.session.ask("Title", hands.recipe.worded(title="Again"))
    hands.press("Ctrl+Alt+E")
    written = (tmp_path / "again.svg").read_bytes()
    assert b"<text" not in written
    assert written != before
    assert "Figure written to" in hands.window.statusBar().currentMessage()


def test_a_large_export_is_repeated_with_its_progress(hands, dialog, tmp_path, monkeypatch):
    export(dialog)
    hands.window.session.ask("Title", hands.recipe.worded(title="Again"))
    monkeypatch.setattr(exports, "_AT_ONCE_PIXELS", 1_000_000)
    hands.press("Ctrl+Alt+E")
    again = hands.window.findChildren(ExportDialog)[-1]
    assert again.progress.isVisible()
    with hands.qtbot.waitSignal(again.accepted, timeout=20_000):
        pass
    assert (tmp_path / "again.png").exists()


def test_what_would_be_replaced_is_told_before(hands, dialog, tmp_path):
    assert not dialog.remark.isVisible()
    (tmp_path / "two-harvests-hide-in-saltmere.svg").write_text("mine")
    choose(dialog, "svg")
    assert "harvests-hide-in-saltmere.svg is there already and will be replaced" in (
        dialog.remark.text()
    )
    (tmp_path / "two-harvests-hide-in-saltmere-slide.svg").write_text("mine")
    tick = dialog.also_sizes["slide"]
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
    assert "2 of the files are there already" in dialog.remark.text()
    dialog.path.setText(str(tmp_path / "new.svg"))
    assert not dialog.remark.isVisible()


def test_an_export_that_is_stopped_says_what_had_been_written(hands, dialog, tmp_path, monkeypatch):
    tick = dialog.also_formats["svg"]
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))
    monkeypatch.setattr(exports, "_AT_ONCE_PIXELS", 0)
    begun = threading.Event()
    write = exports.write_figure

    def slowly(scene, path, dpi, transparent, report, *rest):
        if path.suffix == ".svg":
            begun.set()
            while True:
                report("Writing", None)
        write(scene, path, dpi, transparent, report, *rest)

    monkeypatch.setattr(exports, "write_figure", slowly)
    export(dialog, stopped=True)
    hands.qtbot.waitUntil(begun.is_set, timeout=20_000)
    dialog.reject()
    assert "only two-harvests-hide-in-saltmere.png had been written" in dialog.fault.text()
    assert Task.wait_for_all(20)


def test_an_exported_figure_is_opened_as_a_figure_again(hands, dialog, tmp_path):
    export(dialog)
    wanted = hands.recipe
    hands.window.session.ask("Other", hands.recipe.showing(forms=("box",)))
    hands.open(tmp_path / "two-harvests-hide-in-saltmere.png")
    assert hands.recipe.changed(page=wanted.page) == wanted
    assert hands.window.filing.recipe_path is None  # it would not be saved over the picture


def test_a_picture_without_a_recipe_is_refused_in_words(hands, tmp_path):
    image = QImage(20, 20, QImage.Format.Format_RGB32)
    image.save(str(tmp_path / "holiday.png"))
    hands.open(tmp_path / "holiday.png")
    assert "holds no recipe" in hands.refusal()


def test_the_figure_is_dragged_out_as_a_file_and_as_pixels(hands, monkeypatch):
    from PyQt6.QtGui import QDrag

    dragged = []
    monkeypatch.setattr(QDrag, "exec", lambda drag, *_: dragged.append(drag.mimeData()))
    canvas = hands.window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    margin = QPoint(round((frame.right + canvas.scene.width) / 2 * scale), 200)
    within = QPoint(200, 200)
    none, alt = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.AltModifier
    for start, keys in ((margin, none), (within, alt)):
        dragged.clear()
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, keys, start)
        assert not dragged  # not before the hand moves
        QTest.mouseMove(canvas, start + QPoint(0, 40))
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, keys, start + QPoint(0, 40))
        assert len(dragged) == 1
    (content,) = dragged
    assert content.hasImage()
    assert content.hasFormat("image/svg+xml")
    assert QImage(content.urls()[0].toLocalFile()).width() > 1000


def test_common_sizes_fill_the_fields(hands, dialog):
    row = next(
        r
        for r in range(dialog.size_fields.common.count())
        if "slide" in dialog.size_fields.common.itemText(r)
    )
    dialog.size_fields.common.setCurrentIndex(row)
    dialog.size_fields.common.activated.emit(row)
    assert (dialog.size_fields.width_.value(), dialog.size_fields.height_.value()) == (25.4, 14.3)


def test_the_ending_that_is_typed_is_the_format(hands, dialog, tmp_path):
    wanted = tmp_path / "shells.svg"
    dialog.path.setFocus()
    dialog.path.selectAll()
    QTest.keyClicks(dialog.path, str(wanted))
    assert dialog.format == "svg"
    QTest.mouseClick(dialog.export_button, Qt.MouseButton.LeftButton)
    assert dialog.all_written == [wanted]
    assert wanted.read_bytes().startswith(b"<?xml")


@pytest.mark.parametrize("unit", ["cm", "px"])
def test_each_file_that_is_opened_again_is_as_large_as_it_was(hands, dialog, tmp_path, unit):
    dialog.path.setText(str(tmp_path / "shells.svg"))
    dialog.format_buttons["svg"].click()
    if unit == "px":
        dialog.size_fields.unit.setCurrentText("px")
        dialog.size_fields.unit.activated.emit(dialog.size_fields.unit.currentIndex())
        dialog.dpi.setValue(300)
    dialog.size_fields.width_.setValue(10 if unit == "cm" else 1181.1)
    dialog.size_fields.height_.setValue(7 if unit == "cm" else 826.8)
    dialog.also_sizes["one column"].setChecked(True)
    dialog.also_formats["png"].setChecked(True)
    QTest.mouseClick(dialog.export_button, Qt.MouseButton.LeftButton)
    assert len(dialog.all_written) == 4
    for name, width, height in (("shells", 10, 7), ("shells-one-column", 8.5, 6.5)):
        for ending in ("svg", "png"):
            recipe = read_recipe(recipe_in(tmp_path / f"{name}.{ending}"))
            size = Size.parse(recipe.page.size)
            assert (size.width, size.height, size.unit) == (
                pytest.approx(width, abs=0.02), pytest.approx(height, abs=0.02), "cm",
            )  # fmt: skip
    before = hands.recipe
    hands.open(tmp_path / "shells.svg")
    assert hands.recipe == before
