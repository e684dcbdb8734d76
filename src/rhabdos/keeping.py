"""Keeping what was worked out: with the value that it was worked out of, and let go with it."""

from collections.abc import Callable, Hashable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

_More = ParamSpec("_More")
_Answer = TypeVar("_Answer")
_Owner = TypeVar("_Owner")


def kept(owner: object, key: Hashable, work: Callable[[], _Answer]) -> _Answer:
    """The answer of ``work``, worked out once for this owner and key.

    The owner is a frozen value, so that the answer never changes; it must have a ``__dict__``. The
    key must not hold another owner, which would then live as long.
    """
    answers: dict[Hashable, Any] = owner.__dict__.setdefault("_kept", {})
    if key not in answers:
        answers[key] = work()  # whole at once, since threads may ask at the same time
    answer: _Answer = answers[key]
    return answer


def kept_last(owner: object, name: str, key: Hashable, work: Callable[[], _Answer]) -> _Answer:
    """The answer of ``work`` for the last key only, for what has too many of them to keep all."""
    last: dict[str, tuple[Hashable, Any]] = owner.__dict__.setdefault("_kept_last", {})
    known = last.get(name)
    if known is None or known[0] != key:
        last[name] = known = key, work()
    answer: _Answer = known[1]
    return answer


def kept_with(
    work: Callable[Concatenate[_Owner, _More], _Answer],
) -> Callable[Concatenate[_Owner, _More], _Answer]:
    """A function whose answers are kept with its first argument; the others are plain values."""

    @wraps(work)
    def answer(owner: _Owner, /, *args: _More.args, **kwargs: _More.kwargs) -> _Answer:
        """The kept answer, or a new one."""
        key = (work.__module__, work.__qualname__, args, tuple(sorted(kwargs.items())))
        return kept(owner, key, lambda: work(owner, *args, **kwargs))

    return answer
