"""Decile arrows: from each tenth of the reference to the same tenth of every other group."""

import numpy as np
import pytest

from rhabdos.figure.edits.stops import Stop, card_of
from rhabdos.figure.forms.read import read
from rhabdos.figure.forms.shift import arrows
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.readings.reference import shown_reference
from rhabdos.figure.recipe.recipe import Compare
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Meaning, Segments, Text
from tests.conftest import measure, set_of

RNG = np.random.default_rng(12)
NEAR = RNG.normal(70, 8, 60).round(2).tolist()
FAR = RNG.normal(84, 15, 90).round(2).tolist()
FEW = RNG.normal(50, 4, 20).round(2).tolist()
TENTHS = np.arange(1, 10) / 10


def figure(text: str = "", groups=(NEAR, FAR, FEW), show: str = ""):
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n'
        f'forms = ["shift"]\n{show}\n{text}'
    )
    return read(recipe, set_of(*groups))


def test_arrows_go_from_the_tenths_of_the_reference_to_those_of_each_group():
    readings = figure('[compare]\nreference = "B"')
    drawn = arrows(readings)
    assert sorted(drawn) == [0, 2]
    for group, values in ((0, NEAR), (2, FEW)):
        assert drawn[group].starts == pytest.approx(np.quantile(FAR, TENTHS))
        assert drawn[group].ends == pytest.approx(np.quantile(values, TENTHS))
    whole = drawn[0]
    assert np.all((whole.low < whole.ends) & (whole.ends < whole.high))
    # Of twenty values only the inner tenths have an interval.
    assert np.isnan(drawn[2].low).tolist() == [True] + [False] * 7 + [True]
    assert "needs 36 values" in drawn[2].lack


def test_other_quartiles_and_confidences_are_followed():
    plain_ends = arrows(figure())[1]
    other = arrows(figure("[box]\nquartiles = 6"))[1]
    assert other.ends == pytest.approx(np.quantile(FAR, TENTHS, method="weibull"))
    surer = arrows(figure('[compare]\nreference = "A"\nconfidence = 0.999'))[1]
    assert np.nanmax(surer.high - surer.low) > np.nanmax(plain_ends.high - plain_ends.low)
    assert np.isnan(surer.low[0])  # sixty values are too few for the outer tenths at 99.9 %


def test_the_card_tells_the_tenth_both_values_and_the_interval():
    readings = figure()
    end = float(np.quantile(FAR, 0.7))
    card = card_of(readings, Stop("shift", 1, end))
    assert card.title == "7th tenth of B, from A"
    told = {line.label: line.cells[0] for line in card.lines}
    start = float(np.quantile(NEAR, 0.7))
    assert float(told["A"].split()[0]) == pytest.approx(start, abs=0.06)
    assert float(told["B"].split()[0]) == pytest.approx(end, abs=0.06)
    assert told["difference"].startswith("+")
    assert " to " in told["95 % interval"]
    few = card_of(readings, Stop("shift", 2, float(np.quantile(FEW, 0.1))))
    assert "needs 36 values" in few.notes[0]
    own = card_of(readings, Stop("shift", 0, float(np.quantile(NEAR, 0.3))))
    assert own.title == "3rd tenth of A"
    assert "reference" in own.notes[0]


def test_without_groups_or_with_a_reference_that_is_none_it_says_so():
    alone = read(
        read_recipe('rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = ["shift"]'), set_of(NEAR)
    )
    assert "nothing-to-compare" in [notice.code for notice in notices(alone)]
    build(alone, measure)
    readings = figure('[compare]\nreference = "Gone"')
    (notice,) = [n for n in notices(readings) if n.code == "no-such-reference"]
    assert "“Gone” is no group with values here, so arrows begin at “A”." in notice.text
    assert notice.cure.compare.reference == "A"
    assert shown_reference(readings).label == "A"
    empty = figure(groups=(NEAR, [float("nan")], FEW))
    assert sorted(arrows(empty)) == [2]


def test_what_is_compared_is_said_and_chosen_by_a_phrase():
    readings = figure()
    assert "Each bay is compared with A" in plain(readings)
    choices = PHRASES["compare"].alternatives(readings)
    assert [c.text for c in choices if c.recipe] == ["A", "B", "C", "no comparison"]
    last = choices[-1].recipe
    assert last.compare is None
    assert "shift" not in last.show.forms
    (sure,) = [s for s in PHRASES["compare"].settings if s.label == "Confidence"]
    assert sure.read("90 %", readings) == Compare(reference="A", confidence=0.9)
    assert sure.read("99.9", readings) == Compare(reference="A", confidence=0.999)


def test_the_numbers_print_each_arrow():
    rows = numbers_data(figure())["arrows"]
    assert len(rows) == 18
    first = rows[0]
    assert (first["sample"], first["reference"], first["share"]) == ("B", "A", 0.1)
    assert first["from"] == pytest.approx(np.quantile(NEAR, 0.1))
    assert first["low"] < first["to"] - first["from"] < first["high"]
    assert rows[9]["low"] is None


@pytest.mark.parametrize("rule", [("7", "linear"), ("6", "weibull"), ("1", "inverted_cdf")])
def test_ticks_of_the_reference_stand_where_its_arrows_begin(rule):
    quartiles, method = rule
    asked = f'[compare]\nreference = "A"\n[box]\nquartiles = {quartiles}'
    readings = figure(asked, groups=(FEW, FAR), show="upright = false")
    scene = build(readings, measure)
    ticks = [
        m for m in scene.marks
        if isinstance(m, Segments) and m.meaning == Meaning("shift", 0)
    ]  # fmt: skip
    frame = scene.frame
    share = (ticks[0].lines[:, 0] - frame.left) / (frame.right - frame.left)
    values = frame.low + share * (frame.high - frame.low)
    assert values == pytest.approx(np.quantile(FEW, TENTHS, method=method))
    assert arrows(readings)[1].starts == pytest.approx(values)


@pytest.mark.parametrize("upright", ["false", "true"])
@pytest.mark.parametrize("arrange", ["overlaid", "lanes"])
def test_heads_and_shades_lie_at_the_tenths_and_at_the_ends_of_intervals(upright, arrange):
    readings = figure(show=f'upright = {upright}\narrange = "{arrange}"')
    scene, drawn = build(readings, measure), arrows(readings)
    frame, axis = scene.frame, 1 if upright == "true" else 0
    start, end = (frame.bottom, frame.top) if axis else (frame.left, frame.right)

    def placed(values):
        return start + (np.asarray(values) - frame.low) / (frame.high - frame.low) * (end - start)

    for group, of in drawn.items():
        marks = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "shift"]
        mine = [m for m in marks if m.meaning.group == group]
        heads, shades = ([m for m in mine if m.smooth == head] for head in (True, False))
        heads.sort(key=lambda mark: mark.points[0, 1 - axis])
        assert [m.points[0, axis] for m in heads] == pytest.approx(placed(of.ends), abs=1e-6)
        shades.sort(key=lambda mark: mark.points[0, 1 - axis])
        has = np.isfinite(of.low)
        assert len(shades) == has.sum()
        for shade, low, high in zip(shades, of.low[has], of.high[has], strict=True):
            ends = sorted(placed([low, high]).tolist())
            held = shade.points[:, axis]
            assert [held.min(), held.max()] == pytest.approx(ends, abs=1e-6)
    note = [m.text for m in scene.marks if isinstance(m, Text) and "tenth" in m.text]
    assert note == ["Arrows go from each tenth of A to the group’s; shades are 95 % intervals"]


@pytest.mark.parametrize("small", [1.0, 1e-3])
def test_on_an_axis_of_logs_arrows_and_cards_tell_ratios(small):
    rng = np.random.default_rng(3)
    groups = [(small * rng.lognormal(at, 0.5, 80)).tolist() for at in (2.0, 2.5)]
    readings = figure('[axes.value]\nscale = "log"', groups)
    of = arrows(readings)[1]
    assert np.all((of.low < of.ends) & (of.ends < of.high))
    linear = arrows(figure("", groups))[1]
    assert of.ends == pytest.approx(linear.ends)
    assert not np.allclose(of.high, linear.high)
    card = card_of(readings, Stop("shift", 1, float(np.quantile(groups[1], 0.5))))
    told = {line.label: line.cells[0] for line in card.lines}
    ratio = np.quantile(groups[1], 0.5) / np.quantile(groups[0], 0.5)
    assert told["ratio"] == f"× {ratio:.3f}"
    assert told["95 % interval"].startswith("× ")
    build(readings, measure)
