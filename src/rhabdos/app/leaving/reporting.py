"""A report of all figures of a work, asked for and written beside the window."""

from collections.abc import Callable, Sequence
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog, QWidget

from rhabdos.app.leaving.saving_over import refuse_over
from rhabdos.app.session.session import Session
from rhabdos.data.reporting import Report
from rhabdos.errors import Refusal
from rhabdos.paint.report import DrawnReport, check_ending, make_report, write_report
from rhabdos.project.batch import Item
from rhabdos.quoting import file_named
from rhabdos.wording import counted

_KINDS = {
    "A page for browsers (*.html)": ".html",
    "PDF (*.pdf)": ".pdf",
    "Markdown, with pictures beside it (*.md)": ".md",
}


def ask_for_report(
    session: Session,
    window: QWidget,
    suggestion: Path,
    written: Callable[[Path], None],
    not_over: Sequence[Path] = (),
) -> None:
    """Ask for a file, and write a report of all figures to it; ``written`` is told of it."""
    path, kind = QFileDialog.getSaveFileName(
        window, "Report", str(suggestion), ";;".join(_KINDS), next(iter(_KINDS))
    )
    if not path:
        return
    chosen = Path(path)
    if not chosen.suffix:
        chosen = chosen.with_suffix(_KINDS.get(kind, ".html"))
    try:
        check_ending(chosen)
        refuse_over([chosen], not_over)
    except Refusal as refusal:
        session.refused.emit(str(refusal))
        return
    table = session.table
    if table is None:
        return
    figures, document = session.figures, session.document
    items = [Item(figures.name(at), document.figures[at].recipe) for at in range(len(figures))]
    steps = [(stage.step, stage.told) for stage in session.stages]

    def work(report: Report) -> tuple[DrawnReport, list[Path]]:
        """Draw the figures, and write all of it."""
        finished = make_report(items, table, steps, progress=report)
        return finished, write_report(finished, chosen)

    def done(result: tuple[DrawnReport, list[Path]]) -> None:
        """Tell what was written, and what could not be."""
        report, files = result
        more = f" with {counted(len(files) - 1, 'picture', 'pictures')}" if files[1:] else ""
        lacking = "".join(f" {name} is not in it: {why}" for name, why in report.failed)
        session.told.emit(f"Report written to {file_named(chosen.name)}{more}.{lacking}")
        written(chosen)

    session.runner.run("looking", "Writing the report", work, done, session.refuse)
