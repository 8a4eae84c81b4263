"""Every control that the web's table names exists, and what it is set to is in the book."""

from __future__ import annotations

import json
import subprocess
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver import Chrome

from cuejar.core.kinds.table import KINDS
from tests.browser.conftest import chromium
from tests.browser.person import Person
from tests.running import Running, until

WEB = Path(__file__).parents[2] / "web"
Table = dict[str, dict[str, dict[str, str]]]
SET_ALL = """
const [scope, most, done] = arguments;
const soon = (ms) => new Promise((then) => setTimeout(then, ms));
const kinds = {
  '[data-test=add-condition]': 'pick', '[data-test=unless]': 'press',
  '.el-switch, label.el-checkbox, input[type=checkbox]:not(.el-checkbox__original), button[aria-pressed]': 'press',
  'label.el-segmented__item:not(.is-selected), input[type=radio], [role=radio]:not([aria-checked=true])': 'press',
  '.el-slider__button-wrapper': 'slide', '.el-input-number input': 'number', '.duration input': 'duration',
  'input[type=color]': 'colour', 'textarea, input.well:not([type])': 'words', '.el-select': 'pick',
};
const name = (e) => [e.dataset.test, e.ariaLabel, e.placeholder, e.title, e.value === undefined ? e.textContent : '',
  (e.closest('label, .field') ?? e).firstChild?.textContent.trim()].join('|').slice(0, 90);
const seen = (e) => e.getClientRects().length && getComputedStyle(e).visibility !== 'hidden';
const known = new Set(), done_with = new WeakSet();
function next() {
  for (const root of document.querySelectorAll(scope)) for (const [css, how] of Object.entries(kinds))
    for (const e of root.querySelectorAll(css)) {
      if (!seen(e) || e.disabled || e.closest('.is-disabled, [disabled], .el-select__popper')) continue;
      if (how !== 'pick' && e.closest('.el-select')) continue;
      if (how === 'words' && e.closest('.duration, .el-input-number')) continue;
      const key = how + ' ' + name(e);
      if (known.has(key) || (done_with.has(e) && e.dataset.test !== 'add-condition')) continue;
      known.add(key); done_with.add(e);
      return [e, how];
    }
}
function write(e, value) {
  const of = e instanceof HTMLTextAreaElement ? HTMLTextAreaElement : HTMLInputElement;
  e.focus();
  Object.getOwnPropertyDescriptor(of.prototype, 'value').set.call(e, value);
  for (const what of ['input', 'change']) e.dispatchEvent(new Event(what, { bubbles: true }));
  e.blur();
}
async function pick(e) {
  (e.querySelector('.el-select__wrapper') ?? e).click();
  for (let tries = 0; tries < 20; tries++) {
    await soon(20);
    const list = document.getElementById(e.querySelector('input').getAttribute('aria-controls'));
    const there = list && [...list.querySelectorAll('[role=option]:not([aria-selected=true], [aria-disabled=true])')].filter(seen);
    const plain = there?.filter((e) => !e.textContent.trim().endsWith('…'));
    if (there?.length) return (plain.at(-1) ?? there.at(-1)).click();
  }
  document.body.click();
}
async function set(e, how) {
  if (how === 'press') e.click();
  else if (how === 'number') write(e, e.value === '3' ? '2' : '3');
  else if (how === 'duration') write(e, e.value === '2.5 s' ? '1.5 s' : '2.5 s');
  else if (how === 'colour') write(e, '#123456');
  else if (how === 'words') write(e, e.value + 'x');
  else if (how === 'slide') {
    e.focus();
    const code = e.ariaValueNow === e.ariaValueMin ? 'ArrowRight' : 'ArrowLeft';
    e.dispatchEvent(new KeyboardEvent('keydown', { code, key: code, bubbles: true }));
  } else await pick(e);
}
(async () => {
  for (let found; known.size < most && (found = next()); await soon(25)) await set(...found);
  done([...known]);
})();
"""
"""Sets every visible control once, including those that appear meanwhile."""
COUNT_CALLS = """
const ask = window.fetch;
window.underWay = 0;
window.quietSince = 0;
window.fetch = (...all) => {
  window.underWay += 1;
  return ask(...all).finally(() => {
    window.underWay -= 1;
    window.quietSince = performance.now();
  });
};
"""
"""Inserted into each page before its own scripts."""
CAPTION = {"id": "first", "kind": "caption", "text": "Mind the gap"}
BEATS: dict[str, dict[str, Any]] = {
    "picture": {"media": {"file": "whistle-plume"}},
    "clip": {"media": {"file": "crossing"}},
    "sound": {"media": {"file": "platform-bell"}},
    "speech": {"text": "Mind the gap", "caption": False, "mouth": False},
    "caption": {"text": "Mind the gap"},
    "bar": {"count": "woken", "goal": 9},
    "burst": {},
    "throw": {},
    "haptics": {"pattern": "express"},
    "scene": {"scene": "Yard cam"},
    "source": {"scene": "Yard cam", "source": "Snow"},
    "filter": {"sources": ["Bench cam"], "filter": "Fog", "setting": "amount", "value": 70},
    "light": {"level": 0.5, "fixtures": ["signal"]},
    "avatar": {"pose": "Waving"},
    "voice": {"preset": "Tannoy"},
    "keys": {"combo": "ControlLeft+KeyL"},
    "set": {"gear": "yard", "thing": "turntable", "setting": "plate", "value": "Water"},
    "reward": {"rewards": ["whistle"], "on": False},
    "tap": {"combo": "KeyL"},
    "do": {"gear": "yard", "thing": "vane", "deed": "spin", "values": {"turns": 2}},
    "hook": {"hook": "signal-box-log"},
    "count": {"name": "woken"},
    "draw": {"title": "Guest"},
    "points": {},
    "win": {"what": "a lamp"},
    "reply": {"text": "Mind the gap"},
    "fire": {"cue": "other"},
    "chance": {
        "dice": {"count": 2, "sides": 6},
        "outcomes": [
            {"id": "a", "name": "A pair", "when": "pair"},
            {"id": "n", "name": "Not this time", "when": "any"},
        ],
    },
}
ELSEWHERE: dict[str, dict[str, str]] = {
    "SpeechBeat": {"place": "by dragging: tests of the stage"},
    "ThrowBeat": {"from_x": "test_throws_are_tuned_and_their_circles_laid", "from_y": "as from_x"},
    "SetBeat": {"gear": "one bridge of things is there"},
    "DoBeat": {"gear": "one bridge of things is there", "deed": "the vane has one"},
}
"""Controls that need a drag, or more than the demo has, and why they aren't set here."""
WHOSE = "whose"
"""Set in a cue that draws a viewer: test_a_game_for_whoever_is_there."""


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    """Returns for each model and field the component that edits it (``at``), or why nobody should (``never``)."""
    file = tmp_path_factory.mktemp("controls") / "controls.mjs"
    bundle = ["node_modules/.bin/rolldown", "src/controls/index.ts", "--file", str(file), "--format", "esm"]
    subprocess.run(bundle, cwd=WEB, check=True, capture_output=True)
    ask = f"import({json.dumps(file.as_uri())}).then((m) => console.log(JSON.stringify(m.CONTROLS)))"
    said = subprocess.run(["node", "-e", ask], cwd=WEB, check=True, capture_output=True, text=True).stdout
    told: Table = json.loads(said)
    return told


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    """The demo, with two of what it has only one of."""
    running = Running(tmp_path_factory.mktemp("demo"))
    running.server = running._start("demo", "--port", str(running.port), "--data", str(running.data))
    try:
        until(lambda: running.api.get("/api/health").json()["channel"] == "in_step", patience_s=180)
        put(running, "overlays", {"id": "second", "name": "Second"})
        put(running, "counts", {"id": "woken", "name": "Woken"})
        put(running, "counts", {"id": "sold", "name": "Sold"})
        put(running, "media", {**entry(running, "media", "crossing"), "id": "crossing-two", "name": "Two"})
        put(running, "gear", {**entry(running, "gear", "signal-box-log"), "id": "log-two", "name": "Two"})
        put(running, "cues", {"id": "other", "name": "Other", "beats": [CAPTION]})
        yield running
    finally:
        running.stop()


@pytest.fixture(scope="module")
def browser(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Chrome]:
    made = chromium(tmp_path_factory.mktemp("controls-profile"))
    made.set_script_timeout(60)
    made.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": COUNT_CALLS})
    yield made
    made.quit()


def put(running: Running, kind: str, value: dict[str, Any]) -> None:
    running.api.put(f"/api/book/{kind}/{value['id']}", json={"value": value, "version": None}).raise_for_status()


def entry(running: Running, kind: str, thing: str) -> dict[str, Any]:
    found: dict[str, Any] = next(one for one in running.api.get("/api/book").json()["book"][kind] if one["id"] == thing)
    return found


def set_all(driver: Chrome, scope: str, most: int = 80) -> list[str]:
    """Sets the controls in an element; returns what was set."""
    told: list[str] = driver.execute_async_script(SET_ALL, scope, most)
    return told


@pytest.mark.parametrize("kind", BEATS)
def test_every_field_of_a_beat_has_its_control(kind: str, table: Table, demo: Running, browser: Chrome) -> None:
    model = KINDS[kind].model.__name__
    put(
        demo,
        "cues",
        {"id": f"try-{kind}", "name": kind, "beats": [{"id": "it", "kind": kind, **BEATS[kind]}, CAPTION]},
    )
    before = entry(demo, "cues", f"try-{kind}")["beats"][0]
    browser.get(f"http://127.0.0.1:{demo.port}/cues/try-{kind}")
    person = Person(browser)
    person.click("[data-block='it']")
    person.see(".settings h2")
    done = set_all(browser, ".settings")
    if "at" in table[model].get("layer", {}):
        person.click("[data-test=layers]")
        person.click(".layers .btn.bare:not([disabled])")
    until(lambda: browser.find_element("css selector", ".state").text == "Saved", patience_s=20)
    after = entry(demo, "cues", f"try-{kind}")["beats"][0]
    changed = {field for field in after if after[field] != before.get(field)}
    wanted = {field for field, control in table[model].items() if "at" in control} - {WHOSE, *ELSEWHERE.get(model, {})}
    assert wanted <= changed, done


def test_all_kinds_of_beat_are_tried() -> None:
    assert set(BEATS) == set(KINDS)


SCOPES: dict[str, tuple[str, str, str, str, str]] = {
    "who": ("Door", "cues/try/door", "/cues/try", "[data-test=who]", ".el-popover"),
    "pace": ("Door", "cues/try/door", "/cues/try", "[data-test=pace]", ".el-popover"),
    "text": ("TextRule", "cues/try/door/text", "/cues/try", "[data-test=text]", ".el-popover"),
    "more": ("Cue", "cues/try", "/cues/try", "[data-test=cue-more]", ".el-popover"),
    "lane": ("Lane", "lanes/yard", "/lanes", "", "[data-test=lane-yard]"),
    "count": ("Count", "counts/woken", "/counts", "", "[data-test=count-woken]"),
    "house": ("House", "house", "/rig", "", ".card.house"),
    "reward": ("Reward", "rewards/whistle", "/rewards", "[data-reward=whistle] .name, [data-reward=whistle] button", "[data-test=reward-drawer]"),
    "price": ("Price", "rewards/rumble/price", "/rewards", "[data-reward=rumble] .name, [data-reward=rumble] button", "[data-test=reward-drawer]"),
    "price, of the other kind": ("Price", "rewards/rumble/price", "/rewards", "[data-reward=rumble] .name, [data-reward=rumble] button", "[data-test=reward-drawer]"),
    "points": ("Points", "points", "/viewers", "[data-test=rates]", ".card.points .rates"),
    "part": ("Part", "cast/pip", "/cast", "[data-part=pip] .name", "[data-part=pip]"),
    "reading": ("Reading", "reading", "/cast", "", ".card.reading"),
    "overlay": ("OverlayEntry", "overlays/second", "/rig", "", "[data-overlay=second]"),
    "media": ("MediaEntry", "media/whistle-plume", "/media", "[data-media=whistle-plume]", ".el-drawer"),
    "jar": ("Jar", "jars/posters", "/jars", "", "main"),
}  # fmt: skip
"""For each pane: the model, its place in the book, its page, what opens it, and its controls."""
BY_OTHER_TESTS: dict[str, str] = {
    "Door": "spared",
    "Cue": "beats calls entry hidden lane name on volume",
    "House": "flash_guard hook_places nights_days nights_kept open osc_port pads points_per_min spared switches volume shut_out listening microphone",
    "Reward": "on channel colour cost picture",
    "Price": "then",
    "Part": "mouths",
    "OverlayEntry": "width height timers name",
    "Points": "on",
    "MediaEntry": "file",
    "Jar": "kind name",
}
"""Controls on other pages, with a file, or with a question first."""


def _at(running: Running, path: str) -> dict[str, Any]:
    found: Any = running.api.get("/api/book").json()["book"]
    for key in path.split("/"):
        found = next(one for one in found if one["id"] == key) if isinstance(found, list) else found[key]
    return dict(found or {})


def _settled(running: Running, browser: Chrome, path: str) -> dict[str, Any]:
    """Returns the content once the page has nothing more to send."""
    seen: list[int] = []

    def is_quiet() -> bool:
        time.sleep(0.2)
        seen.append(running.api.get("/api/book").json()["version"])
        is_idle = browser.execute_script("return !window.underWay && performance.now() - window.quietSince > 700")
        return bool(is_idle) and len(seen) > 4 and len(set(seen[-4:])) == 1

    until(is_quiet, patience_s=30)
    return _at(running, path)


def test_every_field_of_the_panes_has_its_control(table: Table, demo: Running, browser: Chrome) -> None:
    put(demo, "cues", {"id": "try", "name": "Try", "beats": [CAPTION]})
    points = {**demo.api.get("/api/book").json()["book"]["points"], "on": True}
    demo.api.put("/api/book/points", json={"value": points, "version": None}).raise_for_status()
    changed: dict[str, set[str]] = {}
    for model, path, page, opener, scope in SCOPES.values():
        before = _at(demo, path)
        browser.get(f"http://127.0.0.1:{demo.port}{page}")
        person = Person(browser)
        if opener:
            person.click(opener)
        person.see(scope)
        set_all(browser, scope)
        after = _settled(demo, browser, path)
        changed.setdefault(model, set()).update(field for field in after if after[field] != before.get(field))
    missing = {
        model: sorted(
            {field for field, control in table[model].items() if "at" in control}
            - fields
            - set(BY_OTHER_TESTS.get(model, "").split())
        )
        for model, fields in changed.items()
    }
    assert {model: fields for model, fields in missing.items() if fields} == {}
