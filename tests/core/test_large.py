"""Other people's files take time in proportion to their size: counted in calls, not in seconds."""

from __future__ import annotations

import gc
import random
import sys
from collections.abc import Callable
from typing import Any

import pytest

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json, rebuilt
from cuejar.core.carry.review import Scope, reviewed
from cuejar.core.nights.madeup import MadeUp, _bare
from cuejar.core.parts.base import BookError

FEW, TIMES = 150, 4


def calls_of(work: Callable[[], object]) -> int:
    """Returns how many function calls, ours and built-in ones, a piece of work takes."""
    count = 0

    def seen(_: Any, event: str, __: Any) -> None:
        nonlocal count
        count += event in ("call", "c_call")

    gc.disable()  # Whoever is told of a collection would be counted, too.
    sys.setprofile(seen)
    try:
        work()
    finally:
        sys.setprofile(None)
        gc.enable()
    return count


def _book(count: int, text: str = "hi", **more: Any) -> dict[str, Any]:
    beat = {"id": "c", "kind": "caption", "text": text, "length": {"s": 2}}
    names = {key: value for key, value in more.items() if callable(value)}
    cues = [
        {
            "id": f"a{i}",
            "name": f"Whistle {i}",
            "lane": f"l{i % 9}",
            "beats": [beat],
            **{k: v(i) for k, v in names.items()},
        }
        for i in range(count)
    ]
    lanes = [{"id": f"l{i}", "name": f"Lane {i}"} for i in range(9)]
    return {"cues": cues, "lanes": lanes, **{key: value for key, value in more.items() if key not in names}}


def _new(count: int) -> tuple[dict[str, Any], dict[str, Any]]:
    return {}, _book(count)


def _clashing(count: int) -> tuple[dict[str, Any], dict[str, Any]]:
    return _book(count, "ho"), _book(count)


def _known(count: int) -> tuple[dict[str, Any], dict[str, Any]]:
    own = _book(count, "ho", origin=lambda i: f"far/{i}")
    return {**own, "cues": [{**cue, "id": f"b{i}"} for i, cue in enumerate(own["cues"])]}, _book(
        count, origin=lambda i: f"far/{i}"
    )


def _hooks(count: int) -> tuple[dict[str, Any], dict[str, Any]]:
    gear = [
        {"id": f"h{i}", "kind": "hook", "name": f"H {i}", "address": f"https://h{i}.example/"} for i in range(count)
    ]
    beats = lambda i: [{"id": "h", "kind": "hook", "hook": f"h{i}", "payload": "x"}]  # noqa: E731
    return {}, _book(count, beats=beats, gear=gear)


def _jars(count: int) -> tuple[dict[str, Any], dict[str, Any]]:
    def jars(what: str) -> dict[str, Any]:
        return {
            "jars": [
                {"id": f"j{i}", "name": f"{what} {i}", "kind": "text", "entries": [{"value": "x"}]}
                for i in range(count)
            ]
        }

    return jars("Mine"), jars("Theirs")


def _fan(count: int) -> tuple[dict[str, Any], dict[str, Any]]:
    """Returns a book in which half of the cues draw one of the other half, from one jar."""
    half = count // 2
    fire = {"id": "f", "kind": "fire", "cue": {"jar": "all"}}
    reply = {"id": "r", "kind": "reply", "text": "heard"}
    jar = {"id": "all", "name": "All", "kind": "cue", "entries": [{"value": f"a{i}"} for i in range(half)]}
    return {}, _book(count, beats=lambda i: [reply] if i < half else [fire], jars=[jar])


@pytest.mark.parametrize("scope", ["cues", "book"])
@pytest.mark.parametrize("shape", [_new, _clashing, _known, _hooks, _jars])
def test_a_review_takes_a_step_for_each_entry(shape: Callable[[int], Any], scope: Scope) -> None:
    def calls(count: int) -> int:
        ours, theirs = (book_from(told) for told in shape(count))
        return calls_of(lambda: reviewed(ours, theirs, scope))

    calls(10)
    few = calls(FEW)
    assert calls(FEW * TIMES) <= few * TIMES * 1.15


@pytest.mark.parametrize("shape", [_new, _hooks, _fan])
def test_a_book_is_read_in_a_step_for_each_entry(shape: Callable[[int], Any]) -> None:
    few, many = (calls_of(lambda n=n: book_from(shape(n)[1])) for n in (FEW, FEW * TIMES))  # type: ignore[misc]
    assert many <= few * TIMES * 1.15


def test_cues_that_fire_each_other_in_too_many_ways_are_refused() -> None:
    review = reviewed(Book(), book_from(_fan(3_000)[1]), "cues")
    assert review.book is None and "too many ways" in review.problems[0].what
    assert reviewed(Book(), book_from(_fan(300)[1]), "cues").book is not None


def test_lists_end_somewhere() -> None:
    with pytest.raises(BookError, match="jars: holds more than 20,000 entries"):
        book_from({"jars": [{"id": f"j{i}", "name": "J", "kind": "text"} for i in range(20_001)]})


def test_what_is_known_is_not_read_again() -> None:
    ours = book_from(_book(20))
    told = book_json(ours)
    changed = {**told, "cues": [*told["cues"][:-1], {**told["cues"][-1], "on": False}]}
    new = rebuilt(changed, (ours, told))
    assert new == book_from(changed)
    assert all(one is other for one, other in zip(new.cues[:-1], ours.cues[:-1], strict=True))
    with pytest.raises(BookError, match=r"cues\[19\]\.on: must be true or false"):
        rebuilt({**told, "cues": [*told["cues"][:-1], {**told["cues"][-1], "on": "maybe"}]}, (ours, told))


def test_made_up_names_are_found_in_a_step_for_each_letter() -> None:
    rng = random.Random(28)
    everybody = [(f"v{i}", f"{rng.choice(['owls', 'nine', 'teas', 'bell'])}_{i:04}x") for i in range(FEW * TIMES)]

    def calls(count: int) -> int:
        texts = [f"{everybody[i][1]} rings for {everybody[count - 1 - i][1]} at platform {i:04}" for i in range(count)]

        def work() -> None:
            names = MadeUp(everybody[:count])
            assert not any(one[1] in names.text(text) for text, one in zip(texts, everybody, strict=False))

        _bare.cache_clear()
        return calls_of(work)

    calls(FEW)  # The letters are known from now on.
    few = calls(FEW)
    assert calls(FEW * TIMES) <= few * TIMES * 1.15
