"""What is asked before a file is saved over that another window or program has changed."""

import os
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox, QWidget

from rhabdos.quoting import file_named

State = tuple[int, int, int] | None
"""What tells whether a file is as it was; None where there is none."""


def state_of(path: Path) -> State:
    """The state of a file now."""
    try:
        now = os.stat(path)
    except OSError:
        return None
    return now.st_ino, now.st_size, now.st_mtime_ns


def may_save_over(path: Path, before: State, window: QWidget) -> bool:
    """Whether a file may be replaced; asks where it is another than it was."""
    if state_of(path) in (before, None):
        return True
    button = QMessageBox.StandardButton
    box = QMessageBox(window)
    box.setWindowTitle("Rhabdos")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(
        f"{file_named(path.name)} was changed since it was opened or saved here, perhaps in "
        "another window."
    )
    box.setInformativeText(
        "Save over it all the same? To keep both, cancel and save this one under another name."
    )
    box.setStandardButtons(button.Save | button.Cancel)
    box.setDefaultButton(button.Cancel)
    answer = box.exec()
    box.deleteLater()  # its parent would keep it as long as the window lives
    return bool(answer == button.Save)
