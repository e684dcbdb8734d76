"""What is printed: to standard output, or to standard error where something is wrong."""

import codecs
import os
import sys
from contextlib import suppress

from rhabdos.errors import Refusal


def say(sentence: str) -> int:
    """Tell what is wrong on standard error, where there is one."""
    if sys.stderr is not None:
        with suppress(OSError):
            print(f"rhabdos: {sentence}", file=sys.stderr, flush=True)
    return 2


def write(text: str, escapes: str = "backslashreplace") -> None:
    """Write to standard output, with ``escapes`` for what its encoding lacks.

    Raises
    ------
    Refusal
        It is closed, or full.
    """
    if sys.stdout is None:
        raise Refusal(
            "Standard output is closed, so nothing could be printed. Send it to a file or a "
            "terminal."
        )
    encoding = getattr(sys.stdout, "encoding", None) or "utf-8"
    try:
        print(text.encode(encoding, escapes).decode(encoding))
    except BrokenPipeError:
        raise
    except OSError as error:
        raise _not_printed(error) from error


def finish_output() -> None:
    """Let nothing be left in a buffer that cannot be written."""
    if sys.stdout is not None:
        try:
            sys.stdout.flush()
        except BrokenPipeError:
            raise
        except OSError as error:
            raise _not_printed(error) from error


def _not_printed(error: OSError) -> Refusal:
    forget_output()
    return Refusal(
        f"The output could not be written: {(error.strerror or str(error)).lower()}. Send it "
        "elsewhere."
    )


def forget_output() -> None:
    """Send what is still buffered nowhere, so that the end of the program does not stumble over
    it."""
    os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())


def _json_escape(error: UnicodeError) -> tuple[str, int]:
    """Stand in for letters that an encoding lacks with what JSON has for them."""
    assert isinstance(error, UnicodeEncodeError)
    lacking = error.object[error.start : error.end].encode("utf-16-be", "surrogatepass")
    units = (lacking[i : i + 2].hex() for i in range(0, len(lacking), 2))
    return "".join(f"\\u{unit}" for unit in units), error.end


codecs.register_error("rhabdos.json", _json_escape)
