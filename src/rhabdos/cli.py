"""The command line: the same core without a window, and the way into it."""

import os
import sys
from collections.abc import Sequence

from rhabdos import __version__
from rhabdos.errors import Cancelled, Refusal
from rhabdos.output import finish_output, forget_output, say, write

_COMMANDS = ("variables", "convert", "numbers", "draw", "report")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run Rhabdos; returns 0, or 2 after a message on standard error."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    try:
        try:
            status = _command(given) if given and given[0] in _COMMANDS else _window(given)
        except SystemExit as end:  # argparse has answered itself
            status = end.code if isinstance(end.code, int) else 2
        finish_output()
    except Refusal as refusal:
        return say(str(refusal))
    except (KeyboardInterrupt, Cancelled):
        return say("stopped.")
    except BrokenPipeError:
        forget_output()  # the reader of our output has gone, as after “| head”; that is no fault
        return 0
    except Exception as error:  # the last resort: the details go to the log, a sentence to the user
        from rhabdos.log import unforeseen

        sentence = unforeseen(error)
        return say(sentence[0].lower() + sentence[1:])
    return status


def _command(given: list[str]) -> int:
    from rhabdos.commands import command  # which no window needs

    return command(given)


def _window(given: list[str]) -> int:
    if given in ([], ["--demo"]):  # the usual starts have nothing to be told apart
        return _shown(None, bool(given))
    from rhabdos.commands import CommandParser

    parser = CommandParser(
        prog="rhabdos",
        description="Histograms of numeric variables, and how they differ from group to group.",
        epilog="Without a window: rhabdos variables|convert|numbers|draw|report --help",
    )
    parser.add_argument(
        "file", nargs="?", metavar="FILE", help="a file of data, or a recipe, to open"
    )
    parser.add_argument(
        "--demo", action="store_true", help="open the demo data, oyster landings at three bays"
    )
    parser.add_argument("--version", action="version", version=f"rhabdos {__version__}")
    chosen = parser.parse_args(given)
    if chosen.demo and chosen.file:
        parser.error("choose either FILE or --demo")
    return _shown(chosen.file, chosen.demo)


def _shown(file: str | None, demo: bool) -> int:
    """Open the window; without a display, draw the demo to files."""
    if not _has_display():
        if demo:
            return _demo_files()
        raise Refusal(
            "There is no display for the window. Use rhabdos variables, convert, numbers or draw "
            "instead."
        )
    from rhabdos.app.shell.run import run

    try:
        return run(file, demo=demo)
    except ImportError as error:
        library, _, why = str(error).partition(": ")
        if "cannot open shared object file" not in why:
            raise
        raise Refusal(
            f"No window can be shown: the system lacks {library}. On Debian or Ubuntu, apt install "
            "libegl1 libgl1 libxkbcommon0 libdbus-1-3 libxcb-cursor0 brings what is needed."
        ) from error


def _has_display() -> bool:
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"))


def _demo_files() -> int:
    """Where there is no display, the demo draws its figure to files and says where."""
    from pathlib import Path

    from rhabdos.data.demo import demo_csv
    from rhabdos.figure.recipe.demo_recipe import demo_recipe
    from rhabdos.figure.recipe.toml_text import write_recipe
    from rhabdos.project.files import write_whole

    folder = Path("rhabdos-demo")
    folder.mkdir(exist_ok=True)
    data, recipe = folder / "oyster-landings.csv", folder / "two-harvests.toml"
    write_whole(data, demo_csv().encode())
    write_whole(recipe, write_recipe(demo_recipe()).encode())
    figures = [str(folder / f"two-harvests.{ending}") for ending in ("png", "svg", "pdf")]
    outputs = [word for figure in figures for word in ("--output", figure)]
    figure_lines = [f"  {path}" for path in (data, recipe, *figures)]
    status = _command(["draw", str(recipe), "--data", str(data), *outputs])
    where = os.path.realpath(folder)
    write(
        "\n".join(
            [f"There is no display, so the demo was drawn to files in {where}:", *figure_lines]
        )
    )
    return status


if __name__ == "__main__":
    sys.exit(main())
