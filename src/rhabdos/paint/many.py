"""Many figures written at once: to files named by a pattern, or as the pages of one PDF."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Literal

from msgspec import Struct

from rhabdos.data.reporting import Report, silent
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.output.numbers_csv import numbers_of_many, numbers_rows
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.plate import MOST_ON_PLATE, Plate, new_plate
from rhabdos.figure.recipe.toml_text import Work, write_work
from rhabdos.paint.export import format_of, png, write_figure
from rhabdos.paint.fonts import measure_for
from rhabdos.paint.pdf import book, pdf
from rhabdos.paint.svg import svg
from rhabdos.project.batch import BatchError, Item, file_names, readings_of, with_rows
from rhabdos.project.export_choice import Lettering
from rhabdos.project.files import write_whole
from rhabdos.quoting import file_named
from rhabdos.scene.build import build
from rhabdos.scene.common_axes import NOTHING_SHARED, AxesSoFar, CommonAxes
from rhabdos.scene.marks import Scene
from rhabdos.scene.plate import plate_scene

Scales = Literal["free", "same"]
"""Whether each figure has axes of its own, or all that can share theirs."""


class Batch(Struct, frozen=True, eq=False):
    """Figures, of what they are drawn, and how they are written.

    Attributes
    ----------
    steps : tuple of Step
        What prepares the rows of each file, where figures have files of their own; else what
        prepared ``table``.
    one_page : bool
        Whether all are set together on one page.
    """

    items: Sequence[Item]
    steps: tuple[Step, ...] = ()
    table: Table | None = None
    scales: Scales = "free"
    size: Size | None = None
    dpi: float = 300.0
    transparent: bool = False
    letters: Lettering = "text"
    with_recipe: bool = True
    one_page: bool = False

    def readings(self, item: Item) -> Readings:
        """What a figure shows.

        Raises
        ------
        Refusal
            It cannot be drawn.
        """
        return readings_of(item, self.steps, self.table)

    def scene(self, readings: Readings, shared: CommonAxes = NOTHING_SHARED) -> Scene:
        """A figure laid out on the axes that it shares."""
        limits, measure = shared.limits(readings), measure_for(readings.recipe)
        return build(readings, measure, limits, self.size, self.dpi, top=shared.top)

    def content(self, item: Item, scene: Scene, form: str) -> bytes:
        """A figure as the bytes of a file."""
        recipe = None
        if self.with_recipe:
            recipe = write_work(Work(with_rows(self.steps, item), item.recipe))
        if form == "png":
            return png(scene, self.dpi, self.transparent, recipe=recipe)
        if form == "svg":
            return svg(scene, self.transparent, self.letters, recipe)
        return pdf(scene, self.transparent, recipe)


class Written(Struct, frozen=True):
    """What came of a batch: its files, and the figures that could not be drawn, with why."""

    files: tuple[Path, ...]
    failed: tuple[tuple[str, str], ...] = ()

    def told(self, count: int) -> str:
        """What was not drawn, in a sentence for each; empty where all were."""
        if not self.failed:
            return ""
        lines = [f"{name}: {why}" for name, why in self.failed]
        return f"{len(lines):,} of {count:,} figures could not be drawn.\n" + "\n".join(lines)


def write_many(
    batch: Batch, output: str, numbers: str | None = None, report: Report = silent
) -> Written:
    """Write all figures of a batch; one that cannot be drawn does not stop the others.

    Parameters
    ----------
    output : str
        A pattern with {name} or {number}; or a name that ends in .pdf, for a page each.
    numbers : str, optional
        A file of CSV for the numbers of all.

    Raises
    ------
    Refusal
        The pattern is none, no figure could be drawn, or a file cannot be written.
    Cancelled
        From ``report``; files that were written stay.
    """
    writer = _writer(batch, output)
    # One of the figures might have any other name.
    if numbers is not None and Path(numbers).suffix.lower() != ".csv":
        raise BatchError(
            f"{file_named(numbers)} must end in .csv, as which all numbers are written."
        )
    failed: dict[int, str] = {}
    shared = _shared(batch, failed, report) if batch.scales == "same" else NOTHING_SHARED
    rows: list[tuple[str, list[tuple[object, ...]]]] = []
    for at, item in enumerate(batch.items):
        report(f"Drawing {item.name}", at / len(batch.items))
        if at in failed:
            continue
        try:
            readings = batch.readings(item)
            keep = writer.draw(at, readings, batch.scene(readings, shared))
        except Refusal as refusal:
            failed[at] = str(refusal)
            continue
        keep()  # a file that cannot be written ends it all
        if numbers is not None:
            rows.append((item.name, numbers_rows(readings)))
    if len(failed) == len(batch.items):
        raise Refusal(f"No figure could be drawn. {next(iter(failed.values()))}")
    files = writer.finish(shared, report)
    if numbers is not None:
        write_whole(numbers, numbers_of_many(rows).encode())
        files.append(Path(numbers))
    told = tuple((batch.items[at].name, why) for at, why in sorted(failed.items()))
    return Written(tuple(files), told)


def _writer(batch: Batch, output: str) -> "_OnePage | _Book | _Files":
    """What writes the figures: to one page, to a page each of one PDF, or to a file each."""
    if batch.one_page:
        return _OnePage(batch, output)
    if "{" not in output and format_of(output) == "pdf":
        return _Book(batch, output)
    return _Files(batch, output)


class _Files:
    """A file for each figure, written once it is drawn."""

    def __init__(self, batch: Batch, output: str) -> None:
        self._batch, self._form = batch, format_of(output)
        self._names = file_names(output, batch.items)
        self._files: list[Path] = []

    def draw(self, at: int, _readings: Readings, scene: Scene) -> Callable[[], None]:
        """Draw a figure; the deed that keeps it."""
        content = self._batch.content(self._batch.items[at], scene, self._form)

        def keep() -> None:
            """Write its file."""
            write_whole(self._names[at], content)
            self._files.append(Path(self._names[at]))

        return keep

    def finish(self, _shared: CommonAxes, _report: Report) -> list[Path]:
        """All files, which are written already."""
        return self._files


class _Book:
    """The pages of one PDF."""

    def __init__(self, batch: Batch, output: str) -> None:
        self._batch, self._output = batch, output
        self._pages: list[bytes] = []

    def draw(self, at: int, _readings: Readings, scene: Scene) -> Callable[[], None]:
        """Draw a page; the deed that keeps it."""
        content = self._batch.content(self._batch.items[at], scene, "pdf")
        return lambda: self._pages.append(content)

    def finish(self, _shared: CommonAxes, report: Report) -> list[Path]:
        """Write the book."""
        file = Path(self._output)
        report(f"Writing {file_named(file.name)}", None)
        write_whole(file, book(self._pages, file.stem))
        return [file]


class _OnePage:
    """Figures that are set together, those that could be drawn."""

    def __init__(self, batch: Batch, output: str) -> None:
        self._batch, self._output = batch, output
        self._plate = _plate(batch)
        format_of(output)  # an ending that is none is told before anything is drawn
        self._shown: list[Readings] = []

    def draw(self, _at: int, readings: Readings, _scene: Scene) -> Callable[[], None]:
        """Know that a figure can be drawn; the deed that puts it on the page."""
        return lambda: self._shown.append(readings)

    def finish(self, shared: CommonAxes, report: Report) -> list[Path]:
        """Write the page."""
        report("Setting the page", None)
        batch, shown = self._batch, self._shown
        plate = new_plate(tuple(range(len(shown))), self._plate.columns)
        page = plate_scene(plate, shown, measure_for(shown[0].recipe), shared).scene
        write_figure(page, self._output, batch.dpi, batch.transparent, letters=batch.letters)
        return [Path(self._output)]


def _plate(batch: Batch) -> Plate:
    """The page that is to hold all figures.

    Raises
    ------
    BatchError
        They are too many for one.
    """
    try:
        return new_plate(tuple(range(len(batch.items))))
    except ValueError:
        raise BatchError(
            f"{len(batch.items)} figures are too many for one page, which holds "
            f"{MOST_ON_PLATE}. Leave some out, or write them as files."
        ) from None


def _shared(batch: Batch, failed: dict[int, str], report: Report) -> CommonAxes:
    """The axes that all figures can share; what cannot be drawn is noted."""
    axes = AxesSoFar()
    for at, item in enumerate(batch.items):
        report("Looking for common scales", at / len(batch.items))
        try:
            readings = batch.readings(item)
            axes.add(readings, measure_for(readings.recipe))
        except Refusal as refusal:
            failed[at] = str(refusal)
    return axes.shared
