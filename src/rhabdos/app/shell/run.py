"""Start the window."""

import gc
import os
import sys
from collections.abc import Callable, Sequence
from functools import partial
from types import TracebackType
from typing import TYPE_CHECKING

from rhabdos import APPLICATION
from rhabdos.log import unforeseen

_BEAT = 500  # milliseconds
_SHOWN = 300  # milliseconds in which the first figure stands

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication

    from rhabdos.app.shell.listening import Listening
    from rhabdos.app.shell.window import Window
    from rhabdos.handing_over import Asked


def run(files: Sequence[str], demo: bool) -> int:
    """Show the window and return when it is closed.

    Parameters
    ----------
    files : sequence of str
        Paths and addresses to open: data and then a recipe for them in this window, others in
        windows of their own.
    """
    here, others = _parted(files)
    application, window = started(here, demo)
    _stop_on_signals(application, window)
    for each in others:
        _open_elsewhere(each)
    end_listening = _listen_later(application, window)
    status = application.exec()
    end_listening()
    if not window.session.finish():
        os._exit(
            status
        )  # a thread is in the midst of something that cannot be stopped, and has nothing to lose
    return status


def _listen_later(application: "QApplication", window: "Window") -> Callable[[], None]:
    """Listen for other starts once the first figure stands; the deed that ends it."""
    from PyQt6.QtCore import QTimer

    listening: list[Listening] = []

    def begin() -> None:
        """Listen; what it takes is imported now."""
        from rhabdos.app.shell.listening import Listening

        listening.append(Listening(partial(_taken, window), application))

    def end() -> None:
        """Listen no more."""
        for each in listening:
            each.end()

    QTimer.singleShot(_SHOWN, begin)
    return end


def _parted(files: Sequence[str]) -> tuple[list[str], list[str]]:
    """What is opened in this window, and what in others."""
    here = list(files[:1])
    if len(files) > 1 and _is_recipe(files[1]) and not _is_recipe(files[0]):
        here.append(files[1])
    return here, list(files[len(here) :])


def _is_recipe(file: str) -> bool:
    return file.casefold().endswith((".toml", ".rhabdos"))


def _open_elsewhere(file: str) -> None:
    """Open a file in a window of its own."""
    import subprocess

    from rhabdos.processes import command_of

    command = command_of("rhabdos.start", "--new-window", file)
    subprocess.Popen(command, start_new_session=True)


def started(files: Sequence[str], demo: bool) -> tuple["QApplication", "Window"]:
    """The application and its window, shown; the caller lets it run."""
    gc.disable()  # what is made in a start is there to stay: to look for garbage in it is lost time
    from rhabdos.app.shell.lean_imports import load_lean

    load_lean()
    from PyQt6.QtCore import QTimer
    from PyQt6.QtWidgets import QApplication

    from rhabdos.app.controls import theme
    from rhabdos.app.session.session import Session
    from rhabdos.app.shell.window import Window
    from rhabdos.scene.style import palette

    application = QApplication(["rhabdos", *theme.PLAIN])
    application.setApplicationName("Rhabdos")
    application.setDesktopFileName(APPLICATION)
    theme.prepare(application)
    session = Session()
    if demo:
        session.opening.open_demo()
    window = Window(session)
    theme.follow_desktop(application)
    window.restore()
    if screen := application.primaryScreen():
        window.resize(window.size().boundedTo(screen.availableSize()))
    _catch_the_unforeseen(window)
    if files:
        # Once the loop runs: a refusal shows a box, which waits for an answer.
        QTimer.singleShot(0, lambda: _open_all(window, list(files)))
    window.show()
    QTimer.singleShot(0, _collect_again)  # once the loop runs, which is after the first picture
    QTimer.singleShot(_SHOWN, lambda: _offer_left_behind(window))
    QTimer.singleShot(_SHOWN, lambda: session.runner.think_ahead(palette.load))
    return application, window


def _open_all(window: "Window", files: list[str]) -> None:
    """Open one after the other: a recipe draws the data before it."""
    if len(files) > 1:
        session = window.session

        def go_on() -> None:
            """Open the next, now that there are data."""
            session.table_changed.disconnect(go_on)
            QTimer.singleShot(0, lambda: _open_all(window, files[1:]))

        from PyQt6.QtCore import QTimer

        session.table_changed.connect(go_on)
    _open(window, files[0])


def _open(window: "Window", path: str) -> None:
    from pathlib import Path

    from rhabdos.data.far.place import is_address

    if not os.path.lexists(path) and is_address(path):
        window.filing.arriving.open_address(path)
    else:
        window.filing.open(Path(path))


def _taken(window: "Window", asked: "Asked") -> bool:
    """Whether a window takes a file of a second start: one without data does, and one that shows
    that very file."""
    source = window.session.document.source
    shows = source is not None and str(source.path) == asked.open
    if not shows and (window.session.table is not None or window.session.runner.running()):
        return False
    if not shows:
        from PyQt6.QtCore import QTimer

        QTimer.singleShot(0, lambda: _open(window, asked.open))
    if asked.token:
        os.environ["XDG_ACTIVATION_TOKEN"] = asked.token
    from PyQt6.QtCore import Qt

    window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
    window.raise_()
    window.activateWindow()
    return True


def _collect_again() -> None:
    gc.freeze()  # what a start has made is there to stay, and is never looked through again
    gc.enable()


def _catch_the_unforeseen(window: "Window") -> None:
    """A fault in one handler must not end the program: the details go to the log, a sentence to the
    user."""

    told: set[str] = set()

    def caught(
        _kind: type[BaseException], error: BaseException, _trace: TracebackType | None
    ) -> None:
        """Write the details to the log, and say a sentence."""
        sentence = unforeseen(error)
        if sentence not in told:  # a fault in painting would come back with every picture
            told.add(sentence)
            window.session.refused.emit(sentence)

    sys.excepthook = caught


def _stop_on_signals(application: "QApplication", window: "Window") -> None:
    """Asked to end, by a key in the terminal, the system or a logout: what is not saved is written
    first, and offered at the next start."""
    import signal

    from PyQt6.QtCore import QTimer

    from rhabdos.app.controls import theme

    def stop(*_: object) -> None:
        """Write what is open, and end."""
        window.unsaved.write_now()
        application.exit(0)  # to quit would ask about it first

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)
    application.commitDataRequest.connect(lambda _manager: window.unsaved.write_now())
    beat = QTimer(application)  # Python sees signals only while it runs
    beat.timeout.connect(lambda: theme.keep_up(application))
    beat.start(_BEAT)


def _offer_left_behind(window: "Window") -> None:
    """Offer what a window left behind, if any did; most starts find nothing."""
    from rhabdos.project.state_file import state_file

    try:
        left = any(entry.name.endswith(".json") for entry in os.scandir(state_file("open")))
    except OSError:
        return
    if left:
        window.banner.offer_left_behind()
