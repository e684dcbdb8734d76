"""What a bin says when it is pointed at."""

from msgspec import Struct

from rhabdos.figure.readings import Readings
from rhabdos.figure.wording import exact, with_unit
from rhabdos.stats.binning import Edges

_MOST_GROUPS = 8


class Line(Struct, frozen=True):
    """One group's share of a bin, as texts."""

    group: int
    label: str
    count: str
    percent: str
    density: str
    pointed: bool


class Card(Struct, frozen=True):
    """A bin in words: its interval, and what each group has in it."""

    interval: str
    headings: tuple[str, str, str]
    lines: tuple[Line, ...]
    more: int = 0

    def spoken(self) -> str:
        """The card as one text."""
        parts = [
            f"{line.label}: {line.count}, {line.percent}, density {line.density}"
            for line in self.lines
        ]
        return f"{self.interval}. {'; '.join(parts)}."


def bin_card(readings: Readings, position: int, pointed: int | None = None) -> Card:
    """Describe bin number ``position`` (from 0); of many groups those with the most values in
    it."""
    widths = readings.edges.widths
    groups = [i for i, group in enumerate(readings.groups) if group.n]
    chosen = groups
    if len(groups) > _MOST_GROUPS:
        chosen = sorted(groups, key=lambda i: -int(readings.groups[i].counts[position]))[
            :_MOST_GROUPS
        ]
        if pointed is not None and pointed not in chosen:
            chosen[-1] = pointed
        chosen.sort()
    lines = []
    for i in chosen:
        group = readings.groups[i]
        count = int(group.counts[position])
        share = count / group.n
        lines.append(
            Line(
                i,
                group.label,
                f"{count:,} of {group.n:,}",
                f"{100 * share:.1f} %",
                f"{share / float(widths[position]):.3g}",
                i == pointed,
            )
        )
    unit = readings.variable.unit
    return Card(
        interval(readings.edges, position, unit),
        ("count", "percent", f"density per {unit}" if unit else "density"),
        tuple(lines),
        len(groups) - len(chosen),
    )


def interval(edges: Edges, position: int, unit: str) -> str:
    """A bin's interval in words that say which edge belongs to it."""
    low, high = (exact(float(edge)) for edge in edges.values[position : position + 2])
    if edges.closed == "left":
        joined = "to" if position == edges.count - 1 else "to under"
        return with_unit(f"{low} {joined} {high}", unit)
    return with_unit(f"{low} to {high}" if position == 0 else f"over {low} to {high}", unit)
