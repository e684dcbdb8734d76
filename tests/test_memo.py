"""Kept answers: once for each key by value, and gone with their owner."""

import gc
import weakref

from msgspec import Struct

from rhabdos.memo import last_answers, memoised


class Owner(Struct, frozen=True, eq=False, dict=True, weakref=True):
    """Something that answers can be kept with."""

    number: int


def counted():
    asked = []

    @memoised
    def sums(owner: Owner, *more: int, by: int = 1) -> list[int]:
        asked.append((owner.number, more, by))
        return [owner.number + sum(more) * by]

    @last_answers(lambda _owner, wish: wish["of"])
    def last(owner: Owner, wish: dict) -> list[int]:
        asked.append((owner.number, wish["of"]))
        return [owner.number]

    return asked, sums, last


def test_an_answer_is_worked_out_once_for_each_key():
    asked, sums, _ = counted()
    owner = Owner(1)
    assert sums(owner, 2, 3) is sums(owner, 2, 3)
    assert sums(owner, 2, 3, by=2) == [11]
    assert sums(Owner(1), 2, 3) is not sums(owner, 2, 3)
    assert asked == [(1, (2, 3), 1), (1, (2, 3), 2), (1, (2, 3), 1)]


def test_functions_with_one_key_do_not_answer_for_one_another():
    owner = Owner(5)

    @memoised
    def first(owner: Owner) -> str:
        return "first"

    @memoised
    def second(owner: Owner) -> str:
        return "second"

    assert (first(owner), second(owner), first(owner)) == ("first", "second", "first")


def test_keys_are_compared_by_value_even_without_a_hash():
    asked, _, last = counted()
    owner = Owner(1)
    made = last(owner, {"of": [1, 2], "dress": "red"})
    assert last(owner, {"of": [1, 2], "dress": "blue"}) is made
    assert asked == [(1, [1, 2])]


def test_small_pictures_beside_a_figure_do_not_take_its_answer_away():
    _, _, last = counted()
    owner = Owner(1)
    figure = last(owner, {"of": "figure"})
    for form in range(7):
        last(owner, {"of": form})
    assert last(owner, {"of": "figure"}) is figure
    for form in range(20):
        last(owner, {"of": form})
    assert last(owner, {"of": "figure"}) is not figure, "the last few only are kept"


def test_answers_go_with_their_owner():
    _, sums, _ = counted()
    owner = Owner(3)
    sums(owner, 1)
    watched = weakref.ref(owner)
    del owner
    gc.collect()
    assert watched() is None
