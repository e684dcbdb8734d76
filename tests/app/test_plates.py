"""Figures set together on one page: aligned, lettered, dragged, kept in the work and exported."""

import itertools

import pytest
from pypdf import PdfReader
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from rhabdos.app.leaving.plate_dialog import PlateDialog
from rhabdos.app.session.tasks import Task
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.recipe.plate import Plate
from rhabdos.paint.fonts import measure
from rhabdos.project.work_file import WorkFile, read_work_file, write_work_file
from rhabdos.scene import plate as module
from rhabdos.scene.build import build
from rhabdos.scene.marks import Path, Segments, Swatch, Text
from rhabdos.scene.plate import plate_scene

LEFT = Qt.MouseButton.LeftButton


def words(scene):
    return [mark.text for mark in scene.marks if isinstance(mark, Text)]


@pytest.fixture
def figures(hands):
    session = hands.window.session
    session.figures.add()
    session.ask(
        "Boxes", session.recipe.showing(variables=("Wet mass",), split=("Bay",), forms=("box",))
    )
    session.figures.add()
    session.ask("Curve", session.recipe.showing(split=("Bay",), forms=("curve",)))
    session.figures.add()
    session.ask(
        "Outline",
        session.recipe.showing(variables=("Salinity",), split=("Season",), forms=("outline",)),
    )
    readings = []
    for at in range(4):
        session.figures.show(at)
        readings.append(session.readings)
    return readings


def test_frames_lie_in_line_in_each_column_and_row(figures):
    plate = Plate((0, 1, 2, 3), 2, "24x17cm", title="All")
    places = module._places(plate, 680.0, 30.0, 480.0)
    aligned = module._aligned(plate, figures, places, measure)
    edges = [module._edges(scene, inner) for inner, scene in aligned]
    for first, second in ((0, 2), (1, 3)):
        assert edges[first][0] == pytest.approx(edges[second][0], abs=0.5)
        assert edges[first][2] == pytest.approx(edges[second][2], abs=0.5)
    for first, second in ((0, 1), (2, 3)):
        assert edges[first][1] == pytest.approx(edges[second][1], abs=0.5)
        assert edges[first][3] == pytest.approx(edges[second][3], abs=0.5)
    for (inner, _), place in zip(aligned, places, strict=True):
        assert inner.left >= place.left - 0.01
        assert inner.left + inner.width <= place.left + place.width + 0.01


def test_nothing_is_drawn_outside_its_place_or_lost(figures):
    plate = Plate((0, 1, 2, 3), 2, "26x19cm", legend="own")
    drawn = plate_scene(plate, figures, measure)
    page = drawn.scene
    for at, letter in enumerate("ABCD"):
        place = drawn.places[at]
        own = [m for m in page.marks if m.meaning and m.meaning.part.startswith(f"{letter} ")]
        assert own
        for mark in own:
            if isinstance(mark, Text | Swatch):
                assert place.left - 1 <= mark.x <= place.left + place.width + 1
                assert place.top - 1 <= mark.y <= place.top + place.height + 1
    told = words(page)
    for readings in figures:
        assert set(words(build(readings, measure))) & set(told)
    assert [text for text in told if text in "ABCD"] == list("ABCD")
    assert page.describe().count(": ") >= 4


def test_larger_letters_of_a_figure_have_larger_lines_on_a_page(hands, figures):
    def largest(letters):
        recipe = figures[0].recipe.looking(letters=letters)
        readings = read(recipe, figures[0].gathered)
        page = plate_scene(Plate((0,), 1, "26x19cm"), [readings], measure).scene
        strokes = [
            max(m.width for m in page.marks if isinstance(m, kind)) for kind in (Path, Segments)
        ]
        words = [m.size for m in page.marks if isinstance(m, Text) and m.meaning.part != "letter"]
        return [*strokes, max(words)]

    assert largest(1.5) == pytest.approx([1.5 * usual for usual in largest(1.0)])


def test_one_legend_is_told_where_it_is_the_same(figures):
    bays = figures[0], figures[2]
    shown = {
        legend: words(plate_scene(Plate((0, 1), 2, "26x10cm", legend=legend), bays, measure).scene)
        for legend in ("one", "own")
    }

    def told(legend):
        return sum("Heron Sound" in text for text in shown[legend])

    assert told("one") == 1
    assert told("own") == 2
    others = figures[0], figures[3]  # other groups keep their own
    scene = plate_scene(Plate((0, 1), 2, "26x10cm"), others, measure).scene
    assert {"Heron Sound", "Spring"} <= {text.partition("  ")[0] for text in words(scene)}


def test_a_page_too_small_is_refused_and_shares_move_the_places(figures):
    with pytest.raises(Refusal, match="too little room"):
        plate_scene(Plate((0, 1, 2, 3), 4, "8x4cm"), figures, measure)
    even = plate_scene(Plate((0, 1), 2, "24x10cm"), figures[:2], measure).places
    wide = plate_scene(Plate((0, 1), 2, "24x10cm", widths=(3.0, 1.0)), figures[:2], measure).places
    assert even[0].width == pytest.approx(even[1].width)
    assert wide[0].width == pytest.approx(3 * wide[1].width)
    assert wide[0].width + wide[1].width == pytest.approx(even[0].width * 2)


class OnPage:
    def __init__(self, hands):
        self.hands, self.session = hands, hands.window.session
        hands.press("Ctrl+Alt+L")
        self.dialog = next(d for d in hands.window.findChildren(PlateDialog) if d.isVisible())

    def drag(self, start, end):
        page = self.dialog.page
        QTest.mousePress(page, LEFT, pos=start)
        for share in (0.3, 0.7, 1.0):
            QTest.mouseMove(page, start + (end - start) * share)
        QTest.mouseRelease(page, LEFT, pos=end)

    def middle(self, at):
        return self.dialog.page.rect_of(at).center().toPoint()


@pytest.mark.parametrize(("columns", "gap"), [(3, 0), (3, 1), (1, 0), (1, 2), (2, 0)])
def test_a_gap_is_dragged_between_the_two_beside_it(hands, figures, columns, gap):
    on_page = OnPage(hands)
    dialog = on_page.dialog
    dialog.columns.setValue(columns)
    hands.qtbot.waitUntil(lambda: dialog.page._plate == dialog.plate())
    across, before = columns > 1, dialog.plate()
    rects = [dialog.page.rect_of(at) for at in range(4)]
    first, second = rects[gap], rects[gap + 1]
    middle = QPointF((first.right() + second.left()) / 2, first.center().y())
    if not across:
        middle = QPointF(first.center().x(), (first.bottom() + second.top()) / 2)
    to = middle.toPoint() + (QPoint(15, 0) if across else QPoint(0, 9))
    on_page.drag(middle.toPoint(), to)
    was, now = (plate.across if across else plate.down for plate in (before, dialog.plate()))
    begins, ends = (first.left(), second.right()) if across else (first.top(), second.bottom())
    share = ((to.x() if across else to.y()) - begins) / (ends - begins)
    both = was[gap] + was[gap + 1]
    assert now[gap] == pytest.approx(share * both, abs=1e-3)
    assert now[gap + 1] == pytest.approx((1 - share) * both, abs=1e-3)
    others = slice(0, gap), slice(gap + 2, None)
    assert [now[at] for at in others] == [pytest.approx(was[at], abs=1e-3) for at in others]
    dialog.reject()


def test_a_page_is_arranged_by_hand_kept_in_the_work_and_opened_again(hands, figures, tmp_path):
    on_page = OnPage(hands)
    dialog = on_page.dialog
    assert dialog.plate().figures == (0, 1, 2, 3)
    on_page.drag(on_page.middle(0), on_page.middle(3))
    assert dialog.plate().figures == (3, 1, 2, 0)
    first, second = dialog.page.rect_of(0), dialog.page.rect_of(1)
    gap = QPoint(round((first.right() + second.left()) / 2), round(first.center().y()))
    on_page.drag(gap, gap - QPoint(80, 0))
    assert dialog.plate().across[0] < 0.45
    dialog.list.item(1).setCheckState(Qt.CheckState.Unchecked)
    QTest.keyClicks(dialog.title, "Together")
    dialog.letters.click()
    hands.qtbot.waitUntil(lambda: dialog.drawn.scene.title == "Together", timeout=2_000)
    assert len(dialog.drawn.places) == 3
    assert "A" not in words(dialog.drawn.scene)
    QTest.mouseClick(dialog.keep, LEFT)
    document = on_page.session.document
    (plate,) = document.plates
    assert plate.figures == (3, 2, 0)
    assert (plate.title, plate.letters) == ("Together", False)
    assert "the pages" in hands.window.windowTitle()
    work = WorkFile(figures=document.figures, plates=document.plates)
    assert read_work_file(write_work_file(work), "w").plates == document.plates
    assert "figures = [\n    4,\n    3,\n    1,\n]" in write_work_file(work)
    on_page.session.figures.remove(0)
    assert on_page.session.document.plates[0].figures == (2, 1)
    hands.press("Ctrl+Z")
    again = OnPage(hands)
    assert again.dialog.plate() == plate
    again.dialog.reject()
    hands.press("Ctrl+Z")
    assert on_page.session.document.plates == ()


def test_a_page_is_exported_in_its_size_with_all_words(hands, figures, tmp_path, monkeypatch):
    on_page = OnPage(hands)
    on_page.dialog.size_fields.width_.setValue(25)
    on_page.dialog.size_fields.height_.setValue(20)
    for ending in ("pdf", "svg", "png"):
        target = tmp_path / f"page.{ending}"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, t=target: (str(t), ""))
        QTest.mouseClick(on_page.dialog.export, LEFT)
        assert target.exists(), on_page.dialog.fault.text()
    (page,) = PdfReader(tmp_path / "page.pdf").pages
    assert float(page.mediabox.width) == pytest.approx(25 / 2.54 * 72, abs=1)
    text = " ".join(page.extract_text().split())
    for word in ("Two harvests hide in Saltmere", "Wet mass (g)", "Salinity", "Spring"):
        assert word in text
    svg = (tmp_path / "page.svg").read_text()
    assert all(f">{letter}<" in svg for letter in "ABCD")
    on_page.dialog.reject()


def test_pages_of_a_work_are_refused_where_they_name_no_figure():
    base = "rhabdos-work = 1\n[[figure]]\nshow.variables = ['x']\n[[page]]\n"
    for text, told in (
        ("figures = [2]", "names figures that are none of its 1"),
        ("figures = []", "A page holds 1 to 26 figures"),
        ("figures = [1]\nsize = 'big'", "is no size"),
        ("figures = [1]\ncolumns = 0", "page 1: columns is 0"),
        ("figures = [1]\nwidths = [0.0]", "above 0"),
        ("figures = [1]\nfoo = 1", "foo"),
    ):
        with pytest.raises(Refusal) as refused:
            read_work_file(base + text, "w")
        assert told in str(refused.value)


def test_shares_add_up_whatever_is_asked():
    for count, columns in itertools.product(range(1, 9), range(1, 6)):
        plate = Plate(tuple(range(count)), columns, widths=(2.0, 1.0, 5.0), heights=(1.0, 7.0))
        assert sum(plate.across) == pytest.approx(1)
        assert sum(plate.down) == pytest.approx(1)
        assert len(plate.across) * plate.rows >= count


def test_of_many_rows_figures_are_sorted_aside_one_after_the_other(hands, figures, monkeypatch):
    monkeypatch.setattr("rhabdos.app.session.reaching.AT_ONCE_ROWS", 10)
    store = hands.window.session.store
    store._samples.clear()  # as if they had been let go for others
    monkeypatch.setattr("rhabdos.project.store._KEPT_VALUES", 1)  # each pushes the others out
    dialog = OnPage(hands).dialog
    assert dialog.page._words == "Sorting the values of figure 1 …"
    assert not dialog.export.isEnabled()
    hands.qtbot.waitUntil(lambda: dialog.drawn is not None, timeout=10_000)
    drawn, whole = dialog.drawn, plate_scene(dialog.plate(), figures, measure)
    assert words(drawn.scene) == words(whole.scene)
    assert len(whole.places) == 4
    assert dialog.export.isEnabled()


def test_a_page_that_is_set_anew_sorts_nothing_twice(hands, figures, monkeypatch):
    monkeypatch.setattr("rhabdos.app.session.reaching.AT_ONCE_ROWS", 10)
    hands.window.session.store._samples.clear()
    begun, task = [], Task

    def counted(*words):
        begun.append(words)
        return task(*words)

    monkeypatch.setattr("rhabdos.app.leaving.plate_dialog.Task", counted)
    dialog = OnPage(hands).dialog
    for _ in range(5):
        dialog.set_anew()
    assert len(begun) == 1
    hands.qtbot.waitUntil(lambda: dialog.drawn is not None, timeout=10_000)
    assert len(begun) <= 4
