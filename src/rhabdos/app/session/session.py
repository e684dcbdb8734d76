"""The session: the one place where state lives. Widgets show it and ask it for changes."""

import os
from collections.abc import Callable
from itertools import count
from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import QObject, pyqtSignal

from rhabdos.app.session.runner import Runner
from rhabdos.data.demo import demo_table
from rhabdos.data.gathering import can_split
from rhabdos.data.reporting import Report
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.steps.step import Done, no_others
from rhabdos.data.steps.step import Step as DataStep
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.planning.data_request import wanted
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.project.document import Document, Source
from rhabdos.project.history import History
from rhabdos.project.making import Made, make
from rhabdos.project.store import Store
from rhabdos.quoting import file_named
from rhabdos.scene.axes.limits import limits_of
from rhabdos.stats.rules import RULES, by_rule
from rhabdos.wording import counted

if TYPE_CHECKING:
    from pathlib import Path

    from rhabdos.data.columns import Column
    from rhabdos.data.preparing import OtherTables, Stage
    from rhabdos.figure.recipe.page_size import Size
    from rhabdos.figure.recipe.plain_charts import PlainChart
    from rhabdos.figure.recipe.toml_text import Work
    from rhabdos.figure.words.notice import Notice
    from rhabdos.project.recovery import Kept

_AT_ONCE_ROWS = 100_000  # fewer rows than these are sorted before an eye could see the wait

_TOLD_OTHERWISE = ("missing-code", "group-codes", "named-code", "no-values")
"""Problems of a variable that notices of its figure tell, or that a figure does not suffer from."""


class Foreseen(Struct, frozen=True, eq=False):
    """What a step would do: the table after it and its words, or why it cannot be done."""

    done: Done | None
    refusal: str = ""


class Session(QObject):
    """Data, history and the readings of the figure that is shown.

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
        self._store = Store()
        self._revisions = count(1)
        self._opening = ""
        self._of_recipe: Document | None = None
        self._others: tuple[Source | None, OtherTables] | None = None

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
        """The data that are open, after their steps."""
        return self._store.table(self.document)

    @property
    def stages(self) -> "tuple[Stage, ...]":
        """Each step of the data that are open, with the table after it."""
        return self._store.stages(self.document) or ()

    def before(self, place: int) -> Table | None:
        """The table that a step is given, by the step's place."""
        stages = self.stages
        if 0 < place <= len(stages):
            return stages[place - 1].table
        return self._store.read(self.document)

    @property
    def others(self) -> "OtherTables":
        """Fetches tables that steps bring in."""
        from rhabdos.data.preparing import OtherTables

        source = self.document.source
        folder = (source.path.parent,) if source and source.path else ()
        if self._others is None or self._others[0] != source:
            self._others = source, OtherTables(folder)
        return self._others[1]

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

    # Opening

    def open_demo(self) -> None:
        """Show the demo data with their figure."""
        document = Document.of(Source(), demo_recipe())
        table = self._store.read(document) or demo_table()
        self._store.keep_table(document, table)
        self._stop_opening()
        self._go(f"Open {table.name}", document)
        self._tell_opened("Demo data", table)

    def _tell_opened(self, name: str, table: Table) -> None:
        variables = counted(len(table.columns), "variable", "variables")
        self.told.emit(f"{name}: {counted(table.rows, 'row', 'rows')}, {variables}.")

    def open_file(self, path: "Path", how: DataStep | None = None) -> None:
        """Read a file off the interface thread and show its first variable.

        Every opening is a source of its own: a file that changed since is another table. What is
        wished of the present figure meanwhile is met; another file that is opened takes its place.

        Parameters
        ----------
        how : Read, optional
            How it is read, where that is not told from the file.
        """
        source = Source(_absolute(path), next(self._revisions))
        self._open(file_named(path.name), Document.of(source, None, (how,) if how else ()))

    def open_steps(
        self,
        name: str,
        *steps: DataStep,
        recipe: Recipe | None = None,
        chart: "PlainChart | None" = None,
    ) -> None:
        """Show what a step makes that rows begin with: typed values, or practice samples."""
        source = Source(None, next(self._revisions))
        self._open(name, Document.of(source, recipe, steps).with_chart(chart))

    def reload(self) -> None:
        """Read the file again, and do all steps and figures anew."""
        source = self.document.source
        if source is None or source.path is None:
            return
        again = Source(source.path, next(self._revisions))
        name = file_named(source.path.name)
        self._open(name, self.document.with_source(again), words=f"Reload {name}")

    def _open(
        self,
        name: str,
        document: Document,
        words: str = "",
        then: Callable[[], None] | None = None,
    ) -> None:
        """Read and prepare a document's data off the interface thread, show them, and then do what
        is to be done."""
        from rhabdos.data.preparing import OtherTables  # brings the readers

        source = document.source
        assert source is not None
        others = OtherTables((source.path.parent,) if source.path else ())

        def work(report: Report) -> Made:
            """Read the file, prepare it, and sort its first variable."""
            return make(document, self._store, others, report, first=True, lenient=True)

        def done(result: object) -> None:
            """Show what was read."""
            assert isinstance(result, Made)
            self.runner.cancel("sorting")
            self._show_opened(words or f"Open {name}", result)
            self._tell_opened(name, result.table)
            if then is not None:
                then()

        self._stop_opening()
        self._opening = name
        self.runner.run("opening", f"Opening {name}", work, done, self._refuse)

    def _stop_opening(self) -> None:
        if self.runner.running("opening"):
            self.runner.cancel("opening")
            self.told.emit(f"Opening {self._opening} was stopped.")

    def _show_opened(self, name: str, made: Made) -> None:
        """Show a table that was just read; if its first variable cannot be drawn, the others still
        can."""
        document = self._kept(made)
        recipe = document.recipe
        if recipe and made.samples:
            try:
                _answered(recipe, made.samples)
            except Refusal as refusal:
                self._go(name, document.with_recipe(None))
                self.refused.emit(str(refusal))
                return
        self._go(name, document)
        if made.told:
            self.told.emit(made.told)

    def _kept(self, made: Made) -> Document:
        """Keep what was made, and say of which document it is."""
        document = made.document
        self._store.keep_table(document, made.read)
        self._store.keep_stages(document, made.stages)
        if made.samples is not None:
            self._keep(document, made.samples)
        return document

    def open_recipe(self, path: "Path") -> Recipe | None:
        """Draw the data that are open after a recipe; returns it, if it could be read."""
        from rhabdos.figure.recipe.toml_text import read_work  # no start needs the text form
        from rhabdos.paint.inside import recipe_text

        try:
            work = read_work(recipe_text(path), path.name)
            document = self._document_of(work, path)
        except Refusal as refusal:
            self.refused.emit(str(refusal))
            return None
        name = f"Open recipe {file_named(path.name)}"
        if document.source != self.document.source:
            self._open(file_named(path.name), document, name, self.recipe_opened.emit)
        else:
            self._of_recipe = document
            self._go(name, document)
        return work.recipe

    def open_kept(self, kept: "Kept", then: Callable[[], None]) -> None:
        """Show what a window left behind that did not end by itself, and then do what is to be
        done."""
        from pathlib import Path

        path = Path(os.fsdecode(kept.path)) if kept.path else None
        source = Source(path, next(self._revisions))
        document = Document.of(source, kept.recipe, kept.steps).with_chart(kept.chart)
        name = kept.name or "what was open"
        if kept.demo:
            self._store.keep_table(document, demo_table())
        self._open(name, document, f"Bring back {name}", then)

    def _document_of(self, work: "Work", path: "Path") -> Document:
        """What a recipe draws: the data that are open, prepared by its steps, or what its first
        step makes.

        Raises
        ------
        Refusal
            No data are open, and it makes none.
        """
        from rhabdos.project.paths import beside

        folder = path.parent
        steps = tuple(step.with_files(lambda file: beside(folder, file)) for step in work.steps)
        first = steps[0] if steps else None
        if first is not None and first.begins and first.makes_rows:
            source = Source(None, next(self._revisions))
            return Document.of(source, work.recipe, steps).with_chart(work.chart)
        if self.document.source is None:
            raise Refusal("Open the data first: a recipe draws the file that is open.")
        present = self.document
        if steps and present.beginning is not None and not (first and first.begins):
            steps = (present.beginning, *steps)
        recipe = work.recipe if work.recipe is not None else present.recipe
        prepared = present.with_steps(steps or present.steps).with_recipe(recipe)
        return prepared.with_chart(work.chart)

    def recipe_text(self, size: "Size | None" = None) -> str:
        """The recipe of the figure with the steps of its data, as text; of another size."""
        from rhabdos.figure.recipe.toml_text import Work, write_work

        document, recipe = self.document, self.recipe
        if size is not None and recipe is not None:
            recipe = recipe.sized(size)
        return write_work(Work(document.steps, recipe, document.chart))

    def save_recipe(self, path: "Path") -> bool:
        """Write the recipe of the figure; tells whether it was written."""
        from rhabdos.figure.recipe.toml_text import Work, write_work
        from rhabdos.project.files import refuse_long_recipe, same_file, write_whole
        from rhabdos.project.paths import seen_from

        if not self.recipe and not self.document.steps:
            return False
        source = self.document.source
        if source and source.path and same_file(path, source.path):
            self.refused.emit(
                f"{file_named(path)} holds the data of this figure. Save the recipe under another "
                "name."
            )
            return False
        try:
            folder = _absolute(path).parent
            steps = self.document.steps
            moved = tuple(step.with_files(lambda file: seen_from(folder, file)) for step in steps)
            content = write_work(Work(moved, self.recipe, self.document.chart)).encode()
            refuse_long_recipe(content, path)
            write_whole(path, content)
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

    def prepare(self, name: str, step: DataStep, recipe: Recipe | None = None) -> None:
        """Prepare the data by one step more, and record that; with another figure, if one is
        given."""
        document = self.document.with_step(step)
        recipe = recipe or self._with_names_of(step)
        self._go(name, document.with_recipe(recipe) if recipe else document, lenient=True)

    def _with_names_of(self, step: DataStep) -> Recipe | None:
        """The figure with the new names of levels that it names, where a step gives some."""
        from rhabdos.data.steps.naming import RenameLevels
        from rhabdos.figure.edits.level_edits import with_renamed

        if not isinstance(step, RenameLevels) or not self.recipe or not self.table:
            return None
        table = self.table
        factors = {table.column(name).name for name in self.recipe.factors}
        renamed = table.column(step.variable).name in factors
        return with_renamed(self.recipe, step.become) if renamed else None

    def ask_steps(self, name: str, steps: "tuple[DataStep, ...]") -> None:
        """Prepare the data by other steps, and record that."""
        self._go(name, self.document.with_steps(steps), lenient=True)

    def foresee(
        self, step: DataStep, then: Callable[[Foreseen], None], table: Table | None = None
    ) -> None:
        """Work out what a step would do, without doing it; ``then`` is told, perhaps later."""
        before = table if table is not None else self.table
        if before is None:
            return
        others = self.others

        def work(_report: Report) -> object:
            """Do the step on the side."""
            return step.done(before, others)

        def refused(sentence: str) -> None:
            """Hand on why it cannot be done."""
            then(Foreseen(None, sentence))

        def done(result: object) -> None:
            """Hand on what it would do."""
            assert isinstance(result, Done)
            then(Foreseen(result))

        if before.rows <= _AT_ONCE_ROWS and not step.files:
            try:
                result = work(lambda _stage, _share: None)
            except Refusal as refusal:
                refused(str(refusal))
            else:
                done(result)
            return
        self.runner.run("looking", step.words.rstrip("."), work, done, refused)

    def look_at(self, name: str, chart: "PlainChart | None") -> None:
        """Look at a chart in place of the figure, or at the figure again."""
        if chart is not None and self.table is not None:
            from rhabdos.figure.readings.plain_chart_readings import check_chart

            try:
                check_chart(chart, self.table)
            except Refusal as refusal:
                self._refuse(str(refusal))
                return
        self._go(name, self.document.with_chart(chart))

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

    def _go(self, name: str, document: Document, lenient: bool = False) -> None:
        self._reach(document, lambda reached: self.history.did(name, reached), lenient)

    def _go_back(self, history: History) -> None:
        if history is not self.history:
            self._reach(history.present, lambda _reached: history)

    def _reach(
        self, document: Document, step: Callable[[Document], History], lenient: bool = False
    ) -> None:
        """Work out what a document needs, off the interface thread where that takes long, and then
        show it."""
        self.runner.cancel("sorting")
        if document.source is None:
            self._arrive(step(document), None)
            return
        read, done_before = self._store.read(document), self._store.stages(document) is not None
        others = self.others if document.steps else no_others
        samples = self._store.samples(document) if done_before and document.recipe else None
        if read is not None and done_before and (samples is not None or not document.recipe):
            self._finish(document, samples, step)
            return

        def work(report: Report) -> Made:
            """Read, prepare and sort what is not at hand."""
            return make(document, self._store, others, report, lenient=lenient)

        def done(result: object) -> None:
            """Keep what was made, and show its figure."""
            assert isinstance(result, Made)
            reached = self._kept(result)
            self._finish(reached, result.samples, step)
            if result.told:
                self.told.emit(result.told)

        brought_in = any(each.files for each in document.steps)
        if read is not None and read.rows <= _AT_ONCE_ROWS and not (brought_in and not done_before):
            try:
                result = work(lambda _stage, _share: None)
            except Refusal as refusal:
                self._refuse(str(refusal))
            else:
                done(result)
            return
        asked = wanted(document.recipe).words if document.recipe else "the rows"
        self.runner.run("sorting", f"Sorting {asked}", work, done, self._refuse)

    def _finish(
        self,
        document: Document,
        samples: SampleSet | None,
        step: Callable[[Document], History],
    ) -> None:
        recipe = document.recipe
        if recipe is None or samples is None:
            self._arrive(step(document), None)
            return
        try:
            readings = _answered(recipe, samples)
        except Refusal as refusal:
            self._refuse(str(refusal))
        else:
            self._arrive(step(document), readings)

    def _arrive(self, history: History, readings: Readings | None) -> None:
        before = self.table
        self.history, self.readings = history, readings
        steps = (*history.past, *history.future)
        self._store.keep_only((history.present, *(passed.document for passed in steps)))
        if self.table is not before:
            self.table_changed.emit()
        self.changed.emit()
        if self._of_recipe is not None:
            if history.present == self._of_recipe:
                self.recipe_opened.emit()
            self._of_recipe = None

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


def _think_ahead(table: Table, samples: SampleSet) -> None:
    """The widths that rules suggest, and the columns that can split: each is kept with its sample
    or table."""
    can_split(table)
    for rule in RULES:
        by_rule(samples.pooled, rule)
