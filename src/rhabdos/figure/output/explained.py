"""What a number, a part or a notice of a figure is: what docs/methods.md says of it, and the
formula with this figure's numbers put in."""

import re
from collections.abc import Mapping

from msgspec import Struct, structs

from rhabdos.figure.output.methods_text import Passage, passage, references
from rhabdos.figure.output.subjects import Subject
from rhabdos.figure.output.worked import (
    Here,
    of_bar,
    of_box,
    of_counts,
    of_curve,
    of_cv,
    of_ecdf,
    of_exceeds,
    of_extent,
    of_iqr,
    of_mean,
    of_means,
    of_medians,
    of_normal,
    of_overlap,
    of_pairs,
    of_quantile,
    of_rule,
    of_sd,
    of_se,
    of_spreads,
    of_summary,
    of_variance,
)
from rhabdos.figure.readings.readings import Readings
from rhabdos.figure.readings.reference import compared_with, quantile_definition
from rhabdos.stats.rules import RULES


class Explanation(Struct, frozen=True):
    """What something is.

    Attributes
    ----------
    title : str
        What was asked about.
    passage : Passage
        What the methods say of it.
    here : tuple of str
        The formula with the numbers of this figure, a line each.
    sources : tuple of str
        Full references of what the passage names, as Markdown.
    """

    title: str
    passage: Passage
    here: tuple[str, ...]
    sources: tuple[str, ...]

    def as_markdown(self) -> str:
        """All of it, the numbers of this figure first."""
        words = self.passage.part("in words")
        lines = [f"### {_literal(self.title)}"]
        if words:
            lines.append(f"{words[:1].upper()}{words[1:]}.")
        if self.here:
            lines.append("**Here:** " + "  \n".join(_literal(line) for line in self.here))
        for name, text in self.passage.parts:
            if name == "in words":
                continue
            called = name if len(name) < 2 else name.capitalize()  # m and γ are signs
            lines.append(f"**{called}:** {text}" if name else text)
        if self.sources:
            lines.append("**Sources:** " + "  \n".join(self.sources))
        lines.append(f"*From the methods: {self.passage.section}*")
        return "\n\n".join(lines)


def _literal(text: str) -> str:
    """Words of the data, which are no Markdown."""
    return re.sub(r"([\\`*_\[\]<>#|~])", r"\\\1", text)


class _Topic(Struct, frozen=True):
    """Where the methods speak of something, and what of this figure goes into the formula.

    Attributes
    ----------
    lead : str
        With what the passage begins; ``more`` those that follow, as sections and leads.
    """

    title: str
    section: str
    lead: str = ""
    here: Here | None = None
    more: tuple[tuple[str, str], ...] = ()


def explain(readings: Readings, subject: Subject) -> Explanation | None:
    """What something is; None of what there is nothing to say.

    Parameters
    ----------
    subject : Subject
        Its topic is a key of ``TOPICS``, or "notice" and the code of one.
    """
    topic = _topic_of(readings, subject)
    if topic is None:
        return None
    try:
        passages = [passage(*at) for at in ((topic.section, topic.lead), *topic.more)]
    except KeyError:
        return None
    here: tuple[str, ...] = ()
    if topic.here is not None:
        group = readings.groups[subject.group or 0]
        if group.n:
            here = tuple(topic.here(readings, group, subject))
    title = topic.title
    if subject.group is not None and len(readings.groups) > 1 and topic.here is not None:
        title += f" of {readings.groups[subject.group].label}"
    text = Passage(topic.section, tuple(part for each in passages for part in each.parts))
    return Explanation(title, text, here, references(" ".join(part for _, part in text.parts)))


def _topic_of(readings: Readings, subject: Subject) -> _Topic | None:
    kind, _, code = subject.topic.partition(" ")
    if kind == "notice":
        return _Topic(code.replace("-", " ").capitalize(), "Notices", code)
    if subject.topic == "bins":
        return _rule_topic(readings)
    if subject.topic == "bars":
        scale = (("Counts and heights", readings.scale),)
        return _Topic("Bar", "Counts and heights", "", of_bar, scale)
    if subject.topic in ("q1", "q3", "median", "quantile"):
        return _quantile_topic(readings, subject)
    if subject.topic == "points":
        spread = readings.recipe.points.spread
        return _Topic(f"Points, {spread}", "Points and violins", spread.capitalize())
    if subject.topic == "sway":
        start = readings.recipe.sway.of == "start"
        return _Topic("Sway", "Sway", "Other starts" if start else "Another sample")
    topic = TOPICS.get(subject.topic)
    if topic is not None and kind == "compare" and compared_with(readings).paired is not False:
        return structs.replace(topic, more=((_COMPARING, "Pairs"),))
    return topic


def _quantile_topic(readings: Readings, subject: Subject) -> _Topic:
    """With the definition that is chosen."""
    rule = readings.recipe.box.quartiles
    section = "Quantiles and hinges"
    chosen = "Hinges" if rule == "hinges" and subject.topic != "quantile" else ""
    definition = (section, chosen or str(quantile_definition(readings)))
    if subject.topic == "quantile":
        share = 100 * (subject.value or 0.0)
        return _Topic(f"Quantile at {share:g} %", section, "", of_quantile, (definition,))
    title = {"q1": "Lower quartile", "median": "Median", "q3": "Upper quartile"}[subject.topic]
    lead = "median" if subject.topic == "median" else "quartiles"
    more = (definition,) if chosen else ((section, ""), definition)
    return _Topic(title, "Summary", lead, of_quantile, more)


def _rule_topic(readings: Readings) -> _Topic:
    bins = readings.recipe.bins
    if not bins.by_rule or not readings.needs_bins:
        return _Topic("Bins", "Rules for the width of bins", "")
    rule = readings.ruled.instead or bins.rule or "automatic"
    title = RULES[rule].title
    lead = "automatic" if rule == "automatic" else title
    lead = "square root" if rule == "square-root" else lead
    return _Topic(f"Bins by the rule {title}", "Rules for the width of bins", lead, of_rule)


_COMPARING = "Comparing groups with a reference"
TOPICS: Mapping[str, _Topic] = {
    "n": _Topic("n", "Summary", "n", of_counts),
    "missing": _Topic("Missing values", "Summary", "missing", of_counts),
    "mean": _Topic("Mean", "Summary", "mean", of_mean),
    "sd": _Topic("Standard deviation", "Summary", "sd", of_sd),
    "se": _Topic("Standard error of the mean", "Summary", "standard error", of_se),
    "variance": _Topic("Variance", "Summary", "variance", of_variance),
    "cv": _Topic("sd / mean", "Summary", "sd / mean", of_cv),
    "skewness": _Topic(
        "Skewness", "Summary", "skewness (n ≥ 3)", of_summary("skewness", bare=True)
    ),
    "kurtosis": _Topic(
        "Excess kurtosis", "Summary", "kurtosis (n ≥ 4)", of_summary("kurtosis", bare=True)
    ),
    "trimmed_mean": _Topic("Trimmed mean", "Summary", "trimmed mean", of_summary("trimmed_mean")),
    "geometric_mean": _Topic("Geometric mean", "Summary", "geometric mean"),
    "mad": _Topic("MAD", "Summary", "MAD", of_summary("mad", apart=True)),
    "mode": _Topic("Mode", "Summary", "mode"),
    "min": _Topic("Minimum", "Summary", "min", of_extent),
    "max": _Topic("Maximum", "Summary", "max", of_extent),
    "iqr": _Topic("IQR", "Summary", "IQR", of_iqr),
    "curve": _Topic("Density curve", "Density curves", "", of_curve),
    "bandwidth": _Topic("Bandwidth", "Density curves", "Bandwidths", of_curve),
    "normal": _Topic("Normal curve", "Density curves", "On other scales", of_normal),
    "ecdf": _Topic("ECDF", "Density curves", "On other scales", of_ecdf),
    "violin": _Topic("Violin", "Points and violins", "", of_curve),
    "box": _Topic("Box", "Boxes", "", of_box),
    "shift": _Topic("Decile arrows", "Decile arrows", "", of_medians),
    "pairs": _Topic("Quantile pairs", "Quantile pairs", "", of_pairs),
    "compare median": _Topic(
        "Difference of medians", _COMPARING, "difference of medians", of_medians
    ),
    "compare mean": _Topic("Difference of means", _COMPARING, "difference of means", of_means),
    "compare sd": _Topic("Ratio of sd", _COMPARING, "ratio of sd", of_spreads),
    "compare overlap": _Topic("Overlap", _COMPARING, "overlap", of_overlap),
    "compare exceeds": _Topic("Chance to exceed", _COMPARING, "chance to exceed", of_exceeds),
    "compare differs": _Topic("Where they differ most", _COMPARING, "difference of medians"),
    "compare": _Topic("Comparing", _COMPARING),
    "ladder": _Topic("The ladder", "What bins do: peaks, the ladder, sliding", "The ladder"),
    "seen": _Topic("What is seen", "The data's own sentences"),
    "logs": _Topic("Logs", "Logs"),
    "colours": _Topic("Colours", "Colours"),
    "dates": _Topic("Dates", "Dates"),
}
"""Of each topic: its title, where the methods speak of it, and this figure's numbers in it."""
