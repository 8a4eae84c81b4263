"""Looking back: long ledgers, a year of nights, rehearsals beside the show, and nights that are the same again."""

from __future__ import annotations

import os
import random
import sqlite3
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from statistics import median
from typing import Any

from websockets.sync.client import connect

from cuejar.store.database import FILE, open_database
from cuejar.store.nights import recorded
from tests.bench.overlay import Channel, figures_of, measured
from tests.live.test_nights import _again, _book, _calls, _nights, _on_air, _ordered
from tests.running import Running, free_ports, until

LONG, SHORT = 200_000, 200
NIGHTS = 208
"""Four a week, for a year."""
AGAIN = 8
DAY_MS = 86_400_000


def _lines(file: Path, count: int) -> None:
    """Writes calls into the ledger of a Cue Jar at rest."""
    with sqlite3.connect(file, timeout=20) as base:
        numbers = f"with recursive k(n) as (select 1 union all select n + 1 from k where n < {count})"
        line = ("n, 'rd-' || n, 'redemption', 'v' || (n % 900), 'bramble_' || (n % 900), 'mind the gap ' || n, 'tea', 100, 'tea', "
                "case n % 7 when 0 then 'turned_away' else 'let_in' end, case n % 7 when 0 then 'cooldown' else '' end, '', "
                "'', 'fulfilled', '[]', 1700000000000 + n")  # fmt: skip
        base.execute(
            "insert into ledger (at, call, kind, viewer, viewer_name, text, reward, cost, cue, verdict, reason, detail, run, "
            f"outcome, trace, wall) {numbers} select {line} from k"
        )
    base.close()


def _asked(running: Running, asks: dict[str, Any]) -> Any:
    return running.api.get("/api/ledger", params=asks).raise_for_status().json()


def _took(ask: Callable[[], Any], times: int = 40) -> float:
    """Returns the median time of an answer, in ms."""
    took = []
    for _ in range(times):
        begun = time.perf_counter()
        ask()
        took.append((time.perf_counter() - begun) * 1000)
    return median(took)


ASKED: dict[str, dict[str, Any]] = {
    "newest": {},
    "oldest": {"before": 150},
    "by a word": {"words": "17"},
    "by a word in every line": {"words": "mind"},
    "by a viewer": {"viewer": "bramble_17"},
    "turned away": {"reason": "cooldown"},
    "a viewer, turned away": {"viewer": "bramble_17", "reason": "cooldown"},
    "a word and a day": {"words": "gap", "since": 1700000000000, "until": 1700000000190},
}


def ledgers(folder: Path) -> dict[str, Any]:
    """Measures pages of the ledger by each filter, with 200,000 calls next to 200; each page has as many lines here as
    there.
    """
    told: dict[str, dict[str, float]] = {}
    most: dict[str, int] = {}
    for count in (SHORT, LONG):
        running = Running(folder / f"ledger{count}" / "data", free_ports())
        running.data.mkdir(parents=True)
        try:
            running.start()
            running.kill_server()
            _lines(running.data / FILE, count)
            running.start_server()
            took: dict[str, float] = {}
            for name, some in ASKED.items():
                asks = {"limit": most.get(name, 100), **some}
                lines = len(_asked(running, asks)["lines"])
                assert lines == most.setdefault(name, lines) > 0
                took[name] = round(_took(partial(_asked, running, asks)), 2)
            told[str(count)] = took
        finally:
            running.stop()
    short, long = told[str(SHORT)], told[str(LONG)]
    return {"lines": most, **told, "ratio": {name: round(long[name] / short[name], 2) for name in short}}


def _starts(running: Running) -> float:
    """Returns how long a start takes, in s; the best of three."""
    took = []
    for _ in range(3):
        running.kill_server()
        begun = time.perf_counter()
        running.start_server()
        took.append(time.perf_counter() - begun)
    return min(took)


def a_year(folder: Path) -> dict[str, Any]:
    """Measures a year of nights like yesterday's at the halt: its size on disk, and how much longer a start takes."""
    running = Running(folder / "year" / "data", free_ports())
    running.data.mkdir(parents=True)
    try:
        running.start_standins()
        running.start_server()
        running.in_step()
        fresh = _starts(running)
        _book(running)
        _on_air(running, "live")
        _calls(running, random.Random(1), 6)
        _on_air(running, "ended")
        running.kill_server()
        with sqlite3.connect(running.data / FILE, timeout=20) as base:
            before = base.execute("select sum(pgsize) from dbstat").fetchone()[0]
            (night,) = base.execute("select min(first) from nights").fetchone()
            for number in range(1, NIGHTS):
                back, shift = -number * DAY_MS, number * 10_000_000
                base.execute("insert into nights select first - ?, last - ?, at + ?, wall + ?, ended + ?, ended_wall + ?, category, note, state "
                             "from nights where first = ?", (shift, shift, back, back, back, back, night))  # fmt: skip
                base.execute("insert into night_parts select night - ?, first - ?, last - ?, entries, packed from night_parts where night = ?",
                             (shift, shift, shift, night))  # fmt: skip
                columns = "call, kind, viewer, viewer_name, text, reward, cost, cue, verdict, reason, detail, run, outcome, trace"
                base.execute(f"insert into ledger (at, wall, {columns}) select at + ?, wall + ?, {columns} from ledger "
                             "where wall >= (select wall from nights where first = ?)", (back, back, night))  # fmt: skip
            size = base.execute("select sum(pgsize) from dbstat").fetchone()[0]
            calls = base.execute("select count(*) from ledger").fetchone()[0]
        base.close()
        running.start_server()
        old = _starts(running)
        listed = _took(lambda: running.api.get("/api/nights", params={"limit": 50}), 10)
        lines = running.api.get("/api/ledger", params={"limit": 50}).json()["lines"]
        who = next(line["viewer"] for line in lines if line["viewer"])
        begun = time.perf_counter()
        running.api.post("/api/viewers/forget", json={"viewer": who}, timeout=300).raise_for_status()
        forgotten = time.perf_counter() - begun
    finally:
        running.stop()
    return {
        "nights": NIGHTS,
        "calls": calls,
        "MB": round((size - before) / 1e6, 1),
        "start, s": {"fresh": round(fresh, 2), "a year": round(old, 2), "ratio": round(old / fresh, 2)},
        "50 nights listed, ms": round(listed, 1),
        "a viewer forgotten in all of them, s": round(forgotten, 2),
    }


def beside(folder: Path) -> dict[str, Any]:
    """Measures from the channel's event to the overlay's message, alone and during a sweep."""
    running = Running(folder / "beside" / "data", free_ports())
    running.data.mkdir(parents=True)
    channel = Channel(running.port + 10)
    try:
        running.start_server()
        running.in_step()
        beat = {"id": "card", "kind": "caption", "text": "go", "length": {"s": 60}}
        calls = [{"kind": "chat", "match": "is", "text": "!go"}]
        running.book(
            cues=[{"id": "go", "name": "Go", "calls": calls, "entry": "overlap", "beats": [beat]}],
            audiences=[{"id": "friday", "name": "Friday", "calls": 4_000}],
        )
        until(lambda: channel.app.state.channel.listeners)
        with connect(running.overlay_feed(), proxy=None) as feed:
            feed.recv(timeout=5)
            alone = figures_of(measured(channel, feed))
            running.api.post("/api/rehearsals", json={"audience": "friday", "nights": 200}).raise_for_status()
            until(lambda: running.api.get("/api/rehearsals").json()[-1]["done"] > 1)
            with_it = figures_of(measured(channel, feed))
            row = running.api.get("/api/rehearsals").json()[-1]
    finally:
        running.stop()
    ratio = {key: round(with_it[key] / alone[key], 2) for key in alone}
    return {
        "alone": alone,
        "beside": with_it,
        "ratio": ratio,
        "nights meanwhile": row["done"],
        "still at it": row["state"],
    }


def again(folder: Path) -> dict[str, Any]:
    """Replays random nights of the real process: how many are identical, order by order."""
    orders = folder / "orders.jsonl"
    os.environ["CUEJAR_ORDERS"], os.environ["CUEJAR_SNAPSHOT_EVERY"] = str(orders), "200"
    running = Running(folder / "again" / "data", free_ports())
    running.data.mkdir(parents=True)
    same = compared = 0
    try:
        running.start()
        _book(running)
        luck = random.Random(7)
        for _ in range(AGAIN):
            _on_air(running, "live")
            _calls(running, luck, 4)
            _on_air(running, "ended")
        for night in _nights(running):
            rows, _ = _again(running, night["id"])
            there = recorded(open_database(running.data).sessions, night["id"])
            assert there is not None and there.ended is not None
            live = _ordered(orders, there.at, there.ended)
            same += live == rows
            compared += len(live)
    finally:
        running.stop()
        del os.environ["CUEJAR_ORDERS"], os.environ["CUEJAR_SNAPSHOT_EVERY"]
    return {"nights": AGAIN, "the same": same, "orders compared": compared}
