"""What drawing without a window needs."""

import os
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from rhabdos.figure.recipe.toml_text import Work


def with_look(work: "Work", look: str | None) -> "Work":
    """The same figure in a look that was saved by a name, or in a file of its own."""
    if look is None:
        return work
    if work.recipe is None:
        from rhabdos.paint.export import ExportError

        raise ExportError("--look: the recipe draws no figure that could wear it. Leave it out.")
    from msgspec import structs

    from rhabdos.figure.recipe.toml_text import read_dress
    from rhabdos.project.files import read_text
    from rhabdos.project.looks import look_names, saved_look

    dress = (
        saved_look(look)
        if look in look_names()
        else read_dress(read_text(look), os.path.basename(look))
    )
    return structs.replace(work, recipe=dress.on(work.recipe))


def application_without_screen() -> None:
    """What paints where there is no display."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtGui import QGuiApplication

    global _application
    _application = QGuiApplication.instance() or QGuiApplication(["rhabdos"])


_application: object = None  # Qt's application object must outlive everything drawn with it
