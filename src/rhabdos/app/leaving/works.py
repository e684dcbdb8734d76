"""What is asked before a work is opened: whether it may read other folders, where its data are."""

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from rhabdos.project.memory import recall
from rhabdos.project.work_file import WorkFile, open_work_file
from rhabdos.project.work_sources import files_outside, found
from rhabdos.quoting import brief, file_named, printable

_MOST_ASKED = 6  # files that a question names
_LINE, _MOST_LETTERS = (
    38,
    240,
)  # letters of a path: in a line of the box, which is narrow, and in all


class NotOpened(Exception):
    """Its user thought better of it; the sentence says so."""


def asked_work(path: Path, window: QWidget, kinds: str) -> tuple[WorkFile, Path | None]:
    """A work, and where its data are; None where it makes them itself.

    Parameters
    ----------
    kinds : str
        The files of data that a file dialog offers.

    Raises
    ------
    Refusal
        It cannot be read, or is no work.
    NotOpened
        It may not read what it names, or its data are not to be found.
    """
    work = open_work_file(path)
    named, folder = file_named(path.name), path.absolute().parent
    known = recall().data_of(path.absolute())
    outside = [file for file in files_outside(work, folder) if file != known]
    if outside and not _may_read(named, outside, window):
        raise NotOpened(f"{named} is not opened.")
    source = work.source
    if source.inside:
        return work, path
    if not source.path:
        return work, None
    here = found(folder, source.path).path
    if here is None and known is not None and known.exists():
        here = known
    if here is None:
        name = brief(file_named(Path(source.path).name))
        chosen, _ = QFileDialog.getOpenFileName(window, f"Where is {name} now?", str(folder), kinds)
        if not chosen:
            raise NotOpened(f"{named} is not opened: {name}, its data, are not where they were.")
        here = Path(chosen)
    return work, here


def _whole(file: Path) -> str:
    """A path in lines that a box holds, since who allows that it is read must see where it is; of
    one that no box holds, half of what is told from its beginning and half from its end."""
    text = printable(str(file))
    if len(text) > _MOST_LETTERS:
        text = f"{text[: _MOST_LETTERS // 2]} … {text[-_MOST_LETTERS // 2 :]}"
    return "\n    ".join(text[at : at + _LINE] for at in range(0, len(text), _LINE))


def _may_read(work: str, files: list[Path], window: QWidget) -> bool:
    """Ask whether a work may read files outside its folder."""
    button = QMessageBox.StandardButton
    box = QMessageBox(window)
    box.setWindowTitle("Rhabdos")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(f"{work} reads files outside its folder. May it?")
    shown = [_whole(file) for file in files[:_MOST_ASKED]]
    if len(files) > _MOST_ASKED:
        shown.append(f"and {len(files) - _MOST_ASKED} more")
    box.setInformativeText("\n".join(shown))
    box.setStandardButtons(button.Yes | button.Cancel)
    box.setDefaultButton(button.Cancel)
    answer = box.exec()
    box.deleteLater()
    return bool(answer == button.Yes)
