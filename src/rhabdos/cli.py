"""The command line: the same core without a window, and the way into it."""

import os
import sys
from collections.abc import Sequence

from rhabdos.errors import Cancelled, Refusal
from rhabdos.output import finish_output, forget_output, say, write
from rhabdos.quoting import quoted

_COMMANDS = ("variables", "convert", "numbers", "draw", "report")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run Rhabdos; returns 0, or 2 after a message on standard error."""
    given = [_as_path(word) for word in (sys.argv[1:] if arguments is None else arguments)]
    try:
        try:
            status = _done(given)
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


def _done(given: list[str]) -> int:
    """Do what was typed."""
    if given in ([], ["--demo"]):  # the usual starts have nothing to be told apart
        return _shown([], bool(given))
    first = given[0]
    if first in _COMMANDS:
        return _command(given)
    if first == "help":
        return _help(given[1:])
    return _window(given)


def _as_path(word: str) -> str:
    """The path that an address file:///… stands for, also behind an option's “=”."""
    option, equals, rest = word.partition("=") if word.startswith("--") else ("", "", word)
    if not rest.casefold().startswith("file://") or os.path.lexists(rest):
        return word
    from urllib.parse import unquote, urlsplit

    parts = urlsplit(rest)
    if parts.netloc not in ("", "localhost") or not parts.path:
        return word
    return f"{option}{equals}{unquote(parts.path)}"


def _command(given: list[str]) -> int:
    from rhabdos.commands import command  # which no window needs

    return command(given)


def _help(given: list[str]) -> int:
    """Tell what can be typed, of one command or of all."""
    if given and given[0] not in _COMMANDS:
        return say(f"there is no command “{given[0]}”{_near(given[0])}. See rhabdos help.")
    from rhabdos.parsers import command_parser, window_parser

    if given:
        command_parser().parse_args([given[0], "--help"])
    window_parser().print_help()
    return 0


def _near(word: str) -> str:
    """Which command was perhaps meant."""
    import difflib

    near = difflib.get_close_matches(word, [*_COMMANDS, "help"], 1, 0.7)
    return f" (did you mean {near[0]}?)" if near else ""


def _window(given: list[str]) -> int:
    from rhabdos.parsers import window_parser

    parser = window_parser()
    chosen = parser.parse_args(given)
    files: list[str] = chosen.file
    if chosen.integrate:
        if files or chosen.demo:
            parser.error("--integrate stands alone")
        from rhabdos.integrating import integrate

        return integrate(chosen.integrate == "remove")
    if chosen.demo and files:
        parser.error("choose either FILE or --demo")
    for file in files:
        _refuse_unknown(file)
    if not chosen.new_window and not chosen.demo:
        from rhabdos.handing_over import handed_over

        files = [file for file in files if not handed_over(file)]
        if chosen.file and not files:
            return 0
    return _shown(files, chosen.demo)


def _refuse_unknown(file: str) -> None:
    """Refuse what is neither there nor an address.

    Raises
    ------
    Refusal
        There is no such file or command.
    """
    if os.path.lexists(file):
        return
    from rhabdos.data.far.place import is_address

    if is_address(file):
        return
    if os.sep not in file and "." not in file:
        raise Refusal(
            f"There is no file and no command {quoted(file)}{_near(file)}. See rhabdos help."
        )
    raise Refusal(f"There is no file {quoted(file)}. Look how it is written, and where it lies.")


def _shown(files: list[str], demo: bool) -> int:
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
        return run(files, demo=demo)
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
