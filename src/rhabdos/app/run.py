"""Start the window."""

import signal
import sys
from pathlib import Path
from types import TracebackType

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from rhabdos.app import theme
from rhabdos.app.window import Window
from rhabdos.log import record


def run(path: Path | None, demo: bool) -> int:
    """Show the window and return when it is closed."""
    application = QApplication.instance() or QApplication(["rhabdos"])
    assert isinstance(application, QApplication)
    application.setApplicationName("Rhabdos")
    application.setDesktopFileName("rhabdos")
    theme.prepare(application)
    window = Window()
    theme.follow_desktop(application)
    if screen := application.primaryScreen():
        window.resize(window.size().boundedTo(screen.availableSize()))
    _catch_the_unforeseen(window)
    if demo:
        window.session.open_demo()
    elif path:
        QTimer.singleShot(0, lambda: window.filing.open(path))
    window.show()
    _stop_on_interrupt(application)
    return application.exec()


def _catch_the_unforeseen(window: Window) -> None:
    """A fault in one handler must not end the program: the details go to the log, a sentence to the user."""

    def caught(_kind: type[BaseException], error: BaseException, _trace: TracebackType | None) -> None:
        window.session.refused.emit(f"Something unforeseen went wrong ({error}). Details are in {record(error)}.")

    sys.excepthook = caught


def _stop_on_interrupt(application: QApplication) -> None:
    signal.signal(signal.SIGINT, lambda *_: application.quit())
    beat = QTimer(application)  # Python sees signals only while it runs
    beat.timeout.connect(lambda: None)
    beat.start(500)
