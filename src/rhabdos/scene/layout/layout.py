"""Where everything stands on a page: room for what is around the frames; they get what is left."""

from msgspec import Struct, structs

from rhabdos.data.sample_sets import SampleSet
from rhabdos.figure.readings.readings import size_words
from rhabdos.memo import last_answers
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.reference_lines import Centre, in_rows, rows_height, words_width
from rhabdos.scene.coordinates import Frame
from rhabdos.scene.forms import box_numbers
from rhabdos.scene.layout import lane_names, legend_places, panel_headers
from rhabdos.scene.layout.page_parts import EDGE, MOST_CROWDED, PAD, Page, as_laid_out
from rhabdos.scene.legend import legend_entries
from rhabdos.scene.legend.title_block import Heading, heading
from rhabdos.scene.panels.grid import Cell, Margins, laid_out
from rhabdos.scene.words.label_places import Rect

_LEAST_FRAME = 20.0  # points that a frame keeps whatever stands around it
_LEAST_ROOM = 14.0  # points of a frame, under which words give way
_LEAST_SHARE = 0.45  # of the page either way, under which they give way to a single frame
_NAMES = (1.0, 0.6, 0.4)  # how much of their usual room names of lanes may have
_NAMES_ALONE = (1.0, 1.0, 0.7)  # … beside a single frame
_MOST_LEGEND = 0.25  # of the paper's height, that a legend over the frame takes


class Layout(Struct, frozen=True, eq=False):
    """Where everything stands, before any mark is made.

    Attributes
    ----------
    above : Heading
        Title and legend.
    under : list of Row
        The rows of a legend below.
    names : LaneNames
        Beside lying lanes, or under standing ones.
    beside : float
        The room for numbers at the right of each frame.
    room : Rect
        Of all panels with their labels.
    frames : tuple of Frame
        One a panel, without lanes.
    lines : tuple of Centre
        With rows for words beyond the frame, where they stand there.
    """

    above: Heading
    under: list[legend_entries.Row]
    names: lane_names.LaneNames
    beside: float
    room: Rect
    frames: tuple[Frame, ...]
    lines: tuple[Centre, ...]

    def cramped(self, page: Page) -> bool:
        """Whether the frames have too little room; a single one, less than a share of the page."""
        frame = self.frames[0]
        wide, high = frame.right - frame.left, frame.bottom - frame.top
        if page.alone and min(wide / page.width, high / page.height) < _LEAST_SHARE:
            return True
        return min(wide, high) < _LEAST_ROOM


def settled(page: Page, place: legend_places.Placed) -> tuple[Page, Layout]:
    """The page with as many words as leave its frames room, and where everything stands on it.

    It is kept while a hand moves bins, whiskers or bandwidths, which nothing of it depends on but
    by the ends of the axes and the words at them.
    """
    crowding, layout = _settled(page.readings.samples, page, place)
    if crowding != page.crowding:
        page = structs.replace(page, crowding=crowding)
    return page, layout


def _depends_on(
    _samples: SampleSet, page: Page, place: legend_places.Placed, /
) -> tuple[object, ...]:
    of_heights = tuple(scale.ticks.labels for scale in page.heights)
    of_second = page.second and page.second.labels
    return (
        as_laid_out(page.readings.recipe), page.readings.plan, page.limits, of_heights, of_second,
        page.titles, page.notes_height, page.crowding, place, page.style, page.measure, page.width,
        page.height, page.letters, page.stands_for,
    )  # fmt: skip


@last_answers(_depends_on, most=3)
def _settled(_samples: SampleSet, page: Page, place: legend_places.Placed, /) -> tuple[int, Layout]:
    layout = _layout(page, place)
    while page.crowding < MOST_CROWDED and layout.cramped(page):
        page = structs.replace(page, crowding=page.crowding + 1)
        layout = _layout(page, place)
    return page.crowding, layout


def _layout(page: Page, place: legend_places.Placed) -> Layout:
    """Find room for what stands around the frames; they get what is left."""
    measure, width, height = page.measure, page.width, page.height
    left = PAD + (page.left_title.deep + 4 if page.left_title.lines else 0.0)
    right = width - EDGE - place.width_right(page)
    lines = page.centres(0) if page.words_beyond else ()
    if page.upright:
        right -= words_width(lines, measure)
    under = place.rows_below(page, right - left)
    below = page.bottom_title.deep + 2 if page.bottom_title.lines else 0.0
    below = 0.0 if page.title_over_names else below
    bottom = height - PAD - page.notes_height - legend_entries.height(under) - below
    top = PAD
    # Names are as large as their lanes, and lanes begin where the heading ends.
    for _ in range(2 if page.in_lanes else 1):
        names, beside = _beside_frames(page, Rect(left, top, right, bottom))
        margins = _margins(page, names, beside)
        above = _heading(page, place, left + margins[0].left, right - margins[0].right)
        top = above.bottom
    aspect = page.readings.recipe.axes.aspect
    ends = left + margins[0].left, right - margins[0].right
    # Words over a frame need to know its ends, which its shape decides, for which they leave room.
    for _ in range(2 if aspect and lines else 1):
        over = 0.0
        if lines and not page.upright:
            lines = in_rows(lines, *ends, width - 2, page.limits[0], measure)
            over = rows_height(lines)
        first = min(top + over + panel_headers.columns_height(page), bottom - _LEAST_FRAME)
        room = Rect(left, first, right, bottom)
        boxes = laid_out(page.grid, room, margins, _LEAST_FRAME, aspect)
        ends = boxes[0].left, boxes[0].right
    both = zip(page.grid.cells, boxes, strict=True)
    frames = tuple(_bare(page, cell, box) for cell, box in both)
    return Layout(above, under, names, beside, room, frames, lines)


def _beside_frames(page: Page, room: Rect) -> tuple[lane_names.LaneNames, float]:
    """The names of lanes, and the room for numbers at the right of lying boxes."""
    readings, measure = page.readings, page.measure
    if not page.in_lanes and not readings.recipe.box.numbers:
        return lane_names.LaneNames(), 0.0
    first = laid_out(page.grid, room, _margins(page, lane_names.LaneNames(), 0.0), _LEAST_FRAME)[0]
    share = (_NAMES_ALONE if page.alone else _NAMES)[page.crowding]
    if page.upright:
        wide, most = first.right - first.left, page.height * share
        return lane_names.at_bottom(page, most, wide), 0.0
    deep, most = first.bottom - first.top, page.width * share
    names = lane_names.at_left(page, most, deep)
    column = page.width / page.grid.columns
    return names, box_numbers.written_width(readings, deep, column, measure)


def _margins(page: Page, names: lane_names.LaneNames, beside: float) -> tuple[Margins, ...]:
    """The room for labels around each panel."""
    grid, top = page.grid, panel_headers.height(page)
    answers = []
    second = second_room(page)
    # Labels beside an axis hang half out at its end.
    hanging, turn = 4.0, page.readings.recipe.axes.value.turn or 0
    face = page.style.face("numbers")
    if page.upright and turn:
        labels_of = page.value_ticks(0, 0.7 * page.height).labels
        hanging = axes.deep(labels_of, turn, page.measure, face) * (0.5 if turn == 90 else 1.0)
    for cell in grid.cells:
        of_ticks = tick_room(page, cell)
        last = second if cell.column == grid.columns - 1 else 0.0
        if page.upright:
            ends = grid.ends_column(cell)
            of_names = names.height + page.title_over_names if ends else 0.0
            at_left = _value_labels_width(page, cell) if cell.values else 0.0
            if cell.column == 0:
                at_left = max(at_left, box_numbers.titles_width(page.readings, page.measure))
            above = top + box_numbers.written_height(page.readings)
            table = box_numbers.table_height(page.readings, page.upright)
            under = max(of_names + of_ticks + table + 2, hanging if cell.values else 0.0)
            answers.append(Margins(at_left, above + second, 0.0, under))
        else:
            of_names = names.width if cell.column == 0 else 0.0
            under = _value_labels_depth(page, cell) if cell.values else 0.0
            heads = box_numbers.table_height(page.readings, page.upright)
            answers.append(Margins(of_names + of_ticks, top + heads, beside + last, under))
    return tuple(answers)


def _value_labels_depth(page: Page, cell: Cell) -> float:
    """The room for labels under a lying axis, whose length is not known yet."""
    turn, face = page.readings.recipe.axes.value.turn or 0, page.style.face("numbers")
    if page.readings.recipe.axes.value.ticks == "none":
        return axes.TICK + 2
    labels_of = page.value_ticks(cell.panel, 0.8 * page.width / page.grid.columns).labels
    return axes.deep(labels_of, turn, page.measure, face) + axes.TICK + 4


def _value_labels_width(page: Page, cell: Cell) -> float:
    """The room for labels of a standing axis, whose length is not known yet."""
    shares = (0.7,) if page.alone else tuple(share / 20 for share in range(3, 19))
    each = page.height / page.grid.rows
    labels_of = {page.value_ticks(cell.panel, share * each).labels for share in shares}
    turn, face = page.readings.recipe.axes.value.turn or 0, page.style.face("numbers")
    widest = max(axes.wide(texts, turn, page.measure, face) for texts in labels_of)
    return widest + axes.TICK + axes.LABEL_GAP


def second_room(page: Page) -> float:
    """The room of a second axis of heights: at the right, or over a standing figure."""
    if page.second is None:
        return 0.0
    face, title = page.style.face("numbers"), page.style.face("height_axis").row
    if page.upright:
        return face.size + axes.TICK + 2 + title
    return (
        axes.wide(page.second.labels, 0, page.measure, face)
        + axes.TICK
        + axes.LABEL_GAP
        + 4
        + title
    )


def tick_room(page: Page, cell: Cell) -> float:
    """The room that labels of heights take beside a panel, or under a standing one, in points."""
    ticks = page.heights[cell.panel].ticks.labels if cell.heights else ()
    if not ticks:
        return 0.0
    turn, face = page.readings.recipe.axes.height.turn or 0, page.style.face("numbers")
    if page.upright:
        return axes.deep(ticks, turn, page.measure, face) + axes.TICK + 2
    return axes.wide(ticks, turn, page.measure, face) + axes.TICK + axes.LABEL_GAP


def _heading(page: Page, place: legend_places.Placed, left: float, right: float) -> Heading:
    readings = page.readings
    size = size_words(readings, [0]) if len(readings.groups) == 1 else ""
    room = Rect(left, PAD, right, PAD + page.height * _MOST_LEGEND)
    return heading(
        page.head_words(right - left),
        place.above(page, right - left),
        size,
        room,
        page.measure,
        page.style,
    )


def _bare(page: Page, cell: Cell, box: Rect) -> Frame:
    """The frame of a panel, without its lanes."""
    limits = page.limits[cell.panel]
    return Frame(
        box.left,
        box.top,
        box.right,
        box.bottom,
        limits.low,
        limits.high,
        page.height,
        page.upright,
        (),
        cell.panel,
        limits.axis,
        limits.reversed,
    )
