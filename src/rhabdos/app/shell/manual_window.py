"""The manual, beside the window: its pages, a search through all of them, and the way back."""

from importlib.resources import files
from pathlib import Path

from PyQt6.QtCore import QSize, Qt, QUrl
from PyQt6.QtGui import QDesktopServices, QKeySequence, QShortcut, QTextCursor, QTextDocument
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QTextBrowser, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import quiet
from rhabdos.app.controls.word_buttons import word_button

FIRST = "index.md"
_SIDE = 250  # pixels of the list
_MOST_WIDE = 640  # pixels of a picture
_MARGIN, _ABOVE, _BETWEEN = 18, 12, 8  # pixels around a page, over headings, between paragraphs


class ManualWindow(QDialog):
    """Pages at the right; at the left those that are found, or all of them."""

    def __init__(self, parent: QWidget | None = None, page: str = FIRST) -> None:
        super().__init__(parent)
        self.setWindowTitle("Manual")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)  # Qt only hides what is closed
        self.folder = manual_folder()
        self._pages = {name: _read(self.folder / name) for name in page_names(self.folder)}
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find in the manual")
        self.search.setAccessibleName("Find in the manual")
        self.search.setClearButtonEnabled(True)
        self.found = QListWidget()
        self.found.setAccessibleName("Pages")
        self.found.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.found.setWordWrap(True)
        self.nothing = quiet("No page has that in it.")
        self.page = _Page()
        self.page.setAccessibleName("Page of the manual")
        self.page.setOpenLinks(False)
        self.page.anchorClicked.connect(self.follow)
        self.back = word_button("Back", self.page.backward)
        self.contents = word_button("Contents", lambda: self.show_page(FIRST))
        self.page.backwardAvailable.connect(self.back.setEnabled)
        self.back.setEnabled(False)
        side = QWidget()
        side.setFixedWidth(sized(_SIDE))
        heads = in_a_row(self.contents, self.back, None, gap=10)
        in_a_column(heads, self.search, self.nothing, (self.found, 1), gap=8, of=side)
        in_a_row(side, (self.page, 1), around=(14, 12, 14, 12), gap=14, of=self)
        self.search.textChanged.connect(self.search_for)
        self.search.returnPressed.connect(self._open_first)
        self.found.itemActivated.connect(self._open)
        self.found.itemClicked.connect(self._open)
        QShortcut(QKeySequence.StandardKey.Find, self).activated.connect(self.search.setFocus)
        QShortcut(QKeySequence.StandardKey.Back, self).activated.connect(self.page.backward)
        self.resize(QSize(sized(1000), sized(680)))
        self.search_for("")
        self.show_page(page)

    def show_page(self, name: str) -> None:
        """Show a page, by its path in the manual, with an anchor or without."""
        path, _, anchor = name.partition("#")
        url = QUrl.fromLocalFile(str(self.folder / path))
        if anchor:
            url.setFragment(anchor)
        self.page.setSource(url, QTextDocument.ResourceType.MarkdownResource)
        self._set_air()
        if anchor:
            self._go_to_heading(anchor)
        self.page.setFocus()

    def _set_air(self) -> None:
        """Room around the page and between its paragraphs."""
        if (document := self.page.document()) is None:
            return
        document.setDocumentMargin(sized(_MARGIN))
        block = document.begin()
        while block.isValid():
            shape, cursor = block.blockFormat(), QTextCursor(block)
            if cursor.currentTable() is None and not shape.nonBreakableLines():
                heading = bool(shape.headingLevel())
                shape.setTopMargin(sized(_ABOVE) if heading else 0)
                shape.setBottomMargin(sized(_BETWEEN if not cursor.currentList() else 3))
                cursor.setBlockFormat(shape)
            block = block.next()

    def follow(self, link: QUrl) -> None:
        """Go where a link leads: within the manual here, else to the desktop's browser."""
        whole = self.page.source().resolved(link)
        if not whole.isLocalFile():
            QDesktopServices.openUrl(whole)
            return
        path = Path(whole.toLocalFile())
        if path.suffix == ".md" and path.is_relative_to(self.folder):
            name = str(path.relative_to(self.folder))
            self.show_page(f"{name}#{whole.fragment()}" if whole.hasFragment() else name)

    def _go_to_heading(self, anchor: str) -> None:
        """Bring the heading in sight whose words an anchor is made of."""
        document = self.page.document()
        block = document.begin() if document else None
        while block is not None and block.isValid():
            if block.blockFormat().headingLevel() and anchor_of(block.text()) == anchor:
                cursor = self.page.textCursor()
                cursor.setPosition(block.position())
                self.page.setTextCursor(cursor)
                self.page.ensureCursorVisible()
                if (bar := self.page.verticalScrollBar()) is not None:
                    bar.setValue(bar.value() + self.page.cursorRect(cursor).top())
                return
            block = block.next()

    def search_for(self, sought: str) -> None:
        """List the pages that hold all words that are sought; those with one in the title first."""
        words = sought.casefold().split()
        hits = [
            (not all(word in title.casefold() for word in words), title, name)
            for name, (title, text) in self._pages.items()
            if all(word in text for word in words)
        ]
        self.found.clear()
        for _, title, name in sorted(hits) if words else hits:
            item = QListWidgetItem(title)
            item.setData(Qt.ItemDataRole.UserRole, name)
            self.found.addItem(item)
        self.nothing.setVisible(not hits)

    def _open(self, item: QListWidgetItem) -> None:
        self.show_page(item.data(Qt.ItemDataRole.UserRole))
        if word := next(iter(self.search.text().split()), ""):
            self.page.find(word)

    def _open_first(self) -> None:
        if (first := self.found.item(0)) is not None:
            self._open(first)


class _Page(QTextBrowser):
    """Shows pictures no wider than is comfortable."""

    def loadResource(self, kind: int, url: QUrl) -> object:
        resource = super().loadResource(kind, url)
        if kind == QTextDocument.ResourceType.ImageResource.value:
            from PyQt6.QtGui import QImage

            image = QImage(self.source().resolved(url).toLocalFile())
            if not image.isNull() and image.width() > sized(_MOST_WIDE):
                smooth = Qt.TransformationMode.SmoothTransformation
                return image.scaledToWidth(sized(_MOST_WIDE), smooth)
        return resource


def manual_folder() -> Path:
    """Where the pages lie."""
    return Path(str(files("rhabdos") / "manual"))


def page_names(folder: Path) -> list[str]:
    """All pages by their paths in the manual, in the order in which the first one names them."""
    first = (folder / FIRST).read_text(encoding="utf-8")
    named = [part.partition(")")[0] for part in first.split("](")[1:]]
    return [FIRST, *(name for name in dict.fromkeys(named) if name.endswith(".md"))]


def anchor_of(heading: str) -> str:
    """What a link to a heading is called."""
    kept = "".join(c for c in heading.casefold() if c.isalnum() or c in " -_")
    return kept.strip().replace(" ", "-")


def _read(path: Path) -> tuple[str, str]:
    """The title of a page, and all of it in small letters."""
    text = path.read_text(encoding="utf-8")
    return text.partition("\n")[0].lstrip("# "), text.casefold()
