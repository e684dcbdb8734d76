"""The panel of the look: whole looks and palettes as pictures of this figure, single colours, and
looks that are saved."""

from functools import partial

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QToolButton, QVBoxLayout, QWidget

from rhabdos.app.controls.colour_field import ColourField
from rhabdos.app.controls.dialog_layout import pause
from rhabdos.app.controls.pictures import PAUSE, PictureGrid, picture_button, show_picture
from rhabdos.app.controls.plain_texts import plain_tip
from rhabdos.app.controls.rows_and_columns import in_a_column, in_a_row
from rhabdos.app.controls.typed_fields import Field, chooser, labelled, quiet
from rhabdos.app.panels.settings_panel import SettingsPanel
from rhabdos.errors import Refusal
from rhabdos.figure.edits.level_edits import with_own_colour
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.dress import Dress, dress_of
from rhabdos.figure.recipe.recipe_look import BASES, PALETTES, Base, Look, PaletteName
from rhabdos.figure.words.naming import shown_name
from rhabdos.figure.words.notice import listed_briefly
from rhabdos.project.looks import forget_look, look_names, save_look, saved_look, use_for_new
from rhabdos.quoting import brief, quoted, shortened_to
from rhabdos.scene.miniature import small
from rhabdos.scene.style.look import TITLES, colours_of_levels, style_of, whole
from rhabdos.scene.style.palette import PALETTES as OURS
from rhabdos.scene.style.palette import safety

_PICTURE = QSize(92, 44)
_MOST_LEVELS = 60  # that have a colour field each
_LONGEST_NAME = 32  # letters of a level beside its field


class LookPanel(SettingsPanel):
    """A click on a picture takes a whole look or a palette; below it, everything one by one."""

    def __init__(self) -> None:
        super().__init__(PHRASES["look"])
        self.looks: dict[Base, QToolButton] = {}
        self.palettes: dict[PaletteName, QToolButton] = {}
        self.marks: dict[PaletteName, QLabel] = {}
        self.colours: dict[str, ColourField] = {}
        self._levels = QGridLayout()
        self._levels.setContentsMargins(0, 4, 0, 0)
        self._levels_shown: tuple[str, ...] = ()
        self._taken_away: tuple[str, Dress] | None = None
        self.own_stay = quiet()
        top = in_a_column(
            self._whole_looks(),
            6,
            _section("Palette"),
            self._palettes(),
            self.own_stay,
            6,
            _section("Colours of groups"),
            self._levels,
        )
        self.all_usual = QPushButton("All in their usual colours")
        self.all_usual.clicked.connect(self._take_usual_colours)
        top.addWidget(self.all_usual)
        top.addSpacing(8)
        top.addWidget(_section("One by one"))
        self.column.insertLayout(self.column.indexOf(self.facts), top)
        self.column.insertLayout(self.column.count() - 1, self._saved())
        self._painting = pause(self, PAUSE, self._paint)

    def _whole_looks(self) -> PictureGrid:
        grid = PictureGrid()
        for base in BASES:
            title, says = TITLES[base]
            button = picture_button(f"Look: {title}", _PICTURE)
            button.setToolTip(f"{title}: {says}")
            button.clicked.connect(partial(self._take_look, base))
            self.looks[base] = button
            grid.add(button, quiet(title))
        return grid

    def _palettes(self) -> PictureGrid:
        grid = PictureGrid()
        for name in PALETTES:
            button = picture_button(f"Palette: {OURS[name].title}", _PICTURE)
            button.clicked.connect(partial(self._take_palette, name))
            mark = quiet(OURS[name].title)
            self.palettes[name], self.marks[name] = button, mark
            grid.add(button, mark)
        return grid

    def _saved(self) -> QVBoxLayout:
        """Looks by name: to take, to save, to take away, and for new figures."""
        self.saved = chooser("Saved looks")
        self.saved.activated.connect(self._take_saved)
        self.saved.currentTextChanged.connect(self._offer)
        self.name = Field("Name of this look", "a name for this look")
        self.name.textChanged.connect(self._offer)
        self.save = QPushButton("Save look")
        self.save.clicked.connect(self._save)
        self.forget = QPushButton("Take it away")
        self.forget.clicked.connect(self._forget)
        self.for_new = QPushButton("Use for new figures")
        self.for_new.clicked.connect(self._use_for_new)
        self.done = quiet()
        return in_a_column(
            _section("Saved looks"),
            labelled([("Look", self.saved), ("Name", self.name)]),
            in_a_row(self.save, self.forget, None, around=(0, 6, 0, 0)),
            in_a_row(self.for_new, None, around=(0, 6, 0, 0)),
            self.done,
            around=(0, 10, 0, 0),
        )

    def show_readings(self, readings: Readings) -> None:
        """Show the look of a figure; the pictures follow when it stands still."""
        super().show_readings(readings)
        look = readings.recipe.look
        chosen = whole(look)
        for base, button in self.looks.items():
            button.setChecked(look == Look(base=base, colours=look.colours))
        for name, button in self.palettes.items():
            button.setChecked((chosen.palette or "reef") == name)
        self._show_levels(readings)
        self._list_saved()
        self._painting.start()

    def _show_levels(self, readings: Readings) -> None:
        """A colour for each level that colours stand for."""
        coloured = readings.plan.coloured
        labels = tuple(level.label for level in coloured.levels) if coloured else ()
        labels = (labels or (readings.variable.label,))[:_MOST_LEVELS]
        if labels != self._levels_shown:
            self._levels_shown = labels
            while self._levels.count():
                item = self._levels.takeAt(0)
                if item and (widget := item.widget()):
                    widget.deleteLater()
            self.colours = {}
            for row, label in enumerate(labels):
                field = ColourField(f"Colour of {label}")
                field.picked.connect(partial(self._take_colour, label))
                field.wrong.connect(self.say)
                self.colours[label] = field
                name = quiet(shortened_to(_LONGEST_NAME, shown_name(readings, label)))
                name.setWordWrap(False)
                name.setToolTip(plain_tip(label))
                self._levels.addWidget(name, 2 * row, 0)
                self._levels.addWidget(field, 2 * row + 1, 0)
        every = colours_of_levels(readings, style_of(readings.recipe))
        places = [level.index for level in coloured.levels] if coloured else [0]
        own = readings.recipe.look.colours
        for label, place in zip(labels, places, strict=False):
            self.colours[label].show_colour(every[place], label in own)
        self.all_usual.setVisible(bool(own))
        stay = [brief(shown_name(readings, label)) for label in labels if label in own]
        self.own_stay.setText(
            f"Whatever the palette, colours of your own stay: {listed_briefly(stay)}."
        )
        self.own_stay.setVisible(bool(stay))

    def _paint(self) -> None:
        if self.readings is None:
            return
        readings, count = self.readings, self.readings.plan.colours
        for base, button in self.looks.items():
            look = Look(base=base, colours=readings.recipe.look.colours)
            show_picture(button, partial(small, readings.recipe.changed(look=look), readings))
        for name, button in self.palettes.items():
            wanted = readings.recipe.looking(palette=name)
            show_picture(button, partial(small, wanted, readings))
            safe = safety(style_of(wanted).colours(count)) if count > 1 else None
            self.marks[name].setText(_marked(OURS[name].title, safe.words if safe else None))

    def _take_look(self, base: Base) -> None:
        look = Look(base=base, colours=self.recipe.look.colours)
        self.looks[base].setChecked(True)
        if look != self.recipe.look:
            self.recipe_asked.emit(f"Look {TITLES[base][0]}", self.recipe.changed(look=look))

    def _take_palette(self, name: PaletteName) -> None:
        self.palettes[name].setChecked(True)
        wanted = self.recipe.looking(palette=name)
        if wanted != self.recipe:
            self.recipe_asked.emit(f"Palette {OURS[name].title}", wanted)

    def _take_colour(self, label: str, colour: str) -> None:
        self.say("")
        self.recipe_asked.emit(*with_own_colour(self.recipe, label, colour))

    def _take_usual_colours(self) -> None:
        self.recipe_asked.emit("All in their usual colours", self.recipe.looking(colours={}))

    def choose_part(self, part: str, level: str | None) -> None:
        """Open the picker for the colour of a level."""
        if part == "swatch" and level in self.colours:
            self.colours[level].pick()

    def begin(self) -> None:
        """Take the keys at the first picture."""
        self.looks["house"].setFocus()

    # Looks by name

    def _list_saved(self) -> None:
        names = ["", *look_names()]
        shown = [self.saved.itemText(row) for row in range(self.saved.count())]
        if shown != names:
            self.saved.clear()
            self.saved.addItems(names)
        self._offer()

    def _take_saved(self, row: int) -> None:
        name = self.saved.itemText(row)
        if not name:
            return
        try:
            dress = saved_look(name)
        except Refusal as refusal:
            self.say(str(refusal))
            return
        self.name.show_value(name)
        self.recipe_asked.emit(f"Look {brief(name)}", dress.on(self.recipe))

    def _offer(self) -> None:
        """Let the buttons say what they would do."""
        name = self.name.text().strip()
        known = bool(name) and self.saved.findText(name) >= 0
        self.save.setText("Replace look" if known else "Save look")
        if self.saved.currentText():
            self._taken_away = None
        self.forget.setText("Bring it back" if self._taken_away else "Take it away")
        self.forget.setEnabled(bool(self.saved.currentText() or self._taken_away))

    def _save(self) -> None:
        self._keep(self.name.text().strip(), dress_of(self.recipe))

    def _keep(self, name: str, dress: Dress) -> None:
        try:
            save_look(name, dress)
        except Refusal as refusal:
            self.name.mark_wrong(True)
            self.say(str(refusal))
            return
        self.say("")
        self._list_saved()
        self.saved.setCurrentText(name)
        self._offer()
        own = self.recipe.look.colours
        self.done.setText(
            f"{quoted(name)} is saved, for this and all other figures."
            f"{' Colours of single groups stay with this one.' if own else ''}"
        )

    def _forget(self) -> None:
        """Take a saved look away, or bring back the one that was taken away last."""
        if self._taken_away:
            self._keep(*self._taken_away)
            return
        name = self.saved.currentText()
        try:
            taken = saved_look(name)
        except Refusal:  # its file is damaged or gone, so there is nothing to bring back
            self._taken_away = None
        else:
            self._taken_away = (name, taken)
        try:
            forget_look(name)
        except Refusal as refusal:
            self._taken_away = None
            self.say(str(refusal))
            return
        self._list_saved()
        self._offer()
        self.done.setText(f"{quoted(name)} is taken away. Figures keep the look they have.")

    def _use_for_new(self) -> None:
        dress = dress_of(self.recipe)
        try:
            use_for_new(None if dress == Dress() else dress)
        except Refusal as refusal:
            self.say(str(refusal))
            return
        self.done.setText("New figures begin with this look.")


def _section(text: str) -> QWidget:
    label = QLabel(text)
    label.setObjectName("strong")
    return label


def _marked(title: str, safe: str | None) -> str:
    return f"{title}\n{safe}" if safe else title
