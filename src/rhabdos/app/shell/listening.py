"""The window listens for files that a second start of the program was given."""

import os
import socket
from collections.abc import Callable
from contextlib import suppress

from PyQt6.QtCore import QObject, QSocketNotifier
from PyQt6.sip import voidptr

from rhabdos.handing_over import MOST, TAKEN, Asked, folder, read_message

_PATIENCE = 1.0  # seconds for one who has connected to say what is wanted


class Listening(QObject):
    """Hands what it is asked to a window, which takes it or not.

    Parameters
    ----------
    takes : callable
        Opens what is asked and tells that it did, or leaves it.
    """

    def __init__(self, takes: Callable[[Asked], bool], parent: QObject) -> None:
        super().__init__(parent)
        self._takes = takes
        self._path = ""
        self._socket = socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)
        there = folder()
        if there is None:
            return
        try:
            there.mkdir(mode=0o700, exist_ok=True)
            path = str(there / f"{os.getpid()}.window")
            # Left behind by a program that was killed, or not there.
            with suppress(FileNotFoundError):
                os.unlink(path)
            self._socket.bind(path)
            self._socket.listen()
        except OSError:  # then each start has a window of its own
            return
        self._path = path
        self._called = QSocketNotifier(
            voidptr(self._socket.fileno()), QSocketNotifier.Type.Read, self
        )
        self._called.activated.connect(self._answer)

    def _answer(self) -> None:
        try:
            line, _ = self._socket.accept()
        except OSError:
            return
        with line, suppress(OSError):  # whoever asked may have gone away meanwhile
            line.settimeout(_PATIENCE)
            with line.makefile("rb") as text:
                asked = read_message(text.readline(MOST))
            if asked is not None and self._takes(asked):
                line.sendall(TAKEN)

    def end(self) -> None:
        """Listen no more."""
        self._socket.close()
        if self._path:
            self._called.setEnabled(False)
            with suppress(OSError):
                os.unlink(self._path)
            self._path = ""
