"""How the axes and parts of a figure are called."""

from collections.abc import Sequence

from rhabdos.quoting import set_apart
from rhabdos.wording import exact, in_running_text

SCALE_TITLES = {
    "count": "Count",
    "percent": "Percent",
    "proportion": "Proportion",
    "density": "Density",
}


def value_axis_title(label: str, unit: str) -> str:
    """The default title of the value axis: "Shell length (mm)"."""
    return f"{set_apart(label)} ({unit})" if unit else label


def common_words(labels: Sequence[str]) -> str:
    """What all labels begin with: "Growth week" of "Growth week 1" and "Growth week 2"."""
    split = [label.split() for label in labels]
    shared = []
    for words in zip(*split, strict=False):
        if len(set(words)) > 1:
            break
        shared.append(words[0])
    return " ".join(shared)


def height_axis_title(
    scale: str, of: str, split: str | None, per: str, cumulative: bool = False
) -> str:
    """The default title of the height axis: "Percent of each bay", "Density of all (per mm)"."""
    title = f"Cumulative {SCALE_TITLES[scale].lower()}" if cumulative else SCALE_TITLES[scale]
    if scale != "count" and split:
        title = f"{title} of {'all' if of == 'all' else f'each {in_running_text(split)}'}"
    return f"{title} (per {per})" if scale == "density" and per else title


def whiskers_phrase(whiskers: float | str | tuple[float, float]) -> str:
    """How far whiskers reach: "1.5 × IQR", "the extremes" or "percentiles 5 and 95"."""
    if isinstance(whiskers, tuple):
        low, high = (exact(share) for share in whiskers)
        return f"percentiles {low} and {high}"
    return "the extremes" if isinstance(whiskers, str) else f"{exact(float(whiskers))} × IQR"
