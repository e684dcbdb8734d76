"""Where the program begins: the work is done by a process of its own, so that there is a sentence
even where the system ends it, and what libraries say of their own goes to the log.

Nothing else is imported before the work is parted off.
"""

import contextlib
import os
import sys

_LEAST = 3 << 29  # bytes of address space that the libraries need to begin with
_LITTLE = 6 << 30  # bytes of address space below which work is not shared among threads
_STUCK = 30.0  # seconds without any work, where memory is short, that nothing comes after
_BEAT = 0.2  # seconds between two looks at whether the work goes on
_MOST_SAID = 20_000  # bytes of what libraries say that go to the log
_NO_WINDOW = "no Qt platform plugin could be initialized"  # what Qt says before it ends a program
_SHORT = (
    "rhabdos: there is too little memory for this, and the system ended it. Close other programs, "
    "or take a part of the rows or columns."
)


def main() -> int:
    """Run the program as its user starts it; the status that it ends with."""
    if (least := _address_space()) < _LEAST:
        os.write(
            2,
            f"rhabdos: the limit on memory here is {least / (1 << 20):.0f} MiB, and less than "
            f"{_LEAST >> 20} MiB do not do. Raise it (ulimit -v).\n".encode(),
        )
        return 2
    said = os.memfd_create("said")
    child = os.fork()
    if child == 0:
        _work(said)
    status = _awaited(child, said)
    _log(said)
    return status


def _work(said: int) -> None:
    """Do the work, and end this process; what is not ours on standard error goes to a file."""
    status = 2
    try:
        errors = os.dup(2)
        os.dup2(said, 2)
        sys.stderr = os.fdopen(errors, "w", buffering=1, errors="backslashreplace")
        if _address_space() < _LITTLE:
            for name in ("POLARS_MAX_THREADS", "OPENBLAS_NUM_THREADS", "RAYON_NUM_THREADS"):
                os.environ.setdefault(name, "1")
        from rhabdos.cli import main as run
        from rhabdos.log import quieten_libraries

        quieten_libraries()
        status = run()
    except SystemExit as end:  # the parser of arguments ends so
        status = end.code if isinstance(end.code, int) else 2
    except BaseException as error:  # noqa: BLE001 - whatever it is, somebody waits for a sentence
        import traceback

        os.write(said, traceback.format_exc().encode("utf-8", "replace")[-_MOST_SAID:])
        if _address_space() < _LITTLE:
            print(_SHORT, file=sys.stderr)
        else:
            print(f"rhabdos: something unforeseen went wrong ({error}).", file=sys.stderr)
    finally:
        for stream in (sys.stdout, sys.stderr):
            if stream is not None:
                with contextlib.suppress(OSError, ValueError):
                    stream.flush()
        os._exit(status)


def _address_space() -> float:
    """Bytes that this process may address; without end, as a rule."""
    import resource

    soft, _ = resource.getrlimit(resource.RLIMIT_AS)
    return float("inf") if soft == resource.RLIM_INFINITY else float(soft)


def _awaited(child: int, said: int) -> int:
    """The status that the work ends with; a sentence where the system ends it."""
    import signal
    import time

    def pass_on(number: int, _frame: object) -> None:
        """What this process is told is meant for the work."""
        with contextlib.suppress(ProcessLookupError):
            os.kill(child, number)

    signal.signal(signal.SIGINT, signal.SIG_IGN)  # the terminal tells the work itself
    for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGQUIT):
        signal.signal(number, pass_on)
    watched = _address_space() < _LITTLE
    worked, since = -1, time.monotonic()
    while True:
        ended, status = os.waitpid(child, os.WNOHANG if watched else 0)
        if ended:
            break
        # How much it worked tells apart what is slow and what is stuck.
        time.sleep(_BEAT)
        if (now := _work_of(child)) != worked:
            worked, since = now, time.monotonic()
        elif time.monotonic() - since > _STUCK:
            os.kill(child, signal.SIGKILL)
    code = os.waitstatus_to_exitcode(status)
    if code >= 0:
        return code
    if -code in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT, signal.SIGQUIT, signal.SIGPIPE):
        return 128 - code
    os.write(2, f"{_no_window(said) or _SHORT}\n".encode())
    return 2


def _no_window(said: int) -> str:
    """Why no window can be shown, if Qt said that; it ends a program itself."""
    text = _read(said)
    if _NO_WINDOW not in text:
        return ""
    sentences = {
        "could not connect to display": "the display cannot be reached ({})",
        "is needed to load": "a library of the system is missing ({}): on Debian or Ubuntu, "
        "apt install libxcb-cursor0",
        "Could not find the Qt platform plugin": "QT_QPA_PLATFORM names none that is there ({})",
    }
    lines = [line.partition(": ")[2].strip() for line in text.splitlines()]
    because = [
        why.format(line)
        for line in lines
        for sign, why in sentences.items()
        if sign in line and (sign != "is needed to load" or not _has_cursors())
    ]
    reason = "; ".join(because) or "Qt does not say why"
    return (
        f"rhabdos: no window can be shown: {reason}. Use rhabdos variables, convert, numbers or "
        "draw instead."
    )


def _has_cursors() -> bool:
    """Whether the library is there that Qt always names when it cannot show a window."""
    from ctypes.util import find_library

    return find_library("xcb-cursor") is not None


def _read(said: int) -> str:
    """The last of what libraries said on standard error."""
    size = os.fstat(said).st_size
    return os.pread(said, _MOST_SAID, max(0, size - _MOST_SAID)).decode("utf-8", "replace")


def _work_of(process: int) -> int:
    """The ticks that a process has worked so far."""
    try:
        with open(f"/proc/{process}/stat", "rb") as file:
            fields = file.read().rpartition(b")")[2].split()
    except OSError:
        return 0
    return int(fields[11]) + int(fields[12])


def _log(said: int) -> None:
    """What libraries said on standard error, in the log."""
    text = _read(said).strip()
    if not text:
        return
    from rhabdos.log import note

    with contextlib.suppress(OSError):  # there is nobody left to tell
        note(text)


if __name__ == "__main__":
    sys.exit(main())
