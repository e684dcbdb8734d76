"""How letters are set, how wide they are, and text broken into lines that fit."""

from collections.abc import Callable, Iterable

from msgspec import Struct

_LONGEST_LINE = 1_000  # letters, of which no page shows more in a line

Measure = Callable[[str, float, int], float]
"""Width of a text in points, from the text, its size in points, and its face: 0, or the sum of 1
where it is bold and 2 where it slants."""


def face_of(bold: bool, slant: bool) -> int:
    """The number of a face, as a measure takes it."""
    return int(bold) + 2 * int(slant)


class Face(Struct, frozen=True):
    """How a text is set: size in points, weight, slant and colour."""

    size: float
    bold: bool
    slant: bool
    colour: str

    @property
    def row(self) -> float:
        """From one line to the next, in points."""
        return self.size * 1.28

    @property
    def number(self) -> int:
        """The number of the face, as a measure takes it."""
        return int(self.bold) + 2 * int(self.slant)

    def wide(self, text: str, measure: Measure) -> float:
        """How wide a text is, in points."""
        return measure(text, self.size, int(self.bold) + 2 * int(self.slant))

    def widest(self, texts: Iterable[str], measure: Measure) -> float:
        """How wide the widest of some texts is, in points; 0 of none."""
        return max((self.wide(text, measure) for text in texts), default=0.0)


def wrapped(
    text: str, width: float, size: float, bold: int, measure: Measure, most: int = 3
) -> list[str]:
    """Break a text at blanks and line breaks into at most ``most`` lines; the last one ends in "…"
    if more is left."""
    lines: list[str] = []
    for paragraph in text.split("\n"):
        line = ""
        for word in paragraph.split(" "):
            longer = f"{line} {word}" if line else word
            if not line or measure(longer, size, bold) <= width:
                line = longer
            else:
                lines.append(line)
                line = word
        lines.append(line)
    if len(lines) > most:
        lines = [*lines[: most - 1], f"{lines[most - 1]} …"]
    return [shortened(line, width, size, bold, measure) for line in lines]


def shortened(text: str, width: float, size: float, bold: int, measure: Measure) -> str:
    """The text, or as much of its beginning as fits before "…"."""
    text = text if len(text) <= _LONGEST_LINE else f"{text[:_LONGEST_LINE]}…"
    if measure(text, size, bold) <= width:
        return text
    low, high = 0, len(text)
    while low < high:
        middle = (low + high + 1) // 2
        if measure(text[:middle].rstrip() + "…", size, bold) <= width:
            low = middle
        else:
            high = middle - 1
    return text[:low].rstrip() + "…"
