"""Rewards, viewers and points: pages with very many next to few, a set of a hundred on its way to the channel, the door
with points.
"""

from __future__ import annotations

import json
import sqlite3
import statistics
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

from selenium.webdriver import Chrome

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.facts import happenings as h
from cuejar.store.database import FILE
from tests.browser.conftest import chromium
from tests.running import Running, until

FEW, REWARDS, VIEWERS = 20, 500, 20_000
TIMES = 7
CHATS = 40_000
HUNDRED = 100
AT_ONCE = 8
PAINTED = """
const [seen, done] = arguments;
const look = () => document.querySelector(seen) ? requestAnimationFrame(() => done(performance.now())) : requestAnimationFrame(look);
look();
"""


def _filled(running: Running, rewards: int, viewers: int) -> None:
    """Puts rewards into the book and viewers with a call each into the tables, while the server is down."""
    running.kill_server()
    base = sqlite3.connect(running.data / FILE)
    with base:
        number, book = base.execute("select id, book from revisions order by id desc limit 1").fetchone()
        data = json.loads(book)
        data["rewards"] = [
            {"id": f"r{n}", "title": f"Reward {n}", "cost": n + 1, "tags": ["yard"]} for n in range(rewards)
        ]
        data["cues"] = [
            {
                "id": f"c{n}",
                "name": f"Cue {n}",
                "calls": [{"kind": "reward", "reward": f"r{n}"}],
                "door": {"cap_stream": 50},
            }
            for n in range(rewards)
        ]
        base.execute("update revisions set book = ? where id = ?", [json.dumps(data), number])
        now = time.time_ns() // 1_000_000
        rows = [(f"v{n}", f"viewer_{n}", '["follower"]', 1, now - n * 1_000, now - n * 1_000) for n in range(viewers)]
        base.executemany("insert into viewers (id, name, roles, tier, first, last) values (?, ?, ?, ?, ?, ?)", rows)
        lines = [
            (n, now - n * 1_000, f"rd-{n}", "redemption", f"v{n}", f"viewer_{n}", "", f"r{n % rewards}", 10, f"c{n % rewards}", "let_in",
             "", "", "", "fulfilled", "[]") for n in range(viewers)
        ]  # fmt: skip
        base.executemany(
            "insert into ledger (at, wall, call, kind, viewer, viewer_name, text, reward, cost, cue, verdict, reason, detail, run, outcome, trace)"
            f" values ({', '.join('?' * 16)})",
            lines,
        )
    base.close()
    running.start_server()


def _paint_ms(driver: Chrome, address: str, seen: str) -> float:
    times = []
    for _ in range(TIMES):
        driver.get(address)
        times.append(float(driver.execute_async_script(PAINTED, seen)))
    return statistics.median(times[1:])


def _measured(folder: Path, rewards: int, viewers: int) -> dict[str, float]:
    data = folder / f"rewards-{rewards}" / "data"
    data.mkdir(parents=True)
    running = Running(data).start()
    driver = chromium(folder / f"rewards-profile-{rewards}")
    driver.set_script_timeout(60)
    home = f"http://127.0.0.1:{running.port}"
    try:
        _filled(running, rewards, viewers)
        until(lambda: len(running.channel.get("/rewards").json()) == rewards)
        time.sleep(1)
        return {
            "rewards": _paint_ms(driver, f"{home}/rewards", "[data-reward]"),
            "viewers": _paint_ms(driver, f"{home}/viewers", "[data-viewer]"),
        }
    finally:
        driver.quit()
        running.stop()


def first_paint(folder: Path) -> dict[str, Any]:
    """Returns medians in ms from the address to the first row on the screen; many over few."""
    few, many = _measured(folder, FEW, FEW), _measured(folder, REWARDS, VIEWERS)
    return {
        name: {
            "20, ms": round(few[name]),
            "very many, ms": round(many[name]),
            "ratio": round(many[name] / few[name], 2),
        }
        for name in few
    }


def burst(folder: Path) -> dict[str, Any]:
    """Measures a set of a hundred that is switched off, until the channel has it; next to a hundred bare calls, as many
    at once.
    """
    data = folder / "burst" / "data"
    data.mkdir(parents=True)
    running = Running(data).start()
    try:
        many = [{"id": f"r{n}", "title": f"Reward {n}", "cost": n + 1} for n in range(HUNDRED)]
        members = {"id": "all", "name": "All", "rewards": [row["id"] for row in many]}
        running.book(rewards=many, sets=[members])
        until(lambda: len(running.channel.get("/rewards").json()) == HUNDRED)
        ids = [row["id"] for row in running.channel.get("/rewards").json()]

        def off(on: bool) -> None:
            running.api.put("/api/book/sets/all", json={"value": {**members, "on": on}}).raise_for_status()
            until(lambda: all(row["on"] == on for row in running.channel.get("/rewards").json()), every=0.005)

        took = []
        for on in (False, True, False, True):
            begun = time.perf_counter()
            off(on)
            took.append(time.perf_counter() - begun)
        with ThreadPoolExecutor(AT_ONCE) as pool:
            begun = time.perf_counter()
            list(
                pool.map(
                    lambda one: running.channel.patch(f"/rewards/{one}", json={"prompt": "x"}).raise_for_status(), ids
                )
            )
            bare = time.perf_counter() - begun
    finally:
        running.stop()
    ours = statistics.median(took)
    return {"set, ms": round(ours * 1_000), "100 bare calls, ms": round(bare * 1_000), "ratio": round(ours / bare, 2)}


def _night_s(points: bool) -> float:
    calls = [{"kind": "chat", "match": "is", "text": "!tea", **({"cost": 1} if points else {})}]
    beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.1}}]
    cue = {"id": "tea", "name": "Tea", "entry": "overlap", "calls": calls, "beats": beats, "door": {"cooldown_s": 0}}
    engine = Engine(book_from({"cues": [cue], "points": {"on": points, "per_min": 100}}), 3, {})
    engine.handle(h.Stream("live"), 0)
    viewers = [h.Viewer(f"v{n}", f"viewer_{n}", ("follower",)) for n in range(500)]
    if points:
        for viewer in viewers:
            engine.handle(h.GivePoints(viewer.id, 10_000), 0)
    begun = time.process_time()
    for n in range(CHATS):
        engine.handle(h.Chat(viewers[n % 500], "!tea", f"c{n}"), n * 20)
    return time.process_time() - begun


def door() -> dict[str, Any]:
    """Measures 40,000 chat calls of 500 viewers, each let in; with a price in points of ours, and without."""
    bare = min(_night_s(False) for _ in range(3))
    with_points = min(_night_s(True) for _ in range(3))
    return {
        "with points, s": round(with_points, 2),
        "without, s": round(bare, 2),
        "ratio": round(with_points / bare, 2),
    }
