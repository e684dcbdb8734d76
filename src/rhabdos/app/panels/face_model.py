"""The rows of the face that stands under the figure, as a list shows them."""

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.sorted_list import ListedModel
from rhabdos.app.controls.theme import theme
from rhabdos.app.panels.levels_list import swatch_of
from rhabdos.figure.output.faces import Face
from rhabdos.figure.output.listed import Listed


class FaceModel(ListedModel):
    """The rows of the face in sight, each with the colour of its group."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.face = Face((), ())
        self.pointed: int | None = None
        self._colours: tuple[str, ...] = ()

    @property
    def titles(self) -> tuple[str, ...]:
        """What the columns hold."""
        return self.face.titles

    def show_face(self, face: Face, colours: tuple[str, ...]) -> None:
        """Show other rows, or the same in other colours."""
        if face is self.face or face == self.face:
            if colours != self._colours and face.rows:
                self._colours = colours
                last = self.index(len(face.rows) - 1, 0)
                self.dataChanged.emit(self.index(0, 0), last, [Qt.ItemDataRole.DecorationRole])
            return
        self.beginResetModel()
        self.face, self._colours = face, colours
        self.endResetModel()

    def point_at(self, group: int | None) -> None:
        """Mark the rows of a group, or none."""
        if group != self.pointed:
            self.pointed = group
            if self.face.rows:
                last = self.index(len(self.face.rows) - 1, len(self.titles) - 1)
                self.dataChanged.emit(self.index(0, 0), last, [Qt.ItemDataRole.BackgroundRole])

    def cell(self, row: int, column: int) -> Listed | None:
        """A cell of the face."""
        return self.face.rows[row].cells[column]

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent and parent.isValid() else len(self.face.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """As of any list, before the name of a group its colour, and a ground under the group that
        is pointed at in the figure."""
        if role == Qt.ItemDataRole.BackgroundRole:
            pointed = self.pointed is not None and self.face.rows[index.row()].group == self.pointed
            return QColor(theme().shown_ground) if pointed else None
        if role == Qt.ItemDataRole.DecorationRole:
            group = self.face.rows[index.row()].group
            coloured = index.column() == 0 and group < len(self._colours)
            return swatch_of(self._colours[group]) if coloured else None
        return super().data(index, role)
