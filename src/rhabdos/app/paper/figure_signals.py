"""What a hand does with the figure, as the canvas tells it."""

from PyQt6.QtCore import QPoint, pyqtSignal
from PyQt6.QtWidgets import QLabel

from rhabdos.figure.edits.placed_texts import Spot
from rhabdos.scene.marks import Meaning


class FigureSignals(QLabel):
    """A widget that tells what is done with a figure on it."""

    part_clicked = pyqtSignal(Meaning, bool)
    """What a part that was clicked means, and whether others stay brought forward with it."""
    level_moved = pyqtSignal(str, str)
    """The name of a level that was dragged in the legend, and of the one it was dropped on."""
    level_asked = pyqtSignal(str, QPoint)
    """A level that was clicked in the legend by the right button, and the place on the screen."""
    words_clicked = pyqtSignal(Meaning)
    """What words that were clicked mean, to type over them."""
    dragged_out = pyqtSignal()
    """A hand drags the figure away, to another program."""
    swatch_clicked = pyqtSignal(str)
    """The level whose colour is to be picked."""
    text_placed = pyqtSignal(int, Spot, bool, bool)
    """The number of a text that a hand drags, and the spot where it is; whether it is the tip of an
    arrow from the text, and whether it is let go there."""
    given_up = pyqtSignal()
    """What a hand had moved stays where it was."""
    first_painted = pyqtSignal()
    placed = pyqtSignal()
    """The figure is somewhere else in the window, or of another size."""
    zoomed = pyqtSignal(float, float, float)
    """Larger by so many steps, about a place of the page as shares of its sides."""
    scrolled = pyqtSignal(float, float)
    """What lies so many pixels beyond is to be seen: across, and down."""
    read = pyqtSignal(object)
    """The stop that is read now, or None."""
    pointed = pyqtSignal(object)
    """The value under the pointer with how far across its frame that is, or None."""
    rows_asked = pyqtSignal(object, object)
    """The step that keeps the rows of a part or of a range, and the place on the screen."""
