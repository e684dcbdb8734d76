"""The middle of the window: the paper with the rod under it, or words where there is no figure."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QRect, QRectF, QSignalBlocker, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QRegion, QResizeEvent
from PyQt6.QtWidgets import QLabel, QPushButton, QScrollBar, QWidget

from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.theme import theme
from rhabdos.app.paper.canvas import Canvas
from rhabdos.app.paper.zoom import Zoom
from rhabdos.app.rods.rod import Rod
from rhabdos.app.rods.ruler import thickness
from rhabdos.figure.readings.readings import Readings
from rhabdos.lazy import lazy
from rhabdos.paint.fonts import measure_for
from rhabdos.scene.axes.limits import Limits, limits_of
from rhabdos.scene.build import build
from rhabdos.scene.common_axes import NOTHING_SHARED, CommonAxes
from rhabdos.scene.marks import Scene

if TYPE_CHECKING:
    from rhabdos.app.rods.bell import Bell
    from rhabdos.app.rods.ends import Ends
    from rhabdos.app.rods.reach import Reach
    from rhabdos.app.rods.ruler import OnRod
    from rhabdos.figure.words.notice import Notice

_MARGIN, _GAP = 16, 8  # pixels around the paper, and down to the rod
_LARGEST_SCALE = 2.6  # of a small page on a large screen
_SMALLEST = 200  # pixels of a side, below which nothing is drawn


class Stage(QWidget):
    """Places the paper and the rod; shows a message or the welcome instead where there is no
    figure."""

    open_asked = pyqtSignal()
    paste_asked = pyqtSignal()
    typing_asked = pyqtSignal()
    simulating_asked = pyqtSignal()
    demo_asked = pyqtSignal()
    tour_asked = pyqtSignal()
    rod_made = pyqtSignal(QWidget)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.canvas = Canvas(self)
        self.rod = Rod(self)
        self._readings: Readings | None = None
        self._frozen: tuple[Limits, ...] | None = None
        self._gripped = "bins"
        self._laid_out: tuple[Readings, tuple[Limits, ...] | None, CommonAxes, Scene] | None = None
        self.common = NOTHING_SHARED
        """What the figure shares with those beside it."""
        self.rod.held.connect(self._hold)
        self.zoom = Zoom()
        self.canvas.zoomed.connect(self.zoom_at)
        self.canvas.scrolled.connect(self.scroll_by)
        self.setMinimumSize(_SMALLEST, _SMALLEST)

    # Made when they are first due, which makes for a quicker start.

    @lazy
    def welcome(self) -> "_Welcome":
        """What a first look at the empty window says."""
        welcome = _Welcome(self)
        welcome.open_button.clicked.connect(self.open_asked)
        welcome.paste_button.clicked.connect(self.paste_asked)
        welcome.type_button.clicked.connect(self.typing_asked)
        welcome.simulate_button.clicked.connect(self.simulating_asked)
        welcome.demo_button.clicked.connect(self.demo_asked)
        welcome.tour_button.clicked.connect(self.tour_asked)
        return welcome

    @lazy
    def bell(self) -> "Bell":
        """The rod that holds the bandwidth."""
        from rhabdos.app.rods.bell import Bell

        bell = Bell(self)
        bell.held.connect(self._hold)
        self.rod_made.emit(bell)
        return bell

    @lazy
    def reach(self) -> "Reach":
        """The rod that holds the reach of whiskers."""
        from rhabdos.app.rods.reach import Reach

        reach = Reach(self)
        reach.held.connect(self._hold)
        self.canvas.read.connect(reach.point_at)
        self.rod_made.emit(reach)
        return reach

    @lazy
    def ends(self) -> "Ends":
        """The rod that holds the ends of the value axis."""
        from rhabdos.app.rods.ends import Ends

        ends = Ends(self)
        ends.held.connect(self._hold)
        self.rod_made.emit(ends)
        return ends

    def show_readings(self, readings: Readings) -> None:
        """Draw a figure."""
        before, self._readings = self._readings, readings
        if before is None or readings.plan != before.plan:
            self._let_go()  # of what the figure has no more
        self._put_away(Stage.welcome)
        self.canvas.show()
        if not self.testAttribute(
            Qt.WidgetAttribute.WA_PendingResizeEvent
        ):  # which builds it in its true size
            self._rebuild()

    def show_nothing(self, sentence: str) -> None:
        """Say why there is no figure; with no reason to tell, welcome the user."""
        self._readings = None
        self._let_go()
        self.canvas.show_nothing()
        self.rod.hide()
        for rod in _RODS.values():
            self._put_away(rod)
        self.welcome.say(sentence)
        self._place_words()
        self.welcome.show()

    @property
    def notices(self) -> "tuple[Notice, ...]":
        """What is to be said of the drawing: words without room, heights that are cut, and a font
        that is not here."""
        from rhabdos.paint.fonts import font_notice, letters_notice
        from rhabdos.scene.drawing_notices import drawing_notices

        scene = self.canvas.scene
        if scene is None or self._readings is None:
            return ()
        recipe = self._readings.recipe
        told = (font_notice(recipe), letters_notice(scene))
        of_fonts = [notice for notice in told if notice]
        return (*drawing_notices(scene, self._readings), *of_fonts)

    def _put_away(self, part: "lazy[Stage, QWidget]") -> None:
        if (former := part.made(self)) is not None:
            former.hide()

    def _hold(self, held: bool) -> None:
        """While a hand moves the edges, the axis stands still under them."""
        self.canvas.hovering = not held
        self._frozen = self._limits_now() if held and self._readings else None
        if not held and self._readings:
            self._rebuild()

    def _limits_now(self) -> "tuple[Limits, ...] | None":
        readings = self._readings
        return (self.common.limits(readings) or limits_of(readings)) if readings else None

    @property
    def _rods(self) -> "list[OnRod]":
        """The rods that have been made."""
        rods = (rod.made(self) for rod in _RODS.values())
        return [self.rod, *(rod for rod in rods if rod is not None)]

    def _let_go(self) -> None:
        for rod in self._rods:
            rod.let_go()

    def _rebuild(self) -> None:
        assert self._readings
        # An unchanged page is only placed anew: a window that is resized lays nothing out.
        wanted = self._readings, self._frozen, self.common
        if self._laid_out is None or any(
            new is not old for new, old in zip(wanted, self._laid_out[:3], strict=True)
        ):
            readings, measure = self._readings, measure_for(self._readings.recipe)
            limits = self._frozen or self.common.limits(readings)
            scene = build(readings, measure, limits, top=self.common.top)
            self._laid_out = (*wanted, scene)
        scene = self._laid_out[3]
        upright = scene.frame.upright
        place = self._paper(*scene.points, upright)
        self.canvas.setGeometry(place)
        self.canvas.show_scene(scene, self._readings)
        held = self.held_rod
        for rod in self._rods:
            if rod is not held:
                rod.hide()
        if held:
            held.setGeometry(self._by_the_paper(place, scene))
            held.show_figure(self._readings, scene.frame, self.canvas.scale)
            held.show()
        self._clip(held, upright)
        self._show_bars(place, upright)

    # Larger and smaller

    def zoom_by(self, steps: float) -> None:
        """Show the paper larger by so many steps, or smaller."""
        self.zoom.by(steps)
        self._place_anew()

    def zoom_at(self, steps: float, across: float, down: float) -> None:
        """The same about a place of the page that a hand points at."""
        self.zoom.by(steps, (across, down))
        self._place_anew()

    def fit_page(self) -> None:
        """Show the whole page."""
        self.zoom.fit()
        self._place_anew()

    def fit_width(self) -> None:
        """Show the page as wide as there is room."""
        if self._laid_out is None:
            return
        scene = self._laid_out[3]
        usual = whole_paper(self.size(), *scene.points, scene.frame.upright)
        self.zoom.to(self._room(scene.frame.upright).width() / usual.width())
        self.zoom.down = 0.0
        self._place_anew()

    def scroll_by(self, across: float, down: float) -> None:
        """Bring what lies so many pixels beyond in sight."""
        paper = self.canvas.geometry()
        self.zoom.across -= across / paper.width()
        self.zoom.down -= down / paper.height()
        self._place_anew()

    def _place_anew(self) -> None:
        if self._readings is not None and self._laid_out is not None:
            self._rebuild()

    @lazy
    def bars(self) -> tuple[QScrollBar, QScrollBar]:
        """What moves a page that is larger than the stage: across, and down."""
        across = QScrollBar(Qt.Orientation.Horizontal, self)
        down = QScrollBar(Qt.Orientation.Vertical, self)
        across.setAccessibleName("Part of the page in sight, across")
        down.setAccessibleName("Part of the page in sight, down")
        across.valueChanged.connect(lambda at: self._moved_bar(across=at))
        down.valueChanged.connect(lambda at: self._moved_bar(down=at))
        return across, down

    def _moved_bar(self, across: int | None = None, down: int | None = None) -> None:
        paper = self.canvas.geometry()
        room = self._room(self._readings is not None and self._readings.plan.upright)
        if across is not None:
            self.zoom.across = (across + room.width() / 2) / paper.width()
        if down is not None:
            self.zoom.down = (down + room.height() / 2) / paper.height()
        self._place_anew()

    def _show_bars(self, paper: QRect, upright: bool) -> None:
        """The bars where the page reaches beyond its room."""
        if self.zoom.whole and Stage.bars.made(self) is None:
            return
        room = self._room(upright)
        ends = (
            (self.bars[0], paper.width(), room.width(), room.left() - paper.left()),
            (self.bars[1], paper.height(), room.height(), room.top() - paper.top()),
        )
        for bar, long, free, at in ends:
            with QSignalBlocker(bar):  # a bar that is told where it stands would move the paper
                bar.setRange(0, max(0, round(long - free)))
                bar.setPageStep(max(1, round(free)))
                bar.setSingleStep(40)
                bar.setValue(round(at))
            bar.setVisible(long > free)
            bar.raise_()
        thick = self.bars[0].sizeHint().height()
        self.bars[0].setGeometry(0, self.height() - thick, self.width() - thick, thick)
        self.bars[1].setGeometry(self.width() - thick, 0, thick, self.height() - thick)

    def hold_grips_of(self, phrase: str) -> None:
        """Let the rod hold the grips of a phrase: the bell for curves, the tabs for all others."""
        if phrase != self._gripped:
            self._let_go()
            self._gripped = phrase
            if self._readings and self._laid_out:
                self._rebuild()

    @property
    def held_rod(self) -> "OnRod | None":
        """The rod with the grips of the chosen phrase; of another one, where it has none here."""
        if self._readings is None:
            return None
        offered = grips_of(self._readings)
        unasked = next((name for name in offered if name != "value_axis"), None)
        name = self._gripped if self._gripped in offered else unasked
        if name is None:
            return None
        return _RODS[name].__get__(self, Stage) if name in _RODS else self.rod

    def _room(self, upright: bool) -> QRectF:
        """Where the paper may lie: above the rod, or beside it."""
        under, beside = (0, thickness() + _GAP) if upright else (thickness() + _GAP, 0)
        return QRectF(
            beside + _MARGIN,
            _MARGIN,
            self.width() - beside - 2 * _MARGIN,
            self.height() - under - 2 * _MARGIN,
        )

    def _paper(self, width: float, height: float, upright: bool) -> QRect:
        """Where the paper lies: as a whole, or larger about what is in sight."""
        whole = whole_paper(self.size(), width, height, upright)
        return self.zoom.placed(whole, self._room(upright))

    def _by_the_paper(self, paper: QRect, scene: Scene) -> QRect:
        """Where the rod lies: at the paper, or where that ends out of sight, at the stage's end."""
        upright = scene.frame.upright
        place = _beside(paper) if upright else _under(paper, scene)
        room = self._room(upright)
        if upright:
            place.moveLeft(max(place.left(), round(room.left()) - _GAP - thickness()))
        else:
            place.moveTop(min(place.top(), round(room.bottom()) + 1 + _GAP))
        return place

    def _clip(self, held: "OnRod | None", upright: bool) -> None:
        """Let nothing of a page that is larger than its room lie under the rod or beyond it."""
        if self.zoom.whole:
            self.canvas.clearMask()
            return
        seen = self.rect()
        if held is not None and upright:
            seen.setLeft(held.geometry().right() + 1)
        elif held is not None:
            seen.setBottom(held.geometry().top() - 1)
        self.canvas.setMask(QRegion(seen.translated(-self.canvas.pos())))

    def changeEvent(self, event: QEvent | None) -> None:
        """Letters of another size take other room on the rod."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.FontChange and self.isVisible():
            self._place_anew()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place_words()
        if self._readings:
            self._rebuild()

    def _place_words(self) -> None:
        middle = self.rect().adjusted(_MARGIN, _MARGIN, -_MARGIN, -_MARGIN)
        if welcome := Stage.welcome.made(self):
            welcome.setGeometry(middle)

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme().ground))


def whole_paper(room: QSize, width: float, height: float, upright: bool) -> QRect:
    """The largest place for a page of these proportions above its rod, or beside it."""
    under, beside = (0, thickness() + _GAP) if upright else (thickness() + _GAP, 0)
    free_width = room.width() - 2 * _MARGIN - beside
    free_height = room.height() - 2 * _MARGIN - under + (0 if upright else 8)
    scale = max(0.2, min(free_width / width, free_height / height, _LARGEST_SCALE))
    across, down = round(width * scale), round(height * scale)
    top = _MARGIN if free_height - down < 160 else (room.height() - down - under) // 2
    left = beside + (room.width() - beside - across) // 2
    return QRect(left, max(_MARGIN // 2, top), across, down)


_RODS: "dict[str, lazy[Stage, OnRod]]" = {
    "curve": Stage.bell,
    "box": Stage.reach,
    "value_axis": Stage.ends,
}
"""Phrases whose grips are on rods of their own."""


def grips_of(readings: Readings) -> list[str]:
    """The phrases of a figure that have grips on the rod; the one that has them unasked first."""
    if readings.plan.axes > 1:  # what a grip would set means something else on each axis
        return []
    forms = set(readings.recipe.show.forms)
    offered = ["bins"] if readings.needs_bins else []
    if forms & {"curve", "violin"}:
        offered.append("curve")
    if "box" in forms and not readings.recipe.box.letters:
        offered.append("box")
    offered.append("value_axis")
    return offered


def _under(paper: QRect, scene: Scene) -> QRect:
    """Under the paper; of several columns of panels under the first, whose axis it measures."""
    width, beside = paper.width(), [f.left for f in scene.frames if f.left > scene.frame.right]
    if beside:
        width = round(min(beside) / scene.width * width)
    return QRect(paper.left(), paper.bottom() + 1 + _GAP, width, thickness())


def _beside(paper: QRect) -> QRect:
    return QRect(paper.left() - _GAP - thickness(), paper.top(), thickness(), paper.height())


class _Welcome(QWidget):
    """What a first look at the empty window says."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.title, self.how = QLabel(), QLabel()
        self.title.setObjectName("welcome")
        self.how.setObjectName("message")
        self.open_button = QPushButton("Open data …")
        self.open_button.setDefault(True)
        self.paste_button = QPushButton("Paste cells")
        self.type_button = QPushButton("Type values …")
        self.simulate_button = QPushButton("Practice samples …")
        self.demo_button = QPushButton("Look at the demo data")
        self.tour_button = QPushButton("Take the tour")
        for label in (self.title, self.how):
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            label.setWordWrap(True)
        first = (self.open_button, self.paste_button, self.type_button)
        others = (self.simulate_button, self.demo_button, self.tour_button)
        begin, look = (in_a_row(None, *some, None, gap=8) for some in (first, others))
        in_a_column(
            None, self.title, 10, self.how, 10, begin, 4, look, None, around=(9, 9, 9, 9), of=self
        )

    def say(self, reason: str) -> None:
        """Say why there is no figure; without a reason, what to begin with."""
        self.title.setText(
            "There is nothing to draw" if reason else "See how your values are distributed"
        )
        how = (
            "Open a file of rows and columns, or drop it on this window: delimited text, a "
            "workbook, Parquet, Arrow, JSON or a database. Or begin with cells from a "
            "spreadsheet, with numbers of your own, or with chance."
        )
        self.how.setText(reason or how)
