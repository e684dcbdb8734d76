"""The phrases of bins and of the bars over them."""

from collections.abc import Callable

from rhabdos.data.columns import DateColumn
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.heights import SCALES
from rhabdos.figure.phrases.phrase import (
    LINE,
    Choice,
    Phrase,
    Said,
    Setting,
    distance,
    number,
    or_usual,
    place,
)
from rhabdos.figure.phrases.strokes import stroke_settings
from rhabdos.figure.readings.readings import Readings, edges_for
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.edge_text import listed_as, read_edges, write_edges
from rhabdos.figure.recipe.recipe import Bars
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.stats.binning import MOST_BINS
from rhabdos.stats.calendar import EVERY, calendar_edges
from rhabdos.stats.rounding import round_steps
from rhabdos.stats.rules import RULES
from rhabdos.wording import about, counted, exact, with_unit

# Units of the calendar on the whole axis, of which bins are offered.
_LEAST_STEPS, _MOST_STEPS = 0.5, 1_000


def bins_phrase(readings: Readings) -> str:
    """The bins in words."""
    bins, edges, variable = readings.recipe.bins, readings.edges, readings.variable
    if readings.plan.axes > 1:
        return f"each variable’s own, {_made_by(bins)}"
    if bins.edges is not None:
        low, high = variable.written(edges.low), variable.format_with_unit(edges.high)
        return f"{edges.count:,} of your own, {low} to {high}"
    if edges.every:
        words = f"{_a(edges.every)} wide from {variable.written(edges.low)}"
    elif isinstance(variable, DateColumn):
        width = variable.format_difference(edges.width or 0)
        words = f"{width} wide from {variable.written(edges.low)}"
    elif edges.centred and readings.samples.pooled.whole:
        words = f"{with_unit('1', variable.unit)} wide, each about a whole number"
    elif edges.ratio is not None:
        words = f"each {about(edges.ratio, 3)} times the one before, from {about(edges.low, 4)}"
    elif edges.along is not None:
        low, high = (variable.written(float(f"{end:.4g}")) for end in (edges.low, edges.high))
        words = f"equal {WORDS[edges.along.kind].said}, {low} to {high}"
    else:
        shown = exact(edges.width or 0) if bins.round else about(edges.width or 0, 4)
        start = exact(edges.low) if bins.round else about(edges.low, 4)
        words = f"{with_unit(shown, variable.unit)} wide from {start}"
    if not bins.shared and readings.divided:
        words = f"each group’s own, of all together {words}"
    if bins.count is not None:
        return f"{counted(edges.count, 'in number', 'in number')}, {words}"
    if bins.width is None and bins.every is None:
        rule = bins.rule or "automatic"
        by = "automatic" if rule == "automatic" else f"by {RULES[rule].title}"
        return f"{words}, {by}"
    return words


def _a(every: str) -> str:
    return f"an {every}" if every == "hour" else f"a {every}"


def _made_by(bins: Bins) -> str:
    """How bins are made that differ from axis to axis."""
    if bins.edges is not None:
        return "between edges of your own"
    if bins.width is not None:
        return f"{exact(bins.width)} wide"
    if bins.every is not None:
        return f"{_a(bins.every)} wide"
    if bins.count is not None:
        return f"{bins.count:,} in number"
    rule = bins.rule or "automatic"
    return rule if rule == "automatic" else f"by {RULES[rule].title}"


def _rules(readings: Readings) -> list[Choice]:
    """The rules alone, where each axis gets its own width by them."""
    recipe, bins = readings.recipe, readings.recipe.bins
    by_hand = not bins.by_rule
    return [
        Choice(
            rule.title,
            f"Bins by {rule.title}",
            recipe.binned(bins.with_rule(key)),
            not by_hand and key == (bins.rule or "automatic"),
        )
        for key, rule in RULES.items()
    ]


def _bins(readings: Readings) -> list[Choice]:
    if readings.plan.axes > 1:
        return _rules(readings)
    if isinstance(readings.variable, DateColumn):
        return _calendar(readings)
    recipe, edges, unit = readings.recipe, readings.edges, readings.variable.unit
    bins = recipe.bins
    by_hand = not bins.by_rule
    choices = []
    for key, rule in RULES.items():
        other = bins.with_rule(key)
        try:
            suggested = edges_for(
                other, readings.samples.pooled, dates=False, axis=readings.scales[0].axis
            ).edges
        except Refusal:
            continue
        width = about(suggested.width, 4) if suggested.width else ""
        count = counted(suggested.count, "bin", "bins")
        text = f"{rule.title}:  {with_unit(width, unit)} wide, {count}"
        current = not by_hand and key == (bins.rule or "automatic")
        choices.append(Choice(text, f"Bins by {rule.title}", recipe.binned(other), current))
    if edges.width:
        choices.append(LINE)
        span = edges.high - edges.low
        steps = round_steps(
            max(edges.width / 4, span / 2000),
            min(edges.width * 4, span),
            readings.samples.pooled.whole,
        )
        for step in sorted({*steps, edges.width}) if by_hand else steps:
            text = f"{with_unit(exact(step), unit)} wide"
            here = step == edges.width and by_hand
            other = bins if here else bins.with_width(step)
            choices.append(Choice(text, f"Bin width {exact(step)}", recipe.binned(other), here))
    return choices


def _calendar(readings: Readings) -> list[Choice]:
    """Steps along the calendar that make some bins, but not too many."""
    recipe, bins, pooled = readings.recipe, readings.recipe.bins, readings.samples.pooled
    automatic = bins.with_rule("automatic")
    choices = [Choice("Automatic", "Bins by Automatic", recipe.binned(automatic), bins.by_rule)]
    for every, days in EVERY.items():
        if not _LEAST_STEPS <= (pooled.maximum - pooled.minimum) / days <= _MOST_STEPS:
            continue
        count = counted(calendar_edges(pooled, every).count, "bin", "bins")
        other = recipe.binned(bins.with_every(every))
        text = f"{_a(every)[:1].upper()}{_a(every)[1:]} wide:  {count}"
        choices.append(Choice(text, f"Bins of {_a(every)}", other, bins.every == every))
    return choices


# The settings. Each makes the bins in its own way, so that what is read or chosen is all of them.


def _by(readings: Readings) -> object:
    bins = readings.recipe.bins
    return bins.rule or "automatic" if bins.by_rule else None


def _by_rule(key: object, readings: Readings) -> Bins:
    """The bins of a rule; by hand, those that there are."""
    for rule in RULES:
        if rule == key:
            return readings.recipe.bins.with_rule(rule)
    return as_drawn(readings)


def as_drawn(readings: Readings) -> Bins:
    """The bins that a figure has, as if set by hand."""
    bins, edges = readings.recipe.bins, readings.edges
    if edges.width and bins.round:
        return bins.with_width(edges.width, edges.low)
    return bins.with_edges(tuple(edges.values.tolist()))


def _read_count(text: str, readings: Readings) -> Bins:
    count = number("The number of bins")(text, readings)
    if count != round(count) or not 1 <= count <= MOST_BINS:
        raise Refusal(f"The number of bins must be a whole number from 1 to {MOST_BINS:,}.")
    return readings.recipe.bins.with_count(int(count))


def _read_width(text: str, readings: Readings) -> Bins:
    bins = readings.recipe.bins
    step = text.strip().lower().removeprefix("a ").removeprefix("an ").removesuffix("s")
    if isinstance(readings.variable, DateColumn) and step in EVERY:
        return bins.with_every(step)
    return bins.with_width(distance("The width")(text, readings), bins.start)


def _read_start(text: str, readings: Readings) -> Bins:
    bins, width = readings.recipe.bins, readings.edges.width
    if not text:
        return bins.changed(start=None)
    start = place("The start")(text, readings)
    if bins.edges is not None:
        bins = bins.with_width(width) if width else bins.with_rule("automatic")
    # Bins equal in logs begin where their rule lets them.
    return bins.changed(start=start, logs=None if bins.logs else bins.logs)


def _read_edges(text: str, readings: Readings) -> Bins:
    bins = readings.recipe.bins
    dates = isinstance(readings.variable, DateColumn)
    return bins.with_edges(read_edges(text, dates)) if text else bins.with_rule("automatic")


def _edges_hinted(readings: Readings) -> str:
    """An example of edges, for the field that they are typed into."""
    if isinstance(readings.variable, DateColumn):  # as much of an example as the field has room for
        return listed_as(dates=True).partition(",")[0] + ", …"
    return listed_as(dates=False)


def _edges_shown(readings: Readings) -> str:
    edges = readings.recipe.bins.edges
    return write_edges(edges, isinstance(readings.variable, DateColumn)) if edges else ""


def _width_shown(readings: Readings) -> str:
    edges = readings.edges
    if not edges.equal:
        return "unequal"
    return edges.every or readings.variable.format_difference(float(f"{edges.width:.6g}"))


def _facts(readings: Readings) -> str:
    if not _on_one_axis(readings):
        return "Each value axis has bins of its own, by the same rule or number."
    if not readings.recipe.bins.shared and readings.divided:
        return (
            "Each group has bins of its own, so bars cannot share a place: the groups lie in lanes."
        )
    edges = readings.edges
    kind = "equal width" if edges.width else "unequal widths"
    if edges.along is not None:
        kind = f"equal {WORDS[edges.along.kind].said}"
    if edges.every:
        kind = f"one {edges.every} each"
    return f"{counted(edges.count, 'bin', 'bins')}, {kind}"


def _on_one_axis(readings: Readings) -> bool:
    """Whether a width or an edge means the same for all values."""
    return readings.plan.axes == 1


def _making(
    label: str,
    step: str,
    read: Callable[[str, Readings], Bins],
    shown: Callable[[Readings], str],
    placeholder: Callable[[Readings], str] = lambda _readings: "",
    everywhere: bool = False,
) -> Setting:
    """A field that makes the bins in its own way."""
    return Setting(
        "bins",
        label,
        "typed",
        step,
        shown=shown,
        placeholder=placeholder,
        read=read,
        matters=(lambda _readings: True) if everywhere else _on_one_axis,
    )


BINS = Phrase(
    "bins",
    "Bins",
    "Ctrl+5",
    lambda readings: Said("bins are ", bins_phrase(readings)),
    clause=True,
    matters=lambda readings: readings.needs_bins,
    alternatives=_bins,
    settings=(
        Setting(
            "bins",
            "Rule",
            "choice",
            "Bins by {}",
            choices=lambda _: [
                *((rule.title, key) for key, rule in RULES.items()),
                ("your hand", None),
            ],
            tips=tuple(rule.source for rule in RULES.values()),
            value=_by,
            chosen=_by_rule,
        ),
        _making("Number", "{} bins", _read_count, lambda of: f"{of.edges.count}", everywhere=True),
        _making("Width", "Bin width {}", _read_width, _width_shown),
        _making(
            "Start at",
            "Bins start at {}",
            _read_start,
            lambda of: of.variable.format_with_unit(float(f"{of.edges.low:.10g}")),
        ),
        Setting(
            "bins.closed",
            "Edges go to",
            "choice",
            "Edges belong to {}",
            choices=lambda _readings: [("the bin above", "left"), ("the bin below", "right")],
            tips=(
                "[a, b): a value on an edge opens a bin",
                "(a, b]: a value on an edge closes a bin",
            ),
        ),
        _making("Own edges", "Own edges", _read_edges, _edges_shown, _edges_hinted),
        Setting(
            "bins.round",
            "Round edges",
            "toggle",
            "Round edges|Exact edges",
            matters=lambda of: of.recipe.bins.width is None and of.recipe.bins.edges is None,
        ),
        Setting(
            "bins.shared",
            "Shared by all groups",
            "toggle",
            "Bins shared by all groups|Bins of each group’s own, in lanes",
            matters=lambda readings: readings.divided is not None,
        ),
    ),
    facts=_facts,
    hint="Or take hold of the rod under the figure: its tabs set the width, the rod itself the "
    "start.",
    parts=("bars",),
)


def _has_bars(readings: Readings) -> bool:
    return "bars" in readings.recipe.show.forms


def _bars_phrase(readings: Readings) -> str:
    settings = readings.recipe.bars
    words = f"{exact(100 * settings.gap)} % apart" if settings.gap else "touching"
    if settings.labels:
        words += f", each with its {SCALES[settings.labels][0].lower()}"
    return words


def _read_gap(text: str, readings: Readings) -> object:
    percent = number("The gap", 0, 90)(text.removesuffix("%").strip(), readings)
    assert isinstance(percent, float)
    return float(f"{percent / 100:.12g}")


BARS = Phrase(
    "bars",
    "Bars",
    "Ctrl+Alt+B",
    lambda readings: Said("bars are ", _bars_phrase(readings)),
    clause=True,
    matters=lambda readings: _has_bars(readings) and readings.recipe.bars != Bars(),
    besides=_has_bars,
    settings=(
        Setting(
            "bars.gap",
            "Gap",
            "typed",
            "Gap of {}",
            shown=lambda readings: f"{exact(100 * readings.recipe.bars.gap)} %",
            read=or_usual(0.0, _read_gap),
            tip="As a share of the width of a bin, from 0 to 90 %",
        ),
        Setting(
            "bars.labels",
            "Numbers",
            "choice",
            "Numbers on bars: {}",
            choices=lambda _readings: [
                ("none", None),
                *((title.lower(), scale) for scale, (title, _) in SCALES.items()),
            ],
        ),
        *stroke_settings("bars", "Outline"),
    ),
    hint="Bars of a histogram touch, since its bins do: a gap is for looks. Numbers that find no "
    "room turn, shrink and thin out; pointing at a bar always tells.",
)
