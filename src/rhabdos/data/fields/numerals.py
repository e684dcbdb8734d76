"""Numbers as people write them: marks between thousands, decimal commas, currencies, brackets."""

import math
import re
from typing import TYPE_CHECKING

from msgspec.structs import replace

from rhabdos.data.fields.calendars import hours_in
from rhabdos.data.fields.notation import PLAIN, THOUSANDS, Doubt, Notation
from rhabdos.data.fields.texts import missing_words, only_where
from rhabdos.wording import exact, without_powers

if TYPE_CHECKING:
    import polars as pl

CURRENCIES = "$€£¥₹₽₩₺₴₦₫₱฿"
GLANCE = 2_000
EXACT = float(1 << 53)
"""From here on whole numbers lose digits as floating ones."""
_FIGURES = 12  # of numbers, in cells
_GROUP = r"[1-9]\d{{0,2}}(?:{0}\d{{3}})+|[1-9]\d?(?:{0}\d{{2}})+{0}\d{{3}}"
_ONE_GROUP = re.compile(r"[-+−(]?[1-9]\d{0,2}[,.]\d{3}\)?")
_RAISED = "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"
_TIMES = r"\s*[×x·*]\s*"
_POWERS = rf"^[-+]?(?:\d[\d.,]*{_TIMES})?10(?:\^[-+]?\d+|[{_RAISED}]+)$"
_CLOCK = re.compile(r"\s*\d{1,4}:\d\d\b.*")


def numbers_in(text: "pl.Series", notation: Notation = PLAIN) -> "pl.Series":
    """The fields as numbers; null where they are none."""
    import polars as pl

    if notation.clock:
        return hours_in(text, notation)
    figures = text.str.strip_chars().str.replace("−", "-", literal=True)
    if notation.brackets:
        figures = figures.str.replace(r"^\(([^-+()]*)\)$", "-$1")
    if notation.unit and notation.unit in CURRENCIES:
        sign = re.escape(notation.unit)
        figures = figures.str.replace(rf"^([-+]?)\s*{sign}\s*([-+]?)", "$1$2")
    if notation.unit:
        figures = figures.str.strip_suffix(notation.unit).str.strip_chars()
    if (powers := figures.str.contains(_POWERS).fill_null(False)).any():
        figures = _without_powers(figures, powers)
    if notation.thousands:
        mark, point = _escaped(notation.thousands), _escaped(notation.decimal)
        grouped = figures.str.contains(
            rf"^[-+]?(?:{_GROUP.format(mark)})(?:{point}\d*)?$"
        ).fill_null(False)
        parted = figures.str.contains(notation.thousands, literal=True).fill_null(False)
        figures = only_where(grouped | ~parted, figures).str.replace_all(
            notation.thousands, "", literal=True
        )
    if notation.decimal != ".":
        pointed = figures.str.contains(".", literal=True).fill_null(False)
        figures = only_where(~pointed, figures).str.replace(notation.decimal, ".", literal=True)
    return figures.cast(pl.Float64, strict=False)


def _without_powers(figures: "pl.Series", powers: "pl.Series") -> "pl.Series":
    """Powers of ten, as 2.5 × 10⁻⁶, 2.5*10^-6 and 10⁶, as computers write them."""
    import polars as pl

    bare = figures.str.replace(rf"^([-+]?)10([\^{_RAISED}])", "${1}1×10$2")
    bare = bare.str.replace(rf"{_TIMES}10\^?", "e").str.replace_many([*_RAISED], [*"-0123456789"])
    table = pl.DataFrame({"powers": powers, "bare": bare, "figures": figures})
    return table.select(pl.when("powers").then("bare").otherwise("figures").alias("figures"))[
        "figures"
    ]


def _escaped(mark: str) -> str:
    return f"\\{mark}" if mark in ".'" else mark


def as_float(text: str) -> float | None:
    """A number that was typed, with a true minus or not; None where it is none."""
    try:
        return float(text.replace("−", "-"))
    except ValueError:
        return None


def written_so(text: str) -> tuple[float, float] | None:
    """The least and the greatest of the numbers that cells show so; None where it is no number.

    Cells show twelve figures, so that 0.1 + 0.2 is 0.3 there; a text that has more means them.
    """
    plain = without_powers(text)
    value = as_float(plain)
    if value is None or not value or not math.isfinite(value):
        return None if value is None else (value, value)
    figures = re.sub(r"\D", "", plain.lower().partition("e")[0]).lstrip("0")
    last = math.floor(math.log10(abs(value))) - max(_FIGURES, len(figures)) + 1
    half = 0.5 * 10.0**last
    return value - half, value + half


def may_be_a_number(field: str) -> bool:
    """Whether a field may be a number, however it is written: then it has a digit."""
    return any(map(str.isdigit, field)) or field.strip(" +-−").lower() in ("inf", "infinity")


def number_notation(text: "pl.Series", usual: Notation = PLAIN) -> Notation | None:
    """How all fields are written as numbers, among blanks and words for "missing"; None where they
    are something else."""
    import polars as pl

    glance = glance_at(text)
    if not len(glance):
        bare = text.drop_nulls().str.strip_chars()
        return usual if (bare == "").all() else None
    if not may_be_a_number(glance[0]):
        return None
    notation, unread = _notation_of_all(text, glance, usual)
    if notation is None and len(unread):  # the first fields lack a mark that later ones have
        notation, _ = _notation_of_all(text, pl.concat([unread.head(GLANCE), glance]), usual)
    return notation


def _notation_of_all(
    text: "pl.Series", glance: "pl.Series", usual: Notation
) -> tuple[Notation | None, "pl.Series"]:
    """The notation in which all fields are numbers, among those that some of them look like; where
    there is none, the fields that are no numbers in the first one that these are written in."""
    others = text.head(0)
    for notation in _notations(glance, usual):
        if numbers_in(glance, notation).null_count():
            continue
        numbers = numbers_in(text, notation)
        if loses_digits(text, numbers):
            return None, others.head(0)
        unread = only_where(numbers.is_null(), text).drop_nulls()
        unread = unread.filter(~missing_words(unread, among_numbers=True))
        if not len(unread):
            return notation, unread
        others = others if len(others) else unread
    return None, others


def loses_digits(text: "pl.Series", numbers: "pl.Series") -> bool:
    """Whether whole numbers are too long to be held with all their digits, as identifiers are."""
    import polars as pl

    large = (numbers.abs() >= EXACT).fill_null(False)
    if not large.any():
        return False
    written = text.filter(large).str.strip_chars().cast(pl.Int128, strict=False)
    exact = numbers.filter(large).cast(pl.Int128, strict=False)
    return bool((written != exact).fill_null(False).any())


def glance_at(text: "pl.Series") -> "pl.Series":
    """The first fields that say something; none where no field does."""
    glance = text.drop_nulls().head(GLANCE)
    glance = glance.filter(~missing_words(glance, among_numbers=True))
    if not len(glance) and text.null_count() < len(text):
        glance = text.filter(~missing_words(text, among_numbers=True)).head(GLANCE)
    return glance


def _notations(glance: "pl.Series", usual: Notation) -> list[Notation]:
    """Ways of writing numbers that some fields look like, the likeliest first."""
    candidates = [usual]
    other = "." if usual.decimal == "," else ","
    marks = [mark for mark in THOUSANDS if glance.str.contains(mark, literal=True).any()]
    # "1,234" is a thousand where the point is the decimal mark, if three digits stand behind every
    # comma; only what cannot be so is read as a decimal comma.
    candidates += [Notation(usual.decimal, mark) for mark in marks if mark != usual.decimal]
    if other in marks:
        candidates.append(Notation(other))
        candidates += [Notation(other, mark) for mark in marks if mark != other]
    elif usual.decimal in marks:  # "1.234.567" has no decimals at all
        candidates.append(Notation(other, usual.decimal))
    money = next((sign for sign in CURRENCIES if sign in glance[0]), "")
    bracketed = glance.str.contains(r"^\s*\(.*\d.*\)\s*$")
    if money or (bracketed.any() and not bracketed.all()):
        candidates += [
            replace(n, unit=money, brackets=bool(bracketed.any())) for n in candidates if not n.unit
        ]
    if _CLOCK.fullmatch(glance[0]):
        candidates.append(Notation(clock="hours", unit="h"))
    return candidates


def doubts_of_numbers(text: "pl.Series", notation: Notation) -> tuple[Doubt, ...]:
    """What else numbers might be that are written so."""
    glance = glance_at(text)
    if not len(glance):
        return ()
    first: str = glance[0].strip()
    if notation.clock == "hours" and first.count(":") == 1 and not first.upper().endswith("M"):
        return (_clock_doubt(first),)
    marks = {notation.thousands, notation.decimal} & {",", "."}
    if notation.brackets:
        return (_bracket_doubt(glance),)
    if len(marks) < 1 or not _ONE_GROUP.fullmatch(first.strip(CURRENCIES + " ")):
        return ()
    mark = "," if "," in first else "."
    if mark == "." and notation.decimal == ".":
        return ()  # as computers write
    one_group = rf"[-+−(]?[1-9]\d{{0,2}}\{mark}\d{{3}}\)?"
    if not glance.str.contains(f"^{one_group}$").all():
        return ()
    if not text.drop_nulls().str.contains(rf"^\s*({one_group}|\D*)\s*$").all():
        return ()
    as_thousands = notation.thousands == mark
    whole, part = first.replace(mark, ""), first.replace(mark, ".")
    taken, other = (whole, part) if as_thousands else (part, whole)
    cure: tuple[tuple[str, str], ...] = (("decimal", mark),)
    if not as_thousands:
        cure = (("decimal", "." if mark == "," else ","), ("thousands", mark))
    return (Doubt("thousands-or-decimals", first, taken, other, (("kind", "number"), *cure)),)


def _clock_doubt(first: str) -> Doubt:
    hours, minutes = (int(part) for part in re.findall(r"\d+", first)[:2])
    return Doubt(
        "clock-times",
        first,
        f"{exact(round(hours + minutes / 60, 3))} hours",
        f"{hours} minutes and {minutes} seconds",
        (("kind", "number"), ("order", "minutes seconds")),
    )


def _bracket_doubt(glance: "pl.Series") -> Doubt:
    example = str(glance.filter(glance.str.contains(r"^\s*\("))[0]).strip()
    bare = example.strip("() ")
    return Doubt("brackets", example, f"−{bare}", "", ())


def likeliest_notation(text: "pl.Series") -> Notation:
    """The way of writing numbers in which most of the fields are some."""
    glance = text.drop_nulls().head(5_000)
    best, most = Notation(), -1
    if len(glance) and _CLOCK.fullmatch(glance[0]):
        clock = Notation(clock="hours", unit="h")
        best, most = clock, len(glance) - numbers_in(glance, clock).null_count()
    for decimal in (".", ","):
        for thousands in ("", *(mark for mark in THOUSANDS if mark != decimal)):
            notation = Notation(decimal, thousands)
            read = len(glance) - numbers_in(glance, notation).null_count()
            if read > most:
                best, most = notation, read
    if most * 2 < len(glance) and (unit := common_unit(glance)):
        bare = glance.str.strip_chars().str.strip_suffix(unit).str.strip_chars()
        return replace(likeliest_notation(bare), unit=unit)
    return best


def common_unit(glance: "pl.Series") -> str:
    """What stands behind most numbers, such as "mm"; empty where there is no such thing."""
    behind = glance.str.strip_chars().str.extract(r"^[-−+]?[\d.,  ']*\d\s*(\D{1,12})$", 1)
    counts = behind.drop_nulls().str.strip_chars().value_counts(sort=True)
    if not len(counts) or counts.row(0)[1] * 2 < len(glance):
        return ""
    return str(counts.row(0)[0])
