"""The typeface, and how wide its texts are."""

import os.path
import sys
from functools import lru_cache
from importlib.util import find_spec

from PyQt6.QtGui import QFont, QFontDatabase, QFontMetricsF

from rhabdos.quoting import printable

FAMILY = "Source Sans Pro"
_REFERENCE = 200.0  # a size at which widths are measured, to be scaled down


@lru_cache(maxsize=1)
def load() -> None:
    """Make the typeface known to Qt; needs a QGuiApplication."""
    spec = find_spec(
        "font_source_sans_pro"
    )  # only its files are wanted: to import it looks for all of them
    folder = os.path.dirname(spec.origin) if spec and spec.origin else ""
    for weight in ("Regular", "Semibold"):
        if QFontDatabase.addApplicationFont(f"{folder}/files/SourceSansPro-{weight}.ttf") < 0:
            print(
                f"rhabdos: note: Source Sans {weight} could not be loaded; another typeface "
                "stands in.",
                file=sys.stderr,
            )


@lru_cache(maxsize=256)
def font(size: float, bold: bool, device_dpi: float) -> QFont:
    """A font that is ``size`` units high on a painter whose device has this resolution; digits of
    equal width."""
    dressed = QFont(FAMILY)
    dressed.setPointSizeF(size * 72.0 / device_dpi)
    dressed.setWeight(QFont.Weight.DemiBold if bold else QFont.Weight.Normal)
    dressed.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    dressed.setFeature(QFont.Tag(b"tnum"), 1)
    return dressed


@lru_cache(maxsize=2)
def _metrics(bold: bool) -> QFontMetricsF:
    load()
    reference = QFont(font(_REFERENCE, bold, 72.0))
    reference.setPixelSize(int(_REFERENCE))
    return QFontMetricsF(reference)


@lru_cache(maxsize=4096)
def measure(text: str, size: float, bold: bool) -> float:
    """Width of a text, in the unit of ``size``, with visible signs for characters that have
    none."""
    return _metrics(bold).horizontalAdvance(printable(text)) * size / _REFERENCE
