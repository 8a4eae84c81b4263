"""``make shots``: one picture of each main view, 1280 by 800, from the demo data."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import httpx
from selenium.common.exceptions import WebDriverException
from selenium.webdriver import Chrome, Keys

from cuejar.core.book.files import book_from
from cuejar.core.carry.handon import handed_on
from cuejar.demo.load import demo_book
from cuejar.store.bundle import written
from tests.browser.conftest import chromium
from tests.browser.person import Person
from tests.running import client, free_ports, until

SHOTS = Path(__file__).parents[1] / "docs" / "screenshots"


def _busy(channel: httpx.Client) -> None:
    """Makes a lively moment at Tinwhistle Halt."""
    channel.post("/stream", json={"state": "live", "category": "Model railways"})
    for viewer, reward in (
        ("bramble_jo", "Waiting-room poster"),
        ("nine_gauge", "Waiting-room poster"),
        ("owlpost", "Steam whistle"),
        ("hopper_kit", "Steam whistle"),
        ("saltmarsh_sue", "Waiting-room poster"),
        ("kettlewright", "Tint the bench"),
        ("puddlejump", "Fog on the line"),
        ("ferrous_wheel", "Top hat"),
        ("owlpost", "Lamp colour"),
    ):
        text = "slate blue" if reward in ("Tint the bench", "Lamp colour") else ""
        channel.post("/redemptions", json={"viewer": viewer, "reward": reward, "text": text})


def _points(home: str, channel: httpx.Client) -> None:
    """Gives out points of our own, earned and set by hand."""
    points = {"value": {"on": True, "name": "tokens", "balance_word": "!mine"}}
    httpx.put(f"{home}/api/book/points", json=points, trust_env=False).raise_for_status()
    for viewer in ("bramble_jo", "owlpost", "hopper_kit"):
        channel.post("/follows", json={"viewer": viewer})
    rows = until(lambda: httpx.get(f"{home}/api/viewers?text=bramble", trust_env=False).json()["viewers"])
    body = {"viewer": rows[0]["id"], "held": 450, "why": "for the lost parcel"}
    httpx.post(f"{home}/api/viewers/points", json=body, trust_env=False).raise_for_status()


def _listen(page: Person) -> None:
    field = page.see("[data-test=bench-text]")
    until(lambda: "Marlow" in str(field.get_property("value")))  # The default, once the cast is known.
    wanted = "Marlow (echo): mind the gap / Pip: and the noodlehead"
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(wanted)
    assert field.get_property("value") == wanted
    page.click("[data-test=bench-listen]")


def _fire(home: str, cue: str) -> None:
    httpx.post(f"{home}/api/cues/{cue}/fire", trust_env=False).raise_for_status()


def _pairing(home: str) -> str:
    """Returns the link for pairing another device."""
    body = {"name": "Signal box phone", "here": True}
    return str(httpx.post(f"{home}/api/pads/offers", json=body, trust_env=False).json()["link"])


def _hold(page: Person, home: str) -> None:
    page.see("[data-pad=mind-the-gap]:enabled")
    for cue in ("night-mail", "steam-whistle", "mind-the-gap"):
        _fire(home, cue)


def _handed_on(home: str) -> str:
    """Imports cues of the next halt, whose gear has other names. Returns the review."""
    data = demo_book()
    for cue in data["cues"]:
        if cue["id"] == "fog-on-the-line":
            cue |= {"id": "fog-again", "name": "Fog from the next halt"}
            cue["beats"] = [*cue["beats"], {"id": "s", "kind": "scene", "scene": "Yrd cam"}]
        if cue["id"] == "steam-whistle":
            cue["beats"] = [*cue["beats"], {"id": "k", "kind": "tap", "combo": "ControlLeft+KeyH"}]
    cues = ["fog-again", "steam-whistle"]
    content = b"".join(written(handed_on(book_from(data), cues), "cues", {}, cues))
    files = {"file": ("next-halt.cuejar.zip", content)}
    answer = httpx.post(f"{home}/api/carry/in", files=files, trust_env=False, timeout=60).raise_for_status()
    return f"{home}/books/in/{answer.json()['key']}"


def _rehearsed(page: Person) -> None:
    page.click("[data-test=run]")
    _at_a_poster(page)


def _at_a_poster(page: Person) -> None:
    """Moves to a moment with something on the overlay."""
    page.see("[data-test=score]")
    page.click("[data-test=figure-let_in]")
    row = "//tr[td[normalize-space(.)='Waiting-room poster']][8]//button"

    def pressed() -> bool:
        try:  # The drawer is still sliding in.
            button = page.driver.find_element("xpath", row)
            page.driver.execute_script("arguments[0].scrollIntoView({ block: 'center' })", button)
            button.click()
        except WebDriverException:
            return False
        return True

    until(pressed)
    page.gone(".el-drawer.open")
    page.see("[data-test=score]").send_keys(Keys.ARROW_RIGHT)
    page.see("[data-test=night-stage] img")


def _size(driver: Chrome, width: int, height: int) -> None:
    size = {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 600}
    driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", size)


def take(driver: Chrome, home: str, channel: httpx.Client) -> None:
    page = Person(driver)

    def shot(name: str, address: str, before: Callable[[], object] = lambda: None, settle: float = 0.6) -> None:
        driver.get(address)
        page.see("main, #stage, .audience")
        before()
        time.sleep(settle)
        driver.save_screenshot(str(SHOTS / f"{name}.png"))

    shot("opening", f"{home}/opening")
    driver.get(f"{home}/desk")
    page.click("[data-test=demo-card] button[aria-label]")
    shot("desk", f"{home}/desk", lambda: (time.sleep(0.5), _busy(channel)), 1.6)
    shot("cue-editor", f"{home}/cues/steam-whistle", lambda: page.click("[data-block=whistle]"))
    shot("draw", f"{home}/cues/signalman-of-the-night", lambda: page.click("[data-block=draw]"), 1.6)
    shot("jars", f"{home}/jars", lambda: page.click("[data-test=draw-many]"))
    shot("media", f"{home}/media", lambda: page.click("[data-media=fanfare]"))
    shot("rig", f"{home}/rig")
    shot("cast", f"{home}/cast", lambda: _listen(page), 1.4)
    shot("ledger", f"{home}/ledger", lambda: page.click("[role=row].line"))
    shot("rewards", f"{home}/rewards", lambda: page.see("[data-reward=night-mail] [data-test=price]"), 1.6)
    _points(home, channel)
    shot("viewer", f"{home}/viewers", lambda: page.click("[data-viewer$=v-bramble] .name"), 1.2)
    _size(driver, 390, 844)
    shot("pads-phone", _pairing(home), lambda: _hold(page, home), 0.8)
    _size(driver, 1280, 800)
    shot("phrases", f"{home}/phrases", lambda: page.see("[data-phrase] [data-test=train]:enabled"), 2.0)
    shot("pads", f"{home}/pads", lambda: page.click("[data-pad=steam-whistle]"))
    # Nights: an audience's, with two books, a setting found, and yesterday's viewed
    shot("rehearse", f"{home}/rehearse", lambda: _rehearsed(page), 1.0)
    night = httpx.get(f"{home}/api/nights", trust_env=False).json()["nights"][-1]["id"]
    shot("night", f"{home}/nights/{night}", lambda: (_at_a_poster(page), page.press("Whole night")), 1.0)
    setting = {"setting": "lanes.tannoy.width", "value": 3}
    httpx.post(f"{home}/api/book/setting", json=setting, trust_env=False).raise_for_status()
    shot("two-books", f"{home}/rehearse?night={night}&against=now", lambda: page.see("[data-test=score]"), 1.2)
    shot("review", _handed_on(home), lambda: page.see("[data-test=asked]"), 1.0)
    shot("playbill", f"{home}/api/playbill.html")


def main() -> None:
    SHOTS.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        port = free_ports()
        command = [
            sys.executable,
            "-m",
            "cuejar.cli",
            "demo",
            "--yesterday",
            "--port",
            str(port),
            "--data",
            f"{folder}/data",
        ]
        demo = subprocess.Popen(command)
        home = f"http://127.0.0.1:{port}"
        try:
            until(lambda: httpx.get(f"{home}/api/health", trust_env=False).json()["channel"] == "in_step")
            driver = chromium(Path(folder) / "profile")
            channel = client(f"http://127.0.0.1:{port + 10}/channel")
            take(driver, home, channel)
            driver.quit()
        finally:
            demo.terminate()
            demo.wait()


if __name__ == "__main__":
    main()
