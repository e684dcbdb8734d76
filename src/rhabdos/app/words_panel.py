"""The panel of words: what they are, and how each of them is set."""

from functools import partial

from PyQt6.QtWidgets import QCheckBox, QPushButton

from rhabdos.app.colour_field import ColourField
from rhabdos.app.fields import Field, chooser, labelled, quiet
from rhabdos.app.settings_panel import SettingsPanel
from rhabdos.errors import Refusal
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import number
from rhabdos.figure.readings import Readings
from rhabdos.figure.recipe import Recipe
from rhabdos.figure.recipe_words import TextStyle
from rhabdos.figure.typed_words import pointed_text
from rhabdos.quoting import shortened_to
from rhabdos.scene.look import style_of
from rhabdos.scene.page import usual_faces
from rhabdos.wording import exact

_KINDS = (
    ("Title", "title_style"),
    ("Subtitle", "subtitle_style"),
    ("Value axis", "value_axis_style"),
    ("Height axis", "height_axis_style"),
    ("Note below", "note_style"),
)
_PLACES = (("as usual", None), ("left", "left"), ("middle", "middle"), ("right", "right"))


class WordsPanel(SettingsPanel):
    """A field for each text; and for the chosen one its place, size, weight, slant and colour."""

    def __init__(self) -> None:
        super().__init__(PHRASES["words"])
        self.which = chooser("Which words are set")
        self.which.activated.connect(lambda _row: self._show_style())
        self.place = chooser("Place")
        self.place.addItems([words for words, _ in _PLACES])
        self.place.activated.connect(lambda row: self._ask_style("place", _PLACES[row][1]))
        self.size_ = Field("Size in points")
        self.size_.entered.connect(self._enter_size)
        self.bold = QCheckBox("Bold")
        self.bold.clicked.connect(partial(self._ask_style, "bold"))
        self.slant = QCheckBox("Slanting")
        self.slant.clicked.connect(partial(self._ask_style, "slant"))
        self.colour = ColourField("Colour")
        self.colour.picked.connect(lambda colour: self._ask_style("colour", colour or None))
        self.colour.wrong.connect(self.say)
        self.arrow = QPushButton("Without its arrow")
        self.arrow.clicked.connect(self._without_arrow)
        self.write = QPushButton("Write in the figure")
        rows = [
            ("How", self.which),
            ("Place", self.place),
            ("Size", self.size_),
            ("", self.bold),
            ("", self.slant),
            ("Colour", self.colour),
        ]
        self.insert_form(labelled(rows))
        self.column.insertWidget(self.column.count() - 1, self.arrow)
        self.column.insertWidget(self.column.count() - 1, self.write)
        self.column.insertWidget(
            self.column.count() - 1,
            quiet(
                "In any of them: {up 2} stands above the line, {down 2} below it; {slant word}; "
                "{bold word}; {mu} is a Greek letter; {n}, {mean}, {median}, {mean of Saltmere} "
                "are numbers of the data. A text in the figure is dragged where it shall stand, "
                "and with Shift to where an arrow from it shall point."
            ),
        )

    def show_readings(self, readings: Readings) -> None:
        """Show the words of a figure, and how they are set."""
        super().show_readings(readings)
        texts = [f"“{shortened_to(18, text.text)}”" for text in readings.recipe.text]
        names = [words for words, _ in _KINDS] + texts
        present = [self.which.itemText(row) for row in range(self.which.count())]
        if present != names:
            row = max(0, self.which.currentIndex())
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(min(row, len(names) - 1))
        self._show_style()

    def choose_part(self, part: str, level: str | None) -> None:
        """Show how the words are set that were clicked."""
        keys = {"title": 0, "subtitle": 1, "value-title": 2, "height-title": 3, "own-note": 4}
        row = keys.get(part)
        if part == "text" and level is not None:
            row = len(_KINDS) + int(level)
        if row is not None and row < self.which.count():
            self.which.setCurrentIndex(row)
            self._show_style()

    @property
    def _style(self) -> TextStyle:
        row = max(0, self.which.currentIndex())
        if row < len(_KINDS):
            style: TextStyle = getattr(self.recipe.words, _KINDS[row][1])
            return style
        return self.recipe.text[row - len(_KINDS)].style

    def _show_style(self) -> None:
        style = self._style
        row = max(0, self.which.currentIndex())
        size, bold, colour = usual_faces(style_of(self.recipe))[min(row, len(_KINDS))]
        places = [place for _, place in _PLACES]
        self.place.setCurrentIndex(places.index(style.place))
        self.size_.show_value("" if style.size is None else exact(style.size))
        self.size_.setPlaceholderText(f"{exact(size)} points")
        self.bold.setChecked(bold if style.bold is None else style.bold)
        self.slant.setChecked(style.slant)
        texts = self.recipe.text
        place = row - len(_KINDS)
        self.arrow.setVisible(0 <= place < len(texts) and texts[place].arrow is not None)
        self.colour.show_colour(style.colour or colour, style.colour is not None)

    def _without_arrow(self) -> None:
        row = self.which.currentIndex() - len(_KINDS)
        self.asked.emit("Without the arrow", pointed_text(self.recipe, row, None))

    def _enter_size(self, text: str) -> None:
        assert self.readings
        try:
            size = number("The size", 3, 72)(text.removesuffix("pt"), self.readings)
        except Refusal as refusal:
            if text:
                self.say(str(refusal))
                self.size_.mark_wrong(True)
                return
            size = None
        self._ask_style("size", size)

    def _ask_style(self, key: str, value: object) -> None:
        row = max(0, self.which.currentIndex())
        changed = self._style.changed(**{key: value})
        name = self.which.currentText()
        self.say("")
        self.asked.emit(f"Set {name.lower()}", _with_style(self.recipe, row, changed))


def _with_style(recipe: Recipe, row: int, style: TextStyle) -> Recipe:
    if row < len(_KINDS):
        return recipe.worded(**{_KINDS[row][1]: style})
    texts = list(recipe.text)
    texts[row - len(_KINDS)] = texts[row - len(_KINDS)].changed(style=style)
    return recipe.changed(text=tuple(texts))
