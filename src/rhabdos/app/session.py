"""The session: the one place where state lives. Widgets show it and ask it for changes."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import QObject, pyqtSignal

from rhabdos.data.demo import demo_table
from rhabdos.data.gathering import Report, can_split, gather
from rhabdos.data.samples import SampleSet
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.demo_recipe import demo_recipe
from rhabdos.figure.readings import Readings, read
from rhabdos.figure.recipe import Recipe, Show
from rhabdos.figure.wording import counted
from rhabdos.project.document import Document, Source
from rhabdos.project.history import History
from rhabdos.scene.build import check_drawable
from rhabdos.stats.rules import RULES, by_rule

if TYPE_CHECKING:
    from pathlib import Path

    from rhabdos.app.tasks import Task
    from rhabdos.figure.notices import Notice

_AT_ONCE_ROWS = 100_000  # fewer rows than these are sorted before an eye could see the wait
_KEPT_VALUES = 60_000_000  # sorted values kept for going back, about half a gigabyte

_Key = tuple[Source, str, str | None, str | None]


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
        self._tables: dict[Source, Table] = {}
        self._samples: dict[_Key, SampleSet] = {}
        self._task: Task | None = None
        self._ahead: Task | None = None

    # What is shown

    @property
    def document(self) -> Document:
        return self.history.present

    @property
    def recipe(self) -> Recipe | None:
        return self.document.recipe

    @property
    def table(self) -> Table | None:
        source = self.document.source
        return self._tables.get(source) if source else None

    @property
    def notices(self) -> "tuple[Notice, ...]":
        """Notices of the figure, then what reading the file noticed that bears on it."""
        from rhabdos.figure.notices import Notice, notices  # which no first picture waits for

        if not self.table:
            return ()
        shown = () if not self.readings else (self.readings.variable, self.readings.split)
        remarks = [column.remark for column in shown if column and column.remark]
        remarks += self.table.remarks
        remarks += [column.remark for column in self.table.columns if column.kind == "label" and column.remark]
        found = notices(self.readings) if self.readings else ()
        return found + tuple(Notice("reading", remark) for remark in remarks)

    # Opening

    def open_demo(self) -> None:
        source = Source()
        if source not in self._tables:
            self._tables[source] = demo_table()
        self._go(f"Open {self._tables[source].name}", Document(source, demo_recipe()))
        self._tell_opened("Demo data", self._tables[source])

    def _tell_opened(self, name: str, table: Table) -> None:
        variables = counted(len(table.columns), "variable", "variables")
        self.told.emit(f"{name}: {counted(table.rows, 'row', 'rows')}, {variables}.")

    def open_file(self, path: "Path") -> None:
        """Read a file off the interface thread and show its first numeric variable."""
        source = Source(path.resolve())

        def work(report: Report) -> _Opened:
            from rhabdos.data.reading import read_table  # brings the file reader, which not every start needs

            table = read_table(path, report)
            drawable = [column.name for column in table.numbers if column.n]
            samples = None
            if drawable:
                samples = gather(table, drawable[0], None, report)
                _warm(samples)
            return _Opened(table, samples)

        def done(result: object) -> None:
            assert isinstance(result, _Opened)
            table, recipe = result.table, None
            self._tables[source] = table
            if result.samples:
                first = result.samples.variable.name
                self._keep((source, first, None, None), result.samples)
                recipe = Recipe(show=Show(variables=(first,)))
            self._open(f"Open {path.name}", Document(source, recipe))
            self._tell_opened(path.name, table)

        self._run(work, done, f"Opening {path.name}")

    def _open(self, name: str, document: Document) -> None:
        """Show a table that was just read; if its first variable cannot be drawn, the others still can."""
        source, recipe = document.source, document.recipe
        if source and recipe:
            try:
                read(recipe, self._samples[self._key(document)])
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
            check_drawable(recipe)
            if not self.table:
                raise Refusal("Open the data first: a recipe draws the file that is open.")
        except Refusal as refusal:
            self.refused.emit(str(refusal))
            return None
        self.ask(f"Open recipe {path.name}", recipe)
        return recipe

    def save_recipe(self, path: "Path") -> bool:
        """Write the recipe of the figure; tells whether it was written."""
        from rhabdos.figure.recipe_text import write_recipe
        from rhabdos.project.files import write_whole

        if not self.recipe:
            return False
        try:
            write_whole(path, write_recipe(self.recipe).encode())
        except Refusal as refusal:
            self.refused.emit(str(refusal))
            return False
        self.told.emit(f"Recipe saved as {path.name}.")
        return True

    # Changing the figure

    def ask(self, name: str, recipe: Recipe) -> None:
        """Show another recipe of the same data and record the step; refused ones leave everything as it was."""
        self._go(name, self.document.with_recipe(recipe))

    def preview(self, recipe: Recipe) -> bool:
        """Show a recipe without recording it, if its samples are at hand; tells whether it could be shown."""
        samples = self._samples.get(self._key(self.document.with_recipe(recipe)))
        if samples is None:
            return False
        try:
            self.readings = read(recipe, samples)
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
        self._go_back(self.history.undone())

    def redo(self) -> None:
        self._go_back(self.history.redone())

    def cancel(self) -> None:
        """Stop what is going on; the figure stays as it was."""
        if self._task:
            self._task.cancel()

    def finish(self) -> None:
        """Let no thread outlive the session."""
        from rhabdos.app.tasks import Task

        self.cancel()
        Task.wait_for_all()

    # How a document becomes readings

    def _go(self, name: str, document: Document) -> None:
        self._reach(document, lambda: self.history.did(name, document))

    def _go_back(self, history: History) -> None:
        if history is not self.history:
            self._reach(history.present, lambda: history)

    def _reach(self, document: Document, step: Callable[[], History]) -> None:
        """Work the readings of a document out, off the interface thread where that takes long, and then show it."""
        if self._task:
            self._task.cancel()
        if not document.recipe or not document.source:
            self._arrive(step(), None)
            return
        key = self._key(document)
        samples, recipe = self._samples.get(key), document.recipe
        if samples is not None:
            self._finish(recipe, samples, step)
            return
        table = self._tables[document.source]

        def work(report: Report) -> SampleSet:
            found = gather(table, recipe.variable, recipe.split, report, recipe.weight)
            _warm(found)
            return found

        def done(result: object) -> None:
            assert isinstance(result, SampleSet)
            self._keep(key, result)
            self._finish(recipe, result, step)

        if table.rows <= _AT_ONCE_ROWS:
            try:
                found = work(lambda _stage, _share: None)
            except Refusal as refusal:
                self._refuse(str(refusal))
            else:
                done(found)
        else:
            self._run(work, done, f"Sorting {recipe.variable}")

    def _finish(self, recipe: Recipe, samples: SampleSet, step: Callable[[], History]) -> None:
        try:
            readings = read(recipe, samples)
        except Refusal as refusal:
            self._refuse(str(refusal))
        else:
            self._arrive(step(), readings)

    def _arrive(self, history: History, readings: Readings | None) -> None:
        before = self.table
        self.history, self.readings = history, readings
        if self.table is not before:
            self.table_changed.emit()
        self.changed.emit()

    def _refuse(self, sentence: str) -> None:
        self.refused.emit(sentence)
        self.changed.emit()  # so that a widget that showed the wish shows the fact again

    def _run(self, work: Callable[[Report], object], done: Callable[[object], None], stage: str) -> None:
        if self._task:
            self._task.cancel()
        from rhabdos.app.tasks import Task  # brings threads, which no first picture needs

        task = Task(work)
        self._task = task

        def end() -> None:
            if self._task is task:
                self._task = None
                self.idle.emit()

        def succeed(result: object) -> None:
            end()
            done(result)

        def refuse(sentence: str) -> None:
            end()
            self._refuse(sentence)

        task.succeeded.connect(succeed)
        task.refused.connect(refuse)
        task.cancelled.connect(end)
        task.progressed.connect(self.busy)
        self.busy.emit(stage, -1.0)
        task.begin()

    def _key(self, document: Document) -> _Key:
        assert document.source is not None
        assert document.recipe is not None
        recipe = document.recipe
        return document.source, recipe.variable, recipe.split, recipe.weight

    def _keep(self, key: _Key, samples: SampleSet) -> None:
        self._samples[key] = samples
        table = self._tables[key[0]]
        if table.rows > _AT_ONCE_ROWS:
            # What menus will ask for takes a moment of many rows: it is worked out while the user looks at the figure.
            from rhabdos.app.tasks import Task

            self._ahead = Task(lambda _report: _think_ahead(table, samples))
            self._ahead.begin()
        kept = sum(found.pooled.n for found in self._samples.values())
        for old in list(self._samples):
            if kept <= _KEPT_VALUES or old == key:
                break
            kept -= self._samples.pop(old).pooled.n


def _warm(samples: SampleSet) -> None:
    """Work out, off the interface thread, what grows with the rows: moments, and whether values are whole."""
    from rhabdos.figure.readings import summaries_of

    summaries_of(samples)
    _ = samples.pooled.moments, samples.pooled.whole


def _think_ahead(table: Table, samples: SampleSet) -> None:
    """The widths that rules suggest, and the columns that can split: each is kept with its sample or table."""
    can_split(table)
    for rule in RULES:
        by_rule(samples.pooled, rule)
