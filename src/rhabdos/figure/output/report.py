"""What a report says: of each figure its sentences, tables and notices; how the rows came about,
and the methods that were used, in the words of docs/methods.md."""

from collections.abc import Iterable, Sequence

from msgspec import Struct

from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.explained import Explanation, explain
from rhabdos.figure.output.seen import seen
from rhabdos.figure.output.subjects import FORM_TOPICS, Subject
from rhabdos.figure.output.tables import NumberTable, comparison_table, summary_table, tables_of
from rhabdos.figure.readings.readings import Readings

_SUMMARY = ("mean", "sd", "median", "iqr")
_COMPARED = ("compare median", "compare mean", "compare sd", "compare overlap", "compare exceeds")


class Told(Struct, frozen=True):
    """What a report says of one figure.

    Attributes
    ----------
    sentence : str
        What is drawn.
    seen : tuple of str
        What is seen in the data, but for what the recipe strikes out.
    tables : tuple of NumberTable
        The summary, and the comparisons where groups are compared; rounded.
    """

    name: str
    sentence: str
    seen: tuple[str, ...]
    notices: tuple[str, ...]
    tables: tuple[NumberTable, ...]


class Method(Struct, frozen=True):
    """A method that was used: what it is called, and what the methods say of it, as Markdown."""

    title: str
    section: str
    text: str
    sources: tuple[str, ...]


class Report(Struct, frozen=True):
    """All that a report says.

    Attributes
    ----------
    data : str
        What the data are called, and how large they are.
    rows : tuple of (str, str)
        Each step of preparing, and what it did; in their order.
    recipes : tuple of str
        Of each figure, as text; steps included.
    """

    title: str
    data: str
    rows: tuple[tuple[str, str], ...]
    figures: tuple[Told, ...]
    methods: tuple[Method, ...]
    recipes: tuple[str, ...]

    @property
    def sources(self) -> tuple[str, ...]:
        """The references of the methods, each once, in order of their letters."""
        return tuple(sorted({source for method in self.methods for source in method.sources}))


def told(name: str, sentence: str, readings: Readings) -> Told:
    """What is said of a figure, beside the sentence that says what is drawn."""
    tables = [summary_table(readings).rounded()]
    if "Comparisons" in tables_of(readings):
        tables.append(comparison_table(readings).rounded())
    return Told(
        name,
        sentence,
        tuple(each.text for each in seen(readings)),
        tuple(notice.text for notice in notices(readings)),
        tuple(tables),
    )


def methods_of(figures: Iterable[Readings]) -> tuple[Method, ...]:
    """The methods that some figures use, each once."""
    used: dict[tuple[str, str], Method] = {}
    for readings in figures:
        for topic in _topics(readings):
            explained = explain(readings, Subject(topic))
            if explained is not None:
                method = _method(explained)
                used.setdefault((method.title, method.text), method)
    return tuple(used.values())


def _topics(readings: Readings) -> Iterable[str]:
    """What a figure and its tables are made of."""
    if readings.needs_bins:
        yield "bins"
    yield from dict.fromkeys(FORM_TOPICS[form] for form in readings.recipe.show.forms)
    if readings.recipe.sway.of is not None:
        yield "sway"
    yield from _SUMMARY
    if "Comparisons" in tables_of(readings):
        yield from _COMPARED


def _method(found: Explanation) -> Method:
    lines: list[str] = []
    for name, text in found.passage.parts:
        if name == "checked against":
            continue
        if name == "in words":
            lines.insert(0, f"{text[:1].upper()}{text[1:]}.")
        else:
            called = name if len(name) < 2 else name.capitalize()
            lines.append(f"**{called}:** {text}" if name else text)
    return Method(found.title, found.passage.section, "\n\n".join(lines), found.sources)


def titled(names: Sequence[str]) -> str:
    """What a report of some figures is called, where its user does not say."""
    return names[0] if len(names) == 1 else f"{len(names)} figures"
