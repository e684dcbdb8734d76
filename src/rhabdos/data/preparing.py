"""Preparing: steps from the table that was read to the one that is drawn, as plain values.

Steps are redone whenever a source is read, and undone by leaving them out. Each kind of step has a
class, in the file named for what it does, and a tag in the recipe.
"""

from collections.abc import Iterable, Sequence

from msgspec import Struct

from rhabdos.data.steps.combine import Gather, Join, Stack
from rhabdos.data.steps.derive import Make
from rhabdos.data.steps.keep import KeepRows
from rhabdos.data.steps.kind import ChangeKind
from rhabdos.data.steps.missing import DeclareMissing
from rhabdos.data.steps.naming import Bound, Describe, OrderLevels, RenameLevels
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.sources import Simulate, Values
from rhabdos.data.steps.step import Others, Step, no_others
from rhabdos.data.table import Table
from rhabdos.errors import Refusal

AnyStep = (
    Read
    | Simulate
    | Values
    | DeclareMissing
    | ChangeKind
    | Describe
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

BEGINNINGS = (Read, Simulate, Values)
"""Steps that can only be the first one."""


class Stage(Struct, frozen=True, eq=False):
    """A step that was done: the table after it, and what it touched, in words."""

    step: Step
    table: Table
    told: str


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
    taking_over = True
    for place, step in enumerate(steps):
        if taking_over and place < len(known) and known[place].step == step:
            done.append(known[place])
            table = known[place].table
            continue
        taking_over = False
        if step.off:
            done.append(Stage(step, table, "struck out"))
            continue
        try:
            after = step.done(table, others)
        except Refusal as refusal:
            words = f"Step {place + 1}, “{step.words}”, cannot be done"
            raise type(refusal)(f"{words}. {refusal}") from None
        table = after.table
        done.append(Stage(step, table, after.told))
    return done


def prepared(table: Table, steps: Iterable[Step], others: Others = no_others) -> Table:
    """The table after all steps, in their order."""
    done = stages(table, tuple(steps), others)
    return done[-1].table if done else table
