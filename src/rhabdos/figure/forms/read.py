"""A recipe answered with numbers, or refused where its forms cannot show what it asks."""

from rhabdos.data.sample_sets import SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.readings.axis_limits import check_axes
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.forms import FORMS, needs_bins
from rhabdos.figure.recipe.recipe import Recipe


def read(recipe: Recipe, gathered: SampleSet) -> Readings:
    """Answer a recipe with numbers; those of bins at once, since they may be refused.

    Raises
    ------
    BinningError
        The bins cannot be made from these values.
    VariableError
        The variable that names the values beyond boxes is not in the table.
    """
    readings = Readings(recipe, gathered)
    _refuse_meaningless_stack(readings)
    check_axes(readings)
    if any(FORMS[form].bins == "always" for form in recipe.show.forms):
        from rhabdos.figure.forms.bars import bars

        bars(readings)
    elif needs_bins(recipe):
        _ = readings.own_edges
    if "box" in recipe.show.forms:
        from rhabdos.figure.forms.box import check_names

        check_names(readings)
    return readings


def _refuse_meaningless_stack(readings: Readings) -> None:
    """Densities of each group have each an area of 1, and add up to nothing."""
    if not readings.plan.stacks_curves or readings.recipe.show.of == "all":
        return
    if readings.scale == "density":
        raise Refusal(
            "Curves of the density of each group cannot be stacked: each has an area of 1 by "
            "itself, and their sum means nothing. Show counts, or the density of all values, or "
            "lay the curves over one another."
        )
