"""What hands and keys do to each rod, and the hint that says it."""

ROD = {
    "Drag a tab": "set the bin width",
    "Drag the rod, or its first tab": "move the start",
    "Ctrl + drag a tab": "move one edge alone",
    "Double-click": "split a bin",
    "← →": "choose an edge",
    "↑ ↓": "wider or narrower bins",
    "Shift + ← →": "move the start",
    "Ctrl + ← →": "move this edge alone",
    "+": "split the bin",
    "Del": "merge two bins",
    "Esc": "let go, as it was",
}
BELL = {
    "Drag a flank": "set the bandwidth of the curves",
    "↑ ↓": "wider or narrower",
    "Esc": "let go, as it was",
}
REACH = {
    "Drag a grip": "set how far whiskers reach",
    "↑ ↓": "farther or less far",
    "Esc": "let go, as it was",
}
ENDS = {
    "Drag a grip": "set where the value axis begins or ends",
    "← →": "move that end",
    "Esc": "let go, as it was",
}
ROD_HINT = (
    "\n".join(f"{keys}: {does}" for keys, does in list(ROD.items())[:4])
    + "\nKeys do the same: Shift+F1"
)
REACH_HINT = "Drag a grip: set how far whiskers reach\nKeys do the same: Shift+F1"
ENDS_HINT = "Drag a grip: set where the axis begins or ends\nKeys do the same: Shift+F1"
BELL_HINT = "Drag a flank: set the bandwidth of the curves\nKeys do the same: Shift+F1"
