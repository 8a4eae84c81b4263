"""Names on the broadcaster: which one is meant, near misses, renames, values of settings."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.measures.catalogue import Catalogues, NotThere, fitted, meant, shows
from cuejar.core.rules.renames import followed
from cuejar.core.snags.snags import snags

NUMBER = h.Setting("number", 0, 100)
CHOICE = h.Setting("choice", choices=("Soft", "Hard"))
HALT = h.Catalogue(
    "broadcaster",
    scenes={"Yard cam": ("Snow", "Rain", "Signal box"), "Workbench": ("Bench cam", "Clock")},
    filters={
        "Bench cam": {
            "Tint": {"colour": h.Setting("colour"), "amount": NUMBER, "edge": CHOICE, "grain": h.Setting("bool")}
        }
    },
)
OWL = h.Viewer("v1", "owlpost", ("follower",))


def known() -> Catalogues:
    catalogues = Catalogues()
    catalogues.take(HALT)
    return catalogues


def asked(beat: dict[str, Any], text: str = "", there: bool = True, seed: int = 3, **rest: Any) -> dict[str, Any]:
    """Returns what a cue with this one beat asks of the gear at its start; its failure under ``failed``."""
    door = {"text": {"need": False, "kind": "any"}} if text else {}
    calls = [{"kind": "chat", "match": "starts", "text": "!go"}]
    cue = {"id": "c", "name": "C", "calls": calls, "door": door, "beats": [{"id": "b", "length": {"s": 3}, **beat}]}
    engine = Engine(book_from({"cues": [cue]}), seed, {})
    if there:
        engine.handle(HALT, 0)
    engine.handle(h.Rest(rest), 0)
    orders = [order for _, order in engine.handle(h.Chat(OWL, f"!go {text}"), 1000)]
    out: dict[str, Any] = {order.path: order.value for order in orders if isinstance(order, o.Set)}
    failed = [order.why for order in orders if isinstance(order, o.Fail)]
    if failed:
        out["failed"] = failed[0]
    return out


@pytest.mark.parametrize("written", ["Yard cam", "yard CAM", "  Yard cam ", "ＹＡＲＤ cam"])
def test_names_need_not_match_letter_by_letter(written: str) -> None:
    assert known().scene(written) == "Yard cam"
    assert known().source(written, "signal BOX") == ("Yard cam", "Signal box")
    assert asked({"kind": "scene", "scene": written}) == {"broadcast/scene": "Yard cam"}


def test_an_exact_name_goes_before_one_that_is_only_alike() -> None:
    assert meant("scene", "yard", ["Yard", "yard"]) == "yard"


@pytest.mark.parametrize(
    ("beat", "why", "near", "key"),
    [
        ({"kind": "scene", "scene": "Yrd cam"}, "there is no scene “Yrd cam”", ("Yard cam",), "scene"),
        ({"kind": "source", "scene": "Yrd cam", "source": "Snow"}, "no scene “Yrd cam”", ("Yard cam",), "scene"),
        ({"kind": "source", "scene": "Yard cam", "source": "Snw"}, "no source “Snw” in the scene Yard cam", ("Snow",), "source"),
        ({"kind": "filter", "source": "Bench cm", "filter": "Tint", "setting": "colour"}, "no source “Bench cm”", ("Bench cam",), "sources"),
        ({"kind": "filter", "source": "Bench cam", "filter": "Tnt", "setting": "on"}, "no filter “Tnt” on Bench cam", ("Tint",), "filter"),
        ({"kind": "filter", "source": "Bench cam", "filter": "Tint", "setting": "amont"}, "no setting “amont”", ("amount",), "setting"),
        ({"kind": "scene", "scene": "Quarry"}, "there is no scene “Quarry” at the broadcaster", (), "scene"),
    ],
)  # fmt: skip
def test_what_is_not_there_is_said_with_what_comes_near(
    beat: dict[str, Any], why: str, near: tuple[str, ...], key: str
) -> None:
    assert why in asked(beat)["failed"]
    assert "failed" not in asked(beat, there=False), "nothing is known of the gear: every name is taken as it stands"
    book = book_from({"cues": [{"id": "c", "name": "C", "beats": [{"id": "b", "length": {"s": 3}, **beat}]}]})
    (snag,) = [snag for snag in snags(book, None, catalogues=known()) if snag.check == "lost_name"]
    assert (snag.near[:1], snag.key, snag.grade) == (near, key, "error") and why in snag.what
    assert snag.mend == (f"Use “{near[0]}”." if near else "Choose another.")


def test_other_gear_has_names_of_its_own() -> None:
    catalogues = known()
    assert catalogues.named("avatar", "outfit", "top hat") == "top hat", "it never said what it has"
    catalogues.take(h.Catalogue("avatar", names={"outfit": ("Top hat", "Porter"), "prop": ()}))
    assert catalogues.named("avatar", "outfit", "TOP HAT") == "Top hat"
    assert catalogues.named("avatar", "prop", "Lamp") == "Lamp", "it has no list of these"
    with pytest.raises(NotThere, match="there is no outfit “Tip hat” at the avatar; near it: Top hat"):
        catalogues.named("avatar", "outfit", "Tip hat")
    again = Catalogues()
    again.restore(catalogues.snapshot())
    assert again.known == catalogues.known


def test_a_source_is_shown_alone_or_at_random_of_those_that_begin_so() -> None:
    path = "broadcast/source/Yard cam/{}/visible"
    alone = asked({"kind": "source", "scene": "yard cam", "source": "rain", "hide_others": True})
    assert alone == {path.format("Rain"): True, path.format("Snow"): False, path.format("Signal box"): False}
    hidden = asked({"kind": "source", "scene": "Yard cam", "source": "Snow", "visible": False})
    assert hidden == {path.format("Snow"): False}
    drawn = {
        next(iter(asked({"kind": "source", "scene": "Yard cam", "any_source": True, "beginning": "s"}, seed=n)))
        for n in range(20)
    }
    assert drawn == {path.format("Snow"), path.format("Signal box")}
    none = asked({"kind": "source", "scene": "Yard cam", "any_source": True, "beginning": "fog"})
    assert none == {"failed": "the scene “Yard cam” has no source beginning with “fog”"}


@pytest.mark.parametrize(
    ("setting", "value", "text", "shown"),
    [
        ("amount", 40, "", 40),
        ("amount", 140, "", 100),
        ("amount", "{{text}}", "-5", 0),
        ("edge", "HARD", "", "Hard"),
        ("grain", "yes", "", True),
        ("grain", False, "", False),
        ("on", True, "", True),
        ("colour", "#6a5acd", "", "#6a5acd"),
    ],
)
def test_a_value_is_brought_to_what_its_setting_can_be(setting: str, value: object, text: str, shown: object) -> None:
    beat = {"kind": "filter", "source": "bench cam", "filter": "tint", "setting": setting.upper(), "value": value}
    assert asked(beat, text) == {f"broadcast/filter/Bench cam/Tint/{setting}": shown}


@pytest.mark.parametrize(
    ("setting", "value", "text", "why"),
    [
        ("amount", "{{text}}", "plenty", "“plenty” is not a number"),
        ("grain", "{{text}}", "perhaps", "neither on nor off"),
        ("edge", "{{text}}", "Sft", "there is no choice “Sft” of this setting; near it: Soft"),
        ("colour", "{{text}}", "teapot", "“teapot” is not a colour"),
        ("amount", "{{text}}", " ", "the viewer wrote no value"),
    ],
)
def test_a_value_that_cannot_be_fails_its_beat_and_says_why(setting: str, value: object, text: str, why: str) -> None:
    beat = {"kind": "filter", "source": "Bench cam", "filter": "Tint", "setting": setting, "value": value}
    found = asked(beat, text)
    assert set(found) == {"failed"} and why in found["failed"]


def test_what_gear_can_show_of_itself() -> None:
    cases: list[tuple[h.Setting, Any, bool]] = [
        (NUMBER, 0, True), (NUMBER, 100.5, False), (NUMBER, True, False), (NUMBER, "5", False), (h.Setting("number"), 1e9, True),
        (CHOICE, "Soft", True), (CHOICE, "soft", False),
        (h.Setting("bool"), False, True), (h.Setting("bool"), 0, False),
        (h.Setting("colour"), "#6a5acd", True), (h.Setting("colour"), "teapot", False),
        (h.Setting("text"), "mind the gap", True), (h.Setting("text"), 4, False),
    ]  # fmt: skip
    for kind, value, can in cases:
        assert shows(kind, value) is can, (kind, value)
    assert fitted(h.Setting("text"), 4) == "4" and fitted(NUMBER, "12.3456789") == 12.345679


@pytest.mark.parametrize(
    ("renamed", "beat", "path"),
    [
        (h.Renamed("scene", "Yard cam", "Yard"), {"kind": "scene", "scene": "yard CAM"}, {"broadcast/scene": "Yard"}),
        (
            h.Renamed("source", "Snow", "Snowfall"), {"kind": "source", "scene": "Yard cam", "source": "snow"},
            {"broadcast/source/Yard cam/Snowfall/visible": True},
        ),
        (
            h.Renamed("source", "Bench cam", "Bench"), {"kind": "filter", "source": "Bench cam", "filter": "Tint"},
            {"broadcast/filter/Bench/Tint/on": True},
        ),
        (
            h.Renamed("filter", "Tint", "Hue", "Bench cam"), {"kind": "filter", "source": "bench cam", "filter": "Tint"},
            {"broadcast/filter/bench cam/Hue/on": True},
        ),
        (
            h.Renamed("filter", "Tint", "Hue", "Other cam"), {"kind": "filter", "source": "Bench cam", "filter": "Tint"},
            {"broadcast/filter/Bench cam/Tint/on": True},
        ),
    ],
)  # fmt: skip
def test_a_cue_follows_what_has_another_name_now(
    renamed: h.Renamed, beat: dict[str, Any], path: dict[str, Any]
) -> None:
    cue = {
        "id": "c",
        "name": "C",
        "calls": [{"kind": "chat", "text": "!go"}],
        "beats": [{"id": "b", "length": {"s": 3}, **beat}],
    }
    book = book_from(followed(book_json(book_from({"cues": [cue]})), renamed))
    orders = [order for _, order in Engine(book, 3, {}).handle(h.Chat(OWL, "!go"), 1000)]
    assert {order.path: order.value for order in orders if isinstance(order, o.Set)} == path
