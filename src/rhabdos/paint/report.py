"""Reports as files: one HTML file that needs nothing else, a PDF, or Markdown with pictures."""

from collections.abc import Sequence
from pathlib import Path

from msgspec import Struct

from rhabdos.data.reporting import Report as Progress
from rhabdos.data.reporting import silent
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.output.report import Report, methods_of, titled, told
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.recipe.toml_text import Work, write_work
from rhabdos.paint.fonts import measure_for
from rhabdos.paint.svg import svg
from rhabdos.project.batch import Item, readings_of
from rhabdos.project.files import write_whole
from rhabdos.quoting import file_named
from rhabdos.scene.build import build
from rhabdos.scene.marks import Scene
from rhabdos.wording import counted

ENDINGS = (".html", ".pdf", ".md")


class DrawnReport(Struct, frozen=True, eq=False):
    """A report with the figures that it shows, and those that could not be drawn, with why."""

    report: Report
    scenes: tuple[Scene, ...]
    failed: tuple[tuple[str, str], ...] = ()


def make_report(
    items: Sequence[Item],
    table: Table,
    steps: Sequence[tuple[Step, str]],
    title: str = "",
    progress: Progress = silent,
) -> DrawnReport:
    """A report of some figures of one table.

    Parameters
    ----------
    table : Table
        The prepared rows.
    steps : sequence of (Step, str)
        How they came about: each step, and what it did.

    Raises
    ------
    Refusal
        No figure could be drawn.
    """
    shown, scenes, failed = [], [], []
    for at, item in enumerate(items):
        progress(f"Writing of {item.name}", at / len(items))
        try:
            readings = readings_of(item, (), table)
            scenes.append(build(readings, measure_for(readings.recipe)))
        except Refusal as refusal:
            failed.append((item.name, str(refusal)))
        else:
            shown.append((item, readings))
    if not shown:
        raise Refusal(f"No figure could be drawn. {failed[0][1] if failed else ''}".rstrip())
    size = f"{table.size}, "
    size += counted(len(table.columns), "variable", "variables")
    report = Report(
        title or titled([item.name for item, _ in shown]),
        f"{table.name}: {size}",
        tuple((step.words, what) for step, what in steps if not step.off),
        tuple(told(item.name, plain(readings), readings) for item, readings in shown),
        methods_of(readings for _, readings in shown),
        tuple(write_work(Work(tuple(s for s, _ in steps), item.recipe)) for item, _ in shown),
    )
    return DrawnReport(report, tuple(scenes), tuple(failed))


def check_ending(path: str | Path) -> str:
    """The ending of a report's file.

    Raises
    ------
    Refusal
        It is none of those that reports have.
    """
    target = Path(path)
    if target.suffix.lower() not in ENDINGS:
        named = file_named(target.name or path)
        raise Refusal(f"{named} must end in .html, .pdf or .md, which tells the format.")
    return target.suffix.lower()


def write_report(drawn: DrawnReport, path: str | Path) -> list[Path]:
    """Write a report; the format follows the file's ending. All files that were written.

    Raises
    ------
    Refusal
        The ending is none of those that reports have, or a file cannot be written.
    """
    target = Path(path)
    ending = check_ending(target)
    if ending == ".html":
        from rhabdos.paint.report_html import as_html

        pictures = [svg(scene, letters="embedded") for scene in drawn.scenes]
        write_whole(target, as_html(drawn, pictures))
        return [target]
    if ending == ".pdf":
        from rhabdos.paint.report_pdf import as_pdf

        write_whole(target, as_pdf(drawn))
        return [target]
    from rhabdos.paint.report_markdown import as_markdown

    names = [f"{target.stem}-{number}.svg" for number in range(1, len(drawn.scenes) + 1)]
    for name, scene in zip(names, drawn.scenes, strict=True):
        write_whole(target.with_name(name), svg(scene, letters="embedded"))
    write_whole(target, as_markdown(drawn, names).encode())
    return [target, *(target.with_name(name) for name in names)]
