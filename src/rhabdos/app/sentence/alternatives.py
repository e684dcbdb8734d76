"""The few alternatives of a phrase, as a menu that opens below it."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QWidget

from rhabdos.app.controls.choices import Choices
from rhabdos.figure.phrases import PHRASES
from rhabdos.figure.phrases.phrase import Key
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.recipe import Recipe

Ask = Callable[[str, Recipe], None]


def alternatives(
    phrase: Key, readings: Readings, ask: Ask, aside: Callable[[str], None], parent: QWidget
) -> Choices | None:
    """The menu of a phrase, or None where its settings need a panel.

    What no recipe answers is handed to ``aside``.
    """
    offered = PHRASES[phrase].alternatives
    if offered is None:
        return None
    choices = offered(readings)
    if len(choices) < 2:  # a menu of one entry offers nothing else
        return None
    menu = Choices(parent)
    for choice in choices:
        if choice.recipe:
            menu.offer(choice.text, partial(ask, choice.step, choice.recipe), choice.current)
        elif choice.text:
            menu.offer(choice.text, partial(aside, choice.step))
        else:
            menu.addSeparator()
    return menu
