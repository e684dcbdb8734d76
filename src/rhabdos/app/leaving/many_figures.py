"""Many figures: asked for in a dialog, written beside the window, or taken into the work."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtWidgets import QWidget

from rhabdos.app.leaving.many_dialog import ManyDialog, Wish
from rhabdos.app.session.session import Session
from rhabdos.data.reporting import Report
from rhabdos.paint.many import Written, write_many
from rhabdos.quoting import file_named
from rhabdos.wording import counted


def ask_for_many(
    session: Session,
    window: QWidget,
    folder: Path,
    name: str,
    written: Callable[[Path], None],
    not_over: Sequence[Path] = (),
) -> ManyDialog:
    """Open the dialog; ``written`` is told of the first file."""

    def write(wish: Wish) -> None:
        """Write the figures aside, with progress."""

        def work(report: Report) -> Written:
            """All of them, one after the other."""
            return write_many(wish.batch, wish.output, wish.numbers, report)

        def done(result: Written) -> None:
            """Tell what was written, and what was not drawn."""
            figures = counted(len(wish.batch.items) - len(result.failed), "figure", "figures")
            first = result.files[0]
            more = f" and {len(result.files) - 1} beside it" if result.files[1:] else ""
            session.told.emit(f"{figures} written to {file_named(first.name)}{more}.")
            written(first)
            if told := result.told(len(wish.batch.items)):
                session.refused.emit(told)

        session.runner.run("looking", "Drawing many figures", work, done, session.refuse)

    dialog = ManyDialog(session, folder, name, window, not_over)
    dialog.wished.connect(write)
    dialog.added.connect(session.figures.add_many)
    dialog.open()
    return dialog
