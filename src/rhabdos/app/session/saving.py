"""The recipe of what a session shows, as text and as a file."""

from typing import TYPE_CHECKING

from rhabdos.app.session.opening import absolute
from rhabdos.app.session.reaching import Reaching
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named

if TYPE_CHECKING:
    from pathlib import Path

    from rhabdos.figure.recipe.page_size import Size


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
