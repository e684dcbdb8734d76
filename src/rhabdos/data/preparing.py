"""Preparing: steps from the table that was read to the one that is drawn, as plain values.

Steps are redone whenever a source is read, and undone by leaving them out. Each kind of step has a
class, in the file named for what it does, and a tag in the recipe.
"""

import os
import stat
from collections.abc import Iterable, Sequence
from pathlib import Path

from rhabdos.data.columns import bytes_of
from rhabdos.data.far.place import is_address
from rhabdos.data.files.reading import read_table
from rhabdos.data.reporting import Report, silent
from rhabdos.data.steps.asking import Ask
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.filling import FillDown
from rhabdos.data.steps.joining import Join
from rhabdos.data.steps.keep import KeepRows
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.naming import Bound, Describe, OrderLevels, RenameLevels
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.recoding import Recode
from rhabdos.data.steps.sources import Simulate, Values
from rhabdos.data.steps.stacking import Gather, Stack
from rhabdos.data.steps.step import Applied, Others, Step, StepError, no_others
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.wording import counted

AnyStep = (
    Read
    | Ask
    | Simulate
    | Values
    | DeclareMissing
    | ChangeKind
    | Describe
    | Recode
    | FillDown
    | RenameLevels
    | OrderLevels
    | Bound
    | KeepRows
    | Make
    | Join
    | Stack
    | Gather
)
"""Every kind of step there is."""

Beginning = Read | Simulate | Values | Ask
BEGINNINGS = (Read, Simulate, Values, Ask)
"""Steps that can only be the first one."""


class Stage:
    """A step that was done: the table after it, and what it touched, in words.

    A table that was let go for want of room is made again from the one before.
    """

    def __init__(
        self, step: Step, table: Table, told: str, before: "Stage | Table", others: Others
    ) -> None:
        self.step, self.told = step, told
        self._table: Table | None = table
        self._before, self._others = before, others

    @property
    def table(self) -> Table:
        """The table after the step."""
        if self._table is not None:
            return self._table
        steps, at = [], self
        while at._table is None and isinstance(at._before, Stage):
            steps.append(at.step)
            at = at._before
        table = at._table
        if table is None:
            assert isinstance(at._before, Table)
            steps.append(at.step)
            table = at._before
        for step in reversed(steps):
            if not step.off and not step.begins:
                table = step.apply(table, self._others).table
        self._table = table
        return table

    def let_go(self) -> None:
        """Hold the table no longer."""
        self._table = None


_PARQUET = b"PAR1"
_SMALL = 4 << 20  # bytes of a file that any memory holds
MOST_HELD = 1 << 30
"""Bytes that the tables between steps may take; of more, all but the last are let go."""
_LAST = 2  # stages whose tables are kept, whatever they take


def stages(
    table: Table, steps: Sequence[Step], others: Others = no_others, known: Sequence[Stage] = ()
) -> list[Stage]:
    """Each step with the table after it, in their order.

    Parameters
    ----------
    known : sequence of Stage
        What was worked out before from the same table; as far as its steps are the same, it is
        taken over.

    Raises
    ------
    Refusal
        A step cannot be done; the sentence says which.
    """
    done: list[Stage] = []
    before: Stage | Table = table
    in_memory = _InMemory(table)
    taking_over = True
    for index, step in enumerate(steps):
        if index == 0 and isinstance(step, BEGINNINGS):
            done.append(Stage(step, table, told_of(table), before, others))
            before = done[-1]
            continue
        if taking_over and index < len(known) and known[index].step == step:
            done.append(known[index])
            before = known[index]
            continue
        if taking_over and done:
            table = done[-1].table
        taking_over = False
        if step.off:
            done.append(Stage(step, table, "struck out", before, others))
            before = done[-1]
            continue
        try:
            after = applied(step, table, others)
        except Refusal as refusal:
            words = f"Step {index + 1}, “{step.words}”, cannot be done"
            raise type(refusal)(f"{words}. {refusal}") from None
        table = after.table
        done.append(Stage(step, table, after.told, before, others))
        before = done[-1]
        if in_memory.too_much_with(table):
            for stage in done[:-_LAST]:
                stage.let_go()
            in_memory = _InMemory(table)
    return done


def applied(step: Step, table: Table, others: Others, look: bool = False) -> Applied:
    """What a step leads to, in memory or where the data lie.

    Parameters
    ----------
    look : bool
        Ask nothing where the data lie, and take what was looked at for all rows.

    Raises
    ------
    Refusal
        It cannot be done.
    """
    if table.far is None:
        return step.apply(table, others)
    from rhabdos.data.far.stepping import applied_far  # which few sessions need

    return applied_far(step, table, others, look)


class _InMemory:
    """The bytes of the tables that are held, a column that several have counted once."""

    def __init__(self, first: Table) -> None:
        self._known = {id(column) for column in first.columns}
        self._bytes = 0

    def too_much_with(self, table: Table) -> bool:
        """Whether one more is too much."""
        for column in table.columns:
            if id(column) not in self._known:
                self._known.add(id(column))
                self._bytes += bytes_of(column)
        return self._bytes > MOST_HELD


def told_of(table: Table) -> str:
    """How large a table is, in words."""
    return f"{table.size}, {counted(len(table.columns), 'variable', 'variables')}"


def beginning_of(steps: Sequence[Step]) -> Beginning | None:
    """The step that rows begin with, where there is one."""
    first = steps[0] if steps else None
    return first if isinstance(first, BEGINNINGS) else None


def begun(
    beginning: Beginning | None, path: str | os.PathLike[str] | None, report: Report = silent
) -> Table:
    """The table that steps begin with: of a file, of typed values, or of practice samples.

    Raises
    ------
    Refusal
        There is no file, or it cannot be read.
    """
    if isinstance(beginning, Simulate | Values):
        if beginning.off:
            raise StepError(
                "Rows begin with this step: without it there are none. Take it back, or open a "
                "file."
            )
        return beginning.table()
    if path is not None and is_address(os.fspath(path)):
        from rhabdos.data.far.reaching import reached_at  # brings another engine

        return reached_at(os.fspath(path), report)
    if isinstance(beginning, Ask) and not beginning.off:
        return beginning.table(report)
    if path is None:
        raise StepError("There is no file to read. Open one.")
    how = beginning if isinstance(beginning, Read) and not beginning.off else None
    if _may_be_far(path):
        from rhabdos.data.far.files import beyond_memory, far_file  # brings another engine

        if beyond_memory(Path(path)):
            return far_file(Path(path), report, how)
    return read_table(path, report, how)


def _may_be_far(path: str | os.PathLike[str]) -> bool:
    """Whether a path is a folder, or a file that is not small or may hold much in little."""
    try:
        state = os.stat(path)
        if stat.S_ISDIR(state.st_mode) or state.st_size > _SMALL:
            return True
        if not stat.S_ISREG(state.st_mode):
            return False
        with open(path, "rb") as file:
            return file.read(len(_PARQUET)) == _PARQUET
    except (OSError, ValueError):
        return False


class OtherTables:
    """Tables that steps bring in, each read once; names are looked for beside the recipe, then
    beside the data."""

    def __init__(self, folders: Sequence[str | os.PathLike[str]] = ()) -> None:
        self._folders = [Path(folder) for folder in folders]
        self._known: dict[tuple[str, Read | None], Table] = {}

    def __call__(self, file: str, how: Read | None) -> Table:
        """The table of a file."""
        key = file, how
        if key not in self._known:
            self._known[key] = read_table(self._found(file), silent, how)
        return self._known[key]

    def _found(self, file: str) -> Path:
        places = [folder / file for folder in self._folders]
        return next((place for place in places if os.path.exists(place)), Path(file))


def prepared(table: Table, steps: Iterable[Step], others: Others = no_others) -> Table:
    """The table after all steps, in their order."""
    done = stages(table, tuple(steps), others)
    return done[-1].table if done else table
