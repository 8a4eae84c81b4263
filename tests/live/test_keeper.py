"""A keeper and gear that refuses some requests."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator, Callable, Mapping
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.rules.rig import Found
from cuejar.live.drivers.base import Greeting, PropertyPath, Report
from cuejar.live.keeper import MOST_ASKED, Keeper
from tests.inside import Inside
from tests.running import PATIENCE_S

FOG = "broadcast/filter/Bench cam/Fog/amount"


class Moody:
    """Gear with a fog machine that refuses the values in ``refuses``."""

    def __init__(self) -> None:
        self.actual: dict[PropertyPath, PropertyValue] = {FOG: 0.0}
        self.refuses: set[PropertyValue] = set()
        self.asked: list[PropertyValue] = []
        self.rounds: Callable[[PropertyValue], PropertyValue] = lambda value: value
        self.keeps = False
        """Whether it goes on telling what it showed before."""
        self.turned: asyncio.Queue[Report] = asyncio.Queue()

    def turn(self, value: float) -> None:
        """Changes it by hand."""
        self.actual[FOG] = value
        self.turned.put_nowait(h.Hand(FOG, value))

    def unheard(self) -> bool:
        return not self.turned.empty()

    async def connect(self) -> Greeting:
        return Greeting(found={FOG: Found(0.0, "start")})

    async def show(self, wanted: Mapping[PropertyPath, PropertyValue]) -> Mapping[PropertyPath, PropertyValue | None]:
        shown: dict[PropertyPath, PropertyValue | None] = {}
        for path, value in wanted.items():
            self.asked.append(value)
            if value in self.refuses:
                shown[path] = None
                continue
            shown[path] = self.rounds(value)
            if not self.keeps:
                self.actual[path] = self.rounds(value)
        return shown

    async def strike(self, strike: Any, strike_id: str) -> None:
        raise AssertionError("nothing is struck here")

    async def reports(self) -> AsyncIterator[Report]:
        while True:
            yield await self.turned.get()

    async def picture(self) -> bytes | None:
        return None

    async def close(self) -> None:
        pass


@asynccontextmanager
async def kept(folder: Path, *cues: dict[str, Any]) -> AsyncIterator[tuple[Inside, Moody, Keeper]]:
    """A show with one keeper and its gear, in step."""
    inside, gear = Inside(folder, book_from({"cues": list(cues)})), Moody()
    keeper = Keeper("broadcast", "broadcaster", "Broadcast", lambda: gear, inside.runner)
    inside.runner.ears = [keeper]
    inside.start()
    keeper.start()
    await until(lambda: keeper.state == "in_step")
    yield inside, gear, keeper
    await keeper.stop()
    await inside.stop()


async def until(check: Callable[[], Any]) -> None:
    async with asyncio.timeout(PATIENCE_S):
        while not check():
            await asyncio.sleep(0.01)


def fog(name: str, amount: float, length_s: float, fade_in_s: float) -> dict[str, Any]:
    beat = {"id": "b", "kind": "filter", "source": "Bench cam", "filter": "Fog", "setting": "amount", "value": amount}
    return {
        "id": name, "name": name, "entry": "overlap",
        "beats": [beat | {"length": {"s": length_s}, "fade_in_s": fade_in_s, "fade_out_s": 0}],
    }  # fmt: skip


@pytest.mark.parametrize("fade_in_s", [0.0, 5.0])
def test_what_was_refused_once_is_asked_again_also_where_it_was_on_its_way_elsewhere(
    tmp_path: Path, fade_in_s: float
) -> None:
    """Its rest is refused; before the retry it begins to fade to what a cue holds, and is wanted at rest again."""

    async def night() -> None:
        cues = fog("short", 80.0, 0.1, 0), fog("again", 40.0, 0.15, fade_in_s)
        async with kept(tmp_path, *cues) as (inside, gear, keeper):
            gear.refuses = {0.0}
            await inside.runner.post(h.Pad("short"))
            await until(lambda: 0.0 in gear.asked)
            assert keeper.state == "catching_up" and "refused 0.0" in keeper.problem
            await inside.runner.post(h.Pad("again"))
            await until(lambda: not inside.runner.view.runs)
            gear.refuses = set()
            await until(lambda: keeper.state == "in_step" and gear.actual[FOG] == 0.0)
            assert not keeper.problem and keeper.wanted() == {FOG: 0.0}

    asyncio.run(night())


def test_a_change_by_hand_that_nobody_has_heard_of_yet_is_not_undone(tmp_path: Path) -> None:
    async def night() -> None:
        async with kept(tmp_path) as (inside, gear, keeper):
            for value in (40.0, 0.0, 70.0):
                # It looks at what is due before it takes the report.
                keeper.stir()
                gear.turn(value)
                await until(lambda: inside.runner.view.showing(FOG) == gear.actual[FOG])
            assert gear.actual[FOG] == 70.0 and gear.asked == []

    asyncio.run(night())


def test_what_ends_goes_back_although_the_engine_cannot_be_told_of_a_catalogue(tmp_path: Path) -> None:
    """On a full disk the engine hears of nothing new; a hold that ends meanwhile returns all the same, and a change by
    hand in the catalogue stays.
    """

    async def night() -> None:
        async with kept(tmp_path, fog("short", 80.0, 0.4, 0)) as (inside, gear, keeper):
            told = asyncio.Event()
            understand = keeper._understand

            async def late(catalogue: Greeting) -> None:
                await told.wait()
                await understand(catalogue)

            keeper._understand = late  # type: ignore[method-assign]
            await inside.runner.post(h.Pad("short"))
            await until(lambda: gear.actual[FOG] == 80.0)
            gear.turned.put_nowait(Greeting(found={FOG: Found(80.0, "us", 1)}))
            await until(lambda: not inside.runner.view.runs and gear.actual[FOG] == 0.0)
            gear.actual[FOG] = 55.0
            gear.turned.put_nowait(Greeting(found={FOG: Found(55.0, "hand", 3, 55.0, 3)}, boot="b"))
            await asyncio.sleep(0.1)
            keeper.stir()
            await asyncio.sleep(0.1)
            assert gear.actual[FOG] == 55.0 and gear.asked == [80.0, 0.0]
            told.set()
            await until(lambda: inside.runner.view.showing(FOG) == 55.0)
            assert gear.asked == [80.0, 0.0]

    asyncio.run(night())


def test_gear_that_rounds_is_asked_twice_and_that_is_what_it_can_do(tmp_path: Path) -> None:
    async def night() -> None:
        async with kept(tmp_path, fog("held", 33.3, 600, 0)) as (inside, gear, keeper):
            gear.rounds = lambda value: float(round(float(value or 0)))
            await inside.runner.post(h.Pad("held"))
            await until(lambda: keeper.state == "in_step" and gear.actual[FOG] == 33.0)
            assert gear.asked == [33.3, 33.3] and not keeper.problem
            assert keeper.row()["lacks"] == ["Bench cam, Fog amount: asked for 33.3, it shows 33.0."]
            gear.turn(20.0)
            await until(lambda: keeper.wanted() == {FOG: 20.0})
            await asyncio.sleep(0.1)
            assert gear.asked == [33.3, 33.3] and keeper.state == "in_step"

    asyncio.run(night())


def test_nothing_is_asked_for_without_end(tmp_path: Path) -> None:
    """Gear that says yes, and goes on showing something else."""

    async def night() -> None:
        async with kept(tmp_path, fog("held", 40.0, 600, 0)) as (inside, gear, keeper):
            gear.keeps = True
            begun = asyncio.get_running_loop().time()
            await inside.runner.post(h.Pad("held"))
            await until(lambda: len(gear.asked) > 2 * MOST_ASKED)
            assert asyncio.get_running_loop().time() - begun > 1.9
            assert keeper.state == "catching_up" and "asked for 40.0 again and again, and shows 0.0" in keeper.problem
            gear.keeps = False
            await until(lambda: keeper.state == "in_step")
            assert not keeper.problem

    asyncio.run(night())


def test_gear_that_stays_where_it_was_is_asked_until_it_goes(tmp_path: Path) -> None:
    """It is busy when the hold ends, and answers with what it shows: that isn't taken for what it can do."""

    async def night() -> None:
        async with kept(tmp_path, fog("short", 40.0, 0.1, 0)) as (inside, gear, keeper):
            gear.rounds = lambda value: 40.0
            await inside.runner.post(h.Pad("short"))
            await until(lambda: gear.asked.count(0.0) > 2)
            assert gear.actual[FOG] == 40.0 and keeper.state == "catching_up" and not keeper.row()["lacks"]
            gear.rounds = lambda value: value
            await until(lambda: keeper.state == "in_step" and gear.actual[FOG] == 0.0)

    asyncio.run(night())
