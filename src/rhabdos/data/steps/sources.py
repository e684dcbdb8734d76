"""Steps that rows begin with instead of a file: typed or pasted values, and practice samples."""

import math
from io import BytesIO
from pathlib import Path
from typing import Annotated, ClassVar, Literal

import numpy as np
from msgspec import Meta, Struct, structs

from rhabdos.arrays import FloatArray
from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.files.opening import OpenFile
from rhabdos.data.files.pasted import is_one_column, one_a_line
from rhabdos.data.steps.reading import Read
from rhabdos.data.steps.step import Applied, Others, Piece, Step, StepError, choice, words_of
from rhabdos.data.table import Table
from rhabdos.quoting import brief
from rhabdos.wording import counted, exact

Distribution = Literal[
    "normal", "uniform", "exponential", "gamma", "lognormal", "beta", "poisson", "binomial", "t",
    "mixture",
]  # fmt: skip
MOST_DRAWN = 10_000_000
MOST_SEED = (1 << 31) - 1


class Parameter(Struct, frozen=True):
    """A parameter of a distribution: its name, its usual value, and what it must be."""

    name: str
    usual: float
    above: float | None = None
    least: float | None = None
    most: float | None = None
    whole: bool = False

    def refuse(self, value: float) -> str:
        """What is wrong with a value, or nothing."""
        if not np.isfinite(value):
            return "a finite number"
        if self.above is not None and value <= self.above:
            return f"above {exact(self.above)}"
        if self.least is not None and value < self.least:
            return f"{exact(self.least)} or more"
        if self.most is not None and value > self.most:
            return f"at most {exact(self.most)}"
        if self.whole and value != round(value):
            return "a whole number"
        return ""


_HALVES = (
    Parameter("mean", 60.0),
    Parameter("sd", 5.0, above=0.0),
    Parameter("mean2", 80.0),
    Parameter("sd2", 5.0, above=0.0),
    Parameter("share", 0.5, least=0.0, most=1.0),
)
DISTRIBUTIONS: dict[Distribution, tuple[Parameter, ...]] = {
    "normal": (Parameter("mean", 70.0), Parameter("sd", 10.0, above=0.0)),
    "uniform": (Parameter("low", 0.0), Parameter("high", 1.0)),
    "exponential": (Parameter("mean", 1.0, above=0.0),),
    "gamma": (Parameter("shape", 2.0, above=0.0), Parameter("scale", 1.0, above=0.0)),
    "lognormal": (Parameter("logmean", 0.0), Parameter("logsd", 0.5, above=0.0)),
    "beta": (Parameter("a", 2.0, above=0.0), Parameter("b", 5.0, above=0.0)),
    "poisson": (Parameter("mean", 4.0, least=0.0, most=1e9),),
    "binomial": (
        Parameter("trials", 10.0, least=0.0, most=1e9, whole=True),
        Parameter("p", 0.5, least=0.0, most=1.0),
    ),
    "t": (
        Parameter("df", 5.0, above=0.0),
        Parameter("mean", 0.0),
        Parameter("scale", 1.0, above=0.0),
    ),
    "mixture": _HALVES,
}
"""Every distribution, with its parameters; a mixture is of two normal ones."""


class Drawn(Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True):
    """A practice sample: its name, distribution, size and parameters."""

    name: str
    distribution: Annotated[Distribution, Meta(description=", ".join(DISTRIBUTIONS))] = "normal"
    n: Annotated[
        int, Meta(ge=1, le=MOST_DRAWN, description=f"a whole number from 1 to {MOST_DRAWN:,}")
    ] = 100
    parameters: dict[str, float] = {}

    def __post_init__(self) -> None:
        known = {parameter.name: parameter for parameter in DISTRIBUTIONS[self.distribution]}
        for name, value in self.parameters.items():
            if name not in known:
                raise ValueError(
                    f"parameters: a {self.distribution} distribution has no {name}, but "
                    f"{', '.join(known)}"
                )
            if wrong := known[name].refuse(value):
                raise ValueError(f"parameters: {name} must be {wrong}")
        if self.distribution == "uniform":
            low, high = self.value_of("low"), self.value_of("high")
            if low >= high:
                raise ValueError("parameters: low must lie below high")
            if not math.isfinite(high - low):
                raise ValueError("parameters: high must not lie so far from low")

    def __hash__(self) -> int:
        return hash((self.name, self.distribution, self.n, tuple(sorted(self.parameters.items()))))

    def value_of(self, name: str) -> float:
        """A parameter's value, given or usual."""
        usual = {p.name: p.usual for p in DISTRIBUTIONS[self.distribution]}
        return self.parameters.get(name, usual[name])

    @property
    def words(self) -> str:
        """ "normal (mean 70, sd 10)"."""
        names = [parameter.name for parameter in DISTRIBUTIONS[self.distribution]]
        values = ", ".join(f"{name} {exact(self.value_of(name))}" for name in names)
        return f"{self.distribution} ({values})"

    def values(self, source: np.random.Generator) -> FloatArray:
        """Values drawn by chance, shape (n,)."""
        p, n = self.value_of, self.n
        match self.distribution:
            case "normal":
                drawn = source.normal(p("mean"), p("sd"), n)
            case "uniform":
                drawn = source.uniform(p("low"), p("high"), n)
            case "exponential":
                drawn = source.exponential(p("mean"), n)
            case "gamma":
                drawn = source.gamma(p("shape"), p("scale"), n)
            case "lognormal":
                drawn = source.lognormal(p("logmean"), p("logsd"), n)
            case "beta":
                drawn = source.beta(p("a"), p("b"), n)
            case "poisson":
                drawn = source.poisson(p("mean"), n).astype(np.float64)
            case "binomial":
                drawn = source.binomial(int(p("trials")), p("p"), n).astype(np.float64)
            case "t":
                drawn = p("mean") + p("scale") * source.standard_t(p("df"), n)
            case _:
                first = source.random(n) < p("share")
                lower = source.normal(p("mean"), p("sd"), n)
                upper = source.normal(p("mean2"), p("sd2"), n)
                drawn = np.where(first, lower, upper)
        return np.asarray(drawn, dtype=np.float64)


class Simulate(Step, frozen=True, tag="simulate"):
    """Practice samples: one number, and one group that names the samples."""

    begins: ClassVar[bool] = True
    makes_rows: ClassVar[bool] = True
    samples: Annotated[
        tuple[Drawn, ...], Meta(min_length=1, max_length=60, description="a list of samples")
    ]
    seed: Annotated[
        int, Meta(ge=0, le=MOST_SEED, description=f"a whole number from 0 to {MOST_SEED:,}")
    ] = 1
    number: str = "Value"
    group: str = "Sample"

    def __post_init__(self) -> None:
        if sum(sample.n for sample in self.samples) > MOST_DRAWN:
            raise ValueError(f"samples: together they may hold {MOST_DRAWN:,} values")
        names = [sample.name for sample in self.samples]
        if len(set(names)) < len(names) or not all(name.strip() for name in names):
            raise ValueError("samples: each needs a name of its own")
        if self.number == self.group:
            raise ValueError("group: it needs another name than the number")

    def table(self) -> Table:
        """The samples as a table; each is drawn from its own seed, so that none changes another."""
        seeds = np.random.SeedSequence(self.seed).spawn(len(self.samples))
        sources = [np.random.default_rng(seed) for seed in seeds]
        # What passes the largest double is refused below.
        with np.errstate(all="ignore"):
            parts = [s.values(r) for s, r in zip(self.samples, sources, strict=True)]
        values = np.concatenate(parts)
        endless = ~np.isfinite(values)
        if endless.any():
            raise StepError(
                "These parameters draw numbers beyond all that a computer holds. Choose smaller "
                "ones."
            )
        number = NumberColumn(self.number, values=values, made_by=self.words)
        names = tuple(sample.name for sample in self.samples)
        codes = np.repeat(np.arange(len(names), dtype=np.int16), [s.n for s in self.samples])
        group = CategoryColumn(self.group, codes=codes, levels=names, made_by=self.words)
        return Table("Practice samples", (number, group))

    def apply(self, table: Table, _others: Others) -> Applied:
        """Rows begin with it, so that it has nothing left to do."""
        raise StepError("Practice samples must be the first step. Move it up.")

    def describe(self) -> tuple[Piece, ...]:
        """Drew 100 values of Mild, normal (mean 70, sd 10), by seed 1."""
        words: list[str | Piece] = ["Drew "]
        for index, sample in enumerate(self.samples[:3]):
            joint = "" if not index else " and " if index == len(self.samples) - 1 else ", "
            words += [f"{joint}{sample.n:,} of ", choice(f"{brief(sample.name)}: {sample.words}")]
        more = len(self.samples) - 3
        rest = f" and {counted(more, 'more sample', 'more samples')}" if more > 0 else ""
        words += [f"{rest}, by seed ", choice(f"{self.seed}"), "."]
        return words_of(*words)


class Values(Step, frozen=True, tag="values"):
    """Values that were typed or pasted, as delimited text; the first row may hold names.

    Where tabs stand between cells nothing else parts them; a line of numbers is a list of them.
    What else is pasted is read as a file of it would be: JSON, or a page with a table.
    """

    begins: ClassVar[bool] = True
    makes_rows: ClassVar[bool] = True
    text: Annotated[str, Meta(min_length=1, max_length=50_000_000, description="delimited text")]
    name: str = "Typed values"
    read: Read | None = None

    def table(self) -> Table:
        """The values as a table.

        Raises
        ------
        ReadingError
            They cannot be read as rows of fields.
        """
        from rhabdos.data.files.reading import table_of
        from rhabdos.data.readers.delimited import read_delimited

        text, how = self.text, structs.replace(self.read or Read(), encoding="utf-8")
        if how.separator is None and not how.places:
            listed = one_a_line(text)
            text = text if listed is None else listed
            if "\t" in text or is_one_column(text):
                how = structs.replace(how, separator="\t")
        content = text.encode(errors="replace")
        typed = OpenFile(Path(self.name), BytesIO(content), len(content))
        # Cells are cells, whatever they begin with; else it may be what a page or a service gave.
        parted = how.separator is not None or bool(how.places)
        read = read_delimited(typed, how=how) if parted else table_of(typed, how=how)
        return structs.replace(read, name=self.name)

    def apply(self, table: Table, _others: Others) -> Applied:
        """Rows begin with it, so that it has nothing left to do."""
        raise StepError("Typed values must be the first step. Move it up.")

    def describe(self) -> tuple[Piece, ...]:
        """Typed by hand: 21 lines."""
        lines = self.text.strip("\n").count("\n") + 1
        return words_of(choice(brief(self.name)), f", {counted(lines, 'line', 'lines')}.")
