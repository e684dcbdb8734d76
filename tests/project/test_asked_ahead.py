"""Far data: what is asked before a figure is drawn is all that drawing it takes, whatever its letters."""

import random

import pytest

from rhabdos.data.far.duck import DuckFiles
from rhabdos.data.preparing import begun
from rhabdos.data.steps.step import no_others
from rhabdos.errors import Refusal
from rhabdos.figure.forms.read import read
from rhabdos.figure.notices.of_figure import notices
from rhabdos.figure.output.seen import seen
from rhabdos.figure.recipe.toml_text import read_recipe
from rhabdos.project.document import Document, Source
from rhabdos.project.making import make
from rhabdos.project.store import Store
from rhabdos.scene.build import build
from tests.data.far.sameness import frame_of
from tests.figures import recipe_text


@pytest.fixture(scope="module")
def far(tmp_path_factory):
    path = tmp_path_factory.mktemp("far") / "landings.parquet"
    frame = frame_of("skewed", 60_000, 4)
    frame.write_parquet(path)
    with pytest.MonkeyPatch.context() as patched:
        patched.setenv("RHABDOS_MEMORY", "0")
        table = begun(None, path)
    assert table.far is not None
    return table, frame["x"].to_numpy()


@pytest.mark.parametrize("seed", [3, 17, 21, 33, 45, 58])
def test_nothing_is_asked_while_a_figure_is_drawn(far, seed, monkeypatch):
    table, values = far
    text = recipe_text(random.Random(seed), "skewed", values)
    for name, ours in (("v", "x"), ("g", "bay"), ("h", "grade")):
        text = text.replace(f'"{name}"', f'"{ours}"')
    recipe = read_recipe(text)
    document, store = Document.of(Source(), recipe), Store()
    store.keep_table(document, table)
    samples = make(document, store, no_others, lambda *_: None).samples
    monkeypatch.setattr(DuckFiles, "ask", lambda *_: pytest.fail("asked while it is drawn"))
    for wide in (0.45, 0.6, 0.75):
        readings = read(recipe, samples)
        try:
            build(readings, lambda text, size, _face, wide=wide: wide * size * len(text))
        except Refusal:
            return  # it said so when it was asked for
        notices(readings)
        seen(readings)
