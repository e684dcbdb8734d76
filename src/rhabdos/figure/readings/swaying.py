"""Which forms of a figure show their sway, and what that is called."""

from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Form, Recipe

SWAYING: tuple[Form, ...] = ("bars", "outline", "polygon", "curve", "ecdf", "box")
"""Forms that can tell how they would come out in another sample."""


def sway_of(recipe: Recipe) -> str | None:
    """What is to be shown, if anything that the figure can: of stacks the sums would sway, not the
    parts."""
    return None if recipe.show.arrange == "stacked" else recipe.sway.of


def swaying(readings: Readings, form: Form) -> bool:
    """Whether a form shows its sway."""
    of = sway_of(readings.recipe)
    return readings.plan.arrange != "stacked" and (
        (of == "sample" and form in SWAYING) or (of == "start" and form in ("bars", "outline"))
    )


def sway_told(readings: Readings) -> str:
    """What shades mean, where some form shows them."""
    forms = [*readings.plan.heights, *readings.plan.strips]
    if not any(swaying(readings, form) for form in forms):
        return ""
    if readings.recipe.sway.of == "start":
        return "Shades: heights as the start of the bins slides through one width"
    sure = readings.recipe.sway.confidence
    return f"Shades: where {100 * sure:g} % of other samples of this size would lie"
