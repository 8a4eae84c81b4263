"""What is owed and what grows: refunds after a flood, long lines, the ledger's size and its export, a locked database."""

from __future__ import annotations

import asyncio
import json
import sqlite3
import threading
import time
from pathlib import Path
from statistics import median, quantiles
from typing import Any

import httpx

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h
from cuejar.live.settling import AT_ONCE
from cuejar.store.database import FILE
from cuejar.store.exports import csv_lines, event_lines
from cuejar.store.ledger import Where
from tests.inside import Inside
from tests.running import Running, until

REFUNDS, LINES, GROWN = 5_000, 50_000, 10_000


def refunds(folder: Path) -> dict[str, Any]:
    """Drops five thousand waiting viewers at once, next to the channel's own answers to a bare client."""
    running = Running(folder / "refunds" / "data")
    running.data.mkdir(parents=True)
    try:
        running.start()
        beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 600}}]
        calls = [{"kind": "reward", "reward": "tea"}]
        running.book(
            lanes=[{"id": "main", "name": "Main", "line": 10_000, "wait_s": 3600}],
            rewards=[{"id": "tea", "title": "Tea", "cost": 1}],
            cues=[{"id": "tea", "name": "Tea", "calls": calls, "beats": beats}],
        )
        until(lambda: len(running.channel.get("/rewards").json()) == 1)
        people = [row["id"] for row in running.channel.get("/viewers").json()]

        def redeemed(count: int) -> list[str]:
            with httpx.Client(base_url=running.channel.base_url, trust_env=False, timeout=60) as client:
                told = [client.post("/redemptions", json={"viewer": people[n % len(people)], "reward": "Tea"}).json()["id"]
                        for n in range(count)]  # fmt: skip
            return told

        def left() -> int:
            return len(running.channel.get("/redemptions?state=unfulfilled").json())

        redeemed(REFUNDS + 1)
        until(lambda: running.state()["lane/main"]["waits"] == REFUNDS)
        begun = time.perf_counter()
        running.api.post("/api/all-to-rest").raise_for_status()
        while running.api.get("/api/health").json()["owed"]["settlements"] or left():
            time.sleep(0.05)
        ours = time.perf_counter() - begun
        running.kill_server()
        open_ones = redeemed(REFUNDS)

        async def bare() -> float:
            async with httpx.AsyncClient(base_url=running.channel.base_url, trust_env=False, timeout=60) as client:
                line = iter(open_ones)

                async def some() -> None:
                    for one in line:
                        await client.patch(f"/redemptions/{one}", json={"state": "refunded"})

                begun = time.perf_counter()
                await asyncio.gather(*(some() for _ in range(AT_ONCE)))
                return time.perf_counter() - begun

        floor = asyncio.run(bare())
    finally:
        running.stop()
    return {"all to rest and every refund confirmed, s": round(ours, 2), "the channel's bare answers, s": round(floor, 2),
            "ratio": round(ours / floor, 2)}  # fmt: skip


class Timed:
    """An engine measured from outside: how long its rounds take, in µs."""

    def __init__(self, engine: Engine, times: list[float]) -> None:
        self.engine, self.times = engine, times

    def __getattr__(self, name: str) -> Any:
        found = getattr(self.engine, name)
        if name not in ("handle", "advance"):
            return found

        def timed(*args: Any) -> Any:
            begun = time.perf_counter()
            out = found(*args)
            if out:
                self.times.append((time.perf_counter() - begun) * 1e6)
            return out

        return timed


def long_lines(folder: Path) -> dict[str, Any]:
    """Measures a round of the show with ten waiting viewers, and with ten thousand."""

    async def rounds(where: Path, waiting: int) -> list[float]:
        where.mkdir()
        beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.02}}]
        calls = [{"kind": "chat", "match": "is", "text": "!tea"}]
        lanes = [{"id": "yard", "name": "Yard", "line": 10_000, "wait_s": 3600, "gap_s": 0, "order": "fair"}]
        pace = {"cooldown_s": 0, "viewer_cooldown_s": 1, "spared": ["moderator"]}
        cues = [{"id": "tea", "name": "Tea", "calls": calls, "beats": beats, "door": pace}]
        inside = Inside(where, book_from({"lanes": lanes, "cues": cues}))
        inside.start()
        engine, times = inside.runner.engine, list[float]()
        for n in range(waiting + 1):
            engine.handle(h.Chat(h.Viewer(f"v{n % 3000}", "v", ("moderator",)), "!tea"), inside.runner.clock.now())
        inside.runner.engine = Timed(engine, times)  # type: ignore[assignment]
        for n in range(150):
            await inside.runner.post(h.Chat(h.Viewer(f"n{n}", "v", ("moderator",)), "!tea"))
            await asyncio.sleep(0.01)
        await inside.stop()
        return times

    short = asyncio.run(rounds(folder / "short", 10))
    long = asyncio.run(rounds(folder / "long", 9_500))
    return {
        "10 waiting, µs": round(median(short)), "about 9,500 waiting, µs": round(median(long)),
        "ratio": round(median(long) / median(short), 2),
        "99th, ratio": round(quantiles(long, n=100)[98] / quantiles(short, n=100)[98], 2),
    }  # fmt: skip


def growth(folder: Path) -> dict[str, Any]:
    """Measures what ten thousand redemptions, all let in, leave on disk beside the show's own state."""

    async def night() -> float:
        beats = [{"id": "c", "kind": "caption", "text": "hi {{viewer}}", "length": {"s": 0.1}}]
        cues = [{"id": f"c{n}", "name": "C", "entry": "overlap", "calls": [{"kind": "reward", "reward": f"r{n}"}],
                 "beats": beats} for n in range(10)]  # fmt: skip
        rewards = [{"id": f"r{n}", "title": f"R{n}", "cost": 100} for n in range(10)]
        inside = Inside(folder, book_from({"rewards": rewards, "cues": cues}))
        inside.start()
        for n in range(GROWN):
            viewer = h.Viewer(f"viewer-{n % 900:04d}", f"bramble_{n % 900}", ("follower",))
            inside.runner.put(h.Redemption(f"rd-{n:012x}", f"r{n % 10}", viewer, "mind the gap", 100))
            if n % 100 == 99:
                await asyncio.sleep(0.05)
        await asyncio.sleep(1)
        await inside.stop()
        base = sqlite3.connect(folder / FILE)
        size = base.execute("select sum(pgsize) from dbstat where name != 'snapshots'").fetchone()[0]
        base.close()
        return float(size) / 1e6

    folder.mkdir()
    return {"MB for 10,000 redemptions": round(asyncio.run(night()), 2)}


def exports(folder: Path) -> dict[str, Any]:
    """Measures fifty thousand lines next to a bare cursor over the same rows, and the server's answers meanwhile."""
    running = Running(folder / "exports" / "data")
    running.data.mkdir(parents=True)
    try:
        running.start()
        base = sqlite3.connect(running.data / FILE, timeout=20)
        line = ("'v' || (n % 900), 'bramble_' || (n % 900), 'mind the gap', 'tea', 100, 'tea', 'let_in', '', '', n, 'fulfilled', "
                "'[]', 1700000000000 + n")  # fmt: skip
        numbers = f"with recursive k(n) as (select 1 union all select n + 1 from k where n < {LINES})"
        base.execute(
            "insert into ledger (at, call, kind, viewer, viewer_name, text, reward, cost, cue, verdict, reason, detail, run, "
            f"outcome, trace, wall) {numbers} select n, 'rd-' || n, 'redemption', {line} from k"
        )
        for what in ("start", "finish"):
            base.execute(f"insert into notes {numbers} select n, n, '{what}', '', '{{}}' from k")
        base.commit()
        file = running.data / FILE

        def cursor(query: str) -> float:
            begun = time.perf_counter()
            for _ in base.execute(query):
                pass
            return time.perf_counter() - begun

        lines = min(cursor("select * from ledger order by id") for _ in range(3))
        both = min(
            cursor("select l.*, n.* from ledger l left join notes n on n.run = l.run order by l.id") for _ in range(3)
        )

        def ours(made: Any) -> float:
            begun = time.perf_counter()
            for _ in made():
                pass
            return time.perf_counter() - begun

        as_csv = min(ours(lambda: csv_lines(file, Where())) for _ in range(3))
        as_events = min(ours(lambda: event_lines(file, Where(), "/ledger")) for _ in range(3))

        def health(for_s: float) -> float:
            times = []
            end = time.perf_counter() + for_s
            while time.perf_counter() < end:
                begun = time.perf_counter()
                running.api.get("/api/health").raise_for_status()
                times.append(time.perf_counter() - begun)
                time.sleep(0.002)
            return median(times) * 1000

        quiet = health(2)
        going = threading.Event()

        def read() -> None:
            with httpx.Client(base_url=running.api.base_url, trust_env=False, timeout=60) as client:
                while not going.is_set():
                    with client.stream("GET", "/api/ledger.jsonl") as answer:
                        for _ in answer.iter_raw():
                            time.sleep(0.0005)

        reader = threading.Thread(target=read)
        reader.start()
        busy = health(3)
        going.set()
        reader.join()
    finally:
        running.stop()
    return {
        "CSV, ratio to a bare cursor over the lines": round(as_csv / lines, 2),
        "CloudEvents with notes, ratio to a bare cursor over both": round(as_events / both, 2),
        "health while one is read, ratio": round(busy / quiet, 2),
        "health, ms": [round(quiet, 2), round(busy, 2)],
    }


def held_database(folder: Path) -> dict[str, Any]:
    """Measures how long the server keeps somebody waiting while another program holds its database."""
    running = Running(folder / "held" / "data")
    running.data.mkdir(parents=True)

    def slowest(for_s: float) -> float:
        worst, end = 0.0, time.perf_counter() + for_s
        while time.perf_counter() < end:
            begun = time.perf_counter()
            running.api.get("/api/health").raise_for_status()
            worst = max(worst, time.perf_counter() - begun)
            time.sleep(0.005)
        return worst * 1000

    try:
        running.start()
        free = slowest(5)
        base = sqlite3.connect(running.data / FILE, isolation_level=None, timeout=20)
        base.execute("begin immediate")
        for n in range(20):
            running.channel.post("/chat", json={"viewer": "owlpost", "text": f"mind the gap {n}"})
        held = slowest(30)
        base.rollback()
    finally:
        running.stop()
    return {"free, the slowest of 5 s, ms": round(free, 1), "held 30 s, the slowest, ms": round(held, 1)}


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory() as where:
        for part in (refunds, long_lines, exports, held_database):
            print(part.__name__, json.dumps(part(Path(where)), ensure_ascii=False), flush=True)
        print("growth", json.dumps(growth(Path(where) / "growth")), flush=True)
