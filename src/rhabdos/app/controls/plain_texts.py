"""Texts of others that Qt shows as they are, whatever signs are in them."""

from rhabdos.quoting import printable_lines


def as_written(text: str) -> str:
    """A text for a button, a menu or a label, in which ``&`` marks no letter."""
    return text.replace("&", "&&")


def plain_tip(text: str) -> str:
    """A tooltip: Qt would take names with angle brackets for markup."""
    from html import escape

    return f"<p style='white-space: pre-wrap'>{escape(printable_lines(text))}</p>"
