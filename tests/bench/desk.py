"""The desk's page under 200 redemptions in 10 s, next to the idle desk: the page's own long tasks, its frames, its heap."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from statistics import median
from typing import Any

from selenium.webdriver import Chrome

from tests.browser.conftest import chromium
from tests.running import Running, until

CALLS, FOR_S = 200, 10.0
PARTS = 6
VIEWERS = ("owlpost", "bramble_jo", "nine_gauge", "hopper_kit", "kettlewright")
WATCH = """
window.long = [];
new PerformanceObserver((all) => all.getEntries().forEach((one) => window.long.push(one.duration))).observe({ type: 'longtask' });
window.frames = [];
let before = performance.now();
const frame = (now) => { window.frames.push(now - before); before = now; requestAnimationFrame(frame); };
requestAnimationFrame(frame);
"""


def _row(driver: Chrome) -> dict[str, float]:
    """Returns what the page measured since the last question."""
    told = driver.execute_script(
        "const told = [window.long, window.frames]; window.long = []; window.frames = []; return told"
    )
    long, frames = told[0], sorted(told[1])
    return {
        "long tasks over 100 ms": sum(one > 100 for one in long),
        "longest task, ms": round(max(long, default=0.0), 1),
        "99th frame, ms": round(frames[int(len(frames) * 0.99)], 1) if frames else 0.0,
    }


def _heap_kb(driver: Chrome) -> float:
    for _ in range(3):
        driver.execute_cdp_cmd("HeapProfiler.collectGarbage", {})
        time.sleep(0.2)
    return round(driver.execute_cdp_cmd("Runtime.getHeapUsage", {})["usedSize"] / 1000, 1)


@contextmanager
def _desk(folder: Path) -> Iterator[tuple[Running, Chrome]]:
    """Makes a desk with four lanes and eight rewards."""
    data = folder / "desk" / "data"
    data.mkdir(parents=True)
    running = Running(data).start()
    driver = chromium(folder / "desk-profile")
    try:
        cues, rewards = [], []
        for n in range(8):
            beats = [{"id": "c", "kind": "caption", "text": "{{viewer}}", "length": {"s": 1 + n / 4}}]
            calls = [{"kind": "reward", "reward": f"r{n}"}]
            cues.append({"id": f"c{n}", "name": f"Cue {n}", "lane": f"l{n % 4}", "calls": calls, "beats": beats})
            rewards.append({"id": f"r{n}", "title": f"Reward {n}", "cost": 1})
        lanes = [{"id": f"l{n}", "name": f"Lane {n}"} for n in range(4)]
        running.book(lanes=lanes, rewards=rewards, cues=cues)
        until(lambda: len(running.channel.get("/rewards").json()) == 8)
        driver.get(f"http://127.0.0.1:{running.port}/desk")
        until(lambda: driver.execute_script("return document.querySelectorAll('.lane').length") >= 4)
        yield running, driver
    finally:
        driver.quit()
        running.stop()


def long_night(folder: Path, minutes: float = 6) -> dict[str, Any]:
    """Measures the heap of an open desk during a six-hour night at sixty times the speed: 3.3 redemptions a second. The
    last half against the first.
    """
    heaps: list[float] = []
    with _desk(folder / "night") as (running, driver):
        for _ in range(PARTS):
            begun, calls = time.monotonic(), round(minutes * 60 / PARTS * 3.3)
            for n in range(calls):
                running.redeem(VIEWERS[n % len(VIEWERS)], f"Reward {n % 8}")
                time.sleep(max(0.0, begun + (n + 1) / 3.3 - time.monotonic()))
            heaps.append(_heap_kb(driver))
    ratio = round(median(heaps[PARTS // 2 :]) / median(heaps[1 : PARTS // 2]), 3)
    return {"heap by the hour, kB": heaps, "ratio of its second half to its first": ratio}


def busy_desk(folder: Path) -> dict[str, Any]:
    """Measures the desk idle for ten seconds, then with the redemptions; frames as a ratio."""
    with _desk(folder / "busy") as (running, driver):
        driver.execute_script(WATCH)
        time.sleep(1)
        _row(driver)
        time.sleep(FOR_S)
        idle, heap = _row(driver), _heap_kb(driver)
        _row(driver)
        begun = time.monotonic()
        for n in range(CALLS):
            running.redeem("owlpost" if n % 3 else "bramble_jo", f"Reward {n % 8}")
            time.sleep(max(0.0, begun + (n + 1) * FOR_S / CALLS - time.monotonic()))
        busy = _row(driver)
        running.api.post("/api/all-to-rest", json={}).raise_for_status()
        time.sleep(3)
        after = _heap_kb(driver)
    ratio = round(busy["99th frame, ms"] / max(0.1, idle["99th frame, ms"]), 2)
    return {"idle": idle, "busy": busy, "ratio of the 99th frame": ratio, "heap, kB": {"before": heap, "after": after}}
