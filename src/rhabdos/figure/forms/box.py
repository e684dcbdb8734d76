"""Boxes: their parts, the values beyond them and their names, and how one is read."""

import math
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import CategoryColumn, Column, LabelColumn, NumberColumn
from rhabdos.data.sample_sets import MOST_TAIL_ROWS, SampleSet
from rhabdos.errors import Refusal
from rhabdos.figure.forms.form import FigureForm
from rhabdos.figure.planning.titles import whiskers_phrase
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.recipe.recipe import Boxes
from rhabdos.figure.words.notice import LACKS, Notice, listed_briefly
from rhabdos.figure.words.tooltip import Card, Line
from rhabdos.memo import last_answers, memoised
from rhabdos.quoting import brief
from rhabdos.stats.binning import counts
from rhabdos.stats.boxes import Box, Letter, Whiskers, box, letters
from rhabdos.stats.peaks import peaks
from rhabdos.stats.quantiles import QuartileRule
from rhabdos.stats.rules import by_rule
from rhabdos.wording import counted, exact, places_for, with_unit

_PARTS = ("q1", "median", "q3", "whisker_low", "whisker_high", "mean", "notch_low", "notch_high")
_TAILS_BELOW = 2  # of the four tails of a box
_MOST_WRITTEN_OUT = 1_000_000  # cases, past which each row is listed once
_MOST_LISTED = 6  # values beyond whiskers that a card names

_FEW_FOR_NOTCHES = 30  # values, below which a notch passes its quartile as a rule


class Named(Struct, frozen=True):
    """A value beyond the whiskers, its row (from 0), and what it is called."""

    value: float
    row: int
    name: str
    far: bool


def boxes(readings: Readings) -> tuple[Box, ...]:
    """The box of each group, in order; kept while only its drawing changes."""
    asked = readings.recipe.box
    return _boxes(readings.samples, asked.quartiles, asked.whiskers, asked.far)


@last_answers(lambda _, *settings: settings)  # all else of a box may change while a hand drags
def _boxes(
    samples: SampleSet, quartiles: QuartileRule, whiskers: Whiskers, far: float
) -> tuple[Box, ...]:
    return tuple(box(sample, quartiles, whiskers, far) for sample in samples.samples)


def box_widths(readings: Readings) -> tuple[float, ...]:
    """Widths of the boxes, as shares of the widest: all the same, or as the square root of n."""
    if readings.recipe.box.width == "fixed":
        return (1.0,) * len(readings.groups)
    most = max(group.n for group in readings.groups)
    return tuple(math.sqrt(group.n / most) for group in readings.groups)


def letter_values(readings: Readings) -> tuple[tuple[Letter, ...], ...]:
    """The letter values of each group, in order."""
    return _letters(readings.samples)


@memoised  # letters compare all groups with all others
def _letters(samples: SampleSet) -> tuple[tuple[Letter, ...], ...]:
    return tuple(letters(sample) for sample in samples.samples)


NUMBER_TITLES = {"n": "n", "mean": "mean ± sd", "median": "median"}
"""What the numbers of a box are called in a table of them."""


def written(readings: Readings, group: int) -> list[str]:
    """The numbers beside a group's box, one text each; in a table without what they are."""
    summary, places = readings.summaries[group], _places(readings, group)
    variable = readings.groups[group].variable
    marked = readings.marked
    mean = marked(variable.rounded(summary.mean, places))
    sd = marked(variable.format_rounded_difference(summary.sd, places))
    texts = {
        "n": readings.n_words(summary.n),
        "mean": f"{mean} ± {sd}" if math.isfinite(summary.sd) else mean,
        "median": f"median {marked(variable.rounded(summary.median, places))}",
    }
    if readings.recipe.box.numbers_as == "table":
        texts["n"] = marked(f"{summary.n:,}")
        texts["median"] = texts["median"].removeprefix("median ")
    return [texts[asked] for asked in dict.fromkeys(readings.recipe.box.numbers) if summary.n]


# Which rows lie beyond


def named_beyond(readings: Readings, group: int, most: int | None = None) -> tuple[Named, ...]:
    """The values beyond the whiskers of a group with their rows, the farthest out first.

    At most 200 at either end, and ``most`` in all: those farther in would find no room for a name.

    Raises
    ------
    VariableError
        The variable that names rows is not in the table.
    """
    drawn = boxes(readings)[group]
    if not drawn.n or not _any_beyond(drawn):
        return ()
    rows = readings.samples.tail_rows(group)
    values = readings.groups[group].variable.values[rows]
    past = (values < drawn.whisker_low) | (values > drawn.whisker_high)
    rows, values = rows[past], values[past]
    away = np.maximum(values - drawn.q3, drawn.q1 - values)
    order = np.lexsort((rows, -away))[:most]
    low, high = _far_limits(drawn)
    name_of = _namer(readings, readings.groups[group].variable)
    return tuple(
        Named(value, row, name_of(row), not low <= value <= high)
        for value, row in zip(values[order].tolist(), rows[order].tolist(), strict=True)
    )


def _any_beyond(drawn: Box) -> bool:
    return any(tail.stop > tail.start for tail in drawn.tails)


def _far_limits(drawn: Box) -> tuple[float, float]:
    """The values from which on, outwards, values count as far."""
    far_low, _, _, far_high = drawn.ranks
    sample = drawn.sample
    low = float(sample.at(np.array([far_low]))[0]) if far_low else -math.inf
    high = float(sample.at(np.array([far_high - 1]))[0]) if far_high < drawn.n else math.inf
    return low, high


def _namer(readings: Readings, variable: NumberColumn) -> Callable[[int], str]:
    """What rows (from 0) are called in the figure: by number, by value, or by a variable."""
    asked, table = readings.recipe.box.names, readings.samples.table
    if asked == "value":
        return lambda row: readings.marked(variable.written(float(variable.values[row])))
    if asked is None or asked == "row" or table is None:
        return lambda row: readings.marked(f"{_number(readings, row):,}")
    column = table.column(asked)
    return lambda row: _text_in(column, row) or readings.marked(f"{_number(readings, row):,}")


def _number(readings: Readings, row: int) -> int:
    """The number of a row in what was read, from 1."""
    table = readings.samples.table
    return table.row_number(row) if table is not None else row + 1


def _text_in(column: Column, row: int) -> str:
    """What a column holds in a row, as words; nothing where it is missing."""
    if isinstance(column, NumberColumn):
        value = float(column.values[row])
        return column.written(value) if math.isfinite(value) else ""
    if isinstance(column, CategoryColumn):
        code = int(column.codes[row])
        return column.levels[code] if code >= 0 else ""
    assert isinstance(column, LabelColumn)
    return " ".join((column.texts[row] or "").split())


def check_names(readings: Readings) -> None:
    """Refuse a figure whose boxes name values by a variable that the table does not have."""
    asked, table = readings.recipe.box.names, readings.samples.table
    if asked in (None, "row", "value") or table is None:
        return
    assert asked is not None
    try:
        table.column(asked)
    except Refusal as refusal:
        raise type(refusal)(f"box.names: {refusal}") from None


# What a box says


def card(readings: Readings, groups: Sequence[int], _pointed: int | None, _value: float) -> Card:
    """How this box is read: its parts with its numbers, what lies beyond, and which rows."""
    index = groups[0]
    of_group, drawn = readings.groups[index], boxes(readings)[index]
    if not of_group.n:
        return Card(of_group.label, (), (), notes=("There are no values to draw a box of.",))
    if readings.recipe.box.letters:
        return _letter_card(readings, of_group)
    beyond = named_beyond(readings, index, _MOST_LISTED)
    places, variable = _places(readings, index), of_group.variable
    high_end, low_end = _ends(readings.recipe.box)
    rows = [
        ("upper whisker", drawn.whisker_high, high_end),
        ("upper quartile", drawn.q3, "three quarters lie below"),
        ("median", drawn.median, "half lie below"),
        ("lower quartile", drawn.q1, "a quarter lie below"),
        ("lower whisker", drawn.whisker_low, low_end),
        ("mean", drawn.mean, ""),
    ]
    summary = readings.summaries[index]
    if summary.max > drawn.whisker_high:
        rows.insert(0, ("maximum", summary.max, "lies beyond the whisker"))
    if summary.min < drawn.whisker_low:
        rows.insert(len(rows) - 1, ("minimum", summary.min, "lies beyond the whisker"))
    lines = tuple(
        Line(name, (with_unit(variable.rounded(value, places), variable.unit), what))
        for name, value, what in rows
    )
    return Card(
        f"{of_group.label}, n = {of_group.n:,}",
        ("", ""),
        lines,
        notes=_reading_notes(readings, of_group, drawn, beyond),
    )


_LETTERS = ("median", "fourths", "eighths", "sixteenths")


def _letter_card(readings: Readings, group: Group) -> Card:
    """The letter values of a group, and how many values lie beyond the outermost."""
    places, unit = _places(readings, group.index), group.unit
    pairs = letter_values(readings)
    lines = []
    for step, pair in enumerate(pairs[group.index]):
        name = _LETTERS[step] if step < len(_LETTERS) else f"1/{2 ** (step + 1)}"
        low = group.variable.rounded(pair.low, places)
        high = with_unit(group.variable.rounded(pair.high, places), unit)
        share = 100 * (1 - 0.5**step)
        within = f"{share:.3g} % lie between" if step else "half lie below"
        lines.append(Line(name, (f"{low} to {high}" if step else high, within)))
    outermost = pairs[group.index][-1]
    ends = np.array([outermost.low, outermost.high])
    below = int(group.sample.below(ends[:1])[0])
    beyond = below + group.n - int(group.sample.below(ends[1:], inclusive=True)[0])
    lie = "value lies" if beyond == 1 else "values lie"
    note = f"{beyond:,} {lie} beyond the outermost; more boxes than these could not be trusted."
    return Card(f"{group.label}, n = {group.n:,}", ("", ""), tuple(lines), notes=(note,))


def _places(readings: Readings, group: int) -> int | None:
    """The same decimals for all boxes on a value axis, so that they can be compared."""
    axis = readings.groups[group].axis
    both = zip(readings.groups, readings.summaries, strict=True)
    filled = [summary for of, summary in both if summary.n and of.axis == axis]
    spread = max((summary.sd for summary in filled if summary.sd > 0), default=0.0)
    return places_for(spread, max(max(abs(s.min), abs(s.max)) for s in filled))


def _ends(settings: Boxes) -> tuple[str, str]:
    """What the ends of the whiskers are, in words."""
    if settings.whiskers == "range":
        return "the largest value", "the smallest value"
    if isinstance(settings.whiskers, tuple):
        low, high = (exact(share) for share in settings.whiskers)
        return f"last value up to percentile {high}", f"first value from percentile {low}"
    reach = f"within {whiskers_phrase(settings.whiskers)} of the box"
    return f"largest value {reach}", f"smallest value {reach}"


def _reading_notes(
    readings: Readings, group: Group, drawn: Box, beyond: tuple[Named, ...]
) -> tuple[str, ...]:
    outside = sum(tail.stop - tail.start for tail in drawn.tails)
    if not outside:
        return ("No value lies beyond the whiskers: their ends are the minimum and the maximum.",)
    far = sum(tail.stop - tail.start for tail in drawn.tails if tail.far)
    lie = "value lies" if outside == 1 else "values lie"
    text = f"{outside:,} {lie} beyond the whiskers"
    if far:
        which = "" if outside == 1 else f"{far:,} of them "
        text += f", {which}more than {exact(readings.recipe.box.far)} × IQR from the box"
    names = readings.recipe.box.names
    told = []
    cases = readings.samples.cases_of(np.array([named.row for named in beyond], dtype=np.int64))
    for named, count in zip(beyond, cases.tolist(), strict=True):
        value = group.variable.written(named.value)
        called = named.name if names not in (None, "row", "value") else ""
        told.append(
            f"row {_number(readings, named.row):,}"
            + (f" {brief(called)}" if called else "")
            + (f", {count:,} cases" if count > 1 else "")
            + f": {value}"
        )
    rest = outside - int(cases.sum())
    rows = "; ".join(told) + (f"; and {rest:,} more" if rest else "")
    these = "The farthest out:" if rest else "It is" if outside == 1 else "These are"
    return (f"{text}.", f"{these} {rows}.")


# Notices


def _notices(readings: Readings) -> tuple[Notice | None, ...]:
    return (_folded_notches(readings), _hidden_peaks(readings), _names_withheld(readings))


def _folded_notches(readings: Readings) -> Notice | None:
    if not readings.recipe.box.notches:
        return None
    folded = [
        (group.label, drawn)
        for group, drawn in zip(readings.groups, boxes(readings), strict=True)
        if drawn.n and (drawn.notch_low < drawn.q1 or drawn.notch_high > drawn.q3)
    ]
    if not folded:
        return None
    tied = all(drawn.median in (drawn.q1, drawn.q3) for _, drawn in folded)
    few = all(drawn.n < _FEW_FOR_NOTCHES for _, drawn in folded)
    why = (
        "so many values are equal that the median is a quartile too"
        if tied
        else "with so few values the median is less sure than the quartiles"
        if few
        else "the quartiles lie nearer to the median than its notches are sure"
    )
    names = listed_briefly([label for label, _ in folded])
    text = f"The notches of {names} reach past the box: {why}."
    return Notice("folded-notches", text, weight=LACKS)


def _hidden_peaks(readings: Readings) -> Notice | None:
    """A box looks the same over one hump and over two."""
    if readings.recipe.show.forms != ("box",):
        return None
    humped = [
        f"{brief(group.label)} ({number})"
        for group, number in zip(readings.groups, _peaks(readings.samples), strict=True)
        if number > 1
    ]
    if not humped:
        return None
    text = f"More than one peak hides in {listed_briefly(humped)}: a box does not show them."
    cure = readings.recipe.showing(forms=("violin", "box"))
    return Notice("hidden-peaks", text, cure, "draw violins too")


@memoised  # peaks are sought in every group, whatever a hand does to the boxes
def _peaks(samples: SampleSet) -> tuple[int, ...]:
    """The peaks of each group above counting noise, in bins by the automatic rule."""
    if samples.pooled.minimum == samples.pooled.maximum:
        return (0,) * len(samples.samples)
    try:
        edges = by_rule(samples.pooled, "automatic").edges
    except Refusal:
        return (0,) * len(samples.samples)
    return tuple(len(peaks(counts(sample, edges))) for sample in samples.samples)


def _names_withheld(readings: Readings) -> Notice | None:
    """Some values have no name, since no page has room for so many."""
    if readings.recipe.box.names is None:
        return None
    table = readings.samples.table
    if table is not None and table.far is not None:
        text = "Values beyond whiskers have no names here: their rows stay where the data lie."
        return Notice("names-withheld", text, weight=LACKS)
    past = [
        group.label
        for group, drawn in zip(readings.groups, boxes(readings), strict=True)
        if _most_beyond(readings, group.index, drawn) > MOST_TAIL_ROWS
    ]
    if not past:
        return None
    named = counted(MOST_TAIL_ROWS, "value", "values")
    text = f"At either end of {listed_briefly(past)} only the {named} farthest out can be named."
    return Notice("names-withheld", text, weight=LACKS)


def _most_beyond(readings: Readings, group: int, drawn: Box) -> int:
    """How many values, or rows that stand for them, lie beyond one of the whiskers at most."""
    _, low, high, _ = drawn.ranks
    if readings.samples.weight is None:
        return max(low, drawn.n - high)
    # One more at either end than are named, which is kept however whiskers move.
    rows = readings.samples.tail_rows(group, MOST_TAIL_ROWS + 1)
    values = readings.groups[group].variable.values[rows]
    return int(max((values < drawn.whisker_low).sum(), (values > drawn.whisker_high).sum()))


# Numbers


def _numbers(readings: Readings) -> dict[str, Any]:
    return {
        "boxes": [
            {
                "sample": group.label,
                **{name: getattr(drawn, name) for name in _PARTS},
                "width": width,
                **_beyond(readings, group.index, drawn),
                "letters": [
                    {"depth": letter.depth, "low": letter.low, "high": letter.high}
                    for letter in of_group
                ],
            }
            for group, drawn, width, of_group in zip(
                readings.groups,
                boxes(readings),
                box_widths(readings),
                letter_values(readings),
                strict=True,
            )
        ]
    }


def _beyond(readings: Readings, group: int, drawn: Box) -> dict[str, Any]:
    """Values beyond the whiskers in two grades, and the rows (from 1) that hold them."""
    if readings.samples.table is not None and readings.samples.table.far is not None:
        return _farthest(drawn)
    rows = readings.samples.rows_past(group, drawn.whisker_low, drawn.whisker_high)
    cases = readings.samples.cases_of(rows)
    if cases.sum() <= _MOST_WRITTEN_OUT:
        rows = np.repeat(rows, cases)
    values = readings.groups[group].variable.values[rows]
    low, high = _far_limits(drawn)
    far = (values < low) | (values > high)
    return {
        "beyond": values[~far].tolist(),
        "far": values[far].tolist(),
        "beyond_rows": [_number(readings, row) for row in rows[~far].tolist()],
        "far_rows": [_number(readings, row) for row in rows[far].tolist()],
    }


def _farthest(drawn: Box) -> dict[str, Any]:
    """The same of data whose rows lie elsewhere: the farthest values of each end, without rows."""
    listed: dict[bool, list[float]] = {False: [], True: []}
    for place, tail in enumerate(drawn.tails):
        start, stop = tail.start, tail.stop
        if place < _TAILS_BELOW:
            stop = min(stop, start + MOST_TAIL_ROWS)
        else:
            start = max(start, stop - MOST_TAIL_ROWS)
        listed[tail.far] += drawn.sample.run(start, stop).tolist() if stop > start else []
    return {
        "beyond": listed[False],
        "far": listed[True],
        "beyond_rows": [None] * len(listed[False]),
        "far_rows": [None] * len(listed[True]),
    }


FORM = FigureForm(card=card, notices=_notices, numbers=_numbers)
