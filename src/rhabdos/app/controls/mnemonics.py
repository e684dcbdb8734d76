"""Letters that words are reached by: Alt and the underlined one.

Qt takes ``&`` in the words of buttons, menus and labels for the sign before such a letter. Names
that users gave keep theirs (`plain_texts`); what we write is given letters that differ from those
of its neighbours, and in the window from those of the menus.
"""

from collections.abc import Collection, Sequence

from PyQt6.QtWidgets import QCheckBox, QLabel, QMenu, QPushButton, QRadioButton, QWidget

from rhabdos.app.controls.plain_texts import as_written

TOPS = ("&File", "&Edit", "&Data", "F&igure", "&Help")
"""The menu bar."""
OF_MENUS = "fedih"
"""The letters of the menu bar, which nothing else in the window may have."""


def lettered(
    texts: Sequence[str], taken: Collection[str] = (), former: Sequence[str] = ()
) -> list[tuple[str, str]]:
    """Each text with a letter of its own marked in it, and that letter; "" where none is left.

    First letters of words are taken before letters within. Those that come first choose first,
    and take another letter where that leaves one to a later text (augmenting paths of a matching).

    Parameters
    ----------
    texts : sequence of str
        As they are written, without marks.
    taken : collection of str
        Small letters that none may have.
    former : sequence of str, optional
        What each had before, and would best keep.
    """
    wishes = [
        [letter for letter in _wishes(text, before) if letter not in taken]
        for text, before in zip(texts, former or [""] * len(texts), strict=True)
    ]
    owners: dict[str, int] = {}

    def settled(who: int, asked: set[str]) -> bool:
        for letter in wishes[who]:
            if letter not in owners:
                owners[letter] = who
                return True
        for letter in wishes[who]:
            if letter not in asked:
                asked.add(letter)
                if settled(owners[letter], asked):
                    owners[letter] = who
                    return True
        return False

    for who in range(len(texts)):
        settled(who, set())
    letters = {who: letter for letter, who in owners.items()}
    return [
        (_marked(text, letters.get(who, "")), letters.get(who, ""))
        for who, text in enumerate(texts)
    ]


def _wishes(text: str, before: str) -> list[str]:
    """Letters of a text, the best first, each once."""
    small = [c.lower() for c in text]  # each by itself: a small letter may be longer
    firsts = [c for place, c in enumerate(small) if place == 0 or small[place - 1] == " "]
    letters = dict.fromkeys([*(c for c in small if c == before), *firsts, *small])
    return [c for c in letters if "a" <= c <= "z" and len(c) == 1]


def _marked(text: str, letter: str) -> str:
    """A text with a mark before the best place of a letter."""
    small = [c.lower() for c in text]
    places = [place for place, c in enumerate(small) if letter and c == letter]
    if not places:
        return as_written(text)
    place = next((p for p in places if p == 0 or small[p - 1] == " "), places[0])
    return f"{as_written(text[:place])}&{as_written(text[place:])}"


def give_letters(within: QWidget, taken: Collection[str] = "") -> None:
    """Mark a letter in each label of a field, tick and button within a panel or a dialog.

    What is in sight chooses before what is put away, and keeps what it had.
    """
    labelled = [
        widget
        for widget in within.findChildren(QWidget)
        if (isinstance(widget, QLabel) and widget.buddy() is not None and widget.text())
        or (isinstance(widget, QCheckBox | QPushButton | QRadioButton) and widget.text())
    ]
    labelled.sort(key=lambda widget: widget.isHidden())
    texts, former = [], []
    for widget in labelled:
        present = widget.text()
        shown, written, letter = widget.property("lettered") or ("", "", "")
        texts.append(written if present == shown else present)
        former.append(letter if present == shown else "")
    for widget, text, (marked, letter) in zip(
        labelled, texts, lettered(texts, taken, former), strict=True
    ):
        if widget.text() != marked:
            widget.setText(marked)
        widget.setProperty("lettered", (marked, text, letter))


def letter_menu(menu: QMenu) -> None:
    """Mark a letter in each entry of a menu that has none; words are taken as they are written."""
    entries = [action for action in menu.actions() if not action.isSeparator()]
    texts = [action.text() for action in entries]
    for action, (marked, _) in zip(entries, lettered(texts), strict=True):
        action.setText(marked)
