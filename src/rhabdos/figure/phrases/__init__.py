"""The phrases of the sentence, in its order: one line each.

A phrase is one declaration in one of the files beside this one.
"""

from collections.abc import Mapping

from rhabdos.figure.phrases.axes import HEIGHT_AXIS, VALUE_AXIS
from rhabdos.figure.phrases.bins import BARS, BINS
from rhabdos.figure.phrases.box import BOX
from rhabdos.figure.phrases.compare import COMPARE
from rhabdos.figure.phrases.curve import CURVE
from rhabdos.figure.phrases.grouping import ARRANGE, SPLIT
from rhabdos.figure.phrases.heights import HEIGHTS
from rhabdos.figure.phrases.legend import LEGEND
from rhabdos.figure.phrases.look import LOOK
from rhabdos.figure.phrases.page import PAGE
from rhabdos.figure.phrases.pairs import PAIRS
from rhabdos.figure.phrases.panels import PANELS
from rhabdos.figure.phrases.phrase import Key, Phrase
from rhabdos.figure.phrases.points import POINTS
from rhabdos.figure.phrases.shown import FORMS_PHRASE, ROWS, VARIABLE, WAY
from rhabdos.figure.phrases.sway import SWAY
from rhabdos.figure.phrases.words import LINES, WORDS

PHRASES: Mapping[Key, Phrase] = {
    phrase.key: phrase
    for phrase in (
        VARIABLE,
        ROWS,
        SPLIT,
        ARRANGE,
        PANELS,
        FORMS_PHRASE,
        WAY,
        HEIGHTS,
        BINS,
        BARS,
        CURVE,
        BOX,
        POINTS,
        PAIRS,
        SWAY,
        COMPARE,
        LINES,
        VALUE_AXIS,
        HEIGHT_AXIS,
        LEGEND,
        PAGE,
        LOOK,
        WORDS,
    )
}


def phrase_of(part: str) -> Key:
    """The phrase that governs a part of the figure."""
    return next(phrase.key for phrase in PHRASES.values() if part in phrase.parts)
