"""Goes one of the two walks of docs/inside/architecture.md on the stand-ins, and prints every function of ours that was
called on the way, in order: ``file function`` (`test_walks`). In a process of its own, as the engine is not compiled here.
"""

from __future__ import annotations

import asyncio
import os
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from types import FrameType
from typing import Any

os.environ["CUEJAR_INTERPRETED"] = "1"

import httpx

import cuejar
from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.live.drivers.channel import ChannelDriver
from tests.inside import Inside
from tests.live.standin import NoPictures, StandIn
from tests.running import PATIENCE_S

HERE = str(Path(cuejar.__file__).parent) + os.sep
BOOK = {
    "gear": [{"id": "lamps", "kind": "lights", "fixtures": [{"id": "signal", "address": 1}]}],
    "rewards": [{"id": "red", "title": "Signal at danger", "cost": 100}],
    "cues": [
        {
            "id": "red",
            "name": "Signal at danger",
            "calls": [{"kind": "reward", "reward": "red"}],
            "beats": [{"id": "l", "kind": "light", "fixtures": ["signal"], "colour": "#ff0000", "length": {"s": 1}}],
        }
    ],
}


async def until(check: Callable[[], Any]) -> None:
    async with asyncio.timeout(PATIENCE_S):
        while not check():
            await asyncio.sleep(0.01)


class Steps:
    """Everything of ours that is called, in any thread, while it is listened to."""

    def __init__(self) -> None:
        self.taken: list[str] = []
        self.listens = False
        threading.setprofile(self)
        sys.setprofile(self)

    def __call__(self, frame: FrameType, event: str, _: Any) -> None:
        code = frame.f_code
        if self.listens and event == "call" and code.co_filename.startswith(HERE):
            self.taken.append(f"{code.co_filename.removeprefix(HERE)} {code.co_name}")


async def lamp(folder: Path, there: StandIn, steps: Steps) -> None:
    inside = Inside(folder, book_from(BOOK), f"127.0.0.1:{there.port}")
    inside.start()
    inside.rig.take(inside.book)
    await until(lambda: inside.rig.keepers["lamps"].state == "in_step")
    steps.listens = True
    await inside.runner.post(h.Pad("red"))
    await until(lambda: inside.rig.keepers["lamps"].actual["light/signal/colour"] == "#ff0000")
    steps.listens = False
    await inside.stop()


async def redemption(folder: Path, there: StandIn, steps: Steps) -> None:
    inside = Inside(folder, book_from(BOOK), f"127.0.0.1:{there.port}")

    async def by_hand(*_: Any) -> None: ...

    address = f"http://127.0.0.1:{there.port}"
    runner = inside.runner
    driver = ChannelDriver(
        "", address, "", runner, inside.database.sessions, lambda *_: None, by_hand, lambda *_: None, NoPictures()
    )
    runner.ears = [driver]
    inside.decided = lambda settled, _: driver.settling.owe(settled)  # type: ignore[method-assign]
    inside.start()
    driver.start()
    await until(lambda: driver.state == "in_step")
    async with httpx.AsyncClient(base_url=address, trust_env=False) as http:
        rewards = (await http.get("/channel/rewards")).json()
        reward = next(row["id"] for row in rewards if row["title"] == "Signal at danger")
        asked = {"viewer": "owlpost", "reward": reward, "text": ""}
        steps.listens = True
        (await http.post("/channel/redemptions", json=asked)).raise_for_status()
    await until(lambda: "live/recorder.py confirmed" in steps.taken)
    steps.listens = False
    await driver.stop()
    await inside.stop()


def main() -> None:
    folder, walk = Path(sys.argv[1]), {"lamp": lamp, "redemption": redemption}[sys.argv[2]]
    there, steps = StandIn(), Steps()
    try:
        asyncio.run(walk(folder, there, steps))
    finally:
        there.stop()
    print("\n".join(steps.taken))


if __name__ == "__main__":
    main()
