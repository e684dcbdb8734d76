"""The command line without a window: variables, convert, numbers and draw."""

import argparse
import os
from collections.abc import Sequence
from typing import TYPE_CHECKING

from rhabdos.errors import Refusal
from rhabdos.headless import application_without_screen, with_look
from rhabdos.output import say, write
from rhabdos.parsers import command_parser
from rhabdos.quoting import file_named

if TYPE_CHECKING:
    from rhabdos.data.table import Table
    from rhabdos.figure.readings.readings import Readings
    from rhabdos.figure.recipe.page_size import Size
    from rhabdos.figure.recipe.plain_charts import PlainChart
    from rhabdos.figure.recipe.toml_text import Work


def command(given: list[str]) -> int:
    """Do what the command line asks for; returns 0, or 2 after a message on standard error."""
    chosen = command_parser().parse_args(given)
    if chosen.command == "report":
        from rhabdos.commands_many import write_report_of

        return write_report_of(chosen)
    if chosen.command == "variables":
        return _variables(chosen)
    if chosen.command == "convert":
        return _convert(chosen)
    if chosen.command == "numbers":
        return _numbers(chosen)
    return _draw(chosen)


def _variables(chosen: argparse.Namespace) -> int:
    from rhabdos.data.listing import variables_json, variables_text
    from rhabdos.data.problems.problems import problems_in

    table = _prepared(_work(chosen.recipe), chosen.recipe, chosen.file)
    _remark(table.remarks)
    for column in table.columns:
        _remark([problem.text for problem in problems_in(table, column)])
    if chosen.format == "json":
        write(variables_json(table), "rhabdos.json")
    else:
        write(variables_text(table))
    return 0


def _convert(chosen: argparse.Namespace) -> int:
    from rhabdos.data.files.writing import written
    from rhabdos.project.files import same_file, write_whole

    for used in (chosen.file, chosen.recipe):
        if used is not None and same_file(chosen.output, used):
            raise Refusal(
                f"{file_named(chosen.output)} is what is read. Name another file to write to."
            )
    ending = os.path.splitext(chosen.output)[1].lower()
    table = _prepared(_work(chosen.recipe), chosen.recipe, chosen.file)
    write_whole(chosen.output, written(table, ending))
    _remark(table.remarks)
    return 0


def _numbers(chosen: argparse.Namespace) -> int:
    from rhabdos.figure.output.numbers import numbers_json
    from rhabdos.figure.output.numbers_csv import numbers_csv
    from rhabdos.project.work_file import is_work

    if is_work(chosen.recipe):
        from rhabdos.commands_many import numbers_of_work

        return numbers_of_work(chosen)
    work = _work(chosen.recipe)
    if work.chart is not None:
        return _chart_numbers(work.chart, _prepared(work, chosen.recipe, chosen.data), chosen)
    readings = _readings(work, chosen.recipe, chosen.data)
    if chosen.format == "json":
        write(numbers_json(readings), "rhabdos.json")
    else:
        write(numbers_csv(readings).rstrip("\n"))
    return 0


def _chart_numbers(chart: "PlainChart", table: "Table", chosen: argparse.Namespace) -> int:
    from rhabdos.figure.output.chart_numbers import chart_json, chart_tables
    from rhabdos.figure.output.tables import as_csv

    if chosen.format == "json":
        write(chart_json(chart, table), "rhabdos.json")
    else:
        write(
            "\n".join(
                as_csv(table_of()).rstrip("\n") for table_of in chart_tables(chart, table).values()
            )
        )
    _remark(table.remarks)
    return 0


def _draw(chosen: argparse.Namespace) -> int:
    from rhabdos.figure.notices.of_figure import notices
    from rhabdos.figure.recipe.toml_text import write_work
    from rhabdos.paint.export import write_figure
    from rhabdos.paint.fonts import font_notice, letters_notice, measure, measure_for
    from rhabdos.project.work_file import is_work
    from rhabdos.scene.build import build
    from rhabdos.scene.drawing_notices import drawing_notices, room_notice

    size = _checked(chosen)
    if is_work(chosen.recipe):
        from rhabdos.commands_many import draw_work

        return draw_work(chosen, size)
    if chosen.each is not None:
        from rhabdos.commands_many import draw_each

        return draw_each(chosen, _work(chosen.recipe), size)
    if chosen.numbers is not None or chosen.scales != "free" or chosen.one_page:
        raise Refusal(
            "--numbers, --scales and --one-page are of many figures: add --each, or draw a work."
        )
    if chosen.page is not None:
        raise Refusal("--page is of a work, which holds pages.")
    if chosen.data and len(chosen.data) > 1:
        raise Refusal("One figure draws one file of data. Add “--each file” for a figure of each.")
    data = chosen.data[0] if chosen.data else None
    work = with_look(_work(chosen.recipe), chosen.look)
    told: tuple[str, ...] = ()
    if work.chart is not None:
        from rhabdos.scene.plain_charts import chart_scene

        table = _prepared(work, chosen.recipe, data)
        application_without_screen()
        scene = chart_scene(work.chart, table, measure, size)
        of_drawing = [room_notice(scene), letters_notice(scene)]
    else:
        readings = _readings(work, chosen.recipe, data)
        application_without_screen()
        scene = build(readings, measure_for(readings.recipe), size=size, dpi=chosen.dpi)
        told = tuple(notice.text for notice in notices(readings))
        of_drawing = [*drawing_notices(scene, readings), letters_notice(scene)]
        of_drawing.append(font_notice(readings.recipe))
    if size and work.recipe is not None:  # so that a file opened again is as large
        from msgspec import structs

        work = structs.replace(work, recipe=work.recipe.sized(size.on_paper(chosen.dpi)))
    for output in chosen.output:
        write_figure(
            scene,
            output,
            chosen.dpi,
            chosen.transparent,
            letters=chosen.letters,
            recipe=None if chosen.without_recipe else write_work(work),
        )
    _remark(told)
    _remark([notice.text for notice in of_drawing if notice])
    return 0


def _checked(chosen: argparse.Namespace) -> "Size | None":
    """The size that is asked for, once nothing that is asked is beyond what can be drawn."""
    from rhabdos.figure.recipe.page_size import Size
    from rhabdos.paint.export import LEAST_DPI, MOST_DPI, ExportError, check_pixels, format_of
    from rhabdos.project.files import same_file

    for output in chosen.output:
        format_of(output)
        for used, what in (
            *((file, "data") for file in chosen.data or ()),
            (chosen.recipe, "recipe"),
        ):
            if same_file(output, used):
                raise ExportError(
                    f"{file_named(output)} is the {what} itself. Name another file to draw to."
                )
    if not LEAST_DPI <= chosen.dpi <= MOST_DPI:
        raise ExportError(f"--dpi must be from {LEAST_DPI} to {MOST_DPI}, not {chosen.dpi:g}.")
    try:
        size = Size.parse(chosen.size) if chosen.size else None
        if size:
            size.points(chosen.dpi)
    except ValueError as error:
        raise ExportError(f"--size: {error}.") from None
    pngs = any(format_of(output) == "png" for output in chosen.output)
    if size and pngs:
        check_pixels(*size.points(chosen.dpi), chosen.dpi)
    return size


def _readings(work: "Work", recipe_file: str, data_file: str | None) -> "Readings":
    from rhabdos.data.problems.problems import problems_of
    from rhabdos.figure.forms.read import read
    from rhabdos.figure.planning.data_request import samples_for

    if work.recipe is None:
        raise Refusal(
            f"{file_named(recipe_file)} holds steps but no figure. Add a table [show] with the "
            "variables to draw."
        )
    table = _prepared(work, recipe_file, data_file)
    samples = samples_for(work.recipe, table)
    if table.far is not None:
        from rhabdos.project.making import ask_ahead

        ask_ahead(work.recipe, samples)
    used = [column for column in (*samples.variables, *samples.factors, samples.weight) if column]
    _remark(table.remarks)
    for column in used:
        _remark([problem.text for problem in problems_of(column)])
    return read(work.recipe, samples)


def _work(recipe_file: str | None) -> "Work":
    from rhabdos.figure.recipe.toml_text import Work, read_work
    from rhabdos.paint.inside import recipe_text

    if recipe_file is None:
        return Work()
    return read_work(recipe_text(recipe_file), os.path.basename(recipe_file))


def _prepared(work: "Work", recipe_file: str | None, data_file: str | None) -> "Table":
    """The table that the steps of a recipe make of a file, or of nothing."""
    from rhabdos.data.preparing import OtherTables, beginning_of, begun, prepared
    from rhabdos.data.steps.asking import Ask
    from rhabdos.data.steps.sources import Simulate, Values

    beginning = beginning_of(work.steps)
    if data_file is None and not isinstance(beginning, Simulate | Values | Ask):
        raise Refusal("The recipe does not make its data itself: name them with --data FILE.")
    beside = [os.path.dirname(file) or "." for file in (recipe_file, data_file) if file]
    return prepared(begun(beginning, data_file), work.steps, OtherTables(beside))


def _remark(sentences: Sequence[str]) -> None:
    for sentence in sentences:
        say(f"note: {sentence}")
