"""A panel made from what a phrase declares."""

from functools import partial

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QLabel, QWidget

from rhabdos.app.controls.colour_field import ColourField
from rhabdos.app.controls.font_field import FontField
from rhabdos.app.controls.mnemonics import OF_MENUS, give_letters
from rhabdos.app.controls.plain_texts import plain_tip
from rhabdos.app.controls.typed_fields import Field, chooser, labelled, quiet
from rhabdos.app.panels.panel import Panel
from rhabdos.errors import Refusal
from rhabdos.figure.edits.level_edits import with_own_colour
from rhabdos.figure.phrases.phrase import Phrase, Setting
from rhabdos.figure.readings.readings import Readings
from rhabdos.quoting import brief
from rhabdos.scene.style.look import colours_of, colours_of_levels, style_of, usual_points
from rhabdos.wording import exact


class SettingsPanel(Panel):
    """A tick, a list or a field for each setting of a phrase."""

    def __init__(self, phrase: Phrase) -> None:
        super().__init__(phrase.title)
        self._phrase = phrase
        self.facts = quiet()
        self.widgets: dict[str, QWidget] = {}
        """By the label of their setting."""
        rows = []
        for setting in phrase.settings:
            widget = self._widget(setting)
            self.widgets[setting.label] = widget
            # Of a line, "width" and "dash" stand under its name, which stands beside its colour.
            words = setting.label.partition(", ")[2] or setting.label
            words = "" if setting.kind == "toggle" else words
            rows.append((words, widget))
        self.form = labelled(rows)
        self._level: str | None = None
        self.level_colour = ColourField("Colour of what was clicked")
        self.level_colour.picked.connect(self._take_level_colour)
        self.level_colour.wrong.connect(partial(self.say_at, self.level_colour))
        self.column.addWidget(self.facts)
        self._level_form = labelled([("", self.level_colour)])
        self.column.addLayout(self._level_form)
        self.column.addLayout(self.form)
        self.column.addWidget(self.fault)
        self.hint = quiet(phrase.hint)
        if phrase.hint:
            self.column.addSpacing(10)
            self.column.addWidget(self.hint)
        self.column.addStretch()

    def insert_form(self, form: QFormLayout) -> None:
        """Put more rows under those of the settings."""
        self.column.insertLayout(self.column.indexOf(self.fault), form)

    def _widget(self, setting: Setting) -> QWidget:
        if setting.kind == "toggle":
            box = QCheckBox(setting.label)
            box.clicked.connect(partial(self._toggle, setting))
            widget: QWidget = box
        elif setting.kind == "choice":
            choices = chooser(setting.label)
            choices.activated.connect(partial(self._choose, setting, choices))
            widget = choices
        elif setting.kind == "colour":
            colour = ColourField(setting.label)
            colour.picked.connect(partial(self._colour, setting))
            colour.wrong.connect(partial(self.say_at, colour))
            widget = colour
        elif setting.kind == "font":
            fonts = FontField(setting.label)
            fonts.chosen.connect(partial(self._enter, setting))
            widget = fonts
        else:
            field = Field(setting.label)
            field.entered.connect(partial(self._enter, setting))
            if setting.kind == "words":
                field.textEdited.connect(partial(self._preview, setting))
                field.taken_back.connect(self.taken_back)
            widget = field
        if setting.tip:
            widget.setToolTip(plain_tip(setting.tip))
        return widget

    def show_readings(self, readings: Readings) -> None:
        """Show the settings of a figure; those that change nothing in it are put away."""
        super().show_readings(readings)
        self.say("")
        facts = self._phrase.facts(readings)
        self.facts.setText(facts)
        self.facts.setVisible(bool(facts))
        self.hint.setVisible(bool(self._phrase.hint) and self._phrase.hinted(readings))
        self._show_level()
        for setting in self._phrase.settings:
            matters = setting.matters(readings)
            self.form.setRowVisible(self.widgets[setting.label], matters)
            if matters:
                self._show(setting, readings)

    def _show(self, setting: Setting, readings: Readings) -> None:
        match self.widgets[setting.label]:
            case QCheckBox() as box:
                box.setChecked(bool(setting.value_in(readings)))
            case ColourField() as colour:
                own = setting.value_in(readings)
                colour.show_colour(str(own or self.usual_colour(setting, readings)), bool(own))
            case FontField() as fonts:
                fonts.show_font(setting.shown(readings))
            case QComboBox() as choices:
                _offer(choices, setting, readings)
            case Field() as field:
                field.show_value(setting.shown(readings))
                usual = setting.placeholder(readings)
                style = style_of(readings.recipe)
                if points := usual_points(setting.path, readings, style):
                    usual = f"{usual}: {exact(round(points, 2))} pt"
                elif setting.path == "look.see_through":
                    together = max(len(lane.groups) for lane in readings.plan.lanes)
                    usual = f"{usual}: {100 * (1 - style.bar_fill(together)):.0f} %"
                field.setPlaceholderText(usual)

    def begin(self) -> None:
        """Take the keys in the first field that matters."""
        for setting in self._phrase.settings:
            if self.form.isRowVisible(self.widgets[setting.label]):
                self.widgets[setting.label].setFocus()
                return

    def choose_part(self, _part: str, level: str | None) -> None:
        """Show the colour of the group that was clicked."""
        self._level = level
        if self.readings is not None:
            self._show_level()
            give_letters(self, OF_MENUS)

    def _show_level(self) -> None:
        """The colour of the level that was clicked, where colours stand for levels."""
        assert self.readings
        coloured = self.readings.plan.coloured
        levels = [d for d in coloured.levels if d.label == self._level] if coloured else []
        label = self._level_form.labelForField(self.level_colour)
        self._level_form.setRowVisible(self.level_colour, bool(levels))
        if not levels or not isinstance(label, QLabel):
            return
        every = colours_of_levels(self.readings, style_of(self.recipe))
        label.setText(brief(levels[0].label))
        own = levels[0].label in self.recipe.look.colours
        self.level_colour.show_colour(every[levels[0].index], own)

    def _take_level_colour(self, colour: str) -> None:
        if self._level is not None:
            self.say("")
            self.recipe_asked.emit(*with_own_colour(self.recipe, self._level, colour))

    def usual_colour(self, setting: Setting, readings: Readings) -> str:
        """The colour that is used where none is given."""
        style = style_of(readings.recipe)
        if setting.path == "points.colour":
            return colours_of(readings)[0]
        if setting.path.startswith("strokes."):  # that of the group, but for boxes
            inked = setting.path.split(".")[1] in ("box", "median")
            return style.ink if inked else colours_of(readings)[0]
        return str(getattr(style, setting.path.rpartition(".")[2]) or style.paper)

    def _colour(self, setting: Setting, colour: str) -> None:
        self._ask(setting, colour, colour or None)

    def _toggle(self, setting: Setting, wanted: bool) -> None:
        self._ask(setting, "", wanted)

    def _choose(self, setting: Setting, choices: QComboBox, _row: int) -> None:
        assert self.readings
        offered = setting.choices(self.readings)
        if choices.currentIndex() >= len(offered):  # what it is anyway
            return
        value = offered[choices.currentIndex()][1]
        if setting.chosen:
            value = setting.chosen(value, self.readings)
        self._ask(setting, choices.currentText(), value)

    def _enter(self, setting: Setting, text: str) -> None:
        assert self.readings
        try:
            value = setting.read(text, self.readings)
        except Refusal as refusal:
            self._wrong(setting, str(refusal))
            return
        self._ask(setting, text, value)

    def _preview(self, setting: Setting, text: str) -> None:
        assert self.readings
        value = setting.read(text.strip(), self.readings)
        self.previewed.emit(setting.changed(self.recipe, value))

    def _ask(self, setting: Setting, words: str, value: object) -> None:
        step = setting.step if setting.kind == "words" else setting.step_to(words, value)
        try:
            wanted = setting.changed(self.recipe, value)
        except Refusal as refusal:
            self._wrong(setting, str(refusal))
            return
        self.recipe_asked.emit(step, wanted)

    def _wrong(self, setting: Setting, sentence: str) -> None:
        widget = self.widgets[setting.label]
        self.say_at(widget, sentence)
        if isinstance(widget, Field):
            widget.mark_wrong(True)


def _offer(choices: QComboBox, setting: Setting, readings: Readings) -> None:
    """Fill a list anew where its choices have changed, and show the present one."""
    offered = list(setting.choices(readings))
    present = setting.value_in(readings)
    if all(value != present for _, value in offered):  # as only a recipe can ask for
        words = present if isinstance(present, tuple | list) else [present]
        offered.append((", ".join(str(word) for word in words), present))
    shown = [choices.itemText(row) for row in range(choices.count())]
    if shown != [text for text, _ in offered]:
        choices.clear()
        choices.addItems([text for text, _ in offered])
        for row, tip in enumerate(setting.tips):
            choices.setItemData(row, tip, Qt.ItemDataRole.ToolTipRole)
    values = [value for _, value in offered]
    choices.setCurrentIndex(values.index(present) if present in values else -1)
