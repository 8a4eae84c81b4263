"""Holds, step by step: the layers, what shows, what is asked of the gear."""

from __future__ import annotations

import json

import pytest

from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.orders import Set
from cuejar.core.rules.holds import Holds, Layer

SCENE, LAMP, WHISTLE, CELL = "broadcast/scene", "light/signal/colour", "sound/whistle/volume", "haptics/c1"


def there(_path: str) -> bool:
    return False


def told(*, scene: PropertyValue = "Workbench") -> Holds:
    holds = Holds()
    holds.at_rest(SCENE, scene)
    holds.at_rest(LAMP, "#ffd9a0")
    return holds


def test_the_top_layer_shows_and_each_end_takes_out_its_own() -> None:
    holds = told()
    assert holds.flush(there) == [], "what it told is not asked of it"
    holds.lay(SCENE, Layer("r1", "a", "Yard cam", 250), fade_in_ms=100)
    assert holds.flush(there) == [Set(SCENE, "Yard cam", "r1", "a", 100)]
    holds.lay(SCENE, Layer("r1", "b", "Night mail"))
    holds.lay(SCENE, Layer("r2", "a", "Platform"))
    assert holds.flush(there) == [Set(SCENE, "Platform", "r2", "a", 0)]
    holds.lift(SCENE, "r2", "b")
    holds.lift("never/heard of", "r2", "a")
    assert holds.flush(there) == [] and len(holds.property(SCENE).layers) == 3, "nobody else's"
    holds.lift(SCENE, "r1", "a")
    assert holds.flush(there) == [], "it lay below"
    holds.lift(SCENE, "r2", "a")
    assert holds.flush(there) == [Set(SCENE, "Night mail", "r1", "b", 0)]
    assert holds.lift_all("r2") == []
    assert holds.flush(there) == [] and list(holds.held()) == [SCENE]
    holds.lift_all("r1")
    assert holds.flush(there) == [Set(SCENE, "Workbench", None, None, 0)] and not holds.held()


def test_a_run_that_ends_takes_out_everything_of_its_own() -> None:
    holds = told()
    holds.lay(SCENE, Layer("r1", "a", "Yard cam"))
    holds.lay(LAMP, Layer("r1", "b", "#ffffff"))
    holds.lay(LAMP, Layer("r2", "a", "#6a5acd"))
    holds.lay(LAMP, Layer("r1", "c", "#000000"))
    holds.flush(there)
    assert holds.lift_all("r1") == [("a", SCENE), ("b", LAMP), ("c", LAMP)]
    assert holds.flush(there) == [Set(SCENE, "Workbench", None, None, 0), Set(LAMP, "#6a5acd", "r2", "a", 0)]


@pytest.mark.parametrize(
    ("rest", "laid", "asked"), [(1, 1.0, False), (1.0, 1, False), (True, 1, True), (0, False, True)]
)
def test_one_is_one_point_nought_but_on_is_no_number(rest: PropertyValue, laid: PropertyValue, asked: bool) -> None:
    holds = Holds()
    holds.at_rest(SCENE, rest)
    holds.lay(SCENE, Layer("r1", "a", laid))
    assert bool(holds.flush(there)) == asked


def test_the_fade_out_is_the_layers_own() -> None:
    holds = told()
    holds.lay(LAMP, Layer("r1", "a", "#6a5acd", 800))
    holds.flush(there)
    holds.lift(LAMP, "r1", "a")
    assert holds.flush(there) == [Set(LAMP, "#ffd9a0", None, None, 800)]
    holds.keep(LAMP, "#ffffff", 300)
    assert holds.flush(there) == [Set(LAMP, "#ffffff", None, None, 300)] and holds.rest_of(LAMP) == "#ffffff"


def test_the_hand_drops_every_layer_and_asks_for_nothing() -> None:
    holds = told()
    holds.lay(SCENE, Layer("r1", "a", "Yard cam"))
    holds.lay(LAMP, Layer("r1", "b", "#6a5acd"))
    holds.hand(SCENE, "Platform", ("s", 3))
    assert holds.flush(there) == [Set(LAMP, "#6a5acd", "r1", "b", 0)], "the scene is as the hand left it"
    assert holds.rest_of(SCENE) == holds.showing(SCENE) == "Platform"
    holds.hand(SCENE, "Yard cam")
    known = holds.known(SCENE)
    assert known and known.heard == ("s", 3), "one that is not counted does not unsay the count"
    assert holds.at_rest_now() == {SCENE: "Yard cam", LAMP: "#ffd9a0"}
    assert holds.wanted() == {SCENE: "Yard cam", LAMP: "#6a5acd"}


def test_gear_that_is_away_is_asked_when_it_is_back_and_nothing_waits_for_it() -> None:
    holds = told()
    holds.lay(SCENE, Layer("r1", "a", "Yard cam"))
    holds.lay(LAMP, Layer("r1", "b", "#6a5acd"))
    assert holds.flush(lambda path: path == SCENE) == [Set(LAMP, "#6a5acd", "r1", "b", 0)]
    assert holds.flush(there) == [], "not before it is back"
    holds.touch(lambda path: path == LAMP)
    assert holds.flush(there) == []
    holds.touch(lambda path: path == SCENE)
    assert holds.flush(there) == [Set(SCENE, "Yard cam", "r1", "a", 0)]
    holds.at_rest(SCENE, "Platform")
    assert holds.flush(there) == [] and holds.showing(SCENE) == "Yard cam", "what it tells is at rest, below the layer"


@pytest.mark.parametrize(
    ("path", "rest", "values", "shows"),
    [
        (WHISTLE, None, [0.5, 0.5], 0.25),
        (WHISTLE, 0.8, [0.5], 0.4),
        (WHISTLE, 0.3, [1 / 3], 0.1),
        (CELL, None, [0.2, 0.7, 0.4], 0.7),
        (CELL, 0.9, [0.2], 0.9),
        (LAMP, "#ffd9a0", ["#6a5acd", "#000000"], "#000000"),
    ],
)
def test_volumes_multiply_cells_take_the_highest_others_cover(
    path: str, rest: PropertyValue, values: list[PropertyValue], shows: PropertyValue
) -> None:
    holds = Holds()
    if rest is not None:
        holds.keep(path, rest)
    for number, value in enumerate(values):
        holds.lay(path, Layer(f"r{number}", "a", value))
    assert holds.showing(path) == shows
    assert [order.value for order in holds.flush(there)] == [shows]


@pytest.mark.parametrize(
    ("path", "rest"),
    [
        (WHISTLE, 1),
        (CELL, 0),
        ("keys/ctrl+m", "off"),
        ("avatar/expression/Startled", "off"),
        ("avatar/outfit", None),
        ("light/signal/look", "steady"),
        ("source/bench/look", None),
        (LAMP, None),
    ],
)
def test_what_nobody_told_rests_as_its_kind_does(path: str, rest: PropertyValue) -> None:
    holds = Holds()
    assert holds.showing(path) is None and holds.known(path) is None
    assert holds.rest_of(path) == rest and holds.property(path).shown == rest


def test_renamed_and_written_down_it_goes_on_with_its_layers() -> None:
    holds = told()
    holds.hand(LAMP, "#ffffff", ("s", 7))
    holds.lay(SCENE, Layer("r1", "a", "Yard cam", 200))
    holds.lay(SCENE, Layer("r2", "a", "Workbench"), fade_in_ms=70)
    names = {"Yard cam": "Yard", "Workbench": "Bench"}
    holds.rename(
        lambda path: path.replace("signal", "lantern"),
        lambda path, value: names.get(str(value), value) if path == SCENE else value,
    )
    assert holds.wanted() == {SCENE: "Bench", "light/lantern/colour": "#ffffff"} and holds.rest_of(SCENE) == "Bench"
    holds.lift(SCENE, "r2", "a")
    assert holds.flush(there) == [Set(SCENE, "Yard", "r1", "a", 70)], "with the fade of what was laid on last"

    again = Holds()
    again.restore(json.loads(json.dumps(holds.snapshot())))
    assert again.snapshot() == holds.snapshot() and again.flush(there) == []
    known = again.known("light/lantern/colour")
    assert known and known.heard is not None
    again.lift(SCENE, "r1", "a")
    assert again.flush(there) == [Set(SCENE, "Bench", None, None, 200)]
