"""Whole jobs at the rig: a second channel connected by its token, and a bridge's thing held, moved by hand, and
released.
"""

from __future__ import annotations

from typing import Any

from selenium.webdriver import Chrome
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person
from tests.live.standin import StandIn
from tests.running import Running, until

TOKEN = "branch-line-token"


def test_a_second_channel_with_a_wrong_token_then_the_right_one(running: Running, driver: Chrome) -> None:
    branch = StandIn(token=TOKEN)
    try:
        person = Person(driver)
        driver.get(f"http://127.0.0.1:{running.port}/rig")
        person.click("[data-test=add-channel]")
        card = "[data-gear=channel] "
        person.click(f"{card}[data-test=set-up]")
        person.click("[aria-label='Uncover secrets']")
        person.type(f"{card}.set-up input.well:not([type])", f"http://127.0.0.1:{branch.port}\n")
        person.reads("it asks for a token")
        until(lambda: person.see(f"{card}[data-test=gear-state]").text == "disconnected")
        person.type(f"{card}input[type=password]", "wrong\n")
        person.reads("the token is wrong")
        person.type(f"{card}input[type=password]", f"{TOKEN}\n")
        until(lambda: person.see(f"{card}[data-test=gear-state]").text == "in sync")
        assert TOKEN not in driver.page_source and "wrong" not in person.text()
        # Its card shows messages that can't be read.
        branch.call(
            lambda: branch.app.state.channel.say(
                '{"type": "cuejar.channel.tip", "id": "t", "source": "/c", "data": {}}'
            )
        )
        person.reads("1 message could not be read and was left out")
    finally:
        branch.stop()


def test_a_thing_is_held_moved_by_hand_and_let_go(running: Running, driver: Chrome) -> None:
    def at(what: str) -> Any:
        return running.things.get("/state").json()["values"][what]

    running.book(
        gear=[{"id": "yard", "kind": "things", "name": "The yard"}],
        cues=[{"id": "wind", "name": "Wind", "entry": "overlap", "calls": [{"kind": "pad"}], "beats": []}],
    )
    until(lambda: running.api.get("/api/gear").json()[0]["state"] == "in_step")
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues/wind")
    person.click("[data-test=add-more]")
    person.click("[data-test=add-set]")
    settings = person.see("aside, .settings, [data-test=settings]")
    person.reads("Weathervane")
    assert "Points to" in settings.text or "Points to" in person.text()
    until(lambda: [b["kind"] for b in running.api.get("/api/book").json()["book"]["cues"][0]["beats"]] == ["set"])
    beat = running.api.get("/api/book").json()["book"]["cues"][0]["beats"][0]
    assert (beat["thing"], beat["setting"], beat["value"]) == ("vane", "angle", 359)
    running.api.post("/api/cues/wind/fire").raise_for_status()
    until(lambda: at("vane/angle") == 359)
    until(lambda: at("vane/angle") == 225)
    # The hand wins, in the window of the things themselves.
    running.api.post("/api/cues/wind/fire").raise_for_status()
    until(lambda: at("vane/angle") == 359)
    driver.get(f"http://127.0.0.1:{running.port + 10}/window/things")
    person.choose("[data-test=tower-valve]", "on")
    person.see("[data-test=vane-angle] input").send_keys(Keys.CONTROL, "a")
    person.type("[data-test=vane-angle] input", "42\n")
    until(lambda: at("vane/angle") == 42)
    until(lambda: not running.api.get("/api/holds").json())
    driver.get(f"http://127.0.0.1:{running.port}/rig")
    person.reads("Points to 42 °")
    assert at("vane/angle") == 42 and at("tower/valve") is True
