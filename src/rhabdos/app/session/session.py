"""The session: the one place where state lives. Widgets show it and ask it for changes."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject

from rhabdos.app.session.figures import Figures
from rhabdos.app.session.opening import Opening
from rhabdos.app.session.preparing import Preparing
from rhabdos.app.session.reaching import Reaching, answered
from rhabdos.data.steps.step import Step as DataStep
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.recipe import Recipe

if TYPE_CHECKING:
    from rhabdos.data.columns import Column
    from rhabdos.figure.recipe.plain_charts import PlainChart
    from rhabdos.figure.words.notice import Notice

_TOLD_OTHERWISE = ("missing-code", "group-codes", "named-code", "no-values")
"""Problems of a variable that notices of its figure tell, or that a figure does not suffer from."""


class Session(Reaching):
    """What a window shows, and all that can be asked of it.

    Attributes
    ----------
    opening : Opening
        How other data come to be shown.
    rows : Preparing
        The steps that prepare the data.
    figures : Figures
        The row of figures that one piece of work may hold.
    """

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.opening = Opening(self)
        self.rows = Preparing(self)
        self.figures = Figures(self)

    @property
    def recipe(self) -> Recipe | None:
        """What the figure is asked to be."""
        return self.document.recipe

    @property
    def notices(self) -> "tuple[Notice, ...]":
        """Notices of the figure, then what reading the file noticed that bears on it."""
        from rhabdos.data.problems.problems import problems_of
        from rhabdos.figure.notices.of_figure import notices  # which no first picture waits for
        from rhabdos.figure.words.notice import Notice

        if not self.table:
            return ()
        shown = self._columns_in_sight(self.table)
        read = [Notice("reading", remark) for remark in self.table.remarks]
        labels = [c for c in self.table.columns if c.kind == "label" and not self.document.chart]
        for column in (*shown, *labels):
            read += [
                Notice(problem.code, problem.text, step=problem.cure, step_text=problem.cure_text)
                for problem in problems_of(column)
                if problem.code not in _TOLD_OTHERWISE
            ]
        told = notices(self.readings) if self.readings and not self.document.chart else ()
        return (*told, *read)

    def _columns_in_sight(self, table: Table) -> "tuple[Column, ...]":
        """The variables of the chart or of the figure that is shown."""
        if chart := self.document.chart:
            return tuple(table.column(name) for name in chart.names if table.has_any(name))
        gathered = self.readings.gathered if self.readings else None
        return (*gathered.variables, *gathered.factors) if gathered else ()

    # Changing the figure

    def ask(self, name: str, recipe: Recipe) -> None:
        """Show another recipe of the same data and record the step; refused ones leave everything
        as it was."""
        self.go(name, self.document.with_recipe(recipe))

    def look_at(self, name: str, chart: "PlainChart | None") -> None:
        """Look at a chart in place of the figure, or at the figure again."""
        if chart is not None and self.table is not None:
            from rhabdos.figure.readings.plain_chart_readings import check_chart

            try:
                check_chart(chart, self.table)
            except Refusal as refusal:
                self.refuse(str(refusal))
                return
        self.go(name, self.document.with_chart(chart))

    def cure(self, name: str, cure: Recipe | DataStep) -> None:
        """Do what a notice offers: draw another figure, or prepare the data."""
        if isinstance(cure, Recipe):
            self.ask(name, cure)
        else:
            self.rows.prepare(name, cure)

    def preview(self, recipe: Recipe) -> bool:
        """Show a recipe without recording it, if its samples are at hand; tells whether it could be
        shown."""
        samples = self.store.samples(self.document.with_recipe(recipe))
        if samples is None:
            return False
        try:
            self.readings = answered(recipe, samples)
        except Refusal:
            return False
        self.previewed.emit()
        return True

    def end_preview(self) -> None:
        """Show the recorded figure again."""
        if self.recipe and self.readings and self.readings.recipe != self.recipe:
            self.preview(self.recipe)
            self.changed.emit()

    def undo(self) -> None:
        """Show the figure before the last step."""
        self.go_back(self.history.undone())

    def redo(self) -> None:
        """Show the figure after the step that was undone."""
        self.go_back(self.history.redone())

    def cancel(self) -> None:
        """Stop what is going on; the figure stays as it was."""
        self.runner.cancel()

    def finish(self) -> bool:
        """Stop everything, for good; tells whether all threads have ended."""
        return self.runner.finish()
