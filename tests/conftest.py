"""Every test runs without a screen and without touching the user's files."""

import atexit
import gc
import os
import shutil
import tempfile
from collections.abc import Iterable

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["XDG_RUNTIME_DIR"] = tempfile.mkdtemp(prefix="rhabdos-tests-")
os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp(prefix="rhabdos-tests-")
os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp(prefix="rhabdos-tests-")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="rhabdos-tests-")

import numpy as np
import pytest
from hypothesis import settings

from rhabdos.data.columns import CategoryColumn, NumberColumn
from rhabdos.data.demo import demo_table
from rhabdos.data.gathering import gather
from rhabdos.data.sample_sets import SampleSet
from rhabdos.data.samples import Sample
from rhabdos.data.table import Table
from rhabdos.figure.recipe.recipe import Recipe, Show

for _folder in ("XDG_RUNTIME_DIR", "XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"):
    atexit.register(shutil.rmtree, os.environ[_folder], ignore_errors=True)
settings.register_profile(
    "steady",
    deadline=None,
    derandomize=True,
    max_examples=int(os.environ.get("RHABDOS_EXAMPLES", "60")),
)
settings.load_profile("steady")


def one_in(many: int, cases: Iterable[object]) -> list[object]:
    """Cases of which one in so many is tried each time, and all others with ``make long``."""
    return [
        case if at % many == 0 else pytest.param(*_words(case), marks=pytest.mark.long)
        for at, case in enumerate(cases)
    ]


def _words(case: object) -> tuple[object, ...]:
    return case if isinstance(case, tuple) else (case,)


def measure(text: str, size: float, bold: int = False) -> float:
    """A rule of thumb, so that no font of a machine matters: letters are half as wide as high, and
    a little wider in bold."""
    return len(text) * size * (0.55 if bold else 0.5)


def marks_of(scene, part: str, kind, group: int | None = None) -> list:
    """The marks of a kind that a part has, of one group or of all."""
    of_part = [
        m for m in scene.marks if isinstance(m, kind) and m.meaning and m.meaning.part == part
    ]
    return [mark for mark in of_part if group in (None, mark.meaning.group)]


def sample_of(values: object, label: str = "x") -> Sample:
    return Sample(label, np.sort(np.asarray(values, dtype=np.float64)))


def set_of(*groups: list[float], unit: str = "mm") -> SampleSet:
    """Samples of one variable "Length", split by "Bay" into as many groups as are given."""
    values = np.array([value for group in groups for value in group], dtype=np.float64)
    gone = int(np.isnan(values).sum())
    number = NumberColumn(
        "Length", unit=unit, values=values, missing_as={"blank": gone} if gone else {}
    )
    if len(groups) == 1:
        return gather(Table("t", (number,)), "Length")
    codes = np.repeat(np.arange(len(groups)), [len(group) for group in groups]).astype(np.int8)
    bay = CategoryColumn("Bay", codes=codes, levels=tuple("ABCDEFGH"[: len(groups)]))
    return gather(Table("t", (number, bay)), "Length", "Bay")


def asking(**bins: object) -> Recipe:
    """A recipe for the variable "Length" with these bins."""
    from rhabdos.figure.recipe.recipe_bins import Bins

    return Recipe(show=Show(variables=("Length",)), bins=Bins(**bins))


def pytest_xdist_auto_num_workers() -> int:
    """One more than processors: it has them while others wait for programs, servers and pauses. Not
    more than eight, each of which starts servers of its own."""
    return min(8, (os.cpu_count() or 1) + 1)


def pytest_collection_finish() -> None:
    """What was collected is there to stay: to look for garbage in it is lost time."""
    gc.collect()
    gc.freeze()


@pytest.fixture(autouse=True)
def same_numbers_in_any_order(request) -> None:
    """What a test draws by chance hangs on no other test."""
    if (chance := getattr(request.module, "RNG", None)) is not None:
        begun = vars(request.module).setdefault("_begun", chance.bit_generator.state)
        chance.bit_generator.state = begun


@pytest.fixture(scope="session")
def demo() -> Table:
    return demo_table()
