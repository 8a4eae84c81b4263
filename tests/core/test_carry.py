"""Export and import: needed entries come along, clashes are kept apart, harmful ones are off, keys stay."""

from __future__ import annotations

import json
from collections.abc import Iterator
from functools import reduce
from operator import getitem
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import LISTS, Book
from cuejar.core.book.files import book_from, book_json
from cuejar.core.carry.differences import PARTS, differences, entry_fields, in_words
from cuejar.core.carry.handon import handed_on
from cuejar.core.carry.references import references
from cuejar.core.carry.review import Choices, Review, reviewed
from cuejar.core.carry.secrets import plain_address, with_ours, without_secrets
from cuejar.core.facts.happenings import Catalogue
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import BookError
from cuejar.core.words.names import Names, Noticed
from cuejar.demo.load import demo_book
from tests.core.books import books

HALT = book_from(demo_book())
EMPTY = book_from({"lanes": [{"id": "main", "name": "Main"}], "overlays": [{"id": "stream", "name": "Stream"}]})
CAPTION = {"id": "c", "kind": "caption", "text": "mind the gap", "length": {"s": 2}}


def everything(review: Review, allow: bool = True) -> Choices:
    keys = frozenset(str(row.key) for row in review.rows)
    return Choices(keys, None, frozenset(one.key for one in review.asked) if allow else frozenset())


def whole(review: Review) -> Book:
    assert review.book is not None, review.problems
    return review.book


@pytest.mark.parametrize("cue", [cue.id for cue in HALT.cues])
def test_a_cue_comes_with_all_that_it_needs_and_comes_home_as_nothing(cue: str) -> None:
    bundle = handed_on(HALT, [cue])
    review = reviewed(EMPTY, bundle, "cues")
    there = whole(reviewed(EMPTY, bundle, "cues", everything(review)))
    assert next(one for one in there.cues if one.id == cue).beats == next(c for c in HALT.cues if c.id == cue).beats
    assert not [d for d in differences(EMPTY, there) if d.state != "new"], "one's own is as it was"
    home = reviewed(HALT, bundle, "cues")
    assert home.rows == [] and differences(HALT, whole(home)) == []


def test_a_shared_cue_that_comes_again_is_known_and_offered_as_an_update() -> None:
    """Recognised by its origin, whatever its id: no fourth copy of it."""
    bundle = handed_on(HALT, ["waiting-room-poster"], "halt")
    mine = {"id": "waiting-room-poster", "name": "My poster", "beats": [CAPTION], "calls": []}
    ours = book_from(
        {
            **book_json(EMPTY),
            "cues": [mine],
            "jars": [{"id": "posters", "name": "Mine", "kind": "text", "entries": [{"value": "x"}]}],
        }
    )
    first = reviewed(ours, bundle, "cues")
    there = whole(reviewed(ours, bundle, "cues", everything(first)))
    (copy,) = [cue for cue in there.cues if cue.id != "waiting-room-poster"]
    assert not copy.on and copy.origin == "halt/waiting-room-poster" and copy.name in first.off, (
        "a copy beside one's own begins switched off"
    )
    assert next(cue for cue in there.cues if cue.id == "waiting-room-poster") == ours.cues[0]
    # The same again: nothing to import.
    again = reviewed(there, bundle, "cues")
    assert again.rows == [] and whole(again) == there
    # Its author changed it; here it was switched on and renamed.
    data = book_json(HALT)
    data["cues"] = [
        {**cue, "door": {"cooldown_s": 77}} if cue["id"] == "waiting-room-poster" else cue for cue in data["cues"]
    ]
    newer = handed_on(book_from(data), ["waiting-room-poster"], "halt")
    here = book_json(there)
    here["cues"] = [{**cue, "on": True, "name": "Bills"} if cue["id"] == copy.id else cue for cue in here["cues"]]
    update = reviewed(book_from(here), newer, "cues")
    assert [(row.key.id, row.state, row.as_id, row.beside) for row in update.rows if row.key.kind == "cues"] == [
        ("waiting-room-poster", "changed", copy.id, False)
    ]
    after = whole(reviewed(book_from(here), newer, "cues", everything(update)))
    bills = next(cue for cue in after.cues if cue.id == copy.id)
    assert (bills.door.cooldown_s, bills.name, bills.on, len(after.cues)) == (77, "Bills", True, 2)


@given(st.data())
def test_taking_everything_makes_the_other_book(data: st.DataObject) -> None:
    ours, theirs = data.draw(books()), data.draw(books())
    review = reviewed(ours, theirs, "book")
    there = whole(reviewed(ours, theirs, "book", everything(review)))
    assert book_json(there) == book_json(theirs), "also in its order"
    assert not reviewed(theirs, there, "book").rows
    nothing = reviewed(ours, theirs, "book", Choices(frozenset()))
    assert differences(ours, whole(nothing)) == []


def leaves(value: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Yields every place in a book; including lists and objects, as they may be emptied."""
    yield path
    for key, one in value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ():
        yield from leaves(one, (*path, key))


def others(value: Any) -> list[Any]:
    """Yields other possible values for a place."""
    if isinstance(value, bool):
        return [not value]
    if isinstance(value, (int, float)):
        return [value + 1, value / 2, 1, 0, None]
    if isinstance(value, str):
        return [f"{value} 2", "", "#123456", "everyone", "queue", "is", None]
    if isinstance(value, list):
        return [value[1:], value[:-1], []]
    return [1, 0.5, "x", True, ["everyone"], {"count": 1, "per_s": 2}, {"x": 0.1}] if value is None else [{}, None]


def changed_at(entry: Any, data: Any, path: tuple[Any, ...]) -> Any:
    """Returns an entry of the book with another value at a place; None if there is no other."""
    *way, last = path
    for other in others(reduce(getitem, path, data)):
        copy = json.loads(json.dumps(data))
        reduce(getitem, way, copy)[last] = other
        try:
            changed = type(entry).model_validate(copy)
        except ValueError:
            continue
        if changed != entry:
            return changed
    return None


FULL = book_from({**book_json(HALT), "audiences": [{"id": "friday", "name": "Friday", "curve": [{"at_min": 0, "level": 5}],
    "raids": [{"at_min": 3, "viewers": 9}], "outages": [{"at_min": 3, "gear": "lamps", "for_min": 2}], "shares": {"whistle": 2},
    "hands": [{"at_min": 1, "path": "broadcast/scene", "value": "Yard cam"}], "likes": "shares"}]})  # fmt: skip


def test_whatever_field_differs_it_is_said_and_comes_in() -> None:
    """Each field of the book once, if it can differ: the difference has words, and importing it gives the other book."""
    said, whole_too = set[str](), 0
    names, noticed, whole_data = Names(FULL), Noticed(FULL), book_json(FULL)
    entries = [(part, getattr(FULL, part)) for part in PARTS]
    entries += [(kind, entry) for kind in LISTS for entry in getattr(FULL, kind)]
    for kind, entry in entries:
        data = entry.model_dump(mode="json", by_alias=True)
        for path in leaves(data):
            sort = next((one["kind"] for one in _dicts(data, path) if "kind" in one), "")
            name = f"{sort}:{kind}.{'.'.join('*' if isinstance(step, int) else step for step in path)}"
            if not path or path[-1] in ("id", "kind", "origin") or name in said:
                continue
            if (other := changed_at(entry, data, path)) is None:
                continue
            fields = entry_fields(entry, other, names, noticed)
            assert fields and all(str(one) for one in fields), name
            said.add(name)
            if len(said) % 20 or kind in PARTS or name.endswith(":gear.address"):
                continue  # An address stays as it is here: a key would go to the new one.
            rows = [
                other.model_dump(mode="json", by_alias=True) if one["id"] == other.id else one
                for one in whole_data[kind]
            ]
            try:
                there = book_from({**whole_data, kind: rows})
            except BookError:
                continue  # Another entry names something that no longer exists.
            whole_too += 1
            assert in_words(differences(FULL, there)) != "nothing"
            choices = everything(reviewed(FULL, there, "book"))
            assert book_json(whole(reviewed(FULL, there, "book", choices, None, True))) == book_json(there), name
    assert len(said) > 600 and whole_too > 15, (len(said), whole_too)
    assert {":audiences.calls", ":lanes.width", "tip:cues.calls.*.from"} <= said


def _dicts(data: Any, path: tuple[Any, ...]) -> Iterator[dict[str, Any]]:
    for step in path:
        if isinstance(data, dict):
            yield data
        data = data[step]


@given(st.data())
def test_whatever_is_ticked_hangs_together(data: st.DataObject) -> None:
    ours, theirs = data.draw(books()), data.draw(books())
    rows = reviewed(ours, theirs, "cues").rows
    some = frozenset(data.draw(st.sets(st.sampled_from([str(row.key) for row in rows])))) if rows else frozenset()
    beside = frozenset(str(row.key) for row in rows if row.clashes and data.draw(st.booleans()))
    review = reviewed(ours, theirs, "cues", Choices(some, beside))
    assert review.problems == []
    there = whole(review)
    kept = {f"{kind}/{entry.id}" for kind in LISTS for entry in getattr(ours, kind)}
    assert kept <= {f"{kind}/{entry.id}" for kind in LISTS for entry in getattr(there, kind)}, (
        "nothing of one's own goes"
    )
    assert book_from(book_json(there)) == there


def test_an_id_that_means_something_else_gets_another_with_all_that_names_it() -> None:
    ours = book_from(
        {
            "jars": [{"id": "posters", "name": "My posters", "kind": "text", "entries": [{"value": "tea"}]}],
            "cues": [{"id": "poster", "name": "Poster", "beats": [CAPTION]}],
        }
    )
    beat = {"id": "t", "kind": "caption", "text": {"jar": "posters"}}
    theirs = book_from(
        {
            "jars": [{"id": "posters", "name": "Posters", "kind": "text", "entries": [{"value": "owl"}]}],
            "cues": [
                {"id": "poster", "name": "Poster", "beats": [beat]},
                {"id": "all", "name": "All", "beats": [{"id": "f", "kind": "fire", "cue": "poster"}]},
            ],
        }
    )
    there = whole(reviewed(ours, theirs, "cues"))
    assert [(cue.id, cue.name) for cue in there.cues] == [
        ("poster", "Poster"),
        ("poster-2", "Poster (2)"),
        ("all", "All"),
    ]
    data = {cue["id"]: cue for cue in book_json(there)["cues"]}
    assert data["poster-2"]["beats"][0]["text"] == {"jar": "posters-2"} and data["all"]["beats"][0]["cue"] == "poster-2"
    assert data["poster"]["beats"] == book_json(ours)["cues"][0]["beats"]
    replaced = reviewed(ours, theirs, "cues", Choices(None, frozenset()))
    assert [cue.id for cue in whole(replaced).cues] == ["poster", "all"]
    told = next(row for row in replaced.rows if str(row.key) == "cues/poster")
    assert any(field.what.startswith("new beat “t”") for field in told.fields)


def hostile(**cue: Any) -> Book:
    beats = [
        {"id": "h", "kind": "hook", "hook": "log"},
        {"id": "k", "kind": "tap", "combo": "ControlLeft+KeyQ"},
        {"id": "r", "kind": "reply", "text": "come to me"},
        {"id": "w", "kind": "reward", "rewards": ["tea"], "cost": 1, "length": {"s": 5}},
    ]
    return book_from(
        {
            "gear": [{"id": "log", "kind": "hook", "name": "Log", "address": "https://far.example/take"}],
            "rewards": [{"id": "tea", "title": "Tea", "cost": 10}],
            "cues": [
                {"id": "gift", "name": "Gift", "calls": [{"kind": "reward", "reward": "tea"}], "beats": beats, **cue}
            ],
        }
    )


def test_what_could_do_harm_is_said_and_off_until_it_is_allowed() -> None:
    review = reviewed(EMPTY, hostile(), "cues")
    asked = {one.what for one in review.asked}
    assert asked == {
        "sends a request to far.example",
        "presses Control+Q on this computer",
        "writes in chat: come to me",
        "sets the price to 1 of Tea",
        "speaks to https://far.example/take as Log",
        "offers Tea (10) at your channel",
    }
    there = whole(review)
    assert not there.cues[0].on and not there.gear[0].on and not there.rewards[0].on
    assert there.house.hook_places == [] and set(review.off) == {"Gift", "Log", "Tea"}
    some = Choices(allowed=frozenset(one.key for one in review.asked if "presses" not in one.what))
    there = whole(reviewed(EMPTY, hostile(), "cues", some))
    assert (
        not there.cues[0].on
        and there.gear[0].on
        and [place.host for place in there.house.hook_places] == ["far.example"]
    )
    there = whole(reviewed(EMPTY, hostile(), "cues", everything(review)))
    assert there.cues[0].on and there.rewards[0].on


def test_harm_does_not_come_in_by_a_side_door() -> None:
    """Existing cues that draw from a jar, or fire another cue, mustn't be able to do more than before either."""
    fire = {"id": "f", "kind": "fire", "cue": {"jar": "deeds"}}
    quiet = {"id": "quiet", "name": "Quiet", "beats": [CAPTION]}
    ours = book_from(
        {
            "jars": [{"id": "deeds", "kind": "cue", "entries": [{"value": "quiet"}]}],
            "cues": [quiet, {"id": "mine", "name": "Mine", "beats": [fire]}],
        }
    )
    data = book_json(hostile())
    data["cues"] = [quiet, {"id": "mine", "name": "Mine", "beats": [fire]}, *data["cues"]]
    data["jars"] = [{"id": "deeds", "kind": "cue", "entries": [{"value": "gift"}]}]
    review = reviewed(ours, book_from(data), "book")
    off = {cue.id for cue in whole(review).cues if not cue.on}
    assert off == {"mine", "gift"} and "Mine" in next(one for one in review.asked if "presses" in one.what).by
    house = book_from({"house": {"hook_places": [{"host": "far.example"}], "osc_port": 9000, "volume": 30}})
    there = whole(reviewed(EMPTY, house, "book"))
    assert there.house.hook_places == [] and there.house.osc_port is None and there.house.volume == 30


def test_names_of_the_others_gear_are_brought_to_ones_own() -> None:
    known = Catalogues()
    known.take(
        Catalogue(
            "broadcaster",
            scenes={"Yard camera": ("Yard lens",), "Workbench": ("Bench lens",)},
            filters={"Bench lens": {"Fog": {}}},
        )
    )
    known.take(Catalogue("avatar", names={"outfit": ("Top hat", "Overalls")}))
    theirs = book_from(
        {
            "cues": [
                {
                    "id": "a",
                    "name": "A",
                    "beats": [
                        {"id": "s", "kind": "scene", "scene": "Yard cam"},
                        {"id": "f", "kind": "filter", "sources": ["Bench lense"], "filter": "Foggy"},
                        {"id": "o", "kind": "avatar", "outfit": "Wig"},
                        {"id": "l", "kind": "light", "fixtures": ["lantern"], "level": 1},
                    ],
                }
            ],
        }
    )
    ours = book_from(
        {"gear": [{"id": "lamps", "kind": "lights", "fixtures": [{"id": "door-lantern", "name": "Door lantern"}]}]}
    )
    review = reviewed(ours, theirs, "cues", Choices(names={"avatar/outfit/Wig": "Overalls"}), known)
    to = {lost.name: lost.to for lost in review.names}
    assert to == {
        "Yard cam": "Yard camera",
        "Bench lense": "Bench lens",
        "Foggy": "Fog",
        "Wig": "Overalls",
        "lantern": "door-lantern",
    }
    beats = whole(review).cues[0].beats
    assert [getattr(beats[0], "scene", ""), getattr(beats[1], "filter", ""), getattr(beats[2], "outfit", "")] == [
        "Yard camera", "Fog", "Overalls"
    ]  # fmt: skip
    assert getattr(beats[3], "fixtures", []) == ["door-lantern"]
    left = reviewed(ours, theirs, "cues", Choices(names={lost.key: "" for lost in review.names}), known)
    assert getattr(whole(left).cues[0].beats[0], "scene", "") == "Yard cam"


def test_the_order_of_a_list_is_a_difference_of_its_own() -> None:
    def lanes(*ids: str) -> Book:
        return book_from({"lanes": [{"id": one, "name": one} for one in ids]})

    ours, theirs = lanes("yard", "mine", "stage", "main"), lanes("main", "yard", "new", "stage")
    review = reviewed(ours, theirs, "book", Choices(frozenset({"lanes"})))
    assert [(str(row.key), row.name) for row in review.rows] == [
        ("lanes/new", "new"), ("lanes/mine", "mine"), ("lanes", "the order of the lanes")
    ]  # fmt: skip
    assert [lane.id for lane in whole(review).lanes] == ["main", "yard", "mine", "stage"]
    assert in_words(differences(ours, whole(review))) == "changed the order of the lanes"


def test_a_whole_book_takes_the_place_of_an_untouched_one_and_what_comes_back_stands_where_it_stood() -> None:
    review = reviewed(EMPTY, HALT, "book", fresh=True)
    allowed = Choices(None, None, frozenset(one.key for one in review.asked))
    assert book_json(whole(reviewed(EMPTY, HALT, "book", allowed, fresh=True))) == book_json(HALT)
    assert book_json(whole(reviewed(EMPTY, HALT, "book", allowed)))["lanes"] != book_json(HALT)["lanes"]
    # Two cues were deleted; an earlier version restores them between their former neighbours.
    without = book_from(
        {**book_json(HALT), "cues": [cue for n, cue in enumerate(book_json(HALT)["cues"]) if n not in (0, 3)]}
    )
    again = whole(reviewed(without, HALT, "book", trusted=True))
    assert [cue.id for cue in again.cues] == [cue.id for cue in HALT.cues]


def test_what_stays_in_use_is_not_removed() -> None:
    ours = book_from(
        {
            "jars": [{"id": "tea", "kind": "text", "entries": [{"value": "hot"}]}, {"id": "old", "kind": "text"}],
            "cues": [{"id": "a", "name": "A", "beats": [{**CAPTION, "text": {"jar": "tea"}}]}],
            "house": {"pads": ["a"]},
        }
    )
    gone = frozenset({"jars/tea", "jars/old"})
    review = reviewed(ours, book_from({}), "book", Choices(gone))
    assert review.kept == ["tea"] and [jar.id for jar in whole(review).jars] == ["tea"]
    assert whole(reviewed(ours, book_from({}), "book", Choices(gone | {"cues/a"}))).cues == []


def test_keys_stay_at_home_and_are_there_again_on_the_way_back() -> None:
    headers = {"Authorization": "Bearer abc123", "X-Api-Key": "k", "X-Halt": "tinwhistle"}
    gear = {
        "id": "log",
        "kind": "hook",
        "name": "Log",
        "address": "https://me:pw@box.example:8443/in/a8f3k2m9q0z7x5c4v6b1/log?token=T0p&line=yard",
        "hook": {"headers": headers},
    }
    book = book_from({"gear": [gear]})
    data, left_out = without_secrets(book_json(book))
    told = json.dumps(data)
    for secret in ("abc123", "pw@", "a8f3k2m9q0z7x5c4v6b1", "T0p", '"k"'):
        assert secret not in told
    assert "line=yard" in told and "tinwhistle" not in told
    assert left_out == [
        "a key in the address of Log", *(f"the header {name} of Log" for name in ("Authorization", "X-Api-Key", "X-Halt"))
    ]  # fmt: skip
    back = reviewed(book, book_from(data), "book")
    assert differences(book, whole(back)) == []
    elsewhere = {**data["gear"][0], "address": "https://far.example/"}
    assert "abc123" not in json.dumps(with_ours(elsewhere, book_json(book)["gear"][0])), (
        "a key goes only where it went before"
    )
    assert plain_address("http://[::1]:8/x?a={{viewer}}") == "http://[::1]:8/x?a={{viewer}}"


def test_differences_are_in_the_sentences_words() -> None:
    def with_(**cue: Any) -> Book:
        reward = {"id": "tea", "title": "Tea", "cost": 10}
        return book_from(
            {
                "rewards": [reward],
                "lanes": [{"id": "main", "name": "Main"}, {"id": "yard", "name": "Yard"}],
                "cues": [{"id": "a", "name": "Kettle", "beats": [CAPTION], **cue}],
            }
        )

    door = {"cooldown_s": 90, "who": ["member", "vip"], "cap_window": {"count": 2, "per_s": 3600}}
    after = with_(
        door=door,
        lane="yard",
        entry="solo",
        on=False,
        calls=[{"kind": "reward", "reward": "tea"}, {"kind": "chat", "match": "starts", "text": "!tea"}],
        beats=[
            {**CAPTION, "length": {"s": 0.25}},
            {"id": "s", "kind": "scene", "scene": "Yard cam", "length": {"s": 5}},
        ],
    )
    (found,) = differences(with_(), after)
    assert [str(field) for field in found.fields] == [
        "state: on → off",
        "calls: its pad only → Tea (10) is redeemed or a message starts with “!tea”",
        "who: anyone → members, VIPs",
        "cooldown: house default → once every 1 min 30 s",
        "limit per period: none → 2 every 1 h",
        "lane: first lane → Yard",
        "start: waits its turn → runs alone",
        "“c” length: 2 s → 250 ms",
        "new beat “s”: switches to Yard cam for 5 s",
    ]
    assert in_words([found]).startswith("changed the cue Kettle: state: on → off; calls: its pad only → Tea")
    assert str(differences(after, book_from({"lanes": [{"id": "main", "name": "Main"}]}))[0]) == "removed the lane Yard"


def test_every_reference_that_the_validation_knows_is_met() -> None:
    """Whatever may not dangle is found as a reference: removing its target makes the book invalid."""
    named = references(HALT)
    met = {what for some in named.values() for what in some}
    data = book_json(HALT)
    for kind in ("rewards", "jars", "cast", "overlays", "cues", "sets"):
        for entry in data.get(kind, []):
            less = {**data, kind: [one for one in data[kind] if one["id"] != entry["id"]]}
            try:
                book_from(less)
            except BookError:
                assert any(what.kind == kind and what.id == entry["id"] for what in met), f"{kind}/{entry['id']}"
