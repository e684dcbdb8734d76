"""``make bench``: every ratio, and whether it keeps its bound."""

import sys

from benchmarks import binning, opening
from benchmarks.timing import Report


def main() -> int:
    report = Report()
    for part in (binning, opening):
        print(part.__doc__)
        part.run(report)
    print(f"{len(report.missed)} of the bounds missed" if report.missed else "every bound kept")
    return 1 if report.missed else 0


sys.exit(main())
