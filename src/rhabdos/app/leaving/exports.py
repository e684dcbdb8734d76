"""What an export writes: which files, of which sizes and formats; and the one that was last."""

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Self

import msgspec

from rhabdos.data.reporting import Report, silent
from rhabdos.data.table import Table
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import COMMON, Size
from rhabdos.figure.recipe.plain_charts import PlainChart
from rhabdos.paint.export import check_pixels, write_figure
from rhabdos.paint.fonts import measure, measure_for
from rhabdos.project.export_choice import ExportChoice
from rhabdos.project.files import same_file
from rhabdos.project.memory import recall, remember
from rhabdos.scene.build import build
from rhabdos.scene.marks import Scene
from rhabdos.scene.panels.grid import page_size
from rhabdos.scene.style.look import style_of

_AT_ONCE_PIXELS = 16_000_000  # written before an eye could see the wait
_AS_PIXELS = {".svg": 500_000, ".pdf": 4_000_000}  # what takes as long, painted and packed
_AS_PIXELS_OF_FONT = 25_000_000  # cutting one to its letters


class Drawn(msgspec.Struct, frozen=True):
    """What an export writes: a figure or a plain chart, at any size.

    Attributes
    ----------
    size : Size
        That it has by itself.
    scene : callable
        From a size and dots per inch to the figure laid out for them.
    font : str
        The family of its letters; nothing for the usual one.
    """

    size: Size
    scene: Callable[[Size, float], Scene]
    font: str

    @classmethod
    def of_figure(cls, readings: Readings) -> Self:
        """A figure."""
        measure = measure_for(readings.recipe)
        return cls(
            page_size(readings),
            lambda size, dpi: build(readings, measure, size=size, dpi=dpi),
            style_of(readings.recipe).font,
        )

    @classmethod
    def of_chart(cls, chart: PlainChart, table: Table) -> Self:
        """A chart that stands in place of a figure."""
        from rhabdos.scene.plain_charts import chart_scene, chart_size

        size = chart_size(chart, table)
        return cls(size, lambda size, _dpi: chart_scene(chart, table, measure, size), "")


class Sheet(msgspec.Struct, frozen=True):
    """A file of an export, the figure laid out for it, and the recipe that is kept in it."""

    file: Path
    scene: Scene
    recipe: str | None


class Export(msgspec.Struct, frozen=True):
    """An export as it was chosen: its files, and how they are written."""

    choice: ExportChoice

    def files(self, path: Path) -> Iterator[tuple[Path, Size]]:
        """Each file with its size: "shells.png", and "shells-slide.svg" beside it."""
        sizes = [
            ("", Size.parse(self.choice.size)),
            *((name, COMMON[name]) for name in self.choice.also),
        ]
        for name, size in sizes:
            stem = f"{path.stem}-{name.replace(' ', '-')}" if name else path.stem
            for ending in self.choice.formats:
                yield path.with_name(f"{stem}.{ending}"), size

    def takes_long(self, path: Path) -> bool:
        """Whether an eye would see the wait, so that it is written aside."""
        total = 0.0
        for file, size in self.files(path):
            wide, high = size.points(self.choice.dpi)
            pixels = wide * high * (self.choice.dpi / 72) ** 2
            total += _AS_PIXELS.get(file.suffix.lower(), pixels)
            if file.suffix.lower() == ".svg" and self.choice.letters == "embedded":
                total += _AS_PIXELS_OF_FONT
        return total > _AT_ONCE_PIXELS

    def check(self, path: Path) -> None:
        """Refuse a size that is none, or a picture that is too large.

        Raises
        ------
        ValueError
            A side is too short or too long.
        ExportError
            There would be too many pixels.
        """
        for file, size in self.files(path):
            points = size.points(self.choice.dpi)
            if file.suffix.lower() == ".png":
                check_pixels(*points, self.choice.dpi)

    def over(self, path: Path, kept: tuple[Path, ...]) -> Path | None:
        """The first of its files that would be written over one that is kept."""
        files = (file for file, _ in self.files(path))
        return next((f for f in files if any(same_file(f, other) for other in kept)), None)

    def sheets(self, path: Path, drawn: Drawn, recipe: Callable[[Size], str]) -> list[Sheet]:
        """Each file with the figure laid out for it.

        ``recipe`` gives the text of a recipe of so large a figure, so that a file that is opened
        again is as large as it was.
        """
        dpi = self.choice.dpi
        inside = self.choice.with_recipe
        return [
            Sheet(file, drawn.scene(size, dpi), recipe(size.on_paper(dpi)) if inside else None)
            for file, size in self.files(path)
        ]

    def write(
        self, sheets: list[Sheet], report: Report = silent, done: Callable[[Path], object] = Path
    ) -> None:
        """Write all files; ``done`` is told each one that is there.

        Raises
        ------
        Refusal
            One cannot be written; those before it are.
        Cancelled
            From ``report``.
        """
        for sheet in sheets:
            write_figure(
                sheet.scene,
                sheet.file,
                self.choice.dpi,
                self.choice.transparent,
                report,
                self.choice.letters,
                sheet.recipe,
            )
            done(sheet.file)


def last_export() -> ExportChoice | None:
    """What was last chosen, if anything."""
    return recall().export


def keep_export(choice: ExportChoice) -> None:
    """Remember what was chosen."""
    remember(lambda memory: msgspec.structs.replace(memory, export=choice))
