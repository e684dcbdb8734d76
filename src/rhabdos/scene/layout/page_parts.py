"""What the layout of one figure is made from, each part worked out when it is first asked for."""

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from msgspec import Struct

from rhabdos.figure.planning.titles import height_axis_title
from rhabdos.figure.readings.axis_limits import beyond_limits, settings_on
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.second_axis import second_factor
from rhabdos.figure.readings.swaying import sway_told
from rhabdos.figure.recipe.recipe import Form, Recipe
from rhabdos.figure.recipe.recipe_axes import Axes
from rhabdos.figure.recipe.recipe_bins import Bins
from rhabdos.figure.recipe.recipe_part import Place
from rhabdos.figure.recipe.recipe_words import TextStyle
from rhabdos.figure.words.markup import Stands, as_written
from rhabdos.figure.words.naming import default_value_title, usual_height_title
from rhabdos.figure.words.placeholders import stands_in, words_of
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.limits import Limits
from rhabdos.scene.axes.reference_lines import Centre, asked_lines, centres, free_column, free_rows
from rhabdos.scene.axes.ticks import Ticks, Writing, writing_of
from rhabdos.scene.forms import scene_form
from rhabdos.scene.legend.title_block import HeadWords
from rhabdos.scene.panels.grid import Grid, grid_of, height_key
from rhabdos.scene.style.lettering import Face, Measure
from rhabdos.scene.style.look import colours_of
from rhabdos.scene.style.style import Style, WordsKind
from rhabdos.scene.words.boxed import padding
from rhabdos.scene.words.rich import Line, lines_of
from rhabdos.stats.heights import Scale

PAD = 9.0  # points around a figure
MOST_CROWDED = 2  # times that words give way before a frame is drawn too small
EDGE = PAD + 6  # free at the right of a page
NOTE_ROW = 10.0  # points
_LINES = ((240.0, 3, 3, 6), (170.0, 2, 2, 2), (115.0, 1, 1, 1), (0.0, 1, 0, 0))
"""Heights of a page, and the most lines of title, subtitle and note on it."""


def _writing(settings: Axes, scale: Scale) -> Writing:
    """How heights are written: counts are no shares, and percents are percents already."""
    height = settings.height
    if scale == "count" and height.numbers == "percent":
        height = height.changed(numbers=None)
    return writing_of(height, scale == "percent", settings.height_marks)


def as_laid_out(recipe: Recipe) -> Recipe:
    """A recipe without what a hand may change while everything stays where it stands: bandwidths,
    whiskers that no numbers are written beside, and bins that no label or word tells."""
    recipe = recipe.changed(curve=recipe.curve.changed(bandwidth="silverman", factor=1.0))
    if not recipe.box.numbers:
        recipe = recipe.changed(box=recipe.box.changed(whiskers=1.5))
    told = any("{" in text for text in words_of(recipe))
    if told or recipe.axes.value.ticks in ("edges", "middles"):
        return recipe
    return recipe.binned(Bins())


class AxisTitle(Struct, frozen=True):
    """The title of an axis, broken into lines, and how it is set."""

    lines: tuple[Line, ...]
    face: Face
    place: str
    part: str

    @property
    def deep(self) -> float:
        """The room of all its lines, in points."""
        return len(self.lines) * self.face.row


class Page(Struct, frozen=True, eq=False, dict=True):
    """What the layout of one figure is made from.

    Attributes
    ----------
    limits : tuple of Limits
        Those of each panel.
    letters : float
        How many times as large they are in the look; they are smaller on a page too small for them.
    stands_for : (float, float), optional
        The size of the page of which this is a small picture.
    crowding : 0 … 2
        How sparing with words a crowded page is: 0 has all; 1 has ticks at its outer panels only,
        and less room for names; 2 also has no names of panels. A page with one panel has at 1 no n
        beside names, and at 2 one line of title, subtitle and note each, and less room for names.
    top : float, optional
        The height at which its axes of heights end, as those of another figure do beside it.
    """

    readings: Readings
    width: float
    height: float
    limits: tuple[Limits, ...]
    measure: Measure
    style: Style
    letters: float = 1.0
    stands_for: tuple[float, float] | None = None
    crowding: int = 0
    top: float | None = None

    @property
    def upright(self) -> bool:
        """Whether the value axis stands."""
        return self.readings.plan.upright

    @property
    def in_lanes(self) -> bool:
        """Whether groups have lanes of their own."""
        return len(self.readings.plan.lanes) > 1

    @property
    def alone(self) -> bool:
        """Whether there is one panel only."""
        return len(self.readings.plan.panels) == 1

    @property
    def may_be_smaller(self) -> bool:
        """Whether letters are larger than usual because a whole look has them so."""
        return self.style.letters > 1 and self.readings.recipe.look.letters is None

    @property
    def without_sizes(self) -> bool:
        """Whether n is not told beside names, since the only frame has too little room."""
        return self.alone and self.crowding > 0

    @property
    def words_beyond(self) -> bool:
        """Whether words of lines stand beyond the frame, as they do of one panel with one lane."""
        return self.alone and not self.in_lanes

    def words_free(self, panel: int, extent: float) -> float:
        """The room that words of lines at means and medians are kept at the end of each lane, in
        points; ``extent`` is that of the frame."""
        plan = self.readings.plan
        if self.words_beyond or not asked_lines(self.readings):
            return 0.0
        thickness = extent / len(plan.lanes)
        lines = self.centres(panel)
        if self.upright:
            return free_column(lines, thickness, self.measure)
        each = max(len(lane.groups) for lane in plan.panels[panel].lanes)
        return free_rows(each * len(asked_lines(self.readings)), thickness)

    @cached_property
    def colours(self) -> tuple[str, ...]:
        """The colour of each group, quiet where others are brought forward."""
        return colours_of(self.readings, self.style)

    @cached_property
    def grid(self) -> Grid:
        """The grid of its panels; that of the page that a small picture stands for."""
        grid = grid_of(self.readings, *(self.stands_for or (self.width, self.height)))
        return grid.with_outer_labels(self.upright) if self.crowding else grid

    @cached_property
    def heights(self) -> tuple[axes.HeightScale, ...]:
        """The axis of heights of each panel; without ticks where nothing is drawn on it.

        What adds up to a whole may end at it; anything else has some room above.
        """
        readings, plan = self.readings, self.readings.plan
        if not plan.heights:
            return (axes.NO_HEIGHTS,) * len(plan.panels)
        together: dict[tuple[str, int], list[tuple[int, ...]]] = {}
        for panel in plan.panels:
            lanes = together.setdefault(height_key(readings, panel.index), [])
            lanes += [tuple(group.index for group in lane.groups) for lane in panel.lanes]
        each = {key: self._height_axis(lanes) for key, lanes in together.items()}
        return tuple(each[height_key(readings, panel.index)] for panel in plan.panels)

    def _height_axis(self, lanes: Sequence[Sequence[int]]) -> axes.HeightScale:
        readings, plan = self.readings, self.readings.plan
        forms = [scene_form(form) for form in plan.heights]
        reached = max(
            (form.tallest(readings, lane) for form in forms for lane in lanes if lane), default=0.0
        )
        room = 1.0 if readings.cumulative or "ecdf" in plan.heights else axes.ROOM_ABOVE
        extent = self._lane_extent
        if any(form.over for form in forms):
            room = max(room, self._room_for_words(extent))
        settings = readings.recipe.axes.height
        writing = _writing(readings.recipe.axes, readings.scale)
        return axes.height_scale(
            reached, extent, readings.scale == "count", room, settings, writing, self.top
        )

    @cached_property
    def _lane_extent(self) -> float:
        """About how far heights reach across, in points."""
        plan, grid = self.readings.plan, self.grid
        extent = (self.width / grid.columns) if self.upright else (self.height / grid.rows)
        bands = len(plan.lanes)
        groups = max(len(lane.groups) for lane in plan.lanes)
        if groups > 1 and plan.arrange in ("lanes", "back-to-back"):
            bands *= groups
        if bands > 1 or plan.strips or grid.rows * grid.columns > 1:
            extent *= 0.75 / bands * (0.85 if not plan.strips else 0.5)
        return extent

    def _room_for_words(self, extent: float) -> float:
        """How far the axis reaches beyond the greatest height, so that words over it have room."""
        limits = self.limits[0]
        along = self.height / self.grid.rows if self.upright else self.width / self.grid.columns
        scale = self.readings.scales[0]
        low, high = scale.axis.placed(np.array([limits.low, limits.high])).tolist()
        narrowest = float(scale.widths(self.readings.edges).min()) / (high - low) * along * 0.8
        overs = (scene_form(form).over for form in self.readings.plan.heights)
        points = max(
            over(self.readings, self.upright, narrowest, self.measure) for over in overs if over
        )
        extent = max(extent * 0.85, 30.0)
        return extent / max(extent - points, extent / 3) * 1.01 if points else 0.0

    @cached_property
    def second(self) -> Ticks | None:
        """Labels of a second axis of heights at places of the first, where there is one."""
        factor = second_factor(self.readings)
        if factor is None:
            return None
        scale = self.heights[0]
        asked = self.readings.recipe.axes.height
        second = asked.second or "count"
        whole, writing = second == "count", _writing(self.readings.recipe.axes, second)
        bare = asked.changed(low=scale.least * factor, high=scale.top * factor, ticks=None)
        own = axes.height_scale(
            scale.top * factor, self._lane_extent, whole, 1.0, bare, writing
        ).ticks
        return Ticks(tuple(place / factor for place in own.places), own.labels)

    @property
    def second_title(self) -> str:
        """The title of the second axis of heights."""
        readings, second = self.readings, self.readings.recipe.axes.height.second
        of, per = readings.recipe.show.of, readings.per
        return height_axis_title(second or "", of, readings.divided, per, readings.cumulative)

    @cached_property
    def stands(self) -> Stands:
        """What names within braces stand for."""
        return stands_in(self.readings)

    def head_words(self, room: float) -> tuple[HeadWords, ...]:
        """Title and subtitle in lines that fit so many points."""
        words, most = self.readings.recipe.words, self._most_lines
        answer = []
        asked: tuple[tuple[WordsKind, str | None, int], ...] = (
            ("title", words.title, most[0]),
            ("subtitle", words.subtitle, most[1]),
        )
        for part, text, rows in asked:
            lines = self._lines(part, text if rows else "", room, rows)
            answer.append(HeadWords(lines, self.style.face(part), self._place(part, "left"), part))
        return tuple(answer)

    def _lines(
        self, words: WordsKind, text: str | None, room: float, most: int = 3
    ) -> tuple[Line, ...]:
        face = self.style.face(words)
        return tuple(lines_of(text or "", room, face, self.measure, self.stands, most))

    def _place(self, words: WordsKind, usual: Place) -> Place:
        asked: TextStyle = getattr(self.style.lettering, words)
        return asked.place or usual

    @property
    def words_without_room(self) -> tuple[str, ...]:
        """Parts that the recipe has words for, and that a page as low as this has no room for."""
        words, most = self.readings.recipe.words, self._most_lines
        asked = (("subtitle", words.subtitle, most[1]), ("own-note", words.note, most[2]))
        sizes = ("sizes",) if self.without_sizes else ()
        smaller = ("letters",) if self.style.letters < self.letters else ()
        return (*smaller, *sizes, *(part for part, text, rows in asked if text and not rows))

    @property
    def _most_lines(self) -> tuple[int, int, int]:
        """How many lines title, subtitle and note may have: fewer on a page that is low, and one
        each where its only frame has too little room."""
        most = next(most for height, *most in _LINES if self.height >= height)
        if self.alone and self.crowding > 1:
            most = [min(1, rows) for rows in most]
        return most[0], most[1], most[2]

    @cached_property
    def own_note(self) -> HeadWords:
        """What the recipe has under the figure."""
        most = self._most_lines[2]
        text = self.readings.recipe.words.note if most else ""
        around = 2 * padding(self.style.lettering.note, self.style)
        lines = self._lines("note", text, self.width - PAD - EDGE - around, most)
        return HeadWords(lines, self.style.face("note"), self._place("note", "left"), "own-note")

    @cached_property
    def titles(self) -> tuple[AxisTitle, AxisTitle]:
        """The titles of both axes; a figure without heights has no height axis."""
        readings = self.readings
        words = readings.recipe.words
        value = words.value_axis
        if value is None:  # panels of several variables are called by them, with their units
            value = as_written(default_value_title(readings))
        heights = words.height_axis
        if not readings.plan.heights:
            heights = ""
        elif heights is None:
            heights = as_written(usual_height_title(readings))
        along, across = (self.height * 0.7, self.width * 0.8)
        rooms = (along, across) if self.upright else (across, along)
        return (
            self._axis_title("value_axis", value, rooms[0], "value-title"),
            self._axis_title("height_axis", heights, rooms[1], "height-title"),
        )

    def _axis_title(self, words: WordsKind, text: str, room: float, part: str) -> AxisTitle:
        lines = self._lines(words, text, room)
        return AxisTitle(lines, self.style.face(words), self._place(words, "middle"), part)

    @property
    def left_title(self) -> AxisTitle:
        """The title that stands at the left."""
        return self.titles[0 if self.upright else 1]

    @property
    def bottom_title(self) -> AxisTitle:
        """The title that lies at the bottom."""
        return self.titles[1 if self.upright else 0]

    @cached_property
    def noted(self) -> list[Form]:
        """The forms of a figure that may have something to say under it."""
        plan = self.readings.plan
        return [form for form in (*plan.heights, *plan.strips) if scene_form(form).note]

    @property
    def title_over_names(self) -> float:
        """The room of the title of heights between their ticks and the names of standing lanes, in
        points; 0 where it does not stand there."""
        title = self.bottom_title
        return title.deep + 2 if self.upright and self.in_lanes and title.lines else 0.0

    @property
    def kept_rows(self) -> str:
        """How many of how many rows are drawn, where some were left out."""
        table, marked = self.readings.samples.table, self.readings.marked
        if some := self.readings.gathered.provisional:
            of = f" of {marked(table.size)}" if table and table.far and table.far.rows else " rows"
            return f"Provisional: a sample of {marked(f'{some:,}')}{of}"
        if not table or not table.of_all_rows:
            return ""
        return f"{marked(f'{table.all_rows:,}')} of {marked(f'{table.of_all_rows:,}')} rows"

    @cached_property
    def sway(self) -> str:
        """What shades mean, where there are some."""
        return sway_told(self.readings) if self.readings.recipe.sway.of else ""

    @cached_property
    def beyond(self) -> str:
        """How many values the value axis does not show, in words for the figure itself."""
        readings = self.readings
        if readings.recipe.look.sizes is False:
            return ""
        hidden = beyond_limits(readings)
        less = "0 or less" if readings.kind == "log" else "less than 0"
        parts = {
            "below the axis": hidden.below,
            "above it": hidden.above,
            less: hidden.without_place,
        }
        if not hidden.below:
            parts = {"above the axis": hidden.above, less: hidden.without_place}
        said = [f"{readings.marked(f'{n:,}')} {where}" for where, n in parts.items() if n]
        return f"Not shown: {', '.join(said)}" if said else ""

    @cached_property
    def notes_height(self) -> float:
        """The room of notes under the figure, in points."""
        own = self.own_note
        rows = len(self.noted) + bool(self.kept_rows) + bool(self.beyond) + bool(self.sway)
        around = 2 * padding(self.style.lettering.note, self.style) if own.lines else 0.0
        return rows * NOTE_ROW + len(own.lines) * own.face.row + around

    def value_ticks(self, panel: int, extent: float) -> Ticks:
        """The ticks of a panel's value axis that have room in so many points."""
        limits, axis = self.limits[panel], self.readings.plan.panels[panel].axis
        whole = self.readings.pools[axis]
        settings = settings_on(self.readings, limits.low, limits.high)
        return axes.value_ticks(
            limits,
            extent,
            self.upright,
            bool(whole.n) and whole.whole,
            self.measure,
            self.readings.dates_on(axis) and not self.readings.recipe.show.standardised,
            settings,
            self._bin_edges(panel) if settings.ticks in ("edges", "middles") else (),
            self.style.face("numbers"),
            self.readings.variable_in(panel).unit.startswith("%"),
        )

    def _bin_edges(self, panel: int) -> tuple[float, ...]:
        ruled = self.readings.ruled_by_axis[self.readings.plan.panels[panel].axis]
        return tuple(ruled.edges.values.tolist()) if ruled else ()

    def centres(self, panel: int) -> tuple[Centre, ...]:
        """The lines at means and medians of a panel's groups."""
        limits = self.limits[panel]
        groups = self.readings.plan.panels[panel].groups
        return centres(self.readings, groups, limits)
