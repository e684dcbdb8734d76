"""Dates and times of day as people write them."""

import datetime
import re
from typing import TYPE_CHECKING

from msgspec.structs import replace

from rhabdos.data.fields.notation import PLAIN, USUAL_YEARS, Doubt, Notation
from rhabdos.data.fields.texts import DAY, days_of, missing_words, only_where, over

if TYPE_CHECKING:
    import polars as pl

DATE_ORDERS = {
    "year month day": ("%Y-%m-%d", "%Y/%m/%d", "%Y.%m.%d", "%Y%m%d", "%y-%m-%d", "%y/%m/%d"),
    "day month year": (
        "%d.%m.%Y", "%d/%m/%Y", "%d-%m-%Y", "%d %B %Y", "%d-%B-%Y", "%d. %B %Y",
        "%d.%m.%y", "%d/%m/%y", "%d-%m-%y", "%d %B %y", "%d-%B-%y",
    ),
    "month day year": (
        "%m/%d/%Y", "%m-%d-%Y", "%B %d, %Y", "%B %d %Y", "%m/%d/%y", "%m-%d-%y",
    ),
}  # fmt: skip
"""Ways of writing dates, by the order of their parts; the likeliest first."""
_MONTHS = ("%Y-%m", "%Y/%m", "%m/%Y", "%B %Y", "%B-%Y", "%B-%y")
# Days in the order in which they are tried: with whole years, then with years of two digits, of
# which those that begin with the year are the rarest.
_DATES = (
    *DATE_ORDERS["year month day"][:3], *DATE_ORDERS["day month year"][:6],
    *DATE_ORDERS["month day year"][:4], *DATE_ORDERS["day month year"][6:],
    *DATE_ORDERS["month day year"][4:], *DATE_ORDERS["year month day"][4:], *_MONTHS, "%Y%m%d",
)  # fmt: skip
_NOT_BY_ITSELF = ("%Y%m%d", "%y-%m-%d", "%y/%m/%d")  # which might as well be something else
_TIMES = (
    "", " %H:%M:%S%.f", " %H:%M", "T%H:%M:%S%.f", "T%H:%M", " %I:%M %p", " %I:%M:%S %p",
    "T%H:%M:%S%.f%#z", " %H:%M:%S%.f%#z", "T%H:%M%#z", " %H:%M%#z",
)  # fmt: skip
_CLOCKS = ("%I:%M %p", "%I:%M:%S %p")
# What stands in dates of letters, logs and databases, and how it is written else.
_UNUSUAL = {
    r"^(?i:mon|tues?|wed(?:nes)?|thu(?:rs)?|fri|sat(?:ur)?|sun)(?:day)?[.,]?\s+": "",
    r"(:\d\d),(\d)": "${1}.${2}",
    r"\s*(?:UTC|GMT)$": "Z",
}
_YEARS, _YEARS_OF_MONTHS = (1000, 9999), (1500, 2200)  # beyond which "4711-05" is no month
_GLANCE = 1_000  # texts that tell how dates are written, before all are read
_SHORTEST, _LONGEST = 6, 40  # letters of a date
_PARTS = {"%Y": r"\d{4}", "%y": r"\d\d", "%m": r"\d{1,2}", "%d": r"\d{1,2}", "%B": r"[A-Za-z]{3,9}"}


def _pattern(date: str) -> re.Pattern[str]:
    """What a field looks like that begins with a date written so."""
    shape = re.escape(date).replace(r"\ ", " ")
    for part, letters in _PARTS.items():
        shape = shape.replace(part, letters)
    return re.compile(rf"{shape}(?![\d/.-]).*")


_SHAPES = {date: _pattern(date) for date in _DATES}


def dates_in(text: "pl.Series", notation: Notation = PLAIN) -> "pl.Series":
    """The fields as days since 1970; null where they are no dates written so."""
    import polars as pl

    bare = _as_usual(text.str.strip_chars())
    date = notation.date or _DATES[0]
    if "%B" in date:
        bare = bare.str.replace(r"(?i)\bsept\b", "Sep")
    days = pl.Series(text.name, [None], dtype=pl.Float64).new_from_index(0, len(text))
    for number, time in enumerate(notation.times):
        if number == 0:
            days = _read(bare, date, time)
        else:
            days = days.zip_with(days.is_not_null(), _read(bare, date, time))
    if "%y" in date:
        days = _in_the_years(days, notation.years_from)
    return days


def _as_usual(bare: "pl.Series") -> "pl.Series":
    """Dates without the day of their week, with a point in their seconds, and with Z for a zone
    that is UTC by name; as the first of them show."""
    head = bare.head(_GLANCE)
    for written, usual in _UNUSUAL.items():
        if head.str.contains(written).any():
            bare = bare.str.replace(written, usual)
    return bare


def _read(bare: "pl.Series", date: str, time: str) -> "pl.Series":
    """Days of the fields that are written just so, in years of four digits."""
    import polars as pl

    years = _YEARS
    if "%d" not in date:
        bare, time, years = bare + " 01", f" %d{time}", _YEARS_OF_MONTHS
    form = date + time
    if form.endswith("%#z"):
        zoned = bare.str.replace("Z$", "+00:00").str.to_datetime(
            form, strict=False, time_unit="us", time_zone="UTC"
        )
        moments = zoned.dt.replace_time_zone(None)
    elif "%H" in form or "%I" in form:
        moments = bare.str.to_datetime(form, strict=False, time_unit="us")
    else:
        days = bare.str.to_date(form, strict=False)
        if "%Y" in date:
            days = only_where(days.dt.year().is_between(*years), days)
        return days.cast(pl.Int32).cast(pl.Float64)
    if "%Y" in date:
        moments = only_where(moments.dt.year().is_between(*years), moments)
    return days_of(moments)


def _in_the_years(days: "pl.Series", first: int) -> "pl.Series":
    """Days whose years are within a hundred from the first one on."""
    import polars as pl

    if first == USUAL_YEARS:
        return days
    moments = (days * DAY).round().cast(pl.Int64).cast(pl.Datetime("us"))
    year = moments.dt.year().cast(pl.Int64)
    then = first + (year - first) % 100
    leap = (then % 4 == 0) & ((then % 100 != 0) | (then % 400 == 0))
    there = leap | (moments.dt.month() != 2) | (moments.dt.day() != 29)
    part = pl.col("m").dt
    moved = pl.DataFrame({"m": moments, "y": only_where(there, then)}).select(
        pl.datetime(
            pl.col("y"), part.month(), part.day(), part.hour(), part.minute(), part.second(),
            part.microsecond(), time_unit="us",
        )
    )  # fmt: skip
    return days_of(moved.to_series())


def hours_in(text: "pl.Series", notation: Notation) -> "pl.Series":
    """Times of day and spans ("09:05", "9:05 PM", "26:10:30") in hours, or "12:34" in minutes; null
    where they are neither."""
    import polars as pl

    bare = text.str.strip_chars()
    part = r"^(\d{1,4}):([0-5]\d)(?::([0-5]\d(?:\.\d+)?))?$"
    first, second, third = (
        bare.str.extract(part, group).cast(pl.Float64, strict=False) for group in (1, 2, 3)
    )
    if notation.clock == "minutes":
        return only_where(third.is_null(), first + over(second, 60.0))
    within = third.is_not_null() | (first < 24)
    hours = only_where(within, first + over(second, 60.0) + over(third.fill_null(0.0), 3600.0))
    for clock in _CLOCKS:
        told = bare.str.to_time(clock, strict=False).cast(pl.Int64).cast(pl.Float64) / 3600e9
        hours = hours.zip_with(hours.is_not_null(), told)
    return hours


def date_notations(text: "pl.Series", asked: bool = False) -> list[Notation]:
    """The ways of writing dates in which all fields are dates, the likeliest first.

    ``asked`` also tries those that might as well be something else.
    """
    glance = _as_usual(text.head(_GLANCE).drop_nulls().str.strip_chars())
    if not len(glance) or not _SHORTEST <= len(glance[0].strip()) <= _LONGEST:
        return []
    fitting = []
    for date in _candidates(glance[0].strip(), asked):
        if (notation := _fitting(glance, date)) is None:
            continue
        if len(text) > len(glance):
            notation = _fitting(text.drop_nulls(), date)
        if notation is not None:
            fitting.append(notation)
    return fitting


def _candidates(field: str, asked: bool) -> list[str]:
    """The ways of writing a date that a field looks like."""
    field = re.sub(r"(?i)\bsept\b", "Sep", field)
    return [
        date
        for date in _DATES
        if _SHAPES[date].fullmatch(field) and (asked or date not in _NOT_BY_ITSELF)
    ]


def _fitting(text: "pl.Series", date: str) -> Notation | None:
    """A way of writing dates with all the times of day that occur; None where some field is no
    date."""
    times, unread = _told_apart(text, date)
    return None if unread else Notation(date=date, times=times)


def times_in(text: "pl.Series", date: str) -> tuple[str, ...]:
    """How times of day stand behind dates that are written so; one that is empty is none."""
    return _told_apart(text, date)[0] or ("",)


def _told_apart(text: "pl.Series", date: str) -> tuple[tuple[str, ...], int]:
    """The times of day that stand behind dates, and how many fields are none."""
    times, unread = [], text.drop_nulls()
    for time in _TIMES:
        if not len(unread):
            break
        days = dates_in(unread, Notation(date=date, times=(time,)))
        if days.null_count() < len(unread):
            times.append(time)
            unread = unread.filter(days.is_null())
    return tuple(times), len(unread)


def date_notation(text: "pl.Series") -> tuple[Notation, tuple[Doubt, ...]] | None:
    """How all fields are written as dates, among blanks and words for "missing", and what else they
    might be; None where they are something else."""
    known = text.drop_nulls()
    glance = known.head(_GLANCE)
    glance = glance.filter(~missing_words(glance, among_numbers=True))
    if not len(glance) or not any(map(str.isdigit, glance[0])):
        return None
    of_all = [_of_all(known, notation) for notation in date_notations(glance)]
    fitting = [notation for notation in of_all if notation is not None]
    if not fitting:
        return None
    return fitting[0], doubts_of_dates(text, fitting)


def _of_all(known: "pl.Series", notation: Notation) -> Notation | None:
    """The notation with all times that occur in any field; None where some field that is not
    missing is no date."""
    unread = known.filter(dates_in(known, notation).is_null())
    unread = unread.filter(~missing_words(unread, among_numbers=True))
    if not len(unread):
        return notation
    rest = _fitting(unread, notation.date)
    if rest is None:
        return None
    return replace(notation, times=tuple(dict.fromkeys((*notation.times, *rest.times))))


def doubts_of_dates(text: "pl.Series", fitting: list[Notation]) -> tuple[Doubt, ...]:
    """What else dates might be that can be read in these ways, of which the first was taken."""
    from rhabdos.data.columns import date_written

    taken = fitting[0]
    days = dates_in(text, taken)
    if not days.count():
        return ()
    doubts = []
    order = order_of(taken.date)
    for other in fitting[1:]:
        if order_of(other.date) in (order, "") or ("%y" in other.date) != ("%y" in taken.date):
            continue
        otherwise = dates_in(text, other)
        apart = (days != otherwise).fill_null(False).arg_true()
        if len(apart):
            at = int(apart[0])
            doubts.append(
                Doubt(
                    "date-order",
                    str(text[at]).strip(),
                    date_written(days[at]),
                    date_written(otherwise[at]),
                    (("kind", "date/time"), ("order", order_of(other.date))),
                )
            )
            break
    if "%y" in taken.date:
        doubts.append(_short_years(text, days, taken, order))
    if any(time.endswith("%#z") for time in taken.times):
        doubts += _zones(text, days)
    return tuple(doubts)


def _zones(text: "pl.Series", days: "pl.Series") -> list[Doubt]:
    """Times of zones other than UTC, as which they are read."""
    away = text.str.contains(r":\d\d.*[+-]\d\d(:?\d\d)?\s*$")
    away &= ~text.str.contains(r"[+-]00(:?00)?\s*$")
    where = (away & days.is_not_null()).fill_null(False).arg_true()
    return [read_in_utc(str(text[at]).strip(), days[at]) for at in where[:1].to_list()]


def read_in_utc(written: str, days: float) -> Doubt:
    """That a time of another zone was taken for these days since 1970, in UTC."""
    from rhabdos.data.columns import date_written

    return Doubt("time-zones", written, f"{date_written(days)} in UTC")


def _short_years(text: "pl.Series", days: "pl.Series", taken: Notation, order: str) -> Doubt:
    """Years of two digits: of the last hundred years, where some would lie ahead of today."""
    from rhabdos.data.columns import date_written

    today = datetime.date.today()
    ahead = (days > (today - datetime.date(1970, 1, 1)).days).fill_null(False).arg_true()
    at = int(ahead[0]) if len(ahead) else int(days.is_not_null().arg_true()[0])
    years_from = today.year - 99
    cure: tuple[tuple[str, str | int], ...] = ()
    other = ""
    if len(ahead):
        then = dates_in(text[at : at + 1], replace(taken, years_from=years_from))[0]
        other = date_written(then) if then is not None else ""
        cure = (("kind", "date/time"), ("order", order), ("years_from", years_from))
    return Doubt("short-years", str(text[at]).strip(), date_written(days[at]), other, cure)


def order_of(date: str) -> str:
    """The order of a date's parts, as steps call it; empty of months."""
    return next((order for order, dates in DATE_ORDERS.items() if date in dates), "")


def most_dates(glance: "pl.Series") -> list[Notation]:
    """The ways of writing dates in which most of the fields are dates, the best first."""
    likely: dict[str, int] = {}
    for field in glance.drop_nulls().head(50).to_list():
        for date in _candidates(field.strip(), asked=True):
            likely[date] = likely.get(date, 0) + 1
    scored = []
    for date in [date for date in _DATES if date in likely]:
        times, unread = _told_apart(glance, date)
        read = len(glance) - glance.null_count() - unread
        if read * 2 > len(glance):
            scored.append((-read, Notation(date=date, times=times)))
    return [notation for _, notation in sorted(scored, key=lambda pair: pair[0])]
