"""Files through the window: recipes saved and opened, odd and bad data, undoing an opening."""

import gc
import weakref

import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog, QMessageBox, QTextBrowser

from rhabdos.app.leaving.export_dialog import ExportDialog
from rhabdos.app.session.saving import save_recipe
from rhabdos.app.shell.window import Window
from rhabdos.data.steps.sources import Values
from rhabdos.figure.forms.bars import bars
from rhabdos.figure.recipe.toml_text import read_recipe


def test_a_recipe_is_saved_and_opened_again(hands, tmp_path):
    hands.click_variable("Wet mass")
    hands.window.choose_phrase("bins")
    hands.type_into(hands.window.figure.side.panel("bins").widgets["Width"], "20")
    path = tmp_path / "mass.toml"
    assert save_recipe(hands.window.session, path)
    assert read_recipe(path.read_text()) == hands.recipe
    saved = hands.recipe
    hands.click_variable("Salinity")
    hands.window.filing.open(path)
    assert hands.recipe == saved


@pytest.mark.parametrize(
    ("answer", "closed", "stored"),
    [("Save", True, True), ("Discard", True, False), ("Cancel", False, False)],
)
def test_closing_asks_about_a_recipe_that_was_changed_after_saving(
    hands, tmp_path, monkeypatch, answer, closed, stored
):
    path = tmp_path / "mass.toml"
    hands.click_variable("Wet mass")
    assert save_recipe(hands.window.session, path)
    hands.window.filing.open(path)
    asked = []
    button = getattr(QMessageBox.StandardButton, answer)
    monkeypatch.setattr(QMessageBox, "exec", lambda box: asked.append(box.text()) or button)
    assert hands.window.filing.may_close()
    assert not asked
    hands.click_variable("Salinity")
    assert hands.window.close() is closed
    assert "mass.toml" in asked[0]
    assert (read_recipe(path.read_text()).show.variables == ("Salinity",)) is stored


@pytest.mark.parametrize("name", ["mass.toml", "mass.rhabdos"])
def test_a_file_that_another_window_saved_is_not_replaced_without_asking(
    hands, tmp_path, monkeypatch, name
):
    path, filing = tmp_path / name, hands.window.filing
    hands.click_variable("Wet mass")
    filing._save(path)
    asked, answers = [], iter(("Cancel", "Save"))
    monkeypatch.setattr(
        QMessageBox,
        "exec",
        lambda box: asked.append(box.text()) or getattr(QMessageBox.StandardButton, next(answers)),
    )
    hands.click_variable("Salinity")
    filing.save()  # over what this window itself saved
    assert not asked
    other = path.read_text().replace("Salinity", "Grit")
    path.write_text(other)
    hands.click_variable("Shell length")
    filing.save()
    assert path.read_text() == other
    assert filing.unsaved.words()
    filing.save()
    assert "Shell length" in path.read_text()
    assert [text.startswith(f"{name} was changed since") for text in asked] == [True, True]
    path.unlink()
    hands.click_variable("Grit")
    filing.save()
    assert "Grit" in path.read_text()
    assert len(asked) == 2


def test_a_recipe_draws_another_file_with_those_variables(empty, tmp_path, pytestconfig):
    empty.open(pytestconfig.rootpath / "demo" / "oyster-landings.csv")
    empty.window.filing.open(pytestconfig.rootpath / "demo" / "two-harvests.toml")
    assert empty.sentence().startswith("Shell length of every row that has one, split by Bay")
    assert [g.n for g in empty.readings.groups] == [820, 817, 776]


def test_a_recipe_for_other_variables_is_refused_by_name(hands, tmp_path):
    path = tmp_path / "r.toml"
    path.write_text('rhabdos = 1\n[show]\nvariables = ["Pearl size"]\n')
    hands.window.filing.open(path)
    assert "no variable “Pearl size”" in hands.refusal()


def drop(window, path):
    content = QMimeData()
    content.setUrls([QUrl.fromLocalFile(str(path))])
    place, copy = QPointF(300, 300), Qt.DropAction.CopyAction
    entered = QDragEnterEvent(
        place.toPoint(), copy, content, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )
    window.dragEnterEvent(entered)
    assert entered.isAccepted()
    window.dropEvent(
        QDropEvent(place, copy, content, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
    )


def test_a_file_is_opened_by_dropping_it(empty, tmp_path):
    path = tmp_path / "catch.csv"
    path.write_text("mass_g,site\n" + "".join(f"{40 + i % 17},{'AB'[i % 2]}\n" for i in range(200)))
    drop(empty.window, path)
    empty.qtbot.waitUntil(lambda: empty.readings is not None, timeout=10_000)
    assert empty.sentence().startswith("Mass of every row, all together")
    assert empty.window.figure.stage.canvas.isVisible()


BAD = {"nothing": b"", "names only": b"a,b\n", "binary": bytes(range(256)) * 9}


@pytest.mark.parametrize("case", BAD)
def test_a_bad_file_is_refused_and_the_figure_stays(hands, tmp_path, case):
    before = hands.recipe
    path = tmp_path / "bad.csv"
    path.write_bytes(BAD[case])
    hands.open(path)
    assert "bad.csv" in hands.refusal()
    assert hands.recipe == before
    assert hands.window.figure.stage.canvas.isVisible()


def test_a_file_that_vanishes_is_refused(hands, tmp_path):
    hands.open(tmp_path / "gone.csv")
    assert "There is no file" in hands.refusal()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ("name,place\nA,B\nC,B\n", "no numeric variable"),
        ("a,b\n,x\n,y\n", "no numeric variable with a value"),
    ],
)
def test_a_file_with_nothing_to_draw_says_so_and_lists_what_it_has(empty, tmp_path, content, words):
    path = tmp_path / "text.csv"
    path.write_text(content)
    empty.open(path)
    assert words in empty.window.figure.stage.welcome.how.text()
    assert empty.window.figure.variables.model.rowCount() >= 2
    assert not empty.window.menus.export.isEnabled()


ODD = {
    "one value": "v\n3\n",
    "all equal": "v\n" + "7.5\n" * 30,
    "the ends of the range": "v\n1e308\n1e-308\n5e307\n",
    "with infinities": "v\ninf\n1\n2\n-inf\n",
    "one row of many": ",".join(f"v{i}" for i in range(1000))
    + "\n"
    + ",".join(["1.5"] * 1000)
    + "\n",
}


@pytest.mark.parametrize("case", ODD)
def test_odd_but_honest_data_are_drawn(empty, tmp_path, case):
    path = tmp_path / "odd.csv"
    path.write_text(ODD[case])
    empty.open(path)
    assert empty.readings is not None
    assert sum(g.counts.sum() for g in bars(empty.readings)) == empty.readings.samples.pooled.n
    empty.window.grab()


def test_values_too_far_apart_are_refused_but_the_table_is_there(empty, tmp_path):
    path = tmp_path / "far.csv"
    path.write_text("v,w\n1e308,1\n-1e308,2\n")
    empty.open(path)
    assert "too far apart" in empty.refusal()
    assert "Choose a variable" in empty.window.figure.stage.welcome.how.text()
    empty.click_variable("w")
    assert empty.sentence().startswith("w of every row")


def test_undoing_an_opening_brings_the_former_figure_back(hands, tmp_path):
    before = hands.recipe
    path = tmp_path / "a.csv"
    path.write_text("v\n1\n2\n")
    hands.open(path)
    assert hands.window.menus.undo.iconText() == "Undo Open a.csv"
    hands.press("Ctrl+Z")
    assert hands.recipe == before
    assert hands.window.windowTitle().startswith("Oyster landings")
    assert hands.window.figure.variables.title.text() == "Oyster landings"


def test_a_file_that_changed_is_read_anew_and_undo_shows_it_as_it_was(empty, tmp_path):
    path = tmp_path / "catch.csv"
    path.write_text("v\n1\n2\n3\n")
    empty.open(path)
    shown = []
    empty.window.session.table_changed.connect(
        lambda: shown.append(empty.window.session.table.rows)
    )
    path.write_text("v\n1\n2\n3\n8\n")
    empty.open(path)
    assert shown == [4]
    assert empty.readings.samples.pooled.n == 4
    assert "4 rows" in empty.window.figure.variables.size_line.text()
    empty.press("Ctrl+Z")
    assert empty.readings.samples.pooled.n == 3
    empty.press("Ctrl+Shift+Z")
    assert empty.readings.samples.pooled.n == 4


def test_what_no_step_leads_back_to_is_let_go(empty, tmp_path):
    path = tmp_path / "catch.csv"
    path.write_text("v\n1\n2\n3\n")
    empty.open(path)
    first = weakref.ref(empty.window.session.table.columns[0].values)
    empty.open(path)
    empty.press("Ctrl+Z")
    empty.press("Ctrl+Z")
    path.write_text("w\n5\n6\n")
    empty.open(path)  # a new step: the two openings that were undone are gone
    gc.collect()
    assert first() is None


def test_the_recipe_never_goes_over_the_data(hands, tmp_path, monkeypatch):
    path = tmp_path / "catch.csv"
    path.write_text("v\n1\n2\n3\n")
    hands.open(path)
    monkeypatch.setattr("PyQt6.QtWidgets.QFileDialog.getSaveFileName", lambda *_: (str(path), ""))
    hands.press("Ctrl+S")
    assert "holds the data of this figure" in hands.refusal()
    assert path.read_text().startswith("v\n1")


def test_boxes_and_dialogs_are_gone_when_they_are_closed(hands, tmp_path):
    for _ in range(3):
        hands.open(tmp_path / "gone.csv")
        hands.refusal()
        hands.press("F1")
        QTest.keyClick(hands.window.findChild(QTextBrowser).window(), Qt.Key.Key_Escape)
        hands.press("Ctrl+Shift+E")
        hands.window.findChild(ExportDialog).reject()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert hands.window.findChildren(QDialog) == []


def test_a_pipe_without_a_writer_does_not_hold_the_window(hands, tmp_path):
    import os

    os.mkfifo(tmp_path / "pipe")
    hands.window.filing.open(tmp_path / "pipe")
    assert hands.window.progress.isVisible()
    QTest.mouseClick(hands.window.progress.cancel_button, Qt.MouseButton.LeftButton)
    assert not hands.window.progress.isVisible()
    assert hands.window.session.finish()


# A recipe alone, and other data for a figure


def month(path, rows=60, columns="Mass,Site"):
    lines = [f"{40 + i * 7 % 23},{'AB'[i % 2]}" for i in range(rows)]
    path.write_text("\n".join([columns, *lines]))
    return path


def mass_recipe(path):
    path.write_text(
        'rhabdos = 1\n[show]\nvariables = ["Mass"]\nsplit = ["Site"]\n[bins]\nwidth = 5.0\n'
    )
    return path


def choosing(monkeypatch, *answers):
    """What the dialogs that ask for a file are answered; returns their titles."""
    left, titles = list(answers), []

    def ask(_parent, title, *_more):
        titles.append(title)
        return (str(left.pop(0)) if left else "", "")

    monkeypatch.setattr(QFileDialog, "getOpenFileName", ask)
    return titles


def idle(hands):
    hands.qtbot.waitUntil(lambda: not hands.window.session.runner.running(), timeout=20_000)


def test_a_recipe_alone_asks_for_its_data_once_and_remembers_them(empty, tmp_path, monkeypatch):
    recipe, data = mass_recipe(tmp_path / "mass.toml"), month(tmp_path / "may.csv")
    titles = choosing(monkeypatch, data)
    empty.window.filing.open(recipe)
    idle(empty)
    assert titles == ["Which data shall mass.toml draw?"]
    assert empty.sentence().startswith("Mass of every row, split by Site")
    assert empty.recipe == read_recipe(recipe.read_text())
    assert not empty.window.unsaved.words()
    again = Window()
    again.filing.open(recipe)
    empty.qtbot.waitUntil(lambda: again.session.readings is not None, timeout=20_000)
    assert len(titles) == 1
    assert again.session.recipe == empty.recipe
    again.close()
    again.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def test_a_recipe_that_was_opened_is_what_ctrl_s_saves_over(empty, tmp_path, monkeypatch):
    recipe, data = mass_recipe(tmp_path / "mass.toml"), month(tmp_path / "may.csv")
    choosing(monkeypatch, data)
    empty.window.filing.open(recipe)
    idle(empty)
    empty.window.choose_phrase("bins")
    empty.type_into(empty.window.figure.side.panel("bins").widgets["Width"], "8")
    asked = []
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: asked.append(a) or ("", ""))
    empty.press("Ctrl+S")
    assert not asked
    assert read_recipe(recipe.read_text()).bins.width == 8.0


def test_a_recipe_alone_without_data_or_with_others_draws_nothing_and_says_so(
    empty, tmp_path, monkeypatch
):
    recipe = mass_recipe(tmp_path / "mass.toml")
    choosing(monkeypatch)
    empty.window.filing.open(recipe)
    assert empty.readings is None
    assert empty.window.statusBar().currentMessage().startswith("mass.toml is not drawn")
    choosing(monkeypatch, month(tmp_path / "other.csv", columns="Weight,Site"))
    empty.window.filing.open(recipe)
    idle(empty)
    assert "no variable “Mass”" in empty.refusal()
    assert empty.window.session.table is None


def test_the_same_figure_is_drawn_of_next_months_file(empty, tmp_path, monkeypatch):
    recipe = mass_recipe(tmp_path / "mass.toml")
    choosing(monkeypatch, month(tmp_path / "may.csv"), month(tmp_path / "june.csv", rows=90))
    empty.window.filing.open(recipe)
    idle(empty)
    before = empty.recipe
    empty.press("Ctrl+Shift+N")
    idle(empty)
    assert empty.recipe == before
    assert sum(g.n for g in empty.readings.groups) == 90
    assert empty.window.filing.recipe_path == recipe
    empty.press("Ctrl+Z")
    assert sum(g.n for g in empty.readings.groups) == 60


def test_a_figure_of_typed_values_is_drawn_of_a_file(empty, tmp_path, monkeypatch):
    empty.window.session.opening.open_steps("Typed", Values(text="Mass,Site\n1,a\n2,b\n4,a\n"))
    idle(empty)
    recipe = empty.recipe
    assert recipe.show.variables == ("Mass",)
    choosing(monkeypatch, month(tmp_path / "june.csv", rows=90))
    empty.press("Ctrl+Shift+N")
    idle(empty)
    assert empty.recipe == recipe
    assert sum(g.n for g in empty.readings.groups) == 90
    assert empty.window.session.document.steps == ()


def test_other_data_without_the_variables_leave_everything_as_it_was(empty, tmp_path, monkeypatch):
    empty.open(month(tmp_path / "may.csv"))
    before = empty.recipe
    choosing(monkeypatch, month(tmp_path / "june.csv", columns="Weight,Site"))
    empty.press("Ctrl+Shift+N")
    idle(empty)
    assert "no variable “Mass”" in empty.refusal()
    assert empty.recipe == before
    assert empty.window.session.table.name == "may"
