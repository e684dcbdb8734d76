"""The few alternatives of a phrase, as a menu that opens below it."""

from collections.abc import Callable

from PyQt6.QtWidgets import QMenu, QWidget

from rhabdos.app.choices import Choices
from rhabdos.app.phrase_panels import SCALES
from rhabdos.data.gathering import can_split
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.readings import Readings, edges_for
from rhabdos.figure.recipe import Bins, Form, Recipe
from rhabdos.figure.wording import FORM_TITLES, counted, exact, height_axis_title, with_unit
from rhabdos.stats.rounding import round_steps
from rhabdos.stats.rules import RULES

Ask = Callable[[str, Recipe], None]
_MOST_ENTRIES = 30
# The few that are wanted most; the panel beside the figure combines them at will.
_COMBINATIONS: tuple[tuple[Form, ...], ...] = (
    ("bars",),
    ("bars", "curve"),
    ("bars", "normal"),
    ("outline",),
    ("polygon",),
    ("curve",),
    ("ecdf",),
)


def alternatives(
    phrase: str,
    table: Table,
    readings: Readings,
    ask: Ask,
    find: Callable[[], None],
    parent: QWidget,
) -> Choices | None:
    """The menu of a phrase, or None where its settings need a panel."""
    menu = Choices(parent)
    recipe = readings.recipe

    def offer(text: str, name: str, other: Recipe, current: bool) -> None:
        menu.offer(text, lambda: ask(name, other), current)

    if phrase == "variable":
        numbers = [column for column in table.numbers if column.n]
        for column in numbers[:_MOST_ENTRIES]:
            offer(
                column.label,
                f"Show {column.label}",
                showing(recipe, column.name),
                column.name == readings.variable.name,
            )
        if len(numbers) > _MOST_ENTRIES:
            menu.addSeparator()
            menu.addAction(f"Find among {len(numbers):,} …", find)
    elif phrase == "split":
        here = readings.split.name if readings.split else None
        offer("all together", "All together", recipe.showing(split=()), here is None)
        menu.addSeparator()
        for factor in can_split(table)[:_MOST_ENTRIES]:
            offer(
                factor.label,
                f"Split by {factor.label}",
                recipe.showing(split=(factor.name,)),
                factor.name == here,
            )
    elif phrase == "forms":
        for forms in _COMBINATIONS:
            words = " + ".join(FORM_TITLES[form] for form in forms)
            offer(
                words,
                f"Drawn as {words}",
                recipe.showing(forms=forms),
                set(forms) == set(recipe.show.forms),
            )
    elif phrase == "heights":
        _heights(readings, offer)
    elif phrase == "bins":
        _bins(readings, offer, menu)
    else:
        return None
    return menu


def showing(recipe: Recipe, variable: str) -> Recipe:
    """The same figure of another variable: words and bins that belong to the old one are let go."""
    if variable == recipe.variable:
        return recipe
    curve = recipe.curve.changed(lower=None, upper=None)
    if not isinstance(curve.bandwidth, str):
        curve = curve.changed(bandwidth="silverman")
    bins = Bins(rule=recipe.bins.rule, closed=recipe.bins.closed)
    shown = recipe.showing(variables=(variable,)).changed(bins=bins, curve=curve)
    return shown.worded(title=None, value_axis=None)


def _heights(readings: Readings, offer: Callable[[str, str, Recipe, bool], None]) -> None:
    recipe = readings.recipe
    split = readings.split.label if readings.split else None
    unequal = readings.edges.width is None and not readings.cumulative
    for scale, (title, _) in SCALES.items():
        if (unequal and scale != "density") or (readings.cumulative and scale == "density"):
            continue
        for of in ("group", "all") if split and scale != "count" else (recipe.show.of,):
            words = height_axis_title(scale, of, split, readings.variable.unit, readings.cumulative)
            if scale == "density" and split:
                words += " of all" if of == "all" else " of each group"
            current = scale == readings.scale and (
                of == recipe.show.of or scale == "count" or not split
            )
            offer(
                words, f"Heights in {title.lower()}", recipe.showing(heights=scale, of=of), current
            )


def _bins(readings: Readings, offer: Callable[[str, str, Recipe, bool], None], menu: QMenu) -> None:
    recipe, edges, unit = readings.recipe, readings.edges, readings.variable.unit
    bins = recipe.bins
    by_hand = bins.width is not None or bins.count is not None or bins.edges is not None
    for key, rule in RULES.items():
        other = Bins(rule=None if key == "automatic" else key, closed=bins.closed, round=bins.round)
        try:
            made = edges_for(other, readings.samples.pooled).edges
        except Refusal:
            continue
        width = with_unit(exact(float(f"{made.width:.4g}")), unit) if made.width else ""
        text = f"{rule.title}:  {width} wide, {counted(made.count, 'bin', 'bins')}"
        current = not by_hand and key == (bins.rule or "automatic")
        offer(text, f"Bins by {rule.title}", recipe.binned(other), current)
    if edges.width:
        menu.addSeparator()
        span = edges.high - edges.low
        steps = round_steps(
            max(edges.width / 4, span / 2000),
            min(edges.width * 4, span),
            readings.samples.pooled.whole,
        )
        for step in sorted({*steps, edges.width}) if by_hand else steps:
            text = f"{with_unit(exact(step), unit)} wide"
            other = (
                bins if step == edges.width and by_hand else Bins(width=step, closed=bins.closed)
            )
            offer(
                text,
                f"Bin width {exact(step)}",
                recipe.binned(other),
                by_hand and step == edges.width,
            )
