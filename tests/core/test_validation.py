"""An invalid book: every unknown name, every duplicate id, every circle, each with its path."""

from __future__ import annotations

import copy
from collections.abc import Callable
from typing import Any

import pytest

from cuejar.core.book import validation
from cuejar.core.book.files import book_from
from cuejar.core.book.validation import circle, longest
from cuejar.core.parts.base import BookError

Edit = Callable[[dict[str, Any]], Any]


def caption(name: str, **fields: Any) -> dict[str, Any]:
    return {"id": name, "kind": "caption", "text": "mind the gap", "length": {"s": 2}, **fields}


DICE = {
    "id": "dice", "kind": "chance", "dice": {"count": 2, "sides": 6},
    "outcomes": [{"id": "pair", "name": "A pair", "when": "pair"}, {"id": "none", "name": "None", "when": "any"}],
}  # fmt: skip
WHOLE: dict[str, Any] = {
    "lanes": [{"id": "yard", "name": "Yard"}, {"id": "stage", "name": "Stage"}],
    "rewards": [{"id": "tea", "title": "Tea", "cost": 100}],
    "overlays": [{"id": "stream", "name": "Stream"}],
    "cast": [{"id": "clerk", "name": "Clerk"}],
    "gear": [{"id": "log", "kind": "hook", "address": "http://127.0.0.1/log"}],
    "jars": [
        {"id": "lines", "kind": "text", "entries": [{"value": "mind the gap"}]},
        {"id": "next", "kind": "cue", "entries": [{"value": "bell"}]},
    ],
    "cues": [
        {
            "id": "whistle", "name": "Whistle", "lane": "yard", "calls": [{"kind": "reward", "reward": "tea"}],
            "beats": [caption("a"), caption("b", start={"after": "a"}, overlays=["stream"]), DICE],
        },
        {"id": "bell", "name": "Bell", "beats": [caption("a")]},
    ],
}  # fmt: skip


def wrong(edit: Edit) -> list[tuple[str, str]]:
    book = copy.deepcopy(WHOLE)
    edit(book)
    with pytest.raises(BookError) as caught:
        book_from(book)
    return [(problem.path, problem.what) for problem in caught.value.problems]


def add(where: str, value: dict[str, Any], cue: int = 0) -> Edit:
    return lambda book: book["cues"][cue][where].append(value)


def test_it_is_whole_to_begin_with() -> None:
    assert [cue.id for cue in book_from(copy.deepcopy(WHOLE)).cues] == ["whistle", "bell"]


@pytest.mark.parametrize(
    ("edit", "path", "what"),
    [
        (lambda b: b["cues"][0].update(lane="attic"), "cues[0].lane", "there is no lane “attic”"),
        (add("calls", {"kind": "reward", "reward": "cake"}), "cues[0].calls[1].reward", "there is no reward “cake”"),
        (add("beats", caption("c", start={"after": "z"})), "cues[0].beats[3].start.after", "there is no beat “z”"),
        (add("beats", caption("c", only_if=[{"drawn": "z", "value": "tea"}])), "cues[0].beats[3].only_if[0].drawn", "no beat “z”"),
        (add("beats", caption("c", only_if=[{"rolled": "six"}])), "cues[0].beats[3].only_if[0].rolled", "no outcome “six”"),
        (add("beats", caption("c", text={"jar": "gone"})), "cues[0].beats[3].text.jar", "there is no jar “gone”"),
        (add("beats", caption("c", text={"jar": "next"})), "cues[0].beats[3].text.jar", "the jar “next” holds cue, not text"),
        (add("beats", caption("c", overlays=["stream", "attic"])), "cues[0].beats[3].overlays[1]", "there is no overlay “attic”"),
        (add("beats", {"id": "c", "kind": "fire", "cue": "gone"}), "cues[0].beats[3].cue", "there is no cue “gone”"),
        (add("beats", {"id": "c", "kind": "hook", "hook": "tower"}), "cues[0].beats[3].hook", "there is no hook “tower”"),
        (add("beats", {"id": "c", "kind": "speech", "text": "tea", "part": "pip"}), "cues[0].beats[3].part", "no part “pip”"),
        (
            add("beats", {"id": "c", "kind": "reward", "rewards": ["tea", "cake"], "on": False, "length": {"s": 2}}),
            "cues[0].beats[3].rewards[1]", "there is no reward “cake”",
        ),
        (lambda b: b["jars"][1]["entries"].append({"value": "gone"}), "jars[1].entries[1].value", "there is no cue “gone”"),
        (lambda b: b["lanes"].append(b["lanes"][0]), "lanes[2].id", "“yard” is there twice"),
        (lambda b: b["cues"].append({"id": "bell", "name": "Again", "beats": []}), "cues[2].id", "“bell” is there twice"),
        (add("beats", caption("b")), "cues[0].beats[3].id", "“b” is there twice"),
        (
            lambda b: b["gear"].append({"id": "lamps", "kind": "lights", "fixtures": [{"id": "key", "name": "Key"}] * 2}),
            "gear[1].fixtures[1].id", "“key” is there twice",
        ),
    ],
)  # fmt: skip
def test_what_does_not_hang_together_is_named_by_its_path(edit: Edit, path: str, what: str) -> None:
    problems = wrong(edit)
    assert [where for where, _ in problems] == [path]
    assert what in problems[0][1]


def test_all_that_is_wrong_is_said_at_once() -> None:
    def both(book: dict[str, Any]) -> None:
        book["cues"][0]["lane"] = "attic"
        book["cues"][1]["beats"].append(caption("z", start={"after": "gone"}))

    assert [path for path, _ in wrong(both)] == ["cues[0].lane", "cues[1].beats[1].start.after"]


def test_lamps_are_named_once_there_are_any() -> None:
    light = {"id": "l", "kind": "light", "fixtures": ["porch"], "colour": "#6a5acd", "length": {"s": 2}}
    book = copy.deepcopy(WHOLE)
    add("beats", light)(book)
    assert book_from(book).cues[0].beats[3].id == "l", "nothing is known of lamps yet"
    lamps = {
        "id": "lamps", "kind": "lights", "fixtures": [{"id": "key", "name": "Key"}],
        "groups": [{"id": "all", "name": "All", "fixtures": ["key"]}],
    }  # fmt: skip
    book["gear"].append(lamps)
    with pytest.raises(BookError, match="there is no fixture “porch”"):
        book_from(book)
    for known in ("key", "all"):
        light["fixtures"] = [known]
        book_from(book)


@pytest.mark.parametrize(
    ("edit", "path", "what"),
    [
        (
            lambda b: b["cues"][0]["beats"][0].update(start={"after": "b"}),
            "cues[0].beats", "the beats wait for each other: ",
        ),
        (
            lambda b: b["cues"][0]["beats"].extend([caption("t", length="to_end"), caption("u", start={"after": "t"})]),
            "cues[0].beats[4].start.after", "“t” lasts to the end of the run; nothing can begin after it",
        ),
        (add("beats", {"id": "f", "kind": "fire", "cue": "bell"}, 1), "cues[1]", "fire each other without end: bell → bell"),
        (add("beats", {"id": "f", "kind": "fire", "cue": {"jar": "next"}}, 1), "cues[1]", "bell → bell"),
    ],
)  # fmt: skip
def test_circles_are_told_as_the_names_along_them(edit: Edit, path: str, what: str) -> None:
    ((where, said),) = wrong(edit)
    assert where == path and what in said


def test_what_begins_with_something_that_lasts_to_the_end_is_fine() -> None:
    book = copy.deepcopy(WHOLE)
    book["cues"][0]["beats"] += [caption("t", length="to_end"), caption("u", start={"after": "t", "edge": "start"})]
    assert len(book_from(book).cues[0].beats) == 5


def test_chains_have_an_end(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(validation, "MOST_CHAINED", 3)
    book = copy.deepcopy(WHOLE)
    book["cues"][1]["beats"] = [caption("a"), caption("b", start={"after": "a"}), caption("c", start={"after": "b"})]
    book_from(book)
    hangs = caption("d", start={"after": "c"})
    ((path, what),) = wrong(
        lambda b: b["cues"].__setitem__(1, {**book["cues"][1], "beats": [*book["cues"][1]["beats"], hangs]})
    )
    assert (path, what) == ("cues[1].beats[3].start.after", "4 beats hang on each other; there may be 3")

    def fire(book: dict[str, Any]) -> None:
        for n in range(4):
            beats = [{"id": "f", "kind": "fire", "cue": f"c{n + 1}"}] if n < 3 else []
            book["cues"].append({"id": f"c{n}", "name": "C", "beats": beats})

    ((path, what),) = wrong(fire)
    assert (path, what) == ("cues[2]", "4 cues fire each other in a row; there may be 3")


def test_graphs() -> None:
    assert circle({"a": ["b"], "b": ["c"], "c": []}) is None and circle({}) is None
    found = circle({"a": ["b"], "b": ["c"], "c": ["a"], "d": []})
    assert found is not None and set(found) == {"a", "b", "c"} and found[0] == found[-1]
    assert longest({"a": ["b"], "b": ["c"], "d": []}) == (3, "a")
    assert longest({}) == (0, "")


def test_fades_that_did_nothing_are_left_out_of_older_books() -> None:
    fades = {"fade_in_s": 2, "fade_out_s": 1}
    beats: list[dict[str, Any]] = [
        {"id": "s", "kind": "scene", "scene": "Yard cam", **fades},
        {"id": "o", "kind": "source", "scene": "Yard cam", "source": "Snow", **fades},
        {"id": "a", "kind": "avatar", "expression": "Cheer", **fades},
        {"id": "w", "kind": "avatar", "expression": None, "expressions": ["Sleepy"], "pose": "Waving"},
        {"id": "l", "kind": "light", "level": 0.5, **fades},
    ]
    book: dict[str, Any] = {"cues": [{"id": "c", "name": "C", "beats": beats}]}
    told = [beat.model_dump(exclude_defaults=True) for beat in book_from(book).cues[0].beats]
    assert [beat.keys() & fades.keys() for beat in told] == [set(), set(), set(), set(), set(fades)]
    assert [told[n]["expressions"] for n in (2, 3)] == [["Cheer"], ["Sleepy"]]
    assert book["cues"][0]["beats"][0]["fade_in_s"] == 2, "what was given stays as it was"
