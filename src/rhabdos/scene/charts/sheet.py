"""The page of a chart, with the words above and under it."""

from collections.abc import Iterator, Sequence

from msgspec import Struct, structs

from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.plain_charts import LevelBars, PlainChart
from rhabdos.figure.recipe.recipe_look import Look
from rhabdos.scene.axes import axes
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.marks import Mark, Meaning, Scene, Text, Zone
from rhabdos.scene.style.lettering import Measure, wrapped
from rhabdos.scene.style.look import style_of_look
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.rich import lines_of, marks_of

PAD = 12.0  # points around a chart
_TITLE, TOLD = 12.0, 7.5  # points
_NAMES_SHARE = 0.3  # of the page's width, that names of levels may take
_LEVEL_COLOUR = "#95826A"
_LEAST_WIDE, _LEAST_HIGH = 0.35, 0.3  # of the page, that what is drawn has
_SMALLER = (1.5, 2.0, 3.0, 5.0, 8.0)  # times smaller than usual, letters of pages too small for any


def _stands_for_nothing(_name: str) -> None:
    """Of a chart no numbers stand in its words."""


class Paper(Struct, frozen=True):
    """A page, and how sparing with words it is: more so where it is too small for all of them.

    Attributes
    ----------
    width, height : float
        In units of ``letters`` points.
    lines : int
        That the title and the note may take each.
    """

    width: float
    height: float
    letters: float = 1.0
    lines: int = 99
    note: bool = True
    numbers: bool = True
    axis_titles: bool = True
    title: bool = True
    names: float = _NAMES_SHARE


def papers(size: Size) -> Iterator[Paper]:
    """The page with all words, with fewer and fewer, and last with letters that are smaller."""
    whole = Paper(*size.points())
    yield whole
    yield (short := structs.replace(whole, lines=2))
    yield (few := structs.replace(short, lines=1, note=False))
    yield (fewer := structs.replace(few, axis_titles=False, names=_NAMES_SHARE * 0.8))
    yield (bare := structs.replace(fewer, numbers=False, title=False))
    for times in _SMALLER:
        yield structs.replace(
            bare, width=whole.width * times, height=whole.height * times, letters=1 / times
        )


def has_room(scene: Scene) -> bool:
    """Whether what is drawn has a fair share of its page."""
    (frame,) = scene.frames
    wide, high = frame.right - frame.left, frame.bottom - frame.top
    return wide >= _LEAST_WIDE * scene.width and high >= _LEAST_HIGH * scene.height


class Sheet(Struct, frozen=True, eq=False):
    """A page with its title and its note, and the room that these leave."""

    paper: Paper
    style: Style
    marks: tuple[Mark, ...]
    top: float
    bottom: float
    left_out: tuple[str, ...]

    @property
    def width(self) -> float:
        """Of the page."""
        return self.paper.width

    @property
    def height(self) -> float:
        """Of the page."""
        return self.paper.height

    def titled(self, text: str | None, usual: str, room: float, measure: Measure) -> list[str]:
        """The lines of the title of an axis; none where it is taken off, or has no room."""
        words = usual if text is None else text
        if not words or not self.paper.axis_titles or room <= 0:
            return []
        return wrapped(words, room, axes.TITLE_SIZE, False, measure, 2)

    def scene(self, marks: Sequence[Mark], zones: Sequence[Zone], frame: Frame) -> Scene:
        """The page with what is drawn on it."""
        style = self.style
        ground = [axes.ground(frame, style)] if style.ground else []
        return Scene(
            self.width,
            self.height,
            (*ground, *self.marks, *marks),
            tuple(zones),
            (frame,),
            lambda: "",
            style.paper,
            style.font,
            self.paper.letters,
            left_out=self.left_out,
        )


def sheet_of(chart: PlainChart, paper: Paper, title: str, told: str, measure: Measure) -> Sheet:
    """A page with the words that a chart has above and under it.

    Parameters
    ----------
    title : str
        What stands above where nothing else is asked for.
    told : str
        What is to be said under it of the data.
    """
    style = style_of_look(Look(base=chart.base))
    room, face = paper.width - 2 * PAD, style.face("title", size=_TITLE)
    marks: list[Mark] = []
    left_out: list[str] = []
    top = PAD
    text = title if chart.title is None else chart.title
    lines = lines_of(text, room, face, measure, _stands_for_nothing)
    shown = lines[: paper.lines] if paper.title else []
    if len(shown) < len(lines):
        left_out.append("title")
    for line in shown:
        top += _TITLE + 3
        marks += marks_of(line, PAD, top - 4, "start", face, Meaning("title"), measure)
    top += 6 if marks else 0
    bottom = paper.height - PAD
    if told and paper.note and measure(told, TOLD, False) <= room:
        right = paper.width - PAD
        marks.append(Text(right, bottom + 2, told, TOLD, "end", style.quiet, Meaning("note")))
        bottom -= axes.TITLE_ROW
    note = style.face("note")
    lines = lines_of(chart.note or "", room, note, measure, _stands_for_nothing)
    shown = lines[: paper.lines] if paper.note else []
    if len(shown) < len(lines):
        left_out.append("own-note")
    for line in reversed(shown):
        marks += marks_of(line, PAD, bottom, "start", note, Meaning("own-note"), measure)
        bottom -= note.row
    bottom -= 4 if shown else 0
    return Sheet(paper, style, tuple(marks), top, bottom, tuple(left_out))


def usual_colour(chart: PlainChart) -> str:
    """The colour of bars and dots that no other is given for."""
    if isinstance(chart, LevelBars) and chart.base == "house":
        return _LEVEL_COLOUR
    return style_of_look(Look(base=chart.base)).colours(1)[0]


def widest(texts: Sequence[str], measure: Measure) -> float:
    """How wide the widest of some texts is, in letters of the ticks."""
    return max((measure(text, axes.TICK_SIZE, False) for text in texts), default=0.0)
