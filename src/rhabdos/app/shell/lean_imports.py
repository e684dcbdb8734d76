"""Libraries loaded without those of their parts that a window has no use for: a tenth to a
fifth of its start."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import import_module
from types import ModuleType
from typing import Any

_Parts = dict[str, dict[str, Any] | None]


def load_lean() -> None:
    """Load msgspec and NumPy without what they import for a few of their functions, what helps at a
    prompt and what type checkers read."""
    for_later: _Parts = {name: {} for name in ("pickle", "ctypes", "ast", "textwrap")}
    for_later["platform"] = {"system": lambda: "Linux"}
    with _standing_in({"typing_extensions": None, **for_later}):
        import msgspec  # noqa: F401 - it takes Python's own typing then
    with _standing_in(
        {
            "inspect": {"signature": lambda _: None, "cleandoc": str},
            "numpy._core._add_newdocs": {},
            "numpy._core._add_newdocs_scalars": {},
            "numpy._typing": {"NDArray": list},
            **for_later,
        }
    ):
        import numpy as np  # noqa: F401


class _StandIn(ModuleType):
    """A module with a few names, which gives way to the real one when more is asked of it."""

    def __init__(self, name: str, names: dict[str, Any]) -> None:
        super().__init__(name)
        vars(self).update(names)

    def __getattr__(self, name: str) -> Any:
        if name.startswith("__"):  # by which an import finds out what it has before it
            raise AttributeError(name)
        if sys.modules.get(self.__name__) is self:
            del sys.modules[self.__name__]
        return getattr(import_module(self.__name__), name)


@contextmanager
def _standing_in(parts: _Parts) -> Iterator[None]:
    """Let imports find no more than these names in modules meanwhile, or no module at all; what is
    loaded already stays as it is, and what is wanted afterwards is loaded then."""
    standing = {
        name: None if names is None else _StandIn(name, names)
        for name, names in parts.items()
        if name not in sys.modules
    }
    sys.modules.update(standing)  # type: ignore[arg-type]  # None is how Python is told of none
    try:
        yield
    finally:
        for name, stand_in in standing.items():
            if sys.modules[name] is stand_in:
                del sys.modules[name]
