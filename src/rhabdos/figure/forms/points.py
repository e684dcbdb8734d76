"""Points: the values themselves."""

from collections.abc import Sequence

import numpy as np

from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.words.tooltip import Card, Line
from rhabdos.wording import counted


def card(readings: Readings, groups: Sequence[int], _pointed: int | None, value: float) -> Card:
    """The value nearest to a place, how many have it, and where it stands among the others."""
    of_group = readings.groups[groups[0]]
    sample, variable = of_group.sample, of_group.variable
    if not of_group.n:
        return Card(of_group.label, (), (), notes=("There are no values to draw.",))
    above = int(sample.below(np.array([value]))[0])
    ranks = np.unique(np.clip([above - 1, above], 0, of_group.n - 1))
    near = sample.at(ranks)
    nearest = near[int(np.abs(near - value).argmin())]
    first = int(sample.below(np.array([nearest]))[0])
    last = int(sample.below(np.array([nearest]), inclusive=True)[0])
    lines = (
        Line("so many have it", (f"{last - first:,} of {of_group.n:,}",)),
        Line("lie below", (f"{100 * first / of_group.n:.1f} %",)),
        Line("lie above", (f"{100 * (of_group.n - last) / of_group.n:.1f} %",)),
    )
    title = f"{of_group.label}: {variable.format_with_unit(float(nearest))}"
    span = f"{variable.written(sample.minimum)} to {variable.format_with_unit(sample.maximum)}"
    return Card(title, ("",), lines, notes=(f"{counted(of_group.n, 'value', 'values')}, {span}.",))


FORM = FigureForm(card=card)
