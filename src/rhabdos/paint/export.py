"""Figures as files: PNG, SVG and PDF, from the scene that is on the screen."""

from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path

import numpy as np
from PyQt6.QtGui import QColor, QImage

from rhabdos import __version__
from rhabdos.data.reporting import Report, silent
from rhabdos.errors import Refusal
from rhabdos.paint import fonts
from rhabdos.paint.names import PNG_KEY
from rhabdos.paint.painter import paint, painter_on
from rhabdos.paint.pdf import pdf
from rhabdos.paint.png import INCH_IN_METRES, PngFile
from rhabdos.paint.svg import svg
from rhabdos.project.export_choice import Lettering
from rhabdos.project.files import write_whole
from rhabdos.quoting import file_named, printable
from rhabdos.scene.marks import Scene

FORMATS = ("png", "svg", "pdf")
LEAST_DPI, MOST_DPI = 30, 2400
_MOST_PIXELS = 250_000_000  # more is more than most programs open
_BAND_PIXELS = 4_000_000  # painted at a time: a poster is never in memory as a whole


class ExportError(Refusal):
    """A figure cannot be written as asked."""


def format_of(path: str | Path) -> str:
    """The format that a file's ending asks for."""
    ending = Path(path).suffix.lower().removeprefix(".")
    if ending not in FORMATS:
        named = file_named(Path(path).name or path)
        raise ExportError(f"{named} must end in .png, .svg or .pdf, which tells the format.")
    return ending


def write_figure(
    scene: Scene,
    path: str | Path,
    dpi: float = 300,
    transparent: bool = False,
    report: Report = silent,
    letters: Lettering = "text",
    recipe: str | None = None,
) -> None:
    """Write a scene to a file; the format follows its ending.

    Parameters
    ----------
    letters : {"text", "embedded", "outlines"}
        How an SVG holds words.
    recipe : str, optional
        To be kept in the file, which can then be opened as a figure again.
    report : callable
        Told how much of a large picture is painted; whoever gives one is off the interface thread.

    Raises
    ------
    ExportError
        The ending is no format, or the picture would be too large.
    Refusal
        The file cannot be written.
    Cancelled
        From ``report``; nothing is written.
    """
    match format_of(path):
        case "png":
            drawn = png(scene, dpi, transparent, report, recipe)
        case "svg":
            drawn = svg(scene, transparent, letters, recipe)
        case _:
            drawn = pdf(scene, transparent, recipe)
    report(f"Writing {file_named(Path(path).name or path)}", None)
    write_whole(path, drawn)


def check_pixels(width: float, height: float, dpi: float) -> None:
    """Refuse a picture of so many points that would have more than 250 million pixels."""
    across, down = round(width * dpi / 72), round(height * dpi / 72)
    if across * down > _MOST_PIXELS:
        raise ExportError(
            f"A picture of {across:,} x {down:,} pixels is too large: at most {_MOST_PIXELS:,} "
            "are painted. "
            "Choose a smaller size or resolution, or SVG or PDF."
        )


def image(scene: Scene, dpi: float) -> QImage:
    """A scene as pixels on its paper."""
    width, height = _pixels(scene, dpi)
    pixels = _painted(scene, width, height, 0, height, QImage.Format.Format_RGB32)
    pixels.setDotsPerMeterX(round(dpi / INCH_IN_METRES))
    pixels.setDotsPerMeterY(round(dpi / INCH_IN_METRES))
    return pixels


def png(
    scene: Scene,
    dpi: float,
    transparent: bool = False,
    report: Report = silent,
    recipe: str | None = None,
) -> bytes:
    """A scene as PNG, with its resolution, its description and perhaps its recipe.

    It is painted band by band, and each band is packed while the next one is painted.
    """
    width, height = _pixels(scene, dpi)
    texts = {"Title": printable(scene.name)}
    texts |= {"Description": printable(scene.describe()), "Software": f"Rhabdos {__version__}"}
    if recipe is not None:
        texts[PNG_KEY] = recipe
    file = PngFile(width, height, 4 if transparent else 3, dpi, texts, packed=(PNG_KEY,))
    canvas = QImage.Format.Format_RGB888
    if transparent:
        canvas = QImage.Format.Format_ARGB32_Premultiplied
    rows = max(1, _BAND_PIXELS // width)
    # zlib lets Qt go on: a band is packed while the next one is painted.
    with ThreadPoolExecutor(1) as packing:
        packed: Future[None] | None = None
        for top in range(0, height, rows):
            report("Painting", top / height)
            band = _painted(scene, width, height, top, min(rows, height - top), canvas)
            if packed:
                packed.result()
            packed = packing.submit(_pack, file, band)
        if packed:
            packed.result()
    return file.done()


def _pixels(scene: Scene, dpi: float) -> tuple[int, int]:
    """The width and height of a scene in pixels."""
    if not LEAST_DPI <= dpi <= MOST_DPI:
        raise ExportError(
            f"The resolution must be from {LEAST_DPI} to {MOST_DPI} dots per inch, not {dpi:g}."
        )
    check_pixels(*scene.points, dpi)
    width, height = (round(side * dpi / 72) for side in scene.points)
    return width, height


def _painted(
    scene: Scene, width: int, height: int, top: int, rows: int, canvas: QImage.Format
) -> QImage:
    """Some rows of a scene that is so many pixels large as a whole; transparent on a canvas that
    can be seen through."""
    fonts.load()
    band = QImage(width, rows, canvas)
    if band.isNull():
        raise ExportError(
            f"There is not enough memory for {width:,} x {rows:,} pixels. Choose a smaller size."
        )
    band.fill(QColor(0, 0, 0, 0) if band.hasAlphaChannel() else QColor(scene.paper))
    with painter_on(band) as painter:
        painter.translate(0, -top)
        painter.scale(width / scene.width, height / scene.height)
        paint(scene, painter, paper=not band.hasAlphaChannel())
    return band


def _pack(file: PngFile, band: QImage) -> None:
    """Add a band of pixels to a file."""
    channels = 3
    if band.hasAlphaChannel():
        band, channels = band.convertToFormat(QImage.Format.Format_RGBA8888), 4
    bits = band.constBits()
    assert bits is not None
    bits.setsize(band.sizeInBytes())
    pixels = np.frombuffer(bits, np.uint8)  # type: ignore[call-overload]
    rows = pixels.reshape(band.height(), band.bytesPerLine())
    file.add(rows[:, : band.width() * channels])
