"""The engine in rehearsal, next to simpy passing as many jobs through one queue; memory; lateness of releases."""

from __future__ import annotations

import asyncio
import gc
import random
import time
import tracemalloc
from pathlib import Path
from statistics import quantiles
from typing import Any

import simpy

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.rehearsal import Step, play
from cuejar.core.facts import happenings as h
from tests.inside import Inside

CALLS = 100_000


def simpy_s() -> float:
    env = simpy.Environment()
    lane = simpy.Resource(env, 1)

    def job() -> Any:
        with lane.request() as turn:
            yield turn
            yield env.timeout(1)

    def arrivals() -> Any:
        for _ in range(CALLS):
            env.process(job())
            yield env.timeout(1)

    env.process(arrivals())
    begun = time.process_time()
    env.run()
    return time.process_time() - begun


def a_book() -> Any:
    """Returns 50 cues in 3 lanes with typical doors: a minute of cooldown, half a minute for each viewer."""
    cues = []
    for i in range(50):
        beats: list[dict[str, Any]] = [
            {"id": "pic", "kind": "picture", "media": {"file": "m"}, "length": {"s": 2 + i % 5}}
        ]
        if i % 3 == 0:
            beats.append({"id": "cam", "kind": "scene", "scene": f"Scene {i % 4}", "length": {"s": 2}})
        door = {"cooldown_s": 60, "viewer_cooldown_s": 30}
        calls = [{"kind": "reward", "reward": f"r{i}"}]
        cues.append({"id": f"c{i}", "name": f"C{i}", "lane": f"l{i % 3}", "calls": calls, "door": door, "beats": beats})
    lanes = [{"id": f"l{i}", "name": "L", "width": 1 + i} for i in range(3)]
    rewards = [{"id": f"r{i}", "title": f"R{i}", "cost": 100} for i in range(50)]
    return book_from({"lanes": lanes, "rewards": rewards, "cues": cues, "media": [{"id": "m", "name": "M"}]})


def night(every_ms: int) -> list[tuple[int, h.Redemption]]:
    pick = random.Random(5)
    viewers = [h.Viewer(f"v{i}", f"viewer {i}", ("follower",)) for i in range(400)]
    return [(i * every_ms, h.Redemption(f"x{i}", f"r{pick.randrange(50)}", pick.choice(viewers))) for i in range(CALLS)]


def engine_s(every_ms: int) -> tuple[float, int, int]:
    let_in = orders = 0
    begun = time.process_time()
    for step in play(Engine(a_book(), 1), night(every_ms)):
        if isinstance(step, Step):
            orders += len(step.timed)
            let_in += sum(type(order).__name__ == "Start" for _, order in step.timed)
    return time.process_time() - begun, let_in, orders


def memory_kb() -> list[int]:
    """Returns the engine's memory after half and after all of the calls."""
    calls = night(400)
    engine = Engine(a_book(), 1)
    gc.collect()
    tracemalloc.start()
    marks = []
    for i, (at, call) in enumerate(calls):
        engine.handle(call, at)
        if i in (CALLS // 2, CALLS - 1):
            gc.collect()
            marks.append(tracemalloc.get_traced_memory()[0] // 1024)
    tracemalloc.stop()
    return marks


def _p99(values: list[float]) -> float:
    return quantiles(values, n=100)[98] * 1000


async def lateness(folder: Path) -> tuple[float, float]:
    """Returns the 99th percentile of how late 500 holds are released, and of plain ``loop.call_at``; in ms."""
    loop = asyncio.get_running_loop()
    late: list[float] = []
    start = loop.time() + 0.1
    for i in range(500):
        at = start + i * 0.004
        loop.call_at(at, lambda at=at: late.append(loop.time() - at))
    await asyncio.sleep(2.4)
    cues = [
        {
            "id": f"c{i}",
            "name": "C",
            "entry": "overlap",
            "beats": [
                {
                    "id": "lamp",
                    "kind": "light",
                    "fixtures": [f"lamp{i}"],
                    "colour": "#c0392b",
                    "length": {"s": 1 + i * 0.004},
                }
            ],
        }
        for i in range(500)
    ]
    book = book_from({"lanes": [{"id": "main", "name": "Main"}], "cues": cues})
    inside = Inside(folder, book)
    show = inside.runner
    released: list[float] = []

    class Ear:
        def hear(self, timed: Any) -> None:
            now = loop.time()
            for at, order in timed:
                if type(order).__name__ == "Set" and order.run is None:
                    released.append(now - show.clock.monotonic(at))

    show.ears = [Ear()]
    inside.start()
    await show.post(h.Rest({f"light/lamp{i}/colour": "#ffd9a0" for i in range(500)}))
    await asyncio.gather(*(show.post(h.Pad(f"c{i}")) for i in range(500)))
    await asyncio.sleep(4.2)
    await inside.stop()
    assert len(released) == 500, len(released)
    return _p99(released), _p99(late)
