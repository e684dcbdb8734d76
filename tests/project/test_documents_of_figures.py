"""The row of figures of a document: whatever is done to it, places mean the same figures."""

from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from rhabdos.figure.recipe.recipe import Recipe, Show
from rhabdos.project.document import Document, Figure, Source


def figure(name):
    return Figure(Recipe(show=Show(variables=("x",))), name)


def row(document):
    return [each.name for each in document.figures]


def beside(document):
    return {document.figures[place].name for place in document.beside}


DEEDS = st.lists(
    st.tuples(st.sampled_from("avmtsbrn"), st.integers(0, 9), st.integers(0, 9)), max_size=30
)


@given(DEEDS)
@settings(deadline=None, max_examples=300)  # some faults take three deeds in a row
def test_names_stay_with_their_figures_and_the_one_in_sight_is_among_those_beside(deeds):
    document = Document((Source(),), (), (figure("0"),))
    names, shown, together, count = ["0"], "0", set(), 0
    for deed, first, second in deeds:
        at, to = first % len(names), second % len(names)
        if deed in "av":
            count += 1
            new = str(count)
            place = names.index(shown) + 1
            together = (together or {shown}) | {new} if deed == "v" else set()
            names.insert(place, new)
            shown = new
            document = document.with_figure(figure(new), beside=deed == "v")
        elif deed == "m":
            moved = names.pop(at)
            names.insert(to, moved)
            document = document.moved(at, to)
        elif deed in "tn" and len(names) > 1:
            at = names.index(shown) if deed == "n" else at  # of which nothing can be drawn
            gone = names.pop(at)
            together.discard(gone)
            if gone == shown:
                shown = names[min(at, len(names) - 1)]
            if len(together) < 2 or shown not in together:
                together = set()
            bare = deed == "n"
            document = document.with_recipe(None) if bare else document.without_figures((at,))
        elif deed == "s":
            shown = names[at]
            together = together if shown in together else set()
            document = document.showing(at)
        elif deed == "b":
            together = {names[at], names[to], shown}
            together = together if len(together) > 1 else set()
            document = document.standing_beside((at, to))
        elif deed == "r":
            names[at] = f"{names[at]}'"
            if at == document.shown:
                shown = names[at]
            together = {f"{n}'" if f"{n}'" == names[at] else n for n in together}
            document = document.named(at, names[at])
        assert row(document) == names
        assert document.figures[document.shown].name == shown
        assert beside(document) == together
        assert document.beside == tuple(sorted(set(document.beside)))


def test_another_first_source_leaves_those_of_other_figures():
    first, second, other = (Source(Path(f"{name}.csv")) for name in ("a", "b", "c"))
    document = Document((first, second), (), (figure("0"),))
    assert document.with_source(other).sources == (other, second)
