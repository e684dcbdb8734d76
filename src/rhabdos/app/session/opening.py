"""How data come to be shown: from files, from steps that make rows, and from recipes."""

import os
from collections.abc import Callable
from itertools import count
from typing import TYPE_CHECKING

from rhabdos.app.session.reaching import Reaching, answered
from rhabdos.data.demo import demo_table
from rhabdos.data.reporting import Report
from rhabdos.data.steps.step import Step as DataStep
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.demo_recipe import demo_recipe
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.project.document import Document, Source
from rhabdos.project.making import Reached, make
from rhabdos.quoting import file_named
from rhabdos.wording import counted

if TYPE_CHECKING:
    from pathlib import Path

    from rhabdos.figure.recipe.plain_charts import PlainChart
    from rhabdos.figure.recipe.toml_text import Work
    from rhabdos.project.recovery import Kept
    from rhabdos.project.work_file import WorkFile


class Opening:
    """Opens data for a session, off the interface thread; a newer wish takes the place of an older
    one."""

    def __init__(self, session: Reaching) -> None:
        self._session = session
        self._revisions = count(1)
        self._name = ""

    def open_demo(self) -> None:
        """Show the demo data with their figure."""
        document = Document.of(Source(), demo_recipe())
        table = self._session.store.read(document) or demo_table()
        self._session.store.keep_table(document, table)
        self._stop_opening()
        self._session.go(f"Open {table.name}", document)
        self._tell_opened("Demo data", table)

    def _tell_opened(self, name: str, table: Table) -> None:
        variables = counted(len(table.columns), "variable", "variables")
        self._session.told.emit(f"{name}: {table.size}, {variables}.")

    def open_file(self, path: "Path", how: DataStep | None = None) -> None:
        """Read a file off the interface thread and show its first variable.

        Every opening is a source of its own: a file that changed since is another table. What is
        wished of the present figure meanwhile is met; another file that is opened takes its place.

        Parameters
        ----------
        how : Read, optional
            How it is read, where that is not told from the file.
        """
        source = Source(absolute(path), next(self._revisions))
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
        from rhabdos.data.steps.asking import Ask

        source = self._session.document.source
        beginning = self._session.document.beginning
        asked = isinstance(beginning, Ask)
        if source is None or (source.path is None and not asked):
            return
        again = Source(source.path, next(self._revisions))
        name = file_named(source.path.name) if source.path else "the data"
        self._open(name, self._session.document.with_source(again), words=f"Reload {name}")

    def open_other_data(self, path: "Path", how: DataStep | None, then: Callable[[], None]) -> None:
        """Draw the present figure, prepared as it is, of another file, and then do what is to be
        done; where that lacks what the figure needs, everything stays as it was.

        Parameters
        ----------
        how : Read, optional
            How it is read, where that is not told from the file.
        """
        present = self._session.document
        rest = present.steps[1:] if present.beginning is not None else present.steps
        beginning = present.beginning
        if beginning is not None and beginning.makes_rows:  # typed values, which no file holds
            beginning = None
        steps = (*filter(None, (how or beginning,)), *rest)
        other = present.with_source(Source(absolute(path), next(self._revisions)))
        name = file_named(path.name)
        self._open(name, other.with_steps(steps), f"Draw {name}", then, lenient=False)

    def _open(
        self,
        name: str,
        document: Document,
        words: str = "",
        then: Callable[[], None] | None = None,
        lenient: bool = True,
    ) -> None:
        """Read and prepare a document's data off the interface thread, show them, and then do what
        is to be done."""
        from rhabdos.data.preparing import OtherTables  # brings the readers

        source = document.source
        assert source is not None
        others = OtherTables((source.path.parent,) if source.path else ())

        def work(report: Report) -> Reached:
            """Read the file, prepare it, and sort its first variable."""
            store = self._session.store
            return make(document, store, others, report, True, lenient=lenient, quick=True)

        def done(result: Reached) -> None:
            """Show what was read."""
            self._session.runner.cancel("sorting")
            self._show_opened(words or f"Open {name}", result)
            self._tell_opened(name, result.table)
            if then is not None:
                then()

        self._stop_opening()
        self._name = name
        self._session.runner.run("opening", f"Opening {name}", work, done, self._session.refuse)

    def _stop_opening(self) -> None:
        if self._session.runner.running("opening"):
            self._session.runner.cancel("opening")
            self._session.told.emit(f"Opening {self._name} was stopped.")

    def _show_opened(self, name: str, reached: Reached) -> None:
        """Show a table that was just read; if its first variable cannot be drawn, the others still
        can."""
        document = self._session.keep_reached(reached)
        recipe = document.recipe
        if recipe and reached.samples:
            try:
                answered(recipe, reached.samples)
            except Refusal as refusal:
                self._session.go(name, document.with_recipe(None))
                self._session.refused.emit(str(refusal))
                return
        self._session.go(name, document)
        if reached.told:
            self._session.told.emit(reached.told)

    def read_recipe(self, path: "Path") -> "Work | None":
        """What a recipe's file asks for; None where it cannot be read, which is refused."""
        from rhabdos.figure.recipe.toml_text import read_work  # no start needs the text form
        from rhabdos.paint.inside import recipe_text

        try:
            return read_work(recipe_text(path), path.name)
        except Refusal as refusal:
            self._session.refused.emit(str(refusal))
            return None

    def needs_data(self, work: "Work") -> bool:
        """Whether a recipe needs a file of data, since none are open and it makes none."""
        return self._session.document.source is None and not _makes_rows(work)

    def open_recipe(self, work: "Work", path: "Path", data: "Path | None" = None) -> None:
        """Draw a recipe that was read from a path: of a file of data, or of those that are open."""
        try:
            document = self._document_of(work, path, data)
        except Refusal as refusal:
            self._session.refused.emit(str(refusal))
            return
        name = f"Open recipe {file_named(path.name)}"
        if document.source != self._session.document.source:
            opened = self._session.recipe_opened.emit
            read = file_named(data.name if data else path.name)
            self._open(read, document, name, opened, lenient=data is None)
        else:
            self._session.go(name, document, of_recipe=True)

    def open_work(self, work: "WorkFile", path: "Path", data: "Path | None") -> None:
        """Show a work that was read from a path, of its data where they lie now."""
        from rhabdos.project.work_sources import steps_found, told_changes

        folder = absolute(path).parent
        if work.source.demo and data is None:
            source = Source(None, next(self._revisions))
        else:
            source = Source(absolute(data) if data else None, next(self._revisions))
        document = work.document(source).with_steps(steps_found(folder, work.steps))
        if work.source.demo and data is None:
            self._session.store.keep_table(document, demo_table())

        def opened() -> None:
            """Say in what the data differ, and that what is open is saved."""
            table = self._session.store.read(self._session.document)
            told = told_changes(work.source, data, table) if data and table else ""
            if told:
                self._session.told.emit(told)
            self._session.recipe_opened.emit()

        name = file_named(path.name)
        self._open(name, document, f"Open {name}", opened)

    def bring_back(self, work: "WorkFile", when: str, folder: "Path") -> None:
        """Show the steps and figures of a version of the work that is open, of the data that are
        open; one step, which can be undone."""
        from rhabdos.project.work_sources import steps_found

        present = self._session.document
        if present.source is None:
            return
        steps = steps_found(folder, work.steps)
        beginning = present.beginning
        if beginning is not None and not (steps and steps[0].begins):
            steps = (beginning, *steps)
        document = work.document(present.source).with_steps(steps)
        self._session.go(f"Bring back the version of {when}", document, lenient=True)

    def open_kept(self, kept: "Kept", then: Callable[[], None]) -> None:
        """Show what a window left behind that did not end by itself, and then do what is to be
        done."""
        from pathlib import Path

        path = Path(os.fsdecode(kept.path)) if kept.path else None
        source = Source(path, next(self._revisions))
        document = kept.document(source)
        name = kept.name or "what was open"
        if kept.demo:
            self._session.store.keep_table(document, demo_table())
        self._open(name, document, f"Bring back {name}", then)

    def _document_of(self, work: "Work", path: "Path", data: "Path | None") -> Document:
        """What a recipe draws: a file, or the data that are open, prepared by its steps; or what
        its first step makes.

        Raises
        ------
        Refusal
            No data are open, and it makes none.
        """
        from rhabdos.project.paths import beside

        folder = path.parent
        steps = tuple(step.with_files(lambda file: beside(folder, file)) for step in work.steps)
        first = steps[0] if steps else None
        if data is not None or _makes_rows(work):
            source = Source(absolute(data) if data else None, next(self._revisions))
            return Document.of(source, work.recipe, steps).with_chart(work.chart)
        if self._session.document.source is None:
            raise Refusal("Open the data first: a recipe draws the file that is open.")
        present = self._session.document
        if steps and present.beginning is not None and not (first and first.begins):
            steps = (present.beginning, *steps)
        recipe = work.recipe if work.recipe is not None else present.recipe
        prepared = present.with_steps(steps or present.steps).with_recipe(recipe)
        return prepared.with_chart(work.chart)


def _makes_rows(work: "Work") -> bool:
    """Whether a recipe's first step makes rows by itself."""
    first = work.steps[0] if work.steps else None
    return first is not None and first.begins and first.makes_rows


def absolute(path: "Path") -> "Path":
    """Where a path leads, whatever becomes of links and folders on the way."""
    from pathlib import Path

    try:
        return Path(os.path.realpath(path))
    except OSError:  # the folder that we are in has gone
        return path
