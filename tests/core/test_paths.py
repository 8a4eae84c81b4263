"""Paths of properties: whatever a name contains, it is taken apart where it was put together; nobody else does either."""

from __future__ import annotations

import ast
from collections.abc import Iterator
from pathlib import Path as File

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.files import book_from, book_json
from cuejar.core.facts import happenings as h
from cuejar.core.facts.paths import (
    OTHERS,
    SCENE,
    Family,
    Path,
    canonical_path,
    combined,
    filter_path,
    is_pause,
    keys_path,
    lamp_path,
    path_of,
    read_path,
    rest_untold,
    reward_path,
    source_path,
    thing_path,
    within,
)
from cuejar.core.kinds.gear import kind_of
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.rules.rig import renaming
from cuejar.core.words.properties import property_said, thing_said

HOME = File(__file__).parents[2] / "src" / "cuejar"
NAMES = st.text(st.sampled_from("a/%2F5 é"), min_size=1, max_size=8)


@given(st.sampled_from(list(Family)), st.lists(NAMES, min_size=1, max_size=4))
def test_a_path_is_read_as_it_was_written(family: Family, steps: list[str]) -> None:
    written = path_of(family, *steps)
    assert read_path(written) == Path(family.value, tuple(steps))
    assert written.count("/") == len(steps) and canonical_path(written) == written
    assert written.startswith(within(family, *steps[:-1]))


@given(NAMES, NAMES, NAMES, NAMES)
def test_names_with_slashes_are_no_others_names(source: str, name: str, other: str, setting: str) -> None:
    """Two filters have the same path only if they are the same."""
    one, two = (source, name, setting), (source, other, setting)
    assert (filter_path(*one) == filter_path(*two)) is (one == two)
    path_now, _ = renaming(h.Renamed("filter", name, "New/one", source))
    assert path_now(filter_path(*one)) == filter_path(source, "New/one", setting)
    assert path_now(filter_path(source, name + "x", setting)) == filter_path(source, name + "x", setting)


@pytest.mark.parametrize("source", ["Plain", "Bench/cam", "100 %", "%2F"])
def test_a_settings_range_counts_whatever_its_source_is_called(source: str) -> None:
    catalogues = Catalogues()
    fog = {"Fog/low": {"amount": h.Setting("number", 0, 100)}}
    catalogues.take(h.Catalogue("broadcaster", {"Yard/night": (source,)}, {source: fog}))
    assert catalogues.fitting(source, "Fog/low", "amount", 140) == 100
    assert property_said(filter_path(source, "Fog/low", "amount")) == f"{source}, Fog/low amount"
    assert thing_said(source_path("Yard/night", source)) == source


def test_renames_move_what_they_name_and_nothing_else() -> None:
    cases = [
        (h.Renamed("scene", "Yard/night", "Yard"), source_path("Yard/night", "Mug"), source_path("Yard", "Mug")),
        (h.Renamed("scene", "Yard", "Shed"), source_path("Yard/night", "Mug"), source_path("Yard/night", "Mug")),
        (h.Renamed("source", "Mug", "Cup"), source_path("Yard/night", "Mug"), source_path("Yard/night", "Cup")),
        (h.Renamed("source", "Mug", "Cup"), filter_path("Mug", "Tint", "on"), filter_path("Cup", "Tint", "on")),
        (h.Renamed("filter", "Tint", "Hue", "Mug"), filter_path("Mug", "Tint", "on"), filter_path("Mug", "Hue", "on")),
        (h.Renamed("filter", "Tint", "Hue", "Cup"), filter_path("Mug", "Tint", "on"), filter_path("Mug", "Tint", "on")),
        (h.Renamed("scene", "signal", "x"), lamp_path("signal", "colour"), lamp_path("signal", "colour")),
    ]
    for renamed, before, after in cases:
        assert renaming(renamed)[0](before) == after, renamed
    _, value_now = renaming(h.Renamed("scene", "Yard", "Shed"))
    assert (value_now(SCENE, "Yard"), value_now(SCENE, "Mug"), value_now(OTHERS, "Yard")) == ("Shed", "Mug", "Yard")
    assert renaming(h.Renamed("source", "Yard", "Shed"))[1](SCENE, "Yard") == "Yard"


def test_families_know_their_rest_and_how_holds_combine() -> None:
    rests = {
        OTHERS: 1, "haptics/strength": 0, keys_path("KeyM"): "off", "avatar/expression/Cheer": "off",
        "avatar/pose": None, lamp_path("signal", "look"): "steady", lamp_path("signal", "colour"): None,
        lamp_path("look", "level"): None, SCENE: None, thing_path("yard", "look", "expression"): None,
        reward_path("tea", "on"): None, "unknown/look": None,
    }  # fmt: skip
    assert {path: rest_untold(path) for path in rests} == rests
    assert combined(SCENE, "Workbench", []) == "Workbench"
    assert combined(SCENE, "Workbench", ["Yard", "Shed"]) == "Shed"
    assert combined(OTHERS, 1, [0.5, 0.25]) == 0.125
    assert combined(OTHERS, None, [0.5]) == 0.5 and combined(OTHERS, 0.5, [0.5, "x"]) == 0.25
    assert combined("haptics/strength", 0.2, [0.1, 0.7, 0.3]) == 0.7
    assert combined("haptics/strength", None, [0.1]) == 0.1 and combined("haptics/strength", 0.2, [0.1]) == 0.2
    assert combined("unknown/x", 1, [2, 3]) == 3
    assert read_path(thing_path("yard", "vane", "angle")).steps == ("yard", "vane", "angle")
    assert is_pause(reward_path("tea", "paused")) and not is_pause(thing_path("yard", "tea", "paused"))
    assert not is_pause(reward_path("paused", "on"))


def test_the_paths_of_gear_begin_as_its_kind_says() -> None:
    whole = {
        "broadcaster": SCENE, "lights": lamp_path("a", "look"), "avatar": "avatar/pose", "voice": "voice/mix",
        "things": thing_path("yard", "vane", "angle"), "keys": keys_path("KeyM"), "channel": reward_path("a", "on"),
    }  # fmt: skip
    assert all(path.startswith(kind_of(kind).prefix) for kind, path in whole.items())


def test_paths_that_a_book_brings_are_written_as_ours_are() -> None:
    look = {"id": "l", "name": "L", "values": {"broadcast/filter/100%/Fog/on": True, SCENE: "Workbench"}}
    hand = {"at_min": 1, "path": "broadcast/filter/100%/Fog/on", "value": True}
    book = book_from({"looks": [look], "audiences": [{"id": "a", "name": "A", "hands": [hand]}]})
    ours = filter_path("100%", "Fog", "on")
    assert ours == "broadcast/filter/100%25/Fog/on"
    assert book.looks[0].values == {ours: True, SCENE: "Workbench"} and book.audiences[0].hands[0].path == ours
    assert book_from(book_json(book)) == book


FAMILIES = tuple(f"{family.value}/" for family in Family)
ELSEWHERE = ("demo", "core/facts/paths.py", "store/migrations", "core/playbill/bill.py", "wires/asked.py")
"""Examples as they are written, the ids of a playbill's texts, and addresses of the web."""


def taken_apart(source: str) -> Iterator[str]:
    """Yields where a source spells the beginning of a path, or cuts one."""
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            node.value.value = ""
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value.startswith(FAMILIES):
            yield f"{node.lineno}: {node.value!r}"
        elif isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.args:
            first, of = node.args[0], ast.unparse(node.func.value)
            cuts = node.func.attr in ("split", "rsplit", "partition", "rpartition", "count")
            if cuts and isinstance(first, ast.Constant) and first.value == "/" and of in ("path", "order.path"):
                yield f"{node.lineno}: {ast.unparse(node)}"


def test_only_one_module_reads_and_writes_paths() -> None:
    found = {
        f"{name}:{where}"
        for file in HOME.rglob("*.py")
        if not (name := str(file.relative_to(HOME))).startswith(ELSEWHERE)
        for where in taken_apart(file.read_text("utf-8"))
    }
    assert found == set()
    odd = 'f"light/{x}"\nx = path.split("/")[1]\nx = "scene/light/"\n"light/x"'
    assert list(taken_apart(odd)) == ["1: 'light/'", "2: path.split('/')"]
