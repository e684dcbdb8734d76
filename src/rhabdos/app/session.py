"""The session: the one place where state lives. Widgets show it and ask it for changes."""

import os
from collections.abc import Callable
from itertools import count
from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import QObject, pyqtSignal

from rhabdos.app.runner import Runner
from rhabdos.data.demo import demo_table
from rhabdos.data.gathering import Report, can_split, gather
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.steps.step import Step as DataStep
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.demo_recipe import demo_recipe
from rhabdos.figure.readings import Readings, read
from rhabdos.figure.recipe import Recipe, Show
from rhabdos.figure.wanted import gathered, wanted
from rhabdos.project.document import Document, Source
from rhabdos.project.history import History
from rhabdos.project.store import Store
from rhabdos.quoting import file_named
from rhabdos.scene.limits import limits_of
from rhabdos.stats.rules import RULES, by_rule
from rhabdos.wording import counted

if TYPE_CHECKING:
    from pathlib import Path

    from rhabdos.figure.notice import Notice

_AT_ONCE_ROWS = 100_000  # fewer rows than these are sorted before an eye could see the wait

_TOLD_OTHERWISE = ("missing-code", "group-codes", "no-values")
"""Problems of a variable that notices of its figure tell, or that a figure does not suffer from."""


class _Opened(Struct, frozen=True, eq=False):
    """A table that was read, and the samples of its first figure, if it has a numeric variable."""

    table: Table
    samples: SampleSet | None


class Session(QObject):
    """Data, history and the readings of the figure that is shown.

    Signals
    -------
    table_changed : another table is shown.
    changed : the figure, or what can be undone, has changed.
    previewed : the figure follows a hand that is still moving; nothing is recorded yet.
    refused : a sentence; everything is as it was.
    told : a sentence about something that went well.
    busy : a stage and a share done (-1 where unknown); idle ends it.
    """

    table_changed = pyqtSignal()
    changed = pyqtSignal()
    previewed = pyqtSignal()
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
        self._store = Store()
        self._revisions = count(1)
        self._opening = ""

    # What is shown

    @property
    def document(self) -> Document:
        """The source and the recipe that are shown."""
        return self.history.present

    @property
    def recipe(self) -> Recipe | None:
        """What the figure is asked to be."""
        return self.document.recipe

    @property
    def table(self) -> Table | None:
        """The data that are open."""
        return self._store.table(self.document)

    @property
    def notices(self) -> "tuple[Notice, ...]":
        """Notices of the figure, then what reading the file noticed that bears on it."""
        from rhabdos.data.problems import problems_of
        from rhabdos.figure.notice import Notice
        from rhabdos.figure.notices import notices  # which no first picture waits for

        if not self.table:
            return ()
        gathered = self.readings.gathered if self.readings else None
        shown = (*gathered.variables, *gathered.factors) if gathered else ()
        read = [Notice("reading", remark) for remark in self.table.remarks]
        labels = [column for column in self.table.columns if column.kind == "label"]
        for column in (*shown, *labels):
            read += [
                Notice(problem.code, problem.text, step=problem.cure, step_text=problem.cure_text)
                for problem in problems_of(column)
                if problem.code not in _TOLD_OTHERWISE
            ]
        told = notices(self.readings) if self.readings else ()
        return (*told, *read)

    # Opening

    def open_demo(self) -> None:
        """Show the demo data with their figure."""
        source = Source()
        table = self._store.read(source) or demo_table()
        self._store.keep_table(source, table)
        self._stop_opening()
        self._go(f"Open {table.name}", Document.of(source, demo_recipe()))
        self._tell_opened("Demo data", table)

    def _tell_opened(self, name: str, table: Table) -> None:
        variables = counted(len(table.columns), "variable", "variables")
        self.told.emit(f"{name}: {counted(table.rows, 'row', 'rows')}, {variables}.")

    def open_file(self, path: "Path") -> None:
        """Read a file off the interface thread and show its first numeric variable.

        Every opening is a source of its own: a file that changed since is another table. What is
        wished of the present figure meanwhile is met; another file that is opened takes its place.
        """
        source = Source(_absolute(path), next(self._revisions))

        def work(report: Report) -> _Opened:
            """Read the file, and sort its first numeric variable."""
            from rhabdos.data.reading import (
                read_table,
            )  # brings the file reader, which not every start needs

            table = read_table(path, report)
            drawable = [column.name for column in table.numbers if column.n]
            samples = None
            if drawable:
                samples = gather(table, drawable[0], report=report)
                _warm(samples)
            return _Opened(table, samples)

        def done(result: object) -> None:
            """Show what was read."""
            assert isinstance(result, _Opened)
            self.runner.cancel("sorting")
            table, document = result.table, Document.of(source)
            self._store.keep_table(source, table)
            if result.samples:
                recipe = Recipe(show=Show(variables=(result.samples.variable.name,)))
                document = Document.of(source, recipe)
                self._keep(document, result.samples)
            self._open(f"Open {file_named(path.name)}", document)
            self._tell_opened(file_named(path.name), table)

        self._stop_opening()
        self._opening = file_named(path.name)
        self.runner.run("opening", f"Opening {self._opening}", work, done, self._refuse)

    def _stop_opening(self) -> None:
        if self.runner.running("opening"):
            self.runner.cancel("opening")
            self.told.emit(f"Opening {self._opening} was stopped.")

    def _open(self, name: str, document: Document) -> None:
        """Show a table that was just read; if its first variable cannot be drawn, the others still
        can."""
        recipe = document.recipe
        if recipe and (samples := self._store.samples(document)):
            try:
                _answered(recipe, samples)
            except Refusal as refusal:
                self._go(name, document.with_recipe(None))
                self.refused.emit(str(refusal))
                return
        self._go(name, document)

    def open_recipe(self, path: "Path") -> Recipe | None:
        """Draw the data that are open after a recipe; returns it, if it could be read."""
        from rhabdos.figure.recipe_text import read_recipe  # no start needs the text form
        from rhabdos.project.files import read_text

        try:
            recipe = read_recipe(read_text(path), path.name)
            if not self.table:
                raise Refusal("Open the data first: a recipe draws the file that is open.")
        except Refusal as refusal:
            self.refused.emit(str(refusal))
            return None
        self.ask(f"Open recipe {file_named(path.name)}", recipe)
        return recipe

    def save_recipe(self, path: "Path") -> bool:
        """Write the recipe of the figure; tells whether it was written."""
        from rhabdos.figure.recipe_text import write_recipe
        from rhabdos.project.files import same_file, write_whole

        if not self.recipe:
            return False
        source = self.document.source
        if source and source.path and same_file(path, source.path):
            self.refused.emit(
                f"{file_named(path)} holds the data of this figure. Save the recipe under another "
                "name."
            )
            return False
        try:
            write_whole(path, write_recipe(self.recipe).encode())
        except Refusal as refusal:
            self.refused.emit(str(refusal))
            return False
        self.told.emit(f"Recipe saved as {file_named(path.name)}.")
        return True

    # Changing the figure

    def ask(self, name: str, recipe: Recipe) -> None:
        """Show another recipe of the same data and record the step; refused ones leave everything
        as it was."""
        self._go(name, self.document.with_recipe(recipe))

    def prepare(self, name: str, step: DataStep) -> None:
        """Prepare the data by one step more, and record that."""
        self._go(name, self.document.with_step(step))

    def cure(self, name: str, cure: Recipe | DataStep) -> None:
        """Do what a notice offers: draw another figure, or prepare the data."""
        if isinstance(cure, Recipe):
            self.ask(name, cure)
        else:
            self.prepare(name, cure)

    def preview(self, recipe: Recipe) -> bool:
        """Show a recipe without recording it, if its samples are at hand; tells whether it could be
        shown."""
        samples = self._store.samples(self.document.with_recipe(recipe))
        if samples is None:
            return False
        try:
            self.readings = _answered(recipe, samples)
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
        self._go_back(self.history.undone())

    def redo(self) -> None:
        """Show the figure after the step that was undone."""
        self._go_back(self.history.redone())

    def cancel(self) -> None:
        """Stop what is going on; the figure stays as it was."""
        self.runner.cancel()

    def finish(self) -> bool:
        """Stop everything, for good; tells whether all threads have ended."""
        return self.runner.finish()

    # How a document becomes readings

    def _go(self, name: str, document: Document) -> None:
        self._reach(document, lambda: self.history.did(name, document))

    def _go_back(self, history: History) -> None:
        if history is not self.history:
            self._reach(history.present, lambda: history)

    def _reach(self, document: Document, step: Callable[[], History]) -> None:
        """Work the readings of a document out, off the interface thread where that takes long, and
        then show it."""
        self.runner.cancel("sorting")
        try:
            recipe, table = document.recipe, self._store.table(document)
        except Refusal as refusal:  # a step that this table does not allow
            self._refuse(str(refusal))
            return
        if not recipe or not table:
            self._arrive(step(), None)
            return
        samples = self._store.samples(document)
        if samples is not None:
            self._finish(recipe, samples, step)
            return

        asked = wanted(recipe)

        def work(report: Report) -> SampleSet:
            """Sort the values group by group."""
            samples_sorted = gathered(table, asked, report)
            _warm(samples_sorted)
            return samples_sorted

        def done(result: object) -> None:
            """Keep the samples and show their figure."""
            assert isinstance(result, SampleSet)
            self._keep(document, result)
            self._finish(recipe, result, step)

        if table.rows <= _AT_ONCE_ROWS:
            try:
                samples_sorted = work(lambda _stage, _share: None)
            except Refusal as refusal:
                self._refuse(str(refusal))
            else:
                done(samples_sorted)
        else:
            self.runner.run("sorting", f"Sorting {asked.words}", work, done, self._refuse)

    def _finish(self, recipe: Recipe, samples: SampleSet, step: Callable[[], History]) -> None:
        try:
            readings = _answered(recipe, samples)
        except Refusal as refusal:
            self._refuse(str(refusal))
        else:
            self._arrive(step(), readings)

    def _arrive(self, history: History, readings: Readings | None) -> None:
        before = self.table
        self.history, self.readings = history, readings
        steps = (*history.past, *history.future)
        self._store.keep_only((history.present, *(passed.document for passed in steps)))
        if self.table is not before:
            self.table_changed.emit()
        self.changed.emit()

    def _refuse(self, sentence: str) -> None:
        self.refused.emit(sentence)
        self.changed.emit()  # so that a widget that showed the wish shows the fact again

    def _keep(self, document: Document, samples: SampleSet) -> None:
        self._store.keep_samples(document, samples)
        table = self._store.table(document)
        if table and table.rows > _AT_ONCE_ROWS:
            # What menus will ask for takes a moment of many rows: it is worked out while the user
            # looks at the figure.
            recipe = document.recipe
            assert recipe
            self.runner.think_ahead(lambda: _think_ahead(table, Readings(recipe, samples).samples))


def _absolute(path: "Path") -> "Path":
    """Where a path leads, whatever becomes of links and folders on the way."""
    from pathlib import Path

    try:
        return Path(os.path.realpath(path))
    except OSError:  # the folder that we are in has gone
        return path


def _answered(recipe: Recipe, samples: SampleSet) -> Readings:
    """The readings of a recipe, or a Refusal if any of its forms cannot be drawn of these
    samples."""
    readings = read(recipe, samples)
    limits_of(readings)
    return readings


def _warm(samples: SampleSet) -> None:
    """Work out, off the interface thread, what grows with the rows: moments, and whether values are
    whole."""
    from rhabdos.figure.readings import summaries_of

    summaries_of(samples)
    _ = samples.pooled.moments, samples.pooled.whole


def _think_ahead(table: Table, samples: SampleSet) -> None:
    """The widths that rules suggest, and the columns that can split: each is kept with its sample
    or table."""
    can_split(table)
    for rule in RULES:
        by_rule(samples.pooled, rule)
