"""What the foot of the window lists of a figure: its groups in numbers, compared, bin by bin, and
at their quantiles."""

import math
from collections.abc import Callable, Iterator

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.data.sample_sets import SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.forms.bars import Bars, bars
from rhabdos.figure.forms.curve import modes
from rhabdos.figure.output.comparisons import Comparison, assumptions, comparisons
from rhabdos.figure.output.listed import NOTHING, Listed, as_count, as_name
from rhabdos.figure.output.seen import main_sentence
from rhabdos.figure.output.variable_numbers import spread_share
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.reference import compared_with, quantile_definition, reference_of
from rhabdos.figure.readings.value_scale import placed
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.memo import last_answers
from rhabdos.quoting import quoted
from rhabdos.stats.axis_scale import AxisScale
from rhabdos.stats.quantiles import quantiles
from rhabdos.stats.summary import TRIMMED
from rhabdos.stats.two_samples.comparing import Estimate
from rhabdos.wording import counted, finer, places_for, rounded

_MEASURES = ("mean", "sd", "min", "q1", "median", "q3", "max", "iqr")
_APART = ("sd", "iqr")
_SUMMARY = ("n", "missing", "mean", "sd", "min", "Q1", "median", "Q3", "max", "IQR")
_COMPARED = ("median", "mean", "sd is … times", "overlap", "is the greater", "differs most")
FURTHER = {
    "se": "standard error",
    "trimmed_mean": "trimmed mean",
    "geometric_mean": "geometric mean",
    "mode": "mode",
    "mad": "MAD",
    "skewness": "skewness",
    "kurtosis": "kurtosis",
    "cv": "sd / mean",
}
"""Numbers that the summary has besides, where they are chosen, and their titles."""
_BARE = ("skewness", "kurtosis", "cv")  # measures without the variable's unit
MOST_SHARES = 40
SHARES = (0.01, 0.05, 0.1, 0.25, 0.5, 0.75, 0.9, 0.95, 0.99)
_TENTHS = ("1st", "2nd", "3rd", "4th", "5th", "6th", "7th", "8th", "9th")


class FaceRow(Struct, frozen=True):
    """A row of a face, and the group that it is about."""

    group: int
    cells: tuple[Listed, ...]


class Face(Struct, frozen=True):
    """A list about a figure.

    Attributes
    ----------
    titles : tuple of str
        Of the columns, the first of which names groups.
    rows : tuple of FaceRow
        In the order of the groups.
    sentence : str
        The main thing that it says, if it says one.
    """

    titles: tuple[str, ...]
    rows: tuple[FaceRow, ...]
    sentence: str = ""


def _named(readings: Readings) -> tuple[object, ...]:
    """What names groups, puts them in order and sums them up, beside their samples."""
    recipe = readings.recipe
    return (
        recipe.show, recipe.panels, recipe.groups.changed(forward=()), recipe.words.names,
        recipe.box.quartiles,
    )  # fmt: skip


def summary_face(readings: Readings, further: tuple[str, ...] = ()) -> Face:
    """Each group in numbers, and in ``further`` ones; all places of a value axis with the same
    decimals."""
    return _summary_face(readings.samples, readings, further)


@last_answers(lambda _samples, readings, further: (*_named(readings), further), most=2)
def _summary_face(_samples: SampleSet, readings: Readings, further: tuple[str, ...]) -> Face:
    rows = []
    for group, summary in zip(readings.groups, readings.summaries, strict=True):
        places = _places(readings, group.axis)
        tip = _more(readings, group.index)
        cells = [Listed(group.label, group.label.casefold(), tip)]
        cells += [_told(as_count(number), tip) for number in (group.n, group.missing)]
        for name in _MEASURES:
            number = getattr(summary, name)
            cells.append(
                Listed(_written(group.variable, name in _APART, number, places), number, tip)
            )
        cells += [_told(_further(readings, group, name, places), tip) for name in further]
        rows.append(FaceRow(group.index, tuple(cells)))
    titles = (*_SUMMARY, *(FURTHER[name] for name in further))
    return Face((readings.divided or "", *titles), tuple(rows))


def _further(readings: Readings, group: Group, name: str, places: int | None) -> Listed:
    """A number that the summary has besides."""
    if name == "mode":
        number = modes(readings)[group.index]
    elif name == "geometric_mean":
        number = geometric_mean(group)
    elif name == "cv":
        number = spread_share(group.variable, readings.summaries[group.index])
    else:
        number = float(getattr(readings.summaries[group.index], name))
    if not math.isfinite(number):
        return NOTHING
    if name in _BARE:
        return Listed(rounded(number, 2), number)
    return Listed(_written(group.variable, name in ("se", "mad"), number, places), number)


def geometric_mean(group: Group) -> float:
    """The antilog of the mean of the logs; NaN where some value is not above 0, and of dates."""
    sample = group.sample
    if not sample.n or sample.minimum <= 0 or isinstance(group.variable, DateColumn):
        return math.nan
    return float(10 ** placed(sample, AxisScale("log")).moments.mean)


def read_shares(text: str) -> tuple[float, ...]:
    """Shares that are typed in percent, such as 5, 50, 95.

    Raises
    ------
    Refusal
        Some is no percentage, or they are too many.
    """
    shares = []
    for part in text.replace(";", ",").split(","):
        if not part.strip():
            continue
        percent = read_number(part.strip().removesuffix("%").strip())
        if percent is None or not 0 <= percent <= 100:
            raise Refusal(f"{quoted(part.strip())} is no percentage. Write such as 5, 50, 95.")
        shares.append(round(percent / 100, 12))
    if len(shares) > MOST_SHARES:
        raise Refusal(f"At most {MOST_SHARES} shares are listed. Leave some out.")
    return tuple(sorted(set(shares)))


def quantiles_face(readings: Readings, shares: tuple[float, ...] = SHARES) -> Face:
    """Each group at some shares of its values, by the definition of quartiles that is chosen."""
    return _quantiles_face(readings.samples, readings, shares)


@last_answers(lambda _samples, readings, shares: (*_named(readings), shares), most=2)
def _quantiles_face(_samples: SampleSet, readings: Readings, shares: tuple[float, ...]) -> Face:
    definition = quantile_definition(readings)
    rows = []
    for group in readings.groups:
        places = _places(readings, group.axis)
        cells = [as_name(group.label), as_count(group.n)]
        if group.n:
            numbers = quantiles(group.sample, np.array(shares), definition).tolist()
            cells += [Listed(group.variable.rounded(q, places), q) for q in numbers]
        else:
            cells += [NOTHING] * len(shares)
        rows.append(FaceRow(group.index, tuple(cells)))
    titles = (f"{100 * share:g} %" for share in shares)
    return Face((readings.divided or "", "n", *titles), tuple(rows))


def bins_face(readings: Readings) -> Face:
    """Each bin of each group: its edges, how many values it holds, their share and density."""
    rows: list[FaceRow] = []
    for group, drawn in zip(readings.groups, bars(readings), strict=True):
        rows += _bins_of(readings, group, drawn)
    per = f"density per {readings.per}" if readings.per else "density"
    return Face((readings.divided or "", "from", "to", "count", "percent", per), tuple(rows))


def _bins_of(readings: Readings, group: Group, drawn: Bars) -> Iterator[FaceRow]:
    """The rows of one group; a density is per unit, or per step along the axis."""
    edges, counts, outside = drawn.edges.values, drawn.counts, drawn.outside
    name, of = as_name(group.label), max(group.n, 1)
    densities = counts / of / readings.scale_of(group.index).widths(drawn.edges)
    densest = float(densities.max(initial=0.0))
    places = places_for(densest / 10, densest)  # three figures of the highest, and lined up
    for low, high, count, density in zip(
        edges[:-1].tolist(), edges[1:].tolist(), counts.tolist(), densities.tolist(), strict=True
    ):
        cells = (
            name,
            Listed(group.variable.written(low), low),
            Listed(group.variable.written(high), high),
            as_count(count),
            Listed(rounded(100 * count / of, 1), 100 * count / of),
            Listed(rounded(density, places), density),
        )
        yield FaceRow(group.index, cells)
    if outside:
        words = Listed("outside", math.nan)
        share = Listed(rounded(100 * outside / of, 1), 100 * outside / of)
        yield FaceRow(group.index, (name, words, NOTHING, as_count(outside), share, NOTHING))


def compare_face(readings: Readings) -> Face:
    """Each group compared with the reference, each number with its interval; kept with the samples
    as long as nothing that it depends on changes.

    Raises
    ------
    Refusal
        The figure has no groups, or the reference is none of them or has no values.
    """
    return _compare_face(readings.samples, readings)


@last_answers(
    lambda _samples, readings: (
        *_named(readings),
        compared_with(readings),
        readings.recipe.curve,
        readings.recipe.axes.value.scale,
    ),
    most=2,
)
def _compare_face(_samples: SampleSet, readings: Readings) -> Face:
    settings = compared_with(readings)
    if readings.recipe.compare is None:
        readings = Readings(readings.recipe.changed(compare=settings), readings.gathered)
    reference = reference_of(readings, settings)
    compared = {comparison.sample: comparison for comparison in comparisons(readings)}
    rows = []
    for group in readings.groups:
        name = as_name(group.label)
        if group.label in compared and (pairs := compared[group.label].paired) is not None:
            told = counted(len(pairs.ours), "pair", "pairs")
            alone = f"{pairs.alone:,} and {pairs.alone_there:,} values have no partner"
            name = Listed(group.label, group.label.casefold(), f"{told}; {alone}")
        if group.index == reference.index:
            cells = _of_reference(readings, group)
        elif group.label in compared:
            cells = _compared(readings, group, compared[group.label])
        else:
            cells = (NOTHING,) * len(_COMPARED)
        rows.append(FaceRow(group.index, (name, *cells)))
    said = main_sentence(readings, [(name, each.exceeds) for name, each in compared.items()])
    numbers = {len(each.paired.ours) for each in compared.values() if each.paired is not None}
    if numbers:
        most = max(numbers)
        said = f"{counted(most, 'pair', 'pairs')}{' at most' if len(numbers) > 1 else ''}. {said}"
    return Face((readings.divided or "", *_COMPARED), tuple(rows), said)


def _of_reference(readings: Readings, group: Group) -> tuple[Listed, ...]:
    summary, places = readings.summaries[group.index], _places(readings, group.axis)
    own = "The reference itself, in its own numbers."
    return (
        Listed(group.variable.rounded(summary.median, places), math.nan, own),
        Listed(group.variable.rounded(summary.mean, places), math.nan, own),
        Listed(_written(group.variable, True, summary.sd, places), math.nan, own),
        NOTHING,
        NOTHING,
        Listed("reference", math.nan, own),
    )


def _compared(readings: Readings, group: Group, found: Comparison) -> tuple[Listed, ...]:
    places = _places(readings, group.axis)

    assumes = assumptions(found)

    def apart(estimate: Estimate, name: str) -> Listed:
        return _with_interval(estimate, write, assumes[name])

    def write(number: float) -> str:
        if found.ratios:
            return f"× {rounded(number, 2)}"
        return _written(group.variable, True, number, places)

    lengths = [
        abs(math.log(each.value)) if found.ratios and each.value > 0 else abs(each.value)
        for each in found.quantiles
    ]
    far = int(np.argmax(np.nan_to_num(lengths, nan=-1.0)))
    most = found.quantiles[far]
    return (
        apart(found.median, "median"),
        apart(found.mean, "mean"),
        _with_interval(found.sd_ratio, lambda ratio: rounded(ratio, 2), assumes["sd_ratio"]),
        _share(found.overlap, assumes["overlap"]),
        _chance(found.exceeds, assumes["exceeds"]),
        Listed(f"{write(most.value)} in the {_TENTHS[far]} tenth", most.value, assumes["quantiles"])
        if math.isfinite(most.value)
        else NOTHING,
    )


def _with_interval(estimate: Estimate, write: Callable[[float], str], supposes: str) -> Listed:
    if not math.isfinite(estimate.value):
        return Listed("–", math.nan, estimate.lack or supposes)
    text = write(estimate.value)
    if math.isfinite(estimate.low) and math.isfinite(estimate.high):
        text += f"  ({write(estimate.low)} to {write(estimate.high)})"
    return Listed(text, estimate.value, estimate.lack or supposes)


def _chance(estimate: Estimate, supposes: str) -> Listed:
    """ "46 in 100  (43 to 49)"."""
    if not math.isfinite(estimate.value):
        return NOTHING
    text = f"{100 * estimate.value:.0f} in 100"
    if math.isfinite(estimate.low):
        text += f"  ({100 * estimate.low:.0f} to {100 * estimate.high:.0f})"
    return Listed(text, estimate.value, estimate.lack or supposes)


def _share(share: float, tip: str) -> Listed:
    return Listed(f"{100 * share:.0f} %", share, tip) if math.isfinite(share) else NOTHING


def _told(cell: Listed, tip: str) -> Listed:
    return Listed(cell.text, cell.value, tip)


def _written(variable: NumberColumn, apart: bool, number: float, places: int | None) -> str:
    """A place along the axis, or how far two lie apart."""
    return (variable.format_rounded_difference if apart else variable.rounded)(number, places)


def _more(readings: Readings, row: int) -> str:
    """The numbers of a group that the summary has no room for."""
    summary, group = readings.summaries[row], readings.groups[row]
    places, variable = _places(readings, group.axis), group.variable
    more, dated = finer(places), isinstance(variable, DateColumn)
    share = f"sd as a share of the mean: {rounded(100 * summary.cv, 1)} %"
    lines = [
        group.label,
        f"standard error of the mean: {_written(variable, True, summary.se, more)}",
        f"variance: {rounded(summary.variance, more)}{' days²' if dated else ''}",
        *(() if dated else (share,)),
        f"skewness: {rounded(summary.skewness, 2)}, excess kurtosis: "
        f"{rounded(summary.kurtosis, 2)}",
        f"median distance from the median: {_written(variable, True, summary.mad, more)}",
        f"mean without the outer {100 * TRIMMED:.0f} % at either end: "
        f"{_written(variable, False, summary.trimmed_mean, places)}",
    ]
    return "\n".join(lines)


def _places(readings: Readings, axis: int) -> int | None:
    """The same number of decimals for all groups on a value axis, so that columns line up."""
    both = zip(readings.groups, readings.summaries, strict=True)
    filled = [summary for group, summary in both if summary.n and group.axis == axis]
    spread = max((s.sd for s in filled if s.sd == s.sd), default=0.0)
    reach = max((max(abs(s.min), abs(s.max)) for s in filled), default=0.0)
    return places_for(spread, reach)


def has_groups(readings: Readings | None) -> bool:
    """Whether a figure has groups to be compared."""
    return readings is not None and readings.divided is not None


def lack_of(face: str, readings: Readings) -> str:
    """Why a face has nothing to show; empty where it has."""
    if face == "compare" and readings.divided is None:
        return "Nothing to compare: split by a factor in the sentence, or show several variables."
    if face == "bins" and not readings.needs_bins:
        return "This figure has no bins: draw bars, outlines or polygons."
    return ""
