"""Names of columns as words for a reader, and the units that stand in them; without NumPy, which a
process that reads a file apart does without."""

import re

from rhabdos.quoting import printable

_LONGEST_UNIT = 24  # letters; what is longer in brackets is a remark
_LONGEST_LABELLED = 300  # letters; what is longer is no name with a unit

# Units that stand at the end of a technical name ("shell_length_mm"), as people write them.
_UNITS = {
    "mm": "mm", "cm": "cm", "m": "m", "km": "km", "mg": "mg", "g": "g", "kg": "kg", "t": "t",
    "ml": "ml", "l": "l", "s": "s", "min": "min", "h": "h", "d": "d", "days": "d", "yr": "yr",
    "pct": "%", "percent": "%", "psu": "psu", "c": "°C", "degc": "°C", "eur": "EUR", "usd": "USD",
}  # fmt: skip


def is_unit(text: str) -> bool:
    """Whether a short text is a unit as people write them: "mm", "[g]", "(°C)"."""
    bare = text.strip()
    if len(bare) > 2 and bare[0] + bare[-1] in ("[]", "()") and len(bare) <= _LONGEST_UNIT:
        return True
    return bare.lower() in _UNITS or bare in _UNITS.values()


def label_and_unit(name: str) -> tuple[str, str]:
    """Turn a column's name into words for a reader: ``shell_length_mm`` gives ("Shell length",
    "mm").

    A unit in brackets at the end is taken as it is, and one that is known behind "in"; a technical
    name, which has no blanks, loses its underscores and gets a capital where it has none.
    """
    text = printable(" ".join(name.split()))
    if len(text) > _LONGEST_LABELLED:
        return text, ""
    if (
        bracketed := re.fullmatch(r"(.+?)\s*[(\[]([^()\[\]]*[^\d()\[\]][^()\[\]]*)[)\]]", text)
    ) and len(bracketed[2]) <= _LONGEST_UNIT:
        return label_and_unit(bracketed[1])[0], bracketed[2].strip()
    if (named := re.fullmatch(r"(.+?) in (\S+)", text)) and is_unit(named[2]):
        return label_and_unit(named[1])[0], _UNITS.get(named[2].lower(), named[2])
    unit, technical = "", " " not in text
    if "_" in text and " " not in text:
        words = [word for word in text.split("_") if word]
        if len(words) > 1 and words[-1].lower() in _UNITS:
            unit = _UNITS[words.pop().lower()]
        text = " ".join(words) or text
    if technical and len(text) > 1 and text.islower():  # a letter alone is a symbol
        text = text[0].upper() + text[1:]
    return text, unit
