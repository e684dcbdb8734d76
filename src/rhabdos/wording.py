"""How numbers and names are put into words, the same everywhere."""

import math
import re
from collections.abc import Sequence
from itertools import accumulate

_RAISED = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")
_LOWERED = str.maketrans("⁻⁰¹²³⁴⁵⁶⁷⁸⁹−", "-0123456789-")
_POWER = r"(?:(?<=[\d.])\s*[×x·*]\s*|(?<![\d.]))10(?:\^([-−+]?\d+)|(⁻?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))"


def exact(value: float) -> str:
    """A number with all the digits it was given, and a true minus sign."""
    if value and not _LEAST_PLAIN <= abs(value) < _FARTHEST_PLAIN:
        return scientific(value, 12)
    value += 0.0  # -0 is 0
    # Fifteen digits where it has more than twelve whole ones.
    text = next((text for text in (f"{value:.12g}", f"{value:.15g}") if "e" not in text), "")
    return text.replace("-", "−") or scientific(value, 12)


def about(value: float, digits: int) -> str:
    """A number to so many figures, as ``exact`` writes it."""
    return exact(float(f"{value:.{digits}g}"))


def in_three_figures(value: float) -> str:
    """A height or a density: 0.0235, 12,346 with all that is whole, and 4.69 × 10⁻⁵."""
    if abs(value) >= 1000:
        return rounded(value, places_for(value, value))
    return scientific(value) if 0 < abs(value) < _LEAST_PLAIN else about(value, 3)


def marked(text: str, thousands: str, decimal: str) -> str:
    """A number as this program writes it, such as 1,234.5, with other marks."""
    return text.translate({ord(","): thousands, ord("."): decimal})


def scientific(value: float, digits: int = 3, zeros: bool = False) -> str:
    """A number as 1.2 × 10³⁰⁸; ∞ beyond all numbers. With its last ``zeros``, as numbers have them
    that stand in a column, or without."""
    if not math.isfinite(value):
        return "–" if math.isnan(value) else "∞" if value > 0 else "−∞"
    digit, _, exponent = f"{value:.{digits - 1}e}".partition("e")
    if "." in digit and not zeros:
        digit = digit.rstrip("0").rstrip(".")
    return f"{digit} × 10{str(int(exponent)).translate(_RAISED)}".replace("-", "−")


def without_powers(text: str) -> str:
    """A text in which powers of ten, as 1.2 × 10³⁰⁸, 1.2*10^308 and 10⁶, are 1.2e308 and 1e6: so
    they hold no blanks, and readers of numbers know them."""
    return re.sub(_POWER, _with_an_e, text) if "10" in text else text


def _with_an_e(power: re.Match[str]) -> str:
    alone = "1" if power[0].startswith("10") else ""
    return f"{alone}e{(power[1] or power[2]).translate(_LOWERED)}"


class Powers(int):
    """Decimal places of numbers that are written with powers of ten; -6 are millions."""


def rounded(value: float, places: int | None) -> str:
    """A number with a fixed number of places, or scientific where these are ``Powers`` or None; a
    dash where there is none."""
    if isinstance(places, Powers) and math.isfinite(value) and value:
        digits = math.floor(math.log10(abs(value))) + places + 1
        return scientific(value, min(17, max(2, digits)), zeros=digits >= 2)
    if places is None or isinstance(places, Powers) or not math.isfinite(value):
        return "0" if value == 0 else scientific(value, 4)
    text = f"{value:,.{places}f}"
    return (text if float(text.replace(",", "")) else text.lstrip("-")).replace("-", "−")


def places_for(spread: float, reach: float) -> int | None:
    """Decimal places that show a mean of data with this spread to about three figures; None for
    scientific.

    Numbers far from 1 are written with powers of ten, unless that would take more digits than they
    have: 1,610,000,120 where others are 1,610,000,260.
    """
    if not math.isfinite(reach):
        return None
    if not spread or not math.isfinite(spread):
        if reach >= _FARTHEST_PLAIN:
            return None
        if reach >= _LEAST_PLAIN or not reach:  # one value has the digits that it was given
            return min(_MOST_ALONE, len(f"{reach:.12g}".partition(".")[2]))
        given = f"{reach:.5e}".partition("e")[0].rstrip("0").partition(".")[2]
        return Powers(len(given) - math.floor(math.log10(reach)))
    places = 2 - math.floor(math.log10(spread))
    digits = math.floor(math.log10(reach)) + places + 1 if reach else 1
    near = not reach or _LEAST_PLAIN <= reach < _FARTHEST_PLAIN
    if not near or (reach >= _FAR and digits <= _FEW_DIGITS):
        return Powers(places)
    return min(_MOST_PLACES, max(0, places))


def finer(places: int | None, by: int = 1) -> int | None:
    """More places of the same kind."""
    if places is None:
        return None
    return Powers(places + by) if isinstance(places, Powers) else places + by


# Numbers within these are written without powers of ten.
_LEAST_PLAIN, _FAR, _FARTHEST_PLAIN = 1e-4, 1e9, 1e15
_FEW_DIGITS = 4  # of a number far from 1, that are read best with a power of ten
_MOST_PLACES, _MOST_ALONE = 12, 4


def counted(number: int, one: str, many: str) -> str:
    """ "1 row" or "2,416 rows"."""
    return f"{number:,} {one if number == 1 else many}"


def with_unit(text: str, unit: str) -> str:
    """A number in words with its unit, if it has one."""
    return f"{text} {unit}" if unit else text


def in_running_text(label: str) -> str:
    """A label within a sentence: "Bay" becomes "bay", but "pH" and "IQR" stay."""
    return (
        label[0].lower() + label[1:]
        if len(label) > 1 and label[0].isupper() and label[1].islower()
        else label
    )


def listed_within(letters: int, words: Sequence[str]) -> str:
    """Words one after the other as far as so many letters go, and how many more there are."""
    ends = accumulate(len(word) + 2 for word in words)
    told = [word for word, end in zip(words, ends, strict=True) if end <= letters]
    more = f" and {len(words) - len(told)} more" if len(told) < len(words) else ""
    return f"{', '.join(told)}{more}"
