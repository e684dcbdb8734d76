"""The last versions of the work that is open: which there are, and bringing one back as a step."""

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QDialog, QLabel, QListWidget, QPushButton, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.session.session import Session
from rhabdos.errors import Refusal
from rhabdos.figure.words.naming import figure_name
from rhabdos.project.versions import Version, versions
from rhabdos.project.work_file import WorkFile
from rhabdos.quoting import brief, file_named
from rhabdos.wording import counted

_MOST_NAMED = 3  # figures of a version
_WIDTH, _HEIGHT = 560, 360


class VersionsDialog(QDialog):
    """Lists the versions, the last one first.

    Signals
    -------
    chosen : a version, and when it was saved in words.
    refused : a sentence about one that cannot be read.
    """

    chosen = pyqtSignal(WorkFile, str)
    refused = pyqtSignal(str)

    def __init__(self, path: Path, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Versions of {file_named(path.name)}")
        self._versions = versions(path)
        self.list = QListWidget()
        self.list.setAccessibleName("Versions, the last one first")
        for version in self._versions:
            self.list.addItem(f"{version.saved:%Y-%m-%d %H:%M:%S}   {_told(version)}")
        self.list.setCurrentRow(0)
        self.list.itemDoubleClicked.connect(lambda _item: self.bring_back())
        words = QLabel(
            "Each was kept when it was saved; the data are not in them. What is brought back "
            "can be undone."
            if self._versions
            else "None yet: one is kept each time the work is saved."
        )
        words.setWordWrap(True)
        self.back = QPushButton("Bring it back")
        self.back.setEnabled(bool(self._versions))
        self.back.setDefault(True)
        self.back.clicked.connect(self.bring_back)
        close = QPushButton("Close")
        close.clicked.connect(self.reject)
        buttons = in_a_row(None, close, self.back)
        in_a_column(words, (self.list, 1), buttons, around=(14, 12, 14, 12), of=self)
        self.resize(_WIDTH, _HEIGHT)

    def bring_back(self) -> None:
        """Bring back the version that is chosen."""
        if not 0 <= self.list.currentRow() < len(self._versions):
            return
        version = self._versions[self.list.currentRow()]
        try:
            work = version.read()
        except (OSError, Refusal, ValueError) as error:
            self.refused.emit(f"This version cannot be read: {error}")
            return
        self.chosen.emit(work, f"{version.saved:%Y-%m-%d %H:%M:%S}")
        self.accept()


def show_versions(path: Path, session: Session, window: QWidget) -> None:
    """Show the versions of a work that is open, and bring back the one that is chosen."""
    dialog = VersionsDialog(path, window)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.refused.connect(session.told)
    folder = path.absolute().parent
    dialog.chosen.connect(lambda work, when: session.opening.bring_back(work, when, folder))
    dialog.open()


def _told(version: Version) -> str:
    try:
        work = version.read()
    except (OSError, Refusal, ValueError):
        return "cannot be read"
    named = [brief(f.name or figure_name(f.recipe)) for f in work.figures[:_MOST_NAMED]]
    if len(work.figures) > _MOST_NAMED:
        named.append(f"{len(work.figures) - _MOST_NAMED} more")
    steps = f"; {counted(len(work.steps), 'step', 'steps')}" if work.steps else ""
    return f"{counted(len(work.figures), 'figure', 'figures')}: {', '.join(named)}{steps}"
