"""The phrase of the page: how large the figure is on paper."""

from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import Phrase, Said, Setting, always
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import COMMON, Size


def _read_size(text: str, _readings: Readings) -> object:
    """A width and a height with their unit; nothing for the usual size."""
    if not text:
        return None
    try:
        size = Size.parse(text)
        size.points()
    except ValueError as error:
        words = str(error)
        raise Refusal(f"{words[0].upper()}{words[1:]}.") from error
    return str(size)


def _common(readings: Readings) -> list[tuple[str, object]]:
    sizes: list[tuple[str, object]] = [("as usual", None)]
    sizes += [(f"{name}, {size}", str(size)) for name, size in COMMON.items()]
    present = readings.recipe.page.size
    if present is not None and present not in [value for _, value in sizes]:
        sizes.append((f"its own, {present}", present))
    return sizes


PAGE = Phrase(
    "page",
    "Size",
    "Ctrl+Alt+S",
    lambda _readings: Said("", "Size"),
    clause=True,
    matters=lambda _readings: False,
    settings=(
        Setting("page.size", "Common", "choice", "Figure size {}", choices=_common),
        Setting(
            "page.size",
            "Width × height",
            "typed",
            "Figure size {}",
            shown=lambda readings: readings.recipe.page.size or "",
            placeholder=lambda _readings: "16 × 10 cm",
            read=_read_size,
        ),
    ),
    hint="In cm, mm, in or px. Letters keep their size in points whatever the page: what is on the "
    "screen is what comes out.",
    besides=always,
)
