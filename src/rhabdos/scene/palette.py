"""Colours of the page and of groups."""

from functools import lru_cache

PAPER = "#FFFFFF"
INK = "#1E2B2F"
QUIET = "#5B6A71"
HAIRLINE = "#E3E7E2"

# Ordered so that neighbours differ in lightness as well as in hue, for colour-blind readers and grey printers.
GROUPS = ("#1B7F8C", "#DB9418", "#86487D", "#7FA63C", "#B4452C", "#5AA9DC", "#4F5B63", "#DC8FAE")


@lru_cache
def group_colours(count: int) -> tuple[str, ...]:
    """A colour for each of ``count`` groups, all different."""
    if count <= len(GROUPS):
        return GROUPS[:count]
    from coloraide import Color  # only figures of many groups need it

    lightness = (0.50, 0.68, 0.38, 0.78)
    extra = count - len(GROUPS)
    colours = [
        Color("oklch", [lightness[i % 4], 0.11, (20 + 360 * i / extra) % 360]).fit("srgb").convert("srgb")
        for i in range(extra)
    ]
    return GROUPS + tuple(colour.to_string(hex=True) for colour in colours)
