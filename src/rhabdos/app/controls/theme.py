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
                if not isdeleted(widget):
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
    up, down = (
        f"{_ASSETS}/{name}-{'dark' if t is DARK else 'light'}.svg" for name in ("up", "down")
    )
    return f"""
    QMenuBar {{ background: transparent; color: {t.ink}; border: 0; padding: 1px 6px; }}
    QWidget#top {{ background: {t.ground}; border-bottom: 1px solid {t.hairline}; }}
    QMenuBar::item {{ padding: 4px 9px; background: transparent; }}
    QMenuBar::item:selected {{ background: {t.chosen_ground}; }}
    QMenu {{ background: {t.panel}; color: {t.ink}; border: 1px solid {t.outline}; padding: 4px 0; }}
    QMenu::item {{ padding: 5px 28px 5px 26px; }}
    QMenu::item:selected {{ background: {t.chosen_ground}; color: {t.ink}; }}
    QMenu::item:disabled {{ color: {t.quiet}; }}
    QMenu::separator {{ height: 1px; background: {t.hairline}; margin: 4px 0; }}
    QToolTip {{ background: {t.rod}; color: {t.on_rod}; border: 0; padding: 4px 7px; }}
    QStatusBar {{ background: {t.panel}; color: {t.quiet}; border-top: 1px solid {t.hairline}; }}
    QStatusBar::item {{ border: 0; }}
    QWidget#sentence {{ background: {t.panel}; border-bottom: 1px solid {t.hairline}; }}
    QWidget#variables {{ background: {t.panel}; }}
    QWidget#side {{ background: {t.panel}; }}
    QWidget#readings {{ background: {t.panel}; border-top: 1px solid {t.hairline}; }}
    QLabel#heading {{ font-size: 16px; font-weight: 600; }}
    QLabel#strong {{ font-weight: 600; }}
    QLabel#quiet, QLabel#section {{ color: {t.quiet}; font-size: 13px; }}
    QLabel#fault {{ color: {t.fault}; font-size: 13px; }}
    QLabel#welcome {{ font-size: 24px; font-weight: 600; }}
    QLabel#message {{ font-size: 16px; }}
    QToolButton#phrase {{ font-size: 17px; font-weight: 600; color: {t.ink}; background: transparent;
        border: 0; border-bottom: 2px solid {t.outline}; padding: 0; margin: 0; }}
    QToolButton#phrase::menu-button {{ width: 0; border: 0; }}
    QToolButton#phrase::menu-arrow {{ image: none; width: 0; }}
    QToolButton#phrase:hover {{ border-bottom-color: {t.chosen}; color: {t.chosen}; }}
    QToolButton#phrase:focus {{ border-bottom-color: {t.chosen}; background: {t.shown_ground}; }}
    QToolButton#phrase[chosen="true"] {{ color: {t.chosen}; background: {t.chosen_ground};
        border-bottom-color: {t.chosen}; }}
    QToolButton#picture {{ font-size: 13px; color: {t.ink}; background: {t.field}; border: 1px solid {t.hairline};
        padding: 4px; }}
    QToolButton#picture:hover, QToolButton#picture:focus {{ border-color: {t.chosen}; }}
    QToolButton#picture:checked {{ color: {t.chosen}; font-weight: 600; background: {t.chosen_ground};
        border: 1px solid {t.chosen}; }}
    QToolButton#choice {{ font-size: 13px; color: {t.quiet}; background: transparent; border: 0;
        border-bottom: 1px solid {t.outline}; padding: 0; }}
    QToolButton#choice:hover, QToolButton#choice:focus {{ color: {t.chosen}; border-bottom-color: {t.chosen}; }}
    QToolButton#add {{ font-size: 13px; font-weight: 600; color: {t.chosen}; background: transparent; border: 0;
        padding: 1px 0; text-align: left; }}
    QToolButton#add:hover, QToolButton#add:focus {{ text-decoration: underline; }}
    QWidget#parts {{ border-bottom: 1px solid {t.hairline}; }}
    QToolButton#part {{ font-size: 13px; color: {t.quiet}; background: transparent; border: 0; padding: 1px 2px; }}
    QToolButton#part[said="true"] {{ color: {t.ink}; }}
    QToolButton#part[chosen="true"] {{ color: {t.chosen}; background: {t.chosen_ground}; font-weight: 600; }}
    QToolButton#part:hover, QToolButton#part:focus {{ color: {t.chosen}; text-decoration: underline; }}
    QTabBar#places {{ font-size: 14px; background: transparent; border: 0; margin-right: 10px; }}
    QTabBar#places::tab {{ color: {t.quiet}; background: transparent; border: 0;
        border-bottom: 2px solid transparent; padding: 2px 1px; margin: 1px 9px 0 9px; }}
    QTabBar#places::tab:hover {{ color: {t.chosen}; }}
    QTabBar#places::tab:selected {{ color: {t.chosen}; font-weight: 600; border-bottom-color: {t.chosen}; }}
    QTabBar#places::tab:selected:focus {{ background: {t.chosen_ground}; }}
    QTabBar#places::tab:disabled {{ color: {t.outline}; }}
    QFrame#tour {{ background: {t.panel}; border: 2px solid {t.chosen}; }}
    QListView#heard, QTableView#heard {{ background: transparent; border: 0; }}
    QPushButton#step, QPushButton#step:hover, QPushButton#step:focus {{ padding: 0; background: transparent; border: 0;
        border-left: 3px solid transparent; }}
    QPushButton#step[chosen="true"] {{ background: {t.shown_ground}; border-left-color: {t.chosen}; }}
    QPushButton#step:focus {{ border-left-color: {t.chosen}; }}
    QTextEdit, QPlainTextEdit {{ background: {t.field}; color: {t.ink}; border: 1px solid {t.outline}; }}
    QListWidget#ticks, QTableWidget {{ background: {t.field}; border: 1px solid {t.outline};
        gridline-color: {t.hairline}; }}
    QTableWidget::item:focus {{ border: 1px solid {t.chosen}; }}
    QLineEdit, QPlainTextEdit {{ placeholder-text-color: {t.quiet}; }}
    QLineEdit, QComboBox, QSpinBox, QDoubleSpinBox {{ background: {t.field}; color: {t.ink};
        border: 1px solid {t.outline}; padding: 4px 7px; selection-background-color: {t.chosen};
        selection-color: {t.panel}; }}
    QLineEdit:focus, QComboBox:focus, QSpinBox:focus, QDoubleSpinBox:focus {{ border: 1px solid {t.chosen};
        background: {t.field}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {t.fault}; }}
    QLineEdit:disabled, QComboBox:disabled {{ color: {t.quiet}; background: {t.panel}; }}
    QComboBox::drop-down {{ border: 0; width: 22px; }}
    QComboBox::down-arrow, QSpinBox::down-arrow, QDoubleSpinBox::down-arrow {{ image: url({down});
        width: 10px; height: 6px; }}
    QSpinBox::up-arrow, QDoubleSpinBox::up-arrow {{ image: url({up}); width: 10px; height: 6px; }}
    QSpinBox::up-button, QDoubleSpinBox::up-button, QSpinBox::down-button, QDoubleSpinBox::down-button {{
        border: 0; width: 20px; background: transparent; }}
    QSpinBox, QDoubleSpinBox {{ padding-right: 22px; }}
    QComboBox QAbstractItemView {{ background: {t.panel}; border: 1px solid {t.outline};
        selection-background-color: {t.chosen_ground}; selection-color: {t.ink}; }}
    QPushButton {{ background: {t.field}; color: {t.ink}; border: 1px solid {t.outline}; padding: 5px 14px; }}
    QPushButton:hover {{ border-color: {t.chosen}; }}
    QPushButton:focus {{ border: 2px solid {t.chosen}; padding: 4px 13px; }}
    QPushButton:default {{ background: {t.chosen}; color: {t.panel}; border-color: {t.chosen}; }}
    QPushButton:disabled {{ color: {t.quiet}; border-color: {t.hairline}; background: {t.panel}; }}
    QPushButton#cure {{ border: 0; background: transparent; color: {t.notice_ink}; font-weight: 600;
        text-decoration: underline; padding: 0 2px; }}
    QPushButton#seen {{ font-size: 14px; color: {t.quiet}; background: transparent; border: 0; padding: 1px 2px;
        text-align: left; }}
    QPushButton#seen:hover, QPushButton#seen:focus {{ color: {t.chosen}; text-decoration: underline; }}
    QPushButton#cure:focus {{ border: 1px solid {t.notice_ink}; }}
    QWidget#notice {{ background: {t.notice_ground}; border: 1px solid {t.notice_edge}; }}
    QLabel#noticeText {{ color: {t.notice_ink}; }}
    QRadioButton, QCheckBox {{ color: {t.ink}; spacing: 7px; padding: 2px 1px; }}
    QRadioButton:disabled, QCheckBox:disabled {{ color: {t.quiet}; }}
    QRadioButton:focus, QCheckBox:focus {{ background: {t.chosen_ground}; }}
    QListView {{ background: {t.panel}; border: 0; outline: 0; }}
    QListWidget#cards {{ background: transparent; border: 0; }}
    QListWidget#ladder::item {{ border-left: 3px solid transparent; padding-left: 4px; }}
    QListWidget#ladder::item:selected {{ background: {t.chosen_ground}; color: {t.chosen};
        border-left-color: {t.chosen}; }}
    QTableView {{ background: {t.panel}; border: 0; outline: 0; gridline-color: transparent;
        selection-background-color: {t.shown_ground}; selection-color: {t.ink}; }}
    QHeaderView, QTableCornerButton::section {{ background: {t.panel}; border: 0; }}
    QHeaderView::section {{ background: {t.panel}; color: {t.quiet}; border: 0;
        border-bottom: 1px solid {t.hairline}; padding: 3px; font-weight: 400; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
    QScrollBar::handle {{ background: {t.outline}; min-height: 28px; min-width: 28px; }}
    QScrollBar::handle:hover {{ background: {t.quiet}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QSplitter::handle {{ background: {t.hairline}; }}
    QWidget#card {{ background: {t.panel}; border: 1px solid {t.outline}; }}
    QPushButton#quiet {{ padding: 0 8px; min-height: 0; }}
    QProgressBar {{ background: {t.hairline}; border: 0; }}
    QProgressBar::chunk {{ background: {t.chosen}; }}
    """
