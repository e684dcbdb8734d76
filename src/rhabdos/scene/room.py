"""What is said where a page has no room for all words, or an axis for all heights."""

from rhabdos.figure.notice import HIDES, LACKS, Notice
from rhabdos.figure.recipe import Recipe
from rhabdos.scene.marks import Scene
from rhabdos.wording import exact

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


def cut_notice(scene: Scene, recipe: Recipe) -> Notice | None:
    """That heights are cut where their axis ends, and how far they reach."""
    if scene.cut is None:
        return None
    top, reached = scene.cut
    return Notice(
        "heights-beyond",
        f"Heights reach to {exact(float(f'{reached:.4g}'))} and are cut at {exact(top)}, where "
        "their axis ends.",
        recipe.with_height_axis(high=None),
        "show all of them",
        HIDES,
    )
