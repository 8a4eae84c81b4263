"""Queues for outgoing requests: a silent host delays nobody else, and no viewer fills a queue alone."""

from __future__ import annotations

import asyncio

from cuejar.live.rooms import Rooms


def test_viewers_take_turns_and_each_address_has_its_own_room() -> None:
    order: list[str] = []

    async def whole() -> None:
        rooms, silent = Rooms(4), asyncio.Event()

        async def go(where: str, whose: str, waits: bool) -> None:
            async with rooms.at(where, whose):
                order.append(f"{where} {whose}")
                if waits:
                    await silent.wait()

        hogs = [asyncio.create_task(go("host", "hog", True)) for _ in range(70)]
        await asyncio.sleep(0)
        assert order == ["host hog"] * 2, "half of a room at most is one viewer's"
        others = [asyncio.create_task(go("host", whose, False)) for whose in ("owlpost", "nine_gauge")]
        beside = [asyncio.create_task(go("chat", "owlpost", False)) for _ in range(9)]
        await asyncio.gather(*others, *beside)
        assert order.count("chat owlpost") == 9 and order.count("host hog") == 2
        # One that gives up frees its place.
        for task in hogs[:40]:
            task.cancel()
        silent.set()
        await asyncio.gather(*hogs, return_exceptions=True)
        assert order.count("host hog") >= 30
        assert not rooms._all, "an empty room is not kept"

    asyncio.run(whole())
