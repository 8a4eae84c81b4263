"""Every page for everyone: at any width nothing overlaps and nothing is cut off, and the checker for readers finds nothing."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver import Chrome

from tests.browser.conftest import chromium
from tests.browser.person import Person
from tests.running import Running, until

AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
PAGES = [
    "/opening",
    "/desk",
    "/cues",
    "/cues/steam-whistle",
    "/cues/shunters-dice",
    "/jars",
    "/media",
    "/cast",
    "/rig",
    "/ledger",
    "/pads",
    "/snags",
    "/no/such",
]
SIZES = [(390, 844), (768, 1024), (1080, 1920), (1280, 800), (2560, 1440)]
SETTLES_S = 0.8

ASK = """
const done = arguments[0];
axe.run(document).then((told) => done(told.violations.flatMap((one) =>
  one.nodes.map((node) => `${one.id}: ${node.target.join(' ')}: ${node.html.slice(0, 120)}`))));
"""
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
    made.server = made._start("demo", "--port", str(made.port), "--data", str(made.data))
    until(lambda: made.api.get("/api/health").json()["channel"] == "in_step", patience_s=180)
    until(lambda: len(made.channel.get("/rewards").json()) > 15)
    driver = chromium(folder / "profile")
    driver.set_script_timeout(120)
    try:
        yield f"http://127.0.0.1:{made.port}", driver
    finally:
        driver.quit()
        made.stop()


def _open(driver: Chrome, home: str, path: str, theme: str = "night") -> None:
    if driver.current_url.startswith(home):
        driver.execute_script("localStorage.setItem('theme', arguments[0])", theme)
    driver.get(home + path)
    person = Person(driver)
    person.see("main h1, main .empty")
    assert driver.execute_script("return document.documentElement.dataset.theme") == theme
    time.sleep(SETTLES_S)


def _size(driver: Chrome, width: int, height: int) -> None:
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


def test_the_checker_for_readers_finds_nothing(demo: tuple[str, Chrome]) -> None:
    home, driver = demo
    _size(driver, 1280, 800)
    driver.get(home + "/desk")
    found: dict[str, Any] = {}
    for theme in ("night", "paper"):
        for path in PAGES:
            _open(driver, home, path, theme)
            driver.execute_script(AXE.read_text("utf-8"))
            if told := driver.execute_async_script(ASK):
                found[f"{path} {theme}"] = told
    assert found == {}


def test_at_any_width_nothing_overlaps_and_nothing_is_cut(demo: tuple[str, Chrome]) -> None:
    home, driver = demo
    driver.get(home + "/desk")
    found: dict[str, Any] = {}
    for path in PAGES:
        _open(driver, home, path)
        for width, height in SIZES:
            _size(driver, width, height)
            time.sleep(SETTLES_S / 2)
            if told := driver.execute_script(MEASURE):
                found[f"{path} {width}"] = told
    assert found == {}
