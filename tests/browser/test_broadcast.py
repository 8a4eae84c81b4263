"""Whole jobs at the broadcaster: a scene with a source in it as one cue, a viewer's colour, and the streamer's own hand."""

from __future__ import annotations

import time

from selenium.webdriver import Chrome

from cuejar.standins.halt import PASSWORD
from tests.browser.person import Person
from tests.running import Running, until


def shown(running: Running, path: str) -> object:
    return running.broadcaster.get("/state").json()["values"][path]


def test_a_scene_a_source_and_back_built_by_hand(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    home = f"http://127.0.0.1:{running.port}"
    driver.get(f"{home}/rig")
    person.click("[data-test=add-broadcaster]")
    person.see("[data-gear=broadcaster]")
    person.type("[data-gear=broadcaster] input[type=password]", PASSWORD)
    person.press("Keep")
    until(lambda: person.see("[data-test=gear-state]").text == "in sync")

    driver.get(f"{home}/cues")
    person.press("Empty cue")
    person.add_beat("scene")
    person.choose("[data-test=name-scene]", "Yard cam")
    field = person.see(".when .two:last-child .duration input")
    field.clear()
    field.send_keys("3s\n")
    person.add_beat("source")
    person.choose("[data-test=name-scene]", "Yard cam")
    person.choose("[data-test=name-source]", "Snow")
    person.choose("[data-test=after]", "scene")
    person.choose(".when .two .el-select:not([data-test])", "start")
    later = person.see(".when .two:first-child .duration input")
    later.clear()
    later.send_keys("1\n")
    lasts = person.see(".when .two:last-child .duration input")
    lasts.clear()
    lasts.send_keys("1500ms\n")
    person.reads("↩ Workbench")
    until(lambda: "Saved" in person.text() and "not there" not in person.text())
    cue = until(lambda: running.api.get("/api/book").json()["book"]["cues"][0])
    assert [beat["length"] for beat in cue["beats"]] == [{"s": 3}, {"s": 1.5}]
    assert cue["beats"][1]["start"] == {"at_s": 1, "after": "scene", "edge": "start", "hit": 1}

    snow = "broadcast/source/Yard cam/Snow/visible"
    begun = time.monotonic()
    running.api.post(f"/api/cues/{cue['id']}/fire")
    until(lambda: shown(running, "broadcast/scene") == "Yard cam")
    assert shown(running, snow) is False
    until(lambda: shown(running, snow) is True)
    assert time.monotonic() - begun >= 0.9
    until(lambda: shown(running, snow) is False)
    assert shown(running, "broadcast/scene") == "Yard cam"
    until(lambda: shown(running, "broadcast/scene") == "Workbench")
    assert time.monotonic() - begun >= 2.9

    # The streamer changes the scene during it: that stays.
    driver.switch_to.new_window("window")
    driver.get(f"http://127.0.0.1:{running.port + 10}/window/broadcaster")
    window = Person(driver)
    window.see("[data-test=scene]")
    running.api.post(f"/api/cues/{cue['id']}/fire")
    until(lambda: window.see("[data-test=scene]").text == "Yard cam")
    window.click("[data-test='scene-Tea table']")
    until(lambda: window.see("[data-test=scene]").text == "Tea table")
    time.sleep(3.2)
    assert shown(running, "broadcast/scene") == "Tea table"
    assert running.api.get("/api/holds").json() == []


def test_names_may_have_anything_in_them(running: Running, driver: Chrome) -> None:
    """A scene with a slash and a percent sign: changed by hand in the gear's window, at rest so from then on."""
    running.with_broadcaster()
    driver.get(f"http://127.0.0.1:{running.port + 10}/window/broadcaster")
    window = Person(driver)
    named = {"what": "scene", "old": "Yard cam", "new": "Yard/cam 100%"}
    running.broadcaster.post("/rename", json=named).raise_for_status()
    window.click("[data-test='scene-Yard/cam 100%']")
    until(lambda: window.see("[data-test=scene]").text == "Yard/cam 100%")
    window.press_label("Snow")
    until(lambda: shown(running, "broadcast/source/Yard%2Fcam 100%25/Snow/visible") is True)
    driver.get(f"http://127.0.0.1:{running.port}/rig")
    person = Person(driver)
    person.click("[data-test=set-up]")
    person.click("[data-test=rest-values]")
    box = "[aria-label='Snow in Yard/cam 100% at rest']"
    until(lambda: person.see(box).is_selected())
    person.click(box)
    until(lambda: shown(running, "broadcast/source/Yard%2Fcam 100%25/Snow/visible") is False)

    # What the gear refuses is said, and doesn't look as if it were done.
    driver.get(f"http://127.0.0.1:{running.port + 10}/window/broadcaster")
    ticked = (
        "return [...document.querySelectorAll('label')].find((l) => l.innerText.trim() === 'Snow')?.control.checked"
    )
    until(lambda: driver.execute_script(ticked) is False)
    driver.execute_script(
        "const f = fetch; window.fetch = (at, how) => f(at, how && { ...how, body: how.body.replace('Snow', 'Hail') })"
    )
    window.press_label("Snow")
    window.reads("there is no property")
    assert driver.execute_script(ticked) is False


def test_a_viewers_colour_tints_two_sources(running: Running, driver: Chrome) -> None:
    running.with_broadcaster()
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    person.press("Empty cue")
    person.add_beat("filter")
    person.choose("[data-test=name-filter]", "Tint")
    person.choose("[data-test=name-setting]", "colour")
    person.press_label("Platform lamp")
    person.press_label("the viewer’s colour")
    person.click("[data-test=calls]")
    person.click("[data-test=reward-add]")
    assert person.clicks <= 12
    person.reads("with a colour")
    until(lambda: "Saved" in person.text())
    until(lambda: len(running.channel.get("/rewards").json()) == 1)
    reward = running.channel.get("/rewards").json()[0]["id"]
    tints = [f"broadcast/filter/{source}/Tint/colour" for source in ("Bench cam", "Platform lamp")]
    redemption = running.redeem("owlpost", reward, "slate blue")
    until(lambda: [shown(running, tint) for tint in tints] == ["#6a5acd"] * 2)
    running.channel.post("/stream", json={"state": "live"})
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    person.reads("Tint on Bench cam")
    person.reads("back to #ffffff")
    running.broadcaster.post("/hand", json={"path": "broadcast/scene", "value": "Tea table"})
    until(lambda: running.state_of(redemption) == "fulfilled")
    until(lambda: [shown(running, tint) for tint in tints] == ["#ffffff"] * 2)
    assert shown(running, "broadcast/scene") == "Tea table"
    lost = running.redeem("owlpost", reward, "a nice one")
    until(lambda: running.state_of(lost) == "refunded")
