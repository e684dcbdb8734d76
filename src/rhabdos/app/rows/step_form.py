"""What the forms of all steps share: fields, what would come of them, and a way to do it."""

from typing import Any, ClassVar

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QPushButton, QWidget

from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.mnemonics import OF_MENUS, give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row, tab_in_order
from rhabdos.app.controls.typed_fields import fault_line, heading, quiet
from rhabdos.app.session.preparing import Foreseen
from rhabdos.app.session.session import Session
from rhabdos.data.columns import NumberColumn
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.errors import Refusal

_PAUSE = 180  # milliseconds after typing before it is worked out what would come of it


class StepForm(QWidget):
    """Makes a step, or changes the one in a place.

    Signals
    -------
    asked : the step that was made, and whether it takes the place of another.
    left : nothing is wanted after all.
    """

    step_asked = pyqtSignal(Step)
    left = pyqtSignal()

    title: ClassVar[str]
    deed: ClassVar[str]
    """What the button says that does it."""

    def __init__(
        self,
        session: Session,
        index: int | None = None,
        step: Step | None = None,
        variable: str = "",
        wish: str | None = None,
    ) -> None:
        super().__init__()
        self.session, self.index, self.former = session, index, step
        self.told = quiet()
        self.fault = fault_line()
        self.do_button = QPushButton(self.deed)
        self.do_button.setDefault(True)
        self.leave_button = QPushButton("Leave it")
        self.do_button.clicked.connect(self.do)
        self.leave_button.clicked.connect(self.left)
        self.body = in_a_column(gap=6)
        buttons = in_a_row(self.do_button, self.leave_button, None)
        self.column = in_a_column(
            heading(self.title),
            self.body,
            self.told,
            self.fault,
            4,
            buttons,
            None,
            around=(14, 10, 14, 10),
            gap=6,
            of=self,
        )
        self._pause = pause(self, _PAUSE, self.foresee)
        self.fill(step, variable, wish)
        give_letters(self, OF_MENUS)
        self.changed()

    def fill(self, former: Any, variable: str, wish: str | None, /) -> None:
        """Make the fields.

        Parameters
        ----------
        former : Step or None
            The step that is changed; None for a new one.
        variable : str
            Which the form was opened for, if any.
        wish : str, optional
            What of it, such as a way or a value.
        """
        raise NotImplementedError

    @property
    def table(self) -> Table:
        """The table that the step is given."""
        table = (
            self.session.rows.before(self.index) if self.index is not None else self.session.table
        )
        assert table is not None
        return table

    def step(self) -> Step:
        """The step that the fields say.

        Raises
        ------
        Refusal
            They do not say one yet.
        """
        raise TypeError(f"{type(self).__name__} makes no step by itself")

    def changed(self) -> None:
        """The fields say something else: work out soon what would come of it."""
        self._pause.start()

    def focusNextPrevChild(self, forwards: bool) -> bool:
        """From field to field as they stand, then to the buttons."""
        tab_in_order(self)
        return super().focusNextPrevChild(forwards)

    def foresee_no_more(self) -> None:
        """It is put away: what would come of it is asked no more, not even a moment later."""
        self._pause.stop()

    def foresee(self) -> None:
        """Tell what would come of the step."""
        try:
            step = self.step()
        except Refusal as refusal:
            self.say(str(refusal), "")  # which is no fault before it is done
            return
        self.session.rows.foresee(step, self._show, self.table)

    def _show(self, foreseen: Foreseen) -> None:
        if foreseen.done is None:
            self.say("", foreseen.refusal)
        else:
            words = [self.words_of(foreseen), costs(foreseen.step, self.table)]
            self.say(" ".join(filter(None, words)), "")

    def words_of(self, foreseen: Foreseen) -> str:
        """What would come of the step, in words."""
        return foreseen.done.told if foreseen.done else ""

    def say(self, told: str, fault: str) -> None:
        """Tell what would come of it, or what is wrong."""
        self.told.setText(told)
        self.fault.setText(fault)
        self.fault.setVisible(bool(fault))

    def do(self) -> None:
        """Do the step, if the fields say one."""
        if not self.do_button.isEnabled():
            return
        try:
            step = self.step()
        except Refusal as refusal:
            self.say("", str(refusal))
            return
        self.step_asked.emit(step)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Escape leaves it, Enter in a field does it."""
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.do()
        else:
            super().keyPressEvent(event)


def costs(step: Step, table: Table) -> str:
    """What a step asks of data that stay where they lie, if that is much."""
    if table.far is None or not step.knows_all_first:
        return ""
    return "All rows are asked once more, since all values must be known first."


def numbers_of(table: Table) -> list[NumberColumn]:
    """The variables of a table that hold numbers or dates."""
    return [column for column in table.columns if isinstance(column, NumberColumn)]
