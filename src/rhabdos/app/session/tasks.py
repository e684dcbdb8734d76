"""Long work off the interface thread, with progress and cancel."""

import threading
import time
from collections.abc import Callable
from typing import ClassVar

from PyQt6.QtCore import QObject, QThread, pyqtSignal

from rhabdos.data.reporting import Report
from rhabdos.errors import Cancelled, Refusal
from rhabdos.log import unforeseen


class Task(QThread):
    """One piece of work; its signals arrive on the interface thread.

    A cancelled task tells so at once, even if its work needs a moment longer to notice: its result
    is then thrown away. So it is where the widget that owns the task is gone.
    """

    progressed = pyqtSignal(str, float)
    succeeded = pyqtSignal(object)
    refused = pyqtSignal(str)
    cancelled = pyqtSignal()

    _came = pyqtSignal(object, object)  # from the thread: a signal to send, and what with
    _alive: ClassVar[set["Task"]] = set()  # a thread must not be let go of before it has ended

    def __init__(self, work: Callable[[Report], object], owner: QObject | None = None) -> None:
        super().__init__()
        self._work = work
        self._stopped = threading.Event()
        if owner is not None:
            owner.destroyed.connect(self._stopped.set)
        self._came.connect(self._deliver)
        self.finished.connect(self._bury)

    def begin(self) -> None:
        """Start the thread."""
        self._alive.add(self)
        self.start()

    def _bury(self) -> None:
        self._alive.discard(self)

    @classmethod
    def wait_for_all(cls, seconds: float = 1.5) -> bool:
        """Wait until no task is left, but not for ever; tells whether none is."""
        until = time.monotonic() + seconds
        return all(
            task.wait(max(0, int(1000 * (until - time.monotonic())))) for task in list(cls._alive)
        )

    def cancel(self) -> None:
        """Ask the work to stop at its next report."""
        if not self._stopped.is_set():
            self._stopped.set()
            self.cancelled.emit()

    def _deliver(self, send: Callable[..., None], told: tuple[object, ...]) -> None:
        """Pass on what came from the thread, unless the task was cancelled while it was under
        way."""
        if not self._stopped.is_set():
            send(*told)

    def _report(self, stage: str, share: float | None) -> None:
        if self._stopped.is_set():
            raise Cancelled
        self._came.emit(self.progressed.emit, (stage, -1.0 if share is None else share))

    def run(self) -> None:
        """Do the work, and tell how it ended."""
        try:
            result = self._work(self._report)
        except Cancelled:
            return
        except Refusal as refusal:
            self._say(str(refusal))
        except MemoryError:
            self._say(
                "There is not enough memory for this. Close other programs, or open a smaller file."
            )
        except Exception as error:  # a thread has no one above it to tell
            self._say(unforeseen(error))
        else:
            self._came.emit(self.succeeded.emit, (result,))

    def _say(self, sentence: str) -> None:
        self._came.emit(self.refused.emit, (sentence,))
