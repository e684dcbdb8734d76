"""What a session shows as a file: the recipe of its figure, or the whole work."""

import time
from typing import TYPE_CHECKING

from msgspec import structs

from rhabdos.app.session.opening import absolute
from rhabdos.app.session.reaching import Reaching
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named

if TYPE_CHECKING:
    from pathlib import Path

    from rhabdos.figure.recipe.page_size import Size
    from rhabdos.project.document import Document


def recipe_text(session: Reaching, size: "Size | None" = None) -> str:
    """The recipe of the figure with the steps of its data, as text; of another size."""
    from rhabdos.figure.recipe.toml_text import Work, write_work

    document, recipe, chart = session.document, session.document.recipe, session.document.chart
    if size is not None and chart is not None:
        chart = chart.changed(size=str(size))
    elif size is not None and recipe is not None:
        recipe = recipe.sized(size)
    return write_work(Work(document.steps, recipe, chart))


def save_recipe(session: Reaching, path: "Path") -> bool:
    """Write the recipe of the figure; tells whether it was written."""
    from rhabdos.figure.recipe.toml_text import Work, write_work
    from rhabdos.project.files import refuse_long_recipe, same_file, write_whole
    from rhabdos.project.paths import seen_from

    if not session.document.recipe and not session.document.steps:
        return False
    source = session.document.source
    if source and source.path and same_file(path, source.path):
        session.refused.emit(
            f"{file_named(path)} holds the data of this figure. Save the recipe under another name."
        )
        return False
    try:
        folder = absolute(path).parent
        steps = session.document.steps
        moved = tuple(step.with_files(lambda file: seen_from(folder, file)) for step in steps)
        content = write_work(Work(moved, session.document.recipe, session.document.chart)).encode()
        refuse_long_recipe(content, path)
        write_whole(path, content)
    except Refusal as refusal:
        session.refused.emit(str(refusal))
        return False
    session.told.emit(f"Recipe saved as {file_named(path.name)}.")
    return True


def save_work(session: Reaching, path: "Path", inside: bool = False) -> bool:
    """Write the whole work: where its data are, or the data themselves, its steps and figures;
    tells whether it was written."""
    from rhabdos.data.files.writing import written
    from rhabdos.project.files import same_file, write_whole
    from rhabdos.project.versions import keep_version
    from rhabdos.project.work_file import LONGEST_WORK, WorkFile, packed, write_work_file
    from rhabdos.project.work_sources import kept_source, steps_seen_from

    document, table = session.document, session.store.read(session.document)
    if not document.figures and not document.steps:
        return False
    source, steps = document.source, document.steps
    named = file_named(path.name)
    over_itself = source is not None and source.path is not None and same_file(path, source.path)
    inside = inside or over_itself
    try:
        if over_itself and not is_packed(document):
            raise Refusal(f"{named} holds the data of this work. Save it under another name.")
        folder = absolute(path).parent
        beginning = document.beginning
        if inside and beginning is not None and not beginning.makes_rows:
            steps = steps[1:]  # how a file was read, which is not read any more
        work = WorkFile.of(
            document, kept_source(document, folder, table), steps_seen_from(folder, steps)
        )
        has_file = source is not None and source.path is not None
        if inside and has_file and table is not None:
            kept = structs.replace(work.source, path="", size=0, sha256="", modified="")
            work = structs.replace(work, source=kept)
            content = packed(write_work_file(work), written(table, ".parquet"))
        else:
            content = write_work_file(work).encode()
            if len(content) > LONGEST_WORK:
                raise Refusal(
                    f"{named} would be larger than a work can be ({LONGEST_WORK >> 20} MiB): it "
                    "holds very many typed values. Save the rows as a table, open that, and save "
                    "the work then."
                )
        write_whole(path, content)
        keep_version(path, work, time.time_ns())
    except Refusal as refusal:
        session.refused.emit(str(refusal))
        return False
    session.told.emit(f"Work saved as {named}.")
    return True


def is_packed(document: "Document") -> bool:
    """Whether a document's data are inside the file of a work."""
    from rhabdos.project.work_file import ENDING

    source = document.source
    return source is not None and source.path is not None and source.path.suffix == ENDING
