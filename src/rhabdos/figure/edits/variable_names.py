"""How figures name variables."""

from rhabdos.data.table import Table
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart, Scatter
from rhabdos.figure.recipe.recipe import NUMBERS, Recipe

_NO_VARIABLES = ("row", "value")  # what marks beyond a box may be called by otherwise


def by_columns(recipe: Recipe, table: Table) -> Recipe:
    """The same figure with variables named as their columns are, which no label changes; what the
    table does not have stays as it is named."""

    def column(name: str) -> str:
        """A column by any name that it answers to."""
        return table.column(name).name if table.has_any(name) else name

    def columns(names: tuple[str, ...]) -> tuple[str, ...]:
        """Each of them."""
        return tuple(column(name) for name in names)

    show, box, compare = recipe.show, recipe.box, recipe.compare
    if box.names is not None and box.names not in _NO_VARIABLES:
        box = box.changed(names=column(box.names))
    if compare is not None and isinstance(compare.paired, str):
        compare = compare.changed(paired=column(compare.paired))
    return (
        recipe.changed(box=box, compare=compare)
        .paneled(by=columns(recipe.panels.by))
        .showing(
            variables=show.variables
            if show.variables == NUMBERS
            else columns(tuple(show.variables)),
            split=columns(show.split),
            weight=column(show.weight) if show.weight is not None else None,
        )
    )


def chart_by_columns(chart: PlainChart, table: Table) -> PlainChart:
    """The same of a plain chart."""
    named = {name: table.column(name).name for name in chart.names if table.has_any(name)}
    if isinstance(chart, Scatter):
        return chart.changed(x=named.get(chart.x, chart.x), y=named.get(chart.y, chart.y))
    assert isinstance(chart, LevelBars)
    heights = named.get(chart.heights, chart.heights) if chart.heights is not None else None
    return chart.changed(variable=named.get(chart.variable, chart.variable), heights=heights)
