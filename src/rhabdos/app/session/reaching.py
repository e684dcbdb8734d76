"""How a document is reached: what it needs is read, prepared and sorted, and then it is shown."""

import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from rhabdos.app.session.runner import Runner
from rhabdos.data.gathering import can_split
from rhabdos.data.reporting import Report
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.steps.step import no_others
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import wanted
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.project.document import Document, Source
from rhabdos.project.history import History
from rhabdos.project.making import Reached, ask_ahead, make, make_exact, must_ask
from rhabdos.project.store import Store
from rhabdos.scene.axes.limits import limits_of
from rhabdos.stats.rules import RULES, by_rule

if TYPE_CHECKING:
    from rhabdos.data.preparing import OtherTables, Stage

AT_ONCE_ROWS = 100_000
"""Fewer rows than these are sorted before an eye could see the wait."""


def is_quick(table: Table) -> bool:
    """Whether a figure of a table can be waited for: its rows are here, and few."""
    return table.far is None and table.rows <= AT_ONCE_ROWS


class Reaching(QObject):
    """The document that is shown with its readings, and the way to another one.

    Signals
    -------
    table_changed : another table is shown.
    changed : the figure, or what can be undone, has changed.
    previewed : the figure follows a hand that is still moving; nothing is recorded yet.
    recipe_opened : what is shown is what a recipe's file holds.
    refused : a sentence; everything is as it was.
    told : a sentence about something that went well.
    busy : a stage and a share done (-1 where unknown); idle ends it.
    """

    table_changed = pyqtSignal()
    changed = pyqtSignal()
    previewed = pyqtSignal()
    recipe_opened = pyqtSignal()
    refused = pyqtSignal(str)
    told = pyqtSignal(str)
    busy = pyqtSignal(str, float)
    idle = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History(Document())
        self.readings: Readings | None = None
        self.runner = Runner(self)
        self.runner.busy.connect(self.busy)
        self.runner.idle.connect(self.idle)
        self.store = Store()
        self._of_recipe: Document | None = None
        self._others: tuple[Source | None, OtherTables] | None = None

    @property
    def document(self) -> Document:
        """The source and the recipe that are shown."""
        return self.history.present

    @property
    def table(self) -> Table | None:
        """The data that are open, after their steps."""
        return self.store.table(self.document)

    @property
    def stages(self) -> "tuple[Stage, ...]":
        """Each step of the data that are open, with the table after it."""
        return self.store.stages(self.document) or ()

    @property
    def others(self) -> "OtherTables":
        """Fetches tables that steps bring in."""
        from rhabdos.data.preparing import OtherTables

        source = self.document.source
        folder = (source.path.parent,) if source and source.path else ()
        if self._others is None or self._others[0] != source:
            self._others = source, OtherTables(folder)
        return self._others[1]

    def go(
        self, name: str, document: Document, lenient: bool = False, of_recipe: bool = False
    ) -> None:
        """Show another document and record the step; a refused one leaves everything as it was.

        Parameters
        ----------
        lenient : bool
            Whether what cannot be drawn any more is left out of the figure, and told.
        of_recipe : bool
            Whether the document is what a recipe's file holds, which is told on arrival.
        """
        self._of_recipe = document if of_recipe else None
        if self.document.source is not None:  # what a start shows first has been read or is ours
            from rhabdos.figure.recipe.toml_text import Work, refuse_unwritable

            works = (Work(d.steps, d.recipe, d.chart) for d in (document, self.document))
            try:
                refuse_unwritable(*works)
            except Refusal as refusal:
                self.refuse(str(refusal))
                return
        self._reach(document, lambda reached: self.history.did(name, reached), lenient)

    def see(self, document: Document) -> None:
        """Show another figure of what is open, which is no step; one that cannot be drawn leaves
        everything as it was."""
        self._reach(document, self._seeing)

    def _seeing(self, document: Document) -> History:
        return self.history.seeing(document)

    def go_back(self, history: History) -> None:
        """Show what another place in the history shows."""
        if history is not self.history:
            self._reach(history.present, lambda _reached: history)

    def _reach(
        self, document: Document, step: Callable[[Document], History], lenient: bool = False
    ) -> None:
        """Work out what a document needs, off the interface thread where that takes long, and then
        show it."""
        self.runner.cancel("sorting")
        self.runner.cancel("counting")
        if document.source is None:
            self._arrive(step(document), None)
            return
        read, done_before = self.store.read(document), self.store.stages(document) is not None
        others = self.others if document.steps else no_others
        samples = self.store.samples(document) if done_before and document.recipe else None
        if read is not None and done_before and (samples is not None or not document.recipe):
            self._rehearse(document, samples, step)
            return

        def work(report: Report) -> Reached:
            """Read, prepare and sort what is not at hand."""
            return make(document, self.store, others, report, lenient=lenient, quick=True)

        def done(result: Reached) -> None:
            """Keep what it led to, and show its figure."""
            reached = self.keep_reached(result)
            self._finish(reached, result.samples, step)
            if result.told:
                self.told.emit(result.told)

        brought_in = any(each.files for each in document.steps)
        few = read is not None and read.rows <= AT_ONCE_ROWS
        asks = read is not None and read.far is not None
        at_once = few and (done_before or not (brought_in or asks))
        words = wanted(document.recipe).words if document.recipe else "the rows"
        self.runner.run("sorting", f"Sorting {words}", work, done, self.refuse, at_once)

    def _rehearse(
        self, document: Document, samples: SampleSet | None, step: Callable[[Document], History]
    ) -> None:
        """Show a figure whose samples are at hand; where they lie elsewhere, all that it needs of
        them is asked first, off the interface thread."""
        recipe = document.recipe
        far = samples is not None and samples.table is not None and samples.table.far is not None
        if recipe is None or samples is None or not far or samples.provisional:
            self._finish(document, samples, step)
            return
        if not must_ask(recipe, samples):
            self._finish(document, samples, step)
            return

        def work(_report: Report) -> SampleSet:
            """Ask for what lies within cells."""
            ask_ahead(recipe, samples)
            return samples

        def done(result: SampleSet) -> None:
            """Show the figure."""
            self._finish(document, result, step)

        self.runner.run("sorting", "Asking where the data lie", work, done, self.refuse)

    def _finish(
        self, document: Document, samples: SampleSet | None, step: Callable[[Document], History]
    ) -> None:
        recipe = document.recipe
        if recipe is None or samples is None:
            self._arrive(step(document), None)
            return
        try:
            readings = answered(recipe, samples)
        except Refusal as refusal:
            self.refuse(str(refusal))
        else:
            self._arrive(step(document), readings)

    def _arrive(self, history: History, readings: Readings | None) -> None:
        before = self.table
        self.history, self.readings = history, readings
        steps = (*history.past, *history.future)
        self.store.keep_only((history.present, *(passed.document for passed in steps)))
        if self.table is not before:
            self.table_changed.emit()
        self.changed.emit()
        if readings is not None and readings.gathered.provisional:
            self._count_all(history.present)
        if self._of_recipe is not None:
            if history.present == self._of_recipe:
                self.recipe_opened.emit()
            self._of_recipe = None

    def _count_all(self, document: Document) -> None:
        """Exchange a figure of some rows for that of all rows, once these are counted where they
        lie."""
        assert document.recipe is not None
        request = wanted(document.recipe)
        begun = time.monotonic()

        def work(report: Report) -> SampleSet:
            """Count all rows."""
            return make_exact(document, self.store, report)

        def done(samples: SampleSet) -> None:
            """Show the exact figure, of whatever has become of its recipe meanwhile."""
            self._keep(document, samples)
            present = self.document
            recipe = present.recipe
            same = (present.source, present.steps) == (document.source, document.steps)
            if recipe is None or not same or wanted(recipe) != request:
                return
            try:
                self.readings = answered(recipe, samples)
            except Refusal as refusal:
                self.refuse(str(refusal))
                return
            self.changed.emit()
            rows = samples.table.size if samples.table else ""
            self.told.emit(f"Counted {rows} in {time.monotonic() - begun:.1f} s.")

        self.runner.run("counting", "Counting all rows", work, done, self.refuse)

    def refuse(self, sentence: str) -> None:
        """Say why something cannot be done; what is shown stays."""
        self.refused.emit(sentence)
        self.changed.emit()  # so that a widget that showed the wish shows the fact again

    def keep_reached(self, reached: Reached) -> Document:
        """Keep what a document led to, and say of which it is now."""
        document = reached.document
        self.store.keep_table(document, reached.read)
        self.store.keep_stages(document, reached.stages)
        if reached.samples is not None:
            self._keep(document, reached.samples)
        return document

    def _keep(self, document: Document, samples: SampleSet) -> None:
        self.store.keep_samples(document, samples)
        table = self.store.table(document)
        if table and table.rows > AT_ONCE_ROWS:
            # What menus will ask for takes a moment of many rows: it is worked out while the user
            # looks at the figure.
            recipe = document.recipe
            assert recipe
            self.runner.think_ahead(lambda: _think_ahead(table, Readings(recipe, samples).samples))


def answered(recipe: Recipe, samples: SampleSet) -> Readings:
    """The readings of a recipe, or a Refusal if any of its forms cannot be drawn of these
    samples."""
    readings = read(recipe, samples)
    limits_of(readings)
    return readings


def _think_ahead(table: Table, samples: SampleSet) -> None:
    """The widths that rules suggest, what curves are made of, and the columns that can split: each
    is kept with its sample or table."""
    from rhabdos.stats.kernel_sums import values_read  # which no start needs

    can_split(table)
    for sample in samples.samples:
        if sample.n:
            values_read(sample)
    for rule in RULES:
        by_rule(samples.pooled, rule)
