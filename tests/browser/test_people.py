"""Whole jobs with the people of the show: a viewer's face, a reward's picture, the streamer's own voice."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver import Chrome

from cuejar.demo.make import FILES
from tests.browser.person import Person
from tests.running import Running, until
from tests.voices import TALK, heard, say, silence, write

PHRASE = "all aboard please"


def _is_drawn(driver: Chrome, css: str, side: int) -> bool:
    """Returns whether a picture of this side is shown."""
    script = "const i = document.querySelector(arguments[0]); return i && i.complete ? i.naturalWidth : 0"
    return bool(driver.execute_script(script, css) == side)


def test_a_cue_greets_a_viewer_with_their_picture(running: Running, driver: Chrome) -> None:
    person, home = Person(driver), f"http://127.0.0.1:{running.port}"
    driver.get(f"{home}/rig")
    person.click("[data-test=faces]")
    until(lambda: running.now["house"].get("faces"))
    media = running.add_file("ticket.png", (FILES / "paper-ticket.png").read_bytes())
    beats = [{"id": "p", "kind": "picture", "media": {"file": media}, "length": {"s": 60}}]
    calls = [{"kind": "chat", "match": "is", "text": "!hello"}]
    running.book(cues=[{"id": "hello", "name": "Hello", "calls": calls, "beats": beats}])
    driver.get(f"{home}/cues/hello")
    person.click("[data-block=p]")
    person.choose("[data-test=source]", "The viewer’s picture")
    until(lambda: running.now["cues"][0]["beats"][0]["media"] == {"face": "viewer"})
    running.channel.post("/chat", json={"viewer": "owlpost", "text": "!hello"}).raise_for_status()
    driver.get(f"{home}/viewers")
    person.see("[data-viewer=v-owl] img")

    def face() -> bool:
        driver.refresh()
        person.see("[data-viewer=v-owl] img")
        return running.api.get("/faces/v-owl").headers["content-type"] == "image/webp"

    until(face)
    until(lambda: _is_drawn(driver, "[data-viewer=v-owl] img", 256))
    driver.get(home + running.api.post("/api/overlays/stream/link").json()["path"])
    until(lambda: _is_drawn(driver, "#stage img", 256))


def test_a_rewards_picture_reaches_its_viewers(running: Running, driver: Chrome) -> None:
    person, home = Person(driver), f"http://127.0.0.1:{running.port}"
    running.add_file("ticket.png", (FILES / "paper-ticket.png").read_bytes())
    running.book(rewards=[{"id": "tea", "title": "Tea", "cost": 10}])
    driver.get(f"{home}/rewards")
    person.click("[data-reward=tea] .title")
    person.choose("[data-test=reward-picture]", "ticket")
    square = person.see("[data-test=crop]")
    before = until(lambda: running.now["rewards"][0].get("picture"))
    person.drag(square, 30, 0)
    moved = until(lambda: (now := running.now["rewards"][0]["picture"]) != before and now)
    assert moved["x"] > 0.5 and moved.get("y", 0.5) == 0.5
    person.see("[data-reward=tea] img.picture")
    driver.get(f"http://127.0.0.1:{running.port + 10}/")
    person.see("[data-test='redeem-Tea'] img")
    until(lambda: _is_drawn(driver, "[data-test='redeem-Tea'] img", 96))


def test_a_phrase_is_trained_and_said(microphone: Path, running: Running, driver: Chrome) -> None:
    person, home = Person(driver), f"http://127.0.0.1:{running.port}"
    beats = [{"id": "c", "kind": "caption", "text": "All aboard", "length": {"s": 0.5}}]
    running.book(cues=[{"id": "bell", "name": "Bell", "calls": [{"kind": "said", "phrase": PHRASE}], "beats": beats}])
    driver.get(f"{home}/phrases")
    person.see("[data-test=train]:enabled")
    person.click("[data-test=train]")
    for number, rate in enumerate((0.95, 1.0, 1.05)):
        write(microphone, heard([silence(0.8), say(PHRASE, rate=rate), silence(1.5)], number))
        person.see("[data-test=say]:enabled")
        person.click("[data-test=say]")
        person.reads(f"{number + 1} of 3")
    write(microphone, heard([say(line, rate=rate) for rate in (1.0, 0.9) for line in TALK]))
    person.see("[data-test=talk-minute]:enabled")
    person.click("[data-test=talk-minute]")
    person.see("[data-test=find]:enabled")
    person.click("[data-test=find]")
    person.see("[data-test=trained]")
    person.click("[data-test=end-training]")
    person.gone("[data-test=training]")
    write(microphone, heard([silence(1), say(PHRASE, rate=1.02), silence(1)]))
    person.press_segment("Always")
    person.see("[data-test=listens]")
    person.reads(f"Heard last: “{PHRASE}”")
    until(lambda: [line["cue"] for line in running.api.get("/api/ledger").json()["lines"]] == ["bell"])
