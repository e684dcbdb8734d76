"""The figure that the demo opens with."""

from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.recipe_words import Words


def demo_recipe() -> Recipe:
    """Shell length at three bays, one of which hides two harvests."""
    return Recipe(
        show=Show(variables=("Shell length",), split=("Bay",), heights="percent"),
        bins=Bins(width=4.0, start=40.0),
        words=Words(title="Two harvests hide in Saltmere"),
    )
