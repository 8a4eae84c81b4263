"""Plug-ins: the one from the docs, installed and used by a cue; a broken one, a missing one, one with another's name."""

from __future__ import annotations

import asyncio
import re
import sys
from collections.abc import Iterator
from importlib.metadata import EntryPoint
from pathlib import Path

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.core.kinds.gear import GEAR_KINDS
from cuejar.live import plugins
from cuejar.live.drivers.table import DRIVERS
from tests.inside import Inside
from tests.running import PATIENCE_S

DOCS = Path(__file__).parents[2] / "docs" / "inside" / "plugins.md"


@pytest.fixture
def installed(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Path]:
    """Installs the package of the docs as pip would, and removes it."""
    folder = tmp_path / "site"
    (folder / "halt_fogger-1.0.dist-info").mkdir(parents=True)
    toml, code = re.findall(r"```(?:toml|python)\n(.*?)```", DOCS.read_text("utf-8"), re.S)
    (folder / "halt_fogger.py").write_text(code, "utf-8")
    (folder / "halt_fogger-1.0.dist-info" / "METADATA").write_text("Name: halt-fogger\nVersion: 1.0\n", "utf-8")
    points = toml[toml.index("[project.entry-points") :].replace(
        '[project.entry-points."cuejar.gear"]', "[cuejar.gear]"
    )
    (folder / "halt_fogger-1.0.dist-info" / "entry_points.txt").write_text(points.replace('"', ""), "utf-8")
    monkeypatch.syspath_prepend(folder)
    kinds, drivers = dict(GEAR_KINDS), dict(DRIVERS)
    yield folder
    for table, before in ((GEAR_KINDS, kinds), (DRIVERS, drivers)):
        for name in set(table) - set(before):
            del table[name]  # type: ignore[attr-defined]
    plugins.BROKEN.clear()
    sys.modules.pop("halt_fogger", None)


BOOK = {
    "lanes": [{"id": "main", "name": "Main"}],
    "gear": [{"id": "fog", "kind": "fogger", "address": "fog://here"}],
    "cues": [
        {
            "id": "mist", "name": "Mist", "entry": "overlap",
            "beats": [
                {"id": "d", "kind": "set", "gear": "fog", "thing": "fog", "setting": "density", "value": 80, "length": {"s": 0.2}},
                {"id": "p", "kind": "do", "gear": "fog", "thing": "fog", "deed": "puff"},
            ],
        }
    ],
}  # fmt: skip


async def state(inside: Inside, wanted: str) -> dict[str, str]:
    async with asyncio.timeout(PATIENCE_S):
        while (row := inside.rig.rows()[0])["state"] != wanted:
            await asyncio.sleep(0.01)
    return row


def test_the_plug_in_of_the_docs_is_moved_by_a_cue(installed: Path, tmp_path: Path) -> None:
    plugins.load()
    assert GEAR_KINDS["fogger"].title == "Fog machine" and GEAR_KINDS["fogger"].secret == "Key"

    async def whole() -> None:
        inside = Inside(tmp_path, book_from(BOOK))
        inside.start()
        inside.rig.take(inside.book)
        await state(inside, "in_step")
        driver = inside.rig.keepers["fog"].driver
        assert driver is not None
        seen: list[object] = []
        show = driver.show

        async def watched(wanted):  # type: ignore[no-untyped-def]
            seen.append(dict(wanted))
            return await show(wanted)

        driver.show = watched  # type: ignore[method-assign]
        await inside.runner.post(h.Pad("mist"))
        async with asyncio.timeout(PATIENCE_S):
            while len(seen) < 2 or inside.strikes.owed:
                await asyncio.sleep(0.01)
        path = "things/fog/fog/density"
        assert seen == [{path: 80.0}, {path: 0.0}], "held, and back"
        driver.told.put_nowait(30.0)  # type: ignore[attr-defined]
        async with asyncio.timeout(PATIENCE_S):
            while inside.runner.view.showing(path) != 30.0:
                await asyncio.sleep(0.01)
        await inside.stop()

    asyncio.run(whole())


def test_one_that_is_broken_or_missing_costs_its_gear_alone(installed: Path, tmp_path: Path) -> None:
    async def row(folder: str, wanted: str) -> dict[str, str]:
        inside = Inside(tmp_path / folder, book_from(BOOK))
        inside.start()
        inside.rig.take(inside.book)
        found = await state(inside, wanted)
        await inside.runner.post(h.Pad("mist"))
        assert inside.runner.view.is_lost("fog")
        await inside.stop()
        return found

    (tmp_path / "a").mkdir()
    (tmp_path / "b").mkdir()
    assert asyncio.run(row("a", "off"))["problem"] == "Its plug-in “fogger” isn’t installed."
    (installed / "halt_fogger.py").write_text("import halt_kettle\n", "utf-8")
    plugins.load()
    broken = asyncio.run(row("b", "away"))["problem"]
    assert broken == "Its plug-in is broken: ModuleNotFoundError: No module named 'halt_kettle'"


@pytest.mark.parametrize(
    ("name", "code", "why"),
    [
        ("fogger", "PLUGIN = 5", "'int' object is not callable"),
        ("fogger", "PLUGIN = dict", "isn’t a Plugin"),
        ("other", "", "its kind is called “fogger”, its entry point “other”"),
        ("mist", "from cuejar.plugin import *\nPLUGIN = Plugin(of_things('lights', 'L'), None)", "its kind is called “lights”"),
    ],
)  # fmt: skip
def test_what_is_no_plug_in_is_said(installed: Path, name: str, code: str, why: str) -> None:
    if code:
        (installed / "halt_fogger.py").write_text(code, "utf-8")
    plugins.load([EntryPoint(name, "halt_fogger:PLUGIN", plugins.GROUP)])
    assert why in plugins.BROKEN[name] and name not in DRIVERS
    plugins.load([EntryPoint("lights", "halt_fogger:PLUGIN", plugins.GROUP)])
    assert "lights" not in plugins.BROKEN, "what comes with Cue Jar stays"
