"""The variables at the left: numbers and groups apart, each with its silhouette."""

from msgspec import Struct
from PyQt6.QtCore import QAbstractListModel, QModelIndex, QObject, QRect, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QCursor, QFont, QFontMetrics, QKeyEvent, QMouseEvent, QPainter
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QLabel,
    QLineEdit,
    QListView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QWidget,
)

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.plain_texts import plain_tip
from rhabdos.app.controls.rows_and_columns import in_a_column
from rhabdos.app.controls.theme import sized, theme
from rhabdos.app.variables.silhouettes import Silhouettes, paint_silhouette
from rhabdos.data.columns import CategoryColumn, Column, DateColumn, LabelColumn, NumberColumn
from rhabdos.data.problems.problems import problems_of
from rhabdos.data.table import Table
from rhabdos.wording import counted

_HEADER, _ITEM = 30, 38
_NUMBERS, _BOTH = "Numbers", "Numbers and dates"
_SHAPE_WIDTH, _SHAPE_HEIGHT = 56, 24
_COLUMN_ROLE = Qt.ItemDataRole.UserRole


class _Heading(Struct, frozen=True, eq=False):
    text: str


class _Model(QAbstractListModel):
    """Headings and columns, as many as the search leaves."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.rows: list[_Heading | Column] = []
        self.drawn: set[str] = set()
        """The names of those in the figure."""

    def show_columns(self, columns: list[Column], sought: str) -> None:
        """List other columns."""
        wanted = [c for c in columns if sought.casefold() in f"{c.label}\n{c.name}".casefold()]
        numbers: list[_Heading | Column] = [c for c in wanted if isinstance(c, NumberColumn)]
        groups: list[_Heading | Column] = [c for c in wanted if not isinstance(c, NumberColumn)]
        self.beginResetModel()
        self.rows = []
        if numbers:
            self.rows += [
                _Heading(
                    _NUMBERS if not any(isinstance(c, DateColumn) for c in numbers) else _BOTH
                ),
                *numbers,
            ]
        if groups:
            self.rows += [_Heading("Groups and labels"), *groups]
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent and parent.isValid() else len(self.rows)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """Name, facts and shape of a variable, or a heading."""
        row = self.rows[index.row()]
        if role == _COLUMN_ROLE:
            return row
        if isinstance(row, _Heading):
            return (
                row.text
                if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole)
                else None
            )
        if role == Qt.ItemDataRole.DisplayRole:
            return row.label
        if role == Qt.ItemDataRole.AccessibleTextRole:
            drawn = "drawn" if row.name in self.drawn else ""
            return ", ".join(part for part in (row.label, drawn, facts(row)) if part)
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(tip(row))
        return None

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        """Headings cannot be chosen."""
        if isinstance(self.rows[index.row()], _Heading):
            return Qt.ItemFlag.NoItemFlags
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable


def facts(column: Column) -> str:
    """Unit or number of levels, and how many are missing: the small line under a variable's
    name."""
    parts = []
    if isinstance(column, CategoryColumn):
        parts.append(counted(len(column.levels), "level", "levels"))
    elif isinstance(column, DateColumn):
        parts.append("date")
    elif isinstance(column, LabelColumn):
        parts.append(counted(column.distinct, "label", "labels"))
    elif column.unit:
        parts.append(column.unit)
    if column.n == 0:
        parts.append("no values")
    elif column.missing and not column.some:
        parts.append(f"{column.missing:,} missing")
    return " · ".join(parts)


def tip(column: Column) -> str:
    """All that is known of a variable, for hovering."""
    lines = [column.name, f"{column.values_told}, {column.missing:,} missing"]
    if column.missing:
        lines.append(
            "missing: "
            + ", ".join(f"{count:,} {code}" for code, count in column.missing_as.items())
        )
    if isinstance(column, CategoryColumn):
        sizes = [f"{v} {n:,}" for v, n in zip(column.levels, column.level_counts, strict=True)]
        lines.append(
            ", ".join(sizes[:12]) + (f" and {len(sizes) - 12} more" if len(sizes) > 12 else "")
        )
    if isinstance(column, NumberColumn):
        lines.append("Click to draw it; with Ctrl, to draw it with the others.")
    elif isinstance(column, CategoryColumn):
        lines.append("Click to split the figure by it, or to put it back together.")
    lines += [problem.text for problem in problems_of(column)]
    return "\n".join(lines)


class _Delegate(QStyledItemDelegate):
    """Draws a variable: silhouette, name, facts; and a bar at the left where it is in the
    figure."""

    def __init__(self, view: QListView, silhouettes: Silhouettes) -> None:
        super().__init__(view)
        self._view = view
        self._silhouettes = silhouettes

    def sizeHint(self, _option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(
            80, sized(_HEADER) if isinstance(index.data(_COLUMN_ROLE), _Heading) else sized(_ITEM)
        )

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        """Draw a variable with its shape, or a heading."""
        if painter is None:
            return
        t, row, rect = theme(), index.data(_COLUMN_ROLE), option.rect
        painter.save()
        if isinstance(row, _Heading):
            painter.setPen(QColor(t.quiet))
            painter.setFont(_sized(option.font, 13))
            where = rect.adjusted(14, 8, -8, 0)
            painter.drawText(
                where, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, row.text
            )
        else:
            self._column(painter, option, index, row)
        painter.restore()

    def _column(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex, column: Column
    ) -> None:
        t, rect = theme(), option.rect
        shown = column.name in self._drawn()
        if shown:
            painter.fillRect(rect, QColor(t.shown_ground))
            painter.fillRect(QRect(rect.left(), rect.top(), 3, rect.height()), QColor(t.chosen))
        elif self._under_pointer(rect):
            painter.fillRect(rect, QColor(t.ground))
        if self._view.hasFocus() and index == self._view.currentIndex():
            painter.setPen(QColor(t.chosen))
            painter.drawRect(rect.adjusted(0, 0, -1, -1))
        place = QRect(rect.left() + 14, rect.top() + sized(7), _SHAPE_WIDTH, sized(_SHAPE_HEIGHT))
        if silhouette := self._silhouettes.of(column):
            paint_silhouette(painter, place, silhouette)
        left = place.right() + 11
        width = rect.right() - left - 8
        for text, font, colour, y in (
            (column.label, _sized(option.font, 14, bold=True), t.ink, rect.top() + sized(2)),
            (facts(column), _sized(option.font, 12), t.quiet, rect.top() + sized(19)),
        ):
            painter.setFont(font)
            painter.setPen(QColor(colour))
            shortened = QFontMetrics(font).elidedText(text, Qt.TextElideMode.ElideRight, width)
            painter.drawText(
                QRect(left, y, width, sized(18)), Qt.AlignmentFlag.AlignVCenter, shortened
            )

    def _drawn(self) -> set[str]:
        model = self._view.model()
        return model.drawn if isinstance(model, _Model) else set()

    def _under_pointer(self, rect: QRect) -> bool:
        # The option tells it too, but to read it makes the 350 constants of QStyle, before the
        # first picture.
        port = self._view.viewport()
        return (
            port is not None
            and port.underMouse()
            and rect.contains(port.mapFromGlobal(QCursor.pos()))
        )


def _sized(font: QFont, pixels: int, bold: bool = False) -> QFont:
    dressed = QFont(font)
    dressed.setPixelSize(sized(pixels))
    dressed.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    return dressed


class _List(QListView):
    """Remembers whether Ctrl was held with the click or the key that chose."""

    with_ctrl = False

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self._remember(event)
        super().mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        self._remember(event)
        if event is not None and event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self._go_to_end(event.key() == Qt.Key.Key_End)
            return
        super().keyPressEvent(event)

    def _go_to_end(self, last: bool) -> None:
        """Go to the first or the last variable; Qt would go to a heading, and stay where it is."""
        if (model := self.model()) is None:
            return
        rows = [model.index(row, 0) for row in range(model.rowCount())]
        chosen = [row for row in rows if row.flags() & Qt.ItemFlag.ItemIsSelectable]
        if chosen:
            self.setCurrentIndex(chosen[-1 if last else 0])

    def _remember(self, event: QMouseEvent | QKeyEvent | None) -> None:
        keys = event.modifiers() if event else Qt.KeyboardModifier.NoModifier
        self.with_ctrl = bool(keys & Qt.KeyboardModifier.ControlModifier)


class VariablesPanel(QWidget):
    """The table's name, a search field, and its variables; tells which one was chosen."""

    chosen = pyqtSignal(object)  # a name; Qt would lose those with characters that are none
    added = pyqtSignal(object)
    """A name that is to be shown with the others, or no longer."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        dressed_as(self, "variables")
        self.silhouettes = Silhouettes(self)
        self.title = QLabel()
        self.title.setObjectName("heading")
        self.title.setTextFormat(Qt.TextFormat.PlainText)
        self.title.setWordWrap(True)
        self.size_line = QLabel()
        self.size_line.setObjectName("quiet")
        self.size_line.setWordWrap(True)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a variable")
        self.search.setAccessibleName("Find a variable")
        self.search.setClearButtonEnabled(True)
        self.nothing = QLabel("No variable has that in its name.")
        self.nothing.setObjectName("quiet")
        self.nothing.setWordWrap(True)
        self.nothing.setContentsMargins(14, 4, 14, 0)
        self.list = _List()
        self.list.setAccessibleName("Variables")
        self.list.setMouseTracking(True)
        self.list.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.model = _Model(self)
        self.list.setModel(self.model)
        self._delegate = _Delegate(self.list, self.silhouettes)
        self.list.setItemDelegate(self._delegate)
        self._columns: list[Column] = []

        layout = in_a_column(around=(0, 10, 0, 0), gap=0, of=self)
        for widget in (self.title, self.size_line):
            widget.setContentsMargins(14, 0, 14, 0)
            layout.addWidget(widget)
        framed = in_a_column(self.search, around=(14, 10, 14, 2))
        layout.addLayout(framed)
        layout.addWidget(self.nothing)
        layout.addWidget(self.list, 1)

        self.search.textChanged.connect(self._refilter)
        self.search.returnPressed.connect(self._choose_first)
        self.list.clicked.connect(self._choose)
        self.list.activated.connect(self._choose)
        self.silhouettes.ready.connect(self._repaint)
        self.show_table(None)

    def show_table(self, table: Table | None) -> None:
        """List the variables of a table."""
        self.silhouettes.forget()
        self._columns = list(table.columns) if table else []
        self.title.setText(table.name if table else "No data yet")
        rows = (
            f"{table.size} · {counted(len(table.columns), 'variable', 'variables')}"
            if table
            else ""
        )
        self.size_line.setText(rows)
        self.search.setEnabled(bool(table))
        self.search.clear()
        self._refilter()

    def mark(self, names: set[str]) -> None:
        """Show which variables are in the figure."""
        self.model.drawn = names
        self._repaint()

    def _refilter(self) -> None:
        self.model.show_columns(self._columns, self.search.text().strip())
        self.nothing.setVisible(bool(self._columns) and not self.model.rows)

    def _choose(self, index: QModelIndex) -> None:
        row = index.data(_COLUMN_ROLE)
        if isinstance(row, Column):
            (self.added if self.list.with_ctrl else self.chosen).emit(row.name)

    def _choose_first(self) -> None:
        for row in self.model.rows:
            if isinstance(row, Column):
                self.chosen.emit(row.name)
                return

    def _repaint(self) -> None:
        if viewport := self.list.viewport():
            viewport.update()
