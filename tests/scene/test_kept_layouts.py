"""What is kept while a hand drags: a figure is drawn as one that nothing was kept of."""

import random

import numpy as np
import pytest
from msgspec import structs

from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.recipe.recipe import Curves, Recipe
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.recipe_words import Words
from rhabdos.scene.axes.limits import limits_of
from rhabdos.scene.build import build
from rhabdos.scene.marks import Scene
from tests.figures import random_figure
from tests.kept_figures import measure

LONG = range(40, 120), 6


def dragged(recipe: Recipe, chance: random.Random, wide: float) -> Recipe:
    """The recipe after a movement of a hand, or with other words."""
    width = wide / chance.choice([3, 17, 40, 200])
    return chance.choice(
        [
            recipe.binned(Bins(width=width, start=width * chance.random())),
            recipe.binned(Bins(count=chance.randint(1, 60))),
            recipe.changed(curve=Curves(factor=chance.choice([0.2, 1.0, 3.0]))),
            recipe.changed(box=structs.replace(recipe.box, whiskers=3 * chance.random())),
            recipe.with_value_axis(ticks=chance.choice(["edges", "middles", None])),
            recipe.changed(words=Words(title=chance.choice(["{bins} bins", "Shells", ""]))),
        ]
    )


def as_drawn(scene: Scene) -> list[object]:
    """All that a scene holds, so that it can be compared."""

    def plain(thing: object) -> object:
        """Without arrays, which do not compare as wholes."""
        if isinstance(thing, np.ndarray):
            return thing.tolist()
        if hasattr(thing, "__struct_fields__"):
            return [
                type(thing).__name__,
                *(plain(getattr(thing, f)) for f in structs.asdict(thing)),
            ]
        return thing

    zones = [plain(zone) for zone in scene.zones]
    return [*(plain(mark) for mark in scene.marks), zones, scene.left_out, scene.width]


@pytest.mark.parametrize(
    ("seeds", "steps"), [(range(26), 4), pytest.param(*LONG, marks=pytest.mark.long)]
)
def test_a_figure_under_a_hand_is_drawn_as_one_that_nothing_is_kept_of(seeds, steps):
    compared = 0
    for seed in seeds:
        made, chance = random_figure(seed), random.Random(seed)
        readings = made.readings()
        if readings is None or not readings.pools[0].n:
            continue
        pool, held = readings.pools[0], chance.choice([None, limits_of(readings)])
        wide = pool.maximum - pool.minimum or 1.0
        for _ in range(steps):
            try:
                recipe = dragged(readings.recipe, chance, wide)
                readings = read(recipe, readings.gathered)
                drawn = build(readings, measure, held)
            except Refusal:
                continue
            anew = build(read(recipe, samples_for(recipe, made.table)), measure, held)
            assert as_drawn(drawn) == as_drawn(anew), (seed, recipe)
            compared += 1
    assert compared > 2 * len(seeds)
