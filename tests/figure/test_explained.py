"""What is this? The methods' own words, and formulas with the figure's numbers."""

import math
import re
from pathlib import Path

import numpy as np
import pytest

from rhabdos.data.columns import CategoryColumn, DateColumn
from rhabdos.data.gathering import gather
from rhabdos.data.table import Table
from rhabdos.figure.forms.read import read
from rhabdos.figure.output.explained import TOPICS, explain
from rhabdos.figure.output.faces import FURTHER
from rhabdos.figure.output.methods_text import passage, references
from rhabdos.figure.output.subjects import COMPARED_TOPICS, FORM_TOPICS, SUMMARY_TOPICS, Subject
from rhabdos.figure.recipe.forms import FORMS
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.stats.rules import RULES
from tests.conftest import set_of

ROOT = Path(__file__).parents[2]
RNG = np.random.default_rng(8)
NEAR = RNG.normal(70, 8, 61).round(2).tolist()
FAR = RNG.normal(84, 15, 90).round(2).tolist()
EVERY = (
    *(*SUMMARY_TOPICS, *COMPARED_TOPICS, *FORM_TOPICS.values(), *FURTHER, *TOPICS),
    *("bins", "sway", "quantile"),
)


def figure(text: str = "", show: str = "", groups=(NEAR, FAR)):
    recipe = read_recipe(
        'rhabdos = 1\n[show]\nvariables = ["Length"]\nsplit = ["Bay"]\n' + f"{show}\n{text}"
    )
    return read(recipe, set_of(*groups))


def number(text: str) -> float:
    return float(text.replace(",", "").replace("−", "-"))


def here(topic: str, group: int = 0, value: float | None = None, **how) -> str:
    return "\n".join(explain(figure(**how), Subject(topic, group, value)).here)


def test_the_package_has_the_very_file_of_the_methods():
    packed = ROOT / "src" / "rhabdos" / "methods.md"
    assert packed.read_bytes() == (ROOT / "docs" / "methods.md").read_bytes()


@pytest.mark.parametrize("topic", dict.fromkeys(EVERY))
def test_every_topic_is_told_in_the_words_of_the_methods(topic):
    found = explain(figure(), Subject(topic, 1, 0.5 if topic == "quantile" else 80.0))
    methods = (ROOT / "docs" / "methods.md").read_text()
    assert found is not None
    for _, text in found.passage.parts:
        assert text in methods
    told = found.as_markdown()
    assert found.title in told.replace("\\", "")
    assert len(told) > 80


@pytest.mark.parametrize(("of", "words"), [("sample", "Binomial"), ("start", "slides through")])
def test_a_shade_is_told_as_what_sways(of, words):
    found = explain(figure(f'[sway]\nof = "{of}"'), Subject("sway", 0, 80.0))
    assert words in " ".join(text for _, text in found.passage.parts)
    other = "slides through" if of == "sample" else "Binomial"
    assert other not in " ".join(text for _, text in found.passage.parts)


def test_every_notice_has_its_passage():
    codes = set()
    for path in (ROOT / "src").rglob("*.py"):
        codes |= set(re.findall(r'Notice\(\s*"([a-z-]+)"', path.read_text()))
    codes.discard("reading")  # what was not sure of a file is told by its own words
    assert len(codes) > 30
    for code in codes:
        found = explain(figure(), Subject(f"notice {code}"))
        assert found is not None, code
        assert found.passage.part("when"), code


@pytest.mark.parametrize("rule", list(RULES))
def test_every_rule_of_bins_is_told_with_its_width(rule):
    readings = figure(f'[bins]\nrule = "{rule}"')
    found = explain(readings, Subject("bins"))
    if readings.ruled.instead is None:
        pool = np.array([*NEAR, *FAR])
        width = RULES[rule].width(readings.pools[0])
        stated = [number(n) for n in re.findall(r"= ([\d,.]+) ?(?:mm|$)", found.here[0])]
        assert any(math.isclose(n, width, rel_tol=1e-4) for n in stated)
        assert len(pool) == 151
    assert found.sources or rule in ("square-root", "rice", "automatic")


def test_the_numbers_put_into_a_formula_come_to_what_it_says():
    for values, group in ((NEAR, 0), (FAR, 1)):
        total, n, mean = re.match(
            r"x̄ = ([\d,.]+) / (\d+) = ([\d.]+) mm", here("mean", group)
        ).groups()
        assert number(total) / number(n) == pytest.approx(number(mean), rel=1e-4)
        assert number(mean) == pytest.approx(np.mean(values), rel=1e-4)
        squares, n, sd = re.match(
            r"s = √\(([\d,.]+) / \((\d+) − 1\)\) = ([\d.]+)", here("sd", group)
        ).groups()
        assert math.sqrt(number(squares) / (number(n) - 1)) == pytest.approx(number(sd), rel=1e-4)
        assert number(sd) == pytest.approx(np.std(values, ddof=1), rel=1e-4)
        assert f"= {np.std(values, ddof=1) / math.sqrt(len(values)):.4f}"[:7] in here("se", group)


@pytest.mark.parametrize("rule", range(1, 10))
@pytest.mark.parametrize("share", [0.1, 0.25, 0.5, 0.9])
def test_a_quantile_is_told_by_the_ranks_that_it_lies_between(rule, share):
    method = (
        "inverted_cdf", "averaged_inverted_cdf", "closest_observation", "interpolated_inverted_cdf",
        "hazen", "weibull", "linear", "median_unbiased", "normal_unbiased",
    )[rule - 1]  # fmt: skip
    told = here("quantile", 0, share, text=f"[box]\nquartiles = {rule}")
    value = number(re.search(r"= ([\d.]+) mm$", told)[1])
    assert value == pytest.approx(np.quantile(NEAR, share, method=method), rel=1e-4)
    ordered = sorted(NEAR)
    between = re.search(
        r"number (\d+) and (\d+) in order: ([\d.]+) × ([\d.]+) \+ ([\d.]+) × ([\d.]+)", told
    )
    if between:
        low, high, *parts = (number(each) for each in between.groups())
        assert (parts[1], parts[3]) == (ordered[int(low) - 1], ordered[int(high) - 1])
        assert parts[0] * parts[1] + parts[2] * parts[3] == pytest.approx(value, rel=1e-3)
    else:
        at = int(number(re.search(r"number (\d+)", told)[1]))
        assert ordered[at - 1] == pytest.approx(value)


def test_a_bar_is_told_as_its_count_and_what_that_is_as_a_height():
    told = here("bars", 0, 70.0, show='heights = "density"', text="[bins]\nwidth = 5\nstart = 40")
    count = sum(70 <= value < 75 for value in NEAR)
    assert f"c = {count} values from 70 to under 75 mm" in told
    assert f"{count} / (61 × 5) = {count / 305:.4f}"[:-1] in told
    percent = here("bars", 0, 70.0, show='heights = "percent"', text="[bins]\nwidth = 5")
    assert f"100 × {count} / 61 = {100 * count / 61:.2f}" in percent


def test_boxes_curves_and_comparisons_put_their_numbers_in():
    q1, q3 = np.quantile(NEAR, [0.25, 0.75])
    told = here("box", 0, show='forms = ["box"]')
    limit = number(re.search(r"Q₃ \+ 1.5 IQR = .* = ([\d.]+);", told)[1])
    assert limit == pytest.approx(q3 + 1.5 * (q3 - q1), rel=1e-4)
    last = max(value for value in NEAR if value <= limit)
    assert told.endswith(f"{last:g} mm")
    curve = here("curve", 1, show='forms = ["curve"]')
    spread = min(np.std(FAR, ddof=1), (np.quantile(FAR, 0.75) - np.quantile(FAR, 0.25)) / 1.34)
    width = number(re.search(r"= ([\d.]+) mm", curve)[1])
    assert width == pytest.approx(0.9 * spread * 90 ** (-1 / 5), rel=1e-3)
    means = here("compare mean", 1)
    assert number(re.search(r"= ([\d.]+) mm", means)[1]) == pytest.approx(
        np.mean(FAR) - np.mean(NEAR), rel=1e-3
    )
    assert "90 × 61 = 5,490 pairs" in here("compare exceeds", 1, 0.8)
    assert here("compare mean", 0) == ""  # the reference itself


def test_dates_are_told_as_dates_and_what_has_no_value_says_less():
    days = DateColumn("Length", values=np.arange(18.0) * 30 + 19_000)
    bay = CategoryColumn("Bay", codes=np.repeat([0, 1], 9).astype(np.int8), levels=("A", "B"))
    recipe = figure().recipe
    readings = read(recipe, gather(Table("t", (days, bay)), "Length", "Bay"))
    for topic in EVERY:
        found = explain(readings, Subject(topic, 0, 0.25 if topic == "quantile" else 19_100.0))
        assert "19,0" not in " ".join(found.here), topic
    empty = figure(groups=(NEAR, [float("nan")]))
    for topic in EVERY:
        assert explain(empty, Subject(topic, 1, 70.0)) is not None
    assert explain(empty, Subject("no such thing")) is None
    with pytest.raises(KeyError):
        passage("Summary", "no such row")


def test_works_that_a_passage_names_are_given_in_full():
    assert [r.split(",")[0] for r in references("as in Hyndman and Fan (1996)")] == ["Hyndman"]
    assert references("Scott 1979")[0].endswith("*Biometrika* 66, 605–610.")
    assert references("nobody 1979") == ()


def test_every_work_that_the_methods_name_is_among_their_sources():
    text = (ROOT / "docs" / "methods.md").read_text()
    body, _, listed = text.partition("## Sources")
    named = re.findall(
        r"([A-Z][a-zA-Zé–-]+)(?:, [A-Z][a-z]+)*(?: and [A-Z][a-zA-Z]+| et al\.)? \(?(1[89]\d\d|20\d\d)\)?",
        body,
    )
    works = {
        (a, y)
        for a, y in named
        if a not in ("January", "April", "July", "October", "Before", "Years", "NIST")
    }
    missing = [w for w in works if not re.search(rf"- [^\n]*{w[0]}[^\n]*\({w[1]}\)", listed)]
    assert not missing


def test_each_form_of_the_table_is_a_topic():
    assert set(FORM_TOPICS) == set(FORMS)


def test_names_of_groups_are_no_markdown():
    readings = figure(groups=(NEAR, FAR))
    told = explain(readings, Subject("mean", 0)).as_markdown()
    assert "### Mean of A" in told


@pytest.mark.parametrize("n", [5, 6, 7, 8])
def test_a_hinge_is_told_by_its_depth_from_either_end(n):
    values = sorted(FAR[:n])
    for topic, ordered, end in (
        ("q1", values, "lower"),
        ("median", values, "lower"),
        ("q3", values[::-1], "upper"),
    ):
        told = explain(
            figure(text='[box]\nquartiles = "hinges"', groups=(values, NEAR)), Subject(topic, 0)
        ).here
        depth, side, value = re.search(
            r"at depth ([\d.]+) from the (\w+) end = ([\d.]+)", "\n".join(told)
        ).groups()
        # Halfway between two values where a depth ends in a half.
        low, part = divmod(float(depth), 1)
        at = (1 - part) * ordered[int(low) - 1] + part * ordered[int(np.ceil(float(depth))) - 1]
        assert (side, float(value)) == (end, pytest.approx(at, rel=1e-3))
        assert float(depth) == ((n + 1) / 2 if topic == "median" else (n // 2 + n % 2 + 1) / 2)


def test_a_ratio_of_spreads_is_told_however_small_they_are():
    for times in (1.0, 1e-3):
        near, far = ([times * value for value in values] for values in (NEAR, FAR))
        topic = next(t for t in COMPARED_TOPICS if "sₓ / sᵧ" in here(t, 1))
        told = here(topic, 1, groups=(near, far))
        ratio = number(re.search(r"= ([\d.]+)$", told)[1])
        assert ratio == pytest.approx(np.std(FAR, ddof=1) / np.std(NEAR, ddof=1), rel=1e-3)


def test_each_axis_and_each_group_has_its_own_rule_put_in():
    alone = [here("bins", group, text="[bins]\nshared = false") for group in (0, 1)]
    for words, values in zip(alone, (NEAR, FAR), strict=True):
        q1, q3 = np.quantile(values, [0.25, 0.75])
        width = 2 * (q3 - q1) / len(values) ** (1 / 3)
        assert number(re.search(r"= ([\d.]+) mm$", words, re.MULTILINE)[1]) == pytest.approx(
            width, 1e-4
        )
    told = explain(figure("[bins]\nshared = false"), Subject("bins")).here
    assert [line[:3] for line in told] == ["A: ", "A: ", "B: ", "B: "]
    still = [*[5.0] * 40, *NEAR[:9]]  # whose quartiles are the same
    curve = read(read_recipe('rhabdos = 1\n[show]\nvariables = ["Length"]\nforms = ["curve"]'),
                 set_of(still))  # fmt: skip
    factors = re.match(r"h = 0.9 × ([\d.]+) × 49\^\(−1/5\) = ([\d.]+) mm",
                       explain(curve, Subject("curve", 0)).here[0])  # fmt: skip
    assert float(factors[1]) == pytest.approx(np.std(still, ddof=1), 1e-4)
    assert float(factors[2]) == pytest.approx(0.9 * float(factors[1]) * 49**-0.2, 1e-4)
