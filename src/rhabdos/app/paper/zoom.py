"""How large the paper is on the stage, and which part of it is in sight."""

from PyQt6.QtCore import QRect, QRectF

LARGEST = 6.0  # times as large as the whole page fits
_STEP = 1.25  # times, by a turn of the wheel or a key
_SMALLEST = 0.25  # of the paper's size


class Zoom:
    """The paper as a whole, or so many times as large about a place of it.

    ``times`` is how many times as large it is as where all of it fits; ``across`` and ``down`` are
    the place of the page, as shares of its sides, that lies in the middle of the stage.
    """

    def __init__(self) -> None:
        self.times, self.across, self.down = 1.0, 0.5, 0.5

    @property
    def whole(self) -> bool:
        """Whether the page is as large as fits."""
        return self.times == 1.0

    def to(self, times: float) -> None:
        """Show it so many times as large, within what is sensible."""
        self.times = min(LARGEST, max(_SMALLEST, times))
        if abs(self.times - 1.0) < 0.02:
            self.times = 1.0

    def by(self, steps: float, about: tuple[float, float] | None = None) -> None:
        """Show it larger by so many steps, or smaller.

        Parameters
        ----------
        about : (float, float), optional
            The place of the page, as shares of its sides, that a hand points at: it comes nearer to
            the middle.
        """
        before = self.times
        self.to(self.times * _STEP**steps)
        if about is not None and self.times > before:
            near = 1 - before / self.times
            self.across += (about[0] - self.across) * near
            self.down += (about[1] - self.down) * near

    def fit(self) -> None:
        """Show the whole page."""
        self.times, self.across, self.down = 1.0, 0.5, 0.5

    def placed(self, usual: QRect, room: QRectF) -> QRect:
        """Where the paper lies that would lie at its usual place if all of it were shown; beyond
        the room, but with nothing left free beside it."""
        if self.whole:
            return usual
        wide, high = round(usual.width() * self.times), round(usual.height() * self.times)
        left, self.across = _along(room.left(), room.width(), wide, self.across)
        top, self.down = _along(room.top(), room.height(), high, self.down)
        return QRect(round(left), round(top), wide, high)


def _along(begins: float, room: float, long: int, middle: float) -> tuple[float, float]:
    """Where a side of the paper begins, and the share of it that then lies in the middle."""
    if long <= room:
        return begins + (room - long) / 2, 0.5
    start = begins + room / 2 - middle * long
    start = min(begins, max(begins + room - long, start))
    return start, (begins + room / 2 - start) / long
