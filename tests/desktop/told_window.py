"""The real window, which does the lines of Python that it is told; see bus.Program."""

import sys
from pathlib import Path

from PyQt6.QtCore import QSocketNotifier, Qt, QTimer
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from rhabdos.app.controls.heard import HeardList, HeardTable
from rhabdos.app.shell.run import started
from rhabdos.app.shell.window import Window

_BEAT, _QUIET = 10, 3  # milliseconds, and beats without work after which a deed is done


def main() -> None:
    """Show the window, and do as told until standard input ends."""
    files = [word for word in sys.argv[1:] if word != "--demo"]
    application, window = started(files, "--demo" in sys.argv)
    beat, quiet, said = QTimer(), 0, ["ready"]

    def focused():
        dialog = QApplication.activeModalWidget()
        return QApplication.activePopupWidget() or QApplication.focusWidget() or dialog or window

    # What opens a dialog that waits for an answer must not be waited for: so keys come after the
    # line that asks for them has ended.
    def keys(text):
        combination = QKeySequence(text)[0]
        key, held = combination.key(), combination.keyboardModifiers()
        QTimer.singleShot(0, lambda: QTest.keyClick(focused(), key, held))

    def typed(text):
        QTimer.singleShot(0, lambda: QTest.keyClicks(focused(), text))

    def later(deed):
        QTimer.singleShot(0, deed)

    def anew():
        """Another window with the demo data, in place of this one."""
        nonlocal window
        window.filing.may_close = lambda: True
        window.close()
        window.deleteLater()
        window = known["window"] = Window()
        window.show()
        window.session.opening.open_demo()

    known = {"window": window, "keys": keys, "typed": typed, "app": application, "Qt": Qt}
    known |= {"later": later, "path": Path, "anew": anew}

    def renewing() -> bool:
        """Whether what is heard of some list is about to be told anew."""
        heard = (w for w in application.allWidgets() if isinstance(w, HeardList | HeardTable))
        return any(each._later.isActive() and each.isVisible() for each in heard)

    def settled() -> None:
        nonlocal quiet
        quiet = 0 if window.session.runner.running() or window.seen.busy else quiet + 1
        if QApplication.activeWindow() is None:  # as whoever manages windows would see to
            window.activateWindow()
        if quiet >= _QUIET and said and not renewing():
            beat.stop()
            print(said.pop(), flush=True)

    def told() -> None:
        nonlocal quiet
        line = sys.stdin.readline()
        if not line:
            application.exit(0)
            return
        if line.startswith("="):  # asked only: nothing is begun, so nothing is waited for
            print(eval(line[1:], known), "done", sep="\n", flush=True)
            return
        try:
            exec(line, known)
        except (Exception, SystemExit) as error:  # noqa: BLE001 - whoever asked is told
            print(f"{type(error).__name__}: {error}", flush=True)
        quiet = 0
        said.append("done")
        beat.start()

    notifier = QSocketNotifier(sys.stdin.fileno(), QSocketNotifier.Type.Read)
    notifier.activated.connect(told)
    beat.setInterval(_BEAT)
    beat.timeout.connect(settled)
    beat.start()
    window.activateWindow()
    application.exec()


if __name__ == "__main__":
    main()
