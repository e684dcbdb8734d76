"""The phrase of boxes."""

import re

from rhabdos.data.columns import CategoryColumn
from rhabdos.errors import Refusal
from rhabdos.figure.phrases.phrase import Choice, Phrase, Said, Setting, number, or_usual
from rhabdos.figure.phrases.strokes import stroke_settings
from rhabdos.figure.planning.titles import whiskers_phrase
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.recipe.edge_text import read_number
from rhabdos.figure.recipe.recipe import Recipe
from rhabdos.quoting import quoted
from rhabdos.wording import counted, exact, without_powers

_SHAPES = ("diamond", "circle", "square", "cross")
_NUMBERS: dict[str, tuple[str, ...]] = {
    "none": (),
    "n": ("n",),
    "mean ± sd": ("mean",),
    "median": ("median",),
    "n, mean ± sd": ("n", "mean"),
    "n, median": ("n", "median"),
    "n, mean ± sd, median": ("n", "mean", "median"),
}


def _said(readings: Readings) -> Said:
    settings = readings.recipe.box
    if settings.letters:
        words = "letter values, each at half the depth of the last"
        before = "boxes are drawn at "
    else:
        words, before = whiskers_phrase(settings.whiskers), "whiskers reach "
        words += ", notched" if settings.notches else ""
    after = f", a {settings.mean_shape} marks the mean" if settings.mean else ""
    if settings.names is not None:
        named = {"row": "by row", "value": "by value"}.get(settings.names, f"by {settings.names}")
        after += f", values beyond are named {named}"
    return Said(before, words, after)


def _boxes(readings: Readings) -> list[Choice]:
    """The few whisker rules and names that are wanted most."""
    recipe, here = readings.recipe, readings.recipe.box
    choices = []
    for whiskers in (1.5, 3.0, "range", (5.0, 95.0), (2.0, 98.0)):
        other = here.changed(whiskers=whiskers, letters=False)
        words = whiskers_phrase(other.whiskers)
        choices.append(
            Choice(
                f"whiskers to {words}",
                f"Whiskers to {words}",
                recipe.changed(box=other),
                whiskers == here.whiskers and not here.letters,
            )
        )
    letter = recipe.changed(box=here.changed(letters=True))
    choices.append(Choice("letter values", "Boxes of letter values", letter, here.letters))
    return choices


def _read_whiskers(text: str, readings: Readings) -> object:
    """1.5, 1.5 × IQR, range, or 5 and 95."""
    if text.casefold() in ("range", "extremes", "the extremes"):
        return "range"
    words = without_powers(text).removesuffix("IQR").strip().removesuffix("×").strip()
    words = words.removeprefix("percentiles").replace("%", " ").strip()
    parts = [part for part in re.split(r"\s*(?:,|;|and|to|–|\s)\s*", words) if part]
    numbers = [read_number(part) for part in parts]
    if len(numbers) == 1 and numbers[0] is not None:
        return numbers[0]
    if len(numbers) == 2 and None not in numbers:
        return tuple(numbers)
    raise Refusal(
        f"{quoted(text)} is no reach of whiskers. Write a multiple of the IQR such as 1.5, the "
        "word range, or two percentiles such as 5 and 95."
    )


def _whiskers_shown(readings: Readings) -> str:
    settings = readings.recipe.box.whiskers
    if settings == "range":
        return "range"
    if isinstance(settings, tuple):
        return " and ".join(exact(share) for share in settings)
    assert not isinstance(settings, str)
    return f"{exact(float(settings))} × IQR"


def _quartile_rules(_readings: Readings) -> list[tuple[str, object]]:
    from rhabdos.stats.quantiles import IN_WORDS

    return [(f"{rule}: {words}", rule) for rule, words in IN_WORDS.items()]


def _namers(readings: Readings) -> list[tuple[str, object]]:
    """What can name a value: its row, itself, or a variable of words."""
    table = readings.samples.table
    columns = (
        [c for c in table.columns if c.kind == "label" or isinstance(c, CategoryColumn)]
        if table
        else []
    )
    named: list[tuple[str, object]] = [
        ("not named", None),
        ("by row", "row"),
        ("by value", "value"),
        *((f"by {column.label}", column.name) for column in columns),
    ]
    settings = readings.recipe.box.names
    if settings is not None and settings not in [value for _, value in named]:
        named.append((f"by {settings}", settings))
    return named


def _mean_shown(readings: Readings) -> object:
    settings = readings.recipe.box
    return settings.mean_shape if settings.mean else None


def _with_mean(recipe: Recipe, shape: object) -> Recipe:
    if shape is None:
        return recipe.changed(box=recipe.box.changed(mean=False))
    return recipe.changed(box=recipe.box.changed(mean=True, mean_shape=shape))


def _whole(readings: Readings) -> bool:
    return not readings.recipe.box.letters


def _facts(readings: Readings) -> str:
    from rhabdos.figure.forms.box import boxes

    drawn = [drawn for drawn in boxes(readings) if drawn.n]
    beyond = sum(tail.stop - tail.start for box in drawn for tail in box.tails)
    lie = "value lies" if beyond == 1 else "values lie"
    return f"{counted(len(drawn), 'box', 'boxes')}, {beyond:,} {lie} beyond the whiskers"


def _share_shown(readings: Readings) -> str:
    share = readings.recipe.box.share
    return "" if share is None else f"{exact(100 * share)} %"


def _read_share(text: str, readings: Readings) -> object:
    percent = number("The width of boxes", 5, 100)(text.removesuffix("%").strip(), readings)
    assert isinstance(percent, float)
    return float(f"{percent / 100:.12g}")


def _points(key: str, label: str, step: str, least: float, most: float) -> Setting:
    """A size in points, or the usual one."""

    def shown(readings: Readings) -> str:
        """The size that is asked for."""
        size = getattr(readings.recipe.box, key)
        return "" if size is None else f"{exact(size)} pt"

    return Setting(
        f"box.{key}",
        label,
        "typed",
        step,
        shown=shown,
        placeholder=lambda _readings: "as the look",
        read=lambda text, readings: or_usual(None, number("The size", least, most))(
            text.removesuffix("pt").strip(), readings
        ),
        matters=lambda readings: key == "mark_size" or readings.recipe.box.names is not None,
    )


BOX = Phrase(
    "box",
    "Boxes",
    "Ctrl+7",
    _said,
    clause=True,
    matters=lambda readings: "box" in readings.recipe.show.forms,
    alternatives=_boxes,
    settings=(
        Setting(
            "box.whiskers",
            "Whiskers",
            "typed",
            "Whiskers to {}",
            shown=_whiskers_shown,
            read=or_usual(1.5, _read_whiskers),
            matters=_whole,
            tip="A multiple of the IQR such as 1.5, the word range, or two percentiles",
        ),
        Setting(
            "box.far",
            "Far from",
            "typed",
            "Far values from {}",
            shown=lambda readings: f"{exact(readings.recipe.box.far)} × IQR",
            read=lambda text, readings: or_usual(3.0, number("The multiple", 0))(
                text.removesuffix("IQR").strip().removesuffix("×").strip(), readings
            ),
            matters=_whole,
            tip="Values farther from the box than this are discs instead of rings",
        ),
        Setting("box.names", "Beyond", "choice", "Values beyond {}", choices=_namers),
        _points("mark_size", "Marks beyond", "Marks beyond {}", 1, 20),
        _points("name_size", "Names beyond", "Names beyond {}", 3, 72),
        Setting("box.quartiles", "Quartiles", "choice", "Quartiles {}", choices=_quartile_rules),
        Setting(
            "box.mean",
            "Mean",
            "choice",
            "Mean as {}",
            choices=lambda _readings: [("not marked", None), *((s, s) for s in _SHAPES)],
            value=_mean_shown,
            change=_with_mean,
        ),
        Setting(
            "box.mean_size",
            "Its size",
            "typed",
            "Marker of {}",
            shown=lambda readings: f"{exact(readings.recipe.box.mean_size)} pt",
            read=lambda text, readings: or_usual(6.0, number("The size", 2, 20))(
                text.removesuffix("pt").strip(), readings
            ),
            matters=lambda readings: readings.recipe.box.mean,
        ),
        Setting(
            "box.numbers",
            "Beside it",
            "choice",
            "Beside boxes: {}",
            choices=lambda _readings: list(_NUMBERS.items()),
        ),
        Setting(
            "box.numbers_as",
            "Written",
            "choice",
            "Numbers of boxes as {}",
            choices=lambda _readings: [("beside each", "words"), ("a table in line", "table")],
            matters=lambda readings: bool(readings.recipe.box.numbers),
            tip="A table has its rows beneath standing boxes, its columns at the right of lying "
            "ones",
        ),
        Setting(
            "box.width",
            "Width",
            "choice",
            "Box width {}",
            choices=lambda _readings: [("all the same", "fixed"), ("by n", "by-n")],
        ),
        Setting(
            "box.share",
            "Of the strip",
            "typed",
            "Boxes {} of their strip",
            shown=_share_shown,
            placeholder=lambda _readings: "86 %",
            read=or_usual(None, _read_share),
            tip="How much of its strip the widest box takes, from 5 to 100 %",
        ),
        Setting("box.notches", "Notches", "toggle", "Notched boxes|Plain boxes", matters=_whole),
        Setting(
            "box.letters", "Letter values", "toggle", "Boxes of letter values|Boxes with whiskers"
        ),
        *stroke_settings("box", "Lines"),
        *stroke_settings("median", "Median"),
    ),
    facts=_facts,
    hint="Point at a box to read it. Whiskers can also be set by the grip on the rod. Letter "
    "values show the tails of large samples.",
    parts=("box",),
)
