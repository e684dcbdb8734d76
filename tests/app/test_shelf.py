"""Several figures of one piece of work: the shelf, and figures beside one another."""

import pytest
from PyQt6.QtCore import QModelIndex, QPoint, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from rhabdos.app.controls import theme
from rhabdos.app.paper.reading_card import card_size
from rhabdos.app.shelf.shelf import Shelf
from rhabdos.scene.common_axes import common_axes

LEFT, NONE, CTRL = (
    Qt.MouseButton.LeftButton,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
)


class OnShelf:
    """What a hand does with the figures of a piece of work."""

    def __init__(self, hands):
        self.hands, self.window = hands, hands.window
        self.place = hands.window.figure

    @property
    def cards(self):
        return self.place.shelf.cards

    @property
    def document(self):
        return self.window.session.document

    def key(self, keys):
        self.hands.press(keys)

    def names(self):
        return [self.cards.item(at).text() for at in range(self.cards.count())]

    def click(self, at, modifiers=NONE):
        rect = self.cards.visualItemRect(self.cards.item(at))
        QTest.mouseClick(self.cards.viewport(), LEFT, modifiers, rect.topLeft() + QPoint(30, 30))

    def title(self, words):
        recipe = self.window.session.recipe
        self.window.session.ask("Title", recipe.changed(words=recipe.words.changed(title=words)))

    def undo(self):
        self.key("Ctrl+Z")


@pytest.fixture
def shelf(hands):
    return OnShelf(hands)


@pytest.fixture
def four(shelf):
    """Four figures with titles, the last in sight, each alone."""
    for at in range(4):
        if at:
            shelf.key("Ctrl+N")
        shelf.title(f"Figure {'ABCD'[at]}")
    return shelf


def test_one_figure_needs_no_shelf_and_a_second_brings_it(shelf):
    assert not shelf.place.findChildren(Shelf)
    shelf.key("Ctrl+N")
    assert shelf.place.shelf.isVisible()
    assert shelf.cards.count() == 2
    assert shelf.cards.currentRow() == 1
    assert shelf.document.shown == 1
    assert shelf.window.session.recipe.show.split == ()
    shelf.undo()
    assert not shelf.place.shelf.isVisible()
    assert len(shelf.document.figures) == 1
    assert shelf.window.session.recipe.show.split == ("Bay",)


def test_a_click_and_keys_bring_figures_in_sight_and_that_is_no_step(four):
    steps = len(four.window.session.history.past)
    four.click(1)
    assert four.document.shown == 1
    assert four.window.session.recipe.words.title == "Figure B"
    assert four.window.figure.stage.canvas.scene.title == "Figure B"
    QTest.keyClick(four.cards, Qt.Key.Key_Right)
    assert four.document.shown == 2
    four.key("Ctrl+PgDown")
    four.key("Ctrl+PgDown")
    assert four.document.shown == 0
    four.key("Ctrl+PgUp")
    assert four.document.shown == 3
    assert len(four.window.session.history.past) == steps


def test_what_is_changed_of_one_figure_leaves_the_others(four):
    four.click(0)
    four.window.session.ask(
        "Width", four.window.session.recipe.binned(four.hands.recipe.bins.changed(width=2.0))
    )
    four.click(3)
    assert four.hands.recipe.bins.width != 2.0
    four.undo()  # leads to where it changes something
    assert four.document.shown == 0
    assert four.hands.recipe.bins.width == 4.0


def test_a_figure_is_renamed_in_place_and_a_name_taken_away_is_told_from_what_it_shows(four):
    four.click(1)
    QTest.keyClick(four.cards, Qt.Key.Key_Return)
    editor = four.cards.findChild(QLineEdit)
    editor.selectAll()
    QTest.keyClicks(editor, "  Wet   & dry ")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()
    assert four.names() == ["Figure A", "Wet & dry", "Figure C", "Figure D"]
    four.window.session.figures.rename(1, "")
    assert four.names()[1] == "Figure B"
    four.undo()
    four.undo()
    assert four.names()[1] == "Figure B"
    assert four.window.menus.redo.iconText() == "Redo Call a figure “Wet & dry”"


def test_figures_are_moved_and_taken_out_and_all_comes_back(four):
    four.click(2)
    QTest.keyClick(four.cards, Qt.Key.Key_Left, CTRL)
    assert four.names() == ["Figure A", "Figure C", "Figure B", "Figure D"]
    assert four.document.shown == 1
    QTest.keyClick(four.cards, Qt.Key.Key_Delete)
    assert four.names() == ["Figure A", "Figure B", "Figure D"]
    assert four.hands.recipe.words.title == "Figure B"
    four.key("Ctrl+Shift+W")
    four.key("Ctrl+Shift+W")
    QTest.keyClick(four.cards, Qt.Key.Key_Delete)  # the last one stays
    assert len(four.document.figures) == 1
    for _ in range(4):
        four.undo()
    assert four.names() == ["Figure A", "Figure B", "Figure C", "Figure D"]


@pytest.mark.parametrize(("start", "to"), [(0, 1), (0, 3), (3, 0), (2, 1), (1, 2)])
def test_a_card_that_is_dragged_takes_its_figure_along(four, start, to):
    expected = four.names()
    expected.insert(to, expected.pop(start))
    figures = [figure.recipe for figure in four.document.figures]
    figures.insert(to, figures.pop(start))
    model, top = four.cards.model(), QModelIndex()
    assert model.moveRow(top, start, top, to + 1 if to > start else to)  # as a drop does
    QApplication.processEvents()
    assert four.names() == expected
    assert [figure.recipe for figure in four.document.figures] == figures


def test_the_menu_of_a_card_offers_what_can_be_done_with_it_and_does_it(four):
    can = [
        {deed.text(): deed.isEnabled() for deed in four.cards.deeds(at).actions()}
        for at in range(4)
    ]
    shown = four.document.shown
    assert [menu["Beside this one"] for menu in can] == [at != shown for at in range(4)]
    assert [menu["Move to the left"] for menu in can] == [False, True, True, True]
    assert [menu["Move to the right"] for menu in can] == [True, True, True, False]
    assert all(menu["Rename"] and menu["Take it out"] for menu in can)
    first, second, third, fourth = four.names()
    for at, words, after in (
        (1, "Move to the left", [second, first, third, fourth]),
        (1, "Move to the right", [second, third, first, fourth]),
        (3, "Take it out", [second, third, first]),
    ):
        deeds = four.cards.deeds(at).actions()
        next(deed for deed in deeds if deed.text() == words).trigger()
        assert four.names() == after


def test_pictures_are_those_of_the_figures_and_follow_a_change(four):
    def pictures():
        return [four.cards.item(at).icon() for at in range(4)]

    four.hands.qtbot.waitUntil(lambda: not any(p.isNull() for p in pictures()), timeout=4_000)
    before = [icon.pixmap(96, 62).toImage() for icon in pictures()]
    assert before[0] != before[1]
    assert before[1] == before[2]  # the titles are not in them
    four.window.session.ask("Boxes", four.hands.recipe.showing(forms=("box",)))
    four.hands.qtbot.waitUntil(
        lambda: four.cards.item(3).icon().pixmap(96, 62).toImage() not in before, timeout=4_000
    )
    assert [icon.pixmap(96, 62).toImage() for icon in pictures()[:3]] == before[:3]


def test_one_key_keeps_the_figure_and_goes_on_in_a_copy_beside_it(shelf):
    before = shelf.hands.recipe
    canvas = shelf.place.stage.canvas
    canvas.setFocus()
    shelf.key("Ctrl+Shift+D")
    assert shelf.document.beside == (0, 1)
    assert canvas.isAncestorOf(shelf.window.focusWidget()) or canvas is shelf.window.focusWidget()
    (paper,) = shelf.place.beside.papers
    assert (
        shelf.place.beside.told.text()
        == "One value axis and one scale of heights · no difference yet"
    )
    shelf.window.session.ask("Width", before.binned(before.bins.changed(width=2.0)))
    assert shelf.document.figures[0].recipe == before
    told = shelf.place.beside.told.text()
    assert "differs in bins (4 mm wide from 40, 2 mm wide from 40)" in told
    mine, other = shelf.place.stage.canvas.scene.frame, paper.canvas.scene.frame
    assert (mine.low, mine.high) == (other.low, other.high)
    tops = {frame.lanes[0].heights[0].band.tallest for frame in (mine, other)}
    assert len(tops) == 1
    assert paper.canvas.geometry().top() == shelf.place.stage.canvas.geometry().top()


def test_axes_are_shared_only_where_they_measure_the_same(shelf):
    session = shelf.window.session
    shelf.key("Ctrl+Shift+D")
    session.ask("Density", shelf.hands.recipe.showing(heights="density"))
    assert shelf.place.beside.told.text().startswith("One value axis · differs in heights")
    shelf.hands.click_variable("Wet mass")
    assert shelf.place.beside.told.text().startswith("Axes of their own · differs in variable")
    (paper,) = shelf.place.beside.papers
    assert paper.canvas.scene.frame.high < 150 < shelf.place.stage.canvas.scene.frame.high


def test_the_pointer_reads_all_that_stand_beside_one_another(shelf):
    shelf.key("Ctrl+Shift+D")
    shelf.window.session.ask("Curve", shelf.hands.recipe.showing(forms=("curve",)))
    (paper,) = shelf.place.beside.papers
    QApplication.processEvents()  # which gives each its place
    canvas = shelf.place.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    x = frame.along(70.0)
    QTest.mouseMove(canvas, QPoint(round(x * scale), round(frame.top * scale) + 40))
    assert "curve" in canvas.card().title.lower()
    assert paper.canvas.card().title == "68 to under 72 mm"
    QTest.mouseMove(canvas, QPoint(2, 2))
    assert paper.canvas.card() is None


def test_both_are_kept_or_one_is_taken(shelf):
    shelf.key("Ctrl+Shift+D")
    shelf.title("Tried")
    QTest.mouseClick(shelf.place.beside.keep, LEFT)
    assert shelf.document.beside == ()
    assert not shelf.place.beside.papers
    assert len(shelf.document.figures) == 2
    shelf.key("Ctrl+Alt+D")
    assert shelf.document.beside == (0, 1)
    QTest.mouseClick(shelf.place.beside.take, LEFT)
    assert [figure.recipe.words.title for figure in shelf.document.figures] == ["Tried"]
    shelf.undo()
    assert len(shelf.document.figures) == 2


def test_up_to_four_stand_beside_one_another_and_a_click_takes_one_up(four):
    four.click(0)
    for at in (1, 2, 3):
        four.click(at, CTRL)
    assert four.document.beside == (0, 1, 2, 3)
    assert len(four.place.beside.papers) == 3
    four.key("Ctrl+N")  # stands alone
    assert four.document.beside == ()
    four.click(0)
    for at in (2, 3, 4):
        four.click(at, CTRL)
    four.click(1, CTRL)  # a fifth is refused
    assert four.document.beside == (0, 2, 3, 4)
    assert four.hands.refusal() == "At most 4 figures stand beside one another."
    paper = four.place.beside.papers[0]
    QTest.mouseClick(paper, LEFT, pos=QPoint(3, 3))
    assert four.document.shown == 2
    assert four.document.beside == (0, 2, 3, 4)
    four.window.session.figures.keep_variant()  # has no place beside four
    assert four.document.beside == ()


def test_what_figures_share_is_what_shows_all_of_each(shelf):
    readings = shelf.hands.readings
    other = shelf.hands.recipe.binned(shelf.hands.recipe.bins.changed(width=13.0, start=3.0))
    shelf.key("Ctrl+Shift+D")
    shelf.window.session.ask("Wider", other)
    shared = common_axes([readings, shelf.hands.readings], lambda _t, _s, _b: 5.0)
    edges = shelf.hands.edges()
    assert shared.value.low <= min(edges)
    assert shared.value.high >= max(edges)


def test_of_many_rows_the_others_are_sorted_aside_and_then_share_their_axes(shelf, monkeypatch):
    shelf.key("Ctrl+Shift+D")
    session = shelf.window.session
    wider = shelf.hands.recipe.binned(shelf.hands.recipe.bins.changed(width=30.0, start=0.0))
    session.ask("Wider, of rows that are sorted anew", wider.showing(split=("Season",)))
    shelf.key("Ctrl+Alt+D")  # alone
    monkeypatch.setattr("rhabdos.app.session.reaching.AT_ONCE_ROWS", 10)
    first = session.document.showing(0)
    kept = session.store.samples(session.document)
    session.store._samples.clear()  # as if what is not in sight had been let go
    session.store.keep_samples(session.document, kept)
    shelf.place.beside._kept.clear()
    begun = []
    monkeypatch.setattr(session.runner, "run", lambda *wish, **_: begun.append(wish))
    shelf.key("Ctrl+Alt+D")
    (paper,) = shelf.place.beside.papers
    QTest.qWait(200)  # until all has its place
    assert paper.words.text() == "Sorting its values …"
    assert not paper.canvas.isVisibleTo(paper)
    _, _, work, done, _ = begun[-1]
    done(work(lambda *_: None))
    assert session.store.samples(first) is not None
    assert shelf.place.beside.told.text().startswith("One value axis")
    mine, other = shelf.place.stage.canvas.scene.frame, paper.canvas.scene.frame
    assert (mine.low, mine.high) == (other.low, other.high)
    assert mine.low <= 0.0


def test_cards_are_whole_on_papers_that_are_narrower(shelf):
    shelf.key("Ctrl+Shift+D")
    shelf.window.resize(900, 640)
    QApplication.processEvents()
    (paper,) = shelf.place.beside.papers
    canvas = paper.canvas
    shelf.place.stage.canvas.pointed.emit((70.0, 0.5))
    card = canvas.card()
    assert card_size(card, canvas.font()).width() > canvas.width()  # else there is nothing to see
    ground, image = QColor(theme.theme().rod).rgb(), canvas.grab().toImage()
    dark = [
        x
        for x in range(image.width())
        if any(image.pixel(x, y) == ground for y in range(0, image.height(), 3))
    ]
    assert min(dark) >= 3
    assert max(dark) <= image.width() - 4


def test_figures_that_are_alike_have_their_pictures_and_are_told_together(shelf):
    for _ in range(4):
        shelf.key("Ctrl+N")
    shelf.click(1)
    for at in (2, 3):
        shelf.click(at, CTRL)
    assert shelf.place.beside.told.text().endswith("no difference from figures 3 and 4 yet")
    shelf.hands.qtbot.waitUntil(
        lambda: not any(shelf.cards.item(at).icon().isNull() for at in range(5)), timeout=4_000
    )
