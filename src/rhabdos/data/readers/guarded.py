"""Formats whose library works in a process of its own, with limits: see `rhabdos.apart`."""

import io
from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from rhabdos.apart import Limits, Overrun, apart
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.limits import ReadingError
from rhabdos.data.reporting import Report
from rhabdos.errors import Refusal
from rhabdos.quoting import file_named

if TYPE_CHECKING:
    import polars as pl

MEMORY = 5 << 29
_SECONDS, _SECONDS_A_MIB = 10, 8


def limits_for(size: int) -> Limits:
    """What the reading of a stranger's file of so many bytes may take: memory for a sheet that is
    full, and several times as long as a file of this size needs."""
    return Limits(MEMORY, _SECONDS + _SECONDS_A_MIB * (size >> 20))


def frame_apart(
    work: str, what: str, opened: OpenFile, options: Mapping[str, Any], report: Report
) -> "tuple[dict[str, Any], pl.DataFrame]":
    """What a function of `rhabdos.data.readers` answers of a file: plain values, and a frame.

    Parameters
    ----------
    work : str
        The function, such as "sheet_cells:table".
    what : str
        What the file is, such as "a workbook".

    Raises
    ------
    ReadingError
        It cannot be read so, or takes more memory or time than such a file may.
    """
    import polars as pl

    name = file_named(opened.path.name)
    limits = limits_for(opened.size)
    report(f"Reading {name}", None)
    try:
        answer, arrow = apart(
            f"rhabdos.data.readers.{work}",
            opened.stream(),
            {"name": name, **options},
            limits,
            lambda: report(f"Reading {name}", None),
        )
    except Overrun as overrun:
        raise _too_much(name, what, overrun.reason, limits) from None
    except Refusal as refusal:
        raise ReadingError(str(refusal)) from None
    return answer, pl.read_ipc(io.BytesIO(arrow))


def arrow_of(frame: "pl.DataFrame") -> bytes:
    """A frame as bytes, as `frame_apart` takes it."""
    arrow = io.BytesIO()
    frame.write_ipc(arrow)
    return arrow.getvalue()


def _too_much(name: str, what: str, reason: str, limits: Limits) -> ReadingError:
    if reason == "died":
        return ReadingError(
            f"{name} cannot be read as {what}: it may be damaged. Save it again, as XLSX or CSV."
        )
    limit = (
        f"more than {limits.memory / (1 << 30):.3g} GiB of memory"
        if reason == "memory"
        else f"longer than {limits.seconds} seconds"
    )
    far = (
        "A cell far from all others makes a sheet as large as that: delete the rows and columns "
        "behind the data, or save the sheet as CSV."
        if what == "a workbook"
        else "Save its table as CSV."
    )
    return ReadingError(f"{name} takes {limit} to read, so reading was stopped. {far}")
