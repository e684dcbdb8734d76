"""The rod under the hand, by mouse and by keyboard."""

import itertools

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest

from rhabdos.app.controls.heard import HeardValue, Standing
from rhabdos.app.controls.theme import LIGHT
from rhabdos.app.leaving.export_dialog import ExportDialog
from rhabdos.figure.forms.bars import outside
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.project.folders import Folders
from rhabdos.scene.axes.limits import limits_of

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def test_tabs_lie_under_the_edges_of_the_figure(hands):
    rod, canvas = hands.window.figure.stage.rod, hands.window.figure.stage.canvas
    assert rod.x() == canvas.x()
    for edge in hands.edges():
        assert rod.x_of(edge) == pytest.approx(canvas.scene.frame.along(edge) * canvas.scale)


def test_the_pointer_tells_what_a_hand_would_take_hold_of(hands):
    rod = hands.window.figure.stage.rod
    tab, between = round(rod.x_of(hands.edges()[2])), round(rod.x_of(sum(hands.edges()[2:4]) / 2))
    for x, y, shape in (
        (tab, 8, Qt.CursorShape.SizeHorCursor),
        (between, 8, Qt.CursorShape.OpenHandCursor),
        (tab, rod.height() - 2, Qt.CursorShape.ArrowCursor),
        (tab, 8, Qt.CursorShape.SizeHorCursor),
    ):
        QTest.mouseMove(rod, QPoint(x, y))
        assert rod.cursor().shape() == shape, (x, y)


def test_dragging_a_tab_changes_the_width(hands):
    hands.drag_rod(60, 70)
    assert hands.readings.edges.width == pytest.approx(6, abs=0.11)
    assert hands.readings.edges.low == 40
    assert hands.recipe.bins.width == hands.readings.edges.width


def test_the_figure_follows_while_the_hand_moves_and_the_drag_is_one_step(hands):
    steps = len(hands.window.session.history.past)
    before = hands.recipe
    frame = hands.window.figure.stage.canvas.scene.frame
    hands.drag_rod(60, 66, release=False)
    assert hands.readings.edges.width == pytest.approx(5.2, abs=0.11)
    assert hands.window.figure.stage.canvas.scene.frame.low == frame.low
    assert hands.window.figure.stage.canvas.scene.frame.high == frame.high
    assert "5.2 mm wide" in hands.sentence()
    assert hands.recipe == before
    rod = hands.window.figure.stage.rod
    assert rod.readout().startswith("edge 66 mm · width 5.2 mm · ")
    QTest.mouseRelease(rod, Qt.MouseButton.LeftButton, pos=QPoint(round(rod.x_of(66)), 8))
    assert len(hands.window.session.history.past) == steps + 1
    assert hands.window.menus.undo.iconText() == "Undo Bin width 5.2"
    hands.press("Ctrl+Z")
    assert hands.recipe == before


@pytest.mark.parametrize("phrase", ["forms", "arrange", "look", "words", "bins"])
def test_the_first_drag_counts_whichever_panel_is_open(hands, phrase):
    """Panels with small pictures read other figures of the same samples meanwhile."""
    hands.window.choose_phrase(phrase)
    QTest.qWait(400)  # until the pictures are drawn
    second = hands.edges()[1]
    hands.drag_rod(second, second + 3.0)
    assert hands.readings.edges.width == pytest.approx(7.0, abs=0.2)
    hands.press("Ctrl+Z")
    assert hands.readings.edges.width == 4.0


def test_dragging_the_rod_moves_the_start_and_hides_nothing(hands):
    hands.drag_rod(58, 59)
    assert hands.readings.edges.width == 4
    assert hands.readings.edges.low == pytest.approx(41, abs=0.11)
    hands.drag_rod(59, 63)
    assert outside(hands.readings) == 0


def test_dragging_the_first_tab_moves_the_start(hands):
    hands.drag_rod(40, 42)
    assert hands.readings.edges.width == 4
    assert hands.readings.edges.low == pytest.approx(42, abs=0.11)


def test_control_moves_one_edge_alone(hands):
    hands.drag_rod(60, 62, CONTROL)
    assert hands.readings.edges.values[5] == pytest.approx(62, abs=0.2)
    assert hands.readings.edges.values[4] == 56
    assert hands.readings.edges.values[6] == 64
    assert hands.readings.scale == "density"
    hands.drag_rod(64, 90, CONTROL)
    assert hands.readings.edges.values[6] < hands.readings.edges.values[7] == 68


def test_a_click_without_a_move_changes_nothing(hands):
    before = hands.recipe
    rod = hands.window.figure.stage.rod
    QTest.mouseClick(rod, Qt.MouseButton.LeftButton, pos=QPoint(round(rod.x_of(60)), 8))
    assert hands.recipe == before
    assert rod.tab == 5


def test_a_double_click_splits_a_bin_and_delete_merges_it_again(hands):
    rod = hands.window.figure.stage.rod
    QTest.mouseDClick(rod, Qt.MouseButton.LeftButton, pos=QPoint(round(rod.x_of(50)), 8))
    assert 50.0 in hands.edges()
    rod.tab = hands.edges().index(50.0)
    hands.keys(rod, Qt.Key.Key_Delete)
    assert 50.0 not in hands.edges()


@pytest.mark.parametrize(
    ("keys", "check"),
    [
        ([Qt.Key.Key_Up], lambda e: e.width == pytest.approx(4.2)),
        ([Qt.Key.Key_Down], lambda e: e.width == pytest.approx(3.8)),
        ([(Qt.Key.Key_Right, SHIFT)], lambda e: e.low == pytest.approx(40.2)),
        ([(Qt.Key.Key_Left, SHIFT)], lambda e: e.low == pytest.approx(39.8)),
        (
            [Qt.Key.Key_Home, Qt.Key.Key_Right, (Qt.Key.Key_Right, CONTROL)],
            lambda e: 44 < e.values[1] < 45,
        ),
        ([Qt.Key.Key_Plus], lambda e: e.count == 18),
        ([Qt.Key.Key_Delete], lambda e: e.count == 16),
    ],
)
def test_keys_do_what_the_mouse_does(hands, keys, check):
    hands.press("Ctrl+R")
    rod = hands.window.figure.stage.rod
    assert rod.hasFocus() or not hands.window.isActiveWindow()
    hands.keys(rod, *keys)
    assert check(hands.readings.edges)


def test_arrow_keys_choose_the_edge_that_is_read_out(hands):
    rod = hands.window.figure.stage.rod
    hands.keys(rod, Qt.Key.Key_Home, Qt.Key.Key_Right, Qt.Key.Key_Right)
    assert rod.accessibleDescription() == "edge 48 mm · width 4 mm · 17 bins"
    hands.keys(rod, Qt.Key.Key_End)
    assert rod.tab == 17


def test_escape_lets_go_and_leaves_the_figure_as_it_was(hands):
    before = hands.recipe
    hands.drag_rod(60, 70, release=False)
    hands.keys(hands.window.figure.stage.rod, Qt.Key.Key_Escape)
    assert hands.recipe == before
    assert hands.readings.recipe == before


def test_many_bins_show_fewer_tabs(hands):
    hands.window.choose_phrase("bins")
    hands.type_into(hands.window.figure.side.panel("bins").widgets["Width"], "0.1")
    rod = hands.window.figure.stage.rod
    places = [x for _, x in rod._tabs()]
    assert len(places) < 200
    assert min(b - a for a, b in itertools.pairwise(places)) >= 6
    hands.window.grab()


def colours_of(picture):
    return {
        picture.pixelColor(x, y).name()
        for x in range(picture.width())
        for y in range(picture.height())
    }


def test_a_brass_tab_is_painted_at_every_edge_and_nowhere_else(hands):
    rod = hands.window.figure.stage.rod
    picture = rod.grab().toImage()

    def is_brass(x):
        return picture.pixelColor(round(x), 5).name() == LIGHT.brass.lower()

    edges = hands.edges()
    assert all(is_brass(rod.x_of(edge)) for edge in edges[1:-1])
    assert not any(is_brass(rod.x_of((low + high) / 2)) for low, high in itertools.pairwise(edges))


def test_the_rod_is_in_the_window_and_never_in_the_file(hands, tmp_path):
    hands.window.filing.folders = Folders(latest=str(tmp_path))
    hands.press("Ctrl+Shift+E")
    dialog = hands.window.findChild(ExportDialog)
    dialog.size_fields.width_.setValue(6)
    dialog.size_fields.height_.setValue(4)
    dialog.dpi.setValue(150)
    QTest.mouseClick(dialog.export_button, Qt.MouseButton.LeftButton)
    (written,) = tmp_path.iterdir()
    of_the_rod = {LIGHT.brass.lower(), LIGHT.rod.lower()}
    assert of_the_rod <= colours_of(hands.window.figure.stage.grab().toImage())
    assert not of_the_rod & colours_of(QImage(str(written)))


@pytest.mark.parametrize("meanwhile", ["undo", "another variable", "panels", "another phrase"])
def test_what_happens_while_a_tab_is_held_lets_go_of_it(hands, meanwhile):
    session, stage = hands.window.session, hands.window.figure.stage
    hands.click_variable("Wet mass")
    hands.drag_rod(60, 66, release=False)
    rod, before = stage.rod, hands.recipe
    if meanwhile == "undo":
        hands.press("Ctrl+Z")
    elif meanwhile == "another variable":
        session.ask("Salinity", hands.recipe.showing(variables=("Salinity",)))
    elif meanwhile == "panels":
        session.ask("Panels", hands.recipe.paneled(by=("Season",)))
    else:
        hands.window.choose_phrase("value_axis")
    QTest.mouseMove(rod, QPoint(30, 8))
    QTest.mouseRelease(rod, Qt.MouseButton.LeftButton, pos=QPoint(30, 8))
    shown = [(frame.low, frame.high) for frame in stage.canvas.scene.frames]
    assert shown == [(limits.low, limits.high) for limits in limits_of(hands.readings)]
    assert stage.canvas.hovering
    if meanwhile == "another phrase":
        assert hands.recipe == before
        assert hands.readings.recipe == before


def test_a_width_that_is_set_from_without_changes_nothing_else(hands):
    bins = Bins(width=4.0, closed="right", shared=True)
    hands.window.session.ask("So", hands.recipe.binned(bins))
    hands.window.figure.stage.rod.set_to(5.0)
    assert hands.recipe.bins == bins.changed(width=5.0, start=hands.edges()[0])
    recipe = hands.recipe.with_value_axis(scale="log").binned(Bins(rule="sturges"))
    hands.window.session.ask("In logs", recipe)
    hands.window.figure.stage.rod.set_to(6.0)  # where bins have no width, their number is set
    assert hands.recipe.bins == Bins(count=6)


def test_bins_in_logs_that_begin_elsewhere_are_equal_otherwise(hands):
    hands.window.session.ask("In logs", hands.recipe.binned(Bins(rule="rice", logs=True)))
    field = hands.panel("bins").widgets["Start at"]
    hands.type_into(field, "40")
    assert (hands.recipe.bins.start, hands.recipe.bins.logs) == (40.0, None)
    assert hands.edges()[0] == 40
    hands.type_into(field, "")
    hands.type_into(field, "")  # where nothing is set, nothing is to be told
    assert hands.recipe.bins.start is None
    assert not hands.window.figure.side.panel("bins").fault.text()


def test_no_setting_of_curves_is_offered_where_nothing_is_smoothed(hands):
    hands.window.session.ask("Steps", hands.recipe.showing(forms=("ecdf",)))
    panel = hands.panel("curve")
    assert not panel.widgets["Not below"].isVisible()
    assert panel.widgets["ECDF, width"].isVisible()
    assert "Nothing is smoothed" in panel.facts.text()


def test_a_rod_is_heard_in_parts_of_its_unit_as_numbers_are_written(qtbot):
    heard = HeardValue("Rod", None, lambda _: None)
    qtbot.addWidget(heard)
    for standing, name in (
        (Standing("width", 3e-9, 0.0, 1e-8, 1e-10, "g"), "Rod, width in 1 × 10⁻¹⁰ g"),
        (Standing("width", 7.0, 0.0, 300.0, 1.0, "days"), "Rod, width in days"),
    ):
        heard.show_value(standing)
        assert heard.accessibleName() == name
