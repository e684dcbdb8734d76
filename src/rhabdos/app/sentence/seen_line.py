"""Under the sentence of the figure: what is seen in the data, in sentences that can be struck
out."""

from functools import partial
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QApplication, QPushButton, QSizePolicy, QWidget

from rhabdos.app.controls.marked import dressed_as
from rhabdos.app.controls.plain_texts import as_written, plain_tip
from rhabdos.app.controls.rows_and_columns import in_a_row
from rhabdos.app.session.session import Session
from rhabdos.figure.readings.readings import Readings

if TYPE_CHECKING:
    from rhabdos.app.session.tasks import Task
    from rhabdos.data.reporting import Report
    from rhabdos.figure.output.seen import Seen

_NOTHING = "What the data show …"


class SeenLine(QWidget):
    """One line of sentences, as many as there is room for; a click lists all of them, to be struck
    out, taken back, or copied.

    Signals
    -------
    said : all that is said now.
    """

    said = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        dressed_as(self, "seen")
        self._session = session
        self._task: Task | None = None
        self._wanted: Readings | None = None
        self._all: tuple[Seen, ...] = ()
        self.text = ""
        """All that is said, however little of it there is room for."""
        self.button = QPushButton()  # whose words begin at the left, unlike those of other buttons
        self.button.setObjectName("seen")
        self.button.clicked.connect(self.open)
        self.button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        in_a_row((self.button, 1), around=(16, 3, 16, 3), of=self)
        self._roomy = True
        self.setVisible(session.readings is not None)

    def give_room(self, roomy: bool) -> None:
        """Stand there only where the window has room for it."""
        self._roomy = roomy
        self.setVisible(roomy and self._wanted is not None)

    def show_readings(self, readings: Readings | None) -> None:
        """Tell of another figure, once that is worked out beside the window."""
        self._wanted = readings
        if self._task is not None:
            self._task.cancel()
            self._task = None
        self.setVisible(self._roomy and readings is not None)
        if readings is None:
            return

        from rhabdos.app.session.tasks import Task  # which no start needs

        def work(_report: "Report") -> "tuple[Seen, ...]":
            """Look at the data."""
            from rhabdos.figure.output.seen import all_seen

            return all_seen(readings)

        self._task = Task(work, self)
        self._task.succeeded.connect(self._found)  # a method, which goes with the window
        self._task.begin()

    def _found(self, found: "tuple[Seen, ...]") -> None:
        """Say what was found of the figure in sight; what is not wanted any more never comes."""
        self._task = None
        if self._wanted is not None:
            self._all = found
            self._say(self._wanted)

    @property
    def busy(self) -> bool:
        """Whether it is still worked out."""
        return self._task is not None

    def _say(self, readings: Readings) -> None:
        unsaid = readings.recipe.words.unsaid
        self.text = " ".join(each.text for each in self._all if each.code not in unsaid)
        self.said.emit(self.text)
        self.button.setAccessibleName(self.text or _NOTHING)
        self.button.setToolTip(plain_tip(self.text or _NOTHING))
        self._fit()

    def _fit(self) -> None:
        metrics = self.button.fontMetrics()
        words = self.text or _NOTHING
        room = self.button.width() - 8
        self.button.setText(
            as_written(metrics.elidedText(words, Qt.TextElideMode.ElideRight, max(40, room)))
        )

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def open(self) -> None:
        """List all sentences; those that are said are ticked."""
        readings = self._wanted
        if readings is None or not self._all:
            return
        from rhabdos.app.controls.choices import Choices

        menu, unsaid = Choices(self, several=True), readings.recipe.words.unsaid
        for each in self._all:
            menu.offer(each.text, partial(self._turn, each), each.code not in unsaid)
        menu.addSeparator()
        menu.offer("Copy what is said", self._copy)
        menu.open_at(self.button.mapToGlobal(QPoint(0, self.button.height() + 1)))

    def _turn(self, each: "Seen") -> None:
        """Strike a sentence out, or take it back."""
        recipe = self._session.recipe
        if recipe is None:
            return
        unsaid = recipe.words.unsaid
        if each.code in unsaid:
            others = tuple(code for code in unsaid if code != each.code)
            self._session.ask("Say a sentence again", recipe.worded(unsaid=others))
        else:
            self._session.ask("Leave a sentence out", recipe.worded(unsaid=(*unsaid, each.code)))

    def _copy(self) -> None:
        if clipboard := QApplication.clipboard():
            clipboard.setText(self.text)
