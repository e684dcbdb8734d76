"""The data's own sentences: what is seen in a figure, each true of the values by a rule of
docs/methods.md, none of them about a cause."""

import math
from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from rhabdos.data.columns import DateColumn
from rhabdos.data.pooled import AnySample
from rhabdos.data.sample_sets import SampleSet
from rhabdos.figure.readings.readings import Group, Readings
from rhabdos.figure.readings.reference import compared_with, quantile_definition, shown_reference
from rhabdos.figure.recipe.recipe_words import SeenCode
from rhabdos.memo import last_answers, memoised
from rhabdos.quoting import brief
from rhabdos.stats.shape import longer_tail, standing_peaks
from rhabdos.stats.two_samples.comparing import Estimate, quantile_differences
from rhabdos.wording import places_for, with_unit

_MOST_NAMED = 3  # groups that a sentence names
_MOST_LOOKED_AT = 60  # groups whose shapes are told
_FALSE = 0.02  # of figures without any difference, in which one is told
_NUMBERS = ("no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine")


class Seen(Struct, frozen=True):
    """A sentence of the data, and by which rule it is said."""

    code: SeenCode
    text: str


def seen(readings: Readings) -> tuple[Seen, ...]:
    """What is seen in a figure, without what its recipe strikes out."""
    unsaid = readings.recipe.words.unsaid
    return tuple(each for each in all_seen(readings) if each.code not in unsaid)


def all_seen(readings: Readings) -> tuple[Seen, ...]:
    """All that is seen in a figure, with what is struck out."""
    return _all_seen(readings.samples, readings)


def _depends_on(_samples: SampleSet, readings: Readings) -> tuple[object, ...]:
    recipe = readings.recipe
    shown = recipe.show.changed(forms=("bars",), heights="count", arrange=None, upright=None)
    scale = recipe.axes.value.scale
    groups = recipe.groups.changed(forward=())
    return shown, recipe.panels, groups, recipe.compare, recipe.box.quartiles, scale


@last_answers(_depends_on, most=2)  # of the figure and of the variant beside it
def _all_seen(_samples: SampleSet, readings: Readings) -> tuple[Seen, ...]:
    filled = [group for group in readings.groups if group.n]
    if not filled:
        return ()
    told: list[Seen] = []
    if len(filled) <= _MOST_LOOKED_AT:
        told += [Seen("peaks", text) for text in _peaks(filled)]
        told += [Seen("difference", text) for text in _difference(readings, filled)]
        if readings.recipe.axes.value.scale == "linear":  # elsewhere tails are as the axis has them
            told += [Seen("tail", text) for text in _tails(filled)]
    return (*told, Seen("middle", _middle(readings, filled)))


def _middle(readings: Readings, filled: Sequence[Group]) -> str:
    """n, and from where to where the middle half lies."""
    total = sum(group.n for group in filled)
    if len(filled) > _MOST_NAMED:
        return f"{total:,} values in {len(filled)} groups."
    if total == 1:
        only = filled[0]
        return f"The only value is {_told(readings, only, readings.summaries[only.index].q3)}."
    ends = [_from_to(readings, group) for group in filled]
    if len(filled) == 1:
        return f"The middle half of {total:,} values lies {ends[0]}."
    each = [f"{end} in {brief(group.label)}" for end, group in zip(ends, filled, strict=True)]
    return f"The middle half lies {_joined(each)}."


def _from_to(readings: Readings, group: Group) -> str:
    summary = readings.summaries[group.index]
    upper = _told(readings, group, summary.q3)
    if summary.q1 == summary.q3:
        return f"at {upper}"
    return f"from {_written(readings, group, summary.q1)} to {upper}"


def _written(readings: Readings, group: Group, value: float) -> str:
    """A value to as many places as those of all groups of its variable have."""
    alike = [readings.summaries[g.index] for g in readings.groups if g.axis == group.axis]
    spread = max((summary.sd for summary in alike if summary.sd > 0), default=0.0)
    furthest = max((max(abs(s.min), abs(s.max)) for s in alike if s.n), default=0.0)
    return group.variable.rounded(value, places_for(spread, furthest))


def _told(readings: Readings, group: Group, value: float) -> str:
    return with_unit(_written(readings, group, value), group.variable.unit)


def _peaks(filled: Sequence[Group]) -> list[str]:
    """Which groups have peaks that stand out, and where."""
    peaked = [(group, places) for group in filled if (places := _peaks_of(group.sample))]
    if not peaked:
        return []
    if len(filled) == 1:
        return [f"{_count(peaked[0][1]).capitalize()} stand out, {_near(*peaked[0])}."]
    if len(peaked) > _MOST_NAMED:
        return [f"Two or more peaks stand out in {len(peaked)} of {len(filled)} groups."]
    each = [f"{_count(p)} in {brief(group.label)}, {_near(group, p)}" for group, p in peaked]
    if len(each) == 1:
        group, places = peaked[0]
        here = f"stand out in {brief(group.label)}, {_near(group, places)}"
        return [f"{_count(places).capitalize()} {here}."]
    whole = "; ".join(each)
    return [f"{whole[0].upper()}{whole[1:]}."]


@memoised  # of a sample, whatever is asked of the others
def _peaks_of(sample: AnySample, /) -> tuple[float, ...]:
    return standing_peaks(sample)


@memoised  # of a sample, whatever is asked of the others
def _tail_of(sample: AnySample, /) -> int:
    return longer_tail(sample)


def _count(places: Sequence[float]) -> str:
    many = len(places)
    return f"{_NUMBERS[many] if many < len(_NUMBERS) else many} peaks"


def _near(group: Group, places: Sequence[float]) -> str:
    written = [group.variable.written(round(place, _places_of(group, place))) for place in places]
    return f"near {_joined(written)}" + (f" {group.variable.unit}" if group.variable.unit else "")


def _places_of(group: Group, place: float) -> int:
    """As many decimals as four figures have, or more where the values lie closer together than
    those tell apart; of dates whole days."""
    if not place:
        return 0
    figures = 3 - math.floor(math.log10(abs(place)))
    moments = group.sample.moments
    spread = moments.norm / math.sqrt(group.n)
    apart = 1 - math.floor(math.log10(spread)) if spread > 0 else figures
    return max(figures, apart, 0 if isinstance(group.variable, DateColumn) else figures)


def _tails(filled: Sequence[Group]) -> list[str]:
    """On which side the longer tail is, of which groups."""
    sides = {side: [g for g in filled if _tail_of(g.sample) == side] for side in (1, -1)}
    told = []
    for side, words in ((1, "large"), (-1, "small")):
        groups = sides[side]
        if groups and len(groups) == len(filled):
            every = " in every group" if len(filled) > 1 else ""
            return [f"The longer tail is at {words} values{every}."]
        if groups:
            where = f"{len(groups)} of {len(filled)} groups"
            if len(groups) <= _MOST_NAMED:
                where = _joined([brief(group.label) for group in groups])
            told.append(f"at {words} values in {where}")
    return [f"The longer tail is {'; '.join(told)}."] if told else []


def _difference(readings: Readings, filled: Sequence[Group]) -> list[str]:
    """Which group’s median lies farthest from the reference’s, if any does beyond doubt."""
    reference = shown_reference(readings)
    if reference is None or compared_with(readings).paired is not False:
        return []  # intervals suppose independent rows
    others = [g for g in filled if g.index != reference.index and g.axis == reference.axis]
    if not others:
        return []
    sure = 1 - _FALSE / len(others)
    definition = quantile_definition(readings)
    differing: list[tuple[float, Group, Estimate]] = []
    for group in others:
        (estimate,) = quantile_differences(
            group.sample, reference.sample, np.array([0.5]), definition, sure
        )
        if estimate.low > 0 or estimate.high < 0:
            differing.append((abs(estimate.value), group, estimate))
    if not differing:
        return []
    _, group, estimate = max(differing, key=lambda each: each[0])
    by = group.variable.format_difference(_rounded(readings, group, abs(estimate.value)))
    way = _ways(group)[estimate.value > 0]
    name, other = brief(group.label), brief(reference.label)
    if len(others) == 1:
        return [f"The median of {name} is {by} {way} than that of {other}."]
    return [f"{name} differs most from {other}: its median is {by} {way}."]


def _ways(group: Group) -> tuple[str, str]:
    return ("earlier", "later") if isinstance(group.variable, DateColumn) else ("lower", "higher")


def _rounded(readings: Readings, group: Group, by: float) -> float:
    spread = readings.summaries[group.index].sd
    if not (math.isfinite(spread) and spread > 0 and math.isfinite(by)):
        return by
    return round(by, 1 - math.floor(math.log10(spread)))


def _joined(words: Sequence[str]) -> str:
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def main_sentence(readings: Readings, exceeds: Sequence[tuple[str, Estimate]]) -> str:
    """How often a value of the group that differs most is the greater, with its interval; that
    nothing can be told, where no interval leaves one half out.

    Parameters
    ----------
    exceeds : sequence of (str, Estimate)
        Of each group, how often a random member exceeds one of the reference.
    """
    clear = [(name, e) for name, e in exceeds if e.low > 0.5 or e.high < 0.5]
    other = brief(compared_with(readings).reference)
    if not clear:
        if not any(math.isfinite(e.low) for _, e in exceeds):
            return ""
        if compared_with(readings).paired is not False:
            return f"Of pairs with {other}, neither is clearly the greater more often."
        return f"Of two values, one of {other}, neither is clearly the greater more often."
    name, e = max(clear, key=lambda pair: abs(pair[1].value - 0.5))
    low, high = round(100 * e.low), round(100 * e.high)
    times = f"{round(100 * e.value)} times in 100 ({low} to {high})"
    if compared_with(readings).paired is not False:
        return f"The value of {brief(name)} is the greater of a pair {times}."
    return f"A value of {brief(name)} is the greater of two {times}."
