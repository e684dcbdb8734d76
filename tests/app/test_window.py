"""The window, driven as a user drives it."""

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog

from rhabdos.app.controls.theme import LIGHT
from rhabdos.figure.forms.bars import bars, outside
from rhabdos.figure.recipe.recipe_bins import Bins

CONTROL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def test_an_empty_window_says_how_to_begin(empty):
    assert empty.window.figure.stage.welcome.isVisible()
    assert not empty.window.figure.side.isVisible()
    assert not empty.window.menus.export.isEnabled()
    words = empty.window.figure.stage.welcome.how.text()
    assert all(kind in words for kind in ("text", "workbook", "Parquet", "JSON", "database"))
    QTest.mouseClick(empty.window.figure.stage.welcome.demo_button, Qt.MouseButton.LeftButton)
    assert empty.readings.variable.label == "Shell length"


def test_an_empty_window_begins_with_cells_numbers_or_chance(empty):
    welcome = empty.window.figure.stage.welcome
    QApplication.clipboard().setText("41.5\n43.2\n44.0\n")
    QTest.mouseClick(welcome.paste_button, Qt.MouseButton.LeftButton)
    empty.qtbot.waitUntil(lambda: empty.window.session.table is not None)
    assert empty.readings.groups[0].sample.values.tolist() == [41.5, 43.2, 44.0]
    for button, title in ((welcome.type_button, "Type"), (welcome.simulate_button, "Practice")):
        button.click()
        dialog = next(d for d in empty.window.findChildren(QDialog) if d.isVisible())
        assert dialog.windowTitle().startswith(title)
        dialog.reject()


def test_the_demo_opens_with_its_figure_sentence_and_summary(hands):
    assert hands.sentence().startswith(
        "Shell length of every row that has one, split by Bay overlaid, drawn as bars"
    )
    assert hands.window.windowTitle() == "Oyster landings – Rhabdos"
    table = hands.window.figure.foot.table.model()
    rows = [
        [table.index(r, c).data() for c in range(table.columnCount())]
        for r in range(table.rowCount())
    ]
    assert rows[1] == [
        "Saltmere", "817", "3", "76.2", "12.7", "50.4", "65.5", "73.4", "87.9", "106.4", "22.4",
    ]  # fmt: skip


def test_variables_stand_apart_by_kind_and_can_be_searched(hands):
    model = hands.window.figure.variables.model
    listed = [model.index(i).data() for i in range(model.rowCount())]
    assert listed[0] == "Numbers"
    assert listed.index("Groups and labels") == 16
    QTest.keyClicks(hands.window.figure.variables.search, "growth")
    assert [model.index(i).data() for i in range(model.rowCount())] == [
        "Numbers",
        *(f"Growth week {i}" for i in range(1, 7)),
    ]
    QTest.keyClick(hands.window.figure.variables.search, Qt.Key.Key_Return)
    assert hands.readings.variable.label == "Growth week 1"
    QTest.keyClicks(hands.window.figure.variables.search, "zzz")
    assert hands.window.figure.variables.nothing.isVisible()


def test_one_click_on_a_variable_gives_a_histogram_with_round_edges(hands):
    hands.click_variable("Salinity")
    assert hands.sentence().startswith("Salinity of every row")
    assert hands.readings.edges.width in (0.1, 0.2, 0.25, 0.5, 1)
    assert outside(hands.readings) == 0
    assert hands.recipe.words.title is None


def test_a_click_on_a_group_splits_and_another_puts_together(hands):
    hands.click_variable("Season")
    assert "split by Season" in hands.sentence()
    assert [g.label for g in hands.readings.groups] == ["Spring", "Summer", "Autumn", "Winter"]
    hands.click_variable("Season")
    assert "all together" in hands.sentence()


def test_a_label_cannot_be_drawn_and_the_window_says_so(hands):
    before = hands.recipe
    hands.click_variable("Tag")
    assert "names rows" in hands.refusal()
    assert hands.recipe == before


@pytest.mark.parametrize(
    ("phrase", "entry", "words"),
    [
        ("variable", "Wet mass", "Wet mass of every row that has one"),
        ("split", "Culture", "split by Culture"),
        ("split", "all together", "all together"),
        ("split", "Cracked", "split by Cracked"),
        ("heights", "Count", "heights in counts"),
        ("heights", "Proportion of all", "heights in proportion of all"),
        ("heights", "Density of each bay (per mm)", "heights in density of each bay per mm"),
        ("forms", "bars + curve", "drawn as bars + curve, lying"),
        ("bins", "Sturges", "by Sturges"),
        ("bins", "2.5 mm wide", "2.5 mm wide from 42.5"),
    ],
)
def test_every_phrase_opens_its_alternatives_there_and_then(hands, phrase, entry, words):
    menu = hands.click_phrase(phrase)
    hands.pick(menu, entry)
    assert words in hands.sentence()
    assert hands.window.figure.side.chosen == phrase


def test_the_words_phrase_leads_to_the_title(hands):
    assert hands.click_phrase("words") is None
    assert hands.window.figure.side.panel("words").widgets["Title"].hasFocus()


def test_a_phrase_of_settings_only_brings_them_in_sight_from_the_rows(empty, tmp_path):
    (tmp_path / "one.csv").write_text("v\n" + "\n".join(map(str, range(1, 40))))
    empty.open(tmp_path / "one.csv")
    empty.press("F3")
    menu = empty.click_phrase("variable")  # there is no other one to choose
    assert menu is None
    assert empty.window.place == "figure"
    assert empty.window.figure.side.panel("variable").isVisible()


def test_a_phrase_can_be_opened_and_chosen_by_keyboard(hands):
    hands.press("Ctrl+4")
    menu = QApplication.activePopupWidget()
    assert menu is not None
    hands.keys(menu, Qt.Key.Key_Up, Qt.Key.Key_Return)
    assert "heights in counts" in hands.sentence()


@pytest.mark.parametrize(
    ("field", "text", "check"),
    [
        ("Width", "5", lambda e: e.width == 5),
        ("Width", "2,5 mm", lambda e: e.width == 2.5),
        ("Start at", "38", lambda e: e.low == 38),
        ("Number", "12", lambda e: e.count == 12),
        (
            "Own edges",
            "40, 55, 60 ... 110",
            lambda e: e.values.tolist() == [40, *range(55, 111, 5)],
        ),
    ],
)
def test_bins_are_typed(hands, field, text, check):
    hands.window.choose_phrase("bins")
    hands.type_into(hands.window.figure.side.panel("bins").widgets[field], text)
    assert check(hands.readings.edges)
    assert not hands.window.figure.side.panel("bins").fault.isVisible()


@pytest.mark.parametrize(
    ("field", "text", "sentence"),
    [
        ("Width", "wide", "“wide” is none"), ("Width", "0", "above 0"), ("Width", "-3", "above 0"),
        ("Width", "0.000001", "at most 10,000"), ("Start at", "soon", "“soon” is none"),
        ("Start at", "999", "would hold no values"), ("Number", "2.5", "whole number"),
        ("Number", "0", "whole number"), ("Own edges", "5, 4", "must increase"),
        ("Own edges", "a, b", "“a” is not a number"),
    ],
)  # fmt: skip
def test_nonsense_gets_a_sentence_and_the_figure_stays(hands, field, text, sentence):
    hands.window.choose_phrase("bins")
    before = hands.recipe
    typed = hands.window.figure.side.panel("bins").widgets[field]
    hands.type_into(typed, text)
    assert sentence in hands.window.figure.side.panel("bins").fault.text()
    assert hands.window.figure.side.panel("bins").fault.isVisible()
    assert hands.recipe == before
    assert hands.readings.recipe == before
    hands.keys(typed, Qt.Key.Key_Escape)
    hands.type_into(hands.window.figure.side.panel("bins").widgets["Width"], "6")
    assert hands.readings.edges.width == 6
    assert not hands.window.figure.side.panel("bins").fault.isVisible()


def test_rule_side_and_rounding_are_chosen_in_the_panel(hands):
    hands.window.choose_phrase("bins")
    panel = hands.window.figure.side.panel("bins")
    hands.keys(panel.widgets["Rule"], Qt.Key.Key_Home, Qt.Key.Key_Down, Qt.Key.Key_Down)
    panel.widgets["Rule"].activated.emit(panel.widgets["Rule"].currentIndex())
    assert hands.recipe.bins.rule == "sturges"
    QTest.mouseClick(
        panel.widgets["Round edges"],
        Qt.MouseButton.LeftButton,
        pos=QPoint(8, panel.widgets["Round edges"].height() // 2),
    )
    assert hands.recipe.bins.round is False
    assert hands.edges()[0] == 43.2
    hands.type_into(panel.widgets["Width"], "4")
    assert hands.recipe.bins.width == 4
    assert panel.widgets["Round edges"].isHidden()  # a width that is typed is taken at its word
    hands.window.session.undo()
    panel.widgets["Edges go to"].setCurrentIndex(1)
    panel.widgets["Edges go to"].activated.emit(1)
    assert hands.readings.edges.closed == "right"


def test_unequal_bins_switch_to_density_and_say_why(hands):
    hands.window.choose_phrase("bins")
    hands.type_into(
        hands.window.figure.side.panel("bins").widgets["Own edges"], "40, 60, 70, 75, 80, 110"
    )
    assert hands.readings.scale == "density"
    assert "instead of percent" in hands.window.figure.foot.notices.text.text()
    panel = hands.panel("heights")
    assert "only density is fair" in panel.facts.text()
    offered = panel.widgets["In"]
    assert [offered.itemText(row) for row in range(offered.count())] == ["density"]


def test_heights_are_chosen_in_the_panel(hands):
    hands.choose("heights", "In", "proportion")
    hands.choose("heights", "Shares of", "all values")
    assert "heights in proportion of all" in hands.sentence()
    assert sum(g.heights.sum() for g in bars(hands.readings)) == pytest.approx(1)


def test_a_number_of_bins_that_is_shown_is_fixed_by_typing_it(hands):
    hands.window.session.ask("By a rule", hands.recipe.binned(Bins(rule="sturges")))
    hands.window.choose_phrase("bins")
    field = hands.window.figure.side.panel("bins").widgets["Number"]
    shown = field.text()
    steps = hands.window.session.history.undo_name
    field.setFocus()
    QTest.keyClick(field, Qt.Key.Key_Return)  # nothing is typed: nothing is meant
    assert hands.window.session.history.undo_name == steps
    hands.type_into(field, shown)
    assert hands.recipe.bins.count == int(shown)
    assert hands.recipe.bins.rule is None
    past = len(hands.window.session.history.past)
    hands.type_into(field, shown)  # once more is no other step
    assert len(hands.window.session.history.past) == past


def test_words_follow_the_typing_and_are_one_step(hands):
    hands.window.choose_phrase("words")
    field = hands.window.figure.side.panel("words").widgets["Value axis"]
    field.setFocus()
    QTest.keyClicks(field, "Length of shell")
    drawn = [m.text for m in hands.window.figure.stage.canvas.scene.marks if hasattr(m, "text")]
    assert "Length of shell" in drawn
    assert hands.recipe.words.value_axis is None
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert hands.recipe.words.value_axis == "Length of shell"
    assert hands.window.menus.undo.iconText() == "Undo Change value axis title"
    hands.window.session.undo()
    assert field.text() == ""


def test_typing_that_is_taken_back_leaves_the_figure_as_it_was(hands):
    hands.window.choose_phrase("words")
    field = hands.window.figure.side.panel("words").widgets["Title"]
    field.setFocus()
    QTest.keyClicks(field, " for now")
    QTest.keyClick(field, Qt.Key.Key_Escape)
    drawn = [m.text for m in hands.window.figure.stage.canvas.scene.marks if hasattr(m, "text")]
    assert "Two harvests hide in Saltmere" in drawn
    assert hands.window.session.readings.recipe == hands.recipe


def test_hovering_a_bar_says_what_it_is(hands):
    canvas = hands.window.figure.stage.canvas
    x = canvas.scene.frame.along(78) * canvas.scale
    y = canvas.scene.frame.bottom * canvas.scale - 20
    QTest.mouseMove(canvas, QPoint(round(x), round(y)))
    card = canvas.card()
    assert card.title == "76 to under 80 mm"
    assert card.headings == ("count", "percent", "density per mm")
    heron = bars(hands.readings)[0].counts[9]
    assert card.lines[0].cells[0] == f"{heron} of 820"
    QTest.mouseMove(canvas, QPoint(3, 3))
    assert canvas.card() is None


def test_the_card_is_painted_beside_the_bar_and_goes_with_the_pointer(hands):
    canvas = hands.window.figure.stage.canvas

    def dark():
        picture = canvas.grab().toImage()
        return sum(
            picture.pixelColor(x, y).name() == LIGHT.rod.lower()
            for x in range(0, 700, 7)
            for y in range(0, 400, 7)
        )

    assert dark() == 0
    x, y = (
        round(place * canvas.scale)
        for place in (canvas.scene.frame.along(50), canvas.scene.frame.bottom - 20)
    )
    QTest.mouseMove(canvas, QPoint(x, y))
    assert dark() > 100
    QTest.mouseMove(canvas, QPoint(3, 3))
    assert dark() == 0


def test_the_group_whose_bar_is_pointed_at_stands_out_in_the_card(hands):
    canvas = hands.window.figure.stage.canvas
    frame, groups = canvas.scene.frame, bars(hands.readings)
    tops = sorted((float(group.heights[9]), i) for i, group in enumerate(groups))
    below = 0.0
    for top, group in tops:
        height = (below + top) / 2
        y = frame.bottom - height / frame.band.tallest * (frame.bottom - frame.top)
        QTest.mouseMove(
            canvas, QPoint(round(frame.along(78) * canvas.scale), round(y * canvas.scale))
        )
        assert [line.pointed for line in canvas.card().lines] == [i == group for i in range(3)]
        below = top
    QTest.mouseMove(
        canvas, QPoint(round(frame.along(78) * canvas.scale), round((frame.top + 1) * canvas.scale))
    )
    assert not any(line.pointed for line in canvas.card().lines)


def test_bars_are_read_by_keyboard(hands):
    hands.press("Ctrl+B")
    canvas = hands.window.figure.stage.canvas
    hands.keys(canvas, Qt.Key.Key_Right, Qt.Key.Key_Right)
    assert canvas.card().title == "44 to under 48 mm"
    assert canvas.heard.told.startswith("44 to under 48 mm. Heron Sound: 0 of 820")
    parts = len(canvas.heard._all())
    assert [bool(canvas.heard._words(at)) for at in (parts - 1, parts)] == [True, False]
    assert [canvas.heard._place(at).isEmpty() for at in (parts - 1, parts)] == [False, True]
    hands.keys(canvas, Qt.Key.Key_End)
    assert canvas.card().title == "104 to 108 mm"


@pytest.mark.parametrize(
    ("part", "phrase"),
    [
        ("title", "words"),
        ("legend", "legend"),
        ("height-axis", "height_axis"),
        ("value-axis", "value_axis"),
        ("bars", "bins"),
    ],
)
def test_clicking_a_part_of_the_figure_selects_its_phrase(hands, part, phrase):
    canvas = hands.window.figure.stage.canvas
    hands.window.choose_phrase("words" if phrase != "words" else "bins")
    zone = next(zone for zone in canvas.scene.zones if zone.meaning.part == part)
    middle = QPointF((zone.left + zone.right) / 2, (zone.top + zone.bottom) / 2)
    if part == "height-axis":
        middle.setX(zone.right - 4)  # beside the title, which is words
    if part == "value-axis":
        middle.setY(zone.top + 5)
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=(middle * canvas.scale).toPoint())
    assert hands.window.figure.side.chosen == phrase


def test_whatever_the_menus_do_in_the_figure_brings_it_in_sight(hands):
    window = hands.window
    in_figure = window.menus
    deeds = [*in_figure.phrases.values(), *in_figure.faces, *in_figure.sizes, in_figure.rod]
    deeds += [*in_figure.folds, in_figure.read, in_figure.read_range, in_figure.part_rows]
    for index, deed in enumerate(deeds):
        window.go_to(("rows", "overview")[index % 2])
        assert not window.figure.isVisible()
        deed.trigger()
        assert window.place == "figure", deed.text()
        assert window.figure.isVisible()
        while popup := QApplication.activePopupWidget():
            popup.close()
    window.go_to("rows")
    window.menus.phrases["curve"].trigger()
    assert window.figure.side.panel("curve").isVisible() or window.figure.side.idle.isVisible()
    assert window.figure.side.chosen == "curve"


def test_undo_and_redo_everything_by_name(hands):
    first = hands.recipe
    hands.click_variable("Season")
    hands.window.choose_phrase("bins")
    hands.type_into(hands.window.figure.side.panel("bins").widgets["Width"], "5")
    hands.pick(hands.click_phrase("heights"), "Count")
    assert hands.window.menus.undo.iconText() == "Undo Heights in count"
    for _ in range(3):
        hands.press("Ctrl+Z")
    assert hands.recipe == first
    assert hands.window.menus.redo.iconText() == "Redo Split by Season"
    for _ in range(3):
        hands.press("Ctrl+Shift+Z")
    assert "heights in counts" in hands.sentence()
    assert "split by Season" in hands.sentence()
    assert hands.readings.edges.width == 5


def test_undo_in_a_field_that_is_not_being_typed_in_undoes_the_figure(hands):
    first = hands.recipe
    hands.window.choose_phrase("bins")
    field = hands.window.figure.side.panel("bins").widgets["Width"]
    hands.type_into(field, "5")
    QTest.keyClick(field, Qt.Key.Key_Z, CONTROL)
    assert hands.recipe == first
    assert field.text() == "4 mm"
    QTest.keyClicks(field, "7")
    QTest.keyClick(field, Qt.Key.Key_Z, CONTROL)
    assert hands.recipe == first


def test_the_notice_cures_what_it_names(hands):
    hands.window.choose_phrase("bins")
    hands.type_into(hands.window.figure.side.panel("bins").widgets["Start at"], "60")
    strip = hands.window.figure.foot.notices
    assert "outside the bins (60 to" in strip.text.text()
    QTest.mouseClick(strip.cure, Qt.MouseButton.LeftButton)
    assert outside(hands.readings) == 0
    assert not strip.isVisible()


def test_heights_add_up_from_left_to_right_by_one_click(hands):
    label = "Add up from left to right"
    hands.tick("heights", label)
    panel = hands.panel("heights")
    assert hands.recipe.show.cumulative
    assert "heights in cumulative percent of each bay" in hands.sentence()
    assert [round(group.heights[-1], 9) for group in bars(hands.readings)] == [100, 100, 100]
    assert panel.widgets["In"].findText("density") < 0
    hands.press("Ctrl+Z")
    assert not hands.recipe.show.cumulative
    assert not panel.widgets[label].isChecked()


def test_names_are_shown_as_they_are_and_never_as_markup(empty, tmp_path):
    path = tmp_path / "markup.csv"
    path.write_text(
        "<b>bold</b>,g\n" + "".join(f"{i},<i>A</i>\n{i + 1},B & C\n" for i in range(20))
    )
    empty.open(path)
    empty.click_variable("g")
    model = empty.window.figure.variables.model
    tips = [model.index(row).data(Qt.ItemDataRole.ToolTipRole) for row in range(model.rowCount())]
    assert any("&lt;b&gt;bold" in (tip or "") for tip in tips)
    summary = empty.window.figure.foot.table.model()
    assert "&lt;i&gt;A" in summary.index(0, 0).data(Qt.ItemDataRole.ToolTipRole)
    assert (
        empty.window.figure.side.panel("split").levels.topLevelItem(1).toolTip(0).count("B &amp; C")
        == 1
    )


def test_pointing_at_a_summary_tells_the_numbers_that_have_no_column(hands):
    table = hands.window.figure.foot.table.model()
    tip = table.index(1, 0).data(Qt.ItemDataRole.ToolTipRole)
    assert "Saltmere\nstandard error" in tip
    assert "standard error of the mean: 0.4" in tip
    assert "excess kurtosis: −1." in tip


def test_the_definition_of_quartiles_is_chosen_in_plain_words(hands):
    button = hands.window.figure.foot.quartiles
    assert button.text() == "Quartiles: definition 7"
    table = hands.window.figure.foot.table.model()
    assert table.index(0, 8).data() == "81.3"
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    menu = QApplication.activePopupWidget()
    assert [action.isChecked() for action in menu.actions()].index(True) == 6
    assert menu.activeAction().isChecked()
    chosen = next(action for action in menu.actions() if action.text().startswith("Tukey’s hinges"))
    chosen.trigger()
    menu.close()
    assert hands.recipe.box.quartiles == "hinges"
    assert button.text() == "Quartiles: Tukey’s hinges"
    values = np.sort(hands.window.session.readings.samples.samples[0].values)
    assert table.index(0, 8).data() == f"{np.median(values[410:]):.1f}"
    assert hands.window.menus.undo.iconText() == "Undo Quartiles by hinges"


def test_rows_are_counted_by_a_variable_and_again_once(hands):
    hands.window.choose_phrase("variable")
    panel = hands.window.figure.side.panel("variable")
    assert [panel.weigh.itemText(i) for i in range(panel.weigh.count())] == [
        "once",
        "by Days to harvest",
        "by Barnacles",
    ]
    panel.weigh.setCurrentIndex(2)
    panel.weigh.activated.emit(2)
    assert "counted by Barnacles" in hands.sentence()
    values, weights = (
        hands.window.session.table.column(name).values for name in ("Shell length", "Barnacles")
    )
    assert sum(group.n for group in hands.readings.groups) == weights[~np.isnan(values)].sum()
    hands.press("Ctrl+Z")
    assert panel.weigh.currentText() == "once"
    assert "counted" not in hands.sentence()


def test_the_figure_is_copied_as_picture_and_svg(hands):
    hands.window.copy()
    content = QApplication.clipboard().mimeData()
    assert content.hasImage()
    assert b"Two harvests" in bytes(content.data("image/svg+xml"))


def test_small_and_large_windows_hold_the_figure(hands):
    for width, height in ((1024, 700), (900, 600), (2200, 1300)):
        hands.window.resize(width, height)
        QApplication.processEvents()
        stage = hands.window.figure.stage
        assert stage.rect().contains(stage.canvas.geometry())
        assert stage.rect().contains(stage.rod.geometry())
        assert np.isclose(stage.canvas.width() / stage.canvas.height(), 1.6, atol=0.02)


def test_thirty_groups_have_their_place(empty, tmp_path):
    path = tmp_path / "sites.csv"
    rows = "".join(f"{50 + i % 13}.5,Upper and outer mooring {i % 30}\n" for i in range(900))
    path.write_text("mass,site\n" + rows)
    empty.open(path)
    empty.click_variable("Site")
    assert len(empty.readings.groups) == 30
    assert empty.window.figure.foot.table.model().rowCount() == 30
    empty.window.grab()
