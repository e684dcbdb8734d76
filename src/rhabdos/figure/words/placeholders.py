"""Names within braces that stand for numbers of the data, always true to them."""

import re
from collections.abc import Callable

from rhabdos.data.columns import DateColumn, NumberColumn
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.markup import Stands, unknown
from rhabdos.stats.binning import Edges
from rhabdos.stats.ordered import Ordered
from rhabdos.stats.summary import Summary, summarise
from rhabdos.wording import about, places_for, rounded

_OF_SUMMARY = ("mean", "median", "sd", "min", "max", "q1", "q3", "iqr")
NAMES = ("n", "missing", *_OF_SUMMARY, "rows", "variable", "unit", "bins", "width")
"""What a name within braces may be; of those of values also “{mean of Saltmere}”."""


def stands_in(readings: Readings) -> Stands:
    """What names stand for in a figure."""

    def stands(name: str) -> str | None:
        """The number or the words of a name."""
        what, of, level = name.partition(" of ")
        if of:
            return _of_level(readings, what.strip(), level.strip())
        return _of_all(readings, name.strip())

    return stands


def not_standing(readings: Readings) -> list[str]:
    """Names in the words of a figure that stand for nothing."""
    stands = stands_in(readings)
    texts = words_of(readings.recipe)
    return list(dict.fromkeys(name for text in texts for name in unknown(text, stands)))


def words_of(recipe: Recipe) -> list[str]:
    """All words of a recipe in which names may stand for numbers."""
    words = recipe.words
    texts = [words.title, words.subtitle, words.note, words.value_axis, words.height_axis]
    texts += [recipe.legend.title, *(text.text for text in recipe.text), *words.names.values()]
    return [text for text in texts if text]


def _of_all(readings: Readings, name: str) -> str | None:
    pooled, marked = readings.pools[0], readings.marked
    others: dict[str, Callable[[], str]] = {
        "n": lambda: marked(f"{readings.samples.pooled.n:,}"),
        "missing": lambda: marked(f"{sum(group.missing for group in readings.groups):,}"),
        "variable": lambda: readings.variable.label,
        "unit": lambda: readings.variable.unit,
        "rows": lambda: marked(f"{table.all_rows:,}") if (table := readings.samples.table) else "",
        "bins": lambda: _of_bins(readings, lambda edges: f"{edges.count:,}"),
        "width": lambda: _of_bins(readings, lambda edges: _width_words(readings, edges)),
    }
    if name in others:
        return others[name]()
    if name not in _OF_SUMMARY or readings.plan.axes > 1:
        return None
    summary = summarise(pooled, readings.recipe.box.quartiles)
    return _written(readings, readings.variable, pooled, summary, name)


def _of_bins(readings: Readings, told: Callable[[Edges], str]) -> str:
    """What is true of the bins that are drawn: of several, from the least to the most."""
    if not readings.needs_bins:
        return "0"
    each = {id(readings.own_edges[g.index]): readings.own_edges[g.index] for g in readings.groups}
    filled = {id(readings.own_edges[g.index]) for g in readings.groups if g.n}
    drawn = sorted(
        (edges for key, edges in each.items() if key in filled),
        key=lambda edges: (edges.count, float(edges.widths[0])),
    )
    words = list(dict.fromkeys(told(edges) for edges in (drawn[0], drawn[-1])))
    return readings.marked(" to ".join(words))


def _width_words(readings: Readings, edges: Edges) -> str:
    """The width of bins; the ratio of those equal in logs, and a word for those that differ."""
    if edges.width is not None:
        if isinstance(readings.variable, DateColumn):
            return readings.variable.difference_written(edges.width)
        text = about(edges.width, 6)
        return text if "×" in text else rounded(edges.width, len(text.partition(".")[2]))
    if edges.ratio is not None:
        return f"a factor of {about(edges.ratio, 4)}"
    if edges.along is not None:
        return f"equal {WORDS[edges.along.kind].said}"
    return f"a {edges.every}" if edges.every else "unequal"


def _of_level(readings: Readings, what: str, level: str) -> str | None:
    """The same of one group, by the name of its level or by all of them."""
    wanted = _tidy(level)
    chosen = [
        group
        for group in readings.groups
        if wanted in (_tidy(group.label), _tidy(group.name), *(_tidy(n) for _, n in group.levels))
    ]
    if len(chosen) != 1:
        return None
    (group,) = chosen
    if what == "n":
        return readings.marked(f"{group.n:,}")
    if what == "missing":
        return readings.marked(f"{group.missing:,}")
    if what not in _OF_SUMMARY:
        return None
    return _written(readings, group.variable, group.sample, readings.summaries[group.index], what)


def _written(
    readings: Readings, variable: NumberColumn, sample: Ordered, summary: Summary, name: str
) -> str:
    value = float(getattr(summary, name))
    reach = max(abs(sample.minimum), abs(sample.maximum)) if sample.n else 0.0
    places = places_for(summary.sd, reach)
    if name in ("sd", "iqr"):
        return readings.marked(variable.format_rounded_difference(value, places))
    return readings.marked(variable.rounded(value, places))


def _tidy(name: str | None) -> str:
    return re.sub(r"\s+", " ", name or "").strip().casefold()
