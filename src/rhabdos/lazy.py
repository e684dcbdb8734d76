"""Parts of an object that are made when they are first wanted, so that a start does not wait."""

from collections.abc import Callable
from typing import Generic, Self, TypeVar, overload

_Owner = TypeVar("_Owner", contravariant=True)
_Part = TypeVar("_Part", covariant=True)


class lazy(Generic[_Owner, _Part]):  # noqa: N801 - it is written as a decorator
    """A property that is worked out once for each owner, and knows whether it has been.

    Asked of the class it is itself: ``Window.progress.made(window)`` answers without making one.
    """

    def __init__(self, make: Callable[[_Owner], _Part]) -> None:
        self._make = make
        self.__doc__ = make.__doc__

    def __set_name__(self, _owner: type, name: str) -> None:
        self._name = name

    @overload
    def __get__(self, owner: None, kind: type) -> Self: ...

    @overload
    def __get__(self, owner: _Owner, kind: type) -> _Part: ...

    def __get__(self, owner: _Owner | None, kind: type) -> Self | _Part:
        if owner is None:
            return self
        # Kept under its own name, where Python finds it from then on without asking here.
        if self._name not in owner.__dict__:
            owner.__dict__[self._name] = self._make(owner)
        part: _Part = owner.__dict__[self._name]
        return part

    def made(self, owner: _Owner) -> _Part | None:
        """The part, if it has been made."""
        part: _Part | None = owner.__dict__.get(self._name)
        return part
