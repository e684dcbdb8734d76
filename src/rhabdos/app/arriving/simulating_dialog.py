"""Practice samples: distributions, sizes and parameters, with a live small picture."""

from msgspec import structs
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QDialog, QFrame, QLineEdit, QPushButton, QSpinBox, QWidget

from rhabdos.app.arriving.typing_dialog import first_look
from rhabdos.app.controls.dialog_layout import lay_out_beside, pause
from rhabdos.app.controls.mnemonics import give_letters
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row, tab_in_order
from rhabdos.app.controls.small_figure import SmallFigure
from rhabdos.app.controls.typed_fields import (
    chooser,
    fault_line,
    heading,
    labelled,
    quiet,
    scrolled,
    text_field,
)
from rhabdos.app.controls.word_buttons import word_button
from rhabdos.data.steps.sources import (
    DISTRIBUTIONS,
    MOST_DRAWN,
    MOST_SEED,
    Distribution,
    Drawn,
    Simulate,
)
from rhabdos.data.steps.step import StepError
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.quoting import quoted
from rhabdos.wording import counted, exact

_PAUSE = 120  # milliseconds without a keystroke, after which samples are drawn anew
_SHOWN = 200_000  # values that the small picture draws at most
PARAMETER_WORDS = {
    "mean": "Mean", "sd": "Standard deviation", "low": "From", "high": "To", "shape": "Shape",
    "scale": "Scale", "logmean": "Mean of logs", "logsd": "Sd of logs", "a": "First shape",
    "b": "Second shape", "trials": "Trials", "p": "Chance", "df": "Degrees of freedom",
    "mean2": "Second mean", "sd2": "Second sd", "share": "Share of the first",
}  # fmt: skip
_DISTRIBUTION_WORDS: dict[Distribution, str] = {
    "t": "Student’s t",
    "poisson": "Poisson",
    "mixture": "mixture of two normal ones",
}


class SimulatingDialog(QDialog):
    """Samples beneath one another, a seed, and the figure that they make."""

    def __init__(self, step: Simulate | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Practice samples")
        self.resize(940, 600)
        self.step: Simulate | None = None
        self._former = step
        self.parts: list[SamplePart] = []
        self._list = in_a_column(gap=14)
        self.more = word_button("+ Another sample", lambda: self.add(None), "add")
        self.seed = QSpinBox()
        self.seed.setAccessibleName("Seed")
        self.seed.setRange(0, MOST_SEED)
        self.seed.setValue(step.seed if step else 1)
        self.another = QPushButton("Draw anew")
        self.another.setToolTip("The next seed: other values of the same distributions.")
        self.figure = SmallFigure()
        self.told, self.fault = quiet(), fault_line()
        self.done_button = QPushButton("Take these samples")
        self.done_button.setDefault(True)
        self.leave_button = QPushButton("Leave it")
        self._pause = pause(self, _PAUSE, self.draw)
        self._lay_out()
        self.seed.valueChanged.connect(lambda _value: self._pause.start())
        self.another.clicked.connect(lambda: self.seed.setValue(self.seed.value() + 1))
        self.done_button.clicked.connect(self.accept_samples)
        self.leave_button.clicked.connect(self.reject)
        for sample in step.samples if step else (None,):
            self.add(sample)
        give_letters(self)
        self.draw()

    def _lay_out(self) -> None:
        inner = QWidget()
        in_a_column(
            heading("Practice samples"),
            quiet("Values whose distribution is known: see what bins make of them."),
            4,
            self._list,
            self.more,
            None,
            around=(0, 0, 10, 0),
            of=inner,
        )
        at_seed = (self.another, 0, Qt.AlignmentFlag.AlignBottom)
        seed = in_a_row((labelled([("Seed", self.seed)]), 1), at_seed)
        left = in_a_column((scrolled(inner), 1), seed)
        shown = (self.figure, self.told, self.fault)
        lay_out_beside(self, left, 320, shown, (None, self.leave_button, self.done_button))

    def focusNextPrevChild(self, forwards: bool) -> bool:
        """From sample to sample, whenever each was added, then to the buttons."""
        tab_in_order(self)
        return super().focusNextPrevChild(forwards)

    def add(self, sample: Drawn | None) -> None:
        """One sample more."""
        taken = {part.name.text() for part in self.parts}
        letters = (f"Sample {chr(65 + index)}" for index in range(26))
        name = next((n for n in letters if n not in taken), "Sample")
        part = SamplePart(sample or Drawn(name=name))
        part.changed.connect(self._pause.start)
        part.taken_away.connect(lambda: self.take_away(part))
        self.parts.append(part)
        self._list.addWidget(part)
        self._show_parts()

    def take_away(self, part: "SamplePart") -> None:
        """One sample less."""
        self.parts.remove(part)
        self._list.removeWidget(part)
        part.hide()
        part.deleteLater()
        self._show_parts()

    def _show_parts(self) -> None:
        for part in self.parts:
            part.away.setVisible(len(self.parts) > 1)
        self._pause.start()

    def simulation(self) -> Simulate:
        """The samples, as a step.

        Raises
        ------
        Refusal
            A field says nothing that can be drawn.
        """
        samples = tuple(part.sample() for part in self.parts)
        former = self._former or Simulate(samples=samples)
        try:
            return Simulate(
                samples=samples,
                seed=self.seed.value(),
                number=former.number,
                group=former.group,
                off=former.off,
            )
        except ValueError as error:
            raise StepError(_sentence(error)) from None

    def draw(self) -> None:
        """Draw the samples as they are now, or say what cannot be drawn."""
        self.done_button.setEnabled(False)
        try:
            step = self.simulation()
            total = sum(sample.n for sample in step.samples)
            shown = _thinned(step, total)
            table = shown.table()
        except Refusal as refusal:
            self.fault.setText(str(refusal))
            self.fault.show()
            return
        self.fault.hide()
        self.step = step
        self.done_button.setEnabled(True)
        words = counted(total, "value", "values")
        some = f"; {_SHOWN:,} of them are drawn here" if total > _SHOWN else ""
        self.told.setText(
            f"{words} in {counted(len(step.samples), 'sample', 'samples')}{some}. They come as one "
            f"number, “{step.number}”, and one group, “{step.group}”."
        )
        if recipe := first_look(table):
            self.figure.show_figure(table, recipe)

    def accept_samples(self) -> None:
        """Take the samples over."""
        self.draw()
        if self.done_button.isEnabled():
            self.accept()


def _thinned(step: Simulate, total: int) -> Simulate:
    """The same samples with fewer values, where they are too many to follow the hand."""
    if total <= _SHOWN:
        return step
    samples = tuple(
        structs.replace(sample, n=max(1, sample.n * _SHOWN // total)) for sample in step.samples
    )
    return structs.replace(step, samples=samples)


def _sentence(error: ValueError) -> str:
    words = str(error).partition(": ")[2] or str(error)
    return f"{words[0].upper()}{words[1:].rstrip('.')}."


class SamplePart(QFrame):
    """One sample: its name, distribution, size and parameters."""

    changed = pyqtSignal()
    taken_away = pyqtSignal()

    def __init__(self, sample: Drawn) -> None:
        super().__init__()
        self.name = text_field("Name", sample.name)
        self.count = text_field("Size", f"{sample.n}")
        self.distribution = chooser("Distribution")
        for distribution in DISTRIBUTIONS:
            words = _DISTRIBUTION_WORDS.get(distribution, distribution)
            self.distribution.addItem(words, distribution)
        self.distribution.setCurrentIndex(list(DISTRIBUTIONS).index(sample.distribution))
        self.fields: dict[str, QLineEdit] = {}
        self.away = word_button("without this", self.taken_away.emit)
        self._column = in_a_column(
            labelled(
                [("Name", self.name), ("Distribution", self.distribution), ("Size", self.count)]
            ),
            gap=2,
            of=self,
        )
        self._inner = QWidget()
        self._column.addWidget(self._inner)
        self._column.addWidget(self.away, 0, Qt.AlignmentFlag.AlignLeft)
        self._make_fields(dict(sample.parameters))
        self.distribution.activated.connect(lambda _place: self._make_fields({}))
        for field in (self.name, self.count):
            field.textEdited.connect(self.changed)

    def _make_fields(self, values: dict[str, float]) -> None:
        """The fields of another distribution."""
        self.fields = {}
        rows: list[tuple[str, QWidget]] = []
        for parameter in DISTRIBUTIONS[self.distribution.currentData()]:
            field = QLineEdit(exact(values.get(parameter.name, parameter.usual)))
            words = PARAMETER_WORDS[parameter.name]
            field.setAccessibleName(words)
            field.textEdited.connect(self.changed)
            self.fields[parameter.name] = field
            rows.append((words, field))
        inner = QWidget()
        form = labelled(rows)
        form.setContentsMargins(0, 5, 0, 0)
        inner.setLayout(form)
        self._column.replaceWidget(self._inner, inner)
        self._inner.hide()
        self._inner.deleteLater()
        self._inner = inner
        self.changed.emit()

    def sample(self) -> Drawn:
        """The sample that the fields say.

        Raises
        ------
        Refusal
            They say none.
        """
        text = self.count.text().strip().replace(",", "").replace(" ", "")
        if not text.isdecimal() or not 1 <= int(text[:12]) <= MOST_DRAWN:
            raise StepError(
                f"{quoted(text) if text else 'Nothing'} is no size: type a whole number from 1 to "
                f"{MOST_DRAWN:,}."
            )
        parameters = {}
        for name, field in self.fields.items():
            number = read_number(field.text())
            if number is None:
                raise StepError(f"{PARAMETER_WORDS[name]} must be a number, such as 5.")
            parameters[name] = number
        try:
            return Drawn(
                name=self.name.text().strip(),
                distribution=self.distribution.currentData(),
                n=int(text),
                parameters=parameters,
            )
        except ValueError as error:
            raise StepError(_sentence(error)) from None
