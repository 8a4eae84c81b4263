"""Speed of hand: from the press to the next paint that shows it, on the demo, beside an empty page of the same app."""

from __future__ import annotations

import time
from pathlib import Path
from statistics import median, quantiles
from typing import Any

from selenium.webdriver import Chrome

from tests.browser.conftest import chromium
from tests.browser.person import Person
from tests.running import Running, until

TIMES = 20
PAGES = ("desk", "rewards", "jars", "media", "cast", "rig", "ledger", "pads", "rehearse")
CUE = "night-mail"
PAINTED = """
const [press, seen, least, done] = arguments;
const begun = performance.now();
if (press.startsWith('/')) {
  history.pushState({}, '', press);
  dispatchEvent(new PopStateEvent('popstate', { state: {} }));
} else {
  const pressed = document.querySelector(press);
  for (const what of ['pointerdown', 'pointerup']) pressed.dispatchEvent(new PointerEvent(what, { bubbles: true, pointerId: 1 }));
  pressed.click();
}
const look = () => requestAnimationFrame(() => {
  const there = [...document.querySelectorAll(seen)].filter((e) => e.getClientRects().length);
  if (there.length >= least) setTimeout(() => done(performance.now() - begun)); else look();
});
look();
"""
"""Presses something, or goes to an address of the app, and returns how long it took until the result was painted."""


class _Hand:
    def __init__(self, driver: Chrome) -> None:
        self.driver = driver
        self.took: dict[str, list[float]] = {}

    def press(self, what: str, css: str, seen: str, least: int = 1) -> None:
        took = float(self.driver.execute_async_script(PAINTED, css, seen, least))
        self.took.setdefault(what, []).append(took)
        time.sleep(0.25)


def _round(hand: _Hand, person: Person) -> None:
    """Visits every page once, and a cue."""
    hand.press("an empty page", "/nothing/here", "[data-test=nowhere]")
    for page in PAGES:
        hand.press("a page", f".label[href='/{page}']", f".label.on[href='/{page}']")
        if page == "cast":
            hand.press("a part of the cast", ".part .name", "[data-test=base-voice]")
            hand.press("a part of the cast", ".part + .part .name", ".part + .part [data-test=base-voice]")
    hand.press("a page", "a[href='/cues']", f"[href='/cues/{CUE}']")
    hand.press("a cue", f"[href='/cues/{CUE}']", "[data-test=score] [data-block]")
    blocks = [e.get_attribute("data-block") for e in hand.driver.find_elements("css selector", "[data-block]")][:3]
    for block in blocks:
        hand.press("picking a beat", f"[data-block='{block}']", f".chosen[data-block='{block}']")
    many = len(hand.driver.find_elements("css selector", "[data-block]"))
    hand.press("adding a beat", "[data-test=add-caption]", "[data-block]", many + 1)
    person.click("[data-test=undo]")
    until(lambda: len(hand.driver.find_elements("css selector", "[data-block]")) == many)


def _figures(times: list[float]) -> dict[str, float]:
    return {"median": round(median(times), 1), "95th": round(quantiles(times, n=20)[18], 1)}


def hand(folder: Path) -> dict[str, Any]:
    """Returns the 95th percentile and the median of each, in ms, over `TIMES` rounds; the first round only warms up."""
    data = folder / "hand" / "data"
    data.mkdir(parents=True)
    running = Running(data)
    running.server = running._start("demo", "--port", str(running.port), "--data", str(running.data))
    until(lambda: running.api.get("/api/health").json()["channel"] == "in_step", patience_s=180)
    driver = chromium(folder / "hand-profile")
    driver.set_script_timeout(60)
    try:
        driver.get(f"http://127.0.0.1:{running.port}/cues")
        person = Person(driver)
        person.see(f"[href='/cues/{CUE}']")
        hands = _Hand(driver)
        _round(hands, person)
        hands.took.clear()
        for _ in range(TIMES):
            _round(hands, person)
    finally:
        driver.quit()
        running.stop()
    return {what: _figures(times) for what, times in hands.took.items()}
