"""``make bench``: every ratio, and whether it keeps its bound."""

from benchmarks import (
    binning,
    dressing,
    far,
    in_window,
    opening,
    panels,
    preparing,
    statistics,
    works,
)
from benchmarks.timing import Report


def main() -> None:
    report = Report()
    for part in (binning, in_window, panels, statistics, opening, preparing, dressing, works, far):
        print(part.__doc__)
        part.run(report)
    print(f"bounds missed: {'; '.join(report.missed)}" if report.missed else "every bound kept")


main()
