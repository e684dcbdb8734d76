"""A range of values in the window: dragged, moved at its ends, typed, kept in the figure and taken out."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QSlider

from rhabdos.scene.marks import Area, Text
from tests.recomputed import number_told

LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
CONTROL = Qt.KeyboardModifier.ControlModifier


class Ranges:
    """What a user does with a range."""

    def __init__(self, hands) -> None:
        self.hands = hands
        self.canvas = hands.window.figure.stage.canvas
        self.hand = self.canvas.range_hand

    @property
    def card(self):
        return self.hands.window.figure_actions.ranges.card

    def at(self, value: float) -> QPoint:
        frame, scale = self.canvas.scene.frame, self.canvas.scale
        across = frame.first + 0.4 * (frame.last - frame.first)
        x, y = frame.point(frame.along(value), across)
        return QPoint(round(x * scale), round(y * scale))

    def drag(self, start: float, end: float, modifier=NONE, let_go: bool = True) -> None:
        first, last = self.at(start), self.at(end)
        QTest.mousePress(self.canvas, LEFT, modifier, first)
        for share in (0.5, 1.0):
            self._move(first + (last - first) * share, modifier)
        if let_go:
            QTest.mouseRelease(self.canvas, LEFT, modifier, last)
        QApplication.processEvents()

    def _move(self, place: QPoint, modifier) -> None:
        """Move with a key held, which QTest cannot."""
        from PyQt6.QtCore import QEvent, QPointF
        from PyQt6.QtGui import QMouseEvent

        where = QPointF(place)
        world = self.canvas.mapToGlobal(where)
        event = QMouseEvent(QEvent.Type.MouseMove, where, world, LEFT, LEFT, modifier)
        QApplication.sendEvent(self.canvas, event)

    @property
    def ends(self):
        return None if self.hand.marked is None else self.hand.marked.ends

    def shades(self):
        marks = self.canvas.scene.marks
        return [m for m in marks if isinstance(m, Area) and m.meaning.part == "range"]


@pytest.fixture
def ranges(hands) -> Ranges:
    return Ranges(hands)


def test_the_card_tells_each_group_and_stays_while_forms_and_bins_change(ranges, hands):
    ranges.drag(60, 72.3)
    low, high = ranges.ends
    assert (low, high) == pytest.approx((60, 72.3), abs=0.3)
    assert ranges.card.isVisible()
    table = hands.window.session.table
    values, bays = table.column("Shell length").values, table.column("Bay")
    for line in ranges.card.told.card.lines:
        mine = values[bays.codes == bays.levels.index(line.label)]
        mine = mine[~np.isnan(mine)]
        within = (mine >= low) & (mine <= high)
        assert line.cells[0] == f"{within.sum():,}"
        assert line.cells[1] == f"{100 * within.mean():.1f} %"
        assert line.cells[2] == f"{100 * (mine < low).mean():.1f} %"
    hands.window.session.ask("Curves", hands.recipe.showing(forms=("curve",)))
    hands.window.session.ask("Width", hands.recipe.binned(hands.recipe.bins.with_width(7.0)))
    assert ranges.ends == (low, high)
    assert ranges.card.isVisible()
    hands.click_variable("Wet mass")
    assert ranges.ends is None
    assert not ranges.card.isVisible()


def test_its_ends_are_dragged_and_snap_to_edges_of_bins_with_ctrl(ranges, hands):
    recipe = hands.recipe
    ranges.drag(60, 72.3)
    low, high = ranges.ends
    ranges.drag(high, 81)
    assert ranges.ends == pytest.approx((low, 81), abs=0.3)
    ranges.drag(low, 90)  # past the other end
    assert ranges.ends == pytest.approx((81, 90), abs=0.3)
    ranges.drag(ranges.ends[1], 94.9, CONTROL)
    assert ranges.ends[1] == 96
    ranges.drag(45.1, 54.8, CONTROL)
    assert ranges.ends == (44, 56)
    assert hands.recipe == recipe  # reading is no step
    QTest.keyClick(ranges.canvas, Qt.Key.Key_Escape)
    assert ranges.ends is None


def test_both_ends_are_typed_and_what_is_none_is_said_there(ranges, hands):
    hands.press("Ctrl+Shift+B")
    card = ranges.card
    assert card.isVisible()
    assert card.low.hasFocus()
    hands.type_into(card.low, "61 mm")
    hands.type_into(card.high, "70.5")
    assert ranges.ends == (61, 70.5)
    hands.type_into(card.high, "wide")
    assert "is no number" in card.fault.text()
    assert ranges.ends == (61, 70.5)
    QTest.keyClick(card.high, Qt.Key.Key_Escape)
    assert ranges.ends is None
    assert ranges.canvas.hasFocus()


def test_ends_beyond_all_that_is_drawn_are_told_as_they_are(ranges, hands):
    """Sliders, as which a screen reader hears them, count to no more than two thousand millions."""
    hands.press("Ctrl+Shift+B")
    card = ranges.card
    for typed, end in (("1e300", 1e300), ("5000", 5000.0), ("61.25", 61.25), ("-1e12", -1e12)):
        hands.type_into(card.low, typed)
        assert min(ranges.ends, key=lambda known: abs(known - end)) == end
        sliders = [w for w in ranges.canvas.findChildren(QSlider) if "end of the range" in heard(w)]
        counted = []
        for slider in sliders:
            parts = heard(slider).rpartition(" in ")[2].removesuffix("mm").strip()
            counted.append(slider.value() * number_told(parts or "1"))
        assert counted == pytest.approx(list(ranges.ends), rel=5e-3)


def heard(widget) -> str:
    """What a screen reader calls a widget."""
    return widget.accessibleName()


def test_it_is_kept_called_moved_and_taken_out_each_as_a_step(ranges, hands):
    ranges.drag(60, 72)
    QTest.mouseClick(ranges.card.keep, LEFT)
    (kept,) = hands.recipe.range
    assert len(ranges.shades()) == 1
    assert "shaded is" in hands.sentence()
    hands.type_into(ranges.card.words, "for market")
    assert hands.recipe.range[0].words == "for market"
    words = [m.text for m in ranges.canvas.scene.marks if isinstance(m, Text)]
    assert "for market" in words
    QTest.mouseClick(ranges.card.close_button, LEFT)
    steps = len(hands.window.session.history.past)
    ranges.drag(kept.high, 80, let_go=False)
    assert ranges.card.isVisible()
    assert hands.recipe.range[0].high == kept.high  # not before it is let go
    assert hands.readings.recipe.range[0].high == pytest.approx(80, abs=0.3)  # the figure follows
    QTest.mouseRelease(ranges.canvas, LEFT, NONE, ranges.at(80))
    assert hands.recipe.range[0].high == pytest.approx(80, abs=0.3)
    assert len(hands.window.session.history.past) == steps + 1
    hands.press("Ctrl+Z")
    assert hands.recipe.range[0].high == kept.high
    assert ranges.ends[1] == kept.high
    QTest.mouseClick(ranges.card.take_out, LEFT)
    assert not hands.recipe.range
    assert not ranges.card.isVisible()
    hands.press("Ctrl+Z")
    assert len(ranges.shades()) == 1


def test_an_end_that_is_dragged_is_given_up_by_escape(ranges, hands):
    ranges.drag(60, 72)
    QTest.mouseClick(ranges.card.keep, LEFT)
    recipe = hands.recipe
    ranges.drag(recipe.range[0].high, 80, let_go=False)
    QTest.keyClick(ranges.canvas, Qt.Key.Key_Escape)
    assert hands.recipe == hands.readings.recipe == recipe
    assert ranges.ends == (recipe.range[0].low, recipe.range[0].high)
    QTest.mouseRelease(ranges.canvas, LEFT, NONE, ranges.at(80))
    assert hands.recipe == recipe


def test_words_of_a_range_are_typed_over_and_its_card_opens(ranges, hands):
    recipe = hands.recipe
    hands.type_into(hands.panel("lines").widgets["Ranges"], "60 to 72 for market; 90 to 99")
    assert [each.words for each in hands.recipe.range] == ["for market", None]
    scale = ranges.canvas.scale
    (zone,) = [
        z for z in ranges.canvas.scene.zones if z.meaning.part == "range" and z.meaning.level == "0"
    ]
    middle = QPoint(
        round((zone.left + zone.right) / 2 * scale), round((zone.top + zone.bottom) / 2 * scale)
    )
    QTest.mouseClick(ranges.canvas, LEFT, NONE, middle)
    assert ranges.card.isVisible()
    assert ranges.ends == (60, 72)
    field = hands.window.figure_actions.words.field
    assert field.isVisible()
    field.selectAll()
    QTest.keyClicks(field, "sold")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert hands.recipe.range[0].words == "sold"
    hands.type_into(hands.panel("lines").widgets["Ranges"], "")
    assert hands.recipe == recipe
    assert not ranges.card.isVisible()


def test_in_panels_of_several_variables_a_range_is_of_its_own_panel(ranges, hands):
    show = {"variables": ("Shell length", "Wet mass"), "split": ()}
    hands.window.session.ask("Two", hands.recipe.showing(**show).paneled(variables=True))
    QApplication.processEvents()
    frame, scale = ranges.canvas.scene.frames[1], ranges.canvas.scale
    places = [
        QPoint(
            round((frame.left + share * (frame.right - frame.left)) * scale),
            round((frame.top + frame.bottom) / 2 * scale),
        )
        for share in (0.2, 0.6)
    ]
    QTest.mousePress(ranges.canvas, LEFT, NONE, places[0])
    QTest.mouseMove(ranges.canvas, places[1])
    QTest.mouseRelease(ranges.canvas, LEFT, NONE, places[1])
    assert ranges.hand.marked.panel == 1
    assert ranges.card.told.card.title.endswith(" g")
    assert len(ranges.card.told.card.lines) == 1
    QTest.mouseClick(ranges.card.keep, LEFT)
    assert len(ranges.shades()) == 1
    assert hands.recipe.range[0].panel == hands.readings.plan.panels[1].label


def test_standing_axes_and_the_card_within_a_small_window(ranges, hands):
    hands.window.resize(1024, 700)
    hands.window.session.ask("Up", hands.recipe.showing(upright=True))
    QApplication.processEvents()
    ranges.drag(60, 72)
    assert ranges.ends == pytest.approx((60, 72), abs=0.4)
    stage = hands.window.figure.stage
    assert stage.rect().contains(ranges.card.geometry())
    QTest.mouseClick(ranges.card.keep, LEFT)
    assert stage.rect().contains(ranges.card.geometry())


def test_widened_by_keys_it_ends_with_the_first_and_the_last_part(ranges):
    ranges.hand.widen(None, 1)  # what is read is marked at first
    begun = ranges.ends
    first = ranges.hand.widen(None, -1)
    assert ranges.hand.widen(first, -1) == first
    assert ranges.ends == begun
    second = ranges.hand.widen(first, 1)
    assert second != first
    assert ranges.ends[1] > begun[1]
    last = ranges.hand.widen(second, 1000)
    assert ranges.hand.widen(last, 1) == last


def test_its_card_goes_with_the_figure(ranges, hands, tmp_path):
    ranges.drag(60, 70)
    (tmp_path / "words.csv").write_text("a\nx y\nz w\nq r\n")
    hands.open(tmp_path / "words.csv")
    assert hands.readings is None
    assert not ranges.card.isVisible()
    assert not ranges.canvas.offer_rows(QPoint())


def test_what_the_card_tells_is_painted(ranges, hands):
    ranges.drag(60, 72.3)
    told = ranges.card.told
    assert told.height() > 30
    picture = told.grab().toImage()
    colours = {
        picture.pixelColor(x, y).rgb()
        for x in range(0, told.width(), 2)
        for y in range(0, told.height(), 2)
    }
    assert len(colours) > 10  # ground, letters, and the squares of groups
