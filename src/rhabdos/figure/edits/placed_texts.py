"""Texts that stand in the figure, and arrows from them: where they are, and how they are moved."""

from msgspec import Struct

from rhabdos.data.columns import DateColumn
from rhabdos.errors import Refusal
from rhabdos.figure.readings.axis_limits import bound_value, number_typed, told_bound
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.figure.recipe.recipe_words import Arrow, FigureText
from rhabdos.quoting import quoted
from rhabdos.wording import about, exact, with_unit

Standing = FigureText | Arrow
"""What stands at a value, and across the value axis at a height or at a share of the frame."""


class Spot(Struct, frozen=True):
    """A place in a frame: a value, a share of the frame across, and the height there, if any."""

    value: float
    share: float
    height: float | None = None


def value_of(readings: Readings, standing: Standing, panel: str | None) -> float:
    """The value at which something stands in a panel, or in all of them (None); of dates, in
    days."""
    dates = isinstance(readings.variable_in(panel), DateColumn)
    value = bound_value(standing.value, dates, "A text")
    assert value is not None
    return value


def with_text(readings: Readings, value: float, share: float, panel: int = 0) -> Recipe:
    """The figure with one more text at a place: in each panel, or where panels have axes of their
    own in this one alone."""
    own = readings.plan.axes > 1
    told = told_bound(readings.variable_in(panel), value)
    name = readings.plan.panels[panel].label if own else None
    placed = FigureText(text="Text", value=told, share=share, panel=name)
    return readings.recipe.changed(text=(*readings.recipe.text, placed))


def moved_text(readings: Readings, number: int, spot: Spot) -> Recipe:
    """The figure with a text at another place; its arrow still points to the same."""
    text = readings.recipe.text[number]
    return _with(readings, number, text.changed(**_where(readings, text, spot, text.panel)))


def pointed_text(readings: Readings, number: int, spot: Spot | None) -> Recipe:
    """The figure with an arrow from a text to a place; None takes it away."""
    text = readings.recipe.text[number]
    if spot is None:
        return _with(readings, number, text.changed(arrow=None))
    arrow = text.arrow or Arrow(value=text.value)
    arrow = arrow.changed(**_where(readings, arrow, spot, text.panel))
    return _with(readings, number, text.changed(arrow=arrow))


def _where(
    readings: Readings, standing: Standing, spot: Spot, panel: str | None
) -> dict[str, object]:
    """Where something stands that was put at a spot: at its height, if it stood at one."""
    value = told_bound(readings.variable_in(panel), spot.value)
    share = min(1.0, max(0.0, spot.share))
    height = spot.height if standing.height is not None else None
    return {"value": value, "share": share, "height": height}


# As they are typed


def shown_value(readings: Readings, standing: Standing, panel: str | None) -> str:
    """Where something stands along the value axis of a panel, as it is typed."""
    if isinstance(standing.value, str):
        return standing.value
    return with_unit(exact(standing.value), readings.variable_in(panel).unit)


def shown_height(standing: Standing) -> str:
    """Where it stands across, as it is typed."""
    if standing.height is not None:
        return exact(standing.height)
    return f"{about(100 * standing.share, 4)} %"


def put_at_value(readings: Readings, number: int, typed: str, arrow: bool) -> Recipe:
    """The figure with a text, or the tip of its arrow, at a value that was typed.

    Raises
    ------
    Refusal
        It is no number, and no date where values are dates.
    """
    variable = readings.variable_in(readings.recipe.text[number].panel)
    if isinstance(variable, DateColumn):
        bound_value(typed, True, "A text")  # refuses what is no date
        return _put(readings, number, arrow, value=typed)
    value = number_typed(readings, typed, variable)
    if value is None:
        raise Refusal(f"{quoted(typed)} is no number. Write where the text stands, such as 40.")
    return _put(readings, number, arrow, value=value)


def put_at_height(readings: Readings, number: int, typed: str, arrow: bool) -> Recipe:
    """The same across the value axis: at a share of the frame such as 85 %, or at a height.

    Raises
    ------
    Refusal
        It is no number, or the share is not from 0 to 100 %.
    """
    number_typed = read_number(typed.removesuffix("%"))
    if number_typed is None:
        raise Refusal(
            f"{quoted(typed)} is no height. Write a share of the frame, such as 85 %, or a height "
            "on the axis, such as 12."
        )
    if not typed.endswith("%"):
        return _put(readings, number, arrow, height=number_typed)
    if not 0 <= number_typed <= 100:
        raise Refusal("A share of the frame is from 0 to 100 %.")
    return _put(readings, number, arrow, share=number_typed / 100, height=None)


def _put(readings: Readings, number: int, arrow: bool, **where: object) -> Recipe:
    text = readings.recipe.text[number]
    if not arrow:
        return _with(readings, number, text.changed(**where))
    there = text.arrow or Arrow(value=text.value, share=text.share)
    return _with(readings, number, text.changed(arrow=there.changed(**where)))


def _with(readings: Readings, number: int, text: FigureText) -> Recipe:
    texts = list(readings.recipe.text)
    texts[number] = text
    return readings.recipe.changed(text=tuple(texts))
