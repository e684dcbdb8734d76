"""From a document to all that its figure needs: read, prepare, gather. What is known is used."""

from contextlib import suppress
from typing import TYPE_CHECKING

from msgspec import Struct

from rhabdos.data.columns import NumberColumn
from rhabdos.data.gathering import as_factor
from rhabdos.data.reporting import Report
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.table import Table, VariableError
from rhabdos.errors import Refusal
from rhabdos.figure.planning.data_request import gathered, wanted
from rhabdos.figure.recipe.recipe import NUMBERS, Recipe, Show
from rhabdos.project.document import Document

if TYPE_CHECKING:
    from rhabdos.data.preparing import Stage
    from rhabdos.data.steps.step import Others
    from rhabdos.figure.readings.readings import Readings
    from rhabdos.project.store import Store

_FEW_ROWS = 20_000  # which are looked through at once, when they are told of


class Reached(Struct, frozen=True, eq=False):
    """What a document led to.

    Attributes
    ----------
    document : Document
        The one that was asked for; with another figure, where its own cannot be drawn any more.
    read : Table
        What steps begin with.
    stages : tuple of Stage
        Each step with the table after it.
    table : Table
        The one that is drawn.
    samples : SampleSet or None
        Of the figure, if it has one.
    told : str
        What became of the figure, where it is another one.
    """

    document: Document
    read: Table
    stages: "tuple[Stage, ...]"
    table: Table
    samples: SampleSet | None = None
    told: str = ""


def make(
    document: Document,
    store: "Store",
    others: "Others",
    report: Report,
    first: bool = False,
    lenient: bool = False,
    quick: bool = False,
) -> Reached:
    """All that a document's figure needs.

    Parameters
    ----------
    first : bool
        Draw the first variable that can be drawn, where the document has no figure.
    lenient : bool
        Where its figure cannot be drawn of the prepared table, draw what is left of it.
    quick : bool
        Of data that lie elsewhere draw the rows that were looked at, for now.

    Raises
    ------
    Refusal
        The data cannot be read or prepared, or the figure cannot be drawn.
    Cancelled
        From ``report``.
    """
    read = store.read(document)
    if read is None:
        from rhabdos.data.preparing import begun

        path = document.source.path if document.source else None
        read = begun(document.beginning, path, report)  # type: ignore[arg-type]
    stages = store.stages(document)
    if stages is None:
        stages = _stages(document, read, store, others, report)
    table = stages[-1].table if stages else read
    recipe, told = document.recipe, ""
    if recipe is None:
        recipe = first_figure(table) if first else None
        document = document.with_recipe(recipe) if recipe else document
    samples = store.samples(document) if recipe is not None else None
    if recipe is not None and samples is None:
        try:
            samples = gathered(table, wanted(recipe), report, quick)
        except VariableError as error:
            if not lenient:
                raise
            recipe, told = what_is_left(recipe, table), str(error)
            document = document.with_recipe(recipe)
            samples = gathered(table, wanted(recipe), report, quick) if recipe else None
    if samples is not None and recipe is not None:
        if table.far is not None and not samples.provisional:
            ask_ahead(recipe, samples)
        warm(samples)
        if table.rows > _FEW_ROWS:
            _told_of(recipe, samples)
    if table.rows > _FEW_ROWS:
        _look_through(table, samples)
    return Reached(document, read, stages, table, samples, told)


def make_exact(document: Document, store: "Store", report: Report) -> SampleSet:
    """The samples of a figure whose table was prepared before, of all rows where they lie.

    Raises
    ------
    Refusal
        They cannot be asked.
    Cancelled
        From ``report``.
    """
    table, recipe = store.table(document), document.recipe
    assert table is not None
    assert recipe is not None
    samples = gathered(table, wanted(recipe), report)
    ask_ahead(recipe, samples)
    warm(samples)
    return samples


def _stages(
    document: Document, read: Table, store: "Store", others: "Others", report: Report
) -> "tuple[Stage, ...]":
    if not document.steps:
        return ()
    from rhabdos.data.preparing import stages  # which no start needs

    report("Preparing the rows", None)
    return tuple(stages(read, document.steps, others, store.stages_before(document)))


def warm(samples: SampleSet) -> None:
    """Work out, off the interface thread, what grows with the rows: moments, and whether values are
    whole."""
    from rhabdos.figure.readings.readings import summaries_of

    summaries_of(samples)
    _ = samples.pooled.moments, samples.pooled.whole


def ask_ahead(recipe: Recipe, samples: SampleSet) -> None:
    """Ask at once for all that a figure needs to know of values within cells.

    Raises
    ------
    DataChanged
        What is fetched is not what was counted.
    FarError
        It cannot be asked.
    """
    from rhabdos.data.far.rehearsing import rehearse

    rehearse(samples, lambda played: _work_out(recipe, played))


def must_ask(recipe: Recipe, samples: SampleSet) -> bool:
    """Whether a figure needs to know of values within cells that are not open yet."""
    from rhabdos.data.far.rehearsing import wanted_by

    return bool(wanted_by(samples, lambda played: _work_out(recipe, played)))


def _work_out(recipe: Recipe, samples: SampleSet) -> None:
    """All that the window will show of a figure."""
    from rhabdos.figure.output.seen import seen
    from rhabdos.scene.build import build

    warm(samples)
    if readings := _told_of(recipe, samples):
        with suppress(Refusal):  # who draws the figure will say so
            seen(readings)
            build(readings, lambda text, size, _weight: 0.6 * size * len(text))


def _told_of(recipe: Recipe, samples: SampleSet) -> "Readings | None":
    """The readings of a figure, of whose bins and notices the samples keep what took long; None of
    one that is refused."""
    from rhabdos.figure.forms.read import read
    from rhabdos.figure.notices.of_figure import notices

    with suppress(Refusal):
        readings = read(recipe, samples)
        notices(readings)
        return readings
    return None


def _look_through(table: Table, samples: SampleSet | None) -> None:
    """Find, off the interface thread too, what the notices of a figure will tell of its data."""
    from rhabdos.data.problems.problems import problems_of

    shown = (*samples.variables, *samples.factors) if samples else ()
    for column in (*shown, *(c for c in table.columns if c.kind == "label")):
        problems_of(column)


def first_figure(table: Table) -> Recipe | None:
    """Bars of the first variable that measures something; else of the first that can be drawn."""
    from rhabdos.data.problems.measuring import measuring

    first = next(iter(measuring(table)), None)
    return new_figure(first.name) if first else None


def new_figure(variable: str, split: tuple[str, ...] = ()) -> Recipe:
    """Bars of a variable, with the look that new figures have."""
    from rhabdos.project.looks import for_new  # which the demo's start does not need

    return for_new().on(Recipe(show=Show(variables=(variable,), split=split)))


def what_is_left(recipe: Recipe, table: Table) -> Recipe | None:
    """The same figure of those of its variables and factors that a table still has."""
    show = recipe.show

    names = show.variables
    if names != NUMBERS:
        kept = tuple(
            name
            for name in names
            if table.has_any(name) and isinstance(c := table.column(name), NumberColumn) and c.n
        )
        if not kept:
            return first_figure(table)
        names = kept

    def splits(name: str) -> bool:
        """Whether a variable makes groups."""
        with suppress(VariableError):
            return bool(as_factor(table.column(name)).n)
        return False

    weight = show.weight if show.weight and table.has_any(show.weight) else None
    split = tuple(name for name in show.split if splits(name))
    by = tuple(name for name in recipe.panels.by if splits(name))
    return recipe.showing(variables=names, split=split, weight=weight).paneled(by=by)
