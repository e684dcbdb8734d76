"""Work through long arrays piece by piece, on as many processors as there are.

A piece stays near the processor, so that what is looked at a second time need not be fetched
again; NumPy lets other threads run while it works on one.
"""

import os
from collections.abc import Callable
from typing import TypeVar

_PIECE = 1 << 18  # rows, that stay in the processor's cache
_LONG = 1 << 20  # values from which on threads are worth their while
_HANDS = max(1, min(8, os.cpu_count() or 1))
_Result = TypeVar("_Result")


def in_pieces(length: int, work: Callable[[slice], _Result]) -> list[_Result]:
    """The answers of ``work`` for successive pieces of an array, in their order."""
    if length < _LONG:
        return _some(0, length, work)
    from concurrent.futures import ThreadPoolExecutor  # which no small table needs

    share = -(-length // _HANDS)
    starts = range(0, length, share)
    # NumPy lets other threads go on while it works, so that these share the processors.
    with ThreadPoolExecutor(_HANDS) as threads:
        parts = threads.map(lambda start: _some(start, min(length, start + share), work), starts)
        return [answer for part in parts for answer in part]


def in_halves(count: int, work: Callable[[slice], None]) -> None:
    """Let ``work`` do as large parts of so many things as there are processors."""
    from concurrent.futures import ThreadPoolExecutor

    share = max(1, -(-count // _HANDS))
    with ThreadPoolExecutor(_HANDS) as threads:
        parts = (slice(start, min(count, start + share)) for start in range(0, count, share))
        list(threads.map(work, parts))


def _some(start: int, end: int, work: Callable[[slice], _Result]) -> list[_Result]:
    return [work(slice(at, min(end, at + _PIECE))) for at in range(start, end, _PIECE)]
