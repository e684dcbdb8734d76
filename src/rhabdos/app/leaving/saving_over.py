"""What may be written over: never what the figures are made of, and what another window or program
has changed only after a question."""

import os
from collections.abc import Iterable, Sequence
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMessageBox, QWidget

from rhabdos.app.session.session import Session
from rhabdos.errors import Refusal
from rhabdos.project.files import same_file
from rhabdos.quoting import file_named

State = tuple[int, int, int] | None
"""What tells whether a file is as it was; None where there is none."""


def files_read(session: Session, recipe: Path | None) -> list[Path]:
    """The files that the figures of a session are made of: their data, tables that are joined or
    stacked, and the recipe."""
    source = session.document.source
    data = source.path if source else None
    folder = data.parent if data else Path.cwd()
    joined = [folder / file for step in session.document.steps for file in step.files]
    return [path for path in (data, recipe, *joined) if path]


def refuse_over(files: Iterable[str | Path], kept: Sequence[str | Path]) -> None:
    """Refuse to write over a file that is kept.

    Raises
    ------
    Refusal
        One would be.
    """
    for file in files:
        if any(same_file(file, other) for other in kept):
            raise Refusal(
                f"{file_named(Path(file).name)} holds the data or the recipe of this figure. Name "
                "another file."
            )


def told_replaced(files: Iterable[str | Path]) -> str:
    """Which files are there already and would be replaced, in a sentence; nothing where none is."""
    there = [Path(file) for file in files if os.path.lexists(file)]
    if len(there) > 1:
        return f"{len(there)} of the files are there already and will be replaced."
    return f"{file_named(there[0].name)} is there already and will be replaced." if there else ""


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
