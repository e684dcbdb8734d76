"""Lay readings out on a page, and make its marks."""

from functools import partial

import numpy as np
from msgspec import structs

from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.readings.legend_place import in_one_colour, legend_place
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.page_size import Size
from rhabdos.figure.recipe.recipe import Form
from rhabdos.figure.words.naming import shown_title
from rhabdos.scene.axes import axes
from rhabdos.scene.axes.limits import Limits, limits_of
from rhabdos.scene.axes.reference_lines import Centre, centre_marks
from rhabdos.scene.axes.ticks import Ticks
from rhabdos.scene.coordinates import Band, Frame, Lane
from rhabdos.scene.forms import box_numbers, scene_form
from rhabdos.scene.forms.form import Drawing
from rhabdos.scene.layout import lane_names, legend_places, panel_headers
from rhabdos.scene.layout.axis_decorations import names, note, second_axis, tick_labels, titles
from rhabdos.scene.layout.free_texts import text_zones, texts_in
from rhabdos.scene.layout.layout import settled
from rhabdos.scene.layout.page_parts import MOST_CROWDED, PAD, Page
from rhabdos.scene.layout.ranges import range_shades, range_words, range_zones
from rhabdos.scene.layout.zones import axis_zones, panel_zones, title_zones
from rhabdos.scene.legend import legend_entries
from rhabdos.scene.marks import Mark, Meaning, Scene, Segments, Text, Zone
from rhabdos.scene.panels.grid import page_size
from rhabdos.scene.panels.lanes import lay_lanes
from rhabdos.scene.style.lettering import Measure
from rhabdos.scene.style.look import style_of
from rhabdos.scene.style.style import Style
from rhabdos.scene.words.cover import Cover, grounded
from rhabdos.scene.words.label_overlap import cleared
from rhabdos.scene.words.label_places import Rect, rect_of

_NO_VALUES = 7.5  # points of what an empty panel says
_LETTERS_TRIED = 3  # sizes between the letters of a whole look and the usual ones
_SAID, _LEAST_SAID = 6.5, 8.0  # size of what empty places say, and the least room for it


def build(
    readings: Readings,
    measure: Measure,
    limits: tuple[Limits, ...] | None = None,
    size: Size | None = None,
    dpi: float = 96.0,
    style: Style | None = None,
    top: float | None = None,
) -> Scene:
    """Lay out a figure.

    Parameters
    ----------
    measure : callable
        Tells how wide a text is.
    limits : tuple of Limits, optional
        Of the value axis of each panel; what lies beyond is cut at the frame. By default all of
        every form is shown.
    size : Size, optional
        Instead of the recipe's page; pixels are taken at ``dpi``.
    style : Style
        Colours and widths, instead of those of the recipe's look.
    top : float, optional
        The height at which axes of heights end, as those of another figure do beside it.
    """
    own = style_of(readings.recipe) if style is None else style
    limits = limits or limits_of(readings)
    paper = (size or page_size(readings)).points(dpi)
    for smaller in _smaller_letters(readings, own):
        width, height = (side / smaller.letters for side in paper)
        page = Page(readings, width, height, limits, measure, smaller, own.letters, top=top)
        scene = _scene(page)
        if scene is not None:
            return scene
    raise AssertionError("the last of the letters that are tried is drawn with")


def _smaller_letters(readings: Readings, style: Style) -> list[Style]:
    """The style, and the same with letters nearer to the usual size, for pages on which those of a
    whole look leave too little to the frame; letters that are asked for stay as they are."""
    if style.letters <= 1 or readings.recipe.look.letters is not None:
        return [style]
    recipe, steps = readings.recipe, (1 - step / _LETTERS_TRIED for step in range(_LETTERS_TRIED))
    sizes = [1 + (style.letters - 1) * share for share in (*steps, 0.0)]
    return [style, *(style_of(recipe.looking(letters=size)) for size in sizes[1:])]


def _scene(page: Page) -> Scene | None:
    """A figure with its legend where it is asked for; None where its letters are too large."""
    readings, style = page.readings, page.style
    if legend_place(readings) != "lines":
        return _built(page, legend_places.placed(readings, style))
    scene = _built(page, legend_places.placed(readings, style, "none"))
    written = legend_places.at_lines(readings, scene, page) if scene else None
    if written is None or scene is None:  # some line has no room for its name
        return _built(page, legend_places.placed(readings, style, "above"))
    marks, zones = written
    return structs.replace(scene, marks=(*scene.marks, *marks), zones=(*scene.zones, *zones))


def _with_lanes(page: Page, bare: Frame) -> Frame:
    plan, scale = page.readings.plan, page.heights[bare.panel]
    panel = plan.panels[bare.panel]
    free = page.words_free(bare.panel, bare.last - bare.first)
    lanes = lay_lanes(plan, panel, bare.first, bare.last, scale.top, scale.least, free)
    return structs.replace(bare, lanes=lanes)


def _built(page: Page, place: legend_places.Placed) -> Scene | None:
    """Lay a figure out, and make its marks: frame by frame, then what stands around them; None
    where its letters could be smaller, and leave its frame too little room."""
    page, layout = settled(page, place)
    if page.may_be_smaller and layout.cramped(page):
        return None
    readings, style = page.readings, page.style
    frames = tuple(_with_lanes(page, bare) for bare in layout.frames)
    ticks = tuple(page.value_ticks(bare.panel, bare.end - bare.start) for bare in layout.frames)
    marks: list[Mark] = [*layout.above.marks]
    zones: list[Zone] = [*axis_zones(page, frames), *layout.above.zones]
    zones += title_zones(page, frames, legend_entries.height(layout.under))
    if style.ground:
        marks += [axes.ground(frame, style) for frame in frames]
    for bare, frame, at in zip(layout.frames, frames, ticks, strict=True):
        marks += _panel_marks(page, frame, at, layout.lines)
        marks += _axis_lines(page, bare, frame, at)
        zones += panel_zones(page, frame)
    marks += titles(page, frames, legend_entries.height(layout.under))
    marks += tick_labels(page, frames, ticks)
    marks += second_axis(page, frames, layout.beside)
    called = names(page, frames, layout)
    marks += called
    zones += lane_names.factor_zones(page, called)
    if page.crowding < MOST_CROWDED:
        lift = box_numbers.written_height(readings) if page.upright else 0.0
        marks += panel_headers.marks(page, frames, layout.room, lift)
        zones += panel_headers.zones(page, frames, lift)
    foot = page.height - PAD - page.notes_height
    of_legend, legend_zones = place.drawn(page, frames, layout.under, layout.room.left, foot, marks)
    marks += of_legend
    zones += legend_zones
    marks += note(page, marks)
    zones += range_zones(marks, page)
    texts = texts_in(page, frames)
    marks += texts
    zones += text_zones(page, texts)
    describe = partial(_described, readings)
    kept, left_out = cleared(marks, page.width, page.height, frames, page.measure)
    return Scene(
        page.width,
        page.height,
        tuple(kept),
        tuple(zones),
        frames,
        describe,
        style.paper,
        style.font,
        style.letters,
        tuple(group.label for group in readings.groups),
        (*page.words_without_room, *left_out),
        shown_title(readings),
        # Panels may have axes of their own, each of which cuts: what is told is how much is lost.
        max(
            ((scale.top, scale.reached) for scale in page.heights if scale.cuts),
            key=lambda ends: ends[1],
            default=None,
        ),
    )


def _described(readings: Readings) -> str:
    """The figure in words; what is seen in the data is looked for when that is asked."""
    from rhabdos.figure.output.seen import seen

    return " ".join([plain(readings), *(each.text for each in seen(readings))])


def _panel_marks(page: Page, frame: Frame, at: Ticks, lines: tuple[Centre, ...]) -> list[Mark]:
    """What is in a frame: its grid, its forms, and lines at means and medians."""
    readings, style, measure = page.readings, page.style, page.measure
    panel = readings.plan.panels[frame.panel]
    if not any(readings.groups[group].n for group in panel.groups):
        return _nothing(page, frame)
    beyond = page.words_beyond
    lines = lines if beyond else page.centres(frame.panel)
    shapes = drawn(page, frame)
    beside = _empty_places(page, frame)
    shades = range_shades(page, frame)
    ends = [mark for mark in shades if isinstance(mark, Segments)]  # which no word is struck by
    cover = Cover([*shapes, *beside, *ends])
    centred = centre_marks(lines, frame, beyond, page.alone, page.colours, measure, style, cover)
    edge = [] if page.alone else [axes.outline(frame, style)]
    ticks = page.heights[frame.panel].ticks
    over = Cover([*shapes, *centred, *ends])
    called = range_words(page, frame, over)
    taken = tuple(rect_of(m, measure) for m in (*centred, *beside, *called) if isinstance(m, Text))
    words = grounded([*beside, *_words(page, frame, taken)], over, measure, style)
    grid = _grid(page, frame, at, ticks)
    return [*shades, *grid, *edge, *shapes, *centred, *words, *called]


def _nothing(page: Page, frame: Frame) -> list[Mark]:
    """A panel that no row is in says so."""
    panel = page.readings.plan.panels[frame.panel]
    rows = sum(page.readings.groups[group].missing for group in panel.groups)
    text = "no values" if rows else "no rows"
    x, y = (frame.left + frame.right) / 2, (frame.top + frame.bottom) / 2 + 2.5
    style = page.style
    size = min(_NO_VALUES, 0.9 * _NO_VALUES * (frame.right - frame.left) / 30)
    return [
        axes.outline(frame, style),
        Text(x, y, text, size, "middle", style.quiet, Meaning("panel")),
    ]


def _empty_places(page: Page, frame: Frame) -> list[Text]:
    """Strips and bands of groups that no row is in say so."""
    groups, style = page.readings.groups, page.style
    bands: dict[int, Band] = {}
    for lane in frame.lanes:
        alone = [(of.groups[0], of.band) for of in lane.heights if len(of.groups) == 1]
        for group, band in [*alone, *((strip.group, strip.band) for strip in lane.strips)]:
            if not groups[group].n and band.thickness >= _LEAST_SAID:
                bands.setdefault(group, band)
    marks: list[Text] = []
    for group, band in bands.items():
        text = "no values" if groups[group].missing else "no rows"
        wide = page.measure(text, _SAID, False)
        if page.upright:
            x, y = band.middle + _SAID * 0.33, frame.bottom - 4
            angle = 90.0
        else:
            x, y, angle = frame.left + 4, band.middle + _SAID * 0.33, 0.0
        if wide + 8 <= abs(frame.end - frame.start):
            meaning = Meaning("panel", group)
            marks.append(Text(x, y, text, _SAID, "start", style.quiet, meaning, angle=angle))
    return marks


def _grid(page: Page, frame: Frame, at: Ticks, ticks: Ticks) -> list[Mark]:
    """Hairlines at heights where there is one band of them, and else at values."""
    style, marks, settings = page.style, list[Mark](), page.readings.recipe.axes
    bands = [heights.band for lane in frame.lanes for heights in lane.heights]
    single = len(frame.lanes) == 1 and page.readings.plan.arrange != "lanes"
    along, across = settings.value.grid, settings.height.grid
    if along or (along is None and (not single or not ticks.labels)):
        marks.append(axes.grid_along(frame, at.places, style))
    for band in bands:
        if across or (across is None and single):
            levels = [band.at(place) for place in ticks.places if place > band.least]
            marks.append(axes.grid_across(frame, levels, style))
        if len(bands) > 1 or frame.lanes[0].strips or band.least < 0:
            base = np.array([band.foot])
            line = frame.lines(np.array([frame.start]), base, np.array([frame.end]), base)
            marks.append(Segments(line, style.quiet, style.grid_line, 1.0, None))
    return marks


def _axis_lines(page: Page, bare: Frame, frame: Frame, at: Ticks) -> list[Mark]:
    """The line of the value axis with its ticks, or the sides of the frame that are asked for."""
    settings, style = page.readings.recipe.axes, page.style
    marked = settings.value.tick_marks
    lines = [axes.value_line(bare, at, style, marked)]
    if settings.frame is None:
        return lines
    side = "left" if page.upright else "bottom"
    lines = [axes.value_line(bare, at, style, marked)] if side in settings.frame else []
    if settings.frame:
        lines.append(axes.sides(bare, settings.frame, style))
    ticks = page.heights[frame.panel].ticks
    if ("bottom" if page.upright else "left") in settings.frame and ticks.places:
        bands = [heights.band for lane in frame.lanes for heights in lane.heights]
        levels = [band.at(place) for band in bands for place in ticks.places]
        if levels and settings.height.tick_marks != "none":
            lines.append(axes.height_marks(frame, levels, settings.height.tick_marks, style))
    return lines


def drawn(page: Page, frame: Frame) -> list[Mark]:
    """Lane by lane the fills of all groups, then the lines of all, form upon form."""
    drawing, marks = _drawing(page, frame), list[Mark]()
    for lane in frame.lanes:
        layers = [
            scene_form(form).layers(drawing, band, groups)
            for form, band, groups in _bands(page, lane)
        ]
        marks += [mark for fills, _ in layers for mark in fills]
        marks += [mark for _, lines in layers for mark in lines]
    return marks


def _bands(page: Page, lane: Lane) -> list[tuple[Form, Band, tuple[int, ...]]]:
    """The forms of a lane, each with a band of it and the groups in that."""
    bands = [
        (form, of.band, of.groups) for form in page.readings.plan.heights for of in lane.heights
    ]
    return [*bands, *((strip.form, strip.band, (strip.group,)) for strip in lane.strips)]


def _words(page: Page, frame: Frame, taken: tuple[Rect, ...]) -> list[Text]:
    """The words of all forms, none of them where a place is ``taken``."""
    drawing, words = structs.replace(_drawing(page, frame), taken=taken), list[Text]()
    for lane in frame.lanes:
        for form, band, groups in _bands(page, lane):
            write = scene_form(form).words
            if write is not None:
                words += write(drawing, band, groups)
    return words


def _drawing(page: Page, frame: Frame) -> Drawing:
    style = page.style
    inks = tuple(style.ink if group.forward else style.receded for group in page.readings.groups)
    plain = in_one_colour(page.readings)
    tones = tuple(0 if plain else group.colour for group in page.readings.groups)
    return Drawing(page.readings, frame, style, page.colours, inks, tones, page.measure)
