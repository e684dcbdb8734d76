"""A range of values that is read in the figure: what it tells, and how it is kept there."""

import math
import re
from collections.abc import Sequence

import numpy as np

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.errors import Refusal
from rhabdos.figure.readings.axis_limits import bound_value, number_typed, range_ends, told_bound
from rhabdos.figure.readings.between import Between, between, ends_belong
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import reference_label
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_axes import Bound
from rhabdos.figure.recipe.recipe_ranges import MOST_RANGES, Range
from rhabdos.figure.words.tooltip import Card, Line, few_of
from rhabdos.quoting import brief, printable, quoted
from rhabdos.wording import with_unit

_TYPED = re.compile(
    r"(?P<first>.+?) to (?P<last>[-+−]?\d{1,3}(?: \d{3}(?!\d))+(?:[.,]\d+)?"
    r"|\S+(?: \d\d:\d\d(?::\d\d(?:\.\d+)?)?)?)(?:\s+(?P<words>.*))?",
    re.DOTALL,
)
"""Both ends of a range, the last one perhaps with blanks between thousands or with its time, and
words."""


def groups_told(readings: Readings, panel: int | None) -> tuple[int, ...]:
    """The groups that a range tells of: those of a panel, or all (None)."""
    if panel is None:
        return tuple(range(len(readings.groups)))
    return readings.plan.panels[panel].groups


def range_card(readings: Readings, panel: int | None, low: float, high: float) -> Card:
    """How many values of each group lie in a range, and what share below, within and above.

    Parameters
    ----------
    panel : int, optional
        Only of its groups.
    low, high : float
        Ends of the range in the variable's unit, the smaller one first.
    """
    groups = groups_told(readings, panel)
    variable = readings.groups[groups[0]].variable if groups else readings.variable
    counts = {each.group: each for each in between(readings, groups, low, high)}
    told = few_of(groups, {group: counts[group].n for group in groups}, None)
    reference = reference_label(readings) if len(groups) > 1 else None
    base = next((c for c in counts.values() if _label(readings, c) == reference and c.n), None)
    headings = ["between", "", "below", "above"]
    if base is not None:
        headings.append(f"from {brief(reference or '')}")
    lines = []
    for group in told:
        each = counts[group]
        cells = [
            f"{each.within:,}",
            *(_percent(each, part) for part in ("within", "below", "above")),
        ]
        if base is not None:
            cells.append(_apart(each, base))
        label = printable(_label(readings, each)) or "values"
        lines.append(Line(label, tuple(cells), group))
    return Card(
        range_told(variable, low, high),
        tuple(headings),
        tuple(lines),
        len(groups) - len(told),
        _notes(readings, groups, variable, low, high),
    )


def range_told(variable: NumberColumn, low: float, high: float) -> str:
    """A range of a variable in words, such as 60 to 72 mm."""
    return f"{variable.written(low)} to {with_unit(variable.written(high), variable.unit)}"


def _label(readings: Readings, each: Between) -> str:
    return readings.groups[each.group].label


def _percent(each: Between, part: str) -> str:
    return f"{100 * each.share(getattr(each, part)):.1f} %" if each.n else "–"


def _apart(each: Between, base: Between) -> str:
    """By how many points of a hundred the share within differs from the reference's."""
    if each is base:
        return "reference"
    if not each.n:
        return "–"
    points = round(100 * (each.share(each.within) - base.share(base.within)), 1)
    return f"{points:+.1f} points".replace("-", "−") if points else "0.0 points"


def _notes(
    readings: Readings, groups: Sequence[int], variable: NumberColumn, low: float, high: float
) -> tuple[str, ...]:
    """That values at an end are told on its other side, where there are any."""
    belong = ends_belong(readings, groups, low, high)
    samples = [readings.groups[group].sample for group in groups if readings.groups[group].n]
    notes = []
    for end, within, side in ((low, belong[0], "below"), (high, belong[1], "above")):
        at = np.array([end])
        there = sum(int(s.below(at, inclusive=True)[0]) - int(s.below(at)[0]) for s in samples)
        if there and not within:
            notes.append(f"{variable.format_with_unit(end)} itself counts {side}, as in the bins.")
    return tuple(notes)


def snapped(readings: Readings, panel: int | None, value: float) -> float:
    """The edge of a bin that is nearest to a value; the value itself where there are no bins."""
    groups = groups_told(readings, panel)
    if not readings.needs_bins or not groups:
        return value
    edges = np.unique(np.concatenate([readings.own_edges[g].values for g in groups]))
    return float(edges[np.abs(edges - value).argmin()])


def read_range(
    readings: Readings, low: str, high: str, panel: str | int | None = None
) -> tuple[float, float]:
    """Both ends of a range as they are typed, in rising order; of dates, in days.

    Parameters
    ----------
    panel : str or int, optional
        In which it is, by its name or place.

    Raises
    ------
    Refusal
        One is no number, or no date where values are dates, or both are the same.
    """
    variable = readings.variable_in(panel)
    ends = _read_end(readings, variable, low, False), _read_end(readings, variable, high, True)
    if ends[0] > ends[1]:  # typed the other way round: of dates, the later day goes on to its end
        ends = _read_end(readings, variable, high, False), _read_end(readings, variable, low, True)
    if ends[0] == ends[1]:
        raise Refusal("A range needs two ends that differ.")
    return ends


def _read_end(readings: Readings, variable: NumberColumn, typed: str, upper: bool) -> float:
    if isinstance(variable, DateColumn):
        end = bound_value(typed, True, "A range", upper)
        assert end is not None
        return end
    value = number_typed(readings, typed, variable)
    if value is None or not math.isfinite(value):
        raise Refusal(f"{quoted(typed)} is no number. Write where the range ends, such as 40.")
    return value


# Kept in the figure


def ranges_written(readings: Readings) -> str:
    """The ranges of the figure as they are typed: 60 to 72 for market; 90 to 99."""
    return "; ".join(_written(readings, number) for number in range(len(readings.recipe.range)))


def _written(readings: Readings, number: int) -> str:
    kept, (low, high) = readings.recipe.range[number], range_ends(readings, number)
    written = readings.variable_in(kept.panel).written
    first = kept.low if isinstance(kept.low, str) else written(low)
    last = kept.high if isinstance(kept.high, str) else written(high)
    blank = "" if kept.words is None else f" {kept.words}".replace(";", ",")
    return f"{first} to {last}{blank}".strip()


def ranges_typed(readings: Readings, text: str) -> tuple[Range, ...]:
    """Ranges that are typed, each with its words; what was there keeps its colour and panel, and
    all its digits where it is typed as it is written.

    Raises
    ------
    Refusal
        Some part is no range, or there are too many.
    """
    left = dict(enumerate(readings.recipe.range))
    parts = [part.strip() for part in text.split(";") if part.strip()]
    if len(parts) > MOST_RANGES:
        raise Refusal(f"A figure holds at most {MOST_RANGES} ranges. Leave some out.")
    as_written = {_written(readings, number): number for number in left}
    same = [left.pop(as_written.get(part, -1), None) for part in parts]
    panels = [kept.panel for kept in readings.recipe.range] + [None] * len(parts)
    asked = [
        None if kept is not None else _asked(readings, part, panel)
        for part, kept, panel in zip(parts, same, panels, strict=False)
    ]
    of_ends = [None if each is None else _of_ends(left, each[0]) for each in asked]
    ranges: list[Range] = []
    for place, (kept, each, former) in enumerate(zip(same, asked, of_ends, strict=True)):
        if each is None:
            assert kept is not None
            ranges.append(kept)
            continue
        bounds, words = each
        was = former or left.pop(place, None) or _range(bounds)
        nothing = "" if was.words == "" else None
        ranges.append(was.changed(**bounds, words=words or nothing))
    return tuple(ranges)


def _asked(readings: Readings, part: str, panel: str | None) -> tuple[dict[str, Bound], str]:
    """The ends and the words of a range that is typed."""
    typed = _TYPED.fullmatch(part)
    if typed is None:
        raise Refusal(
            f"{quoted(part)} is no range. Write its ends, and words if you like: 60 to 72 for "
            "market."
        )
    ends = read_range(readings, typed["first"].strip(), typed["last"], panel)
    variable = readings.variable_in(panel)
    return _bounds(variable, *ends), _without_unit(variable, typed["words"] or "")


def _of_ends(left: dict[int, Range], bounds: dict[str, Bound]) -> Range | None:
    """The range of the same ends, among those that are left."""
    at = next((at for at, k in left.items() if bounds == {"low": k.low, "high": k.high}), None)
    return left.pop(at) if at is not None else None


def _without_unit(variable: NumberColumn, words: str) -> str:
    """Words without the unit that the end before them was written with."""
    unit = variable.unit
    first, _, others = words.strip().partition(" ")
    return others if unit and first == unit else words.strip()


def _bounds(variable: NumberColumn, low: float, high: float) -> dict[str, Bound]:
    return {"low": told_bound(variable, low), "high": told_bound(variable, high, upper=True)}


def _range(bounds: dict[str, Bound], words: str | None = None, panel: str | None = None) -> Range:
    return Range(low=bounds["low"], high=bounds["high"], words=words, panel=panel)


def kept_range(readings: Readings, low: float, high: float, panel: int | None) -> Recipe:
    """The figure with a range that is shaded.

    Raises
    ------
    Refusal
        It has as many as it may have.
    """
    if len(readings.recipe.range) >= MOST_RANGES:
        raise Refusal(f"A figure holds at most {MOST_RANGES} ranges. Take one out first.")
    name = readings.plan.panels[panel].label if panel is not None else None
    kept = _range(_bounds(readings.variable_in(panel), low, high), panel=name)
    return readings.recipe.changed(range=(*readings.recipe.range, kept))


def moved_range(readings: Readings, number: int, low: float, high: float) -> Recipe:
    """The figure with a range from another value to another."""
    kept = readings.recipe.range[number]
    moved = kept.changed(**_bounds(readings.variable_in(kept.panel), low, high))
    return _with(readings.recipe, number, moved)


def range_called(recipe: Recipe, number: int, words: str | None) -> Recipe:
    """The figure with other words at a range: its ends (None), or none where they are empty."""
    return _with(recipe, number, recipe.range[number].changed(words=words))


def without_range(recipe: Recipe, number: int) -> Recipe:
    """The figure without a range."""
    return _with(recipe, number, None)


def _with(recipe: Recipe, number: int, kept: Range | None) -> Recipe:
    others = list(recipe.range)
    others[number : number + 1] = [kept] if kept is not None else []
    return recipe.changed(range=tuple(others))
