"""The typeface, and how wide its texts are."""

import sys
import unicodedata
from functools import lru_cache

from PyQt6.QtGui import QFont, QFontDatabase, QFontMetricsF, QPainterPath, QTextLayout

from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.words.notice import LACKS, Notice
from rhabdos.paint.typeface import FAMILY, file_of
from rhabdos.quoting import printable, quoted
from rhabdos.scene.marks import Scene, Text
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.style.look import style_of

_LATIN = 0x24F  # up to where the usual family has all letters
_JOINING = ("Cf", "Mn", "Me", "Zs")  # which only change or part their neighbours
_MOST_LETTERS = 5  # that a notice names
_REFERENCE = 200.0  # a size at which widths are measured, to be scaled down


@lru_cache(maxsize=1)  # Qt would take the same file in again
def load() -> None:
    """Make the typeface known to Qt; needs a QGuiApplication."""
    # The italics too, which few figures need: what is written before would slant otherwise.
    for face in ("Regular", "Semibold", "It", "SemiboldIt"):
        if QFontDatabase.addApplicationFont(file_of(face)) < 0:
            print(
                f"rhabdos: note: Source Sans {face} could not be loaded; another typeface "
                "stands in.",
                file=sys.stderr,
            )


@lru_cache(maxsize=256)  # making a QFont takes as long as painting a word
def font(size: float, bold: bool, slant: bool = False, family: str = "") -> QFont:
    """A font of so many pixels, which Qt has whole ones of; digits of equal width.

    It has no ligatures: a PDF knows letters by their shapes, and one shape of two letters is
    copied, searched and read aloud as none of them.
    """
    dressed = QFont(family or FAMILY)
    dressed.setPixelSize(max(1, round(size)))
    dressed.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    dressed.setItalic(slant)
    dressed.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    dressed.setFeature(QFont.Tag(b"tnum"), 1)
    dressed.setFeature(QFont.Tag(b"liga"), 0)
    return dressed


@lru_cache(maxsize=32)  # a face is asked at every word
def _metrics(face: int, family: str = "") -> QFontMetricsF:
    load()
    bold, slant = bool(face & 1), bool(face & 2)
    return QFontMetricsF(font(_REFERENCE, bold, slant, family))


@lru_cache(maxsize=4096)  # layout measures the same words at every step of a hand
def measure(text: str, size: float, face: int = 0) -> float:
    """Width of a text, in the unit of ``size``, with visible signs for characters that have
    none."""
    return _metrics(int(face)).horizontalAdvance(printable(text)) * size / _REFERENCE


@lru_cache(maxsize=8)  # so that memories by what measures find it the same
def measure_in(family: str) -> Measure:
    """The same of another family of letters; nothing means the usual one."""
    if not family:
        return measure

    @lru_cache(maxsize=4096)
    def measured(text: str, size: float, face: int = 0) -> float:
        """Width of a text in that family."""
        return _metrics(int(face), family).horizontalAdvance(printable(text)) * size / _REFERENCE

    return measured


def measure_for(recipe: Recipe) -> Measure:
    """How wide texts of a figure are."""
    return measure_in(style_of(recipe).font)


def installed(family: str) -> bool:
    """Whether letters of a family are installed here."""
    load()
    return family in QFontDatabase.families()


def letters_notice(scene: Scene) -> Notice | None:
    """That words of a figure have letters that no font here has."""
    texts = (mark.text for mark in scene.marks if isinstance(mark, Text))
    letters = dict.fromkeys(letter for text in texts if not text.isascii() for letter in text)
    lacking = [letter for letter in letters if ord(letter) > _LATIN and _lacks(letter, scene.font)]
    if not lacking:
        return None
    shown, rest = lacking[:_MOST_LETTERS], len(lacking) - _MOST_LETTERS
    named = ", ".join(shown[:-1]) + (" and " if shown[1:] else "") + shown[-1]
    if rest > 0:
        named = f"{', '.join(shown)} and {rest:,} more"
    return Notice(
        "letters-missing",
        f"No font here has {named}: boxes or gaps are drawn instead, other than in an SVG. Install "
        "a font that has them.",
        weight=LACKS,
    )


@lru_cache(maxsize=4096)  # Qt looks through all fonts of the desktop
def _lacks(letter: str, family: str) -> bool:
    """Whether neither a family nor any font that stands in for it has a letter."""
    if unicodedata.category(letter) in _JOINING:
        return False
    load()
    face = font(_REFERENCE, False, family=family)
    layout = QTextLayout(printable(letter), face)
    layout.beginLayout()
    layout.createLine()
    layout.endLayout()
    return any(0 in run.glyphIndexes() for run in layout.glyphRuns()) or _boxed(letter, face)


def _boxed(letter: str, face: QFont) -> bool:
    """Whether Qt found no font that can shape the script of a letter: its outline is then a square
    that begins as high as the font, and on pixels a frame or nothing."""
    outline = QPainterPath()
    outline.addText(0, 0, face, printable(letter))
    square = outline.boundingRect()
    whole = square.top() == -face.pixelSize() and square.width() == square.height()
    return whole and outline.elementCount() == 5  # its corners, and the first one again


def font_notice(recipe: Recipe) -> Notice | None:
    """That the font a figure asks for is not installed here."""
    family = style_of(recipe).font
    if not family or installed(family):
        return None
    return Notice(
        "font-missing",
        f"The font {quoted(family)} is not installed here, so another one stands in. Install it, "
        "or choose another.",
        recipe.looking(font=None),
        "use the usual font",
        LACKS,
    )
