"""The real window, which does the lines of Python that it is told; see bus.Program."""

import sys
import time

from PyQt6.QtCore import QSocketNotifier, Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from rhabdos.app.shell.run import started


def main() -> None:
    """Show the window, and do as told until standard input ends."""
    files = [word for word in sys.argv[1:] if word != "--demo"]
    application, window = started(files, "--demo" in sys.argv)

    def focused():
        menu = QApplication.activePopupWidget()
        dialog = QApplication.activeModalWidget()
        return menu or QApplication.focusWidget() or dialog or window

    def keys(text):
        combination = QKeySequence(text)[0]
        QTest.keyClick(focused(), combination.key(), combination.keyboardModifiers())

    def typed(text):
        QTest.keyClicks(focused(), text)

    known = {"window": window, "keys": keys, "typed": typed, "app": application, "Qt": Qt}

    def settle():
        until = time.monotonic() + 20
        QTest.qWait(30)
        while window.session.runner.running() and time.monotonic() < until:
            QTest.qWait(20)
        QTest.qWait(200)  # what is heard follows a moment later

    def told() -> None:
        line = sys.stdin.readline()
        if not line:
            application.exit(0)
            return
        try:
            exec(line, known)
            settle()
        except (Exception, SystemExit) as error:  # noqa: BLE001 - whoever asked is told
            print(f"{type(error).__name__}: {error}", flush=True)
        print("done", flush=True)

    notifier = QSocketNotifier(sys.stdin.fileno(), QSocketNotifier.Type.Read)
    notifier.activated.connect(told)
    settle()
    window.activateWindow()
    print("ready", flush=True)
    application.exec()


if __name__ == "__main__":
    main()
