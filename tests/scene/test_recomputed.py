"""Figures of the whole space of recipes against a second derivation: what is painted (areas, places,
lines, words) and what is told (cards, rows, numbers on bars)."""

import itertools

import pytest

from rhabdos.paint.fonts import measure_for
from rhabdos.scene.build import build
from tests import recomputed
from tests.figures import ARRANGEMENTS, HEIGHTS, combined, random_figure
from tests.scene import layouts

pytestmark = pytest.mark.usefixtures("qapp")
GAPS = (0.0, 0.1, 0.6)
AXES = ("linear", "log", "root", "arsinh", "date")
FORMS = (
    "bars", "outline", "polygon", "curve", "normal", "ecdf", "violin", "box", "points", "shift",
    "pairs",
)  # fmt: skip
PARTS, EACH = 8, 50
EACH_WAY = 5  # one way in so many is drawn each time; all others with ``make long``
SHORT = 1  # parts that are drawn each time; all others with ``make long``


def wrong_in(made) -> list[str] | None:
    """None where the figure is refused."""
    readings = made.readings()
    if readings is None:
        return None
    measure = measure_for(readings.recipe)
    scene = build(readings, measure)
    words = [*layouts.faults(scene, measure), *layouts.struck(scene, measure)]
    painted = recomputed.faults(made.table, readings, scene)
    return [*painted, *recomputed.told(made.table, readings, scene), *words]


@pytest.mark.parametrize("axis", AXES)
@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize("part", [0, pytest.param(1, marks=pytest.mark.long)])
def test_every_form_is_painted_right_in_arrangements_gaps_and_heights(form, axis, part):
    gaps = GAPS if form in ("bars", "outline") else (0.1,)  # no other form has one
    all_ways = list(enumerate(itertools.product(ARRANGEMENTS, gaps, HEIGHTS, (False, True))))
    ways = [all_ways[at] for at in range(len(all_ways)) if (at % EACH_WAY == 0) == (part == 0)]
    drawn = 0
    for seed, (arrange, gap, heights, upright) in ways:
        made = combined(form, arrange, gap, heights, upright, axis, seed)
        wrong = wrong_in(made)
        assert not wrong, (made.text, wrong)
        drawn += wrong is not None
    assert drawn > len(ways) / 2


@pytest.mark.parametrize(
    "part",
    [*range(SHORT), *(pytest.param(part, marks=pytest.mark.long) for part in range(SHORT, PARTS))],
)
def test_random_figures_are_painted_right(part):
    drawn = 0
    for seed in range(part * EACH, (part + 1) * EACH):
        wrong = wrong_in(random_figure(seed))
        assert not wrong, (seed, wrong)
        drawn += wrong is not None
    assert drawn > EACH * 0.6
