"""A list of variables of which several can be ticked."""

from collections.abc import Collection, Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QListWidget, QListWidgetItem

from rhabdos.data.columns import Column
from rhabdos.quoting import printable

_FEWEST = 3  # rows that the list is high
_AIR = 4  # pixels


class TickList(QListWidget):
    """One row a variable, with a tick; ``itemChanged`` tells that one was set.

    Parameters
    ----------
    height : int
        Pixels that the list has at the most; few variables have no empty room below them.
    """

    def __init__(
        self, name: str, columns: Sequence[Column], ticked: Collection[str], height: int
    ) -> None:
        super().__init__()
        self.setObjectName("ticks")
        self.setAccessibleName(name)
        for column in columns:
            item = QListWidgetItem(printable(column.label))
            item.setData(Qt.ItemDataRole.UserRole, column.name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            chosen = column.name in ticked
            item.setCheckState(Qt.CheckState.Checked if chosen else Qt.CheckState.Unchecked)
            self.addItem(item)
        rows = max(_FEWEST, self.count()) * max(1, self.sizeHintForRow(0))
        self.setFixedHeight(min(height, rows + 2 * self.frameWidth() + _AIR))

    @property
    def ticked(self) -> tuple[str, ...]:
        """The names of the variables that are ticked, from the top."""
        items = [self.item(index) for index in range(self.count())]
        return tuple(
            str(item.data(Qt.ItemDataRole.UserRole))
            for item in items
            if item and item.checkState() == Qt.CheckState.Checked
        )
