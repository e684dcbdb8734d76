"""The steps that prepare the data of a session: foreseen, done, and done anew."""

from collections.abc import Callable

from msgspec import Struct

from rhabdos.app.session.reaching import AT_ONCE_ROWS, Reaching
from rhabdos.data.reporting import Report
from rhabdos.data.steps.step import Applied
from rhabdos.data.steps.step import Step as DataStep
from rhabdos.data.table import Table
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.project.document import Document


class Foreseen(Struct, frozen=True, eq=False):
    """What a step would do: the table after it and its words, or why it cannot be done."""

    step: DataStep
    done: Applied | None
    refusal: str = ""


class Preparing:
    """Prepares the data of a session by steps, and works out what one more would do."""

    def __init__(self, session: Reaching) -> None:
        self._session = session

    def before(self, index: int) -> Table | None:
        """The table that a step is given, by the step's place."""
        stages = self._session.stages
        if 0 < index <= len(stages):
            return stages[index - 1].table
        return self._session.store.read(self._session.document)

    def prepare(self, name: str, step: DataStep, recipe: Recipe | None = None) -> None:
        """Prepare the data by one step more, and record that; with another figure, if one is
        given."""
        document = self._session.document.with_step(step)
        document = document.with_recipe(recipe) if recipe else self._following((step,), document)
        self._session.go(name, document, lenient=True)

    def _following(self, steps: "tuple[DataStep, ...]", document: Document) -> Document:
        """The document whose figures name what new steps call otherwise."""
        from rhabdos.project.following import following  # which no start needs

        table = self._session.table
        return following(document, steps, table) if table is not None else document

    def ask_steps(self, name: str, steps: "tuple[DataStep, ...]") -> None:
        """Prepare the data by other steps, and record that."""
        document = self._session.document
        new = tuple(step for step in steps if step not in document.steps)
        self._session.go(name, self._following(new, document.with_steps(steps)), lenient=True)

    def foresee(
        self, step: DataStep, then: Callable[[Foreseen], None], table: Table | None = None
    ) -> None:
        """Work out what a step would do, without doing it; ``then`` is told, perhaps later."""
        before = table if table is not None else self._session.table
        if before is None:
            return
        others = self._session.others

        def work(_report: Report) -> Applied:
            """Do the step on the side."""
            from rhabdos.data.preparing import applied  # brings the readers

            return applied(step, before, others, look=True)

        def refused(sentence: str) -> None:
            """Hand on why it cannot be done."""
            then(Foreseen(step, None, sentence))

        def done(result: Applied) -> None:
            """Hand on what it would do."""
            then(Foreseen(step, result))

        at_once = before.all_rows <= AT_ONCE_ROWS and not step.files
        words = step.words.rstrip(".")
        self._session.runner.run("looking", words, work, done, refused, at_once)
