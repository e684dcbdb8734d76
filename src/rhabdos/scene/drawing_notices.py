"""What is said of a drawing: words that the page has no room for, heights that an axis cuts, texts
that stand nowhere."""

from rhabdos.figure.edits.placed_texts import Standing, shown_value, value_of
from rhabdos.figure.edits.ranges import range_told
from rhabdos.figure.readings.axis_limits import range_ends
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_strokes import Drawn
from rhabdos.figure.words.notice import HIDES, LACKS, Notice, listed_briefly
from rhabdos.quoting import quoted, shortened_to
from rhabdos.scene.marks import Area, Path, Scene, Segments
from rhabdos.scene.style.look import mix, style_of
from rhabdos.scene.style.palette import contrast
from rhabdos.wording import about, exact

_CALLED = {
    "title": "the title",
    "letters": "letters as large as the look has them",
    "sizes": "n beside names",
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
    "legend-form": "the legend",
    "legend-title": "the legend’s title",
    "panel": "names of panels",
    "text": "a text in the figure",
    "range": "the words of a range",
    "centre": "values of means and medians",
    "box": "words beside boxes",
    "bars": "numbers on bars",
    "points": "words beside points",
    "shift": "names beside arrows",
    "pairs": "shares beside quantile pairs",
    "levels": "names or numbers of levels",
}

_FILLED = ("bars", "box")  # parts that are fills, and what their lines are called
_LINES: tuple[Drawn, ...] = ("bars", "box")
_SEEN = 1.15  # contrast to the paper, from which on something is seen
_LONGEST_TEXT = 30  # letters of a text that a notice quotes


def drawing_notices(scene: Scene, readings: Readings) -> list[Notice]:
    """All that is to be said of how a figure was drawn."""
    told = (
        room_notice(scene),
        cut_notice(scene, readings.recipe),
        texts_notice(scene, readings),
        ranges_notice(scene, readings),
        vanishing_notice(scene, readings),
    )
    return [notice for notice in told if notice]


def room_notice(scene: Scene) -> Notice | None:
    """That words found no room, and which."""
    parts = list(dict.fromkeys(_CALLED.get(part, part) for part in scene.left_out))
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
        f"Heights reach to {about(reached, 4)} and are cut at {exact(top)}, where their axis ends.",
        recipe.with_height_axis(high=None),
        "show all of them",
        HIDES,
    )


def vanishing_notice(scene: Scene, readings: Readings) -> Notice | None:
    """That fills, and the lines around them, are as the paper and cannot be seen."""
    style = style_of(readings.recipe)
    paper = style.ground or style.paper
    fills: dict[int, bool] = {}
    seen: set[int] = set()
    for mark in scene.marks:
        if not isinstance(mark, Area | Path | Segments) or mark.meaning is None:
            continue
        group = mark.meaning.group
        if mark.meaning.part not in _FILLED or group is None:
            continue
        if isinstance(mark, Area):
            shown = mix(paper, mark.fill, mark.opacity)
            fills[group] = fills.get(group, True) and contrast(shown, paper) < _SEEN
            fills[group] = fills[group] and not mark.hatch
        elif mark.width > 0 and contrast(mark.colour, paper) >= _SEEN:
            seen.add(group)
    gone = [group for group, vanishes in fills.items() if vanishes and group not in seen]
    if not gone:
        return None
    named = listed_briefly([readings.groups[group].label for group in sorted(gone)])
    strokes = readings.recipe.strokes
    lines = {
        name: strokes.of(name).changed(colour=style.ink, width=strokes.of(name).width or 1.0)
        for name in _LINES
    }
    return Notice(
        "fill-vanishes",
        f"The fill of {named} is as the paper and has no line around it: it cannot be seen.",
        readings.recipe.changed(strokes=strokes.changed(**lines)),
        "outline it in ink",
        HIDES,
    )


def texts_notice(scene: Scene, readings: Readings) -> Notice | None:
    """That texts in the figure, or arrows from them, are where no axis reaches, or no panel is."""

    def reached(standing: Standing, panel: str | None) -> bool:
        """Whether one of its frames has its value."""
        value, panels = value_of(readings, standing, panel), readings.plan.panels
        return any(
            frame.low <= value <= frame.high
            for frame in scene.frames
            if panel is None or panels[frame.panel].label == panel
        )

    gone = []
    for text in readings.recipe.text:
        called = quoted(shortened_to(_LONGEST_TEXT, text.text))
        if not reached(text, text.panel):
            panel = f" in the panel {quoted(text.panel)}" if text.panel is not None else ""
            gone.append(f"{called} at {shown_value(readings, text, text.panel)}{panel}")
        elif text.arrow is not None and not reached(text.arrow, text.panel):
            to = shown_value(readings, text.arrow, text.panel)
            gone.append(f"the arrow of {called} to {to}")
    if not gone:
        return None
    named = gone[0] if len(gone) == 1 else f"{', '.join(gone[:-1])} and {gone[-1]}"
    return Notice(
        "texts-outside",
        f"Not drawn, since the figure does not reach there: {named}. Move them, or change the "
        "limits of the axis.",
        weight=LACKS,
    )


def ranges_notice(scene: Scene, readings: Readings) -> Notice | None:
    """That ranges which are to be shaded are where no axis reaches, or no panel is."""
    panels, gone = readings.plan.panels, []
    for number, kept in enumerate(readings.recipe.range):
        low, high = range_ends(readings, number)
        if not any(
            low <= frame.high and high >= frame.low
            for frame in scene.frames
            if kept.panel is None or panels[frame.panel].label == kept.panel
        ):
            panel = f" in the panel {quoted(kept.panel)}" if kept.panel is not None else ""
            gone.append(f"{range_told(readings.variable_in(kept.panel), low, high)}{panel}")
    if not gone:
        return None
    return Notice(
        "ranges-outside",
        f"Not shaded, since the figure does not reach there: {listed_briefly(gone)}. Change the "
        "limits of the axis, or take it out.",
        weight=LACKS,
    )
