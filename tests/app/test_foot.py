"""The foot of the window: its faces by mouse and keys, sorted, copied, compared with another group."""

import numpy as np
import pytest
from msgspec import structs
from PyQt6.QtCore import QEvent, QPoint, Qt
from PyQt6.QtGui import QContextMenuEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMenu
from scipy import stats

from rhabdos.app.panels import foot as foot_module
from rhabdos.app.paper.range_hand import MarkedRange
from rhabdos.project.memory import recall, remember

LEFT = Qt.MouseButton.LeftButton


def shown(foot):
    model = foot.table.model()
    return [
        [model.index(row, column).data() for column in range(model.columnCount())]
        for row in range(model.rowCount())
    ]


def test_faces_are_reached_by_click_by_menu_and_by_key(hands):
    foot = hands.window.figure.foot
    assert foot.face == "summary"
    QTest.mouseClick(foot.buttons["compare"], LEFT)
    assert foot.face == "compare"
    assert shown(foot)[0][-1] == "reference"
    assert not foot.quartiles.isVisible()
    hands.press("F12")
    assert foot.face == "bins"
    assert len(shown(foot)) == 3 * hands.readings.edges.count
    hands.press("Shift+F12")
    hands.press("Shift+F12")
    assert foot.face == "summary"
    hands.press("F9")
    assert not foot.isVisible()
    next(a for a in hands.window.menus.faces if "Quantiles" in a.iconText()).trigger()
    assert foot.isVisible()
    assert foot.face == "quantiles"
    values = np.sort(hands.readings.samples.samples[0].values)
    assert shown(foot)[0][2] == f"{np.percentile(values, 1):.1f}"


def test_the_bins_follow_the_hand(hands):
    foot = hands.window.figure.foot
    foot.show_face("bins")
    field = hands.panel("bins").widgets["Width"]
    hands.type_into(field, "10")
    rows = shown(foot)
    assert [row[1:3] for row in rows[:2]] == [["40", "50"], ["50", "60"]]
    values = hands.readings.samples.samples[0].values
    counted, _ = np.histogram(values, [40, 50, 60])
    assert [row[3] for row in rows[:2]] == [str(n) for n in counted]


def test_the_reference_and_the_confidence_are_chosen_and_undone(hands):
    foot = hands.window.figure.foot
    foot.show_face("compare")
    assert (foot.reference.text(), foot.confidence.text()) == ("with Heron Sound", "95 %")
    before = shown(foot)
    QTest.mouseClick(foot.reference, LEFT)
    hands.pick(QApplication.activePopupWidget(), "Saltmere")
    assert hands.recipe.compare.reference == "Saltmere"
    assert [row[-1] for row in shown(foot)].index("reference") == 1
    QTest.mouseClick(foot.confidence, LEFT)
    hands.pick(QApplication.activePopupWidget(), "Intervals of 80 %")
    assert hands.recipe.compare.confidence == 0.8
    assert hands.window.menus.undo.iconText() == "Undo Intervals of 80 %"
    hands.press("Ctrl+Z")
    hands.press("Ctrl+Z")
    assert hands.recipe.compare is None
    assert shown(foot) == before


def test_a_heading_sorts_and_the_rows_are_copied_as_cells(hands):
    foot = hands.window.figure.foot
    heads = foot.table.horizontalHeader()
    place = heads.sectionViewportPosition(3) + 20
    from PyQt6.QtCore import QPoint

    QTest.mouseClick(heads.viewport(), LEFT, pos=QPoint(place, heads.height() // 2))
    means = [float(row[3]) for row in shown(foot)]
    assert means == sorted(means) or means == sorted(means, reverse=True)
    foot.table.setFocus()
    QTest.keyClick(foot.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    lines = QApplication.clipboard().text().splitlines()
    assert lines[0].split("\t")[:4] == ["Bay", "n", "missing", "mean"]
    assert [float(line.split("\t")[3]) for line in lines[1:]] == means
    swatches = [
        foot.table.model().index(row, 0).data(Qt.ItemDataRole.DecorationRole) for row in range(3)
    ]
    assert len({swatch.toImage().pixel(6, 6) for swatch in swatches}) == 3


def test_where_nothing_can_be_shown_the_foot_says_why(hands):
    foot = hands.window.figure.foot
    foot.show_face("compare")
    hands.window.session.ask("All", hands.recipe.showing(split=()))
    assert not foot.table.isVisible()
    assert "split by a factor" in foot.told.text()
    assert not foot.reference.isVisible()
    foot.show_face("bins")
    assert foot.table.isVisible()
    hands.window.session.ask("Box", hands.recipe.showing(forms=("box",)))
    assert "no bins" in foot.told.text()
    foot.show_face("summary")
    assert foot.table.isVisible()


def test_long_groups_are_compared_beside_the_window(hands, monkeypatch):
    monkeypatch.setattr(foot_module, "_AT_ONCE", 100)
    foot = hands.window.figure.foot
    foot.show_face("compare")
    assert foot.told.text() == "Comparing …"
    hands.qtbot.waitUntil(foot.table.isVisible, timeout=10_000)
    assert shown(foot)[0][-1] == "reference"
    hands.window.session.ask("Look", hands.recipe.looking(palette="dusk"))
    hands.qtbot.waitUntil(foot.table.isVisible, timeout=10_000)
    foot.show_face("summary")
    assert foot.table.isVisible()
    assert len(shown(foot)[0]) == 11


@pytest.mark.parametrize("face", [face for face in foot_module.FACES if face != "rows"])
def test_every_face_of_thirty_groups_is_listed(empty, tmp_path, face):
    lines = ["Pen,Mass"] + [f"pen & {i % 30},{(i * 37) % 101}" for i in range(600)]
    (tmp_path / "pens.csv").write_text("\n".join(lines))
    empty.open(tmp_path / "pens.csv")
    empty.click_variable("Mass")
    empty.window.session.ask("Split", empty.recipe.showing(split=("Pen",)))
    foot = empty.window.figure.foot
    foot.show_face(face)
    assert len({row[0] for row in shown(foot)}) == 30


def test_decile_arrows_are_drawn_from_the_phrase_and_the_reference_chosen_in_the_sentence(hands):
    hands.tick("compare", "Arrows at the deciles")
    assert hands.recipe.show.forms == ("bars", "shift")
    assert "each bay is compared with Heron Sound" in hands.sentence()
    menu = hands.click_phrase("compare")
    hands.pick(menu, "Saltmere")
    assert hands.recipe.compare.reference == "Saltmere"
    assert "each bay is compared with Saltmere" in hands.sentence()
    hands.type_into(hands.panel("compare").widgets["Confidence"], "90 %")
    assert hands.recipe.compare.confidence == 0.9
    hands.window.figure.foot.show_face("compare")
    assert hands.window.figure.foot.reference.text() == "with Saltmere"
    assert hands.window.figure.foot.confidence.text() == "90 %"
    canvas = hands.window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    strip = next(s for lane in frame.lanes for s in lane.strips if s.group == 2)
    QTest.mouseMove(
        canvas, QPoint(round(frame.along(60) * scale), round(strip.band.middle * scale))
    )
    assert canvas.card().title.endswith("tenth of Wick Narrows, from Saltmere")
    menu = hands.click_phrase("compare")
    hands.pick(menu, "no comparison")
    assert hands.recipe.show.forms == ("bars",)
    assert "compared" not in hands.sentence()


def row_of(table, name):
    model = table.model()
    return next(r for r in range(model.rowCount()) if model.index(r, 0).data() == name)


def test_a_row_that_is_pointed_at_brings_its_group_forward_and_the_other_way_round(hands):
    foot, session = hands.window.figure.foot, hands.window.session
    before, table = session.document, foot.table
    place = table.visualRect(table.model().index(row_of(table, "Saltmere"), 1)).center()
    QTest.mouseMove(table.viewport(), place)
    assert [group.forward for group in session.readings.groups] == [False, True, False]
    QApplication.sendEvent(table, QEvent(QEvent.Type.Leave))
    assert all(group.forward for group in session.readings.groups)
    assert session.document is before
    canvas = hands.window.figure.stage.canvas
    frame, scale = canvas.scene.frame, canvas.scale
    QTest.mouseMove(canvas, QPoint(round(frame.along(94) * scale), round(frame.bottom * scale) - 4))
    (marked,) = [
        row
        for row in range(table.model().rowCount())
        if table.model().index(row, 0).data(Qt.ItemDataRole.BackgroundRole) is not None
    ]
    assert table.model().index(marked, 0).data() == hands.readings.groups[canvas.read_group].label


def test_the_reference_is_chosen_in_the_legend(hands):
    canvas = hands.window.figure.stage.canvas
    zone = next(
        z
        for z in canvas.scene.zones
        if z.meaning.part == "legend" and z.meaning.level == "Saltmere"
    )
    middle = QPoint(
        round((zone.left + zone.right) / 2 * canvas.scale),
        round((zone.top + zone.bottom) / 2 * canvas.scale),
    )
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, middle, canvas.mapToGlobal(middle))
    QApplication.sendEvent(canvas, event)
    (menu,) = [menu for menu in hands.window.findChildren(QMenu) if menu.isVisible()]
    hands.pick(menu, "Compare the others")
    assert hands.recipe.compare.reference == "Saltmere"
    assert "compared with Saltmere" in hands.sentence()


def test_intervals_hold_together_by_one_choice(hands):
    hands.window.figure.foot.show_face("compare")
    model = hands.window.figure.foot.table.model()
    alone = model.index(1, 1).data()
    hands.choose("compare", "Intervals", "all together")
    assert hands.recipe.compare.together
    assert hands.window.figure.foot.confidence.text() == "95 % together"
    wider = model.index(1, 1).data()
    assert wider.partition(" ")[0] == alone.partition(" ")[0]  # the number itself stays
    assert wider != alone
    hands.choose("compare", "Intervals", "each by itself")
    assert model.index(1, 1).data() == alone


def test_further_columns_are_chosen_and_remembered(hands):
    foot = hands.window.figure.foot
    try:
        for beginning in ("skewness", "geometric mean", "MAD"):
            QTest.mouseClick(foot.further, LEFT)
            (menu,) = [menu for menu in foot.findChildren(QMenu) if menu.isVisible()]
            hands.pick(menu, beginning)
        assert foot.columns == ("geometric_mean", "mad", "skewness")
        titles = foot.table.as_cells().splitlines()[0].split("\t")
        assert titles[-3:] == ["geometric mean", "MAD", "skewness"]
        table = hands.window.session.table
        values = table.column("Shell length").values[table.column("Bay").codes == 1]
        values = values[~np.isnan(values)]
        told = foot.table.as_cells(full=True).splitlines()[2].split("\t")[-3:]
        known = (
            stats.gmean(values),
            stats.median_abs_deviation(values),
            stats.skew(values, bias=False),
        )
        assert [float(each) for each in told] == pytest.approx(known, rel=1e-6)
        assert recall().columns == foot.columns
    finally:
        remember(lambda memory: structs.replace(memory, columns=()))


def test_shares_of_quantiles_are_typed_and_wrong_ones_said(hands):
    foot = hands.window.figure.foot
    try:
        foot.show_face("quantiles")
        hands.type_into(foot.typed_shares, "90, 2.5 %, 50")
        assert foot.table.as_cells().splitlines()[0].split("\t")[2:] == ["2.5 %", "50 %", "90 %"]
        table = hands.window.session.table
        values = table.column("Shell length").values[table.column("Bay").codes == 0]
        told = foot.table.as_cells(full=True).splitlines()[1].split("\t")[2:]
        assert [float(each) for each in told] == pytest.approx(
            np.quantile(values[~np.isnan(values)], [0.025, 0.5, 0.9])
        )
        hands.type_into(foot.typed_shares, "5, half")
        assert "is no percentage" in hands.window.statusBar().currentMessage()
        assert foot.shares == (0.025, 0.5, 0.9)
    finally:
        remember(lambda memory: structs.replace(memory, shares=()))


def test_rows_are_copied_as_shown_or_with_all_digits(hands):
    table = hands.window.figure.foot.table
    middle = table.visualRect(table.model().index(0, 3)).center()
    values = hands.window.session.table.column("Shell length").values
    bay = hands.window.session.table.column("Bay")
    mean = np.nanmean(values[bay.codes == 0])
    for beginning, wanted in (("Copy as shown", "77.3"), ("Copy with all", f"{mean:.10g}")):
        event = QContextMenuEvent(
            QContextMenuEvent.Reason.Mouse, middle, table.viewport().mapToGlobal(middle)
        )
        QApplication.sendEvent(table.viewport(), event)
        (menu,) = [menu for menu in table.findChildren(QMenu) if menu.isVisible()]
        hands.pick(menu, beginning)
        copied = QApplication.clipboard().text().splitlines()[1].split("\t")[3]
        assert copied.startswith(wanted)


def test_the_rows_are_those_of_the_range_that_is_read_or_of_what_is_forward(hands):
    foot, table = hands.window.figure.foot, hands.window.session.table
    foot.show_face("rows")
    assert foot.main.toolTip() == "2,416 rows, of which the first 500 are listed."
    assert foot.table.as_cells().splitlines()[0].split("\t")[:3] == ["row", "Shell length", "Bay"]
    hand = hands.window.figure.stage.canvas.range_hand
    hand.show(MarkedRange(60.0, 61.5))
    values = table.column("Shell length").values
    within = np.flatnonzero((values >= 60) & (values <= 61.5))
    hands.qtbot.waitUntil(lambda: foot.main.toolTip() == f"{len(within):,} rows.", timeout=3_000)
    lines = [line.split("\t") for line in foot.table.as_cells(full=True).splitlines()[1:]]
    assert [int(line[0]) for line in lines] == (within + 1).tolist()
    assert [float(line[1]) for line in lines] == values[within].tolist()
    index = foot.table.model().index(2, 0)
    foot.table.activated.emit(index)
    assert hands.window.figure.stage.canvas.pointed_row == ("Shell length", int(within[2]))
    hand.show(None)
    hands.window.session.ask("Forward", hands.recipe.grouped(forward=("Saltmere",)))
    many = int((table.column("Bay").codes == table.column("Bay").levels.index("Saltmere")).sum())
    hands.qtbot.waitUntil(
        lambda: foot.main.toolTip().startswith(f"{many - 3:,} rows"), timeout=3_000
    )
    before = foot._listed
    hands.drag_rod(60.0, 63.0)
    assert foot._listed is before  # bins change no rows


def test_where_nothing_is_told_the_table_begins_under_the_faces(hands):
    foot = hands.window.figure.foot
    assert not foot.told.isVisible()
    assert foot.table.geometry().top() <= foot._head.geometry().bottom() + 8
