"""How the window is dressed: its colours, its style, and the size of its letters."""

import os.path
import re
from collections.abc import Callable
from typing import Any
from weakref import WeakKeyDictionary

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QFontInfo, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication, QWidget
from PyQt6.sip import isdeleted

from rhabdos.app.controls.colours import DARK, HIGH_DARK, HIGH_LIGHT, LIGHT, Theme
from rhabdos.paint import fonts
from rhabdos.paint.typeface import FAMILY

_current = LIGHT
_larger = 1.0
_GROWING: WeakKeyDictionary[QWidget, dict[Callable[[Any, int], object], float]] = (
    WeakKeyDictionary()
)
# Pixels of the desktop's letters as a rule, of ours then, and the most that ours grow.
_USUAL_DESKTOP, _USUAL_LETTERS, _LARGEST_LETTERS = 13.3, 15.0, 2.0
_BOX = 12  # pixels of a box for a tick, within its outline
PLAIN = ("-style", "fusion")
"""Arguments of the application for Qt's own plain style, on every desktop.

Asking the application for its style would make the 350 constants of QStyle, which takes longer than
all our menus.
"""
_ASSETS = f"{os.path.dirname(__file__)}/assets"


def theme() -> Theme:
    """The colours now in use."""
    return _current


def apply(application: QApplication) -> None:
    """Dress the application in the colours that the desktop asks for, now and when it changes its
    mind."""
    prepare(application)
    follow_desktop(application)


def prepare(application: QApplication) -> None:
    """Set the typeface, which widgets take over when they are made; as large as the desktop asks
    for."""
    global _larger
    fonts.load()
    _larger = larger_letters(desktop_letters())
    _set_font(application)


def _set_font(application: QApplication) -> None:
    base = QFont(FAMILY)
    base.setPixelSize(round(14 * _larger))
    base.setFeature(QFont.Tag(b"tnum"), 1)
    application.setFont(base)


def desktop_letters() -> int:
    """Pixels of the desktop's letters now."""
    return QFontInfo(QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont)).pixelSize()


def keep_up(application: QApplication) -> None:
    """Use the contrast and the size of letters that the desktop asks for now. Of these no change is
    told, so it is looked after now and then."""
    global _larger
    colours, wanted = _asked_for(), larger_letters(desktop_letters())
    if wanted != _larger:
        _larger = wanted
        _set_font(application)
        dress(application, colours)
        for widget, changes in list(_GROWING.items()):
            for change, pixels in changes.items():
                if not isdeleted(widget):  # the list outlives panels that were put away
                    change(widget, sized(pixels))
    elif colours is not _current:
        dress(application, colours)


def growing(change: Callable[[Any, int], object], widget: QWidget, pixels: float) -> None:
    """Set a measure of a widget in pixels, larger with the letters, now and when these change.

    Parameters
    ----------
    change : callable
        What sets it, such as ``QWidget.setFixedWidth``.
    """
    change(widget, sized(pixels))
    _GROWING.setdefault(widget, {})[change] = pixels


def larger_letters(desktop: float) -> float:
    """How many times as large letters are, where the desktop's have so many pixels."""
    return 1.0 if desktop <= _USUAL_LETTERS else min(_LARGEST_LETTERS, desktop / _USUAL_DESKTOP)


def sized(pixels: float) -> int:
    """So many pixels, or as many more as the desktop's letters are larger than usual: for what
    holds letters."""
    return round(pixels * _larger)


def follow_desktop(application: QApplication) -> None:
    """Use the light or the dark colours, or those of high contrast, as the desktop does.

    Widgets made beforehand are dressed all at once, which takes a third of the time.
    """
    dress(application, _asked_for())
    if (hints := QGuiApplication.styleHints()) is not None:
        hints.colorSchemeChanged.connect(lambda: dress(application, _asked_for()))


def _asked_for() -> Theme:
    """The colours that the desktop asks for now."""
    hints = QGuiApplication.styleHints()
    if hints is None:
        return LIGHT
    dark, needs = hints.colorScheme() == Qt.ColorScheme.Dark, hints.accessibility()
    if needs is not None and needs.contrastPreference() == Qt.ContrastPreference.HighContrast:
        return HIGH_DARK if dark else HIGH_LIGHT
    return DARK if dark else LIGHT


def dress(application: QApplication, colours: Theme) -> None:
    """Use these colours."""
    global _current
    _current = colours
    application.setPalette(_palette(colours))
    application.setStyleSheet(enlarged(_style(colours), _larger))


def enlarged(style: str, times: float) -> str:
    """The rules with letters so many times as large."""
    if times == 1:
        return style
    return re.sub(
        r"font-size: (\d+)px", lambda found: f"font-size: {round(int(found[1]) * times)}px", style
    )


def _palette(t: Theme) -> QPalette:
    palette = QPalette()
    role = QPalette.ColorRole
    for where, colour in (
        (role.Window, t.ground),
        (role.WindowText, t.ink),
        (role.Base, t.field),
        (role.AlternateBase, t.panel),
        (role.Text, t.ink),
        (role.Button, t.panel),
        (role.ButtonText, t.ink),
        (role.Highlight, t.chosen),
        (role.HighlightedText, t.panel),
        (role.PlaceholderText, t.quiet),
        (role.ToolTipBase, t.rod),
        (role.ToolTipText, t.on_rod),
        (role.Link, t.chosen),
    ):
        palette.setColor(where, QColor(colour))
    for dimmed in (role.Text, role.ButtonText, role.WindowText):
        palette.setColor(QPalette.ColorGroup.Disabled, dimmed, QColor(t.quiet))
    return palette


def _style(t: Theme) -> str:
    """The rules of the style sheet in these colours."""
    words = {
        name: f"{_ASSETS}/{file}-{t.shade}.svg"
        for name, file in (("arrow_up", "up"), ("arrow_down", "down"), ("tick", "tick"))
    }
    box = sized(_BOX)
    words |= {"box": f"{box}px", "round": f"{(box + 2) // 2}px"}

    def meant(found: re.Match[str]) -> str:
        """What a name stands for."""
        name = found[1]
        return words.get(name) or str(getattr(t, name))

    with open(f"{_ASSETS}/window.qss", encoding="utf-8") as rules:
        return re.sub(r"\$(\w+)", meant, rules.read())
