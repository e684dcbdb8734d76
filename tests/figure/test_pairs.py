"""Quantile pairs: beside named shapes and beside the group that others are compared with."""

import numpy as np
import pytest
from scipy import stats

from rhabdos.figure.edits.part_rows import rows_of_stop
from rhabdos.figure.edits.stops import Stop, card_of
from rhabdos.figure.forms.pairs import pairs_of
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.output.numbers_csv import numbers_csv
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.recipe.toml_text import RecipeError, read_recipe
from rhabdos.scene.build import build
from rhabdos.scene.marks import Area, Dots, Segments
from tests.conftest import measure, set_of

RNG = np.random.default_rng(31)
NEAR = RNG.normal(70, 8, 60).round(2).tolist()
TWO = [*RNG.normal(50, 3, 60).round(2), *RNG.normal(90, 3, 60).round(2)]
BELOW = RNG.normal(0, 4, 30).round(2).tolist()
SHAPES = {
    "normal": stats.norm,
    "uniform": stats.uniform,
    "logistic": stats.logistic,
    "exponential": stats.expon,
}


def figure(text: str = "", groups=(NEAR, TWO), show: str = ""):
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n'
        f'forms = ["pairs"]\n{show}\n{text}'
    )
    return read(recipe, set_of(*groups))


@pytest.mark.parametrize("name", list(SHAPES))
def test_values_stand_beside_the_quantiles_of_a_shape_of_their_mean_and_sd(name):
    found = pairs_of(figure(f'[pairs]\nbeside = "{name}"'), 0)
    shares = (np.arange(60) + 0.5) / 60
    shape = SHAPES[name]()
    if name == "exponential":
        expected = np.mean(NEAR) * shape.ppf(shares)
    else:
        plain_places = (shape.ppf(shares) - shape.mean()) / shape.std()
        expected = np.mean(NEAR) + np.std(NEAR, ddof=1) * plain_places
    assert found.y == pytest.approx(np.sort(NEAR))
    assert found.x == pytest.approx(expected)


def test_a_lognormal_shape_is_a_normal_one_of_logs_whatever_the_axis():
    of_logs = pairs_of(figure('[pairs]\nbeside = "lognormal"'), 1)
    on_logs = pairs_of(figure('[axes.value]\nscale = "log"'), 1)
    logs = np.log(TWO)
    shares = (np.arange(120) + 0.5) / 120
    expected = np.exp(logs.mean() + logs.std(ddof=1) * stats.norm.ppf(shares))
    for found in (of_logs, on_logs):
        assert found.x == pytest.approx(expected)
        assert np.all(found.low < found.high)
    assert of_logs.low == pytest.approx(on_logs.low)


def test_beside_the_reference_stand_its_quantiles_and_it_has_no_band():
    readings = figure('[compare]\nreference = "B"\n[pairs]\nbeside = "reference"')
    found = pairs_of(readings, 0)
    shares = (np.arange(60) + 0.5) / 60
    assert found.x == pytest.approx(np.quantile(TWO, shares, method="hazen"))
    assert found.beyond > 0
    own = pairs_of(readings, 1)
    assert own.x == pytest.approx(own.y)
    assert np.isnan(own.low).all()
    assert "Quantiles stand beside those of B" in plain(readings)


@pytest.mark.parametrize("name", ["normal", "exponential"])
@pytest.mark.parametrize("n", [3, 20, 150, 900])
def test_the_band_holds_all_points_of_as_many_samples_as_it_says(name, n):
    """Of 400 samples 95 in 100 lie whole in it: fewer than 91.5 % happen once in a thousand."""
    chance = np.random.default_rng(n)
    draws = {
        "normal": lambda: chance.normal(5, 2, n),
        "exponential": lambda: chance.exponential(3, n),
    }
    held = 0
    for _ in range(400):
        sample = set_of(draws[name]().tolist())
        recipe = read_recipe(
            'rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = ["pairs"]\n'
            f'[pairs]\nbeside = "{name}"'
        )
        held += pairs_of(read(recipe, sample), 0).beyond == 0
    assert 0.915 <= held / 400 <= 0.985


@pytest.mark.parametrize(("n", "m"), [(4, 4), (12, 40), (40, 12), (150, 90), (600, 700)])
@pytest.mark.parametrize("discrete", [False, True])
def test_so_does_the_band_about_a_reference_whatever_the_distribution(n, m, discrete):
    chance = np.random.default_rng([n, m])
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\nforms = ["pairs"]\n'
        '[pairs]\nbeside = "reference"'
    )
    held, trials = 0, 200
    for _ in range(trials):
        both = (
            (chance.poisson(3, k).astype(float) if discrete else chance.normal(0, 1, k)).tolist()
            for k in (m, n)
        )
        held += pairs_of(read(recipe, set_of(*both)), 1).beyond == 0
    assert held / trials >= 0.895  # 95 in 100; less happens once in a thousand


def test_other_shapes_are_told_from_the_one_that_is_asked_for():
    found = pairs_of(figure(), 1)
    assert found.beyond > 20
    wider = pairs_of(figure("[pairs]\nconfidence = 0.99"), 1)
    assert np.all(wider.high - wider.low > found.high - found.low)
    without = pairs_of(figure("[pairs]\nband = false"), 1)
    assert without.beyond == 0
    assert np.isnan(without.low).all()


def test_the_card_tells_both_quantiles_and_what_the_band_says():
    readings = figure()
    card = card_of(readings, Stop("pairs", 0, sorted(NEAR)[29]))
    assert card.title == "49.2 % of A lie below"
    told = {line.label: float(line.cells[0].split()[0]) for line in card.lines[:2]}
    assert told["A"] == pytest.approx(sorted(NEAR)[29], abs=0.06)
    expected = stats.norm.ppf(29.5 / 60, np.mean(NEAR), np.std(NEAR, ddof=1))
    assert told["a normal shape"] == pytest.approx(expected, abs=0.06)
    assert "here all 60 points lie in it" in card.notes[0]
    other = card_of(readings, Stop("pairs", 1, 50.0))
    beyond = pairs_of(readings, 1).beyond
    assert f"here {beyond} of 120 points lie beyond it" in other.notes[0]


def test_the_rows_of_a_point_are_those_nearer_to_it_than_to_others():
    ordered = sorted(set(NEAR))
    kept = rows_of_stop(figure(), Stop("pairs", 0, ordered[20]))
    condition = kept.where[0]
    least = condition.low if condition.low is not None else condition.above
    most = condition.high if condition.high is not None else condition.below
    inside = [value for value in NEAR if least <= value <= most]
    assert set(inside) == {ordered[20]}


def test_groups_that_a_shape_cannot_have_are_named_and_others_stay():
    readings = figure('[pairs]\nbeside = "lognormal"', (NEAR, BELOW))
    (notice,) = [n for n in notices(readings) if n.code == "no-pairs"]
    assert notice.text == ("No quantile pairs of “B”: a lognormal shape has only values above 0.")
    scene = build(readings, measure)
    drawn = {m.meaning.group for m in scene.marks if isinstance(m, Dots)}
    assert drawn == {0}
    ties = figure(groups=(NEAR, [4.0] * 9))
    assert any("two different values" in n.text for n in notices(ties))
    alone = read(
        read_recipe(
            'rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = ["pairs"]\n'
            '[pairs]\nbeside = "reference"'
        ),
        set_of(NEAR),
    )
    (notice,) = [n for n in notices(alone) if n.code == "no-pairs"]
    assert notice.cure.pairs.beside == "normal"
    build(alone, measure)


@pytest.mark.parametrize("upright", ["true", "false"])
def test_points_and_band_lie_where_their_quantiles_are(upright):
    readings = figure(show=f"upright = {upright}")
    scene = build(readings, measure)
    frame = scene.frame
    found = pairs_of(readings, 0)
    marks = [
        m for m in scene.marks if m.meaning and m.meaning.part == "pairs" and m.meaning.group == 0
    ]
    (dots,) = (m for m in marks if isinstance(m, Dots))
    (band,) = (m for m in marks if isinstance(m, Area))
    (line,) = (m for m in marks if isinstance(m, Segments))
    axis, back = (1, 0) if frame.upright else (0, 1)
    along = np.array([frame.along(value) for value in found.y])
    along = scene.height - along if frame.upright else along
    assert dots.places[:, axis] == pytest.approx(along, abs=0.01)
    # Across, equal steps of the shape's quantiles are equal steps on the page.
    fit = np.polyfit(found.x, dots.places[:, back], 1)
    assert np.polyval(fit, found.x) == pytest.approx(dots.places[:, back], abs=0.01)
    assert np.polyval(fit, found.x) == pytest.approx(band.points[:60, back], abs=0.01)
    start, end = line.lines[0][:2], line.lines[0][2:]
    for place, value in ((start, found.x[0]), (end, found.x[-1])):
        told = frame.along(float(value))
        assert place[axis] == pytest.approx(scene.height - told if frame.upright else told)
        assert place[back] == pytest.approx(np.polyval(fit, value), abs=0.01)


def test_the_numbers_print_both_quantiles_and_the_band():
    readings = figure('[compare]\nreference = "A"\n[pairs]\nbeside = "reference"')
    first, second = numbers_data(readings)["quantile_pairs"]
    assert (first["sample"], second["sample"], second["beside"]) == ("A", "B", "A")
    assert first["low"][0] is None
    assert len(second["y"]) == len(second["high"]) == 60
    assert "quantile of A at share" in numbers_csv(readings)


def test_what_they_stand_beside_is_a_phrase_and_a_tick_of_compare():
    readings = figure()
    choices = PHRASES["pairs"].alternatives(readings)
    assert [c.text for c in choices][-1] == "A, the reference"
    assert choices[0].current
    (tick,) = [s for s in PHRASES["compare"].settings if s.label == "Quantile pairs"]
    assert tick.value_in(readings) is False
    shown = tick.changed(readings.recipe, True)
    assert shown.pairs.beside == "reference"
    assert shown.show.forms == ("pairs",)
    with pytest.raises(RecipeError, match=r"pairs\.confidence"):
        figure("[pairs]\nconfidence = 0.999")
