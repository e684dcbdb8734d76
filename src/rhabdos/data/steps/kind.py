"""The step that reads a variable as another kind."""

from typing import TYPE_CHECKING, Annotated

import numpy as np
from msgspec import Meta, structs

from rhabdos.data.columns import (
    BLANK,
    KINDS,
    CategoryColumn,
    Column,
    DateColumn,
    Kind,
    NumberColumn,
    Stood,
)
from rhabdos.data.fields.calendars import date_notations, most_dates, order_of, times_in
from rhabdos.data.fields.counted_times import COUNTINGS, Counting, likely_counting
from rhabdos.data.fields.kinds import (
    as_category,
    as_dates,
    as_label,
    as_number,
    as_yes_no,
    whole_codes,
)
from rhabdos.data.fields.notation import USUAL_YEARS, Notation
from rhabdos.data.fields.numerals import likeliest_notation
from rhabdos.data.fields.texts import joined_stood, missing_words, texts_of
from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief, quoted
from rhabdos.wording import counted

if TYPE_CHECKING:
    import polars as pl

MOST_ASKED_LEVELS = 100_000
Kinds = Annotated[Kind, Meta(description=f"{', '.join(KINDS[:-1])} or {KINDS[-1]}")]


class ChangeKind(Step, frozen=True, tag="kind"):
    """A variable is read as another kind, from the text that stood in the file.

    ``decimal``, ``thousands`` and ``unit`` say how numbers are written, ``order`` how dates are:
    one of "year month day", "day month year" and "month day year", or what numbers count, "days
    since 1900" as sheets do, or "seconds since 1970", "milliseconds since 1970" or "microseconds
    since 1970"; of numbers that are times, "hours minutes" or "minutes seconds". Years of two
    digits lie in the hundred years from ``years_from`` on.
    """

    variable: str
    kind: Kinds
    decimal: str = ""
    thousands: str = ""
    unit: str = ""
    order: str = ""
    years_from: Annotated[int, Meta(ge=1000, le=9900, description="a year from 1000 to 9900")] = (
        USUAL_YEARS
    )

    def apply(self, table: Table, _others: Others) -> Applied:
        """The table with the variable of that kind; what has no place in it counts as missing."""
        column = table.column(self.variable)
        changed = self._changed(column)
        lost = changed.missing - column.missing
        told = counted(changed.n, "value", "values")
        if lost > 0:
            told = f"{counted(lost, 'value has', 'values have')} no place in it"
        elif lost < 0:  # what had none in the former kind
            told = f"{told}, of which {counted(-lost, 'is', 'are')} back"
        return Applied(table.with_column(changed), told)

    def _changed(self, column: Column) -> Column:
        import polars as pl

        if isinstance(column, DateColumn) and self.kind == "date/time" and not self.order:
            return column
        if isinstance(column, DateColumn) and self.order in COUNTINGS and column.original:
            text = column.original().cast(pl.String)
            column = structs.replace(as_number(column.name, text), label=column.label)
        if (counting := self.counting_of(column)) is not None and isinstance(column, NumberColumn):
            return _of_counted(column, counting)
        if (levels := self._of_whole_numbers(column)) is not None:
            return levels
        # What had no place in the present kind is in the text that was read, and comes back.
        text = column.original().cast(pl.String) if column.original else texts_of(column)
        read = self._of_text(column.name, text)
        declared = _declared(column, text)
        missing_as = dict(read.missing_as)
        if declared is not None and len(declared.rows):
            counts = np.bincount(declared.codes, minlength=len(declared.words))
            for word, count in zip(declared.words, counts.tolist(), strict=True):
                if count:
                    missing_as[word] = missing_as.get(word, 0) + count
            missing_as[BLANK] = missing_as.get(BLANK, 0) - len(declared.rows)
        return structs.replace(
            read,
            label=column.label,
            unit=read.unit or column.unit,
            missing_as={word: count for word, count in missing_as.items() if count},
            stood=joined_stood([declared, read.stood]),
            original=column.original or (lambda: text),
            made_by=column.made_by,
        )

    def _of_whole_numbers(self, column: Column) -> CategoryColumn | None:
        """Levels of whole numbers in a short range, which are written as they are: no text needs to
        be made of each first."""
        if not isinstance(column, NumberColumn) or isinstance(column, DateColumn):
            return None
        if self.kind not in ("category", "ordered category") or column.original is not None:
            return None
        whole = whole_codes(column.values)
        if whole is None:
            return None
        codes, numbers = whole
        return CategoryColumn(
            column.name,
            column.label,
            column.unit,
            column.missing_as,
            column.stood,
            original=lambda: texts_of(column),
            made_by=column.made_by,
            codes=codes,
            levels=tuple(f"{number}" for number in numbers),
            grouping="ordered category" if self.kind == "ordered category" else "category",
        )

    def counting_of(self, column: Column) -> Counting | None:
        """How numbers that are to be dates count them; None where they are written otherwise."""
        if not isinstance(column, NumberColumn) or isinstance(column, DateColumn):
            return None
        if self.kind != "date/time":
            return None
        return COUNTINGS.get(self.order or likely_counting(column.values))

    def _of_text(self, name: str, text: "pl.Series") -> Column:
        if self.kind == "number":
            return as_number(name, text, self._notation(text))
        if self.kind == "date/time":
            return as_dates(name, text, self._dates(name, text))
        if self.kind == "label":
            return as_label(name, text)
        distinct = text.n_unique() - bool(text.null_count())
        if self.kind == "yes/no" and distinct > 2:
            raise StepError(
                f"{quoted(name)} has {distinct:,} different values, and yes/no has two. Put its "
                "levels together first, or read it as a category."
            )
        if distinct > MOST_ASKED_LEVELS:
            raise StepError(
                f"{quoted(name)} has {distinct:,} different values, and a category holds at most "
                f"{MOST_ASKED_LEVELS:,} levels. Read it as a label, or cut it into classes."
            )
        if self.kind == "yes/no":
            return as_yes_no(name, text)
        return as_category(
            name, text, "ordered category" if self.kind == "ordered category" else "category"
        )

    def _notation(self, text: "pl.Series") -> Notation:
        """How the numbers are written: as was asked, else in the way that reads most of them."""
        if self.order in CLOCKS:
            return CLOCKS[self.order]
        if self.decimal or self.thousands or self.unit:
            return Notation(self.decimal or ".", self.thousands, self.unit)
        return likeliest_notation(text)

    def _dates(self, name: str, text: "pl.Series") -> Notation:
        words = text.filter(~missing_words(text, among_numbers=True))
        glance = words.head(1_000)
        for notation in (*date_notations(glance, asked=True), *most_dates(glance)):
            if not self.order or order_of(notation.date) == self.order:
                times = times_in(words, notation.date)
                return structs.replace(notation, times=times, years_from=self.years_from)
        raise StepError(
            f"{quoted(name)} holds nothing that is written as a date"
            f"{f' in the order {self.order}' if self.order else ''}. Its first value is "
            f"{quoted(str(words[0])) if len(words) else 'missing'}."
        )

    def describe(self) -> tuple[Piece, ...]:
        """Plot is read as a category."""
        article = "an" if self.kind == "ordered category" else "a"
        how = ""
        if self.kind == "number" and (self.decimal or self.thousands or self.unit):
            parts = [f"decimal {quoted(self.decimal)}" if self.decimal else ""]
            parts.append(f"thousands {quoted(self.thousands)}" if self.thousands else "")
            parts.append(f"in {self.unit}" if self.unit else "")
            how = f", {', '.join(part for part in parts if part)}"
        elif self.order:
            how = f", {self.order}"
        if self.years_from != USUAL_YEARS:
            how += f", from {self.years_from} to {self.years_from + 99}"
        kind = "yes or no" if self.kind == "yes/no" else f"{article} {self.kind}"
        return words_of(f"{brief(self.variable)} is read as ", choice(kind + how), ".")


CLOCKS = {
    "hours minutes": Notation(clock="hours", unit="h"),
    "minutes seconds": Notation(clock="minutes", unit="min"),
}


def _of_counted(column: NumberColumn, counting: Counting) -> DateColumn:
    """Moments that were counted."""
    return DateColumn(
        column.name,
        column.label,
        "",
        column.missing_as,
        column.stood,
        column.original or (lambda: texts_of(column)),
        values=counting.days(column.values),
    )


def _declared(column: Column, text: "pl.Series") -> Stood | None:
    """What stood where no text is left: codes that were declared as missing."""
    stood = column.stood
    if stood is None:
        return None
    gone = text.is_null().to_numpy()[stood.rows]
    return structs.replace(stood, rows=stood.rows[gone], codes=stood.codes[gone])
