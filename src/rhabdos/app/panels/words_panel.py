"""The panel of words: what they are, and how each of them is set."""

from functools import partial

from PyQt6.QtWidgets import QCheckBox, QPushButton

from rhabdos.app.controls.colour_field import ColourField
from rhabdos.app.controls.typed_fields import Field, chooser, labelled, quiet
from rhabdos.app.panels.settings_panel import SettingsPanel
from rhabdos.errors import Refusal
from rhabdos.figure.edits.placed_texts import (
    pointed_text,
    put_at_height,
    put_at_value,
    shown_height,
    shown_value,
)
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import number
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_words import BoxedStyle, FigureText, LetterStyle, TextStyle
from rhabdos.quoting import shortened_to
from rhabdos.scene.style.look import style_of
from rhabdos.scene.style.style import WordsKind
from rhabdos.wording import exact, in_running_text

_CALLED: dict[WordsKind, tuple[str, str]] = {
    "title": ("Title", "title"),
    "subtitle": ("Subtitle", "subtitle"),
    "value_axis": ("Value axis", "value-title"),
    "height_axis": ("Height axis", "height-title"),
    "note": ("Note below", "own-note"),
    "numbers": ("Numbers on the axes", ""),
    "levels": ("Names of levels", ""),
    "legend_title": ("Title of the levels", "legend-title"),
    "panels": ("Names of panels", ""),
}
"""What words are called, and the part of the figure by which they are chosen."""
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
        self.size_.entered.connect(partial(self._enter_points, "size", 3, 72))
        self.bold = QCheckBox("Bold")
        self.bold.clicked.connect(partial(self._ask_style, "bold"))
        self.slant = QCheckBox("Slanting")
        self.slant.clicked.connect(partial(self._ask_style, "slant"))
        self.colour = ColourField("Colour")
        self.colour.picked.connect(lambda colour: self._ask_style("colour", colour or None))
        self.colour.wrong.connect(self.say)
        self.around = {"ground": ColourField("Ground"), "border": ColourField("Border")}
        for key, around in self.around.items():
            around.picked.connect(lambda colour, key=key: self._ask_style(key, colour or None))
            around.wrong.connect(self.say)
        self.padding = Field("Room around the letters")
        self.padding.entered.connect(partial(self._enter_points, "padding", 0, 30))
        self.stands = {
            "at": Field("Where the text stands", "such as 70"),
            "high": Field("How high it stands", "such as 85 %"),
            "to": Field("Where an arrow from it points to", "no arrow"),
            "to_high": Field("How high the arrow points", "such as 40 %"),
        }
        for key, field in self.stands.items():
            field.entered.connect(partial(self._put, key))
        self.arrow = QPushButton("Without its arrow")
        self.arrow.clicked.connect(self._without_arrow)
        self.write = QPushButton("Write in the figure")
        rows = [
            ("Letters of", self.which),
            ("Place", self.place),
            ("Size", self.size_),
            ("", self.bold),
            ("", self.slant),
            ("Colour", self.colour),
            ("Ground", self.around["ground"]),
            ("Border", self.around["border"]),
            ("Padding", self.padding),
            ("Stands at", self.stands["at"]),
            ("Height", self.stands["high"]),
            ("Arrow to", self.stands["to"]),
            ("Its height", self.stands["to_high"]),
        ]
        self._form = labelled(rows)
        self.insert_form(self._form)
        self.column.insertWidget(self.column.count() - 1, self.arrow)
        self.column.insertWidget(self.column.count() - 1, self.write)
        self.notation = quiet()
        self.column.insertWidget(self.column.count() - 1, self.notation)

    def show_readings(self, readings: Readings) -> None:
        """Show the words of a figure, and how they are set."""
        super().show_readings(readings)
        kinds = [kind for kind in _CALLED if _in_figure(kind, readings)]
        texts = [f"“{shortened_to(18, text.text)}”" for text in readings.recipe.text]
        names = [_CALLED[kind][0] for kind in kinds] + texts
        present = [self.which.itemText(row) for row in range(self.which.count())]
        if present != names:
            chosen = self._chosen
            self.which.clear()
            for name, which in zip(names, [*kinds, *range(len(texts))], strict=True):
                self.which.addItem(name, which)
            self.which.setCurrentIndex(max(0, self.which.findData(chosen)))
        self._show_style()
        self.notation.setText(_notation(readings))

    def choose_part(self, part: str, level: str | None) -> None:
        """Show how the words are set that were clicked."""
        part = "legend-title" if part == "factor" else part  # which are set alike
        which: str | int | None = next((k for k, (_, p) in _CALLED.items() if p == part), None)
        if part == "text" and level is not None:
            which = int(level)
        row = -1 if which is None else self.which.findData(which)
        if row >= 0:
            self.which.setCurrentIndex(row)
            self._show_style()

    @property
    def _chosen(self) -> WordsKind | int:
        """The words that are set: a kind, or the number of a text in the figure."""
        chosen: WordsKind | int | None = self.which.currentData()
        return "title" if chosen is None else chosen

    @property
    def _style(self) -> LetterStyle:
        chosen = self._chosen
        if isinstance(chosen, int):
            return self.recipe.text[chosen].style
        style: LetterStyle = getattr(self.recipe.words, f"{chosen}_style")
        return style

    def _show_style(self) -> None:
        style, chosen, look = self._style, self._chosen, style_of(self.recipe)
        usual = look.face("text" if isinstance(chosen, int) else chosen, LetterStyle())
        places = [place for _, place in _PLACES]
        self.place.setEnabled(isinstance(style, TextStyle))
        self.place.setCurrentIndex(places.index(style.place) if isinstance(style, TextStyle) else 0)
        self.size_.show_value("" if style.size is None else exact(style.size))
        self.size_.setPlaceholderText(f"{exact(round(usual.size * look.letters, 1))} points")
        self.bold.setChecked(usual.bold if style.bold is None else style.bold)
        self.slant.setChecked(style.slant)
        self._show_place(self.recipe.text[chosen] if isinstance(chosen, int) else None)
        self.colour.show_colour(style.colour or usual.colour, style.colour is not None)
        self._show_around(style)

    def _show_around(self, style: LetterStyle) -> None:
        """The ground and the border of words that may have some."""
        boxed = style if isinstance(style, BoxedStyle) else None
        look = style_of(self.recipe)
        for field in (*self.around.values(), self.padding):
            self._form.setRowVisible(field, boxed is not None)
        if boxed is None:
            return
        self.around["ground"].show_colour(boxed.ground or look.paper, boxed.ground is not None)
        self.around["border"].show_colour(boxed.border or look.paper, boxed.border is not None)
        self.padding.show_value("" if boxed.padding is None else f"{exact(boxed.padding)} pt")
        self.padding.setPlaceholderText("3 pt where there is a ground or a border")

    def _show_place(self, text: FigureText | None) -> None:
        """Where a text in the figure stands, and where an arrow from it points to."""
        for field in self.stands.values():
            self._form.setRowVisible(field, text is not None)
        arrow = text.arrow if text is not None else None
        self.arrow.setVisible(arrow is not None)
        self.stands["to_high"].setEnabled(arrow is not None)
        if text is None or self.readings is None:
            return
        self.stands["at"].show_value(shown_value(self.readings, text, text.panel))
        self.stands["high"].show_value(shown_height(text))
        to = shown_value(self.readings, arrow, text.panel) if arrow else ""
        self.stands["to"].show_value(to)
        self.stands["to_high"].show_value(shown_height(arrow) if arrow else "")

    def _put(self, key: str, typed: str) -> None:
        """Put a text, or the tip of its arrow, where a field says."""
        readings, chosen = self.readings, self._chosen
        if readings is None or not isinstance(chosen, int):
            return
        if key == "to" and not typed:
            self._without_arrow()
            return
        put = put_at_height if key in ("high", "to_high") else put_at_value
        try:
            wanted = put(readings, chosen, typed, key in ("to", "to_high"))
        except Refusal as refusal:
            self.stands[key].mark_wrong(True)
            self.say(str(refusal))
            return
        self.say("")
        self.recipe_asked.emit("Point to" if key in ("to", "to_high") else "Move text", wanted)

    def _without_arrow(self) -> None:
        chosen = self._chosen
        if isinstance(chosen, int) and self.readings is not None:
            self.recipe_asked.emit("Without the arrow", pointed_text(self.readings, chosen, None))

    def _enter_points(self, key: str, least: float, most: float, text: str) -> None:
        assert self.readings
        field, what = (self.size_, "The size") if key == "size" else (self.padding, "The padding")
        points: object = None
        try:
            if text:
                bare = text.removesuffix("points").removesuffix("pt").strip()
                points = number(what, least, most)(bare, self.readings)
        except Refusal as refusal:
            self.say(str(refusal))
            field.mark_wrong(True)
            return
        self._ask_style(key, points)

    def _ask_style(self, key: str, value: object) -> None:
        changed = self._style.changed(**{key: value})
        name = self.which.currentText()
        self.say("")
        self.recipe_asked.emit(
            f"Set {in_running_text(name)}", _with_style(self.recipe, self._chosen, changed)
        )


def _in_figure(kind: WordsKind, readings: Readings) -> bool:
    """Whether a figure has such words, or could have them."""
    plan = readings.plan
    if kind in ("levels", "legend_title"):
        return plan.coloured is not None or plan.laned is not None
    if kind == "panels":
        return len(plan.panels) > 1
    return kind != "height_axis" or bool(plan.heights)


def _with_style(recipe: Recipe, chosen: WordsKind | int, style: LetterStyle) -> Recipe:
    if not isinstance(chosen, int):
        return recipe.worded(**{f"{chosen}_style": style})
    texts = list(recipe.text)
    texts[chosen] = texts[chosen].changed(style=style)
    return recipe.changed(text=tuple(texts))


def _notation(readings: Readings) -> str:
    """How words are marked up, with a number of a group where this figure has groups."""
    levels = readings.plan.coloured.levels if readings.plan.coloured else ()
    groups = [level.label for level in levels if not set(level.label) & set("{}")]
    numbers = ["{n}", "{mean}", "{median}", *(f"{{mean of {group}}}" for group in groups[:1])]
    return (
        "In any of them: {up 2} stands above the line, {down 2} below it; {slant word}; "
        f"{{bold word}}; {{mu}} is a Greek letter; {', '.join(numbers)} "
        "are numbers of the data. A text in the figure is dragged where it shall stand, "
        "and with Shift to where an arrow from it shall point."
    )
