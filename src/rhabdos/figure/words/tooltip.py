"""Cards: what a part of the figure says when it is pointed at."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct

from rhabdos.quoting import set_apart

if TYPE_CHECKING:
    from rhabdos.figure.readings.readings import Readings

MOST_LINES = 8  # of a card; of more groups those with most are told


class Line(Struct, frozen=True):
    """One line of a card, as texts; with a group, its colour stands before it."""

    label: str
    cells: tuple[str, ...]
    group: int | None = None
    pointed: bool = False


class Card(Struct, frozen=True):
    """A part of the figure in words.

    Attributes
    ----------
    title : str
        What is pointed at.
    headings : tuple of str
        Over the cells of the lines.
    more : int
        Groups that there was no room for.
    notes : tuple of str
        Sentences under the lines.
    """

    title: str
    headings: tuple[str, ...]
    lines: tuple[Line, ...]
    more: int = 0
    notes: tuple[str, ...] = ()

    def spoken(self) -> str:
        """The card as one text, for screen readers."""
        parts = [f"{set_apart(line.label)}: {self._cells(line)}" for line in self.lines]
        lines = f" {'; '.join(parts)}." if parts else ""
        return " ".join([f"{set_apart(self.title)}.{lines}", *self.notes])

    def _cells(self, line: Line) -> str:
        named = zip(self.headings, line.cells, strict=True)
        said = ((name, cell) for name, cell in named if cell)
        return ", ".join(
            f"density {cell}" if name.startswith("density") else cell for name, cell in said
        )


def panel_words(readings: "Readings", group: int) -> str:
    """The panel of a group, for the end of a title; nothing where there is but one."""
    panel = readings.plan.panels[readings.groups[group].panel]
    return f" · {panel.label}" if panel.label else ""


def few_of(groups: Sequence[int], weights: Mapping[int, float], pointed: int | None) -> list[int]:
    """Of many groups those that weigh most, and the one that is pointed at, in their order."""
    chosen = list(groups)
    if len(chosen) > MOST_LINES:
        chosen = sorted(chosen, key=lambda group: -weights[group])[:MOST_LINES]
        if pointed is not None and pointed not in chosen and pointed in groups:
            chosen[-1] = pointed
        chosen.sort()
    return chosen
