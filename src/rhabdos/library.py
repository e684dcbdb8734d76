"""Rhabdos from Python: the same core for notebooks and scripts, as docs/python.md describes it.

It makes the recipes that the window makes, and nothing that the window does not know. Only pixels
and PDF need Qt.
"""

import datetime
import os
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any, Self

import numpy as np

from rhabdos.data.demo import demo_table
from rhabdos.data.preparing import OtherTables, begun, prepared
from rhabdos.data.steps.keep import Condition, KeepRows
from rhabdos.data.steps.step import Step
from rhabdos.data.table import Table
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.numbers import numbers_data
from rhabdos.figure.output.numbers_csv import numbers_csv
from rhabdos.figure.output.seen import seen
from rhabdos.figure.output.tables import tables_of
from rhabdos.figure.phrases.sentence import plain
from rhabdos.figure.planning.data_request import samples_for
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Form, Recipe
from rhabdos.figure.recipe.toml_text import (
    Work,
    figure_in,
    figure_tables,
    read_work,
    without_empty,
    write_work,
)
from rhabdos.paint.inside import recipe_text
from rhabdos.paint.svg import svg
from rhabdos.paint.typeface import measure
from rhabdos.project.files import write_whole
from rhabdos.scene.build import build
from rhabdos.scene.marks import Scene

__all__ = ["Data", "Figure", "demo", "open"]

_Names = str | Sequence[str]


def open(path: str | os.PathLike[str]) -> "Data":  # noqa: A001 - rhabdos.open
    """Open a file of data: delimited text, a workbook, Parquet, Arrow and what else is read.

    What is larger than memory, a folder of Parquet files and an address such as
    ``service:oysters#harvest.landings`` stay where they lie, and figures ask for counts.

    Raises
    ------
    Refusal
        It cannot be read; the sentence says why.
    """
    table = begun(None, os.fspath(path))
    return Data(table, folder="." if table.far else str(Path(path).absolute().parent))


def demo() -> "Data":
    """The demo data: oyster landings at three invented bays."""
    return Data(demo_table())


class Data:
    """A table with the steps that prepared it; never changed, but the beginning of another."""

    def __init__(self, table: Table, steps: tuple[Step, ...] = (), folder: str = ".") -> None:
        self._table, self._steps, self._folder = table, steps, folder

    def __repr__(self) -> str:
        return f"<{self._table.name}: {self._table.size}, {len(self.variables)} variables>"

    def __len__(self) -> int:
        return self._table.all_rows

    @property
    def variables(self) -> tuple[str, ...]:
        """The names of all variables."""
        return tuple(column.name for column in self._table.columns)

    def prepare(self, *steps: Step) -> Self:
        """The same data after some steps more, such as ``rhabdos.data.steps.derive.Make``.

        Raises
        ------
        Refusal
            A step cannot be done.
        """
        table = prepared(self._table, steps, OtherTables((self._folder,)))
        return type(self)(table, (*self._steps, *steps), self._folder)

    def keep(
        self,
        variable: str,
        *,
        low: float | str | datetime.date | None = None,
        high: float | str | datetime.date | None = None,
        levels: _Names | None = None,
    ) -> Self:
        """The rows of which a variable is within limits, or one of some levels.

        Parameters
        ----------
        low, high : float or str, optional
            In the unit of the variable, or dates, also as "2026-11-29"; both count.
        levels : sequence of str, optional
            Of a categorical variable.
        """
        ends = (_plain(end) for end in (low, high))
        first, last = (float(end) if isinstance(end, int) else end for end in ends)
        among = tuple(_names(levels)) if levels is not None else None
        kept = Condition(variable=variable, low=first, high=last, levels=among)
        return self.prepare(KeepRows((kept,)))

    def histogram(self, variables: _Names, split: _Names = (), **settings: Any) -> "Figure":
        """A histogram; see ``figure`` for the settings."""
        return self.figure(variables, split, forms=("bars",), **settings)

    def curve(self, variables: _Names, split: _Names = (), **settings: Any) -> "Figure":
        """Density curves, of densities; see ``figure`` for the settings."""
        settings.setdefault("heights", "density")
        return self.figure(variables, split, forms=("curve",), **settings)

    def boxes(self, variables: _Names, split: _Names = (), **settings: Any) -> "Figure":
        """Boxes; see ``figure`` for the settings."""
        return self.figure(variables, split, forms=("box",), **settings)

    def figure(
        self,
        variables: _Names,
        split: _Names = (),
        *,
        forms: Form | Sequence[Form] = ("bars",),
        width: float | None = None,
        start: float | str | datetime.date | None = None,
        reference: str | None = None,
        title: str | None = None,
        **settings: Any,
    ) -> "Figure":
        """A figure.

        Parameters
        ----------
        variables, split : str or sequence of str
            What is shown, and the factors whose levels are the groups, at most two.
        forms : sequence of str
            As in a recipe: "bars", "curve", "box" …
        width, start : float, optional
            Of the bins, in the unit of the variable; by rule if not given. Of dates a width is days
            and a start may be a date.
        reference : str, optional
            The level that the others are compared with.
        settings
            Whatever else the table ``[show]`` of a recipe holds: ``heights="percent"``,
            ``arrange="stacked"``, ``upright=True`` …; and other tables of it, such as
            ``bins={"rule": "scott"}``.

        Raises
        ------
        Refusal
            It cannot be drawn of these data; the sentence says why.
        """
        shown = {"variables": _names(variables), "split": _names(split), "forms": _names(forms)}
        tables = {name: table for name, table in settings.items() if isinstance(table, Mapping)}
        usual = {
            "show": shown | {name: settings[name] for name in settings.keys() - tables},
            "bins": {"width": width, "start": start},
            "compare": {"reference": reference},
            "words": {"title": title},
        }
        return Figure(self, _recipe(usual, tables))

    def draw(self, recipe: str | os.PathLike[str]) -> "Figure":
        """The figure of a recipe: its text, or a file that is one or holds one; its steps prepare
        the data first.

        Raises
        ------
        Refusal
            It is no recipe, holds no figure, or cannot be drawn of these data.
        """
        is_text = isinstance(recipe, str) and "\n" in recipe
        text = str(recipe) if is_text else recipe_text(Path(recipe))
        work = read_work(text, "The recipe" if is_text else os.path.basename(recipe))
        if work.recipe is None:
            raise Refusal("The recipe holds steps but no figure.")
        data = self.prepare(*(s for s in work.steps if not s.begins)) if work.steps else self
        return Figure(data, work.recipe)

    @property
    def table(self) -> Table:
        """The typed columns."""
        return self._table

    @property
    def steps(self) -> tuple[Step, ...]:
        """What prepared them."""
        return self._steps


class Figure:
    """A figure of some data; never changed, but the beginning of another."""

    def __init__(self, data: Data, recipe: Recipe) -> None:
        self._data, self._recipe = data, recipe
        self._readings = read(recipe, samples_for(recipe, data.table))
        self._scene: Scene | None = None

    def __repr__(self) -> str:
        return f"<{self.sentence}>"

    def _repr_svg_(self) -> str:
        return self.svg()

    @property
    def recipe(self) -> str:
        """The recipe as TOML, steps included: what the window opens and saves."""
        return write_work(Work(self._data.steps, self._recipe))

    @property
    def readings(self) -> Readings:
        """Every number behind the figure, as the core holds them."""
        return self._readings

    @property
    def sentence(self) -> str:
        """What is drawn, in one sentence."""
        return plain(self._readings)

    @property
    def seen(self) -> tuple[str, ...]:
        """What is seen in the data, a sentence each."""
        return tuple(each.text for each in seen(self._readings))

    @property
    def notices(self) -> tuple[str, ...]:
        """Where the picture might mislead."""
        return tuple(notice.text for notice in notices(self._readings))

    def numbers(self) -> dict[str, Any]:
        """Every number behind the figure, as ``rhabdos numbers`` prints them."""
        return numbers_data(self._readings)

    def csv(self) -> str:
        """The same, one number a row."""
        return numbers_csv(self._readings)

    def tables(self) -> Mapping[str, Sequence[Mapping[str, object]]]:
        """The tables of the window, by name, as rows of cells by column."""
        tables = {name: table() for name, table in tables_of(self._readings).items()}
        return {
            name: [dict(zip(table.columns, row, strict=True)) for row in table.rows]
            for name, table in tables.items()
        }

    def changed(self, **tables: Any) -> Self:
        """The same figure with other settings, by the tables of a recipe:
        ``changed(bins={"width": 2.0}, show={"heights": "percent"})``.

        Raises
        ------
        Refusal
            A recipe holds no such key or value, or it cannot be drawn.
        """
        return type(self)(self._data, _recipe(figure_tables(self._recipe), tables))

    def _drawn(self) -> Scene:
        if self._scene is None:
            self._scene = build(self._readings, measure)
        return self._scene

    def svg(self) -> str:
        """The figure as SVG, with its letters and its recipe inside; needs no Qt."""
        return svg(self._drawn(), letters="embedded", recipe=self.recipe).decode()

    def png(self, dpi: float = 150) -> bytes:
        """The figure as PNG; needs Qt."""
        from rhabdos.headless import application_without_screen
        from rhabdos.paint.export import png

        application_without_screen()
        return png(self._drawn(), dpi, recipe=self.recipe)

    def pdf(self) -> bytes:
        """The figure as PDF; needs Qt."""
        from rhabdos.headless import application_without_screen
        from rhabdos.paint.pdf import pdf

        application_without_screen()
        return pdf(self._drawn(), recipe=self.recipe)

    def save(self, path: str | os.PathLike[str], dpi: float = 300) -> None:
        """Write the figure; .svg, .png or .pdf tells the format, .toml writes the recipe.

        Raises
        ------
        Refusal
            The ending is none of them, or the file cannot be written.
        """
        ending = Path(path).suffix.lower()
        if ending == ".svg":
            content = self.svg().encode()
        elif ending == ".png":
            content = self.png(dpi)
        elif ending == ".pdf":
            content = self.pdf()
        elif ending == ".toml":
            content = self.recipe.encode()
        else:
            raise Refusal(f"“{Path(path).name}” must end in .svg, .png, .pdf or .toml.")
        write_whole(path, content)


def _names(names: _Names) -> list[str]:
    return [names] if isinstance(names, str) else list(names)


def _recipe(raw: dict[str, Any], tables: Mapping[str, Any]) -> Recipe:
    """The recipe of some tables with others; what is None is left out of them."""
    for name, values in tables.items():
        if isinstance(values, Mapping):
            raw[name] = {**raw.get(name, {}), **values}
        else:
            raw[name] = values
    return figure_in(without_empty(_plain(raw)), "The figure")


def _plain(value: Any) -> Any:
    """What a notebook holds, as a recipe does: numbers of NumPy, its arrays, and dates."""
    match value:
        case np.datetime64():
            return _plain(value.astype("datetime64[us]").item())  # of nanoseconds it gives numbers
        case np.generic() | np.ndarray():
            return _plain(value.tolist())
        case datetime.date():
            return value.isoformat()
        case Mapping():
            return {key: _plain(part) for key, part in value.items() if part is not None}
        case list() | tuple():
            return [_plain(part) for part in value]
    return value
