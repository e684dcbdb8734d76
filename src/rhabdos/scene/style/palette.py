"""Colours of the page and of groups."""

from functools import lru_cache
from itertools import combinations

from msgspec import Struct

PAPER = "#FFFFFF"
INK = "#1E2B2F"
QUIET = "#5B6A71"
HAIRLINE = "#E3E7E2"
RECEDED = "#B4BDBE"  # of groups that others are brought forward of

# Chosen by search so that any two stay apart for colour-blind readers and in grey print: their
# lightness rises by like steps. The tests measure it.
GROUPS = ("#1F838A", "#DD9200", "#770F5E", "#66CAC0", "#465705", "#9C7FD4", "#785D54", "#BAD78A")


def load() -> None:
    """Load the library of colours: it takes longer than a hand should wait, where a figure of many
    groups, another palette or a colour that is typed wants it."""
    import coloraide  # noqa: F401


@lru_cache  # each step of a hand colours the groups again
def group_colours(count: int) -> tuple[str, ...]:
    """A colour for each of ``count`` groups, all different."""
    if count <= len(GROUPS):
        return GROUPS[:count]
    from coloraide import Color  # only figures of many groups need it

    lightness = (0.50, 0.68, 0.38, 0.78)
    extra = count - len(GROUPS)
    colours = [
        Color("oklch", [lightness[i % 4], 0.11, (20 + 360 * i / extra) % 360])
        .fit("srgb")
        .convert("srgb")
        for i in range(extra)
    ]
    return GROUPS + tuple(colour.to_string(hex=True) for colour in colours)


class Palette(Struct, frozen=True):
    """Colours of groups: a list of single ones, or a ramp whose steps are as many as groups."""

    title: str
    single: tuple[str, ...] = ()
    ramp: tuple[str, ...] = ()


PALETTES: dict[str, Palette] = {
    "reef": Palette("Reef", GROUPS),
    "shell": Palette("Shell", ("#684508", "#3A948F", "#9DA86A", "#FFD3BF", "#82CAEA", "#675F95")),
    "lamp": Palette("Lamp", ("#6596E5", "#F68CA0", "#D2D368", "#00755A", "#CAEFFF", "#838100")),
    "tide": Palette("Tide", ramp=("#0B2545", "#1F7A9C", "#8CC9C4")),
    "kelp": Palette("Kelp", ramp=("#1F2A0A", "#5E7F2B", "#C9C766")),
    "dusk": Palette("Dusk", ramp=("#2B1042", "#A23B72", "#EBA65F")),
    "slate": Palette("Slate", ramp=("#1E2B2F", "#AEB8BA")),
    "black": Palette("Black", ("#000000",)),
}
_APART, _APART_IN_GREY = 15.0, 7.0  # ΔE 2000, and steps of lightness
_READERS = (None, "protan", "deutan", "tritan")


@lru_cache(maxsize=128)  # steps of a ramp take milliseconds
def palette_colours(name: str, count: int) -> tuple[str, ...]:
    """So many colours of a palette, all different but where it has only one."""
    palette = PALETTES[name]
    if len(palette.single) == 1:  # what else than colour tells groups apart
        return palette.single * count
    if palette.single == GROUPS:
        return group_colours(count)
    if palette.single:
        if count <= len(palette.single):
            return palette.single[:count]
        more = group_colours(count + len(GROUPS))[len(GROUPS) :]
        return (*palette.single, *more)[:count]
    if count == 1:
        return (palette.ramp[len(palette.ramp) // 2 if len(palette.ramp) > 2 else 0],)
    from coloraide import Color

    steps = Color.steps(list(palette.ramp), steps=count, space="oklab")
    return tuple(colour.convert("srgb").fit("srgb").to_string(hex=True).upper() for colour in steps)


class Safety(Struct, frozen=True):
    """Whether any two of some colours stay apart for colour-blind readers, and in grey print."""

    colour_blind: bool
    grey: bool

    @property
    def words(self) -> str:
        """For whom they are safe, in a few words."""
        if self.colour_blind and self.grey:
            return "all readers, grey"
        if self.colour_blind:
            return "all readers"
        return "grey print" if self.grey else "not for all"


@lru_cache(maxsize=256)  # distances of colours take milliseconds
def safety(colours: tuple[str, ...]) -> Safety:
    """Measured, not claimed: distances of all pairs for every kind of reader, and in lightness.

    The distance is CIEDE2000 (Sharma, Wu and Dalal 2005).
    """
    from coloraide import Color

    if len(colours) > _MOST_MEASURED:
        return Safety(False, False)
    shown = [Color(colour) for colour in colours]
    blind = all(
        first.delta_e(other, method="2000") >= _APART
        for reader in _READERS
        for first, other in combinations(
            [colour if reader is None else colour.filter(reader) for colour in shown], 2
        )
    )
    lightness = [colour.convert("lab")["l"] for colour in shown]
    grey = all(abs(a - b) >= _APART_IN_GREY for a, b in combinations(lightness, 2))
    return Safety(blind, grey)


@lru_cache(maxsize=256)  # each label on a fill asks, and there are few fills
def readable(colour: str, paper: str, ink: str) -> str:
    """The colour, or as much nearer to the ink as letters on that paper need.

    The measure is the contrast of WCAG 2.1.
    """
    from coloraide import Color

    ground, shown = Color(paper), Color(colour)
    for step in range(_READABLE_STEPS):
        if shown.contrast(ground) >= _READABLE:
            break
        shown = Color(colour).mix(ink, (step + 1) / _READABLE_STEPS, space="srgb")
    return str(shown.convert("srgb").to_string(hex=True, upper=True))


@lru_cache(maxsize=256)  # coloraide takes longer than a step of a hand may
def contrast(one: str, other: str) -> float:
    """How much two colours stand out from one another, from 1 to 21 (WCAG 2.1)."""
    from coloraide import Color

    return float(Color(one).contrast(Color(other)))


@lru_cache(maxsize=256)  # each line of each step asks
def edge_of(colour: str, paper: str, ink: str) -> str | None:
    """The colour of an edge for a line that hardly stands out from its paper; None where it
    does."""
    from coloraide import Color

    if contrast(colour, paper) >= _SEEN:
        return None
    return str(Color(colour).mix(ink, _TO_INK, space="srgb").to_string(hex=True, upper=True))


@lru_cache(maxsize=256)  # each label on a fill asks
def more_readable(one: str, other: str, ground: str) -> str:
    """Which of two colours stands out more on a ground."""
    from coloraide import Color

    first, second = (Color(colour).contrast(Color(ground)) for colour in (one, other))
    return one if first >= second else other


# Contrast of words on a fill (WCAG 2.2, AA), and steps on the way there.
_READABLE, _READABLE_STEPS = 4.5, 10
_SEEN, _TO_INK = 2.2, 0.6  # contrast that a line needs, and how near to ink its edge is
_MOST_MEASURED = 24  # colours, of which all pairs are compared
