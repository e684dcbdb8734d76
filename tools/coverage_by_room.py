"""How much of each room the tests run: ``coverage_by_room.py REPORT.json [FLOOR]``.

Fails where a room is below the floor, in percent.
"""

import json
import sys
from collections import defaultdict
from pathlib import Path

APART = {"data/readers": 55.0, "(whole house)": 70.0}
"""Floors of rooms of which much runs in processes of their own, where nobody counts."""


def main(report: Path, floor: float) -> int:
    rooms: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    for name, file in json.loads(report.read_text())["files"].items():
        inside = Path(name).parts[Path(name).parts.index("rhabdos") + 1 :]
        room = "/".join(inside[:-1][:2]) or "(whole house)"
        rooms[room][0] += file["summary"]["covered_lines"]
        rooms[room][1] += file["summary"]["num_statements"]
    low = []
    for room, (run, all_) in sorted(rooms.items()):
        share = 100 * run / all_ if all_ else 100.0
        print(f"{room:20} {share:5.1f} % of {all_:6,} statements")
        if share < min(floor, APART.get(room, floor)):
            low.append(room)
    if low:
        print(f"Below {floor:g} %: {', '.join(low)}. Write tests for what they do.")
    return 1 if low else 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1]), float(sys.argv[2]) if len(sys.argv) > 2 else 0.0))
