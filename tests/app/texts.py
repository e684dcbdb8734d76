"""What is written on widgets."""

import re


def words_of(widget) -> str:
    """What stands on a button, a label or a menu entry, without the letter that is marked in it."""
    return re.sub("&(.)", r"\1", widget.text())
