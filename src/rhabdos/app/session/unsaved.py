"""What of the work is not saved: told in words, and written to the state folder soon after each
change."""

import operator
from collections.abc import Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from rhabdos.app.session.session import Session
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.recipe import NUMBERS
from rhabdos.lazy import lazy
from rhabdos.project.document import Document, Figure, Source
from rhabdos.quoting import file_named
from rhabdos.wording import counted

if TYPE_CHECKING:
    from rhabdos.data.steps.sources import Values
    from rhabdos.data.steps.step import Step
    from rhabdos.project.recovery import Slot

SOON = 2_000
"""Milliseconds after a change in which it is written."""

_Work = tuple[tuple[object, ...], tuple[Figure, ...], tuple[object, ...]]


class Unsaved(QObject):
    """Compares what is open with what was opened or saved.

    Merely looking at other variables and groups is no work that could be lost; all else is.

    Signals
    -------
    changed : what is unsaved may be something else.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session, soon: int = SOON, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self._safe: dict[Source, list[_Work]] = {}
        self._in_files: set[Source] = set()
        self._typing: Values | None = None
        self._written: object = None
        self._timer = QTimer(self)
        # Written once a hand rests, and not at each of its steps.
        self._timer.setSingleShot(True)
        self._timer.setInterval(soon)
        self._timer.timeout.connect(self.write_now)
        session.changed.connect(self.look)
        session.recipe_opened.connect(self.saved)
        self.look()  # at what was open before

    @lazy
    def _slot(self) -> "Slot":
        """The file, which no start waits for."""
        from rhabdos.project.recovery import Slot

        return Slot()

    def _clear(self) -> None:
        if self._written is not None:
            self._slot.clear()
            self._written = None

    # What is unsaved

    def look(self) -> None:
        """Look at what is open now."""
        document = self._session.document
        source = document.source
        if source is not None and source not in self._safe:
            self._safe[source] = self._as_opened(document, source)
        if self.words() or self._typing is not None:
            if not self._timer.isActive():  # from the first change on, however many follow
                self._timer.start()
        else:
            self._timer.stop()
            self._clear()
        self.changed.emit()

    def _as_opened(self, document: Document, source: Source) -> list[_Work]:
        """What need not be saved of data that are seen for the first time: how they were opened,
        but for typed values; where a file was read again, what was safe before."""
        past = self._session.history.past
        before = past[-1].document if past else None
        if before is not None and before.source is not None and source.path is not None:
            same = before.source.path == source.path and before.steps == document.steps
            if same and before.source in self._safe:
                return list(self._safe[before.source])
        if _typed(document.beginning):
            return []
        return [_work(document)]

    def saved(self) -> None:
        """What is open is in a file now, or came from one."""
        document = self._session.document
        if document.source is not None:
            if document.source in self._in_files:  # what was in the file before is there no more
                self._safe[document.source] = []
            self._safe.setdefault(document.source, []).append(_work(document))
            self._in_files.add(document.source)
        self.look()

    def forget(self) -> None:
        """What is open was brought back, and is in no file."""
        if (source := self._session.document.source) is not None:
            self._safe[source] = []
        self.look()

    def words(self, document: Document | None = None) -> tuple[str, ...]:
        """What of a document is not saved; of the one that is open."""
        document = document if document is not None else self._session.document
        source = document.source
        if source is None:
            return ()
        safe = self._safe.get(source, [])
        # What is in a file by itself is another figure as soon as it shows another variable.
        same = operator.eq if source in self._in_files else _nothing_lost
        if any(same(_work(document), known) for known in safe):
            return ()
        said = []
        known_steps = safe[-1][0] if safe else ()
        beginning = document.beginning
        if beginning is not None and _typed(beginning) and beginning not in known_steps:
            said.append(str(getattr(beginning, "name", "values")).lower())
        steps = [step for step in document.steps if not step.begins]
        if document.steps != known_steps and steps:
            said.append(counted(len(steps), "step", "steps"))
        if not safe or document.figures != safe[-1][1]:
            several = len(document.figures) > 1 or (safe and len(safe[-1][1]) > 1)
            said.append("the figures" if several else "the figure")
        if document.plates and (not safe or document.plates != safe[-1][2]):
            said.append("the pages")
        return tuple(said) or ("the steps",)

    def left_behind(self) -> tuple[str, ...]:
        """The names of data that were open before, and whose work is not saved: undo leads back
        to them."""
        present = self._session.document.source
        last: dict[Source, Document] = {}
        for step in self._session.history.past:
            if step.document.source is not None and step.document.source != present:
                last[step.document.source] = step.document
        return tuple(
            file_named(source.path.name) if source.path else "what was made here"
            for source, document in last.items()
            if self.words(document)
        )

    # Writing it

    def typing(self, values: "Values | None") -> None:
        """Values are being typed, and not taken over yet; None once they are, or are left."""
        self._typing = values
        self.look()

    def write_now(self) -> None:
        """Write what is unsaved to the state folder; where that fails, the log says so."""
        self._timer.stop()
        document, said = self._session.document, self.words()
        if self._typing is not None:
            document, said = Document.of(Source(), None, (self._typing,)), ("typed values",)
        if not said or self._written == (document, said):
            return
        from rhabdos.project.recovery import Kept

        table = self._session.table
        try:
            self._slot.write(Kept.of(document, table.name if table else "", said))
            self._written = document, said
        except (OSError, Refusal, ValueError) as error:
            from rhabdos.log import record

            record(error)

    def end(self) -> None:
        """The window closes by its user's will: nothing is to be found again."""
        self._timer.stop()
        self._clear()
        if slot := Unsaved._slot.made(self):
            slot.close()


def _typed(beginning: "Step | None") -> bool:
    """Whether rows begin with values that were typed or pasted, and are nowhere else."""
    return beginning is not None and beginning.__struct_config__.tag == "values"


def listed_plainly(words: Sequence[str]) -> str:
    """ "typed values, 2 steps and the figure"."""
    return " and ".join((", ".join(words[:-1]), words[-1])) if len(words) > 1 else words[0]


def _work(document: Document) -> _Work:
    return document.steps, document.figures, document.plates


def _nothing_lost(work: _Work, known: _Work) -> bool:
    """Whether nothing would be lost of one that is kept in the other."""
    steps, figures, plates = work
    if steps != known[0] or plates != known[2]:
        return False
    if figures == known[1] or not figures or not known[1]:
        return True
    if len(figures) > 1 or len(known[1]) > 1:
        return False
    recipe, before = figures[0].recipe, known[1][0].recipe
    from rhabdos.figure.phrases.grouping import split_by
    from rhabdos.figure.phrases.shown import showing

    show = recipe.show
    names = (NUMBERS,) if show.variables == NUMBERS else tuple(show.variables)
    return recipe in (split_by(showing(before, *names), *show.split), split_by(before, *show.split))
