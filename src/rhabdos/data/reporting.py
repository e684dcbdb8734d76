"""How long work tells how far it is."""

from collections.abc import Callable

Report = Callable[[str, float | None], None]
"""Told a stage and the share done (None where unknown); raises Cancelled when the user has stopped
the task."""


def silent(_stage: str, _share: float | None) -> None:
    """A report that nobody reads."""
