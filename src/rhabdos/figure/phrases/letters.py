"""The size of words that belong to another phrase, such as the numbers of an axis."""

from rhabdos.figure.phrases.phrase import Setting, number, or_usual
from rhabdos.figure.readings.readings import Readings
from rhabdos.wording import exact

_read = number("The size of letters", 3, 72)


def size_of(words: str, label: str) -> Setting:
    """The field for the size of words of one kind, in points."""

    def shown(readings: Readings) -> str:
        """The size that is asked for."""
        size: float | None = getattr(readings.recipe.words, f"{words}_style").size
        return "" if size is None else exact(size)

    return Setting(
        f"words.{words}_style.size",
        label,
        "typed",
        f"{label} {{}} points",
        shown=shown,
        placeholder=lambda _readings: "as usual",
        read=or_usual(None, lambda text, readings: _read(text.removesuffix("pt"), readings)),
        tip="In points. Their weight, slant and colour are set in the panel of words.",
    )
