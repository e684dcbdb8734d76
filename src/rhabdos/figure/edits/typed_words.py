"""Words of the figure that are typed where they stand: what they say now, and what typing makes."""

from collections.abc import Callable

from msgspec import Struct

from rhabdos.figure.readings.axis_limits import range_ends
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.markup import as_written
from rhabdos.figure.words.naming import default_value_title, shown_words, usual_height_title
from rhabdos.quoting import brief

_WORDS = {
    "title": "title",
    "subtitle": "subtitle",
    "own-note": "note",
    "value-title": "value_axis",
    "height-title": "height_axis",
}
_STEPS = {
    "title": "Change title",
    "subtitle": "Change subtitle",
    "note": "Change note",
    "value_axis": "Change value axis title",
    "height_axis": "Change height axis title",
}
PARTS = (*_WORDS, "legend-title", "factor", "text", "range")
"""Parts of the figure that are words, typed by a click on them."""


class TypedWords(Struct, frozen=True):
    """Words that can be typed: what is written now, what the step is called, and what comes of
    another text."""

    present: str
    step: str
    changed: Callable[[str], Recipe]


def words_at(readings: Readings, part: str, level: str | None) -> TypedWords | None:
    """The words that a part of the figure is; of a level, what it is called in the figure."""
    recipe = readings.recipe
    if part in _WORDS:
        return _of_figure(readings, _WORDS[part])
    if part == "legend-title":
        coloured = readings.plan.coloured
        present = recipe.legend.title
        if present is None:
            present = as_written(coloured.label) if coloured else ""
        return TypedWords(
            present,
            "Change legend title",
            lambda text: recipe.changed(legend=recipe.legend.changed(title=text)),
        )
    if part == "text" and level is not None:
        return _placed(recipe, int(level))
    if part == "range" and level is not None:
        return _of_range(readings, int(level))
    return _name(readings, level) if level is not None else None


def _of_figure(readings: Readings, key: str) -> TypedWords:
    recipe = readings.recipe
    present = getattr(recipe.words, key)
    titles = {"value_axis": default_value_title, "height_axis": usual_height_title}
    usual = as_written(titles[key](readings)) if key in titles else ""
    if present is None:
        present = usual

    def changed(text: str) -> Recipe:
        """The figure with another text; as usual where it is what it would be anyway."""
        return recipe.worded(**{key: None if text == usual else text})

    return TypedWords(present, _STEPS[key], changed)


def _placed(recipe: Recipe, number: int) -> TypedWords | None:
    """A text that was placed in the figure; without letters it is taken away."""
    if number >= len(recipe.text):
        return None
    text = recipe.text[number]

    def changed(words: str) -> Recipe:
        """The figure with other words there."""
        others = list(recipe.text)
        others[number : number + 1] = [text.changed(text=words)] if words else []
        return recipe.changed(text=tuple(others))

    return TypedWords(text.text, "Change text", changed)


def _of_range(readings: Readings, number: int) -> TypedWords | None:
    """The words of a range; typed away, there are none."""
    from rhabdos.figure.edits.ranges import range_called, range_told  # which no start needs

    recipe = readings.recipe
    if number >= len(recipe.range):
        return None
    variable = readings.variable_in(recipe.range[number].panel)
    usual = range_told(variable, *range_ends(readings, number))
    words = recipe.range[number].words
    return TypedWords(
        usual if words is None else words,
        "Words at a range",
        lambda text: range_called(recipe, number, None if text == usual else text),
    )


def _name(readings: Readings, name: str) -> TypedWords:
    recipe = readings.recipe

    def changed(text: str) -> Recipe:
        """The figure in which the level is called so."""
        names = {key: shown for key, shown in recipe.words.names.items() if key != name}
        if text and text != as_written(name):
            names[name] = text
        return recipe.worded(names=names)

    return TypedWords(shown_words(readings, name), f"Call {brief(name)} otherwise", changed)
