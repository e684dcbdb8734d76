"""Words typed on the paper, looks taken and saved: by the real widgets."""

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from rhabdos.figure.recipe.recipe_words import FigureText, TextStyle, Words
from rhabdos.paint.fonts import measure
from rhabdos.scene.marks import Area, Text
from rhabdos.scene.words.label_places import rect_of
from tests.app.texts import words_of

LEFT = Qt.MouseButton.LeftButton


def zone_of(hands, part, level=None):
    """The middle of the topmost zone of a part, in pixels."""
    canvas = hands.window.figure.stage.canvas
    zones = [z for z in canvas.scene.zones if z.meaning.part == part]
    zones = [z for z in zones if level is None or z.meaning.level == level]
    zone = zones[-1]
    return (QPointF(zone.left + zone.right, zone.top + zone.bottom) / 2 * canvas.scale).toPoint()


def click(hands, part, level=None):
    QTest.mouseClick(hands.window.figure.stage.canvas, LEFT, pos=zone_of(hands, part, level))


def typed(hands, text, *keys):
    """Type over what is selected in the field on the paper, then press keys."""
    field = hands.window.figure_actions.words.field
    assert field.isVisible()
    QTest.keyClicks(field, text)
    for key in keys or (Qt.Key.Key_Return,):
        QTest.keyClick(field, key)
    QApplication.processEvents()
    return field


def shown(hands, part):
    marks = hands.window.figure.stage.canvas.scene.marks
    return [m.text for m in marks if isinstance(m, Text) and m.meaning and m.meaning.part == part]


@pytest.mark.parametrize(
    ("part", "key"),
    [("title", "title"), ("value-title", "value_axis"), ("height-title", "height_axis")],
)
def test_words_are_typed_where_they_stand(hands, part, key):
    click(hands, part)
    assert hands.window.figure.side.chosen == "words"
    field = typed(hands, "Shells of the bays")
    assert not field.isVisible()
    assert getattr(hands.recipe.words, key) == "Shells of the bays"
    assert shown(hands, part) == ["Shells of the bays"]
    hands.press("Ctrl+Z")
    assert getattr(hands.recipe.words, key) != "Shells of the bays"


def test_the_figure_follows_the_typing_and_escape_leaves_it_as_it_was(hands):
    before = hands.recipe
    click(hands, "title")
    field = hands.window.figure_actions.words.field
    QTest.keyClicks(field, "Mean {mean} mm")
    assert shown(hands, "title") == ["Mean 74.91 mm"]
    assert hands.recipe == before
    QTest.keyClick(field, Qt.Key.Key_Escape)
    assert not field.isVisible()
    assert hands.recipe == before
    assert shown(hands, "title") == ["Two harvests hide in Saltmere"]


def test_a_title_can_be_typed_where_there_is_none(hands):
    click(hands, "title")
    QTest.keyClick(hands.window.figure_actions.words.field, Qt.Key.Key_Delete)
    QTest.keyClick(hands.window.figure_actions.words.field, Qt.Key.Key_Return)
    assert hands.recipe.words.title is None
    click(hands, "title")
    typed(hands, "Again")
    assert hands.recipe.words.title == "Again"


def test_shift_and_enter_begin_a_line(hands):
    click(hands, "title")
    field = hands.window.figure_actions.words.field
    QTest.keyClicks(field, "One")
    QTest.keyClick(field, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    typed(hands, "Two")
    assert hands.recipe.words.title == "One\nTwo"
    assert shown(hands, "title") == ["One", "Two"]


@pytest.mark.parametrize("upright", [False, True])
@pytest.mark.parametrize("paneled", [False, True])
def test_names_of_lanes_and_panels_are_typed_where_they_stand(hands, upright, paneled):
    recipe = hands.recipe.showing(forms=("box",), upright=upright)
    recipe = recipe.paneled(by=("Bay",)) if paneled else recipe.showing(arrange="lanes")
    hands.window.session.ask("Draw", recipe)
    canvas, field = hands.window.figure.stage.canvas, hands.window.figure_actions.words.field
    part = "panel" if paneled else "lane"
    names = [z for z in canvas.scene.zones if z.meaning.part == part and z.meaning.level]
    assert {z.meaning.level for z in names} == {"Heron Sound", "Saltmere", "Wick Narrows"}
    for zone in names:
        rects = [
            rect_of(mark, measure)
            for mark in canvas.scene.marks
            if isinstance(mark, Text) and mark.text.startswith(zone.meaning.level.split()[0])
        ]
        middles = [((r.left + r.right) / 2, (r.top + r.bottom) / 2) for r in rects]
        x, y = next(middle for middle in middles if zone.holds(*middle))
        there = QPoint(round(x * canvas.scale), round(y * canvas.scale))
        QTest.mouseDClick(canvas, LEFT, pos=there)
        assert field.toPlainText() == zone.meaning.level
        near = field.geometry().adjusted(-12, -30, 12, 30)
        assert near.contains(there), (zone.meaning.level, field.geometry(), there)
        QTest.keyClick(field, Qt.Key.Key_Escape)


def test_a_level_is_called_otherwise_by_a_double_click(hands):
    canvas = hands.window.figure.stage.canvas
    place = zone_of(hands, "legend", "Saltmere")
    QTest.mouseDClick(canvas, LEFT, pos=place)
    typed(hands, "The salt meres")
    assert hands.recipe.words.names == {"Saltmere": "The salt meres"}
    assert any(text.startswith("The salt meres") for text in shown(hands, "legend"))


def test_a_double_click_elsewhere_is_two_clicks(hands):
    canvas = hands.window.figure.stage.canvas
    hands.panel("words")
    place = zone_of(hands, "bars")
    QTest.mouseClick(canvas, LEFT, pos=place)
    QTest.mouseDClick(canvas, LEFT, pos=place)
    assert hands.window.figure.side.chosen == "bins"
    assert not hands.window.figure_actions.words.field.isVisible()


def test_a_text_is_written_in_the_figure_moved_and_taken_away(hands):
    hands.panel("words").write.click()
    typed(hands, "Harvest")
    assert [text.text for text in hands.recipe.text] == ["Harvest"]
    canvas = hands.window.figure.stage.canvas
    start = zone_of(hands, "text")
    QTest.mousePress(canvas, LEFT, pos=start)
    QTest.mouseMove(canvas, start + QPoint(60, 40))
    assert (zone_of(hands, "text") - start - QPoint(60, 40)).manhattanLength() < 4  # it follows
    assert hands.recipe.text[0].share == 0.85
    QTest.mouseRelease(canvas, LEFT, pos=start + QPoint(60, 40))
    assert hands.window.session.history.past[-1].name == "Move text"
    assert (zone_of(hands, "text") - start - QPoint(60, 40)).manhattanLength() < 4
    frame, scale = canvas.scene.frame, canvas.scale
    here = zone_of(hands, "text")
    there = QPoint(round(frame.along(60.0) * scale), round((frame.top + 90) * scale))
    QTest.mousePress(canvas, LEFT, Qt.KeyboardModifier.ShiftModifier, here)
    QTest.mouseMove(canvas, there)
    QTest.mouseRelease(canvas, LEFT, Qt.KeyboardModifier.ShiftModifier, there)
    assert abs(hands.recipe.text[0].arrow.value - 60) < 0.5
    assert hands.window.session.history.past[-1].name == "Point to"
    assert [m for m in canvas.scene.marks if isinstance(m, Area) and m.meaning.part == "text"]
    click(hands, "text")
    QTest.keyClick(hands.window.figure_actions.words.field, Qt.Key.Key_Escape)
    panel = hands.panel("words")
    assert panel.which.currentText() == "“Harvest”"
    panel.arrow.click()
    assert hands.recipe.text[0].arrow is None
    click(hands, "text")
    QTest.keyClick(hands.window.figure_actions.words.field, Qt.Key.Key_Delete)
    QTest.keyClick(hands.window.figure_actions.words.field, Qt.Key.Key_Return)
    assert hands.recipe.text == ()


def test_words_are_set_in_their_panel(hands):
    panel = hands.panel("words")
    panel.which.setCurrentIndex(0)
    panel.which.activated.emit(0)
    panel.place.setCurrentIndex(2)
    panel.place.activated.emit(2)
    hands.type_into(panel.size_, "16")
    QTest.mouseClick(panel.slant, LEFT, pos=QPoint(8, panel.slant.height() // 2))
    hands.type_into(panel.colour.field, "aa0000")
    style = hands.recipe.words.title_style
    assert (style.place, style.size, style.slant, style.colour) == ("middle", 16.0, True, "#AA0000")
    hands.type_into(panel.colour.field, "reddish")
    assert "six hexadecimal digits" in panel.fault.text()
    for name, colour in (("Teal", "#008080"), ("rebeccapurple", "#663399"), ("abc", "#AABBCC")):
        hands.type_into(panel.colour.field, name)
        assert hands.recipe.words.title_style.colour == colour
    for nothing in ("transparent", "inherit", "oklch(0.5 0.2 30)"):
        hands.type_into(panel.colour.field, nothing)
        assert "a name of the web" in panel.fault.text()
        assert hands.recipe.words.title_style.colour == "#AABBCC"
    hands.type_into(panel.colour.field, "aa0000")
    hands.type_into(panel.size_, "500")
    assert "must be from 3 to 72" in panel.fault.text()
    assert hands.recipe.words.title_style == style


def choose_words(hands, name):
    panel = hands.panel("words")
    row = panel.which.findText(name)
    panel.which.setCurrentIndex(row)
    panel.which.activated.emit(row)
    return panel


def test_names_of_levels_and_numbers_are_set_in_the_panel_of_words(hands):
    panel = choose_words(hands, "Names of levels")
    assert not panel.place.isEnabled()
    hands.type_into(panel.size_, "11")
    QTest.mouseClick(panel.bold, LEFT, pos=QPoint(8, panel.bold.height() // 2))
    style = hands.recipe.words.levels_style
    assert (style.size, style.bold) == (11.0, True)
    canvas = hands.window.figure.stage.canvas
    named = [m for m in canvas.scene.marks if isinstance(m, Text) and m.meaning.part == "legend"]
    assert {(m.size, m.bold) for m in named} == {(11.0, True)}
    assert hands.window.menus.undo.iconText() == "Undo Set names of levels"
    choose_words(hands, "Title of the levels")
    assert panel.place.isEnabled()
    choose_words(hands, "Numbers on the axes")
    hands.type_into(panel.size_, "7")
    assert {
        m.size
        for m in canvas.scene.marks
        if isinstance(m, Text) and m.meaning.part in ("value-axis", "height-axis")
    } == {7.0}


def test_the_size_of_names_and_numbers_is_in_their_own_panels_too(hands):
    hands.type_into(hands.panel("legend").widgets["Size of names"], "10 pt")
    assert hands.recipe.words.levels_style.size == 10.0
    hands.type_into(hands.panel("value_axis").widgets["Size of numbers"], "9")
    assert hands.recipe.words.numbers_style.size == 9.0
    hands.type_into(hands.panel("value_axis").widgets["Size of numbers"], "")
    assert hands.recipe.words.numbers_style.size is None


def test_what_lanes_are_levels_of_is_typed_where_it_stands(hands):
    recipe = hands.recipe
    hands.window.session.ask("Box", recipe.changed(show=recipe.show.changed(forms=("box",))))
    assert shown(hands, "factor") == ["Bay"]
    click(hands, "factor")
    typed(hands, "Three bays")
    assert shown(hands, "factor") == ["Three bays"]
    assert hands.recipe.words.names == {"Bay": "Three bays"}


@pytest.fixture
def looks(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path))


def fills(hands):
    marks = hands.window.figure.stage.canvas.scene.marks
    return {m.fill for m in marks if isinstance(m, Area) and m.meaning.part == "bars"}


def test_a_palette_a_look_and_a_single_colour_are_picked(hands, looks):
    panel = hands.panel("look")
    usual = fills(hands)
    panel.palettes["dusk"].click()
    assert hands.recipe.look.palette == "dusk"
    assert not panel.all_usual.isVisible()
    assert not fills(hands) & usual
    hands.type_into(panel.colours["Saltmere"].field, "#123456")
    assert "#123456" in fills(hands)
    panel.looks["night"].click()
    assert hands.window.figure.stage.canvas.scene.paper == "#141B1E"
    assert "#123456" in fills(hands)  # a level keeps its own colour in another look …
    panel.palettes["kelp"].click()
    assert "#123456" in fills(hands)  # … and in another palette
    panel.all_usual.click()
    assert "#123456" not in fills(hands)
    assert hands.recipe.look.palette == "kelp"
    for _ in range(5):
        hands.press("Ctrl+Z")
    assert fills(hands) == usual


def take_saved(panel, name):
    row = panel.saved.findText(name)
    panel.saved.setCurrentIndex(row)
    panel.saved.activated.emit(row)


def test_a_look_is_saved_and_used_on_another_figure(hands, looks, qtbot):
    panel = hands.panel("look")
    panel.looks["slide"].click()
    hands.type_into(panel.widgets["Outline"], "3")
    words = hands.recipe.words.changed(title="Mine", title_style=TextStyle(size=30, slant=True))
    hands.window.session.ask(
        "Title", hands.recipe.with_value_axis(decimal=",").changed(words=words)
    )
    hands.type_into(panel.name, "For the hall")
    panel.save.click()
    assert "is saved" in panel.done.text()
    for _ in range(3):
        hands.press("Ctrl+Z")
    hands.click_variable("Wet mass")
    take_saved(panel, "For the hall")
    assert (hands.recipe.look.base, hands.recipe.look.outline) == ("slide", 3.0)
    assert hands.recipe.words == Words(title_style=TextStyle(size=30, slant=True))
    assert hands.recipe.axes.value.decimal == ","
    panel.for_new.click()
    hands.window.session.opening.open_demo()
    qtbot.waitUntil(lambda: not hands.window.session.runner.running())
    from rhabdos.project.making import new_figure

    assert new_figure("Wet mass").look.outline == 3.0
    assert new_figure("Wet mass").words.title_style.size == 30


def test_a_saved_look_is_replaced_and_taken_away_in_words(hands, looks):
    panel = hands.panel("look")
    hands.type_into(panel.name, "Quay")
    assert words_of(panel.save) == "Save look"
    panel.save.click()
    assert words_of(panel.save) == "Replace look"
    hands.type_into(panel.name, "Quay 2")
    assert words_of(panel.save) == "Save look"
    hands.type_into(panel.name, "Quay")
    panel.looks["night"].click()
    panel.save.click()
    panel.looks["house"].click()
    take_saved(panel, "Quay")
    assert hands.recipe.look.base == "night"
    panel.forget.click()
    assert panel.saved.findText("Quay") == -1
    assert words_of(panel.forget) == "Bring it back"
    panel.forget.click()
    assert panel.saved.currentText() == "Quay"
    panel.looks["house"].click()
    take_saved(panel, "Quay")
    assert hands.recipe.look.base == "night"
    assert words_of(panel.forget) == "Take it away"


def test_a_text_stays_under_the_hand_at_the_edge_and_goes_back_with_escape(hands):
    hands.panel("words").write.click()
    typed(hands, "Harvest")
    canvas, start = hands.window.figure.stage.canvas, zone_of(hands, "text")
    taken = start + QPoint(12, 3)  # not in its middle
    QTest.mousePress(canvas, LEFT, pos=taken)
    QTest.mouseMove(canvas, taken + QPoint(30, 20))
    assert (zone_of(hands, "text") - start - QPoint(30, 20)).manhattanLength() < 4
    QTest.mouseMove(canvas, QPoint(canvas.width() - 2, 2))
    frame = canvas.scene.frame
    rects = [z for z in canvas.scene.zones if z.meaning.part == "text"]
    assert all(z.right <= frame.right and z.top >= frame.top - 1 for z in rects)
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert zone_of(hands, "text") == start
    QTest.mouseRelease(canvas, LEFT, pos=QPoint(canvas.width() - 2, 2))
    assert zone_of(hands, "text") == start


def test_no_more_texts_are_written_than_a_recipe_holds(hands):
    texts = tuple(FigureText(text=f"{n}", value=60.0, share=n / 200) for n in range(200))
    hands.window.session.ask("Texts", hands.recipe.changed(text=texts))
    hands.panel("words").write.click()
    assert "at most 200 texts" in hands.refusal()
    assert len(hands.recipe.text) == 200


def test_a_text_at_a_height_is_dragged_to_another_height(hands):
    text = FigureText(text="peak", value=60.0, height=20.0)
    hands.window.session.ask("Text", hands.recipe.changed(text=(text,)))
    canvas, start = hands.window.figure.stage.canvas, zone_of(hands, "text")
    band, scale = canvas.scene.frame.band, canvas.scale
    down = QPoint(0, round(abs(band.at(20.0) - band.at(12.0)) * scale))
    QTest.mousePress(canvas, LEFT, pos=start)
    QTest.mouseMove(canvas, start + down)
    QTest.mouseRelease(canvas, LEFT, pos=start + down)
    (moved,) = hands.recipe.text
    assert abs(moved.height - 12.0) < 0.3
    assert abs(moved.value - 60.0) < 0.2


def test_where_a_text_stands_and_its_arrow_points_is_typed(hands):
    panel = hands.panel("words")
    assert not panel.stands["at"].isVisible()
    panel.write.click()
    typed(hands, "Harvest")
    panel = hands.panel("words")
    panel.choose_part("text", "0")
    stands = panel.stands
    for key, text in (("at", "80 mm"), ("high", "40 %"), ("to", "65"), ("to_high", "12,5")):
        hands.type_into(stands[key], text)
    (text,) = hands.recipe.text
    assert (text.value, text.share, text.height) == (80.0, 0.4, None)
    assert (text.arrow.value, text.arrow.height) == (65.0, 12.5)
    assert [field.text() for field in stands.values()] == ["80 mm", "40 %", "65 mm", "12.5"]
    hands.type_into(stands["at"], "somewhere")
    assert "“somewhere” is no number" in panel.fault.text()
    hands.type_into(stands["high"], "140 %")
    assert "from 0 to 100 %" in panel.fault.text()
    hands.type_into(stands["at"], "80 mm")
    hands.type_into(stands["to"], "")
    assert hands.recipe.text[0].arrow is None
    assert not stands["to_high"].isEnabled()


def test_a_text_that_stands_nowhere_is_told(hands):
    hands.panel("words").write.click()
    typed(hands, "Harvest")
    panel = hands.panel("words")
    panel.choose_part("text", "0")
    hands.type_into(panel.stands["at"], "4000")
    told = [n.text for n in hands.window.figure.stage.notices if n.code == "texts-outside"]
    assert told == [
        "Not drawn, since the figure does not reach there: “Harvest” at 4000 mm. Move them, or "
        "change the limits of the axis."
    ]


def test_a_look_without_a_name_is_refused_in_words(hands, looks):
    panel = hands.panel("look")
    panel.save.click()
    assert "no name for a look" in panel.fault.text()


def test_a_colour_is_picked_at_its_swatch_in_the_legend(hands, looks):
    from PyQt6.QtGui import QColor
    from PyQt6.QtWidgets import QColorDialog

    click(hands, "swatch", "Saltmere")
    assert hands.window.figure.side.chosen == "look"
    picker = hands.window.findChild(QColorDialog)
    picker.setCurrentColor(QColor("#123456"))
    picker.accept()
    assert hands.recipe.look.colours == {"Saltmere": "#123456"}
    assert "#123456" in fills(hands)
    assert hands.recipe.groups.forward == ()
    hands.press("Ctrl+Z")
    assert hands.recipe.look.colours == {}


def test_a_font_that_is_not_here_is_told_and_put_right(hands, looks):
    hands.window.session.ask("Font", hands.recipe.looking(font="Nowhere Sans"))
    told = [n for n in hands.window.figure.stage.notices if n.code == "font-missing"]
    assert "“Nowhere Sans” is not installed here" in told[0].text
    hands.window.session.ask("Cure", told[0].cure)
    assert not hands.window.figure.stage.notices
