"""Long work in lanes: in each, a newer wish takes the place of an older one; lanes do not disturb
each other."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Literal, TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from rhabdos.data.reporting import Report, silent
from rhabdos.errors import Refusal

if TYPE_CHECKING:
    from rhabdos.app.session.tasks import Task

_Result = TypeVar("_Result")
Lane = Literal["opening", "sorting", "looking", "counting"]
QUIET: Lane = "counting"
"""Work while which everything in sight can be used."""


class Runner(QObject):
    """Runs one task a lane off the interface thread.

    Signals
    -------
    busy : a stage and a share done (-1 where unknown); idle ends it, when no lane is busy any more.
    counting : the stage of work that disturbs nobody; counted ends it.
    """

    busy = pyqtSignal(str, float)
    idle = pyqtSignal()
    counting = pyqtSignal(str)
    counted = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._tasks: dict[Lane, Task] = {}
        self._aside: Task | None = None

    def running(self, lane: Lane | None = None) -> bool:
        """Whether something is going on, in one lane or in any."""
        return bool(self._tasks) if lane is None else lane in self._tasks

    def run(
        self,
        lane: Lane,
        stage: str,
        work: Callable[[Report], _Result],
        done: Callable[[_Result], None],
        refused: Callable[[str], None],
        at_once: bool = False,
    ) -> None:
        """Begin some work; what the lane was doing is stopped.

        Parameters
        ----------
        done, refused : callable
            Told what came of it, on the interface thread, unless a newer wish takes its place.
        at_once : bool
            Whether it is done before this returns, since it is over before an eye could see it.
        """
        self.cancel(lane)
        if at_once:
            try:
                result = work(silent)
            except Refusal as refusal:
                refused(str(refusal))
            else:
                done(result)
            return
        from rhabdos.app.session.tasks import Task  # brings threads, which no first picture needs

        task = Task(work)
        self._tasks[lane] = task

        def end() -> None:
            """Let the task go."""
            if self._tasks.get(lane) is task:
                del self._tasks[lane]
                if lane == QUIET:
                    self.counted.emit()
                elif not any(other != QUIET for other in self._tasks):
                    self.idle.emit()

        def succeed(result: _Result) -> None:
            """Hand the result on, unless a newer wish took its place."""
            end()
            done(result)

        def refuse(sentence: str) -> None:
            """Hand a refusal on, unless a newer wish took its place."""
            end()
            refused(sentence)

        task.succeeded.connect(succeed)
        task.refused.connect(refuse)
        task.cancelled.connect(end)
        if lane == QUIET:
            self.counting.emit(stage)
        else:
            task.progressed.connect(self.busy)
            self.busy.emit(stage, -1.0)
        task.begin()

    def think_ahead(self, work: Callable[[], object]) -> None:
        """Work something out that will be wanted soon, unseen."""
        from rhabdos.app.session.tasks import Task

        self._aside = Task(lambda _report: work())
        self._aside.begin()

    def cancel(self, lane: Lane | None = None) -> None:
        """Stop what a lane is doing, or all of them."""
        for name in list(self._tasks) if lane is None else [lane]:
            if task := self._tasks.get(name):
                task.cancel()

    def finish(self) -> bool:
        """Stop everything; tells whether all threads have ended, or some cannot be waited for."""
        from rhabdos.app.session.tasks import Task

        self.cancel()
        return Task.wait_for_all()
