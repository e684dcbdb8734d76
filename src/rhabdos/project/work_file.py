"""Works as files: where their data are, how these are prepared, and all figures, as TOML text; on
request together with the data, as a ZIP of that text and Parquet. See docs/work.md."""

import io
import os
import zipfile
from pathlib import Path
from typing import Annotated, Any, ClassVar, Self

import msgspec
import tomli_w

from rhabdos.data.files.opening import OpenFile
from rhabdos.data.files.unpacking import OF_A_WORK
from rhabdos.data.steps.step import Step
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.plate import Plate
from rhabdos.figure.recipe.recipe import PREPARE
from rhabdos.figure.recipe.toml_text import (
    RecipeError,
    converted,
    figure_in,
    figure_tables,
    parsed_toml,
    step_tables,
    steps_in,
    without_none,
)
from rhabdos.project.document import Document, Figure, Source
from rhabdos.project.files import StorageError, as_text, opened, read_content
from rhabdos.quoting import file_named, shortened_to

VERSION = 1
KEY = "rhabdos-work"
ENDING = ".rhabdos"
LONGEST_WORK = 32 << 20
"""Bytes of the text of a work."""
MOST_FIGURES = 500
DATA_INSIDE, TEXT_INSIDE = OF_A_WORK
_CAN_BE = f"a work can be ({LONGEST_WORK >> 20} MiB)"
_ZIP = b"PK\x03\x04"
_ONE_TIME = (1980, 1, 1, 0, 0, 0)  # of parts in a ZIP, so that the same work is the same bytes

_Text = Annotated[str, msgspec.Meta(description="text")]


class KeptSource(msgspec.Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """The data of a work as they were when it was saved.

    Attributes
    ----------
    path : str
        Seen from the folder of the work where it lies within; empty of the demo data, of data
        inside, and where the first step makes the rows.
    size, modified, sha256 : int, str, str
        Bytes of the file, when it was last changed, and what its content comes to.
    rows, variables : int, tuple of str
        How many rows it had, and what its variables were called.
    demo, inside : bool
        Whether they are the demo data, or in the work itself.
    """

    path: _Text = ""
    size: Annotated[int, msgspec.Meta(ge=0, description="a whole number of bytes")] = 0
    modified: _Text = ""
    sha256: _Text = ""
    rows: Annotated[int, msgspec.Meta(ge=0, description="a whole number of rows")] = 0
    variables: tuple[str, ...] = ()
    demo: bool = False
    inside: bool = False


class WorkFile(msgspec.Struct, frozen=True):
    """What the file of a work holds.

    Attributes
    ----------
    shown, beside : int, tuple of int
        Places of the figure in sight, and of those that stand beside one another, from 0.
    """

    source: KeptSource = KeptSource()
    steps: tuple[Step, ...] = ()
    figures: tuple[Figure, ...] = ()
    shown: int = 0
    beside: tuple[int, ...] = ()
    plates: tuple[Plate, ...] = ()

    @classmethod
    def of(cls, document: Document, source: KeptSource, steps: tuple[Step, ...]) -> Self:
        """A document, of data that are told as they were, with the files of steps as it names
        them."""
        return cls(
            source, steps, document.figures, document.shown, document.beside, document.plates
        )

    def document(self, source: Source) -> Document:
        """What it shows, of data that are opened again."""
        row = self.figures, self.shown, None, self.beside, self.plates
        return Document((source,), self.steps, *row)


class _Head(msgspec.Struct, forbid_unknown_fields=True):
    """The keys of a work's file beside its figures and steps."""

    called: ClassVar[str] = "the work"
    shown: Annotated[int, msgspec.Meta(ge=1, description="the number of a figure")] = 1
    beside: tuple[
        Annotated[int, msgspec.Meta(ge=1, description="the number of a figure")], ...
    ] = ()
    source: KeptSource = KeptSource()


def write_work_file(work: WorkFile) -> str:
    """A work as TOML, without what is left at its default."""
    tables: dict[str, Any] = {KEY: VERSION}
    if work.figures:
        tables["shown"] = work.shown + 1
    if work.beside:
        tables["beside"] = [place + 1 for place in work.beside]
    if source := without_none(msgspec.to_builtins(work.source)):
        tables["source"] = source
    if work.steps:
        tables[PREPARE] = step_tables(work.steps)
    if work.figures:
        tables["figure"] = [
            {**({"name": figure.name} if figure.name else {}), **figure_tables(figure.recipe)}
            for figure in work.figures
        ]
    if work.plates:
        tables["page"] = [_page_table(plate) for plate in work.plates]
    return tomli_w.dumps(tables, multiline_strings=True)


def _page_table(plate: Plate) -> dict[str, Any]:
    """A page with the numbers of its figures from 1."""
    table: dict[str, Any] = msgspec.to_builtins(plate)
    return {**table, "figures": [place + 1 for place in plate.figures]}


def read_work_file(text: str, name: str) -> WorkFile:
    """What the text of a work asks for.

    Raises
    ------
    RecipeError
        The text is no TOML, of a newer version, or holds a key or value that works do not have.
    """
    name = file_named(name)
    raw = parsed_toml(text, name)
    version = raw.pop(KEY, None)
    if version is None:
        raise RecipeError(f"{name} is no work: one begins with the line “{KEY} = {VERSION}”.")
    if isinstance(version, bool) or not isinstance(version, int) or version < 1:
        raise RecipeError(f"{name}: {KEY} must be {VERSION}, the version of the format.")
    if version > VERSION:
        raise RecipeError(
            f"{name} was saved by a newer Rhabdos, in version {version} of its format; this one "
            f"reads up to {VERSION}. Update Rhabdos to open it."
        )
    steps = steps_in(raw.pop(PREPARE, []), name)
    figures = _figures(raw.pop("figure", []), name)
    plates = _pages(raw.pop("page", []), len(figures), name)
    head = converted(raw, _Head, name)
    for place in (head.shown, *head.beside):
        if figures and place > len(figures):
            raise RecipeError(f"{name} names figure {place}, but holds {len(figures)}.")
    beside = tuple(sorted({place - 1 for place in head.beside}))
    shown = head.shown - 1 if figures else 0
    if beside and shown not in beside:
        beside = ()
    beside = beside if len(beside) > 1 else ()
    return WorkFile(head.source, steps, figures, shown, beside, plates)


def _figures(raw: Any, name: str) -> tuple[Figure, ...]:
    if not isinstance(raw, list) or not all(isinstance(table, dict) for table in raw):
        raise RecipeError(
            f"{name}: figure must be a list of tables, each of which begins with [[figure]]."
        )
    if len(raw) > MOST_FIGURES:
        raise RecipeError(
            f"{name} has {len(raw):,} figures; a work holds at most {MOST_FIGURES:,}."
        )
    figures = []
    for number, table in enumerate(raw, 1):
        called = table.pop("name", "")
        if not isinstance(called, str):
            raise RecipeError(f"{name}: the name of figure {number} must be text.")
        figures.append(Figure(figure_in(table, f"{name}: figure {number}"), called))
    return tuple(figures)


def _pages(raw: Any, count: int, name: str) -> tuple[Plate, ...]:
    if not isinstance(raw, list) or not all(isinstance(table, dict) for table in raw):
        raise RecipeError(
            f"{name}: page must be a list of tables, each of which begins with [[page]]."
        )
    if len(raw) > MOST_FIGURES:
        raise RecipeError(f"{name} has {len(raw):,} pages; a work holds at most {MOST_FIGURES}.")
    plates = []
    for number, table in enumerate(raw, 1):
        plate = converted(table, Plate, f"{name}: page {number}")
        if any(not 1 <= at <= count for at in plate.figures):
            raise RecipeError(f"{name}: page {number} names figures that are none of its {count}.")
        figures = tuple(at - 1 for at in plate.figures)
        plates.append(msgspec.structs.replace(plate, figures=figures))
    return tuple(plates)


# Files


def packed(text: str, data: bytes) -> bytes:
    """A work with its data inside; the same bytes whenever it is packed."""
    content = io.BytesIO()
    with zipfile.ZipFile(content, "w", zipfile.ZIP_STORED) as parts:
        for name, part, how in (
            (TEXT_INSIDE, text.encode(), zipfile.ZIP_DEFLATED),
            (DATA_INSIDE, data, zipfile.ZIP_STORED),  # which is compressed already
        ):
            parts.writestr(zipfile.ZipInfo(name, _ONE_TIME), part, how)
    return content.getvalue()


def is_work(path: str | os.PathLike[str]) -> bool:
    """Whether a file is called as works are, or its text begins as theirs does."""
    if Path(path).suffix.lower() == ENDING:
        return True
    if Path(path).suffix.lower() != ".toml":
        return False
    try:
        with OpenFile.open(Path(path)) as opened:
            return any(
                line.lstrip().startswith(KEY.encode()) for line in opened.head(1 << 12).splitlines()
            )
    except (OSError, Refusal):
        return False


def open_work_file(path: str | os.PathLike[str]) -> WorkFile:
    """Read the file of a work.

    Raises
    ------
    RecipeError, StorageError
        It cannot be read, or is no work.
    """
    named = file_named(path)
    with opened(path) as file:
        zipped = file.head(4) == _ZIP
    if not zipped:
        work = read_work_file(as_text(read_content(path, LONGEST_WORK, _CAN_BE), path), named)
        if work.source.inside:
            raise StorageError(f"{named} says that its data are inside, but it is no ZIP of both.")
        return work
    with opened(path) as file:
        work = read_work_file(as_text(_part(file, named), path), named)
    source = msgspec.structs.replace(work.source, inside=True)
    return msgspec.structs.replace(work, source=source)


def _part(file: OpenFile, named: str) -> bytes:
    """The text of a work within its ZIP; never more of it than a work can be."""
    try:
        with zipfile.ZipFile(file.stream()) as parts, parts.open(TEXT_INSIDE) as part:
            text: bytes = part.read(LONGEST_WORK + 1)
    except KeyError:
        raise StorageError(f"{named} is a ZIP, but no work: it lacks {TEXT_INSIDE}.") from None
    except (zipfile.BadZipFile, RuntimeError, NotImplementedError, ValueError, EOFError) as error:
        raise StorageError(
            f"{named} is damaged ({shortened_to(80, str(error))}). Copy or download it again."
        ) from error
    except Exception as error:
        if type(error).__module__ not in ("zlib", "lzma"):
            raise
        raise StorageError(f"{named} is damaged. Copy or download it again.") from error
    if len(text) > LONGEST_WORK:
        raise StorageError(f"{named} is larger than {_CAN_BE}. Check that it is the file you mean.")
    return text
