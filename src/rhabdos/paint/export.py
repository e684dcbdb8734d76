"""Figures as files: PNG, SVG and PDF, from the scene that is on the screen."""

from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice
from PyQt6.QtGui import QColor, QImage, QImageWriter

from rhabdos import __version__
from rhabdos.data.gathering import Report, silent
from rhabdos.errors import Refusal
from rhabdos.paint import fonts
from rhabdos.paint.names import PNG_KEY
from rhabdos.paint.painter import paint, painter_on
from rhabdos.paint.pdf import pdf
from rhabdos.paint.png_text import with_text
from rhabdos.paint.svg import svg
from rhabdos.project.export_choice import Lettering
from rhabdos.project.files import write_whole
from rhabdos.quoting import file_named, printable
from rhabdos.scene.marks import Scene

FORMATS = ("png", "svg", "pdf")
LEAST_DPI, MOST_DPI = 30, 2400
_MOST_PIXELS = 250_000_000  # a gigabyte while it is painted
_BAND_PIXELS = 8_000_000
_PAINTED = 0.4  # of the time that a large picture takes, what painting does
_INCH_IN_METRES = 0.0254


class ExportError(Refusal):
    """A figure cannot be written as asked."""


def format_of(path: str | Path) -> str:
    """The format that a file's ending asks for."""
    ending = Path(path).suffix.lower().removeprefix(".")
    if ending not in FORMATS:
        raise ExportError(
            f"{file_named(Path(path).name)} must end in .png, .svg or .pdf, which tells the format."
        )
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
    report(f"Writing {file_named(Path(path).name)}", None)
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


def image(scene: Scene, dpi: float, transparent: bool = False, report: Report = silent) -> QImage:
    """A scene as pixels, painted band by band."""
    if not LEAST_DPI <= dpi <= MOST_DPI:
        raise ExportError(
            f"The resolution must be from {LEAST_DPI} to {MOST_DPI} dots per inch, not {dpi:g}."
        )
    scale = dpi / 72
    width, height = (round(side * scale) for side in scene.points)
    check_pixels(*scene.points, dpi)
    fonts.load()
    seen_through = QImage.Format.Format_ARGB32_Premultiplied
    pixels = QImage(width, height, seen_through if transparent else QImage.Format.Format_RGB32)
    if pixels.isNull():
        raise ExportError(
            f"There is not enough memory for {width:,} x {height:,} pixels. Choose a smaller size."
        )
    pixels.fill(QColor(0, 0, 0, 0) if transparent else QColor(scene.paper))
    with painter_on(pixels) as painter:
        for top in range(0, height, band := max(1, _BAND_PIXELS // width)):
            report("Painting", top / height * _PAINTED)
            painter.resetTransform()
            painter.setClipRect(0, top, width, band)
            painter.scale(width / scene.width, height / scene.height)
            paint(scene, painter, paper=not transparent)
    pixels.setDotsPerMeterX(round(dpi / _INCH_IN_METRES))
    pixels.setDotsPerMeterY(round(dpi / _INCH_IN_METRES))
    return pixels


def png(
    scene: Scene,
    dpi: float,
    transparent: bool = False,
    report: Report = silent,
    recipe: str | None = None,
) -> bytes:
    """A scene as PNG, with its resolution, its description and perhaps its recipe."""
    pixels = image(scene, dpi, transparent, report)
    report("Packing the pixels", _PAINTED)
    pixels.setText("Description", printable(scene.describe()))
    pixels.setText("Software", f"Rhabdos {__version__}")
    buffer = _buffer()
    writer = QImageWriter(buffer, b"png")
    if not writer.write(pixels):
        raise ExportError(f"The picture could not be made: {writer.errorString()}.")
    packed: bytes = buffer.data().data()
    return packed if recipe is None else with_text(packed, PNG_KEY, recipe)


def _buffer() -> QBuffer:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.ReadWrite)
    return buffer
