"""How numbers and names are put into words, the same everywhere."""

import math


def exact(value: float) -> str:
    """A number with all the digits it was given, and a true minus sign."""
    if value and not 1e-5 <= abs(value) < 1e15:
        return scientific(value, 12)
    return f"{value:.12g}".replace("-", "−")


def marked(text: str, thousands: str, decimal: str) -> str:
    """A number as this program writes it, such as 1,234.5, with other marks."""
    return text.translate({ord(","): thousands, ord("."): decimal})


def scientific(value: float, digits: int = 3) -> str:
    """A number as 1.2 × 10³⁰⁸; ∞ beyond all numbers."""
    if not math.isfinite(value):
        return "–" if math.isnan(value) else "∞" if value > 0 else "−∞"
    digit, _, exponent = f"{value:.{digits - 1}e}".partition("e")
    digit = digit.rstrip("0").rstrip(".") if "." in digit else digit
    raised = str(int(exponent)).translate(str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"))
    return f"{digit} × 10{raised}".replace("-", "−")


def rounded(value: float, places: int | None) -> str:
    """A number with a fixed number of places, or scientific where ``places`` is None; a dash where
    there is none."""
    if places is None or not math.isfinite(value):
        return scientific(value, 4)
    text = f"{value:,.{places}f}"
    return (text if float(text.replace(",", "")) else text.lstrip("-")).replace("-", "−")


def places_for(spread: float, reach: float) -> int | None:
    """Decimal places that show a mean of data with this spread to about three figures; None for
    scientific."""
    if not math.isfinite(reach) or reach >= 1e9 or (reach and reach < 1e-4):
        return None
    if not spread or not math.isfinite(spread):
        return 0 if reach == round(reach) else 4
    return min(8, max(0, 2 - math.floor(math.log10(spread))))


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
