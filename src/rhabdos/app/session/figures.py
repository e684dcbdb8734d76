"""Several figures of one piece of work: added, copied, renamed, moved, taken out, all as steps."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rhabdos.app.session.reaching import Reaching
from rhabdos.project.document import Figure
from rhabdos.quoting import brief

if TYPE_CHECKING:
    from rhabdos.figure.recipe.plate import Plate

MOST, MOST_BESIDE = 500, 4
"""Figures of one piece of work, and those of them that stand beside one another."""


class Figures:
    """What can be asked of the row of figures."""

    def __init__(self, session: Reaching) -> None:
        self._session = session

    def __len__(self) -> int:
        return len(self._session.document.figures)

    @property
    def shown(self) -> int:
        """The place of the figure in sight."""
        return self._session.document.shown

    def name(self, at: int) -> str:
        """What a figure is called."""
        from rhabdos.figure.words.naming import figure_name

        figure = self._session.document.figures[at]
        return figure.name or figure_name(figure.recipe)

    def show(self, at: int) -> None:
        """Bring a figure in sight."""
        document = self._session.document
        if 0 <= at < len(document.figures) and (at != document.shown or document.chart):
            self._session.see(document.showing(at))

    def add(self) -> None:
        """Begin another figure, of the variable that is in sight."""
        from rhabdos.project.making import first_figure, new_figure

        readings, table = self._session.readings, self._session.table
        if table is None:
            return
        recipe = new_figure(readings.variable.name) if readings else first_figure(table)
        if recipe is not None:
            self._add("New figure", Figure(recipe))

    def keep_variant(self) -> None:
        """Keep the figure in sight as it is, and go on in a copy that stands beside it."""
        document = self._session.document
        if document.recipe is not None:
            beside = len(document.beside) < MOST_BESIDE
            self._add("Keep a variant", Figure(document.recipe), beside)

    def add_many(self, figures: Sequence[Figure], name: str) -> None:
        """Take figures into the row, after the one in sight; one step."""
        if len(self) + len(figures) > MOST:
            self._session.refuse(f"One piece of work holds {MOST} figures. Leave some out.")
            return
        document = self._session.document
        for figure in figures:
            document = document.with_figure(figure)
        self._session.go(name, document)

    def _add(self, name: str, figure: Figure, beside: bool = False) -> None:
        if len(self) >= MOST:
            self._session.refuse(f"One piece of work holds {MOST} figures. Take some out first.")
            return
        self._session.go(name, self._session.document.with_figure(figure, beside))

    # Beside one another

    def stand_beside(self, at: int) -> None:
        """Let a figure stand beside the one in sight, or no longer."""
        document = self._session.document
        if at == document.shown or not 0 <= at < len(self):
            return
        if at in document.beside:
            places = tuple(place for place in document.beside if place != at)
        elif len(document.beside) >= MOST_BESIDE:
            self._session.refuse(f"At most {MOST_BESIDE} figures stand beside one another.")
            return
        else:
            places = (*document.beside, at)
        self._session.see(document.standing_beside(places))

    def part(self) -> None:
        """Let the figure in sight stand alone, or beside the one before it again."""
        document = self._session.document
        if document.beside:
            self._session.see(document.standing_beside(()))
        elif len(self) > 1:
            self.stand_beside(document.shown - 1 if document.shown else 1)

    def take(self) -> None:
        """Of those beside one another take the one in sight; the others go."""
        document = self._session.document
        others = tuple(place for place in document.beside if place != document.shown)
        if others:
            self._session.go("Take this one", document.without_figures(others))

    def set_pages(self, plates: "tuple[Plate, ...]", name: str) -> None:
        """Keep pages on which figures are set together; one step."""
        self._session.go(name, self._session.document.with_plates(plates))

    def rename(self, at: int, name: str) -> None:
        """Call a figure by another name; by none, it is called by what it shows."""
        words = " ".join(name.split())
        if words != self._session.document.figures[at].name:
            what = f"Call a figure “{brief(words)}”" if words else "Take a figure’s name away"
            self._session.go(what, self._session.document.named(at, words))

    def move(self, at: int, to: int) -> None:
        """Put a figure at another place of the row."""
        if at != to and 0 <= to < len(self):
            self._session.go("Move a figure", self._session.document.moved(at, to))

    def remove(self, at: int) -> None:
        """Take a figure out; the last one stays."""
        if len(self) > 1:
            name = brief(self.name(at))
            self._session.go(f"Take out {name}", self._session.document.without_figures((at,)))
