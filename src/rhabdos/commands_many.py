"""The command line for many figures: those of a work, or one for each variable, level or file."""

import argparse
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from msgspec import structs

from rhabdos.data.preparing import OtherTables, begun, prepared
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.toml_text import Work
from rhabdos.figure.words.naming import figure_name
from rhabdos.headless import application_without_screen, with_look
from rhabdos.output import say
from rhabdos.project.batch import (
    BatchError,
    Item,
    each_file,
    each_level,
    each_variable,
    file_names,
    limited,
    readings_of,
)
from rhabdos.project.files import same_file
from rhabdos.project.work_file import WorkFile, open_work_file
from rhabdos.project.work_sources import files_outside, found, steps_found, told_changes
from rhabdos.quoting import brief, file_named, quoted

_LEVEL = "level:"


def draw_each(chosen: argparse.Namespace, work: Work, size: Size | None) -> int:
    """Draw a recipe for each variable, each level of a factor or each file; returns 0, or 2 where
    some could not be drawn."""
    if work.recipe is None:
        raise BatchError(
            f"{file_named(chosen.recipe)} holds no figure that could be drawn of each."
        )
    files = chosen.data or []
    if chosen.each == "file":
        items = each_file(work.recipe, files)
        return _write(chosen, limited(items, "file"), work.steps, None, size)
    if len(files) > 1:
        raise BatchError("Only “--each file” draws several files. Name one after --data.")
    beside = [os.path.dirname(file) or "." for file in (chosen.recipe, *files)]
    table = _table(work.steps, files[0] if files else None, beside)
    if chosen.each == "variable":
        items = limited(each_variable(work.recipe, table), "numeric variable")
    elif chosen.each.startswith(_LEVEL):
        factor, same = chosen.each[len(_LEVEL) :], chosen.scales == "same"
        items = limited(each_level(work.recipe, table, factor, same), "level")
    else:
        raise BatchError(
            f"--each is {quoted(chosen.each)}, but must be variable, file, or level: and the "
            "name of a factor, such as level:Bay."
        )
    return _write(chosen, items, work.steps, table, size)


def draw_work(chosen: argparse.Namespace, size: Size | None) -> int:
    """Draw all figures of a work, of its own data or of others; returns 0, or 2 where some could
    not be drawn."""
    if chosen.each is not None:
        raise BatchError("--each is of a recipe. Save the recipe of one figure, and draw that.")
    work, table = opened_work(chosen.recipe, chosen.data or [])
    items = limited(figures_of(work), "figure")
    if chosen.page is not None:
        return _draw_page(chosen, work, table, items)
    return _write(chosen, items, steps_of(chosen.recipe, work), table, size)


def _draw_page(chosen: argparse.Namespace, work: WorkFile, table: Table, items: list[Item]) -> int:
    """Draw one of the pages that a work holds."""
    from rhabdos.paint.export import write_figure
    from rhabdos.paint.fonts import measure_for
    from rhabdos.scene.plate import plate_scene

    if not 1 <= chosen.page <= len(work.plates):
        raise BatchError(
            f"--page is {chosen.page}, but {file_named(chosen.recipe)} holds {len(work.plates)}."
        )
    plate = work.plates[chosen.page - 1]
    _refuse_over(chosen.output, [*(chosen.data or []), chosen.recipe])
    application_without_screen()
    figures = [readings_of(items[at], (), table) for at in plate.figures]
    scene = plate_scene(plate, figures, measure_for(figures[0].recipe)).scene
    for output in chosen.output:
        write_figure(scene, output, chosen.dpi, chosen.transparent, letters=chosen.letters)
    return 0


def numbers_of_work(chosen: argparse.Namespace) -> int:
    """Print the numbers behind all figures of a work."""
    import json

    from rhabdos.figure.output.numbers import numbers_data
    from rhabdos.figure.output.numbers_csv import numbers_of_many, numbers_rows
    from rhabdos.output import write

    work, table = opened_work(chosen.recipe, [chosen.data] if chosen.data else [])
    each = [(item.name, readings_of(item, (), table)) for item in figures_of(work)]
    if chosen.format == "csv":
        write(numbers_of_many((name, numbers_rows(readings)) for name, readings in each).rstrip())
        return 0
    told = [{"figure": name, **numbers_data(readings)} for name, readings in each]
    as_json = json.dumps({"figures": told}, ensure_ascii=False, indent=1, allow_nan=False)
    write(as_json, "rhabdos.json")
    return 0


def figures_of(work: WorkFile) -> list[Item]:
    """The figures of a work with what each is called."""
    return [
        Item(figure.name or figure_name(figure.recipe), figure.recipe) for figure in work.figures
    ]


def steps_of(path: str, work: WorkFile) -> tuple[Step, ...]:
    """The steps of a work, with their files where they are."""
    return steps_found(Path(path).absolute().parent, work.steps)


def opened_work(path: str, data: Sequence[str]) -> tuple[WorkFile, Table]:
    """A work with its prepared rows, of other data where some are named; what changed since it was
    saved is told.

    Raises
    ------
    Refusal
        It cannot be read, or its data are outside its folder and not named.
    """
    work, folder = open_work_file(path), Path(path).absolute().parent
    if len(data) > 1:
        raise BatchError("A work draws one file of data. Name one after --data.")
    named = [str(Path(file).resolve()) for file in data]
    outside = [file for file in files_outside(work, folder) if str(file) not in named]
    if data:
        outside = [file for file in outside if str(file) != str(_source(work, folder))]
    if outside:
        raise BatchError(
            f"{file_named(path)} reads {file_named(outside[0])}, which is outside its folder. "
            "Move it into that, or name the data by --data FILE."
        )
    file = data[0] if data else path if work.source.inside else _source(work, folder)
    if file is None and work.source.path:
        lost = brief(file_named(work.source.path))
        raise BatchError(f"{lost} is not where it was. Name the data by --data FILE.")
    steps = steps_of(path, work)
    if work.source.demo and file is None:
        from rhabdos.data.demo import demo_table

        return work, prepared(demo_table(), steps)
    beside = [str(folder), *(os.path.dirname(file) or "." for file in data)]
    read = begun(steps[0] if steps and steps[0].begins else None, file)  # type: ignore[arg-type]
    if told := told_changes(work.source, Path(file), read) if file else "":
        say(f"note: {told}")
    return work, prepared(read, steps, OtherTables(beside))


def _source(work: WorkFile, folder: Path) -> str | None:
    place = found(folder, work.source.path).path if work.source.path else None
    return str(place) if place else None


def _table(steps: tuple[Step, ...], data: str | None, beside: list[str]) -> Table:
    beginning = steps[0] if steps and steps[0].begins else None
    if data is None and not (beginning is not None and beginning.makes_rows):
        raise Refusal("The recipe does not make its data itself: name them with --data FILE.")
    read = begun(beginning, data)  # type: ignore[arg-type]
    return prepared(read, steps, OtherTables(beside))


def _write(
    chosen: argparse.Namespace,
    items: list[Item],
    steps: tuple[Step, ...],
    table: Table | None,
    size: Size | None,
) -> int:
    from rhabdos.paint.many import Batch, write_many

    application_without_screen()
    batch = Batch(
        _in_look(items, chosen.look),
        steps,
        table,
        chosen.scales,
        size,
        chosen.dpi,
        chosen.transparent,
        chosen.letters,
        not chosen.without_recipe,
        chosen.one_page,
    )
    status, counter = 0, _Counter()
    for output in chosen.output:
        files = file_names(output, items) if "{" in output else [output]
        _refuse_over([*files, chosen.numbers], [*(chosen.data or []), chosen.recipe])
        written = write_many(batch, output, chosen.numbers, counter.tell)
        counter.end()
        if told := written.told(len(items)):
            status = say(told)
    return status


def _in_look(items: list[Item], look: str | None) -> list[Item]:
    def dressed(recipe: Recipe) -> Recipe:
        """The same figure in the look that is asked for."""
        other = with_look(Work((), recipe), look).recipe
        assert other is not None
        return other

    return [structs.replace(item, recipe=dressed(item.recipe)) for item in items]


def _refuse_over(files: Sequence[str | None], used: Sequence[str]) -> None:
    """Refuse to write over what is read."""
    for file in filter(None, files):
        if any(same_file(file, other) for other in used):
            raise BatchError(f"{file_named(file)} is what is read. Name another file to draw to.")


class _Counter:
    """Tells how far the work is, on a terminal."""

    def __init__(self) -> None:
        self._shown = sys.stderr is not None and sys.stderr.isatty()
        self._long = 0

    def tell(self, stage: str, share: float | None) -> None:
        """Say what is being done."""
        if self._shown:
            words = stage if share is None else f"{100 * share:3.0f} % {stage}"
            words = words[:70]
            print(f"\r{words:<{self._long}}", end="", file=sys.stderr, flush=True)
            self._long = max(self._long, len(words))

    def end(self) -> None:
        """Take the line away."""
        if self._shown and self._long:
            print(f"\r{'':<{self._long}}\r", end="", file=sys.stderr, flush=True)


def write_report_of(chosen: argparse.Namespace) -> int:
    """Write a report of a recipe's figure, or of all figures of a work; returns 0, or 2 where some
    could not be drawn."""
    from rhabdos.paint.report import check_ending, make_report, write_report
    from rhabdos.project.work_file import is_work

    check_ending(chosen.output)
    data = [chosen.data] if chosen.data else []
    _refuse_over([chosen.output], [*data, chosen.recipe])
    if is_work(chosen.recipe):
        work, table = opened_work(chosen.recipe, data)
        items, steps = figures_of(work), steps_of(chosen.recipe, work)
    else:
        from rhabdos.figure.recipe.toml_text import read_work
        from rhabdos.paint.inside import recipe_text

        recipe = read_work(recipe_text(chosen.recipe), os.path.basename(chosen.recipe))
        if recipe.recipe is None:
            raise BatchError(f"{file_named(chosen.recipe)} holds no figure to report of.")
        beside = [os.path.dirname(file) or "." for file in (chosen.recipe, *data)]
        table = _table(recipe.steps, chosen.data, beside)
        items, steps = [Item(figure_name(recipe.recipe), recipe.recipe)], recipe.steps
    application_without_screen()
    report = make_report(limited(items, "figure"), table, [(s, "") for s in steps], chosen.title)
    write_report(report, chosen.output)
    if not report.failed:
        return 0
    lines = [f"{name}: {why}" for name, why in report.failed]
    return say(f"{len(lines)} of {len(items)} figures could not be drawn.\n" + "\n".join(lines))
