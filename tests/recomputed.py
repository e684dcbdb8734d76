"""A second derivation of what a figure paints and tells: from its rows and its recipe alone.

Nothing here uses the project's statistics. Given are the edges of the bins, the bandwidths, and where
frames and bands lie on the page; counts, heights, places, areas and lines are worked out anew, by brute
force, and compared with the marks of the scene.
"""

import functools
import itertools
import math
from collections.abc import Iterator

import numpy as np
from scipy import stats

from rhabdos.data.columns import CategoryColumn
from rhabdos.data.table import Table
from rhabdos.figure.edits.part_rows import rows_of_stop
from rhabdos.figure.edits.stops import card_of, groups_at, rows_of_stops
from rhabdos.figure.forms.curve import density_curves
from rhabdos.figure.readings.readings import Readings
from rhabdos.scene.coordinates import Frame, Heights
from rhabdos.scene.marks import Area, Dots, Path, Scene, Text

_BESIDE = 0.14  # of a bin, free between bins whose groups stand side by side (docs/methods.md)
_OFF = 0.6  # points by which a line may lie elsewhere …
_OFF_STACKED = 0.15  # … and more for each curve under it, of which each is drawn with chords
_LINES = {"curve": "curve", "normal": "form", "ecdf": "form", "polygon": "bars"}


class Recomputed:
    """The numbers of one figure, worked out from its rows."""

    def __init__(self, table: Table, readings: Readings) -> None:
        self.readings, self.recipe = readings, readings.recipe
        self.kind = self.recipe.axes.value.scale
        self.columns = {column.name: column for column in table.columns}
        self.values = [self._values(group.levels) for group in readings.groups]
        self.near = self.recipe.axes.value.near or self._near()
        self.total_of_all = sum(len(values) for values in self.values)
        self.widths = functools.cache(self._widths)
        self.held = functools.cache(self._held)
        self.line = functools.cache(self._line)
        self.highest = functools.cache(self._highest)

    def _values(self, levels) -> np.ndarray:
        values = self.columns["v"].values
        keep = ~np.isnan(values)
        for name, level in levels:
            column = self.columns[name]
            assert isinstance(column, CategoryColumn)
            code = -1 if level is None else column.levels.index(level)
            keep &= column.codes == code
        return values[keep]

    def _near(self) -> float:
        """The largest power of ten that at most a tenth of all values but 0 are nearer to 0 than."""
        sizes = np.abs(np.concatenate(self.values))
        sizes = sizes[sizes > 0]
        if not len(sizes):
            return 1.0
        fitting = [10.0**k for k in range(-40, 41) if (sizes < 10.0**k).mean() <= 0.1]
        return max(ten for ten in fitting if ten <= sizes.max())

    @property
    def by_ratio(self) -> bool:
        return self.kind in ("log", "arsinh")

    def admitted(self, values: np.ndarray) -> np.ndarray:
        """Those that have a place on the axis."""
        if self.kind == "log":
            return values[values > 0]
        return values[values >= 0] if self.kind == "root" else values

    def on_axis(self, values):
        """Places on an axis that is even in values, in their logs or roots, or in logs to both
        sides of 0."""
        values = np.asarray(values, dtype=float)
        with np.errstate(divide="ignore", invalid="ignore"):
            if self.kind == "log":
                return np.log10(values)
            if self.kind == "root":
                return np.sqrt(np.maximum(values, 0))
            if self.kind == "arsinh":
                size = np.abs(values) / self.near
                return np.sign(values) * np.log10(size + np.sqrt(size**2 + 1))
        return values

    def off_axis(self, places):
        places = np.asarray(places, dtype=float)
        if self.kind == "log":
            return 10**places
        if self.kind == "root":
            return np.maximum(places, 0) ** 2
        if self.kind == "arsinh":
            return self.near * (10**places - 10**-places) / 2
        return places

    def edges(self, group: int) -> np.ndarray:
        return self.readings.own_edges[group].values

    def _widths(self, group: int) -> np.ndarray:
        """Of bins on the axis; NaN for those that have no place on it."""
        edges = self.edges(group)
        with np.errstate(divide="ignore", invalid="ignore"):
            widths = np.diff(self.on_axis(edges))
        return np.where(np.isfinite(widths) & (widths > 0), widths, np.nan)

    @functools.cached_property
    def scale(self) -> str:
        """What heights are in: what cannot be compared by its height is a density."""
        asked, forms = self.recipe.show.heights, self.recipe.show.forms
        heights = [
            form
            for form in forms
            if form in ("bars", "outline", "polygon", "curve", "normal", "ecdf")
        ]
        if self.recipe.show.cumulative or heights == ["ecdf"]:
            return "proportion" if asked == "density" else asked
        binned = {"bars", "outline", "polygon"} & set(forms)
        if not (binned or (asked != "density" and {"curve", "normal"} & set(forms))):
            return asked
        for group in range(len(self.values)):
            widths = self.widths(group)
            calendar = bool(self.readings.own_edges[group].every) and self.kind == "linear"
            if not calendar and not np.allclose(widths, widths[0], rtol=1e-6, atol=0):
                return "density"
        return asked

    def counts(self, group: int) -> np.ndarray:
        values, edges = self.values[group], self.edges(group)
        closed = self.recipe.bins.closed
        answers = []
        for number, (low, high) in enumerate(itertools.pairwise(edges)):
            if closed == "left":
                inside = (values >= low) & (values < high)
                inside |= (number == len(edges) - 2) & (values == high)
            else:
                inside = (values > low) & (values <= high)
                inside |= (number == 0) & (values == low)
            answers.append(int(inside.sum()))
        return np.array(answers)

    def of(self, group: int) -> int:
        return self.total_of_all if self.recipe.show.of == "all" else len(self.values[group])

    def share(self, number, group: int, scale: str | None = None):
        """So many values on a scale of heights other than density."""
        scale = scale or self.scale
        if scale == "count":
            return number * 1.0
        part = number / self.of(group)
        return 100 * part if scale == "percent" else part

    def _held(self, group: int) -> np.ndarray:
        """How many values each bar stands for."""
        counts = self.counts(group)
        if self.recipe.show.cumulative:
            counts = np.cumsum(counts) + int((self.values[group] < self.edges(group)[0]).sum())
        return counts

    def _highest(self, form: str, group: int) -> float:
        """The greatest height of a line, about."""
        values = self.values[group]
        places = np.linspace(values.min(), values.max(), 101)
        places = self.admitted(places)
        with np.errstate(divide="ignore", invalid="ignore"):
            return float(np.nanmax(self.line(form, group)(places), initial=0.0))

    def bar_heights(self, group: int) -> np.ndarray:
        counts = self.held(group)
        if self.scale == "density":
            return counts / max(1, self.of(group)) / self.widths(group)
        return self.share(counts, group) if len(self.values[group]) else counts * 0.0

    # curves, each a function of values

    def _line(self, form: str, group: int):
        """A function of values: the height of a form's line; None for a group without one."""
        values = self.values[group]
        if not len(values):
            return None
        if form == "ecdf":
            ordered = np.sort(values)
            return lambda x: self.share(np.searchsorted(ordered, x, side="right"), group)
        if form == "polygon":
            return self._polygon(group)
        placed = self.on_axis(self.admitted(values))
        share = len(placed) / len(values)
        if form == "normal":
            if len(placed) < 2 or placed.std() == 0:
                return None
            by = placed.mean(), placed.std(ddof=1)
            return self._density(
                lambda x: stats.norm.pdf(x, *by), lambda x: stats.norm.cdf(x, *by), group, share
            )
        reading = density_curves(self.readings)[group]
        if reading.curve is None or self.recipe.curve.kernel != "gaussian":
            return None
        width = math.log10(reading.bandwidth) if self.by_ratio else reading.bandwidth

        def pdf(x):
            return stats.norm.pdf((x[:, None] - placed) / width).mean(axis=1) / width

        def cdf(x):
            return stats.norm.cdf((x[:, None] - placed) / width).mean(axis=1)

        return self._density(pdf, cdf, group, share)

    def density(self, group: int):
        """A function of values: the density along the axis, times the share that has a place."""
        values = self.values[group]
        reading = density_curves(self.readings)[group]
        if not len(values) or reading.curve is None:
            return None
        placed = self.on_axis(self.admitted(values))
        width = math.log10(reading.bandwidth) if self.by_ratio else reading.bandwidth
        share = len(placed) / len(values)
        return lambda x: (
            share * stats.norm.pdf((self.on_axis(x)[:, None] - placed) / width).mean(axis=1) / width
        )

    def _density(self, pdf, cdf, group: int, share: float):
        """A density as heights."""
        if self.recipe.show.cumulative:
            return lambda x: self.share(
                (1 - share + share * cdf(self.on_axis(x))) * len(self.values[group]), group
            )
        if self.scale == "density":
            ours = len(self.values[group]) / self.of(group)
            return lambda x: ours * share * pdf(self.on_axis(x))
        widths, edges = self.widths(group), self.edges(group)
        many = len(self.values[group]) * share
        middles = edges[:-1] + np.diff(edges) / 2
        width = (
            (lambda x: np.interp(x, middles, widths))
            if np.ptp(widths) > 1e-9 * widths[0]
            else (lambda x: widths[0])
        )
        return lambda x: self.share(many * pdf(self.on_axis(x)) * width(x), group)

    def _polygon(self, group: int):
        heights, places = self.bar_heights(group), self.on_axis(self.edges(group))
        if self.recipe.show.cumulative:
            first = self.share((self.values[group] < self.edges(group)[0]).sum(), group)
            return lambda x: np.interp(self.on_axis(x), places, [first, *heights])
        middles = (places[:-1] + places[1:]) / 2
        ends = places[0] - np.diff(places)[0] / 2, places[-1] + np.diff(places)[-1] / 2
        first = max(0.0, ends[0]) if self.kind == "root" else ends[0]
        corners = [first, *middles, ends[1]]
        return lambda x: np.interp(self.on_axis(x), corners, [0, *heights, 0], left=0, right=0)

    # places on the page

    def alongs(self, frame: Frame, values) -> np.ndarray:
        """Where values lie along the axis of a frame, in points from its beginning."""
        low, high = self.on_axis(np.array([frame.low, frame.high]))
        with np.errstate(divide="ignore", invalid="ignore"):
            share = (self.on_axis(np.clip(values, frame.low, frame.high)) - low) / (high - low)
        share = 1 - share if frame.reversed else share
        if frame.upright:
            return frame.bottom - share * (frame.bottom - frame.top)
        return frame.left + share * (frame.right - frame.left)

    def values_at(self, frame: Frame, page: np.ndarray) -> np.ndarray:
        """The values at places of the page, of shape (n, 2)."""
        if frame.upright:
            share = (frame.bottom - page[:, 1]) / (frame.bottom - frame.top)
        else:
            share = (page[:, 0] - frame.left) / (frame.right - frame.left)
        share = 1 - share if frame.reversed else share
        low, high = self.on_axis(np.array([frame.low, frame.high]))
        placed = low + share * (high - low)
        return self.off_axis(placed)

    def across(self, band, heights):
        """Where heights lie across, in points of the page."""
        return band.base + np.clip(heights, 0, band.tallest) / band.tallest * (band.tip - band.base)


def places_of(scene: Scene) -> Iterator[tuple[Frame, Heights, int]]:
    """Each group with the frame and the band that it is drawn in."""
    for frame in scene.frames:
        for lane in frame.lanes:
            for heights in lane.heights:
                for group in heights.groups:
                    yield frame, heights, group


def faults(table: Table, readings: Readings, scene: Scene) -> list[str]:
    """What is painted otherwise than it should be."""
    anew = Recomputed(table, readings)
    wrong = [*_box_faults(anew, scene), *_violin_faults(anew, scene), *_range_faults(anew, scene)]
    wrong += [*_arrow_faults(anew, scene), *_pair_faults(anew, scene)]
    if not readings.plan.heights:
        return wrong
    if anew.scale != readings.scale:
        return [f"heights in {readings.scale}, not in {anew.scale}"]
    forms = readings.plan.heights
    wrong += _sway_faults(anew, scene)
    for frame, heights, group in places_of(scene):
        below = [
            other
            for other in heights.groups
            if readings.plan.arrange == "stacked" and other < group
        ]
        if "bars" in forms and len(anew.values[group]):
            wrong += _bar_faults(anew, scene, frame, heights, group, below)
        for form in {"curve", "normal", "ecdf", "polygon"} & set(forms):
            wrong += _line_faults(anew, scene, frame, heights, group, below, form)
        if "curve" in forms:
            wrong += _fill_faults(anew, scene, frame, heights, group, below)
    return wrong


def _arrow_faults(anew: Recomputed, scene: Scene) -> list[str]:
    """Decile arrows go from each tenth of the first group that has values to the same of others."""
    wrong = []
    filled = [group for group, values in enumerate(anew.values) if len(values)]
    if "shift" not in anew.readings.plan.strips or len(filled) < 2 or anew.recipe.compare:
        return wrong
    if not anew.recipe.show.split and not anew.recipe.panels.by:
        return wrong
    tenths = np.arange(1, 10) / 10
    start = np.quantile(anew.values[filled[0]], tenths)
    for frame in scene.frames:
        for strip in (s for lane in frame.lanes for s in lane.strips if s.form == "shift"):
            if strip.group not in filled[1:]:
                continue
            end = np.quantile(anew.values[strip.group], tenths)
            heads = [
                m for m in scene.marks
                if isinstance(m, Area) and m.meaning.part == "shift" and m.meaning.group == strip.group
                and m.smooth
            ]  # fmt: skip
            inside = (end >= frame.low) & (end <= frame.high)
            axis, back = (1, 0) if frame.upright else (0, 1)
            if len(heads) != inside.sum():
                wrong.append(f"{len(heads)} arrows of group {strip.group}")
                continue
            order = np.argsort([m.points[0, back] for m in heads])
            tips = np.array([heads[at].points[0, axis] for at in order])
            wanted = anew.alongs(frame, end[inside])
            if not np.allclose(tips, wanted, atol=0.05):
                wrong.append(f"arrows of group {strip.group} end at {tips}, not {wanted}")
            begun = anew.alongs(frame, start[inside])
            for tip, tail, at in zip(tips, begun, order, strict=True):
                turned = heads[at].points[1, axis] - tip
                if abs(tail - tip) > 0.1 and turned * (tail - tip) < 0:
                    wrong.append(f"an arrow of group {strip.group} points the other way")
    return wrong


_SHAPES = {"normal": stats.norm, "uniform": stats.uniform, "logistic": stats.logistic}
_MOST_PAIRS = 512


def _pair_faults(anew: Recomputed, scene: Scene) -> list[str]:
    """Each value stands at its place along, and as far across as its share of the shape has it."""
    wrong: list[str] = []
    readings, beside = anew.readings, anew.recipe.pairs.beside
    if "pairs" not in readings.plan.strips or beside not in _SHAPES:
        return wrong
    for frame in scene.frames:
        for strip in (s for lane in frame.lanes for s in lane.strips if s.form == "pairs"):
            values = np.sort(anew.values[strip.group])
            values = values[[frame.axis.admits(value) for value in values]]
            dots = [
                m for m in scene.marks
                if isinstance(m, Dots) and m.meaning.part == "pairs" and m.meaning.group == strip.group
            ]  # fmt: skip
            if len(values) > _MOST_PAIRS or len(np.unique(values)) < 2:
                continue
            places = frame.axis.placed(values)
            shares = (np.arange(len(values)) + 0.5) / len(values)
            shape = _SHAPES[beside](0, 1)
            told = (
                places.mean()
                + places.std(ddof=1) * (shape.ppf(shares) - shape.mean()) / shape.std()
            )
            inside = (values >= frame.low) & (values <= frame.high)
            if frame.axis.kind in ("log", "linear", "arsinh") and len(dots) != bool(inside.any()):
                wrong.append(f"{len(dots)} clouds of pairs of group {strip.group}")
            if len(dots) != 1 or len(dots[0].places) != inside.sum():
                continue
            axis, back = (1, 0) if frame.upright else (0, 1)
            if not np.allclose(
                dots[0].places[:, axis], anew.alongs(frame, values[inside]), atol=0.05
            ):
                wrong.append(f"pairs of group {strip.group} lie elsewhere along")
            across, told = dots[0].places[:, back], told[inside]
            if np.ptp(told) > 1e-6 * np.abs(told).max():
                straight = np.polyval(np.polyfit(told, across, 1), told)
                if not np.allclose(straight, across, atol=0.2):
                    wrong.append(f"pairs of group {strip.group} are no line of their shape across")
    return wrong


def _range_faults(anew: Recomputed, scene: Scene) -> list[str]:
    """Shades of ranges reach from end to end of their values, over the whole of every frame."""
    wrong = []
    shades = [m for m in scene.marks if isinstance(m, Area) and m.meaning.part == "range"]
    for kept in anew.recipe.range:
        for frame in scene.frames:
            panel = anew.readings.plan.panels[frame.panel]
            filled = any(len(anew.values[group]) for group in panel.groups)
            if not filled or kept.high < frame.low or kept.low > frame.high:
                continue
            ends = np.clip([kept.low, kept.high], frame.low, frame.high)
            along = np.sort(anew.alongs(frame, ends))
            sides = (frame.left, frame.right) if frame.upright else (frame.top, frame.bottom)
            least = [along[0], sides[0]][:: -1 if frame.upright else 1]
            most = [along[1], sides[1]][:: -1 if frame.upright else 1]
            if not any(
                np.allclose([s.points.min(axis=0), s.points.max(axis=0)], [least, most], atol=0.05)
                for s in shades
            ):
                wrong.append(f"no shade from {kept.low} to {kept.high} in panel {frame.panel}")
    return wrong


def _box_faults(anew: Recomputed, scene: Scene) -> list[str]:
    """Boxes reach from quartile to quartile (definition 7), or to the ends of notches that fold."""
    wrong = []
    if "box" not in anew.readings.plan.strips or anew.recipe.box.letters:
        return wrong
    for frame in scene.frames:
        for strip in (s for lane in frame.lanes for s in lane.strips if s.form == "box"):
            values = anew.values[strip.group]
            bodies = [
                m for m in scene.marks
                if isinstance(m, Area) and (m.meaning.part, m.meaning.group) == ("box", strip.group)
            ]  # fmt: skip
            if len(bodies) != bool(len(values)):
                wrong.append(f"{len(bodies)} boxes of group {strip.group}")
                continue
            if not bodies:
                continue
            low, middle, high = np.percentile(values, [25, 50, 75])
            if anew.recipe.box.notches:  # which may fold past the quartiles
                half = 1.57 * (high - low) / np.sqrt(len(values))  # McGill, Tukey and Larsen 1978
                low, high = min(low, middle - half), max(high, middle + half)
                asked = anew.recipe.axes.value
                if asked.high is None and high > frame.high * (1 + 1e-9):
                    wrong.append(f"the notch of group {strip.group} is cut off at {frame.high}")
            wanted = np.sort(anew.alongs(frame, np.clip([low, high], frame.low, frame.high)))
            held = bodies[0].points[:, 1 if frame.upright else 0]
            if not np.allclose([held.min(), held.max()], wanted, atol=0.05):
                wrong.append(f"the box of group {strip.group} lies at {held.min()}, {held.max()}")
    return wrong


def _violin_faults(anew: Recomputed, scene: Scene) -> list[str]:
    """Violins are as wide as the density of their values, or of their logs, on one scale for all.

    What a page is worth is taken from the widest place of all; each place of each is then known.
    """
    if "violin" not in anew.readings.plan.strips or anew.recipe.curve.kernel != "gaussian":
        return []
    if anew.readings.plan.axes > 1:
        return []
    drawn = []
    for frame in scene.frames:
        for strip in (s for lane in frame.lanes for s in lane.strips if s.form == "violin"):
            density = anew.density(strip.group)
            for area in scene.marks:
                if (
                    not isinstance(area, Area)
                    or area.meaning.group != strip.group
                    or density is None
                ):
                    continue
                if area.meaning.part != "curve" or not area.smooth:
                    continue
                x = anew.values_at(frame, area.points)
                across = area.points[:, 0 if frame.upright else 1]
                mirrored = abs(across.min() + across.max() - 2 * strip.band.middle) < 0.1
                if mirrored:  # a filled curve is not
                    share = np.abs(across - strip.band.middle) / (strip.band.thickness / 2)
                    drawn.append((strip.group, share, density(x), strip.band.thickness))
    if not drawn:
        return []
    top = max(float(heights.max()) for _, _, heights, _ in drawn)
    scale = max(
        float(share[heights.argmax()]) for _, share, heights, _ in drawn if heights.max() == top
    )
    return [
        f"the violin of group {group} is {worst:.1f} points off"
        for group, share, heights, thick in drawn
        if (worst := float(np.abs(share - heights / top * scale).max()) * thick / 2) > 0.8
    ]


def _bar_faults(anew, scene, frame, heights, group, below) -> list[str]:
    """Each bar’s area where it should be, all of it, and nothing besides."""
    areas = [
        m
        for m in scene.marks
        if isinstance(m, Area) and (m.meaning.part, m.meaning.group) == ("bars", group)
    ]
    band, edges = heights.band, anew.edges(group)
    tops, ground = (
        anew.bar_heights(group),
        sum((anew.bar_heights(other) for other in below), np.zeros(len(edges) - 1)),
    )
    alongs = anew.alongs(frame, edges)
    first, last = _slot(anew, heights.groups, group)
    starts, ends = alongs[:-1] + first * np.diff(alongs), alongs[:-1] + last * np.diff(alongs)
    feet, tips = anew.across(band, ground), anew.across(band, ground + tops)
    shown = np.isfinite(tops) & np.isfinite(ground) & (np.abs(ends - starts) > 0)
    if not np.isfinite(tops).all():  # a bin that has no place on the axis
        return []
    areas_expected = np.abs(ends - starts) * np.abs(tips - feet)
    expected = float(areas_expected[shown].sum())
    painted = sum(abs(_shoelace(area.points)) for area in areas)
    wrong = []
    if abs(painted - expected) > 0.01 * expected + 0.5:
        wrong.append(f"bars of group {group} have {painted:.1f} square points, not {expected:.1f}")
    if (
        (tops > 0).any()
        and band.tallest * (1 + 1e-9) < float((ground + tops).max())
        and anew.recipe.axes.height.high is None
    ):
        wrong.append(f"bars of group {group} are cut")
    inside, outside = [], []
    for place in np.flatnonzero(shown):
        middle = (starts[place] + ends[place]) / 2
        if (
            areas_expected[place] > 2
            and abs(ends[place] - starts[place]) > 1
            and abs(tips[place] - feet[place]) > 1
        ):
            inside.append((middle, (tips[place] + feet[place]) / 2))
            sign = math.copysign(0.4, tips[place] - feet[place])
            outside += [(middle, tips[place] + sign), (middle, feet[place] - sign)]
            if last - first < 1:
                free = abs(alongs[place + 1] - alongs[place]) * (1 - last + first) / 2
                away = math.copysign(min(0.2, free), ends[place] - starts[place])
                outside += [(starts[place] - away, (tips[place] + feet[place]) / 2)]
    for wanted, spots in ((True, inside), (False, outside)):
        for along, across in spots:
            x, y = (across, along) if frame.upright else (along, across)
            turns = [_winding(area.points, x, y) for area in areas]
            if any(turns) is not wanted or any(turn % 2 for turn in turns) is not wanted:
                wrong.append(
                    f"group {group} is {'not ' if wanted else ''}painted at ({x:.1f}, {y:.1f})"
                )
    return wrong[:3]


def _sway_faults(anew: Recomputed, scene: Scene) -> list[str]:
    """Between which heights bars would lie in other samples: shaded over each bar, and nowhere else;
    by the binomial of each bin."""
    wrong, readings, sure = [], anew.readings, anew.recipe.sway.confidence
    barred = {"bars", "outline"} & set(readings.plan.heights)
    if anew.recipe.sway.of != "sample" or readings.plan.arrange == "stacked" or not barred:
        return []
    for frame, heights, group in places_of(scene):
        held, n, widths = anew.held(group), len(anew.values[group]), anew.widths(group)
        if not n or not np.isfinite(widths).all():
            continue
        ends = []
        for share in ((1 - sure) / 2, (1 + sure) / 2):
            many = np.where(held % n, stats.binom.ppf(share, n, held / n), held)
            tall = (
                many / anew.of(group) / widths
                if anew.scale == "density"
                else anew.share(many, group)
            )
            ends.append(anew.across(heights.band, tall))
        low, high = ends
        alongs = anew.alongs(frame, anew.edges(group))
        first, last = _slot(anew, heights.groups, group)
        wide, middles = np.diff(alongs), alongs[:-1] + (first + last) / 2 * np.diff(alongs)
        expected = float((np.abs(wide) * (last - first)) @ np.abs(high - low))
        areas = [
            m
            for m in scene.marks
            if isinstance(m, Area)
            and m.meaning.part == "sway"
            and m.meaning.group == group
            and not m.smooth
        ]
        painted = sum(abs(_shoelace(area.points)) for area in areas)
        if abs(painted - expected) > 0.01 * expected + 0.5:
            wrong.append(
                f"shades of group {group} have {painted:.1f} square points, not {expected:.1f}"
            )
        if np.abs(wide).min() <= 1:
            continue
        some = slice(None, None, 1 + len(low) // 5)
        for along, near, far in zip(middles[some], low[some], high[some], strict=True):
            away = math.copysign(0.4, far - near)
            for across, wanted in (
                ((near + far) / 2, True),
                (far + away, False),
                (near - away, False),
            ):
                x, y = (across, along) if frame.upright else (along, across)
                shaded = any(_winding(area.points, x, y) % 2 for area in areas)
                if abs(far - near) > 1 and shaded is not wanted:
                    wrong.append(f"group {group} is shaded otherwise at ({x:.1f}, {y:.1f})")
    return wrong[:3]


def _slot(anew, together, group) -> tuple[float, float]:
    gap = anew.recipe.bars.gap
    if anew.readings.plan.arrange != "side-by-side" or len(together) < 2:
        return gap / 2, 1 - gap / 2
    free = gap or _BESIDE
    each = (1 - free) / len(together)
    place = list(together).index(group)
    return free / 2 + place * each, free / 2 + (place + 1) * each


def _line_faults(anew, scene, frame, heights, group, below, form) -> list[str]:
    """A line where it should be at each of its points."""
    function = anew.line(form, group)
    meaning = (_LINES[form], group)
    paths = [
        m
        for m in scene.marks
        if isinstance(m, Path) and (m.meaning.part, m.meaning.group) == meaning
    ]
    paths = [path for path in paths if _is(path, form)]
    if function is None or anew.recipe.curve.kernel != "gaussian" or not paths:
        return []
    if form in ("normal", "ecdf") and {"normal", "ecdf"} <= set(anew.recipe.show.forms):
        return []  # which of the two it is, its marks do not say
    if form == "polygon" and {"bars", "outline"} & set(anew.recipe.show.forms):
        return []
    if form == "polygon" and len(anew.admitted(anew.edges(group))) < len(anew.edges(group)):
        return []  # which has no place to begin
    grounds = [anew.line(form, other) for other in below]
    points = paths[0].points
    x = anew.values_at(frame, points)
    with np.errstate(divide="ignore", invalid="ignore"):
        wanted = sum((ground(x) for ground in grounds if ground), function(x))
    if form == "ecdf":  # which stands upright at each step
        nudge = 1e-7 * np.ptp(anew.on_axis(np.array([frame.low, frame.high])))
        earlier, later = (anew.off_axis(anew.on_axis(x) + by) for by in (-nudge, nudge))
        before, after = (
            sum((ground(at) for ground in grounds if ground), function(at))
            for at in (earlier, later)
        )
        low, high = np.minimum(before, wanted), np.maximum(after, wanted)
    else:
        low = high = wanted
    at = points[:, 0] if frame.upright else points[:, 1]
    one, other = anew.across(heights.band, low), anew.across(heights.band, high)
    off = np.maximum(np.minimum(one, other) - at, at - np.maximum(one, other))
    if form == "curve" and not anew.recipe.show.cumulative:
        # Bounds known from nature are reflected, which this derivation does not do.
        off = off[3:-3]
    worst = float(off.max(initial=0.0))
    wrong = []
    if worst > _OFF + _OFF_STACKED * len(below):
        place = int(off.argmax())
        wrong.append(f"{form} of group {group} is {worst:.1f} points off at {x[place]:.6g}")
    if anew.recipe.show.cumulative or form == "ecdf":
        ends = anew.alongs(frame, np.array([frame.low, frame.high]))
        held = points[:, 1] if frame.upright else points[:, 0]
        if abs(held.min() - ends.min()) > _OFF or abs(held.max() - ends.max()) > _OFF:
            wrong.append(f"{form} of group {group} ends in mid-air")
    return wrong


def _fill_faults(anew, scene, frame, heights, group, below) -> list[str]:
    """What lies between a curve and what it stands on is filled, and nothing beside that."""
    function = anew.line("curve", group)
    fills = [
        mark.points
        for mark in scene.marks
        if isinstance(mark, Area) and (mark.meaning.part, mark.meaning.group) == ("curve", group)
    ]
    curve = anew.recipe.curve
    if function is None or curve.kernel != "gaussian" or not (fills and curve.fill):
        return []
    stands_on = [f for f in (anew.line("curve", other) for other in below) if f]
    ends = anew.on_axis(np.array([frame.low, frame.high]))
    places = np.linspace(*ends, 43)[3:-3]
    # Where a curve is steep, half a point along is much across.
    near = np.ptp(ends) / abs(np.ptp(anew.alongs(frame, np.array([frame.low, frame.high])))) / 2
    heights_at = []
    for by in (-near, 0, near):
        x = anew.off_axis(places + by)
        base = sum((f(x) for f in stands_on), np.zeros(len(x)))
        heights_at.append([anew.across(heights.band, at) for at in (base, base + function(x))])
    bases, tops = np.array(heights_at).transpose(1, 2, 0)
    off = _OFF + _OFF_STACKED * len(below)
    up = math.copysign(1, heights.band.tip - heights.band.base)
    wrong = []
    middles = anew.alongs(frame, anew.off_axis(places))
    for along, base, top in zip(middles, bases * up, tops * up, strict=True):
        if not np.isfinite([base, top]).all():
            continue
        asked = {base.min() - off: False, top.max() + off: False}
        if top.min() - base.max() > 3 * off:
            asked |= {base.max() + off: True, top.min() - off: True}
        for across, filled in asked.items():
            place = (up * across, along) if frame.upright else (along, up * across)
            if any(_winding(points, *place) for points in fills) is not filled:
                wrong.append(
                    f"the fill of curve {group} is wrong at {place[0]:.1f}, {place[1]:.1f}"
                )
    return wrong[:1]


def _is(path: Path, form: str) -> bool:
    return path.smooth is (form != "ecdf")


def _shoelace(points: np.ndarray) -> float:
    x, y = points[:, 0], points[:, 1]
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


def _winding(points: np.ndarray, x: float, y: float) -> int:
    """How often an outline runs around a place."""
    (x1, y1), (x2, y2) = points.T, np.roll(points, -1, axis=0).T
    side = (x2 - x1) * (y - y1) - (x - x1) * (y2 - y1)
    up = (y1 <= y) & (y2 > y) & (side > 0)
    down = (y1 > y) & (y2 <= y) & (side < 0)
    return int(up.sum() - down.sum())


# What is told


def told(table: Table, readings: Readings, scene: Scene) -> list[str]:
    """What cards, rows and numbers on bars say otherwise than it is."""
    anew = Recomputed(table, readings)
    wrong = []
    for row in rows_of_stops(readings):
        for stop in row[:: max(1, len(row) // 12)]:
            if stop.form in ("bars", "outline", "polygon"):
                wrong += _card_faults(anew, table, stop)
            elif stop.form in ("curve", "normal", "ecdf"):
                wrong += _line_card_faults(anew, stop)
    if readings.recipe.bars.labels and {"bars", "outline"} & set(readings.plan.heights):
        wrong += _label_faults(anew, scene)
    return wrong


def _card_faults(anew: Recomputed, table: Table, stop) -> list[str]:
    card, groups = card_of(anew.readings, stop), groups_at(anew.readings, stop)
    wrong = []
    for line in card.lines:
        group = line.group
        edges = anew.edges(group)
        place = max(0, min(len(edges) - 2, int(np.searchsorted(edges, stop.value, "right")) - 1))
        count = int(anew.held(group)[place])
        total = anew.of(group)
        texts = [f"{count:,} of {total:,}", f"{100 * count / total:.1f} %"]
        if not anew.recipe.show.cumulative:
            texts.append(f"{count / total / anew.widths(group)[place]:.3g}")
        if np.isfinite(anew.widths(group)[place]) and not _alike(line.cells, texts):
            wrong.append(f"card of group {group} says {line.cells}, not {texts}")
        step = rows_of_stop(anew.readings, stop, group)
        rows = int(step.holds(table).sum()) if step else count
        if rows != count:
            wrong.append(f"{rows} rows of a bar of group {group} with {count} values")
    if not groups:
        wrong.append("a card of no group")
    return wrong


def _alike(cells, texts) -> bool:
    """Whether cells say the same, but for a half that is rounded up or down."""
    if len(cells) != len(texts) or cells[0] != texts[0]:
        return False
    numbers = [[number_told(text.removesuffix(" %")) for text in row[1:]] for row in (cells, texts)]
    return all(abs(a - b) <= 0.1001 + 0.011 * abs(b) for a, b in zip(*numbers, strict=True))


def number_told(text: str) -> float:
    """12,345.6 and 4.69 × 10⁻⁵ as numbers."""
    digits, _, power = text.replace(",", "").partition(" × 10")
    ten = int(power.translate(str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")) or 0)
    return float(digits) * 10.0**ten


def _line_card_faults(anew: Recomputed, stop) -> list[str]:
    wrong = []
    for line in card_of(anew.readings, stop).lines:
        upto = int((anew.values[line.group] <= stop.value).sum())
        share = f"{100 * upto / anew.of(line.group):.1f} %"
        if not _alike(("", line.cells[1]), ("", share)):
            wrong.append(
                f"{stop.form} of group {line.group}: {line.cells[1]} up to there, not {share}"
            )
        function = anew.line(stop.form, line.group)
        if function is None or line.cells[0] == "no curve":
            continue
        with np.errstate(divide="ignore", invalid="ignore"):
            height = float(function(np.array([stop.value]))[0])
            near = [float(function(np.array([stop.value * f]))[0]) for f in (1 - 1e-9, 1 + 1e-9)]
        said = number_told(line.cells[0])
        most = max(abs(height), *map(abs, near))
        off = min(abs(said - value) for value in (height, *near))
        if most and off > 0.01 * most + 2e-3 * anew.highest(stop.form, line.group):
            wrong.append(f"{stop.form} of group {line.group} is told {said}, not {height:.3g}")
    return wrong


def _label_faults(anew: Recomputed, scene: Scene) -> list[str]:
    """Each number on a bar is that of the bar it stands at."""
    wrong, decimals = [], set()
    asked = anew.recipe.bars.labels
    if asked == "density" and anew.recipe.show.cumulative:
        asked = "proportion"
    for mark in scene.marks:
        if not isinstance(mark, Text) or mark.meaning is None or mark.meaning.part != "bars":
            continue
        group = mark.meaning.group
        frame = next(f for f in scene.frames if any(group in lane.groups for lane in f.lanes))
        edges, counts = anew.edges(group), anew.held(group)
        alongs = anew.alongs(frame, edges)
        middle = mark.y if frame.upright else mark.x
        middle -= mark.size * 0.35 if frame.upright or mark.angle else 0.0
        inside = (np.minimum(alongs[:-1], alongs[1:]) - 1 <= middle) & (
            middle <= np.maximum(alongs[:-1], alongs[1:]) + 1
        )
        values = counts / (anew.widths(group) if asked == "density" else 1.0)
        values = values / anew.of(group) if asked == "density" else anew.share(values, group, asked)
        text = mark.text.removesuffix(" %").replace(",", "").removeprefix("<")
        if "×" in text:
            continue
        decimals.add(len(text.partition(".")[2]))
        half = 0.5000001 * 10.0 ** -len(text.partition(".")[2])
        if mark.text.startswith("<"):
            half *= 2
        if not any(abs(float(text) - value) <= half for value in values[inside]):
            wrong.append(f"{mark.text} on a bar of group {group} with {values[inside]}")
    if len(decimals) > 1:
        wrong.append(f"numbers on bars have {sorted(decimals)} decimals")
    return wrong
