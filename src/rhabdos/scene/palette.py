"""Colours of the page and of groups."""

from functools import lru_cache

PAPER = "#FFFFFF"
INK = "#1E2B2F"
QUIET = "#5B6A71"
HAIRLINE = "#E3E7E2"
RECEDED = "#B4BDBE"  # of groups that others are brought forward of

# Chosen by search so that any two stay apart for colour-blind readers and in grey print: their
# lightness rises by like steps. The tests measure it.
GROUPS = ("#1F838A", "#DD9200", "#770F5E", "#66CAC0", "#465705", "#9C7FD4", "#785D54", "#BAD78A")


@lru_cache
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
