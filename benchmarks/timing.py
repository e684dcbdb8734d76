"""Time two pieces of work by turns, so that a noisy machine is unfair to neither."""

import time
from collections.abc import Callable
from functools import cache
from statistics import median

from PyQt6.QtWidgets import QApplication


def seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def side_by_side(
    ours: Callable[[], object], theirs: Callable[[], object], rounds: int = 5, in_a_row: int = 1
) -> tuple[float, float]:
    """Median seconds of each, after one round that does not count.

    ``in_a_row`` runs ours several times a turn, as it happens while a hand drags; their turn
    between the rounds empties the processor's caches.
    """
    ours()
    theirs()
    mine: list[float] = []
    others: list[float] = []
    for _ in range(rounds):
        mine += [seconds(ours) for _ in range(in_a_row)]
        others.append(seconds(theirs))
    return median(mine), median(others)


class Report:
    """Prints each ratio beside the bound that it is held to."""

    def __init__(self) -> None:
        self.missed: list[str] = []

    def ratio(
        self, what: str, ours: float, theirs: float, bound: float, against: str, unit: str = "s"
    ) -> None:
        share = ours / theirs
        kept = share <= bound
        shown = f"{share:.3g}" if share >= 0.1 else f"1/{1 / share:,.0f}"
        most = f"{bound:g}" if bound >= 1 else f"1/{1 / bound:g}"
        print(f"{'ok  ' if kept else 'MISS'}  {what}: {shown} of {against} (at most {most})")
        print(f"        {_shown(ours, unit)} against {_shown(theirs, unit)}")
        if not kept:
            self.missed.append(what)

    def say(self, text: str) -> None:
        print(f"      {text}")


def _shown(value: float, unit: str) -> str:
    if unit == "MB":
        return f"{value / 1e6:.0f} MB"
    if value >= 1:
        return f"{value:.2f} s"
    return f"{1000 * value:.3g} ms" if value >= 1e-3 else f"{1e6 * value:.3g} µs"


@cache
def painting() -> QApplication:
    """The application that painting needs; the same for all parts, since Qt has but one."""
    return QApplication([])
