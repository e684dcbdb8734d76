"""Widgets side by side in as many lines as it takes."""

from PyQt6.QtCore import QRect, QSize
from PyQt6.QtWidgets import QLayout, QLayoutItem, QSizePolicy, QWidget


def in_lines(*widgets: QWidget, apart: int, under: int = 6) -> QWidget:
    """A widget that holds some side by side, in as many lines as it takes."""
    holder = QWidget()
    put_in_lines(holder, *widgets, apart=apart, under=under)
    return holder


def put_in_lines(holder: QWidget, *widgets: QWidget, apart: int, under: int = 6) -> None:
    """Put widgets side by side into one that holds them, which is no higher than their lines."""
    flow = Flow(holder, apart, under)
    flow.setContentsMargins(0, 0, 0, 0)
    for widget in widgets:
        flow.addWidget(widget)
    policy = holder.sizePolicy()
    policy.setVerticalPolicy(QSizePolicy.Policy.Maximum)
    holder.setSizePolicy(policy)


class Flow(QLayout):
    """Lays widgets out like words: from left to right, and on in the next line."""

    def __init__(self, of: QWidget, apart: int, under: int) -> None:
        super().__init__(of)
        self._items: list[QLayoutItem] = []
        self._apart, self._under = apart, under

    def addItem(self, item: QLayoutItem | None) -> None:
        if item is not None:
            self._items.append(item)

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._placed(QRect(0, 0, width, 0), False)

    def sizeHint(self) -> QSize:
        return self.minimumSize()

    def minimumSize(self) -> QSize:
        sizes = [item.minimumSize() for item in self._shown()]
        margins = self.contentsMargins()
        wide = max((size.width() for size in sizes), default=0)
        high = max((size.height() for size in sizes), default=0)
        return QSize(
            wide + margins.left() + margins.right(), high + margins.top() + margins.bottom()
        )

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._placed(rect, True)

    def _shown(self) -> list[QLayoutItem]:
        return [item for item in self._items if not item.isEmpty()]

    def _placed(self, rect: QRect, move: bool) -> int:
        """Break the widgets into lines; the height of it all."""
        inner = rect.marginsRemoved(self.contentsMargins())
        x, y, high = inner.left(), inner.top(), 0
        for item in self._shown():
            size = item.sizeHint()
            if x > inner.left() and x + size.width() > inner.right() + 1:
                x, y, high = inner.left(), y + high + self._under, 0
            if move:
                item.setGeometry(QRect(x, y, size.width(), size.height()))
            x += size.width() + self._apart
            high = max(high, size.height())
        return y + high - rect.top() + self.contentsMargins().bottom()
