"""Forms and curves in the window, by mouse and by typing."""

import itertools

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from rhabdos.app.controls.theme import LIGHT
from rhabdos.figure.forms.curve import density_curves
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.paint.fonts import measure
from rhabdos.scene.marks import Path, Segments, Text

LABELS = {"bandwidth": "Bandwidth", "factor": "Factor", "lower": "Not below", "upper": "Not above"}


def toggle(hands, form):
    tick = hands.panel("forms").ticks[form]
    QTest.mouseClick(tick, Qt.MouseButton.LeftButton, pos=QPoint(8, tick.height() // 2))


def lines(hands, part):
    return [
        m
        for m in hands.window.figure.stage.canvas.scene.marks
        if isinstance(m, Path) and m.meaning.part == part
    ]


def test_one_click_adds_a_form_and_another_takes_it_away_and_all_else_stays(hands):
    before = hands.recipe
    toggle(hands, "curve")
    assert hands.recipe.show.forms == ("bars", "curve")
    assert "overlaid, drawn as bars + curve, lying" in hands.sentence()
    assert "curve bandwidth is 1.43 to 2.98 mm, by Silverman." in hands.sentence()
    assert len(lines(hands, "curve")) == len(lines(hands, "bars")) == 3
    toggle(hands, "bars")
    assert hands.recipe.show.forms == ("curve",)
    assert not lines(hands, "bars")
    assert hands.recipe.showing(forms=("bars",)) == before
    toggle(hands, "curve")
    assert hands.recipe.show.forms == ("curve",)  # a figure is drawn as something
    assert hands.window.figure.side.panel("forms").ticks["curve"].isChecked()
    assert hands.window.menus.undo.iconText() == "Undo Without bars"


def test_an_arrangement_that_boxes_did_not_heed_is_let_go_where_it_has_no_room(hands):
    show = {"split": ("Bay",), "forms": ("box",), "arrange": "back-to-back"}  # of three bays
    hands.window.session.ask("Boxes", hands.recipe.showing(**show))
    panel = hands.panel("forms")
    panel.ticks["bars"].click()
    assert (hands.recipe.show.forms, hands.recipe.show.arrange) == (("bars", "box"), None)
    hands.press("Ctrl+Z")
    panel.pictures["curve"].click()
    assert (hands.recipe.show.forms, hands.readings.plan.arrange) == (("curve",), "overlaid")


def test_every_form_has_a_picture_of_this_variable_in_the_groups_colours(hands):
    hands.window.choose_phrase("forms")
    panel = hands.window.figure.side.panel("forms")
    hands.qtbot.waitUntil(
        lambda: all(not b.icon().isNull() for b in panel.pictures.values()), timeout=5000
    )
    pictures = [b.icon().pixmap(b.iconSize()).toImage() for b in panel.pictures.values()]
    assert len(pictures) == len(FORMS)
    assert all(a != b for place, a in enumerate(pictures) for b in pictures[:place])


@pytest.mark.parametrize("heights", ["count", "percent", "density"])
@pytest.mark.parametrize("form", ["polygon", "curve", "normal", "ecdf"])
def test_a_line_is_always_inside_the_frame_and_the_axis_makes_room(hands, form, heights):
    hands.window.session.ask("Lines", hands.recipe.showing(forms=("bars", form), heights=heights))
    frame = hands.window.figure.stage.canvas.scene.frame
    part = {"polygon": "bars"}.get(form, form)
    drawn = lines(hands, part)[-3:]
    assert len(drawn) == 3
    for line in drawn:
        assert line.points[:, 0].min() >= frame.left - 1e-6
        assert line.points[:, 0].max() <= frame.right + 1e-6
        assert line.points[:, 1].min() >= frame.top - 1e-6
        assert line.points[:, 1].max() <= frame.bottom + 1e-6


@pytest.mark.parametrize(
    ("field", "text", "words"),
    [
        ("bandwidth", "2,5 mm", "2.5 mm, by hand"),
        ("factor", "2", "by Silverman, times 2"),
        ("lower", "0", "by Silverman"),
    ],
)
def test_curves_are_typed(hands, field, text, words):
    toggle(hands, "curve")
    hands.window.choose_phrase("curve")
    hands.type_into(hands.window.figure.side.panel("curve").widgets[LABELS[field]], text)
    assert words in hands.sentence()
    assert getattr(hands.recipe.curve, field) == float(text.split()[0].replace(",", "."))
    hands.type_into(hands.window.figure.side.panel("curve").widgets[LABELS[field]], "")
    assert hands.recipe.curve == type(hands.recipe.curve)()


@pytest.mark.parametrize(
    ("field", "text", "words"),
    [
        ("bandwidth", "wide", "“wide” is none"),
        ("bandwidth", "0", "must be above 0"),
        ("factor", "-1", "must be above 0"),
    ],
)
def test_nonsense_about_curves_gets_a_sentence_and_the_curve_stays(hands, field, text, words):
    toggle(hands, "curve")
    before = hands.recipe
    hands.window.choose_phrase("curve")
    hands.type_into(hands.window.figure.side.panel("curve").widgets[LABELS[field]], text)
    assert words in hands.window.figure.side.panel("curve").fault.text()
    assert hands.recipe == before


def test_bounds_that_cross_and_bounds_that_values_pass_are_refused(hands):
    toggle(hands, "curve")
    hands.window.choose_phrase("curve")
    fields = hands.window.figure.side.panel("curve").widgets
    hands.type_into(fields["Not below"], "10")
    hands.type_into(fields["Not above"], "5")
    assert "above lower" in hands.window.figure.side.panel("curve").fault.text()
    assert hands.recipe.curve.upper is None
    before = hands.recipe
    hands.type_into(fields["Not above"], "60")
    QTest.qWait(20)
    assert "lie above the upper bound 60" in hands.window.figure.side.panel("curve").fault.text()
    assert hands.recipe == before


def test_rule_kernel_and_fill_are_chosen(hands):
    toggle(hands, "curve")
    hands.choose("curve", "Rule", "Sheather–Jones")
    hands.choose("curve", "Kernel", "Triangular")
    hands.choose("curve", "Shape", "line and filled")
    settings = hands.recipe.curve
    assert (settings.bandwidth, settings.kernel, settings.fill) == (
        "sheather-jones",
        "triangular",
        True,
    )
    hands.choose("curve", "Rule", "by hand")
    assert hands.recipe.curve.bandwidth == pytest.approx(1.95, abs=0.3)


def test_a_click_on_a_curve_chooses_its_phrase_and_beside_it_the_bins(hands):
    toggle(hands, "curve")
    canvas = hands.window.figure.stage.canvas
    line = lines(hands, "curve")[0].points
    top = line[line[:, 1].argmin()] * canvas.scale
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=QPoint(round(top[0]), round(top[1])))
    assert hands.window.figure.side.chosen == "curve"
    QTest.mouseClick(
        canvas, Qt.MouseButton.LeftButton, pos=QPoint(round(top[0]), round(top[1]) + 60)
    )
    assert hands.window.figure.side.chosen == "bins"


def test_curves_are_kept_while_the_rod_is_dragged(hands, monkeypatch):
    toggle(hands, "curve")
    monkeypatch.setattr("rhabdos.figure.forms.curve.density", None)
    before = lines(hands, "curve")[0].points.copy()
    hands.drag_rod(60, 66, release=False)
    after = lines(hands, "curve")[0].points
    assert hands.readings.edges.width == pytest.approx(5.2, abs=0.11)
    assert not np.array_equal(before, after)  # as high as wider bars would be


def test_another_variable_keeps_the_forms_but_not_the_old_bandwidth_and_bounds(hands):
    toggle(hands, "curve")
    hands.window.session.ask(
        "By hand", hands.recipe.changed(curve=hands.recipe.curve.changed(bandwidth=2.0, lower=0.0))
    )
    hands.click_variable("Wet mass")
    assert hands.recipe.show.forms == ("bars", "curve")
    assert (hands.recipe.curve.bandwidth, hands.recipe.curve.lower) == ("silverman", None)


def test_long_names_leave_the_panels_as_wide_as_they_were(empty, tmp_path):
    path = tmp_path / "long.csv"
    name = "A name that goes on and on " * 20
    path.write_text(f'"v","{name}"\n' + "".join(f"{i},{'AB'[i % 2] * 300}\n" for i in range(60)))
    empty.open(path)
    left, _, right = empty.window.figure.columns.sizes()
    empty.click_variable(name.strip())
    for phrase in ("variable", "split", "forms", "heights", "bins"):
        empty.window.choose_phrase(phrase)
        empty.qtbot.wait(5)
        assert empty.window.figure.columns.sizes()[0::2] == [left, right]
    button = empty.window.sentence.button("split")
    assert button.width() < 460
    assert "on and on" in button.toolTip()


def test_ten_resizes_lay_the_page_out_at_most_once(hands, monkeypatch):
    from rhabdos.app.paper import stage

    laid_out = []
    build = stage.build
    monkeypatch.setattr(stage, "build", lambda *given: laid_out.append(given) or build(*given))
    for step in range(10):
        hands.window.resize(1280 - 20 * step, 800 - 10 * step)
        hands.qtbot.wait(5)
    assert len(laid_out) <= 1


@pytest.fixture
def bell(hands):
    toggle(hands, "curve")
    hands.window.choose_phrase("curve")
    return hands.window.figure.stage.bell


def drag(bell, start, end, release=True):
    button = Qt.MouseButton.LeftButton
    QTest.mousePress(bell, button, pos=QPoint(round(start), 12))
    QTest.mouseMove(bell, QPoint(round((start + end) / 2), 12))
    QTest.mouseMove(bell, QPoint(round(end), 12))
    if release:
        QTest.mouseRelease(bell, button, pos=QPoint(round(end), 12))


def test_the_bell_has_the_kernels_true_width_and_lies_under_the_value_axis(hands, bell):
    stage = hands.window.figure.stage
    assert bell.isVisible()
    assert not stage.rod.isVisible()
    frame = stage.canvas.scene.frame
    per_pixel = (frame.high - frame.low) / (frame.right - frame.left) / stage.canvas.scale
    assert (bell.flank() - bell.centre) * per_pixel == pytest.approx((1.43 + 2.98) / 2, abs=0.01)
    assert bell.x() == stage.canvas.x()
    hands.window.choose_phrase("bins")
    assert stage.rod.isVisible()
    assert not bell.isVisible()


def test_on_a_log_axis_the_bell_is_a_ratio(hands, bell):
    hands.choose("value_axis", "Scale", "in logs")
    hands.window.choose_phrase("curve")
    frame = hands.window.figure.stage.canvas.scene.frame
    share = 60 / ((frame.end - frame.start) * hands.window.figure.stage.canvas.scale)
    drag(bell, bell.flank(), bell.centre + 60, release=False)
    assert bell.flank() - bell.centre == pytest.approx(60, abs=1)
    QTest.mouseRelease(bell, Qt.MouseButton.LeftButton, pos=QPoint(round(bell.centre + 60), 12))
    width = hands.recipe.curve.bandwidth
    assert width == pytest.approx((frame.high / frame.low) ** share, rel=0.01)
    assert f"a factor of {width:g}, by hand" in hands.sentence()
    hands.keys(bell, Qt.Key.Key_Right)
    assert hands.recipe.curve.bandwidth > width
    hands.choose("value_axis", "Scale", "linear")
    assert hands.recipe.curve.bandwidth == "silverman"


def test_dragging_a_flank_sets_the_bandwidth_and_the_curve_follows(hands, bell):
    steps = len(hands.window.session.history.past)
    frame, before = hands.window.figure.stage.canvas.scene.frame, hands.recipe
    grain = (
        (frame.high - frame.low)
        / (frame.right - frame.left)
        / hands.window.figure.stage.canvas.scale
    )
    drag(bell, bell.flank(), bell.centre + 4.0 / grain, release=False)
    assert [c.bandwidth for c in density_widths(hands)] == [pytest.approx(4.0, abs=grain)] * 3
    assert "by hand" in hands.sentence()
    assert hands.recipe == before
    assert hands.window.figure.stage.canvas.scene.frame.low == frame.low
    QTest.mouseRelease(
        bell, Qt.MouseButton.LeftButton, pos=QPoint(round(bell.centre + 4.0 / grain), 12)
    )
    assert hands.recipe.curve.bandwidth == pytest.approx(4.0, abs=grain)
    assert len(hands.window.session.history.past) == steps + 1
    assert hands.window.menus.undo.iconText().startswith("Undo Bandwidth ")
    hands.press("Ctrl+Z")
    assert hands.recipe == before


def density_widths(hands):
    return [reading.curve for reading in density_curves(hands.readings)]


def test_the_left_flank_is_as_good_and_beside_the_flanks_nothing_is_held(hands, bell):
    before = hands.recipe
    drag(bell, bell.centre, bell.centre + 120)
    assert hands.recipe == before
    mirrored = 2 * bell.centre - bell.flank()
    drag(bell, mirrored, mirrored - 30)
    assert hands.recipe.curve.bandwidth > 2.9


def test_keys_widen_and_narrow_and_escape_lets_go(hands, bell):
    hands.press("Ctrl+R")
    hands.keys(bell, Qt.Key.Key_Up)
    wider = hands.recipe.curve.bandwidth
    assert wider > 2.2
    hands.keys(bell, Qt.Key.Key_Down, Qt.Key.Key_Down)
    assert hands.recipe.curve.bandwidth < wider
    before = hands.recipe
    drag(bell, bell.flank(), bell.flank() + 60, release=False)
    hands.keys(bell, Qt.Key.Key_Escape)
    QTest.mouseRelease(bell, Qt.MouseButton.LeftButton, pos=QPoint(5, 12))
    assert hands.recipe == before
    assert {c.bandwidth for c in density_widths(hands)} == {before.curve.bandwidth}


def test_the_bell_is_painted_in_brass_with_its_bandwidth_below(hands, bell):
    hands.qtbot.wait(10)
    picture = bell.grab().toImage()
    grip = picture.pixelColor(round(bell.flank()), 14)
    assert grip.name() == LIGHT.brass.lower()
    assert picture.pixelColor(round(bell.centre) + 250, 14).name() == LIGHT.rod.lower()
    assert "bandwidth 1.43 to 2.98 mm, by Silverman" in bell.readout()


def test_where_bins_do_not_matter_the_rod_holds_the_bell(hands):
    hands.window.session.ask("Densities", hands.recipe.showing(forms=("curve",), heights="density"))
    hands.window.choose_phrase("heights")
    assert hands.window.figure.stage.bell.isVisible()
    assert hands.window.sentence.button("bins") is None


def centres(hands):
    marks = [
        m
        for m in hands.window.figure.stage.canvas.scene.marks
        if m.meaning and m.meaning.part == "centre"
    ]
    return [m for m in marks if isinstance(m, Segments)], [m for m in marks if isinstance(m, Text)]


def test_lines_mark_means_and_medians_with_their_values_and_a_click_chooses_them(hands):
    hands.tick("lines", "At the mean, dashed")
    assert "; lines mark the mean." in hands.sentence()
    drawn, words = centres(hands)
    frame = hands.window.figure.stage.canvas.scene.frame
    means = [summary.mean for summary in hands.readings.summaries]
    assert sorted(frame.value(m.lines[0, 0]) for m in drawn) == pytest.approx(sorted(means))
    assert {m.text for m in words} == {f"mean {mean:.1f}" for mean in means}
    assert all(m.dash for m in drawn)
    hands.tick("lines", "At the median, whole")
    drawn, words = centres(hands)
    assert len(drawn) == len(words) == 6
    assert "the mean and the median" in hands.window.sentence.button("lines").text()
    boxes = []
    for m in words:
        wide = measure(m.text, m.size, False)
        left = m.x - (wide if m.anchor == "end" else 0.0)
        boxes.append((left, m.y, left + wide))
    assert len({m.colour for m in words}) == 3  # the words of a group are in its colour
    for a, b in itertools.combinations(boxes, 2):
        assert a[1] != b[1] or a[2] <= b[0] or b[2] <= a[0]
    width = hands.window.figure.stage.canvas.scene.width
    assert all(0 <= left < right <= width for left, _, right in boxes)
    hands.tick("lines", "At the mean, dashed")
    assert not hands.recipe.lines.mean


def test_the_line_of_a_form_is_set_in_its_panel_and_by_clicking_it(hands):
    forms = ("bars", "curve", "normal")
    recipe = hands.recipe.showing(forms=forms, split=(), heights="density")
    hands.window.session.ask("Draw", recipe)
    canvas, side = hands.window.figure.stage.canvas, hands.window.figure.side
    line = next(m for m in canvas.scene.marks if m.meaning and m.meaning.part == "normal")
    x, y = line.points[len(line.points) // 5]
    where = QPoint(round(x * canvas.scale), round(y * canvas.scale))
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=where)
    assert side.chosen == "curve"
    panel = side.panel("curve")
    hands.type_into(panel.widgets["Normal curve, width"], "2.5 pt")
    assert hands.recipe.strokes.normal.width == 2.5
    hands.type_into(panel.widgets["Normal curve"].field, "#1E2B2F")
    assert hands.recipe.strokes.normal.colour == "#1E2B2F"
    hands.type_into(panel.widgets["Normal curve, width"], "12")
    assert hands.recipe.strokes.normal.width == 2.5
    assert "10" in panel.fault.text()
    hands.window.session.ask("Without", hands.recipe.showing(forms=("bars", "curve")))
    assert panel.widgets["Normal curve, width"].isHidden()


def test_shades_of_another_sample_are_chosen_typed_and_told(hands):
    hands.choose("sway", "Shaded", "another sample")
    canvas = hands.window.figure.stage.canvas
    shades = [m for m in canvas.scene.marks if m.meaning and m.meaning.part == "sway"]
    assert len(shades) == 3
    assert "shades show where 95 % of other samples would lie" in hands.sentence()
    hands.type_into(hands.panel("sway").widgets["Share"], "80")
    assert hands.recipe.sway.confidence == 0.8
    hands.drag_rod(60.0, 63.0)
    assert [m.meaning.group for m in canvas.scene.marks if m.meaning and m.meaning.part == "sway"]
    hands.choose("sway", "Shaded", "nothing")
    assert "shades" not in hands.sentence()
