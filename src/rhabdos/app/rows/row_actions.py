"""From the figure to rows, and from a row to the figure."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import structs
from PyQt6.QtCore import QPoint

from rhabdos.app.controls.choices import Choices
from rhabdos.app.paper.canvas import Canvas
from rhabdos.app.rows.far_rows import FetchedRows, fetch_rows
from rhabdos.app.session.session import Session
from rhabdos.app.session.surroundings import Surroundings
from rhabdos.app.variables.variable_actions import VariableActions
from rhabdos.data.columns import NumberColumn
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.figure.recipe.plain_charts import LevelBars

if TYPE_CHECKING:
    from rhabdos.app.rows.rows_place import RowsPlace

_BESIDE = QPoint(40, 40)  # where a menu opens that was asked for by keys


class RowActions:
    """Lists, keeps or leaves out the rows of a part, and shows a row in the figure."""

    def __init__(
        self,
        session: Session,
        around: Surroundings,
        canvas: Canvas,
        variables: VariableActions,
        place: "Callable[[], RowsPlace]",
    ) -> None:
        self._session, self._around, self._canvas = session, around, canvas
        self._variables, self._place = variables, place

    def offer(self, step: KeepRows, place: QPoint) -> None:
        """Offer to see, to keep or to leave out the rows of a part or of a range."""
        table = self._session.table
        if table is None:
            return
        rows = "these rows"
        if table.far is None:
            count = int(step.holds(table).sum())
            rows = "this row" if count == 1 else f"these {count:,} rows"
        out = structs.replace(step, out=True)
        menu = Choices(self._canvas)
        menu.offer(f"See {rows}", lambda: self.list_rows(step))
        menu.offer(f"Keep only {rows}", lambda: self._keep(step))
        menu.offer(f"Leave {rows} out", lambda: self._keep(out))
        menu.open_at(place)

    def offer_read(self) -> None:
        """Offer the rows of the part that is read by keys, or of the range that is marked."""
        if not self._canvas.offer_rows(self._canvas.mapToGlobal(_BESIDE)):
            self._around.tell(
                "Read a part of the figure first: point at it, or press Ctrl+B and arrows."
            )

    def _keep(self, step: KeepRows) -> None:
        self._canvas.range_hand.show(None)
        self._session.rows.prepare(step.words.rstrip("."), step)

    def list_rows(self, step: KeepRows) -> None:
        """List the rows that a step would keep, without keeping them."""
        table = self._session.table
        if table is None:
            return
        if table.far is not None:
            readings = self._session.readings
            by = readings.gathered.variable.name if readings else table.columns[0].name
            fetch_rows(self._session, step, by, False, self._show_fetched)
            return
        rows = step.holds(table).nonzero()[0]
        self._around.go_to("rows")
        said = step.words.removeprefix("Kept rows ").rstrip(".")
        listed = "1 row" if len(rows) == 1 else f"{len(rows):,} rows"
        self._place().show_rows(rows, f"{listed} {said}", step)

    def _show_fetched(self, rows: FetchedRows) -> None:
        self._around.go_to("rows")
        self._place().show_fetched(rows)

    def list_level(self, level: str) -> None:
        """List the rows of a level whose bar was clicked."""
        chart, table = self._session.document.chart, self._session.table
        if isinstance(chart, LevelBars) and table is not None:
            condition = Condition(variable=table.column(chart.variable).name, levels=(level,))
            self.list_rows(KeepRows(where=(condition,)))

    def show_in_figure(self, row: int, name: str) -> None:
        """Show a row's value in the figure of its variable."""
        table = self._session.table
        column = table.column(name) if table else None
        if not isinstance(column, NumberColumn) or table is None:
            self._variables.draw(name)
            return
        value = float(column.values[row])
        if value != value:
            number = f"{table.row_number(row):,}"
            self._around.tell(f"Row {number} has no {column.label} to show.")
            return
        readings = self._session.readings
        if readings is None or name not in {v.name for v in readings.variables}:
            self._variables.choose(name)
        self._around.go_to("figure")
        self._canvas.point_at(name, row)
