"""A plain chart as a sentence, and what else its phrases could say."""

from collections.abc import Sequence

from msgspec import Struct

from rhabdos.data.columns import CategoryColumn
from rhabdos.data.table import Table
from rhabdos.figure.phrases.grouping import split_by
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.phrases.sentence import Fragment
from rhabdos.figure.readings.plain_chart_readings import (
    bars_said,
    levels_said,
    order_said,
    rows_said,
)
from rhabdos.figure.recipe.plain_charts import LevelBars, LevelOrder, PlainChart
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.quoting import brief
from rhabdos.wording import in_running_text

_ORDERS: tuple[LevelOrder, ...] = ("level", "count", "name")


class ChartChoice(Struct, frozen=True):
    """One alternative: its words, what the step to it is called, and what is shown then; without
    either it is a fact, which cannot be chosen."""

    text: str
    step: str = ""
    chart: PlainChart | None = None
    recipe: Recipe | None = None
    current: bool = False


def chart_fragments(chart: PlainChart, table: Table) -> tuple[Fragment, ...]:
    """The sentence of a chart; of level bars its phrases are choices."""
    if not isinstance(chart, LevelBars):
        from rhabdos.figure.readings.plain_chart_readings import chart_sentence

        return (Fragment(chart_sentence(chart, table)),)
    before, variable = levels_said(chart, table)
    return (
        Fragment(before),
        Fragment(variable, "variable"),
        Fragment(f"{rows_said(table)}, drawn as "),
        Fragment(bars_said(chart), "forms"),
        Fragment(", "),
        Fragment(order_said(chart), "split"),
        Fragment("."),
    )


def chart_choices(
    phrase: Key, chart: PlainChart, table: Table, recipe: Recipe | None
) -> Sequence[ChartChoice]:
    """What else a phrase of a chart could say.

    Parameters
    ----------
    recipe : Recipe, optional
        The figure that stood there before.
    """
    if not isinstance(chart, LevelBars):
        return ()
    if phrase == "variable":
        groups = [column for column in table.columns if isinstance(column, CategoryColumn)]
        return [
            ChartChoice(
                brief(column.label),
                f"Levels of {column.label}",
                chart.of(column.name),
                current=column.name == table.column(chart.variable).name,
            )
            for column in groups
        ]
    if phrase == "forms":
        return _drawn_as(chart, table, recipe)
    choices = [
        ChartChoice(
            order_said(ordered),
            f"Bars {order_said(ordered)}",
            ordered,
            current=ordered.order == chart.order,
        )
        for ordered in (chart.changed(order=order) for order in _ORDERS)
    ]
    turned = chart.changed(reverse=not chart.reverse)
    return [*choices, ChartChoice("the other way round", "Bars the other way round", turned)]


def _drawn_as(chart: LevelBars, table: Table, recipe: Recipe | None) -> list[ChartChoice]:
    label = table.column(chart.variable).label
    choices = [
        ChartChoice(
            f"{bars_said(chart.changed(upright=upright))}, one a level",
            "Bars that stand" if upright else "Bars that lie",
            chart.changed(upright=upright),
            current=chart.upright is upright,
        )
        for upright in (False, True)
    ]
    why = f"No histogram: {brief(label)} is no number, and bins need distances between values"
    choices.append(ChartChoice(why))
    column = table.column(chart.variable)
    if recipe is not None and isinstance(column, CategoryColumn):
        first = recipe.show.variables
        named = first if isinstance(first, str) else brief(first[0])
        words = f"Bars of {named} instead, split by {in_running_text(brief(label))}"
        wanted = split_by(recipe, column.name)
        choices.append(ChartChoice(words, f"Split by {label}", recipe=wanted))
    return choices
