"""Every page for everyone: at any width nothing overlaps or is cut off, and the accessibility checker finds nothing."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import pytest
from selenium.webdriver import Chrome

from cuejar.core.book.files import book_from
from cuejar.store.bundle import written
from tests.browser.conftest import chromium, sized
from tests.browser.person import Person
from tests.running import Running, until

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
PAGES = [
    "/opening",
    "/desk",
    "/cues",
    "/rewards",
    "/cues/steam-whistle",
    "/cues/shunters-dice",
    "/jars",
    "/media",
    "/cast",
    "/rig",
    "/ledger",
    "/viewers",
    "/rehearse",
    "/nights",
    "/nights/4",
    "/books",
    "/pads",
    "/snags",
    "/no/such",
]
OPENED = [
    ("/desk", "[data-test=ready]"),
    ("/desk", "[data-test=outputs]"),
    ("/desk", ".overlays"),
    ("/desk", "[aria-label=Search]"),
    ("/desk", "[aria-label=Help]"),
    ("/cues/steam-whistle", "[data-test=calls]"),
    ("/cues/steam-whistle", "[data-test=text]"),
    ("/cues/steam-whistle", "[data-test=who]"),
    ("/cues/steam-whistle", "[data-test=pace]"),
    ("/cues/steam-whistle", "[data-test=lane]"),
    ("/cues/steam-whistle", "[data-test=pretend]"),
    ("/cues/steam-whistle", "[data-test=add-picture]"),
    ("/cues/steam-whistle", "[data-test=add-more]"),
    ("/cues/steam-whistle", ".block"),
    ("/cues/night-mail", ".block"),
    ("/cues/steam-whistle", "[data-test=cue-files]"),
    ("/books", ".before"),
    ("/media", "[data-media=steam-whistle]"),
    ("/media", "[data-media=whistle-plume]"),
    ("/media", "[data-test=paste-paths]"),
    ("/rig", "[data-test=patterns]"),
    ("/rig", "[data-test=set-up]"),
    ("/rewards", "[data-test=new-reward]"),
    ("/rewards", "[data-test=from-table]"),
    ("/rewards", "[data-test=playbill]"),
    ("/rewards", "[data-test=new-set]"),
    ("/rewards", "[data-reward=night-mail] .title"),
    ("/rehearse", "[data-test=run]"),
    ("/rehearse", "[data-test=add-else]"),
    ("/nights/4", "[data-test=figure-let_in]"),
    ("/pads", "[data-test=pair-here]"),
    ("/pads", "[data-pad=steam-whistle]"),
]
"""What opens over a page, or in it, and by which press."""
SIZES = [(640, 400), (390, 844), (768, 1024), (1080, 1920), (1280, 800), (2560, 1440)]
SETTLES_S = 0.8
"""How long a page may take to come to rest; the desk, which counts down, never does."""

MOVING = """
const moving = () => document.getAnimations().some((one) =>
  one.playState === 'running' && isFinite(one.effect.getComputedTiming().endTime));
const frames = () => new Promise((go) => requestAnimationFrame(() => requestAnimationFrame(go)));
"""
REST = (
    MOVING
    + """
const [most, done] = arguments, begun = performance.now();
let last = begun;
const watch = new MutationObserver(() => { last = performance.now(); });
watch.observe(document, { subtree: true, childList: true, characterData: true, attributes: true });
async function rest() {
  do { await frames(); } while (performance.now() - begun < most && (moving() || performance.now() - last < 100));
}
rest().then(() => { watch.disconnect(); done(); });
"""
)
ASK = (
    MOVING
    + """
const [rules, done] = arguments;
async function still() {
  for (let n = 0; n < 300; n += 1) { await frames(); if (!moving()) return; }
}
still().then(() => axe.run(document, rules ? { runOnly: rules } : {})).then((told) => done(told.violations.flatMap((one) =>
  one.nodes.map((node) => `${one.id}: ${node.target.join(' ')}: ${node.html.slice(0, 120)}`))));
"""
)
MEASURE = """
const said = [];
const page = document.scrollingElement, main = document.querySelector('main');
if (page.scrollWidth > innerWidth + 1) said.push(`the page is ${page.scrollWidth} wide`);
if (main.scrollWidth > main.clientWidth + 1) said.push(`what is in it is ${main.scrollWidth} wide`);
const name = (e) => (e.textContent || e.getAttribute('aria-label') || e.className).trim().slice(0, 30);
const apart = 'svg, .el-slider, .el-switch, .el-popper, .unseen, .stage';
function seen(e) {
  const own = e.getBoundingClientRect();
  const box = { l: own.left, t: own.top, r: own.right, b: own.bottom };
  for (let p = e.parentElement; p; p = p.parentElement) {
    const style = getComputedStyle(p);
    if (!/auto|scroll|hidden|clip/.test(style.overflow + style.overflowX + style.overflowY)) continue;
    const q = p.getBoundingClientRect();
    box.l = Math.max(box.l, q.left); box.t = Math.max(box.t, q.top);
    box.r = Math.min(box.r, q.right); box.b = Math.min(box.b, q.bottom);
  }
  return box;
}
const boxes = [...document.querySelectorAll('button, a, input, select, textarea, h1, h2, label, .far')]
  .filter((e) => !e.closest(apart) && getComputedStyle(e).visibility !== 'hidden' && e.getClientRects().length)
  .map((e) => [e, seen(e)]).filter(([, b]) => b.r - b.l > 2 && b.b - b.t > 2);
for (const [e, b] of boxes) if (b.l < -1 || b.r > innerWidth + 1) said.push(`${name(e)} is outside`);
boxes.forEach(([a, p], i) => boxes.slice(i + 1).forEach(([c, q]) => {
  if (a.contains(c) || c.contains(a)) return;
  const wide = Math.min(p.r, q.r) - Math.max(p.l, q.l), high = Math.min(p.b, q.b) - Math.max(p.t, q.t);
  const least = Math.min((p.r - p.l) * (p.b - p.t), (q.r - q.l) * (q.b - q.t));
  if (wide > 3 && high > 3 && wide * high > least * 0.12) said.push(`${name(a)} lies over ${name(c)}`);
}));
return said;
"""


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, Chrome]]:
    """The demo as it opens, and a browser on it."""
    folder = tmp_path_factory.mktemp("anyone")
    made = Running(folder / "data")
    made.server = made._start("demo", "--yesterday", "--port", str(made.port), "--data", str(made.data))
    until(lambda: made.api.get("/api/health").json()["channel"] == "in_step", patience_s=180)
    until(lambda: len(made.channel.get("/rewards").json()) > 15)
    driver = chromium(folder / "profile")
    driver.set_script_timeout(120)
    try:
        yield f"http://127.0.0.1:{made.port}", driver
    finally:
        driver.quit()
        made.stop()


def _open(driver: Chrome, home: str, path: str) -> None:
    driver.get(home + path)
    Person(driver).see("main h1, main .empty")
    _rest(driver)


def _rest(driver: Chrome, most_s: float = SETTLES_S) -> None:
    """Waits until nothing on the page changes or moves any more."""
    driver.execute_async_script(REST, most_s * 1000)


def _themes(driver: Chrome) -> Iterator[str]:
    """Returns both themes, one after the other, of the open page."""
    grounds = set()
    for theme in ("paper", "night"):
        driver.execute_script(
            "document.documentElement.dataset.theme = arguments[0];"
            "document.documentElement.classList.toggle('dark', arguments[0] === 'night')",
            theme,
        )
        _rest(driver)
        grounds.add(driver.execute_script("return getComputedStyle(document.body).backgroundColor"))
        yield theme
    assert len(grounds) == 2, "both themes were there"


def _asked(driver: Chrome, where: str) -> dict[str, Any]:
    """Returns what the checker finds in both themes, which differ by their colours alone."""
    driver.execute_script(AXE.read_text("utf-8"))
    told: dict[str, Any] = {}
    for theme in _themes(driver):
        rules = ["color-contrast"] if told else None
        found = driver.execute_async_script(ASK, rules)
        if found:
            time.sleep(2 * SETTLES_S)  # Only a slow fade on a busy machine is gone by then.
            found = driver.execute_async_script(ASK, rules)
        told[f"{where} {theme}"] = found
    return {where: found for where, found in told.items() if found}


def _review(home: str) -> str:
    """Returns the review of somebody else's cue, with gear that has other names here."""
    beats = [
        {"id": "s", "kind": "scene", "scene": "Yrd camera", "length": {"s": 1}},
        {"id": "k", "kind": "tap", "combo": "ControlLeft+KeyH"},
    ]
    book = book_from({"cues": [{"id": "steam-whistle", "name": "Steam whistle", "beats": beats}]})
    files = {"file": ("next-halt.zip", b"".join(written(book, "cues", {}, ["steam-whistle"])))}
    answer = httpx.post(f"{home}/api/carry/in", files=files, trust_env=False, timeout=60).raise_for_status()
    return f"/books/in/{answer.json()['key']}"


def test_the_checker_for_readers_finds_nothing(demo: tuple[str, Chrome]) -> None:
    home, driver = demo
    sized(driver, 1280, 800)
    found: dict[str, Any] = {}
    for path in [*PAGES, _review(home)]:
        _open(driver, home, path)
        found |= _asked(driver, path)
    assert found == {}


@pytest.mark.parametrize("part", [0, 1, 2])
def test_nor_in_anything_that_opens(demo: tuple[str, Chrome], part: int) -> None:
    home, driver = demo
    sized(driver, 1280, 800)
    found: dict[str, Any] = {}
    for path, css in OPENED[part::3]:
        _open(driver, home, path)
        Person(driver).click(css)
        _rest(driver)
        found |= _asked(driver, f"{path} {css}")
    assert found == {}


def test_the_pads_on_a_phone_are_for_everyone(demo: tuple[str, Chrome]) -> None:
    home, driver = demo
    answer = httpx.post(f"{home}/api/pads/offers", json={"here": True}, trust_env=False).json()
    found: dict[str, Any] = {}
    driver.get(answer["link"])
    person = Person(driver)
    person.see("[data-pad=steam-whistle]:enabled")
    person.press("More")
    found |= _asked(driver, "pads")
    for width, height in [(320, 640), (390, 844), (844, 390), *SIZES[1:]]:
        sized(driver, width, height)
        _rest(driver, SETTLES_S / 2)
        if told := driver.execute_script(MEASURE):
            found[f"pads {width}"] = told
    driver.execute_script("localStorage.clear()")
    driver.refresh()
    person.reads("isn’t paired yet")
    found |= _asked(driver, "not paired")
    assert found == {}


CONTRAST = """
const shade = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
const light = (hex) => [1, 3, 5].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255)
  .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4))
  .reduce((sum, c, i) => sum + c * [0.2126, 0.7152, 0.0722][i], 0);
const ratio = (a, b) => { const [p, q] = [light(a), light(b)].sort(); return (q + 0.05) / (p + 0.05); };
return ['--line', '--soft'].map((name) => Math.min(...['--ground', '--surface', '--raised'].map((on) => ratio(shade(name), shade(on)))));
"""
"""WCAG 2.2: the contrast of edges and of quiet words on all their backgrounds."""
SPOKEN = """
const done = arguments[0], said = [];
const live = '[role=status], [role=alert], [role=log], [role=timer], [aria-live]:not([aria-live=off])';
const watch = new MutationObserver((all) => all.forEach(({ target }) => {
  const on = target.nodeType === 1 ? target : target.parentElement;
  if (on?.closest(live)) said.push(on.closest(live).textContent.trim().slice(0, 60));
}));
watch.observe(document.body, { subtree: true, childList: true, characterData: true });
setTimeout(() => { watch.disconnect(); done(said); }, 2500);
"""


def test_more_contrast_and_less_motion_are_given_and_timers_do_not_chatter(demo: tuple[str, Chrome]) -> None:
    home, driver = demo
    sized(driver, 1280, 800)
    _open(driver, home, "/desk")
    wants = [{"name": "prefers-contrast", "value": "more"}, {"name": "prefers-reduced-motion", "value": "reduce"}]
    driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": wants})
    try:
        for _ in _themes(driver):
            line, soft = driver.execute_script(CONTRAST)
            assert line >= 4.5 and soft >= 7
        quick = driver.execute_script("return getComputedStyle(document.documentElement).getPropertyValue('--quick')")
        assert quick in ("0s", "0ms")
        for cue in ("night-mail", "steam-whistle", "mind-the-gap"):
            httpx.post(f"{home}/api/cues/{cue}/fire", json={}, trust_env=False).raise_for_status()
        Person(driver).reads("Night mail")
        assert driver.execute_async_script(SPOKEN) == []
    finally:
        driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
        httpx.post(f"{home}/api/all-to-rest", trust_env=False)


def test_at_any_width_nothing_overlaps_and_nothing_is_cut(demo: tuple[str, Chrome]) -> None:
    home, driver = demo
    found: dict[str, Any] = {}
    for path in [*PAGES, _review(home)]:
        _open(driver, home, path)
        for width, height in SIZES:
            sized(driver, width, height)
            _rest(driver, SETTLES_S / 2)
            if told := driver.execute_script(MEASURE):
                found[f"{path} {width}"] = told
    assert found == {}
