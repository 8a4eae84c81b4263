"""An import does nothing that nobody allowed: every field is declared, asked ones stay off, never ones stay."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, get_args

import pytest
from pydantic import BaseModel

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.declared import ASKED, HARMLESS, NEVER, undeclared
from cuejar.core.carry.review import Choices, Review, reviewed
from cuejar.core.kinds.table import KINDS

CAPTION = {"id": "c", "kind": "caption", "text": "Tea!", "length": {"s": 3}}
HOOK = {"id": "log", "kind": "hook", "name": "Log", "address": "https://log.example/in"}


def _models(model: Any) -> Iterator[type[BaseModel]]:
    if isinstance(model, type) and issubclass(model, BaseModel):
        yield model
    for part in get_args(model):
        yield from _models(part)


def _every(model: type[BaseModel], seen: set[type[BaseModel]]) -> set[type[BaseModel]]:
    if model not in seen:
        seen.add(model)
        for field in model.model_fields.values():
            for part in _models(field.annotation):
                _every(part, seen)
    return seen


def test_every_field_of_the_book_is_declared_once_and_nothing_else_is() -> None:
    models = _every(Book, set())
    assert {model.__name__: undeclared(model) for model in models if undeclared(model) != (set(), set())} == {}
    beats = {kind.model for kind in KINDS.values()}
    assert set(NEVER) | set(ASKED) | set(HARMLESS) == models - beats
    for model in models - beats:
        told = {name for table in (NEVER, ASKED, HARMLESS) for name in table.get(model, "").split()}
        assert told <= set(model.model_fields), model


def cue(*beats: dict[str, Any], **more: Any) -> dict[str, Any]:
    rows = [{"id": f"b{number}", **beat} for number, beat in enumerate(beats)]
    return {"id": "gift", "name": "Gift", "beats": rows, **more}


def book(**lists: Any) -> Book:
    return book_from({"cues": [cue(CAPTION)], **lists})


def allowed(review: Review) -> frozenset[str]:
    return frozenset(one.key for one in review.asked)


def taken(ours: Book, theirs: Book, scope: Any = "book", choices: Choices = Choices()) -> tuple[Book, Review]:
    review = reviewed(ours, theirs, scope, choices)
    assert review.book is not None, review.problems
    return review.book, review


THINGS = {"id": "yard", "kind": "things", "name": "Yard"}
JAR = {"id": "lines", "kind": "text", "entries": [{"value": "all aboard"}]}
REACH: dict[str, tuple[dict[str, Any], dict[str, Any]]] = {
    "a hook's payload": (cue({"kind": "hook", "hook": "log", "payload": "{}"}), {"gear": [HOOK]}),
    "a hook's second payload": (
        cue({"kind": "hook", "hook": "log", "then_s": 1, "then_payload": "off"}),
        {"gear": [HOOK]},
    ),
    "a hook's body": (cue({"kind": "hook", "hook": "log"}), {"gear": [{**HOOK, "hook": {"body": "{{viewer}}"}}]}),
    "a hook's headers": (
        cue({"kind": "hook", "hook": "log"}),
        {"gear": [{**HOOK, "hook": {"headers": {"X-Door": "open"}}}]},
    ),
    "a deed's values": (
        cue({"kind": "do", "gear": "yard", "thing": "smoke", "deed": "puff", "values": {"s": 60}}),
        {"gear": [THINGS]},
    ),
    "a thing's setting": (
        cue({"kind": "set", "gear": "yard", "thing": "valve", "setting": "open", "value": True, "length": {"s": 9}}),
        {"gear": [THINGS]},
    ),
    "a reply": (cue({"kind": "reply", "text": "come to me"}), {}),
    "a reply out of a jar": (cue({"kind": "reply", "text": {"jar": "lines"}}), {"jars": [JAR]}),
    "keys": (cue({"kind": "keys", "combo": "F8", "length": {"s": 1}}), {}),
    "an inlet in another case": (
        cue(CAPTION, calls=[{"kind": "hook", "name": "Door BELL"}]),
        {"inlets": [{"id": "door-bell", "name": "Door bell"}]},
    ),
}


@pytest.mark.parametrize("what", REACH)
def test_what_reaches_beyond_is_asked_and_off_and_asked_again(what: str) -> None:
    """Even if the same file comes twice, replacing one's own: what is off was allowed nothing."""
    theirs_cue, lists = REACH[what]
    # Everything but the cue is here already, and works.
    ours, theirs = book_from({**lists}), book_from({**lists, "cues": [theirs_cue]})
    for scope in ("cues", "book"):
        there, review = taken(ours, theirs, scope)
        assert review.asked and [one.on for one in there.cues] == [False], scope
        again, _ = taken(there, theirs, "book")
        assert not again.cues[0].on
        yes, _ = taken(ours, theirs, scope, Choices(allowed=allowed(review)))
        assert yes.cues[0].on
    # Once allowed, the same import asks nothing more.
    quiet, third = taken(yes, theirs, "book")
    assert quiet.cues[0].on and not third.asked


def test_other_words_are_asked_anew() -> None:
    jar = {"id": "lines", "kind": "text", "entries": [{"value": "all aboard"}]}
    mine = book_from({"jars": [jar], "cues": [cue({"kind": "reply", "text": {"jar": "lines"}})]})
    changed = book_from({**book_json(mine), "jars": [{**jar, "entries": [{"value": "buy my whistles"}]}]})
    there, review = taken(mine, changed)
    assert not there.cues[0].on and "buy my whistles" in review.asked[0].what


def test_what_is_never_taken_stays_as_it_is_here() -> None:
    mine = book(
        house={"nights_kept": 30, "switches": {"sound": False}, "osc_port": 9000, "open": False},
        jars=[{"id": "faces", "folder": "faces"}],
        gear=[{"id": "camera", "kind": "broadcaster", "address": "ws://127.0.0.1:8710/broadcaster"}],
    )
    hostile = book(
        house={"nights_kept": 1, "nights_days": 1, "switches": {"keys": True}, "osc_port": 53_000, "volume": 30},
        jars=[{"id": "faces", "folder": "~/Pictures"}, {"id": "more", "folder": "/home"}],
        gear=[{"id": "camera", "kind": "broadcaster", "address": "ws://far.example/broadcaster"}],
    )
    there, review = taken(mine, hostile)
    assert len(review.stays) == 7 and any("~/Pictures" in one for one in review.stays)
    told = " ".join(str(field) for row in review.rows for field in row.fields)
    assert "nights kept" not in told and "53" not in told and "far.example" not in told, (
        "what will not come is not offered"
    )
    there, review = taken(mine, hostile, "book", Choices(allowed=allowed(review)))
    house = there.house
    assert (house.nights_kept, house.nights_days, house.osc_port, house.open) == (30, None, 9000, False)
    assert house.switches == {"sound": False} and house.volume == 30
    assert [jar.folder for jar in there.jars] == ["faces", None]
    assert there.gear[0].address == "ws://127.0.0.1:8710/broadcaster"
    shared, _ = taken(book(), hostile, "cues", Choices(take=frozenset({"jars/more"})))
    assert [jar.folder for jar in shared.jars] == [None]


def test_what_guards_the_show_is_loosened_only_where_it_is_allowed() -> None:
    mine = book(
        words=[{"id": "rude", "name": "Rude", "entries": [{"text": "clinker"}]}],
        overlays=[{"id": "desk", "name": "Desk", "private": True}],
        reading={"review": "all"},
        house={"spared": ["ada_engine"]},
        rewards=[{"id": "tea", "title": "Tea", "cost": 10, "review": True}],
    )
    theirs = book(
        words=[{"id": "rude", "name": "Rude", "on": False}],
        overlays=[{"id": "desk", "name": "Desk"}],
        house={"spared": ["nine_gauge"]},
        rewards=[{"id": "tea", "title": "Tea", "cost": 10, "prompt": "How strong?"}],
    )
    there, review = taken(mine, theirs)
    assert there.words == mine.words and there.overlays == mine.overlays and there.reading == mine.reading
    assert there.house.spared == ["ada_engine"]
    assert there.rewards[0].review and there.rewards[0].prompt == "How strong?" and there.rewards[0].on
    assert {one.what.split(":")[0] for one in review.asked} == {
        "changes Rude", "changes Desk", "changes the house settings", "changes the reading settings", "offers Tea (10) at your channel"
    }  # fmt: skip
    there, _ = taken(mine, theirs, "book", Choices(allowed=allowed(review)))
    assert not there.words[0].on and there.house.spared == ["nine_gauge"] and not there.rewards[0].review
