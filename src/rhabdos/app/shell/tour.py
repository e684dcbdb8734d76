"""A tour on the demo data in the window itself: six deeds, each done by the hand of who takes it,
or shown on request. It can be left at any step."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec import Struct
from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QLabel

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import sized
from rhabdos.app.controls.typed_fields import heading, quiet
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.figure.recipe.recipe_bins import Bins

if TYPE_CHECKING:
    from rhabdos.app.shell.window import Window
    from rhabdos.figure.recipe.recipe import Recipe

_LOOKS = 200  # milliseconds between looks at what was done
_WIDE, _AWAY = 214, 8  # pixels


class Deed(Struct, frozen=True, eq=False):
    """One step of the tour.

    Attributes
    ----------
    title, words : str
        What it is about, and what to do.
    is_done : callable
        Whether a window shows that it was done, seen from how the step began.
    show : callable
        Does it.
    """

    title: str
    words: str
    is_done: "Callable[[Window, Recipe], bool]"
    show: "Callable[[Window], object]"


def _recipe(window: "Window") -> "Recipe":
    recipe = window.session.recipe
    assert recipe is not None
    return recipe


def _draws_boxes(window: "Window", _begun: "Recipe") -> bool:
    return "box" in _recipe(window).show.forms


def _draws_none(window: "Window", _begun: "Recipe") -> bool:
    return "box" not in _recipe(window).show.forms


def _draw_boxes(window: "Window") -> None:
    window.session.ask("Box", _recipe(window).showing(forms=("box",)))


def _undo(window: "Window") -> None:
    window.session.undo()


def _has_other_bins(window: "Window", begun: "Recipe") -> bool:
    return _recipe(window).bins != begun.bins


def _narrow_bins(window: "Window") -> None:
    window.session.ask("Bin width 2", _recipe(window).binned(Bins(width=2.0, start=40.0)))


def _has_one_forward(window: "Window", _begun: "Recipe") -> bool:
    return bool(_recipe(window).groups.forward)


def _bring_forward(window: "Window") -> None:
    recipe = _recipe(window)
    groups = recipe.groups.changed(forward=("Saltmere",))
    window.session.ask("Saltmere forward", recipe.changed(groups=groups))


def _compares(window: "Window", _begun: "Recipe") -> bool:
    return bool(window.figure.foot.face == "compare")


def _compare(window: "Window") -> None:
    window.figure.foot.show_face("compare")


def _has_other_title(window: "Window", begun: "Recipe") -> bool:
    return _recipe(window).words.title != begun.words.title


def _give_title(window: "Window") -> None:
    recipe = _recipe(window)
    words = recipe.words.changed(title="Two harvests a year")
    window.session.ask("Title", recipe.changed(words=words))


DEEDS = (
    Deed(
        "A phrase is a choice",
        "Across the top stands the figure as a sentence. Click “bars” (Ctrl+3) and take the box.",
        _draws_boxes,
        _draw_boxes,
    ),
    Deed("Everything can be undone", "Press Ctrl+Z: the bars are back.", _draws_none, _undo),
    Deed(
        "Take hold of the rod",
        "Under the figure lies a rod with a brass tab at each edge of a bin. Drag a tab; or press "
        "Ctrl+R, then ↑ or ↓. How many harvests does Saltmere have?",
        _has_other_bins,
        _narrow_bins,
    ),
    Deed(
        "Bring a group forward",
        "Click “Saltmere” in the legend: the others become quiet. Escape ends it.",
        _has_one_forward,
        _bring_forward,
    ),
    Deed(
        "Compare in numbers",
        "Under the figure choose “Compare” (F12): each bay against one of them. F1 on a number "
        "tells what it is.",
        _compares,
        _compare,
    ),
    Deed(
        "Give it a title",
        "Click the title over the figure and type one; or press Ctrl+9, for all words.",
        _has_other_title,
        _give_title,
    ),
)
_LAST = (
    "That was the tour. Go on with the manual (Ctrl+F1), with teaching samples (File), or with a "
    "file of your own (Ctrl+O). Ctrl+Z brings back what was open before."
)


class Tour(QFrame):
    """A card over the list of variables, which goes on by itself once a step is done."""

    def __init__(self, window: "Window") -> None:
        super().__init__(window.centralWidget())
        self._window, self._over = window, window.figure.variables
        dressed_as(self, "tour")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName("Tour")
        self.at = -1
        self._begun: Recipe | None = None
        self.title, self.words, self.place = heading(""), QLabel(), quiet()
        self.words.setWordWrap(True)
        self.place.setWordWrap(False)
        self.show_me = word_button("Show me", self._show_me)
        self.leave = word_button("Leave the tour", self.close)
        in_a_column(
            in_a_row((self.title, 1), self.place),
            self.words,
            in_a_row(self.show_me, None, self.leave, gap=10),
            around=(14, 10, 14, 10),
            gap=6,
            of=self,
        )
        self._looks = QTimer(self)
        self._looks.setInterval(_LOOKS)
        self._looks.timeout.connect(self._look)
        self._over.installEventFilter(self)  # its place follows that of the list it lies over
        self._go_on()
        self._looks.start()

    def _go_on(self) -> None:
        """Begin the next step, or end."""
        self.at += 1
        self._begun = self._window.session.recipe
        if self.at < len(DEEDS):
            deed = DEEDS[self.at]
            self.title.setText(deed.title)
            self.words.setText(deed.words)
            self.place.setText(f"{self.at + 1} of {len(DEEDS)}")
        else:
            self._looks.stop()
            self.title.setText("Done")
            self.words.setText(_LAST)
            self.place.setText("")
            self.show_me.hide()
            self.leave.setText("Close")
        self.setAccessibleDescription(f"{self.title.text()}. {self.words.text()}")
        self._put()

    def _look(self) -> None:
        """Go on if the step is done."""
        window = self._window
        if window.session.recipe is None or self._begun is None:
            self.close()  # other data were opened, or none: that is another way
        elif DEEDS[self.at].is_done(window, self._begun):
            self._go_on()

    def _show_me(self) -> None:
        if self._window.session.recipe is not None:
            DEEDS[self.at].show(self._window)
            self._look()

    def _put(self) -> None:
        """Stand over the list of variables, which the tour does not need."""
        over, place = self._over, self.parentWidget()
        if place is None:
            return
        corner = over.mapTo(place, over.rect().bottomLeft()) if over.isVisible() else None
        self.setFixedWidth(max(sized(_WIDE), over.width() - 2 * _AWAY if corner else 0))
        self.setFixedHeight(max(self.heightForWidth(self.width()), self.minimumSizeHint().height()))
        bottom = corner.y() if corner else place.height()
        self.move(_AWAY, max(0, bottom - self.height() - _AWAY))
        self.raise_()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        """Keep the place where there is more or less room."""
        if event is not None and event.type() == QEvent.Type.Resize:
            self._put()
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape leaves the tour."""
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.close()
        else:
            super().keyPressEvent(event)


def take_tour(window: "Window") -> Tour:
    """Begin the tour on the demo data; what was open is brought back by an undo."""
    for other in window.findChildren(Tour):
        other.close()
    window.session.opening.open_demo()
    window.go_to("figure")
    window.figure.foot.show_face("summary")
    tour = Tour(window)
    tour.show()
    tour.show_me.setFocus()
    return tour
