"""Whole jobs with nights: an audience drawn and a cooldown found, a past night with tonight's book, a sweep stopped,
files read.
"""

from __future__ import annotations

import io
import time
from typing import Any

import httpx
import opentimelineio as otio
import pytest
import webvtt
from selenium.webdriver import ActionChains, Chrome, Keys

from tests.browser.person import Person
from tests.browser.test_books import _book, _open
from tests.running import Running, until

BEAT = {"id": "c", "kind": "caption", "text": "{{viewer}}: tea", "length": {"s": 4}}
TEA = {
    "id": "tea",
    "name": "Tea",
    "lane": "main",
    "calls": [{"kind": "reward", "reward": "tea"}],
    "door": {"cooldown_s": 600},
    "beats": [BEAT],
}


def _tea(running: Running, **more: Any) -> None:
    running.book(
        lanes=[{"id": "main", "name": "Main", "line": 30, "wait_s": 600}],
        rewards=[{"id": "tea", "title": "Tea", "cost": 100}],
        cues=[{**TEA, **more}],
    )


def _figure(person: Person, name: str) -> float:
    return float(person.see(f"[data-test=figure-{name}] b").text.replace(",", "").split()[0])


def _ran(person: Person) -> None:
    """Runs the night, and waits for its result."""
    person.click("[data-test=run]")
    person.see("[data-test=run]")
    person.see("[data-test=score]")
    person.see("[data-test=report]")


def test_an_audience_is_drawn_and_a_better_cooldown_found(running: Running, driver: Chrome) -> None:
    _tea(running)
    person = _open(running, driver, "rehearse")
    person.press("Create an audience")
    person.see("[data-test=audience]")
    assert person.see("[data-test=source]").text == "Friday evening"
    person.press("Waves")
    until(lambda: len(_book(running)["audiences"][0]["curve"]) == 10)
    person.press("Steady")
    until(lambda: len(_book(running)["audiences"][0]["curve"]) == 2)
    curve = person.see("[data-test=curve]")
    ActionChains(driver).double_click(curve).perform()
    until(lambda: len(_book(running)["audiences"][0]["curve"]) == 3)
    handle = person.see("[data-test=point-1]")
    before = _book(running)["audiences"][0]["curve"][1]
    person.drag(handle, 60, 20)
    until(lambda: _book(running)["audiences"][0]["curve"][1] != before)
    dragged = _book(running)["audiences"][0]["curve"][1]
    assert dragged["at_min"] > before["at_min"] and dragged["level"] < before["level"]
    person.see("[data-test=point-1]").send_keys(Keys.ARROW_UP)
    until(lambda: _book(running)["audiences"][0]["curve"][1]["level"] == dragged["level"] + 5)
    person.see("[data-test=edge-members]").send_keys(Keys.ARROW_RIGHT)
    until(lambda: _book(running)["audiences"][0]["members"] == 0.17)
    person.see("body").send_keys(Keys.CONTROL + "z")
    until(lambda: _book(running)["audiences"][0]["members"] == 0.15)

    _ran(person)
    bad = _figure(person, "refunds")
    assert bad > 100 and "refunded" in person.see("[data-test=standouts]").text
    person.click("[data-test=figure-refunds]")
    person.reads(f"refunds: {bad:.0f} calls")
    person.reads("the cue’s cooldown")
    person.see("body").send_keys(Keys.ESCAPE)
    person.gone(".el-drawer.open")

    person.press_segment("Find it")
    person.choose("[data-test=setting]", "Tea: cooldown (s)")
    steps = driver.find_elements("css selector", ".find input[aria-label='by']")
    steps[0].send_keys(Keys.CONTROL + "a")
    steps[0].send_keys("300", Keys.TAB)
    person.reads("Try 5 values")  # 0 to 1200
    nights = driver.find_elements("css selector", ".find input[aria-label='nights each']")
    nights[0].send_keys(Keys.CONTROL + "a")
    nights[0].send_keys("2", Keys.TAB)
    person.click("[data-test=sweep]")
    person.click("[data-test=value-0]")
    person.click("[data-test=set-value]")
    until(lambda: _book(running)["cues"][0]["door"]["cooldown_s"] == 0)
    person.reads("Ctrl+Z undoes it")
    until(lambda: not person.is_seen("[data-test=stop-sweep]"))
    person.press_segment("The night")
    _ran(person)
    until(lambda: _figure(person, "refunds") < bad / 2)
    person.see("body").send_keys(Keys.CONTROL + "z")
    until(lambda: _book(running)["cues"][0]["door"]["cooldown_s"] == 600)


def _night(running: Running) -> int:
    """Makes a night of a few seconds with two calls, one of which came too soon."""
    running.channel.post("/stream", json={"state": "live", "category": "Model railways"}).raise_for_status()
    until(lambda: running.api.get("/api/nights").json()["nights"])
    for viewer in ("owlpost", "bramble_jo"):
        running.channel.post("/chat", json={"viewer": viewer, "text": "!tea please"}).raise_for_status()
    until(lambda: running.api.get("/api/nights").json()["nights"][0]["calls"] == 2)
    time.sleep(4.2)
    running.channel.post("/stream", json={"state": "ended"}).raise_for_status()
    until(lambda: running.api.get("/api/nights").json()["nights"][0]["ended"])
    return int(running.api.get("/api/nights").json()["nights"][0]["id"])


def test_what_else_happens_and_what_is_liked_are_dragged(running: Running, driver: Chrome) -> None:
    _tea(running)
    running.book(
        audiences=[{"id": "friday", "name": "Friday", "length_min": 120, "likes": "shares"}],
        gear=[{"id": "broadcast", "kind": "broadcaster", "name": "Broadcaster"}],
    )
    person = _open(running, driver, "rehearse")

    def friday() -> Any:
        return _book(running)["audiences"][0]

    def added(what: str, **fields: str) -> None:
        person.click("[data-test=add-else]")
        person.choose("[data-test=else-what]", what)
        for label, value in fields.items():
            field = person.see(f".adding [aria-label='{label.replace('_', ' ')}']")
            field.send_keys(Keys.CONTROL + "a")
            field.send_keys(value, Keys.TAB)
        if what == "gear disconnects":
            person.choose("[data-test=else-gear]", "Broadcaster")
        person.press("Add")
        until(lambda: not person.is_seen(".adding .btn.main"))

    added("a raid", at_minute="20", viewers_that_come="400")
    added("gear disconnects", at_minute="40", minutes_away="10")
    added("a change by hand", at_minute="90", becomes="Bench")
    until(lambda: len(friday()["hands"]) == 1)
    assert friday()["raids"] == [{"at_min": 20, "viewers": 400}]
    assert friday()["outages"] == [{"at_min": 40, "for_min": 10, "gear": "broadcast"}]

    def a_minute() -> float:
        return float(person.see("[data-test=curve]").size["width"]) / 120

    for mark, pick, by in (
        ("raid-0", lambda: friday()["raids"][0]["at_min"], 30),
        ("outage-0", lambda: friday()["outages"][0]["at_min"], -15),
        ("outage-end-0", lambda: friday()["outages"][0]["for_min"], 20),
        ("hand-0", lambda: friday()["hands"][0]["at_min"], 12),
    ):
        before = pick()
        held = f"[data-test={mark}]"  # A raid is a flag on a pole, with nothing in the middle.
        person.drag(person.see(f"{held} .flag" if mark == "raid-0" else held), round(by * a_minute()), 0)
        until(lambda pick=pick, want=before + by: abs(pick() - want) <= 1)
        dragged = pick()
        person.see(f"[data-test={mark}]").send_keys(Keys.ARROW_RIGHT)
        until(lambda pick=pick, dragged=dragged: pick() == dragged + 1)
    person.drag(person.see("[data-test=hand-0]"), round(18.4 * a_minute()), 0)
    until(lambda: friday()["hands"][0]["at_min"] == 120)
    # One is removed with its key, and restored by undo.
    raids, outages = friday()["raids"], friday()["outages"]
    person.see("[data-test=outage-end-0]").send_keys(Keys.DELETE)
    until(lambda: not friday()["outages"])
    person.see("body").send_keys(Keys.CONTROL + "z")
    until(lambda: friday()["outages"] == outages)
    assert friday()["raids"] == raids

    bar = person.see(".likes [role=slider]")
    half = bar.size["width"] // 2
    ActionChains(driver).move_to_element(bar).click_and_hold().move_by_offset(half // 2, 0).release().perform()
    until(lambda: friday()["shares"] == {"tea": 7.5})
    person.see(".likes [role=slider]").send_keys(Keys.ARROW_LEFT)
    until(lambda: friday()["shares"] == {"tea": 7})


def test_a_night_that_was_is_looked_at_and_held_against_tonights_book(running: Running, driver: Chrome) -> None:
    chat = [{"kind": "chat", "match": "starts", "text": "!tea"}]
    _tea(running, calls=chat)
    night = _night(running)
    person = _open(running, driver, "ledger")
    person.click("[data-test=room-nights]")
    person.click(f"[data-test=night-{night}] a")
    person.see("[data-test=score]")
    assert _figure(person, "let_in") == 1
    # The stage shows what was up.
    person.click("[data-test=play-1]")
    person.see("[data-test=night-stage] > *")
    # A note, and files that other programs read.
    person.type("[data-test=note]", "The owl came." + Keys.TAB)
    until(lambda: running.api.get("/api/nights").json()["nights"][0]["note"] == "The owl came.")
    otio_link, vtt_link = (
        str(person.see(f"[data-test=file-{kind}]").get_attribute("href")) for kind in ("otio", "vtt")
    )
    timeline = otio.adapters.read_from_string(httpx.get(otio_link, trust_env=False, timeout=60).text, "otio_json")
    (clip,) = timeline.find_clips()
    assert clip.name == "owlpost: tea" and abs(clip.duration().to_seconds() - 4) < 0.1
    assert [mark.name for mark in timeline.tracks.markers] == ["Tea: owlpost", "Refused: bramble_jo"]
    captions = webvtt.from_buffer(io.StringIO(httpx.get(vtt_link, trust_env=False, timeout=60).text)).captions
    assert [one.text for one in captions] == ["owlpost: tea"]
    # The result with tonight's book.
    running.book(cues=[{**TEA, "calls": chat, "door": {"cooldown_s": 0}}])
    person.click("[data-test=against]")
    person.see("[data-test=two-books]")
    row = person.see("[data-test=shift-let_in]").text
    assert row.split() == ["let", "in", "1", "2", "+1"]
    assert "changed the cue Tea: cooldown" in person.see("[data-test=two-books]").text
    assert len(driver.find_elements("css selector", "[data-test=score]")) == 2


@pytest.mark.parametrize("again", [False, True])
def test_a_sweep_is_stopped_and_what_is_there_stays(running: Running, driver: Chrome, again: bool) -> None:
    _tea(running)
    running.book(audiences=[{"id": "friday", "name": "Friday", "calls": 4_000, "viewers": 200}])
    person = _open(running, driver, "rehearse")
    person.press_segment("Find it")
    person.click("[data-test=sweep]")
    person.see("[data-test=value-1]")
    person.click("[data-test=stop-sweep]")
    until(lambda: running.api.get("/api/rehearsals").json()[-1]["state"] == "stopped")
    row = running.api.get("/api/rehearsals").json()[-1]
    assert 0 < row["done"] < row["total"]
    person.see("[data-test=sweep]:enabled")
    person.see("[data-test=value-1]")
    if again:
        # Leaving the page stops what is running.
        person.click("[data-test=sweep]")
        person.see("[data-test=stop-sweep]")
        driver.find_element("css selector", "a[href='/desk']").click()
        until(lambda: running.api.get("/api/rehearsals").json()[-1]["state"] == "stopped")


def test_the_ledgers_filters_are_in_the_address_and_escape_clears_them(running: Running, driver: Chrome) -> None:
    _tea(running, calls=[{"kind": "chat", "match": "starts", "text": "!tea"}], door={})
    for number in range(3):
        text = f"!tea number {number}"
        running.channel.post("/chat", json={"viewer": "owlpost", "text": text}).raise_for_status()
    until(lambda: running.api.get("/api/ledger").json()["total"] == 3)
    person = _open(running, driver, "ledger?words=number%201")
    person.reads("1 call")
    assert len(driver.find_elements("css selector", ".line")) == 1
    person.see(".line").send_keys(Keys.ESCAPE)
    person.reads("3 calls")
    assert "words" not in driver.current_url
    first = person.see(".line")
    first.send_keys(Keys.ARROW_DOWN)
    driver.switch_to.active_element.send_keys(Keys.ENTER)
    person.see(".trace")
    person.type("[data-test=words]", "number 2" + Keys.TAB)
    until(lambda: "words=number" in driver.current_url)
    person.reads("1 call")
