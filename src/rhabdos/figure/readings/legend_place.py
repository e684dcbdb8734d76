"""Where a figure's legend is, and what it names."""

from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Form, LegendPlace

_LINES: set[Form] = {"polygon", "curve", "normal", "ecdf"}
_MOST_AT_LINES = 5  # groups whose names can stand at their lines


def legend_place(readings: Readings) -> LegendPlace:
    """Where the legend of a figure is, if it is not asked for elsewhere.

    A few lines alone have their names beside them; other groups that colours tell apart have a
    legend above.
    """
    of_levels = place_of_levels(readings)
    if not forms_told(readings) or readings.recipe.legend.place == "none":
        return of_levels
    if of_levels not in ("none", "lines"):
        return of_levels
    asked = readings.recipe.legend.place
    return "above" if asked is None or asked == "lines" else asked


def place_of_levels(readings: Readings) -> LegendPlace:
    """Where the groups that colours tell apart are named."""
    plan, asked = readings.plan, readings.recipe.legend.place
    if plan.coloured is None:
        return "none"
    if asked is not None:
        return asked
    if (len(plan.within) == 1 and plan.laned is not None) or in_one_colour(readings):
        return "none"
    lines = set(plan.heights) <= _LINES and not plan.strips
    single = len(plan.panels) == len(plan.lanes) == 1 and plan.arrange == "overlaid"
    few = 1 < len(plan.coloured.levels) <= _MOST_AT_LINES
    return "lines" if lines and single and few else "above"


def forms_told(readings: Readings) -> tuple[Form, ...]:
    """The forms that the legend names: of their own accord a density and a normal curve that are
    drawn together, else those that are asked for, where there are several."""
    asked, drawn = readings.recipe.legend.forms, readings.plan.heights
    if asked is None:
        asked = {"curve", "normal"} <= set(drawn)
    return drawn if asked and len(drawn) > 1 else ()


def in_one_colour(readings: Readings) -> bool:
    """Whether groups are so many, and named elsewhere, that all have one colour."""
    recipe = readings.recipe
    listed = recipe.legend.place not in (None, "none")  # which would tell nothing
    return readings.plan.named_without_colours and not (recipe.look.many_colours or listed)
