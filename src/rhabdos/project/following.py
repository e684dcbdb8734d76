"""What the figures of a work name follows, where steps call it otherwise."""

from collections.abc import Sequence
from contextlib import suppress

from rhabdos.data.gathering import as_factor
from rhabdos.data.steps.naming import Describe, RenameLevels
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table, VariableError
from rhabdos.figure.edits.level_edits import with_new_names, with_renamed
from rhabdos.figure.edits.variable_names import by_columns, chart_by_columns
from rhabdos.figure.recipe.plain_charts import LevelBars
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.project.document import Document


def following(document: Document, steps: Sequence[Step], table: Table) -> Document:
    """The document whose figures, and whose chart, mean the same after some steps more.

    Parameters
    ----------
    steps : sequence of Step
        Those that are new.
    table : Table
        As it is before them.
    """
    for step in steps:
        if isinstance(step, RenameLevels | Recode) and table.has_any(step.variable):
            document = _with_levels(document, step, table)
        elif isinstance(step, Describe) and table.has_any(step.variable):
            document = _with_label(document, step, table)
    return document


def _with_levels(document: Document, step: RenameLevels | Recode, table: Table) -> Document:
    """Levels by their new names, in the figures that they make groups or panels of."""
    variable = table.column(step.variable)
    levels: tuple[str, ...] = ()
    with suppress(VariableError):  # of names of rows, or too many numbers, no groups are made
        levels = as_factor(variable).levels
    become = {level: name for level, name in step.become.items() if level in levels}

    def is_it(name: str) -> bool:
        return table.has_any(name) and table.column(name) is variable

    def changed(recipe: Recipe) -> Recipe:
        return with_renamed(recipe, become) if any(map(is_it, recipe.factors)) else recipe

    named, chart = document.with_each_recipe(changed), document.chart
    if isinstance(chart, LevelBars) and is_it(chart.variable):
        chart = chart.changed(colours=with_new_names(chart.colours, become))
    return named.with_chart(chart)


def _with_label(document: Document, step: Describe, table: Table) -> Document:
    """Variables by the names of their columns, and what is said of one by its new label."""
    column = table.column(step.variable)
    label = column.label if step.label is None else step.label.strip() or column.name
    if label == column.label:
        return document
    become = {column.label: label}
    named = document.with_each_recipe(
        lambda recipe: with_renamed(by_columns(recipe, table), become)
    )
    chart = document.chart
    return named.with_chart(chart_by_columns(chart, table) if chart is not None else None)
