"""What looks wrong with a variable that was read as levels or labels."""

import re
from typing import TYPE_CHECKING

import numpy as np

from rhabdos.arrays import BoolArray, IntArray
from rhabdos.data.columns import BLANK, CategoryColumn, LabelColumn
from rhabdos.data.problems.problem import Problem, misfits
from rhabdos.quoting import quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

    from rhabdos.data.fields.notation import Notation
    from rhabdos.data.steps.step import Step

_TOTAL_WORDS = (
    "(?:(?:grand |sub-?|over)?totals?|sums?|all together|mean|average|gesamt|summe|insgesamt|"
    "totale|somme|suma|totaal|summa)(?: of .{1,30})?:?"
)
_TOTAL = re.compile(_TOTAL_WORDS, re.IGNORECASE)
_TWO_LETTERS = re.compile("[A-Z]{2}")
_SHARE_OF_BLANKS = 0.1  # of the rows, below which blanks are single gaps
_GLANCE = 2_000  # texts that tell how a column is written
_FIRST = 50


def of_levels(column: CategoryColumn) -> list[Problem | None]:
    """What looks wrong with levels."""
    return [
        _twins(column), _one_word(column), _merged(column), _not_available(column),
        _totals(column), _text_numbers(column), _text_dates(column),
    ]  # fmt: skip


def of_labels(column: LabelColumn) -> list[Problem | None]:
    """What looks wrong with labels."""
    return [
        _merged(column), _not_available(column), _totals(column), _text_numbers(column),
        _text_dates(column),
    ]  # fmt: skip


def _twins(column: CategoryColumn) -> Problem | None:
    """Levels that differ only by case or blanks."""
    from rhabdos.data.steps.naming import RenameLevels

    folded: dict[str, list[int]] = {}
    for code, level in enumerate(column.levels):
        folded.setdefault(" ".join(level.casefold().split()), []).append(code)
    twins = [places for places in folded.values() if len(places) > 1]
    if not twins:
        return None
    counts = column.level_counts
    become, named, total = {}, [], 0
    for places in twins:
        main = max(places, key=lambda code: (int(counts[code]), -code))
        bare = " ".join(column.levels[main].split())
        for code in places:
            if column.levels[code] != bare:
                become[column.levels[code]] = bare
            if code != main:
                total += int(counts[code])
        named.append(
            " and ".join(f"{quoted(column.levels[p], 24)} ({int(counts[p]):,})" for p in places[:4])
        )
    words = "; ".join(named[:3]) + (f"; and {len(named) - 3:,} more" if len(named) > 3 else "")
    text = (
        f"{quoted(column.name)} has levels that differ only by case or blanks, {words}: they are "
        "drawn as groups of their own."
    )
    cure = RenameLevels(variable=column.name, become=become)
    return Problem("similar-levels", text, total, cure, "make them one")


def _one_word(column: CategoryColumn) -> Problem | None:
    """A word and blanks, which may mean that it is not so."""
    from rhabdos.data.fields.levels import opposite
    from rhabdos.data.steps.recoding import Recode

    blank = column.missing_as.get(BLANK, 0)
    if len(column.levels) != 1 or column.n < 2 or column.made_by:
        return None
    if blank < _SHARE_OF_BLANKS * column.rows:
        return None
    word = column.levels[0]
    no = opposite(word)
    text = (
        f"{quoted(column.name)} holds {quoted(word, 24)} in {counted(column.n, 'row', 'rows')} and "
        f"a blank in {blank:,}: a blank may mean {quoted(no)}."
    )
    cure = Recode(variable=column.name, become={"": no})
    return Problem("one-word", text, blank, cure, f"a blank means {quoted(no)}")


def _merged(column: CategoryColumn | LabelColumn) -> Problem | None:
    """Names that stand once, with blanks below them, as merged cells of a sheet leave them."""
    from rhabdos.data.steps.filling import FillDown
    from rhabdos.data.steps.recoding import rows_saying

    blank = column.missing_as.get(BLANK, 0)
    distinct = len(column.levels) if isinstance(column, CategoryColumn) else column.distinct
    if not 1 < distinct == column.n or blank < column.n or column.made_by:
        return None
    if rows_saying(column, "")[0] == 0:
        return None
    text = (
        f"Each name in {quoted(column.name)} stands once, with blanks beneath it ({blank:,} in "
        "all): they may stand for the same name, as where cells were merged."
    )
    cure = FillDown(variables=(column.name,))
    return Problem("blanks-beneath", text, blank, cure, "fill them from above")


def _not_available(column: CategoryColumn | LabelColumn) -> Problem | None:
    """NA, taken for missing, among codes of two letters."""
    from rhabdos.data.steps.recoding import Recode

    count = column.missing_as.get("NA", 0)
    texts = column.levels if isinstance(column, CategoryColumn) else column.texts[:_GLANCE]
    others = {text for text in texts if text}
    if not count or len(others) < 3 or not all(_TWO_LETTERS.fullmatch(text) for text in others):
        return None
    rows = "1 row" if count == 1 else f"{count:,} rows"
    text = (
        f"“NA” counts as missing in {rows} of {quoted(column.name)}, and all others are codes of "
        "two letters: it may be one too."
    )
    cure = Recode(variable=column.name, become={"NA": "NA"})
    return Problem("code-na", text, count, cure, "NA is a value")


def _totals(column: CategoryColumn | LabelColumn) -> Problem | None:
    """Rows that add others up."""
    from rhabdos.data.fields.texts import label_series
    from rhabdos.data.steps.keep import Condition, KeepRows

    if column.made_by:
        return None
    if isinstance(column, CategoryColumn):
        counts = column.level_counts
        totals = {
            level: int(counts[index])
            for index, level in enumerate(column.levels)
            if _TOTAL.fullmatch(level.strip())
        }
    else:
        series = label_series(column)
        said = series.filter(series.str.contains(f"^(?i)\\s*{_TOTAL_WORDS}\\s*$").fill_null(False))
        totals = {str(word): int((series == word).sum()) for word in said.unique().to_list()}
    total = sum(totals.values())
    if not total or total > max(1, column.n // 5):
        return None
    are = "row adds" if total == 1 else "rows add"
    text = (
        f"In {quoted(column.name)} {total:,} {are} others up: "
        f"{' and '.join(quoted(word, 24) for word in list(totals)[:3])}. Drawn with the others, "
        "such sums count twice."
    )
    where = Condition(variable=column.name, levels=tuple(totals))
    cure = KeepRows(where=(where,), out=True)
    return Problem("total-rows", text, total, cure, "leave them out")


def _has_digits(column: CategoryColumn | LabelColumn) -> bool:
    """Whether the first values have digits in them, without which they are neither numbers nor
    dates."""
    texts = column.levels if isinstance(column, CategoryColumn) else column.texts
    head = [text for text in texts[:_FIRST] if text]
    return 2 * sum(any(map(str.isdecimal, text)) for text in head) > len(head)


def _text_numbers(column: CategoryColumn | LabelColumn) -> Problem | None:
    """Numbers that read as text, because of a few fields that are none, or of a unit."""
    import polars as pl

    from rhabdos.data.fields.numerals import loses_digits, numbers_in
    from rhabdos.data.fields.texts import missing_words, texts_of

    if column.made_by or not _has_digits(column):
        return None
    if isinstance(column, CategoryColumn):
        fields, times = pl.Series(list(column.levels), dtype=pl.String), column.level_counts
    else:
        fields, times = texts_of(column).drop_nulls(), None
    notation = _notation_of_most(fields.head(_GLANCE))
    if notation is None:
        return None
    numbers = numbers_in(fields, notation)
    if loses_digits(fields, numbers):
        return None
    odd = (numbers.is_null() & ~missing_words(fields, among_numbers=True)).to_numpy()
    weights = np.ones(len(fields), np.int64) if times is None else times
    total = int(weights[odd].sum())
    cure = _as_numbers(column.name, notation)
    name = quoted(column.name)
    if notation.unit:
        behind = f"numbers with {quoted(notation.unit)} behind them"
        text = f"{name} reads as text: its values are {behind}."
        if total:
            text += f" {_but(column, fields, odd, weights, 'number')}"
        return Problem("numbers-with-unit", text, column.n - total, cure, "read it as numbers")
    if not total:
        text = f"{name} holds numbers and is read as {column.kind}."
        return Problem("numbers-as-text", text, column.n, cure, "read it as numbers")
    if total > column.n // 2:
        return None
    text = f"{name} reads as text because {_but(column, fields, odd, weights, 'number')}"
    return Problem("not-numbers", text, total, cure, "read it as numbers")


def _notation_of_most(glance: "pl.Series") -> "Notation | None":
    """How most of some fields write numbers, if most do."""
    from rhabdos.data.fields.numerals import CURRENCIES, likeliest_notation, numbers_in
    from rhabdos.data.fields.texts import missing_words

    glance = glance.filter(~missing_words(glance, among_numbers=True))
    if len(glance) < 3:  # of so few nothing is usual
        return None
    begins = rf"(?i)^\s*[-+−(]*\s*[{CURRENCIES}]?\s*[-+−]?[.,]?(?:\d|inf)"
    if 2 * glance.str.contains(begins).sum() < len(glance):
        return None  # however numbers are written: most of them begin otherwise
    notation = likeliest_notation(glance)
    read = len(glance) - numbers_in(glance, notation).null_count()
    return notation if read >= 0.6 * len(glance) else None


def _as_numbers(name: str, notation: "Notation") -> "Step":
    from rhabdos.data.fields.notation import Notation
    from rhabdos.data.steps.kind import ChangeKind

    return ChangeKind(
        variable=name,
        kind="number",
        decimal="" if notation == Notation() else notation.decimal,
        thousands=notation.thousands,
        unit=notation.unit,
    )


def _first_row(column: CategoryColumn | LabelColumn, fields: "pl.Series", odd: BoolArray) -> int:
    """The row, counted from 1, in which the first odd one of the fields stands: levels come in
    their own order, texts in that of rows."""
    if isinstance(column, CategoryColumn):
        rows = np.append(odd, False)[column.codes]  # a blank has the code -1, which is the last
        return int(rows.argmax()) + 1
    from rhabdos.data.fields.texts import label_series

    field = str(fields[int(odd.argmax())])
    return int((label_series(column) == field).fill_null(False).arg_true()[0]) + 1


def _but(
    column: CategoryColumn | LabelColumn,
    fields: "pl.Series",
    odd: BoolArray,
    weights: IntArray,
    thing: str,
) -> str:
    """How many values are none of what the others are, which, and where the first one stands."""
    words: dict[str, int] = {}
    for index in np.flatnonzero(odd)[:100_000].tolist():
        word = str(fields[index])
        words[word] = words.get(word, 0) + int(weights[index])
    told = misfits(int(weights[odd].sum()), words, thing)
    return f"{told} (the first in row {_first_row(column, fields, odd):,})."


def _text_dates(column: CategoryColumn | LabelColumn) -> Problem | None:
    """Dates that read as text, because of a few fields that are none."""
    import polars as pl

    from rhabdos.data.fields.calendars import dates_in, most_dates
    from rhabdos.data.fields.texts import missing_words, texts_of
    from rhabdos.data.steps.kind import ChangeKind

    if column.made_by or not _has_digits(column):
        return None
    if isinstance(column, CategoryColumn):
        fields, weights = pl.Series(list(column.levels), dtype=pl.String), column.level_counts
    else:
        fields = texts_of(column).drop_nulls()
        weights = np.ones(len(fields), np.int64)
    glance = fields.head(200)
    glance = glance.filter(~missing_words(glance, among_numbers=True))
    if len(glance) < 5 or int(glance.str.len_chars().max() or 0) > 40:  # type: ignore[arg-type]
        return None
    ways = most_dates(glance)
    if not ways:
        return None
    read = dates_in(fields, ways[0])
    odd = (read.is_null() & ~missing_words(fields, among_numbers=True)).to_numpy()
    total = int(weights[odd].sum())
    text = f"{quoted(column.name)} reads as text, and most of its values are dates"
    text += f"; {_but(column, fields, odd, weights, 'date')}" if total else "."
    cure = ChangeKind(variable=column.name, kind="date/time")
    return Problem("dates-as-text", text, total, cure, "read it as dates")
