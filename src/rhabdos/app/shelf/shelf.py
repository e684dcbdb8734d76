"""The shelf: all figures of a piece of work as small true pictures with their names."""

from functools import partial

from PyQt6.QtCore import QEvent, QModelIndex, QPoint, QRect, QSize, Qt
from PyQt6.QtGui import QColor, QContextMenuEvent, QIcon, QKeyEvent, QPainter, QPen, QWheelEvent
from PyQt6.QtWidgets import (
    QAbstractItemDelegate,
    QAbstractItemView,
    QApplication,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.pictures import PAUSE
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import sized, theme
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.app.session.session import Session
from rhabdos.app.shelf.shelf_pictures import ShelfPictures

_WIDE, _HIGH = 96, 62  # pixels of a picture
_AROUND, _UNDER, _GAP = 5, 20, 8  # pixels: about a picture, for its name, between cards
_DRAWN, _BESIDE = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1
_NOT_YET = "not drawn yet"


def picture_size() -> QSize:
    """How large pictures are, which grow with letters."""
    return QSize(sized(_WIDE), sized(_HIGH))


class Shelf(QWidget):
    """Shows the figures of a session where it has several, and does what is asked of them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("shelf")
        self._session = session
        self._pictures = ShelfPictures(session)
        self.cards = _Cards(session)
        figures = session.figures
        self.variant = word_button("+ Keep a variant", figures.keep_variant, "add")
        self.new = word_button("+ New figure", figures.add, "add")
        self.together = word_button("", figures.part, "choice")
        self.buttons = in_a_column(None, self.variant, self.new, self.together, None, gap=2)
        in_a_row((self.cards, 1), self.buttons, around=(8, 4, 12, 0), gap=12, of=self)
        self._painting = pause(self, PAUSE, self._paint_next)
        self.setFixedHeight(self.cards.height() + 6)

    def show_figures(self) -> None:
        """Show the row as it is now; pictures follow while nothing else is done."""
        document = self._session.document
        several = len(document.figures) > 1 and document.chart is None
        self.setVisible(several)
        if several:
            self.cards.show_row([self._pictures.of(at) for at in range(len(document.figures))])
            words = "stand alone" if document.beside else "beside each other"
            self.together.setText(words)
            self._painting.start()

    def _paint_next(self) -> None:
        """Paint one picture that is lacking, and come back for the others."""
        at = self._pictures.paint_one(picture_size(), self)
        if at is not None and self.isVisible():
            for same in range(self.cards.count()):  # figures that are alike share one
                self.cards.show_picture(same, self._pictures.of(same))
            self._painting.start(0)


class _Cards(QListWidget):
    """A row of pictures with names: clicked or stepped through by arrows, dragged to another
    place, renamed by Return, taken out by Delete."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("cards")
        self.setAccessibleName("Figures")
        self._session = session
        self.setFlow(QListWidget.Flow.LeftToRight)
        self.setWrapping(False)
        self.setIconSize(picture_size())
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setItemDelegate(_Card(self))
        self.setFixedHeight(picture_size().height() + 2 * _AROUND + sized(_UNDER) + 4)
        self._filling = False
        self.itemClicked.connect(lambda item: self._clicked(self.row(item)))
        self.itemChanged.connect(self._renamed)
        if model := self.model():
            later = Qt.ConnectionType.QueuedConnection
            model.rowsMoved.connect(self._moved, later)  # type: ignore[call-arg]

    def show_row(self, pictures: list[QIcon | None]) -> None:
        """List the figures with the pictures that there are."""
        figures = self._session.figures
        self._filling = True
        while self.count() > len(pictures):
            self.takeItem(self.count() - 1)
        while self.count() < len(pictures):
            card = QListWidgetItem()
            card.setFlags(card.flags() | Qt.ItemFlag.ItemIsEditable)
            self.addItem(card)
        for at, picture in enumerate(pictures):
            if (item := self.item(at)) is not None:
                name = figures.name(at)
                item.setText(name)
                item.setToolTip(name)
                item.setIcon(picture or QIcon())
                item.setData(_DRAWN, picture is not None)
                item.setData(_BESIDE, at in self._session.document.beside)
                said = f"Figure {at + 1}: {name}"
                item.setData(Qt.ItemDataRole.AccessibleTextRole, said)
        self.setCurrentRow(figures.shown)
        self._filling = False

    def show_picture(self, at: int, picture: QIcon | None) -> None:
        """Show a picture that was painted since."""
        if (item := self.item(at)) is not None and picture is not None:
            self._filling = True
            item.setIcon(picture)
            item.setData(_DRAWN, True)
            self._filling = False

    def _clicked(self, at: int) -> None:
        """Show a figure; with Ctrl beside the one in sight."""
        more = QApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier
        figures = self._session.figures
        (figures.stand_beside if more else figures.show)(at)
        self.setCurrentRow(figures.shown)

    def _renamed(self, item: QListWidgetItem) -> None:
        if not self._filling:
            self._session.figures.rename(self.row(item), item.text())

    def _moved(self, _from: QModelIndex, start: int, _end: int, _to: QModelIndex, row: int) -> None:
        to = row - 1 if row > start else row
        if self._filling:
            return
        self._session.figures.move(start, to)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows show the figure beside the one in sight; with Ctrl they move it."""
        if event is None or self.state() == QAbstractItemView.State.EditingState:
            return
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        figures, row = self._session.figures, self.currentRow()
        if by is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            figures.move(row, row + by)
        elif by is not None:
            figures.show(row + by)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.editItem(self.currentItem())
        elif event.key() == Qt.Key.Key_Delete:
            figures.remove(row)
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel moves along the row."""
        bar = self.horizontalScrollBar()
        if event is not None and bar is not None:
            turned = event.angleDelta()
            bar.setValue(bar.value() - (turned.y() or turned.x()))
            event.accept()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """What can be done with a figure."""
        if event is None:
            return
        item = self.itemAt(event.pos()) or self.currentItem()
        if item is not None:
            menu = self.deeds(self.row(item))
            menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            menu.popup(event.globalPos())

    def deeds(self, at: int) -> QMenu:
        """A menu of what can be done with a figure."""
        figures, menu = self._session.figures, QMenu(self)
        for words, deed, can in (
            (
                "Let it stand alone" if at in self._session.document.beside else "Beside this one",
                partial(figures.stand_beside, at),
                at != figures.shown,
            ),
            ("Rename", lambda: self.editItem(self.item(at)), True),
            ("Move to the left", partial(figures.move, at, at - 1), at > 0),
            ("Move to the right", partial(figures.move, at, at + 1), at < len(figures) - 1),
            ("Take it out", partial(figures.remove, at), len(figures) > 1),
        ):
            action = menu.addAction(words)
            if action is not None:
                action.setEnabled(can)
                action.triggered.connect(lambda _checked, deed=deed: deed())
        return menu


class _Card(QStyledItemDelegate):
    """Paints a picture with its number and name beneath, and edits the name there."""

    def sizeHint(self, _option: QStyleOptionViewItem, _index: QModelIndex) -> QSize:
        return QSize(
            picture_size().width() + 2 * _AROUND + _GAP,
            picture_size().height() + 2 * _AROUND + sized(_UNDER),
        )

    def _places(self, card: QRect) -> tuple[QRect, QRect]:
        picture = QRect(card.topLeft() + QPoint(_AROUND, _AROUND), picture_size())
        name = QRect(
            picture.left(), picture.bottom() + 3, picture.width() + _GAP, sized(_UNDER) - 2
        )
        return picture, name

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        t, (picture, name) = theme(), self._places(option.rect)
        chosen = index.row() == self._row_in_sight
        among = chosen or bool(index.data(_BESIDE))
        painter.save()
        painter.fillRect(picture, QColor(t.field))
        icon = index.data(Qt.ItemDataRole.DecorationRole)
        if index.data(_DRAWN) and isinstance(icon, QIcon):
            icon.paint(painter, picture)
        else:
            painter.setPen(QColor(t.quiet))
            flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
            painter.drawText(picture.adjusted(6, 0, -6, 0), flags, _NOT_YET)
        focused = chosen and self.parent().hasFocus()  # type: ignore[union-attr]
        painter.setPen(
            QPen(QColor(t.chosen if chosen else t.hairline), 3 if focused else 2 if chosen else 1)
        )
        painter.drawRect(picture.adjusted(-1, -1, 0, 0))
        painter.setPen(QColor(t.chosen if among else t.quiet))
        words = f"{index.row() + 1}  {index.data(Qt.ItemDataRole.DisplayRole)}"
        kept = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, name.width())
        painter.drawText(name, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, kept)
        painter.restore()

    @property
    def _row_in_sight(self) -> int:
        cards = self.parent()
        return cards.currentRow() if isinstance(cards, QListWidget) else -1

    def updateEditorGeometry(
        self, editor: QWidget | None, option: QStyleOptionViewItem, _index: QModelIndex
    ) -> None:
        if editor is not None:
            editor.setGeometry(self._places(option.rect)[1].adjusted(-2, -2, 0, 2))

    def createEditor(
        self, parent: QWidget | None, _option: QStyleOptionViewItem, _index: QModelIndex
    ) -> QWidget:
        editor = QLineEdit(parent)
        editor.setAccessibleName("Name of the figure")
        return editor

    def eventFilter(  # type: ignore[override]
        self, editor: QWidget | None, event: QEvent | None
    ) -> bool:
        """A name that is left is taken, as everywhere in the window."""
        if (
            event is not None
            and event.type() == QEvent.Type.FocusOut
            and isinstance(editor, QLineEdit)
            and editor.isModified()
        ):
            self.commitData.emit(editor)
            self.closeEditor.emit(editor, QAbstractItemDelegate.EndEditHint.NoHint)
            return True
        return super().eventFilter(editor, event)
