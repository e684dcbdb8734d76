"""What a click on a variable means: draw it, split by it, or look at its levels."""

from rhabdos.app.session.session import Session
from rhabdos.app.session.surroundings import Surroundings
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.table import Table
from rhabdos.figure.phrases.grouping import split_by
from rhabdos.figure.phrases.shown import showing, with_variable
from rhabdos.figure.readings.value_scale import WORDS
from rhabdos.figure.recipe.plain_charts import LevelBars, Scatter
from rhabdos.project.making import new_figure
from rhabdos.quoting import quoted
from rhabdos.stats.axis_scale import ScaleKind


def nothing_drawn(table: Table | None) -> str:
    """Why there is no figure, and what to do; empty where nothing is open yet."""
    if table is None:
        return ""
    if table.drawable:
        return f"{quoted(table.name)} is open.\nChoose a variable at the left to draw it."
    what = "no numeric variable with a value" if table.numbers else "no numeric variable"
    return (
        f"{quoted(table.name)} has {what}, and a histogram needs one.\n"
        "Open another file, or add a column of numbers to this one."
    )


class VariableActions:
    """Asks the session for what a hand wishes of variables."""

    def __init__(self, session: Session, around: Surroundings) -> None:
        self._session, self._around = session, around

    def choose(self, name: str) -> None:
        """Draw a number, or split by a category; without a figure, look at its levels."""
        table, recipe = self._session.table, self._session.recipe
        if not table:
            return
        column = table.column(name)
        if isinstance(column, NumberColumn):
            if not column.n:
                self._around.refuse(
                    f"{quoted(column.label)} has no values: all {column.rows:,} rows are missing."
                )
            else:
                wanted = showing(recipe, name) if recipe else new_figure(name)
                self._session.ask(f"Show {column.label}", wanted)
        elif isinstance(column, CategoryColumn) and (not recipe or self._session.document.chart):
            self.look_at_levels_of(name)
        elif isinstance(column, CategoryColumn) and recipe:
            split = [table.column(factor) for factor in recipe.show.split]
            together = column in split
            words = "All together" if together else f"Split by {column.label}"
            self._session.ask(words, split_by(recipe, *(() if together else (name,))))
            self._around.choose_phrase("split")
        else:
            self._around.refuse(
                f"{quoted(column.label)} names rows: it is neither numbers to draw nor groups to "
                "split by."
            )

    def draw(self, name: str) -> None:
        """Draw a variable, whatever place it was asked from: bars of its levels, if it has some."""
        table = self._session.table
        if table is not None and isinstance(table.column(name), CategoryColumn):
            self.look_at_levels_of(name)
        else:
            self.choose(name)
        self._around.go_to("figure")

    def draw_along(self, name: str, kind: ScaleKind) -> None:
        """Draw a number along an axis of some kind."""
        table, recipe = self._session.table, self._session.recipe
        if table is None:
            return
        wanted = showing(recipe, name) if recipe else new_figure(name)
        said = f"Show {table.column(name).label} {WORDS[kind].said}"
        self._session.ask(said, wanted.with_value_axis(scale=kind))
        self._around.go_to("figure")

    def add(self, name: str) -> None:
        """Show a numeric variable with the others, or leave it out again."""
        readings, table = self._session.readings, self._session.table
        column = table.column(name) if table else None
        if readings is None or not isinstance(column, NumberColumn) or not column.n:
            self.choose(name)
            return
        wanted = with_variable(readings.recipe, readings, name)
        if wanted != readings.recipe:
            more = name not in {variable.name for variable in readings.gathered.variables}
            words = f"Show {column.label} too" if more else f"Without {column.label}"
            self._session.ask(words, wanted)

    def look_at_levels_of(self, name: str) -> None:
        """Look at the levels of a category as bars."""
        self._session.look_at(f"Levels of {name}", LevelBars(variable=name))

    def look_at_levels(self) -> None:
        """Look at the levels of the factor that splits, or of the first category."""
        table, readings = self._session.table, self._session.readings
        groups = [c for c in table.columns if isinstance(c, CategoryColumn)] if table else []
        factors = [f.name for f in readings.gathered.factors] if readings else []
        name = next((c.name for c in groups if c.name in factors), None)
        name = name or next((c.name for c in groups), None)
        if name is None:
            self._around.refuse("There is no category here whose levels could be looked at.")
            return
        self._around.go_to("figure")
        self.look_at_levels_of(name)

    def look_at_two(self) -> None:
        """Look at two numbers as a scatter: the one that is drawn, and the next."""
        table, readings = self._session.table, self._session.readings
        columns = table.drawable if table else ()
        if len(columns) < 2:
            self._around.refuse("Two numeric variables are needed, and there is one at most.")
            return
        shown = [v.name for v in readings.variables] if readings else []
        x = shown[0] if shown else columns[0].name
        y = next((name for name in shown[1:] if name != x), None)
        y = y or next(column.name for column in columns if column.name != x)
        self._around.go_to("figure")
        self._session.look_at("Look at two numbers", Scatter(x=x, y=y))
