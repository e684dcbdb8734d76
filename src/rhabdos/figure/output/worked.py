"""Formulas with the numbers of a figure put in, a line each."""

import math
from collections.abc import Callable, Iterator

import numpy as np

from rhabdos.arrays import FloatArray, IntArray
from rhabdos.data.columns import DateColumn
from rhabdos.errors import Refusal
from rhabdos.figure.forms.bars import bars, bin_at, interval
from rhabdos.figure.forms.box import boxes
from rhabdos.figure.forms.curve import bandwidth_words, density_curves
from rhabdos.figure.forms.pairs import pairs_of
from rhabdos.figure.output.subjects import Subject
from rhabdos.figure.readings.pairing import Paired, paired_values
from rhabdos.figure.readings.readings import Group, Readings, edges_for
from rhabdos.figure.readings.reference import in_ratios, quantile_definition, shown_reference
from rhabdos.stats.bandwidths import TITLES
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.quantiles import placed, quantiles
from rhabdos.stats.rules import RULES
from rhabdos.wording import counted, scientific

_PLAIN = 1e-4, 1e9  # between which numbers are written without powers of ten
_DIGITS = 5  # that numbers in formulas have
_MOST_RULED = 4  # axes or groups whose rule is told


Here = Callable[[Readings, Group, Subject], Iterator[str]]


# Numbers in formulas


def _n(number: float) -> str:
    """A number to five figures."""
    if not math.isfinite(number):
        return "–"
    if number and not _PLAIN[0] <= abs(number) < _PLAIN[1]:
        return scientific(number, _DIGITS)
    places = max(0, _DIGITS - 1 - math.floor(math.log10(abs(number)))) if number else 0
    text = f"{number:,.{min(places, 12)}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return text.replace("-", "−")


def _place(group: Group, value: float) -> str:
    """A value in its unit."""
    if isinstance(group.variable, DateColumn):
        return group.variable.format_with_unit(value)
    return f"{_n(value)} {group.unit}".strip()


def _apart(group: Group, width: float) -> str:
    """How far two values lie apart."""
    if isinstance(group.variable, DateColumn):
        return group.variable.format_difference(width)
    return f"{_n(width)} {group.unit}".strip()


def of_mean(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """The sum shared by n."""
    mean = readings.summaries[group.index].mean
    if isinstance(group.variable, DateColumn):
        dates = counted(group.n, "date", "dates")
        yield f"x̄ of {dates} = {_place(group, mean)}"
    else:
        yield f"x̄ = {_n(mean * group.n)} / {group.n:,} = {_place(group, mean)}"


def of_sd(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """The squares shared by n − 1."""
    sd = readings.summaries[group.index].sd
    if group.n > 1:
        squares = _n(sd * sd * (group.n - 1))
        yield f"s = √({squares} / ({group.n:,} − 1)) = {_apart(group, sd)}"


def of_se(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """The sd over the root of n."""
    summary = readings.summaries[group.index]
    yield f"s / √n = {_n(summary.sd)} / √{group.n:,} = {_apart(group, summary.se)}"


def of_variance(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """The square of the sd."""
    summary = readings.summaries[group.index]
    yield f"s² = {_n(summary.sd)}² = {_n(summary.variance)}"


def of_cv(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """The sd over the mean."""
    summary = readings.summaries[group.index]
    if not isinstance(group.variable, DateColumn):
        yield f"s / |x̄| = {_n(summary.sd)} / {_n(abs(summary.mean))} = {_n(summary.cv)}"


def of_extent(readings: Readings, group: Group, subject: Subject) -> Iterator[str]:
    """The first or the last in order."""
    summary = readings.summaries[group.index]
    if subject.topic == "min":
        yield f"x₁, the first of {group.n:,} in order = {_place(group, summary.min)}"
    else:
        yield f"xₙ, the last of {group.n:,} in order = {_place(group, summary.max)}"


def of_iqr(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """The distance of the quartiles."""
    summary = readings.summaries[group.index]
    ends = _place(group, summary.q3), _place(group, summary.q1)
    yield f"Q₃ − Q₁ = {ends[0]} − {ends[1]} = {_apart(group, summary.iqr)}"


def of_counts(_readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """How many rows have a value."""
    rows = counted(group.n + group.missing, "row", "rows")
    have = "has" if group.missing == 1 else "have"
    yield f"n = {group.n:,} of {rows}; {group.missing:,} {have} none"


_SHARES = {"q1": 0.25, "median": 0.5, "q3": 0.75}


def of_quantile(readings: Readings, group: Group, subject: Subject) -> Iterator[str]:
    """The rank that a share stands at, and what the values about it come to."""
    share = _SHARES.get(subject.topic, subject.value if subject.value is not None else 0.5)
    rule = readings.recipe.box.quartiles
    if rule == "hinges" and subject.topic in _SHARES:
        quantile = getattr(readings.summaries[group.index], subject.topic)
        inner = ((group.n + 1) // 2 + 1) / 2
        depth = (group.n + 1) / 2 if subject.topic == "median" else inner
        end = "upper" if subject.topic == "q3" else "lower"
        yield f"at depth {depth:g} from the {end} end = {_place(group, quantile)}"
        return
    definition = quantile_definition(readings)
    lower, upper, part = (each.tolist()[0] for each in placed(group.n, _one(share), definition))
    low, high = group.sample.at(_ranks(lower, upper)).tolist()
    value = low if low == high else low * (1 - part) + high * part
    told = f"p = {share:g} of {group.n:,} values, definition {definition}: "
    if part == 0 or low == high:
        yield told + f"value number {lower + 1:,} in order = {_place(group, value)}"
    elif isinstance(group.variable, DateColumn):
        yield told + (
            f"{part:.4g} of the way from number {lower + 1:,} to {upper + 1:,} = "
            f"{_place(group, value)}"
        )
    else:
        yield told + (
            f"between number {lower + 1:,} and {upper + 1:,} in order: "
            f"{_n(1 - part)} × {_n(low)} + {_n(part)} × {_n(high)} = {_place(group, value)}"
        )


def _one(share: float) -> FloatArray:
    return np.array([share])


def _ranks(lower: int, upper: int) -> IntArray:
    return np.array([lower, upper])


def of_summary(name: str, apart: bool = False, bare: bool = False) -> Here:
    """A number of the summary as it is, of so many values."""

    def here(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
        """The number."""
        value = float(getattr(readings.summaries[group.index], name))
        if math.isfinite(value):
            told = _n(value) if bare else (_apart if apart else _place)(group, value)
            yield f"of {counted(group.n, 'value', 'values')}: {told}"

    return here


# Parts of the figure


def of_bar(readings: Readings, group: Group, subject: Subject) -> Iterator[str]:
    """The bin at a value, how many it holds, and what that is as a height."""
    drawn = bars(readings)[group.index]
    if subject.value is None or not drawn.edges.count:
        return
    at = bin_at(drawn.edges, subject.value)
    count, n = int(drawn.counts[at]), readings.total(group.index)
    ends = interval(drawn.edges, at, group.variable)
    yield f"c = {counted(count, 'value', 'values')} from {ends}"
    if readings.cumulative:
        yield f"all up to there: height {_n(float(drawn.heights[at]))}"
    elif readings.scale in ("percent", "proportion"):
        times = "100 × " if readings.scale == "percent" else ""
        yield f"{times}{count:,} / {n:,} = {_n(float(drawn.heights[at]))}"
    elif readings.scale == "density":
        width = float(readings.scale_of(group.index).widths(drawn.edges)[at])
        per = f" per {readings.per}" if readings.per else ""
        yield f"{count:,} / ({n:,} × {_n(width)}) = {_n(float(drawn.heights[at]))}{per}"


def of_rule(readings: Readings, group: Group, subject: Subject) -> Iterator[str]:
    """What the rule comes to for all values together; or for each axis, or each group, that has
    bins of its own."""
    if readings.kind != "linear":
        return
    own = not readings.recipe.bins.shared
    asked = [group] if subject.group is not None else [each for each in readings.groups if each.n]
    first = {each.index if own else each.axis: each for each in reversed(asked)}
    for each in list(first.values())[::-1][:_MOST_RULED]:
        label = each.label if own else each.variable.label
        name = f"{label}: " if len(first) > 1 else ""
        values: Ordered = each.sample if own else readings.pools[each.axis]
        yield from (name + line for line in _ruled(readings, each, values))


def _ruled(readings: Readings, group: Group, pool: Ordered) -> Iterator[str]:
    """What the rule comes to for the values that have the bins of a group."""
    dates = isinstance(group.variable, DateColumn)
    if pool.n < 2 or dates:
        return
    axis, edges = readings.scale_of(group.index).axis, readings.own_edges[group.index]
    instead = edges_for(readings.recipe.bins, pool, dates, axis).instead
    rule = instead or readings.recipe.bins.rule or "automatic"
    n, width = pool.n, RULES[rule].width(pool)
    span = pool.maximum - pool.minimum
    unit = group.variable.unit
    told = f"{_n(width)} {unit}".strip()
    sd = pool.moments.norm / math.sqrt(n)
    q1, q3 = quantiles(pool, np.array([0.25, 0.75]), 7).tolist()
    match rule:
        case "freedman-diaconis" | "automatic" if q3 > q1:
            by_quartiles = 2 * (q3 - q1) / math.cbrt(n)
            yield f"h = 2 × {_n(q3 - q1)} / ∛{n:,} = {_n(by_quartiles)} {unit}".strip()
        case "scott" | "automatic":
            yield f"h = {_n(sd)} × ∛(24√π / {n:,}) = {told}"
        case "square-root":
            yield f"m = √{n:,} = {_n(math.sqrt(n))}; h = {_n(span)} / m = {told}"
        case "sturges":
            yield f"m = log₂ {n:,} + 1 = {_n(math.log2(n) + 1)}; h = {_n(span)} / m = {told}"
        case "rice":
            yield f"m = 2 ∛{n:,} = {_n(2 * math.cbrt(n))}; h = {_n(span)} / m = {told}"
        case _:
            yield f"h = {told}"
    if edges.width:
        wide = f"{_n(edges.width)} {unit}".strip()
        yield f"drawn: {counted(edges.count, 'bin', 'bins')} of {wide}, from {_n(edges.low)}"


def of_curve(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """Where the bandwidth comes from, and the height at a value."""
    curve = density_curves(readings)[group.index]
    if curve.curve is None:
        yield curve.lack
        return
    settings = readings.recipe.curve
    words = bandwidth_words(curve.bandwidth, readings, group.variable)
    if curve.rule in ("silverman", "scott") and curve.axis.even:
        sample, n = group.sample, group.n
        sd = readings.summaries[group.index].sd
        q1, q3 = quantiles(sample, np.array([0.25, 0.75]), 7).tolist()
        factor = {"silverman": 0.9, "scott": 1.06}[curve.rule]
        times = f"{settings.factor:g} × " if settings.factor != 1 else ""
        spread = f"min({_n(sd)}, {_n(q3 - q1)} / 1.34)" if q3 > q1 else _n(sd)
        width = _apart(group, curve.bandwidth)
        yield f"h = {times}{factor} × {spread} × {n:,}^(−1/5) = {width}"
    else:
        by = f" ({TITLES[curve.rule]})" if curve.rule else ""
        yield f"h = {words}{by}"
    yield f"K: {settings.kernel}, over {group.n:,} values"


def of_normal(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """Its mean and sd."""
    summary = readings.summaries[group.index]
    if readings.kind == "linear":
        yield f"mean {_place(group, summary.mean)}, sd {_apart(group, summary.sd)}"


def of_ecdf(_readings: Readings, group: Group, subject: Subject) -> Iterator[str]:
    """How many values lie up to there."""
    if subject.value is not None:
        upto = int(group.sample.about_below(np.array([subject.value]), inclusive=True)[0])
        values = "value is" if group.n == 1 else "values are"
        yield (
            f"{upto:,} of {group.n:,} {values} {_place(group, subject.value)} or less: "
            f"{_n(100 * upto / group.n)} %"
        )


def of_box(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """The quartiles, and how far whiskers may reach and do."""
    drawn, reach = boxes(readings)[group.index], readings.recipe.box.whiskers
    q1, median, q3 = (_place(group, each) for each in (drawn.q1, drawn.median, drawn.q3))
    yield f"Q₁ {q1}, median {median}, Q₃ {q3}"
    if isinstance(reach, float) and not isinstance(group.variable, DateColumn):
        iqr = drawn.q3 - drawn.q1
        for told, end, sign, at in (
            ("Q₁ −", drawn.q1, -1, drawn.whisker_low),
            ("Q₃ +", drawn.q3, 1, drawn.whisker_high),
        ):
            limit = _n(end + sign * reach * iqr)
            yield (
                f"{told} {reach:g} IQR = {_n(end)} {told[-1]} {reach:g} × {_n(iqr)} = {limit}; "
                f"the last value within: {_place(group, at)}"
            )
    else:
        yield (
            f"whiskers end at {_place(group, drawn.whisker_low)} and "
            f"{_place(group, drawn.whisker_high)}"
        )


def of_pairs(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """How many points lie beyond the band."""
    pairs = pairs_of(readings, group.index)
    if pairs.lack:
        yield f"none, since {pairs.lack}"
    elif readings.recipe.pairs.band:
        yield f"{pairs.beyond:,} of {counted(len(pairs.y), 'point', 'points')} beyond the band"


# Comparisons


def of_means(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """Their difference, and its standard error."""
    reference = shown_reference(readings)
    if reference is None or reference.index == group.index or in_ratios(readings):
        return
    pairs = _pairs_with(readings, group, reference)
    if pairs is not None:
        off = pairs.ours - pairs.theirs
        sd = float(off.std(ddof=1)) if len(off) > 1 else math.nan
        yield f"d̄ of {counted(len(off), 'pair', 'pairs')} = {_apart(group, float(off.mean()))}"
        yield f"s / √n = {_n(sd)} / √{len(off):,} = {_n(sd / math.sqrt(len(off)))}"
        return
    ours, theirs = (readings.summaries[each.index] for each in (group, reference))
    if isinstance(group.variable, DateColumn):
        return
    apart = _apart(group, ours.mean - theirs.mean)
    yield f"x̄ − ȳ = {_n(ours.mean)} − {_n(theirs.mean)} = {apart}"
    error = math.hypot(ours.se, theirs.se)
    yield (
        f"√(s²ₓ/n + s²ᵧ/m) = √({_n(ours.variance)} / {ours.n:,} + {_n(theirs.variance)} / "
        f"{theirs.n:,}) = {_n(error)}"
    )


def of_medians(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """Their difference, or ratio."""
    reference = shown_reference(readings)
    if reference is None or reference.index == group.index:
        return
    if (pairs := _pairs_with(readings, group, reference)) is not None:
        yield f"the middle of {counted(len(pairs.ours), 'difference', 'differences')}, a pair each"
        return
    ours, theirs = (readings.summaries[each.index].median for each in (group, reference))
    if in_ratios(readings) and theirs > 0:
        yield f"{_n(ours)} / {_n(theirs)} = × {_n(ours / theirs)}"
    else:
        yield f"{_place(group, ours)} − {_place(group, theirs)} = {_apart(group, ours - theirs)}"


def of_spreads(readings: Readings, group: Group, _subject: Subject) -> Iterator[str]:
    """Their ratio."""
    reference = shown_reference(readings)
    if reference is None or reference.index == group.index:
        return
    ours, theirs = (readings.summaries[each.index].sd for each in (group, reference))
    if theirs > 0:
        yield f"sₓ / sᵧ = {_n(ours)} / {_n(theirs)} = {_n(ours / theirs)}"


def _pairs_with(readings: Readings, group: Group, reference: Group) -> Paired | None:
    try:
        return paired_values(readings, group, reference)
    except Refusal:
        return None


def of_exceeds(readings: Readings, group: Group, subject: Subject) -> Iterator[str]:
    """The share of all pairs."""
    reference = shown_reference(readings)
    if reference is None or reference.index == group.index or subject.value is None:
        return
    if (pairs := _pairs_with(readings, group, reference)) is not None:
        greater, n = int(np.count_nonzero(pairs.ours > pairs.theirs)), len(pairs.ours)
        equal = int(np.count_nonzero(pairs.ours == pairs.theirs))
        yield f"({greater:,} + {equal:,} / 2) / {n:,} pairs = {_n(100 * subject.value)} %"
        return
    yield (
        f"of {group.n:,} × {reference.n:,} = {group.n * reference.n:,} pairs "
        f"{_n(100 * subject.value)} % (equal ones half)"
    )


def of_overlap(_readings: Readings, _group: Group, subject: Subject) -> Iterator[str]:
    """The area that both curves share."""
    if subject.value is not None:
        yield f"∫ min(f, g) = {_n(subject.value)}"
