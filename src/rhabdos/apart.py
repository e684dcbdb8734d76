"""Work on what a stranger made, in a process of its own: with limits on memory and time, so that
whatever ends it ends nothing else.

The work is a function of the open file and a mapping of plain values; it answers with a mapping and
bytes. A refusal in it is one here too.
"""

import importlib
import json
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Mapping
from io import BytesIO
from typing import Any, BinaryIO, cast

from msgspec import Struct

from rhabdos.errors import Refusal
from rhabdos.processes import command_of

_BEAT = 0.02  # seconds between looks
_BEATS_LONGEST = 0.2  # seconds between two looks at another process
_IDLE, _LEAST_IDLE = 3, 20.0  # times its time on the processor, and seconds, that work may take
_PIECE = 1 << 20
_MOST_SAID = 4_000  # letters of what a library says that go to the log

Answer = tuple[dict[str, Any], bytes]
"""What work answers: plain values, and bytes."""


class Limits(Struct, frozen=True):
    """What work may take: bytes of memory, and seconds on the processor."""

    memory: int
    seconds: int


class Overrun(Exception):
    """Work was ended: for want of "memory", of "time", or because it "died"."""

    def __init__(self, reason: str) -> None:
        super().__init__(reason)
        self.reason = reason


def apart(
    work: str,
    source: BinaryIO,
    options: Mapping[str, Any],
    limits: Limits,
    beat: Callable[[], None] | None = None,
) -> Answer:
    """The answer of a function, such as "rhabdos.data.readers.sheet_cells:table", in a process of
    its own.

    Parameters
    ----------
    beat : callable, optional
        Called now and then while it works; may raise to end it.

    Raises
    ------
    Refusal
        As the function raised it.
    Overrun
        It took more than it may, or ended without an answer.
    """
    with (
        tempfile.TemporaryFile() as answered,
        tempfile.TemporaryFile() as said,
        _with_a_handle(source) as handed,
    ):
        handed.seek(0)
        bounds = str(limits.memory), str(limits.seconds)
        command = command_of("rhabdos.apart", work, *bounds, json.dumps(dict(options)))
        child = subprocess.Popen(
            command, stdin=handed, stdout=answered, stderr=said, close_fds=True
        )
        try:
            ended = _awaited(child, max(_LEAST_IDLE, limits.seconds * _IDLE), beat)
        finally:
            if child.poll() is None:
                child.kill()
                child.wait()
            _log(said)
        if not ended:
            raise Overrun("time")
        return _answer(answered, child.returncode)


class _with_a_handle:  # noqa: N801 - it reads as a phrase
    """A file that another process can read: the same, or its bytes in one for the while."""

    def __init__(self, source: BinaryIO) -> None:
        self._source = source
        self._copy: BinaryIO | None = None

    def __enter__(self) -> BinaryIO:
        if not isinstance(self._source, BytesIO):
            return self._source
        self._copy = cast("BinaryIO", tempfile.TemporaryFile())
        self._copy.write(self._source.getbuffer())
        self._copy.flush()
        return self._copy

    def __exit__(self, *_: object) -> None:
        if self._copy is not None:
            self._copy.close()


def _awaited(
    child: "subprocess.Popen[bytes]", most: float, beat: Callable[[], None] | None
) -> bool:
    """Whether work ended by itself within so many seconds."""
    begun, pause = time.monotonic(), _BEAT
    while time.monotonic() - begun < most:
        try:
            child.wait(pause)
        except subprocess.TimeoutExpired:
            pause = min(_BEATS_LONGEST, pause * 1.5)
            if beat:
                beat()
        else:
            return True
    return False


def _answer(answered: BinaryIO, status: int) -> Answer:
    answered.seek(0)
    line = answered.readline()
    if status < 0 or not line.endswith(b"\n"):
        import signal

        raise Overrun("time" if -status == signal.SIGXCPU else "memory" if status < 0 else "died")
    answer: dict[str, Any] = json.loads(line)
    if "refused" in answer:
        raise Refusal(answer["refused"])
    if "overrun" in answer:
        raise Overrun(answer["overrun"])
    return answer, answered.read()


def _log(said: BinaryIO) -> None:
    """What a library said of its own goes to the log."""
    said.seek(0)
    if text := said.read(_MOST_SAID).decode("utf-8", "replace").strip():
        from rhabdos.log import note

        note(text)


def main() -> None:
    """Do the work that the command line names, on the file at standard input."""
    import os

    work, memory, seconds, options = sys.argv[1:]
    _limit(int(memory), int(seconds))
    # What is written to standard output by others must not mix with the answer.
    answers = os.fdopen(os.dup(1), "wb")
    os.dup2(2, 1)
    source = os.fdopen(os.dup(0), "rb")
    payload = b""
    try:
        module, _, name = work.partition(":")
        answer, payload = getattr(importlib.import_module(module), name)(
            source, json.loads(options)
        )
    except Refusal as refusal:
        answer = {"refused": str(refusal)}
    except MemoryError:
        answer = {"overrun": "memory"}
    except Exception:  # noqa: BLE001 - whatever it was, the log has it
        import traceback

        traceback.print_exc()
        answer = {"overrun": "died"}
    answers.write(json.dumps(answer).encode() + b"\n")
    answers.write(payload)
    answers.close()
    sys.stderr.flush()
    os._exit(0)  # at once: threads of libraries have nothing left to do


def _limit(memory: int, seconds: int) -> None:
    """Take no more than this, and leave no core behind."""
    for kind, soft in (
        (resource.RLIMIT_AS, memory),
        (resource.RLIMIT_CPU, seconds),
        (resource.RLIMIT_CORE, 0),
    ):
        _, hard = resource.getrlimit(kind)
        least = soft if hard == resource.RLIM_INFINITY else min(soft, hard)
        resource.setrlimit(kind, (least, hard))


if __name__ == "__main__":
    main()
