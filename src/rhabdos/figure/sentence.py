"""The figure as one sentence that can be read aloud; its phrases are the choices."""

from typing import Literal

from msgspec import Struct

from rhabdos.figure.readings import Readings
from rhabdos.figure.wording import counted, exact, height_axis_title, in_running_text, with_unit
from rhabdos.keeping import kept_with
from rhabdos.stats.rules import RULES

Phrase = Literal["variable", "split", "heights", "bins", "words"]


class Fragment(Struct, frozen=True):
    """A piece of the sentence; ``phrase`` names the choice that it is, if it is one."""

    text: str
    phrase: Phrase | None = None


@kept_with
def sentence(readings: Readings) -> tuple[Fragment, ...]:
    """The sentence of a figure, in pieces; joined, they read as one text."""
    variable, split = readings.variable, readings.split
    rows = "every row that has one" if variable.missing else "every row"
    weight = readings.samples.weight
    weighed = f", counted by {weight.label}" if weight else ""
    pieces = [Fragment(variable.label, "variable"), Fragment(f" of {rows}{weighed}, ")]
    if split:
        pieces += [Fragment("split by "), Fragment(split.label, "split"), Fragment(", drawn as overlaid bars, ")]
    else:
        pieces += [Fragment("all together", "split"), Fragment(", drawn as bars, ")]
    pieces += [Fragment("heights in "), Fragment(heights_phrase(readings), "heights"), Fragment(". Bins are ")]
    return (*pieces, Fragment(bins_phrase(readings), "bins"), Fragment("."))


def plain(readings: Readings) -> str:
    """The sentence as text, for captions and screen readers."""
    return "".join(fragment.text for fragment in sentence(readings))


def heights_phrase(readings: Readings) -> str:
    if readings.scale == "count":
        return "cumulative counts" if readings.cumulative else "counts"
    label = readings.split.label if readings.split else None
    unit = readings.variable.unit
    if readings.scale == "density":
        of_all = " of all" if readings.recipe.show.of == "all" and readings.split else ""
        return with_unit(f"density{of_all}", f"per {unit}") if unit else f"density{of_all}"
    return in_running_text(height_axis_title(readings.scale, readings.recipe.show.of, label, unit, readings.cumulative))


def bins_phrase(readings: Readings) -> str:
    bins, edges, unit = readings.recipe.bins, readings.edges, readings.variable.unit
    if bins.edges is not None:
        return f"{edges.count:,} of your own, {exact(edges.low)} to {with_unit(exact(edges.high), unit)}"
    width = with_unit(f"{edges.width:.4g}" if not bins.round else exact(edges.width or 0), unit)
    made = f"{width} wide from {exact(edges.low) if bins.round else f'{edges.low:.4g}'}"
    if bins.count is not None:
        return f"{counted(edges.count, 'in number', 'in number')}, {made}"
    if bins.width is None:
        rule = bins.rule or "automatic"
        return f"{made}, {'automatic' if rule == 'automatic' else f'by {RULES[rule].title}'}"
    return made
