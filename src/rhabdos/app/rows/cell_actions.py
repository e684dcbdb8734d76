"""What can be done with a cell of the rows."""

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QApplication

from rhabdos.app.controls.choices import Choices
from rhabdos.app.rows.cell_steps import cell_steps
from rhabdos.app.rows.value_forms import A_BLANK, copied_at, said_at
from rhabdos.data.columns import NumberColumn
from rhabdos.data.merging_steps import amended
from rhabdos.data.steps.step import Step
from rhabdos.quoting import brief, quoted

if TYPE_CHECKING:
    from rhabdos.app.rows.rows_place import RowsPlace


class CellActions:
    """Shows, copies and changes what stands in a cell, and makes steps of it."""

    def __init__(self, place: "RowsPlace") -> None:
        self._place = place

    def show(self, row: int, name: str) -> None:
        """Show a row in the figure, unless it was fetched: then the figure does not know it."""
        if self._is_of_the_figure():
            self._place.placed.emit(row, name)
        else:
            self._place.told.emit(
                "A row that was fetched from where the data lie is not in the sample."
            )

    def copy(self, row: int, name: str) -> None:
        """Put what stands in a cell on the clipboard."""
        table = self._place.view.table
        said = copied_at(table.column(name), row) if table else ""
        if clipboard := QApplication.clipboard():
            clipboard.setText(said)
        self._place.told.emit(f"{quoted(said)} copied." if said else "A blank cell copied.")

    def offer(self, row: int, name: str, where: QPoint) -> None:
        """Open the menu of a cell."""
        place = self._place
        if place.view.table is None:
            return
        column = place.view.table.column(name)
        menu = Choices(place)
        if self._is_of_the_figure():
            menu.offer("Show it in the figure", lambda: place.placed.emit(row, name))
        menu.offer(f"Order by {brief(column.label)}", lambda: place.sort_by(name))
        menu.offer("Copy", partial(self.copy, row, name))
        menu.addSeparator()
        for words, step in cell_steps(column, row):
            menu.offer(words, partial(self.ask, step))
        said = said_at(column, row) or A_BLANK
        menu.offer("Change this value …", lambda: place.begin("recode", name, said))
        menu.offer("Keep rows …", lambda: place.begin("keep", name))
        if isinstance(column, NumberColumn):
            menu.offer("Make a variable of it …", lambda: place.begin("make", name))
        menu.open_at(where)

    def _is_of_the_figure(self) -> bool:
        return self._place.view.table is self._place.session.table

    def ask(self, step: Step) -> None:
        """Do a step that a cell suggests, or take it into the last one of its kind."""
        session = self._place.session
        session.rows.ask_steps(step.words.rstrip("."), amended(session.document.steps, step))
