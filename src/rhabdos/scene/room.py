"""What is said where a page has no room for all words."""

from rhabdos.figure.notice import LACKS, Notice
from rhabdos.scene.marks import Scene

_CALLED = {
    "title": "the title",
    "subtitle": "the subtitle",
    "own-note": "the note",
    "note": "a remark",
    "rows": "a remark",
    "value-title": "the title of the value axis",
    "height-title": "the title of the height axis",
    "value-axis": "numbers of the value axis",
    "height-axis": "numbers of the height axis",
    "lane": "names of groups",
    "factor": "the title of groups",
    "legend": "the legend",
    "legend-title": "the legend’s title",
    "panel": "names of panels",
    "text": "a text in the figure",
    "centre": "values of means and medians",
    "box": "words beside boxes",
    "bars": "numbers on bars",
}


def room_notice(scene: Scene) -> Notice | None:
    """That words found no room, and which."""
    parts = [_CALLED.get(part, part) for part in dict.fromkeys(scene.left_out)]
    if not parts:
        return None
    named = parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"
    return Notice(
        "words-without-room",
        f"On this page there is no room for {named}. Make it larger, or the words shorter.",
        weight=LACKS,
    )
