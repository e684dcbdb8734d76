"""The finer settings of the phrase "curve": kernel, bandwidth, bounds and fill."""

from PyQt6.QtWidgets import QCheckBox

from rhabdos.app.fields import Field, chooser, fault_line, labelled, quiet
from rhabdos.app.phrase_panels import Panel
from rhabdos.figure.curves import density_curves
from rhabdos.figure.edge_text import read_number
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Curves
from rhabdos.figure.sentence import curve_phrase
from rhabdos.figure.wording import counted, exact, with_unit
from rhabdos.quoting import quoted
from rhabdos.stats.bandwidths import TITLES
from rhabdos.stats.kernels import KERNELS

_BY_HAND = "by hand"
_NUMBERS = {
    "bandwidth": "The bandwidth",
    "factor": "The factor",
    "lower": "The bound",
    "upper": "The bound",
}


class CurvePanel(Panel):
    """How density curves are made; each field asks for another curve."""

    def __init__(self) -> None:
        super().__init__("Curve")
        self.facts = quiet()
        self.rule = chooser("Rule")
        for key, title in TITLES.items():
            self.rule.addItem(title, key)
        self.rule.addItem(_BY_HAND, None)
        self.kernel = chooser("Kernel")
        for kernel in KERNELS:
            self.kernel.addItem(kernel.capitalize(), kernel)
        self.fields = {
            "bandwidth": Field("Bandwidth"),
            "factor": Field("Factor"),
            "lower": Field("Not below", "no bound"),
            "upper": Field("Not above", "no bound"),
        }
        self.fill = QCheckBox("Filled")
        self.fault = fault_line()
        form = labelled(
            (
                ("Rule", self.rule),
                ("Bandwidth", self.fields["bandwidth"]),
                ("Factor", self.fields["factor"]),
                ("Kernel", self.kernel),
                ("Not below", self.fields["lower"]),
                ("Not above", self.fields["upper"]),
            )
        )
        form.addRow("", self.fill)
        self.column.addWidget(self.facts)
        self.column.addLayout(form)
        self.column.addWidget(self.fault)
        self.column.addSpacing(10)
        self.column.addWidget(
            quiet(
                "A wider bandwidth smooths more. A bound is a value that nothing can pass, such "
                "as 0 for a mass."
            )
        )
        self.column.addStretch()
        self.rule.activated.connect(self._choose_rule)
        self.kernel.activated.connect(self._choose_kernel)
        self.fill.clicked.connect(self._choose_fill)
        for name, field in self.fields.items():
            field.entered.connect(lambda text, key=name: self._enter(key, text))

    def show_readings(self, readings: Readings) -> None:
        super().show_readings(readings)
        settings, unit = readings.recipe.curve, readings.variable.unit
        drawn = [reading for reading in density_curves(readings) if reading.curve]
        self.say("")
        self.facts.setText(
            f"{counted(len(drawn), 'curve', 'curves')}, bandwidth {curve_phrase(readings)}"
        )
        by_rule = isinstance(settings.bandwidth, str)
        self.rule.setCurrentIndex(self.rule.findData(settings.bandwidth if by_rule else None))
        self.kernel.setCurrentIndex(self.kernel.findData(settings.kernel))
        width = (
            ""
            if isinstance(settings.bandwidth, str)
            else with_unit(exact(settings.bandwidth), unit)
        )
        self.fields["bandwidth"].show_value(width)
        self.fields["bandwidth"].setPlaceholderText("by the rule")
        self.fields["factor"].show_value(exact(settings.factor))
        for name in ("lower", "upper"):
            bound = getattr(settings, name)
            self.fields[name].show_value("" if bound is None else with_unit(exact(bound), unit))
        self.fill.setChecked(settings.fill)

    def say(self, sentence: str) -> None:
        """Say what is wrong with what was typed; the figure stays as it is."""
        self.fault.setText(sentence)
        self.fault.setVisible(bool(sentence))

    def _ask(self, name: str, **values: object) -> None:
        try:
            settings: Curves = self.recipe.curve.changed(**values)
        except ValueError as error:  # a bound that lies beyond the other
            words = str(error).partition(": ")[2]
            self.say(f"{words[0].upper()}{words[1:]}.")
            return
        self.asked.emit(name, self.recipe.changed(curve=settings))

    def _choose_rule(self) -> None:
        rule = self.rule.currentData()
        if rule:
            self._ask(f"Bandwidth by {TITLES[rule]}", bandwidth=rule)
            return
        assert self.readings
        widths = [
            reading.curve.bandwidth for reading in density_curves(self.readings) if reading.curve
        ]
        if widths:
            self._ask(
                "Bandwidth by hand", bandwidth=float(f"{sum(widths) / len(widths):.3g}"), factor=1.0
            )

    def _choose_kernel(self) -> None:
        self._ask(f"Kernel {self.kernel.currentText()}", kernel=self.kernel.currentData())

    def _choose_fill(self, filled: bool) -> None:
        self._ask("Fill curves" if filled else "Curves as lines", fill=filled)

    def _enter(self, key: str, text: str) -> None:
        assert self.readings
        unit = self.readings.variable.unit
        if not text:
            nothing: dict[str, object] = {
                "bandwidth": "silverman",
                "factor": 1.0,
                "lower": None,
                "upper": None,
            }
            self._ask(f"{self.fields[key].accessibleName()} as usual", **{key: nothing[key]})
            return
        number = read_number(text.removesuffix(unit) if unit else text)
        if number is None:
            self._wrong(
                key,
                f"{_NUMBERS[key]} is to be a number, and {quoted(text)} is none. The figure is as "
                "it was.",
            )
        elif number <= 0 and key in ("bandwidth", "factor"):
            self._wrong(key, f"{_NUMBERS[key]} must be above 0.")
        else:
            self._ask(f"{self.fields[key].accessibleName()} {text}", **{key: number})

    def _wrong(self, key: str, sentence: str) -> None:
        self.say(sentence)
        self.fields[key].mark_wrong(True)
