"""A layout that sets widgets like words: in lines, broken where the room ends.

Qt shows such a layout as an example but does not ship it, and the packages that do cost half a second
at start-up.
"""

from PyQt6.QtCore import QPoint, QRect, QSize, Qt
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class FlowLayout(QLayout):
    """Lines of widgets; those of one line stand on a common middle."""

    def __init__(self, parent: QWidget | None = None, line_gap: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._line_gap = line_gap

    def addItem(self, item: QLayoutItem | None) -> None:
        if item:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._place(QRect(0, 0, width, 0), move=False)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        margins = self.contentsMargins()
        widest = max((item.minimumSize().width() for item in self._items), default=0)
        tallest = max((item.minimumSize().height() for item in self._items), default=0)
        return QSize(
            widest + margins.left() + margins.right(),
            tallest + margins.top() + margins.bottom(),
        )

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._place(rect, move=True)

    def _place(self, rect: QRect, move: bool) -> int:
        margins = self.contentsMargins()
        left, right = rect.left() + margins.left(), rect.right() - margins.right()
        x, y = left, rect.top() + margins.top()
        line: list[tuple[QLayoutItem, int]] = []
        height = 0
        for item in self._items:
            hint = item.sizeHint()
            if line and x + hint.width() > right + 1:
                y += self._set(line, y, height, move) + self._line_gap
                x, line, height = left, [], 0
            line.append((item, x))
            x += hint.width()
            height = max(height, hint.height())
        if line:
            y += self._set(line, y, height, move)
        return y + margins.bottom() - rect.top()

    @staticmethod
    def _set(line: list[tuple[QLayoutItem, int]], y: int, height: int, move: bool) -> int:
        if move:
            for item, x in line:
                hint = item.sizeHint()
                item.setGeometry(QRect(QPoint(x, y + (height - hint.height()) // 2), hint))
        return height
