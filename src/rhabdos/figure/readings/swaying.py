"""Which forms of a figure show their sway, and what that is called."""

from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Form

SWAYING: tuple[Form, ...] = (
    "bars", "outline", "polygon", "curve", "normal", "ecdf", "violin", "box",
)  # fmt: skip
"""Forms that can tell how they would come out in another sample."""


def swaying(readings: Readings, form: Form) -> bool:
    """Whether a form shows its sway; other starts of bins are not told of stacks."""
    of = readings.recipe.sway.of
    if of == "start":
        return form in ("bars", "outline") and readings.plan.arrange != "stacked"
    return of == "sample" and form in SWAYING


def sway_told(readings: Readings) -> str:
    """What shades mean, where some form shows them."""
    forms = [*readings.plan.heights, *readings.plan.strips]
    if not any(swaying(readings, form) for form in forms):
        return ""
    if readings.recipe.sway.of == "start":
        return "Shades: heights as the start of the bins slides through one width"
    sure = readings.recipe.sway.confidence
    return f"Shades: where {100 * sure:g} % of other samples of this size would lie"
