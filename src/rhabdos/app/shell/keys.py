"""The page of keys and gestures."""

from collections.abc import Mapping

from rhabdos.app.rods.gestures import BELL, ENDS, REACH, ROD

FIGURE = {
    "Point at a bar": "its interval, count, percent and density",
    "Point at a box": "what each part of it is, and which rows lie beyond",
    "Point at a curve or a point": "its value, and what share lies up to there",
    "← →": "the same, part by part",
    "↑ ↓": "from bars to boxes to points",
    "Click a part": "choose its phrase in the sentence, and bring its group forward",
    "Ctrl + click": "bring several forward",
    "Drag in the figure": "read a range: how many of each group lie there; its ends move too",
    "Ctrl + drag": "the same, from edge to edge of the bins",
    "Right click": "the rows of a part; of a name in the legend, what can be done with its group",
    "Shift + ← →": "read a range, part by part; Enter offers its rows",
    "Esc": "let go of the range; all groups alike again",
    "Drag a name in the legend": "set the order of groups",
    "Click a word": "type it where it stands",
    "Click a swatch in the legend": "pick the colour of its group",
    "Double-click a name": "call a level otherwise in this figure",
    "Ctrl + wheel": "the page larger or smaller about the pointer; the wheel alone moves it",
    "Drag a text": "put it elsewhere; with Shift, an arrow from it",
    "Drag its margin, or Alt + drag": "take the figure into another program",
}
PARTS = {
    "Click a part": "its settings; of one that the sentence does not say, a first choice",
    "← →, letters": "go along the parts, or to the first that begins so",
}
LEVELS = {
    "Arrows, Home, End": "go from bar to bar",
    "Enter, a click": "the rows of a bar",
    "Esc": "back to the figure",
}
ROWS = {
    "Click a name": "choose a variable; once more, put the rows in order by it",
    "Arrows, Page, Home, End": "go from cell to cell",
    "Enter, double-click": "show the value in the figure",
    "Ctrl+C": "copy the value",
    "Right click": "what can be done with a cell",
    "Space on a sentence": "strike it out, or take it back",
    "Enter on a sentence": "change it",
    "Alt + ↑ ↓ on a sentence": "do it earlier or later",
    "Del on a sentence": "take it away",
}


def keys_text(actions: Mapping[str, str]) -> str:
    """The page as rich text; ``actions`` are menu entries and their keys."""
    from html import escape

    shown = {keys: _plain(text) for text, keys in actions.items()}
    parts = [
        ("The rod", ROD),
        ("The bell on the rod", BELL),
        ("The reach on the rod", REACH),
        ("The ends of the axis on the rod", ENDS),
        ("The figure", FIGURE),
        ("The parts at the side", PARTS),
        ("Bars of levels", LEVELS),
        ("The rows", ROWS),
        ("Anywhere", shown),
    ]
    rows = []
    for title, lines in parts:
        rows.append(f"<tr><td colspan='2'><span style='font-weight:600'>{title}</span></td></tr>")
        rows += [
            f"<tr><td>{escape(k)}</td><td style='padding-left:22px'>{escape(v)}</td></tr>"
            for k, v in lines.items()
        ]
        rows.append("<tr><td>&nbsp;</td></tr>")
    return f"<table>{''.join(rows[:-1])}</table>"


def _plain(text: str) -> str:
    """A menu entry without its dots, and without the step that undoing would take back."""
    words = text.replace(" …", "")
    return next((verb for verb in ("Undo", "Redo") if words.startswith(verb)), words)
