"""The lines of hatchings, the same on the screen and in every file."""

HATCH_LINE = 0.6  # points, how wide a line is
HATCH_STEP = 4.0  # points from line to line, across them
# The slopes of the lines of each hatching: how far up they go to the right; None for upright ones.
HATCH_SLOPES: dict[int, tuple[int | None, ...]] = {
    1: (1,),
    2: (-1,),
    3: (1, -1),
    4: (0,),
    5: (None,),
    6: (0, None),
}
