"""The files of the usual typeface, and how wide its texts are, without Qt."""

import io
from functools import lru_cache
from importlib.util import find_spec
from typing import TYPE_CHECKING

from rhabdos.quoting import printable

if TYPE_CHECKING:
    import uharfbuzz

FAMILY = "Source Sans Pro"


def _folder() -> str:
    # Only its files are wanted: to import it looks for all of them.
    spec = find_spec("font_source_sans_pro")
    folders = list(spec.submodule_search_locations or ()) if spec else []
    return f"{folders[0]}/files" if folders else ""


def file_of(weight: str) -> str:
    """The file of a weight, such as "Semibold" or "It"."""
    return f"{_folder()}/SourceSansPro-{weight}.ttf"


def weight_of(bold: bool, slant: bool) -> str:
    """What the typeface calls a face."""
    return ("SemiboldIt" if bold else "It") if slant else ("Semibold" if bold else "Regular")


def subset(letters: str, bold: bool, slant: bool) -> bytes:
    """A face of the usual family with no other letters than these, to be kept in a file."""
    from fontTools import subset as subsetting

    options = subsetting.Options(recalc_timestamp=False, layout_features=["kern", "tnum"])
    face = subsetting.load_font(file_of(weight_of(bold, slant)), options)
    subsetter = subsetting.Subsetter(options)
    subsetter.populate(text=letters)
    subsetter.subset(face)
    written = io.BytesIO()
    subsetting.save_font(face, written, options)
    face.close()
    return written.getvalue()


@lru_cache(maxsize=4096)  # layout measures the same words again and again
def measure(text: str, size: float, face: int = 0) -> float:
    """Width of a text, in the unit of ``size``, shaped as Qt shapes it: with kerning, and digits of
    equal width, without ligatures."""
    import uharfbuzz

    font = _font(bool(face & 1), bool(face & 2))
    line = uharfbuzz.Buffer()
    line.add_str(printable(text))
    line.guess_segment_properties()
    uharfbuzz.shape(font, line, {"tnum": True, "liga": False})
    advances = sum(place.x_advance for place in line.glyph_positions or ())
    return float(advances * size / font.face.upem)


@lru_cache(maxsize=4)  # reading a font takes longer than shaping a page
def _font(bold: bool, slant: bool) -> "uharfbuzz.Font":
    import uharfbuzz

    content = uharfbuzz.Blob.from_file_path(file_of(weight_of(bold, slant)))
    return uharfbuzz.Font(uharfbuzz.Face(content))
