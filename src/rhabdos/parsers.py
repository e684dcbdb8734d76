"""What may be typed on the command line: one parser, of which --help, the page of the manual and
the completions of shells are made."""

import argparse
import difflib
import sys
from collections.abc import Sequence
from typing import Any, NoReturn

from rhabdos import __version__
from rhabdos.output import say, write

COMMANDS = {
    "variables": "list the variables of a file, and what looks wrong with them",
    "convert": "write a table, prepared by the steps of a recipe",
    "numbers": "print every number behind a figure",
    "draw": "draw a figure, or all of a work, to files",
    "report": "write of a figure, or of all of a work",
}
"""What can be done without a window, with the words for each."""

_ABOUT = {
    "variables": "Lists each variable of a file with its kind, how many values it has and lacks, "
    "its levels, and what looks wrong with it. Remarks go to standard error.",
    "convert": "Writes the rows of a file as CSV or Parquet, after the steps of a recipe if one is "
    "named.",
    "numbers": "Prints bins, heights, curves, boxes, summaries and comparisons of a figure, with "
    "all digits.",
    "draw": "Draws a recipe of some data, or all figures of a work, as PNG, SVG or PDF; with "
    "--each one figure for each variable, level or file.",
    "report": "Writes sentences, tables, notices, methods and figures of a recipe or a work as one "
    "HTML page, PDF or Markdown.",
}
_EXAMPLES = {
    "variables": "rhabdos variables landings.csv --format json",
    "convert": "rhabdos convert landings.csv landings.parquet --recipe bays.toml",
    "numbers": "rhabdos numbers bays.toml --data landings.csv --format csv",
    "draw": "rhabdos draw bays.toml --data landings.csv --output bays.pdf --size 16x10cm",
    "report": "rhabdos report bays.toml --data landings.csv --output bays.html",
}
_DATA = "the data: a file, a folder of Parquet files, or an address; needed unless the recipe's "
_DATA_HELP = f"{_DATA}steps make them"


class CommandParser(argparse.ArgumentParser):
    """Prints its help as all output is printed, and refuses in one sentence."""

    def _print_message(self, message: str, file: Any = None) -> None:
        if file is not None and file is sys.stderr:
            super()._print_message(message, file)
        elif message:
            write(message.rstrip("\n"))

    def __init__(self, **how: Any) -> None:
        super().__init__(allow_abbrev=False, **how)

    def parse_known_args(  # type: ignore[override]
        self, args: Sequence[str] | None = None, namespace: argparse.Namespace | None = None
    ) -> tuple[argparse.Namespace, list[str]]:
        """Refuse an option that is unknown before anything else that is wrong."""
        whole = not any(isinstance(a, argparse._SubParsersAction) for a in self._actions)
        for word in (args or ()) if whole else ():
            if word == "--":
                break
            name = word.partition("=")[0]
            if name.startswith("--") and name not in self._option_string_actions:
                self.error(f"unrecognized arguments: {name}")
        return super().parse_known_args(args, namespace)

    def error(self, message: str) -> NoReturn:
        """End with what is wrong, and where to read what is right."""
        _, _, unknown = message.partition("unrecognized arguments: ")
        word = unknown.split(" ")[0].partition("=")[0]
        near = difflib.get_close_matches(word, self._option_string_actions, 1) if word else []
        meant = f" (did you mean {near[0]}?)" if near else ""
        command = self.prog.partition(" ")[2]
        say(f"{message}{meant}. See rhabdos help{' ' if command else ''}{command}.")
        raise SystemExit(2)


def command_parser() -> CommandParser:
    """Of the commands that need no window."""
    parser = CommandParser(prog="rhabdos")
    add_commands(parser)
    return parser


def window_parser() -> CommandParser:
    """Of a start of the window."""
    listed = "\n".join(f"  {name:<10} {words}" for name, words in COMMANDS.items())
    parser = CommandParser(
        prog="rhabdos",
        formatter_class=argparse.RawDescriptionHelpFormatter,
        description="Histograms of numeric variables, and how they differ from group to group.",
        epilog=f"without a window:\n{listed}\n\nrhabdos help COMMAND tells what each takes.",
    )
    _add_window(parser)
    return parser


def whole_parser() -> CommandParser:
    """Of all of it, for the page of the manual and for completions."""
    parser = CommandParser(
        prog="rhabdos",
        description="Builds histograms, density curves and box plots of numeric variables, and "
        "compares distributions across groups. Without a command its window opens.",
    )
    _add_window(parser, files=False)
    add_commands(parser)
    return parser


def _add_window(parser: argparse.ArgumentParser, files: bool = True) -> None:
    if files:
        parser.add_argument(
            "file",
            nargs="*",
            metavar="FILE",
            help="data, a recipe, a work, a figure with its recipe inside, or an address, to open",
        )
    parser.add_argument(
        "--demo", action="store_true", help="open the demo data, oyster landings at three bays"
    )
    parser.add_argument(
        "--new-window", action="store_true", help="open a window more, whatever is open"
    )
    parser.add_argument(
        "--integrate",
        nargs="?",
        const="add",
        choices=("add", "remove"),
        help="put the program into the menu of the desktop, for this user, or take it out",
    )
    parser.add_argument("-V", "--version", action="version", version=f"rhabdos {__version__}")


def add_commands(parser: argparse.ArgumentParser) -> None:
    """Add the commands that need no window."""
    commands = parser.add_subparsers(
        dest="command", required=True, metavar="COMMAND", parser_class=CommandParser
    )
    of_commands = {
        name: commands.add_parser(
            name, help=words, description=_ABOUT[name], epilog=f"example: {_EXAMPLES[name]}"
        )
        for name, words in COMMANDS.items()
    }
    _add_variables(of_commands["variables"])
    _add_convert(of_commands["convert"])
    _add_numbers(of_commands["numbers"])
    _add_draw(of_commands["draw"])
    _add_report(of_commands["report"])


def _add_variables(variables: argparse.ArgumentParser) -> None:
    variables.add_argument("file", metavar="FILE", help="the data")
    variables.add_argument(
        "--format", choices=("text", "json"), default="text", help="as lines to read, or JSON"
    )
    variables.add_argument("--recipe", metavar="RECIPE", help="prepare the data by its steps first")


def _add_convert(convert: argparse.ArgumentParser) -> None:
    convert.add_argument("file", metavar="FILE", help="the data")
    convert.add_argument("output", metavar="OUT", help="a .csv or a .parquet")
    convert.add_argument("--recipe", metavar="RECIPE", help="the recipe whose steps prepare it")


def _add_numbers(numbers: argparse.ArgumentParser) -> None:
    numbers.add_argument("recipe", metavar="RECIPE", help="a recipe, or a work (.rhabdos)")
    numbers.add_argument("--data", metavar="FILE", help=_DATA_HELP)
    numbers.add_argument(
        "--format", choices=("json", "csv"), default="json", help="as JSON, or as rows of CSV"
    )


def _add_report(report: argparse.ArgumentParser) -> None:
    report.add_argument("recipe", metavar="RECIPE", help="a recipe, or a work (.rhabdos)")
    report.add_argument("--data", metavar="FILE", help=_DATA_HELP)
    report.add_argument("--output", required=True, metavar="OUT", help="an .html, .pdf or .md")
    report.add_argument("--title", default="", metavar="TITLE", help="what stands over it")


def _add_draw(draw: argparse.ArgumentParser) -> None:
    draw.add_argument("recipe", metavar="RECIPE", help="a recipe, or a work (.rhabdos)")
    draw.add_argument("--data", metavar="FILE", nargs="+", help=_DATA_HELP)
    draw.add_argument(
        "--each",
        metavar="WHAT",
        help="one figure for each: variable, level:FACTOR, or file (of those after --data)",
    )
    draw.add_argument(
        "--scales",
        choices=("free", "same"),
        default="free",
        help="of many figures: each its own axes, or all the same where they can (free)",
    )
    draw.add_argument(
        "--one-page", action="store_true", help="of many figures: all set together on one page"
    )
    draw.add_argument("--page", type=int, metavar="N", help="of a work: its page of that number")
    draw.add_argument("--numbers", metavar="CSV", help="of many figures: a file for all numbers")
    draw.add_argument(
        "--output",
        required=True,
        action="append",
        metavar="OUT",
        help="a .png, .svg or .pdf; of many figures with {name} or {number} in it, or a .pdf for "
        "a page each; repeatable",
    )
    draw.add_argument(
        "--size", metavar="WxHunit", help="such as 16x10cm or 1600x1000px; by default the recipe's"
    )
    draw.add_argument("--dpi", type=float, default=300.0, help="dots per inch of a PNG (300)")
    draw.add_argument("--transparent", action="store_true", help="leave the paper out")
    draw.add_argument(
        "--letters",
        choices=("text", "embedded", "outlines"),
        default="text",
        help="how an SVG holds words (text)",
    )
    draw.add_argument("--look", metavar="LOOK", help="a look that was saved, by its name or file")
    draw.add_argument(
        "--without-recipe", action="store_true", help="leave the recipe out of the files"
    )
