"""What the streamer says of single viewers is read the same by the door, the reader and the card."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.book import Cue
from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.core.rules.door import Doorway
from cuejar.core.rules.people import is_listed, listed, own_of, with_viewer

OWL = h.Viewer("v-owl", "Owlpost")


@pytest.mark.parametrize(
    ("entries", "is_meant"),
    [
        (["v-owl"], True),
        (["owlpost"], True),
        (["ＯＷＬＰＯＳＴ"], True),
        (["v-ow"], False),
        (["owl"], False),
        ([""], False),
        ([], False),
    ],
)
def test_a_viewer_is_named_by_id_or_name(entries: list[str], is_meant: bool) -> None:
    assert is_listed(OWL.id, OWL.name, listed(entries)) is is_meant
    assert not is_listed("v-jo", "", listed(entries)), "a viewer without a name isn't everybody"
    for where in ("house", "door"):
        house = {"shut_out": entries} if where == "house" else {}
        door = {"shut_out": entries} if where == "door" else {}
        book = book_from({"house": house, "cues": [{"id": "c", "name": "C", "door": door}]})
        cue: Cue = book.cues[0]
        assert is_listed(OWL.id, OWL.name, Doorway(cue, book).shut_out) is is_meant, where


def test_who_is_named_both_ways_is_meant_by_the_id() -> None:
    assert own_of("v-owl", "Owlpost", {"owlpost": "pip", "v-owl": "clerk"}) == "clerk"
    assert own_of("v-owl", "Owlpost", {"OWLPOST": "pip", "owlpost": "clerk"}) == "pip", "the first"
    assert own_of("v-owl", "", {"": "pip"}) is None and own_of("v-owl", "Owlpost", {}) is None


def test_settings_of_a_viewer_replace_all_that_named_them() -> None:
    data: dict[str, Any] = {
        "house": {"spared": ["OWLPOST", "v-jo"], "shut_out": ["v-owl"], "volume": 50},
        "reading": {"viewers": {"owlpost": "pip", "v-jo": "clerk"}, "default": "pip"},
    }
    new = with_viewer(data, "v-owl", "Owlpost", {"spared": True, "shut_out": False}, "clerk")
    assert new["house"] == {"spared": ["v-jo", "v-owl"], "shut_out": [], "volume": 50}
    assert new["reading"] == {"viewers": {"v-jo": "clerk", "v-owl": "clerk"}, "default": "pip"}
    assert with_viewer(new, "v-owl", "Owlpost", {}, "")["reading"]["viewers"] == {"v-jo": "clerk"}
    assert with_viewer(data, "v-owl", "Owlpost", {}, None)["reading"] == data["reading"]
    assert data["house"]["spared"] == ["OWLPOST", "v-jo"], "what was there stays as it was"


def test_the_first_setting_of_a_viewer_makes_the_lists_it_needs() -> None:
    book = with_viewer({}, "v1", "owlpost", {"spared": True, "shut_out": False}, "pip")
    assert book == {"house": {"spared": ["v1"], "shut_out": []}, "reading": {"viewers": {"v1": "pip"}}}
    assert with_viewer({}, "v1", "owlpost", {}, None) == {"house": {}, "reading": {}}
