"""Pads in the browser: paired by hand, two phones and a desk in step, held by finger, key and MIDI, over a lost
network.
"""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import chromium, sized
from tests.browser.person import Person, attributes
from tests.computer import Computer, Keyboard
from tests.running import Running, until

CUES: list[dict[str, Any]] = [
    {"id": name, "name": words, "entry": "overlap", "tags": tags,
     "beats": [{"id": "c", "kind": "caption", "text": words, "length": length}]}
    for name, words, tags, length in [
        ("bell", "Platform bell", ["yard"], {"s": 40}),
        ("gap", "Mind the gap", ["yard"], "open"),
        ("tea", "Tea is served", ["stage"], {"s": 0.3}),
    ]
]  # fmt: skip
LEVERS = """
const input = {name: 'Signal levers', state: 'connected', onmidimessage: null}
const access = {inputs: new Map([['a', input]]), onstatechange: null}
window.lever = (...data) => input.onmidimessage({data: new Uint8Array(data)})
window.unplug = () => { input.state = 'disconnected'; access.onstatechange() }
navigator.requestMIDIAccess = () => Promise.resolve(access)
"""


@pytest.fixture
def halt(running: Running) -> Running:
    running.book(cues=CUES)
    return running


@pytest.fixture
def phone(tmp_path: Path) -> Iterator[Chrome]:
    made = chromium(tmp_path / "phone", 390, 844)
    yield made
    made.quit()


def pad(driver: Chrome, cue: str) -> Any:
    return Person(driver).see(f"[data-pad={cue}]:enabled")


def lit(driver: Chrome, cue: str) -> bool:
    return "lit" in attributes(driver, f"[data-pad={cue}]", "class")[0].split()


def link(running: Running, **fields: Any) -> str:
    answer = running.api.post("/api/pads/offers", json={"here": True, **fields})
    return str(answer.json()["link"])


def up(running: Running) -> list[str]:
    return [run["cue"] for lane in running.state()["lanes"] for run in lane["running"]]


def test_paired_by_hand_and_in_step_with_another_phone_and_the_desk(
    halt: Running, driver: Chrome, phone: Chrome
) -> None:
    desk, other = Person(driver), Person(phone)
    driver.get(f"http://127.0.0.1:{halt.port}/pads")
    desk.click("[data-test=pair-here]")
    desk.see("[data-test=device-name]").clear()
    desk.type("[data-test=device-name]", "Signal box")
    home = driver.current_window_handle
    desk.click("[data-test=make-code]")
    desk.reads("Signal box is paired.")
    desk.press("Done")
    pads = next(handle for handle in driver.window_handles if handle != home)
    driver.switch_to.window(pads)
    desk.reads("Signal box")
    assert "#" not in driver.current_url, "the key does not stay in the address"

    phone.get(link(halt, name="Signal box"))
    other.reads("Signal box 2")
    pad(phone, "bell").click()
    until(lambda: lit(driver, "bell") and lit(phone, "bell"))
    until(lambda: "39" in pad(driver, "bell").text or "38" in pad(driver, "bell").text)
    # What one holds the other sees, and can release.
    pad(phone, "gap").click()
    until(lambda: lit(driver, "gap"))
    pad(driver, "gap").click()
    until(lambda: not lit(phone, "gap"))
    assert up(halt) == ["bell"]
    # Its pages by tag; kept when the page is reloaded, without pairing again.
    other.press("stage")
    until(lambda: attributes(phone, "[data-pad]", "data-pad") == ["tea"])
    phone.refresh()
    other.see("[data-pad=tea]:enabled")
    assert not phone.find_elements(By.CSS_SELECTOR, "[data-pad=bell]")
    # The desk lists the devices; a revoked one can do nothing.
    driver.switch_to.window(home)
    until(lambda: len(driver.find_elements(By.CSS_SELECTOR, ".lamp.here")) == 2)
    other.press("All to rest")
    until(lambda: up(halt) == [])
    device = halt.state()["pads"]["devices"][1]
    desk.click(f"[data-device={device['id']}] .top button:last-of-type")
    desk.press("Yes")
    other.reads("This device is no longer paired.")


def test_held_as_long_as_a_finger_or_a_key_is_down(halt: Running, driver: Chrome, phone: Chrome) -> None:
    phone.get(link(halt))
    ActionChains(phone).click_and_hold(pad(phone, "gap")).perform()
    until(lambda: up(halt) == ["gap"])
    time.sleep(0.5)
    ActionChains(phone).release().perform()
    until(lambda: up(halt) == [])
    # The desk's keys: Q to P are its first ten pads; typing in a field doesn't press them.
    driver.get(f"http://127.0.0.1:{halt.port}/desk")
    person = Person(driver)
    person.see("[data-pad=gap]")
    assert [e.text for e in driver.find_elements(By.CSS_SELECTOR, ".foot kbd")] == ["Q", "W", "E"]
    ActionChains(driver).key_down("w").perform()
    until(lambda: up(halt) == ["gap"])
    time.sleep(0.5)
    ActionChains(driver).key_up("w").perform()
    until(lambda: up(halt) == [])
    ActionChains(driver).send_keys("q").perform()
    until(lambda: up(halt) == ["bell"])
    # By keyboard on the button itself, and by assistive clicks.
    driver.execute_script("document.querySelector('[data-pad=gap]').click()")
    until(lambda: sorted(up(halt)) == ["bell", "gap"])
    driver.find_element(By.CSS_SELECTOR, "[data-pad=gap]").send_keys(Keys.ENTER)
    until(lambda: up(halt) == ["bell"])


def test_without_the_net_it_says_so_and_comes_back(halt: Running, driver: Chrome) -> None:
    person = Person(driver)
    driver.get(link(halt))
    pad(driver, "tea")
    halt.kill_server()
    person.reads("No connection to Cue Jar")
    assert not driver.find_element(By.CSS_SELECTOR, "[data-pad=tea]").is_enabled()
    halt.start_server()
    pad(driver, "tea").click()
    until(lambda: any(row["kind"] == "pad" for row in halt.api.get("/api/ledger").json()["lines"]))
    halt.api.put("/api/book/house", json={"value": {"open": False}}).raise_for_status()
    person.reads("The house is closed")
    pad(driver, "tea").click()
    person.reads("the house is closed")
    # A code that was already used.
    used = link(halt)
    driver.get("about:blank")
    driver.get(used)
    pad(driver, "tea")
    driver.execute_script("localStorage.clear()")
    driver.get("about:blank")
    driver.get(used)
    person.reads("This code was already used")
    driver.get("about:blank")
    driver.get(used.partition("#")[0])
    person.reads("isn’t paired yet")


def test_a_midi_device_is_learned_by_pressing(halt: Running, driver: Chrome) -> None:
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": LEVERS})
    person = Person(driver)
    driver.get(link(halt))
    pad(driver, "gap")
    person.press("More")
    person.press("Use a MIDI device")
    person.reads("Signal levers")
    person.press("Learn a pad")
    pad(driver, "gap").click()
    person.reads("Now press the key of gap")
    assert up(halt) == [], "while learning nothing is pressed"
    driver.execute_script("lever(0x90, 36, 90)")
    person.reads("note 36, channel 1: gap")
    driver.execute_script("lever(0x90, 36, 90)")
    until(lambda: up(halt) == ["gap"])
    driver.execute_script("lever(0x80, 36, 0)")
    until(lambda: up(halt) == [])
    person.press("Learn Volume")
    driver.execute_script("lever(0xb0, 7, 10)")
    driver.execute_script("lever(0xb0, 7, 127)")
    until(lambda: halt.api.get("/api/book").json()["book"]["house"]["volume"] == 100)
    driver.execute_script("unplug()")
    person.reads("Signal levers is gone.")


def test_pads_are_ordered_and_dressed_and_it_is_undone(halt: Running, driver: Chrome) -> None:
    person = Person(driver)

    def order() -> list[str]:
        return attributes(driver, ".grid [data-pad]", "data-pad")

    driver.get(f"http://127.0.0.1:{halt.port}/pads")
    until(lambda: order() == ["bell", "gap", "tea"])
    person.click("[data-pad=bell]")
    ActionChains(driver).key_down(Keys.ALT).send_keys(Keys.ARROW_RIGHT).key_up(Keys.ALT).perform()
    until(lambda: order() == ["gap", "bell", "tea"])
    driver.execute_script(
        "const [from, to] = [...document.querySelectorAll('.grid li')].filter((_, i) => i !== 1).reverse();"
        "const data = new DataTransfer();"
        "for (const [on, what] of [[from, 'dragstart'], [to, 'dragover'], [to, 'drop']])"
        "  on.dispatchEvent(new DragEvent(what, {bubbles: true, cancelable: true, dataTransfer: data}))"
    )
    until(lambda: order() == ["tea", "gap", "bell"])
    person.click("[aria-label=Bell][aria-pressed=false]")
    person.click("[aria-label=mint]")
    until(lambda: halt.api.get("/api/book").json()["book"]["cues"][0]["pad"].get("colour") == "mint")
    face = halt.api.get("/api/book").json()["book"]["cues"][0]["pad"]
    assert face["mark"] == "bell"
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, "z")
    person.reads("Undone")
    until(lambda: halt.api.get("/api/book").json()["book"]["cues"][0]["pad"].get("colour") is None)


SCANNED = """
const ask = window.fetch;
window.fetch = async (request, more) => {
  const answer = await ask(request, more), url = new URL(request.url ?? request, location.href);
  if (url.pathname === '/api/pads') {
    const where = await answer.clone().json();
    return new Response(JSON.stringify({...where, beyond: '127.0.0.1'}), {headers: {'content-type': 'application/json'}});
  }
  if (url.pathname === '/api/pads/offers') window.offered = await answer.clone().json();
  return answer;
}
"""


def test_a_code_is_covered_until_it_is_asked_for_and_scanned_once(halt: Running, driver: Chrome, phone: Chrome) -> None:
    """As on a shared network: this computer has no address but its own here."""
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": SCANNED})
    desk = Person(driver)
    driver.get(f"http://127.0.0.1:{halt.port}/pads")
    desk.click("[data-test=pair]")
    desk.click("[data-test=make-code]")
    desk.reads("The code is covered")
    assert not driver.find_elements(By.CSS_SELECTOR, "img.code")
    desk.click("button.code")
    assert desk.see("img.code").size["width"] > 250
    desk.reads("Valid once")
    phone.get(driver.execute_script("return window.offered.link"))
    pad(phone, "bell")
    desk.reads("Phone is paired.")


def test_keys_of_another_computer_are_paired_shown_and_removed_by_hand(
    running: Running, driver: Chrome, tmp_path: Path
) -> None:
    running.book(
        gear=[{"id": "keys", "kind": "keys", "name": "Keys"}],
        cues=[{"id": "f8", "name": "F8", "beats": [{"id": "k", "kind": "tap", "combo": "F8"}]}],
    )
    driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": SCANNED})
    rig, keyboard = Person(driver), Keyboard()
    driver.get(f"http://127.0.0.1:{running.port}/rig")
    rig.click("[data-gear=keys] [data-test=set-up]")
    rig.click("[data-test=pair-hands]")
    rig.press("Show the command where viewers can’t see it")
    command, _, rest = rig.see("[data-test=hands-command]").text.rpartition(" ")
    assert command == f"cuejar hands http://127.0.0.1:{running.port + 5}/"
    with Computer(tmp_path / "hands.json", keyboard, rest).runs(command.split()[-1].rstrip("/")):
        rig.reads("Paired. Keys are now pressed there.")
        rig.see("[data-test=hands] .lamp.here")
        until(lambda: running.now["gear"][0]["address"] == "hands:")
        until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")
        running.api.post("/api/cues/f8/fire", json={}).raise_for_status()
        until(lambda: keyboard.taps == ["F8"])
        rig.fill("[data-test=hands] [aria-label='Device name']", "Engine shed")
        until(lambda: running.state()["pads"]["hands"]["name"] == "Engine shed")
    rig.reads("Start cuejar hands on that computer")
    rig.click("[data-test=remove-hands]")
    rig.click(".el-popconfirm__action .el-button--primary")
    rig.see("[data-test=pair-hands]")
    until(lambda: running.now["gear"][0]["address"] == "")


def test_a_tablet_has_the_desk_beside_its_pads_and_a_phone_in_their_place(
    halt: Running, phone: Chrome, tmp_path: Path
) -> None:
    tablet = phone
    sized(tablet, 1180, 800)
    tablet.get(link(halt))
    page = Person(tablet)
    page.click("[data-pad=bell]:enabled")
    page.see(".desk [data-run]")
    page.click(".desk [aria-label='End Platform bell']")
    page.reads("At rest. No effects are running.")
    assert page.is_seen("[data-pad=bell]")
    # On a phone it is shown instead of the pads, if asked for; again after a reload.
    sized(tablet, 390, 844)
    page.gone(".desk")
    page.click("[data-test=show-desk]")
    page.see(".desk")
    page.gone("[data-pad=bell]")
    tablet.refresh()
    page.see(".desk")
    halt.api.post("/api/cues/gap/fire", json={}).raise_for_status()
    page.see(".desk [aria-label='End Mind the gap']")
    halt.kill_server()
    page.reads("No connection to Cue Jar.")
    assert page.is_seen(".desk"), "nothing jumps meanwhile"
    halt.start_server()
    page.click(".desk [aria-label='End Mind the gap']:enabled")
    page.reads("At rest. No effects are running.")
    limited = Person(tablet)
    tablet.execute_script("localStorage.clear()")
    tablet.get("about:blank")
    tablet.get(link(halt, cues=["bell"]))
    limited.see("[data-pad=bell]")
    assert not tablet.find_elements(By.CSS_SELECTOR, "[data-test=show-desk]")
