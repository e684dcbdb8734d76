"""The figure as one sentence that can be read aloud; its phrases are the choices."""

from typing import Literal

from msgspec import Struct

from rhabdos.figure.readings import Readings
from rhabdos.figure.wording import (
    FORM_TITLES,
    counted,
    exact,
    height_axis_title,
    in_running_text,
    with_unit,
)
from rhabdos.keeping import kept_with
from rhabdos.stats.rules import RULES

Phrase = Literal["variable", "split", "forms", "heights", "bins", "curve", "lines", "words"]


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
        pieces += [Fragment("split by "), Fragment(split.label, "split")]
    else:
        pieces += [Fragment("all together", "split")]
    pieces += [Fragment(", drawn as "), Fragment(forms_phrase(readings), "forms")]
    pieces += [Fragment(" overlaid, heights in " if split else ", heights in ")]
    pieces += [Fragment(heights_phrase(readings), "heights")]
    if bins_matter(readings):
        pieces += [Fragment(". Bins are "), Fragment(bins_phrase(readings), "bins")]
    if "curve" in readings.recipe.show.forms:
        joined = "; curve bandwidth is " if bins_matter(readings) else ". Curve bandwidth is "
        pieces += [Fragment(joined), Fragment(curve_phrase(readings), "curve")]
    lines = readings.recipe.lines
    if centres := [name for name in ("mean", "median") if getattr(lines, name)]:
        pieces += [Fragment("; lines mark "), Fragment(f"the {' and the '.join(centres)}", "lines")]
    return (*pieces, Fragment("."))


def plain(readings: Readings) -> str:
    """The sentence as text, for captions and screen readers."""
    return "".join(fragment.text for fragment in sentence(readings))


def forms_phrase(readings: Readings) -> str:
    """The forms as one word: "bars + curve"."""
    return " + ".join(FORM_TITLES[form] for form in readings.recipe.show.forms)


def bins_matter(readings: Readings) -> bool:
    """Whether the figure changes with its bins: where they are drawn, or curves are as high as bars
    would be."""
    forms = set(readings.recipe.show.forms)
    as_high = readings.scale != "density" and not readings.cumulative
    return bool(forms & {"bars", "outline", "polygon"}) or (
        as_high and bool(forms & {"curve", "normal"})
    )


def curve_phrase(readings: Readings) -> str:
    """The bandwidths of the curves, and where they come from."""
    from rhabdos.figure.curves import density_curves  # which no figure of bars waits for
    from rhabdos.stats.bandwidths import TITLES

    settings = readings.recipe.curve
    by = f"by {TITLES[settings.bandwidth]}" if isinstance(settings.bandwidth, str) else "by hand"
    if settings.factor != 1:
        by += f", times {exact(settings.factor)}"
    widths = [reading.curve.bandwidth for reading in density_curves(readings) if reading.curve]
    if not widths:
        return by
    ends = [exact(float(f"{width:.3g}")) for width in (min(widths), max(widths))]
    text = ends[0] if ends[0] == ends[1] else " to ".join(ends)
    return f"{with_unit(text, readings.variable.unit)}, {by}"


def heights_phrase(readings: Readings) -> str:
    if readings.scale == "count":
        return "cumulative counts" if readings.cumulative else "counts"
    label = readings.split.label if readings.split else None
    unit = readings.variable.unit
    if readings.scale == "density":
        of_all = " of all" if readings.recipe.show.of == "all" and readings.split else ""
        return with_unit(f"density{of_all}", f"per {unit}") if unit else f"density{of_all}"
    return in_running_text(
        height_axis_title(readings.scale, readings.recipe.show.of, label, unit, readings.cumulative)
    )


def bins_phrase(readings: Readings) -> str:
    bins, edges, unit = readings.recipe.bins, readings.edges, readings.variable.unit
    if bins.edges is not None:
        return (
            f"{edges.count:,} of your own, {exact(edges.low)} to "
            f"{with_unit(exact(edges.high), unit)}"
        )
    width = with_unit(f"{edges.width:.4g}" if not bins.round else exact(edges.width or 0), unit)
    made = f"{width} wide from {exact(edges.low) if bins.round else f'{edges.low:.4g}'}"
    if bins.count is not None:
        return f"{counted(edges.count, 'in number', 'in number')}, {made}"
    if bins.width is None:
        rule = bins.rule or "automatic"
        return f"{made}, {'automatic' if rule == 'automatic' else f'by {RULES[rule].title}'}"
    return made
