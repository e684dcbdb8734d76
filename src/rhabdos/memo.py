"""Answers that are worked out once, and kept with the value that they are about.

That value, the first argument, owns its answers: they go with it. It is frozen, so that they stay
true, and has a ``__dict__``. Everything else that an answer depends on is in its key, and keys are
compared by value.
"""

from collections.abc import Callable, Hashable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

_More = ParamSpec("_More")
_Answer = TypeVar("_Answer")
_Owner = TypeVar("_Owner")
_Work = Callable[Concatenate[_Owner, _More], _Answer]

_FEW = 8
"""Answers that are kept where there are too many of them to keep all: the figure's own, and those
of the small pictures that stand beside it."""


def memoised(work: _Work[_Owner, _More, _Answer]) -> _Work[_Owner, _More, _Answer]:
    """A function whose answers are all kept with its first argument.

    The others are plain values: they must hold no other owner, which would then live as long.
    """

    name = _name_of(work)

    @wraps(work)
    def answer(owner: _Owner, /, *args: _More.args, **more: _More.kwargs) -> _Answer:
        """The kept answer, or a new one."""
        answers = _answers_of(owner, name)
        key: Hashable = (args, tuple(sorted(more.items()))) if more else args
        if key not in answers:
            answers[key] = work(owner, *args, **more)
        known: _Answer = answers[key]
        return known

    return answer


def last_answers(
    key: Callable[Concatenate[_Owner, _More], object], most: int = _FEW
) -> Callable[[_Work[_Owner, _More, _Answer]], _Work[_Owner, _More, _Answer]]:
    """A function of which the last few answers are kept with its first argument.

    Parameters
    ----------
    key : callable
        What an answer depends on, of all arguments; compared by ``==`` only, so that it may hold
        what has no hash.
    most : int
        How many answers are kept; few of those that are large.
    """

    def decorated(work: _Work[_Owner, _More, _Answer]) -> _Work[_Owner, _More, _Answer]:
        """The function with its memory."""
        name = _name_of(work)

        @wraps(work)
        def answer(owner: _Owner, /, *args: _More.args, **more: _More.kwargs) -> _Answer:
            """The kept answer, or a new one, which the oldest gives way to."""
            memory, wanted = _answers_of(owner, name), key(owner, *args, **more)
            known: tuple[tuple[object, _Answer], ...] = memory.get("last", ())
            for kept, earlier in known:
                if kept == wanted:
                    return earlier
            fresh = work(owner, *args, **more)
            # Put in place as a whole: threads may ask at the same time, and at worst work twice.
            memory["last"] = ((wanted, fresh), *known[: most - 1])
            return fresh

        return answer

    return decorated


def _name_of(work: Callable[..., object]) -> str:
    return f"{work.__module__}.{work.__qualname__}"


def _answers_of(owner: object, name: str) -> dict[Hashable, Any]:
    """The answers of one function that an owner has."""
    memory: dict[str, dict[Hashable, Any]] = owner.__dict__.setdefault("_answers", {})
    return memory.setdefault(name, {})
