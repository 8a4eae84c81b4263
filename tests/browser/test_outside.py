"""Whole jobs with lamps, avatar, throws, haptics, voice box, keys and hooks, seen in the stand-ins' windows; each
returns.
"""

from __future__ import annotations

import base64
import hashlib
import hmac
import json
import time

import httpx
from selenium.webdriver import ActionChains, Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from cuejar.demo import outside
from cuejar.demo.make import FILES
from tests.browser.person import Person
from tests.running import Running, until


def state(running: Running, kind: str) -> dict[str, object]:
    answer = httpx.get(f"http://127.0.0.1:{running.port + 10}/{kind}/state", trust_env=False)
    told: dict[str, object] = answer.json()
    return told


def values(running: Running, kind: str) -> dict[str, object]:
    told: dict[str, object] = state(running, kind)["values"]  # type: ignore[assignment]
    return told


def near(one: str | None, other: str) -> bool:
    """Returns whether two colours are the same within eight bits and a lamp's gamma."""
    parts = [[int(colour[i : i + 2], 16) for i in (1, 3, 5)] for colour in (one or "#000000", other)]
    return all(abs(a - b) <= 4 for a, b in zip(*parts, strict=True))


def halt(running: Running, seconds: float = 3) -> None:
    """The demo's gear and its cues, with their long holds cut to a few seconds; the hat outlasts everything beside it."""
    for name in ("parcel.png", "express-rumble.ogg"):
        running.add_file(name, (FILES / name).read_bytes())
    wanted = (
        "lamp-colour",
        "top-hat",
        "parcel-toss",
        "express-rumble",
        "tannoy-voice",
        "new-passenger",
        "quiet-carriage",
    )
    cues = [cue for cue in outside.cues() if cue["id"] in wanted]
    known = {reward["id"] for reward in outside.REWARDS}
    for cue in cues:
        cue.pop("lane")
        for beat in cue["beats"]:
            if isinstance(beat.get("length"), dict) and beat["length"].get("s", 0) > seconds:
                beat["length"] = {"s": 12 if cue["id"] == "top-hat" else seconds}
    running.book(
        house={"hook_places": [{"host": "127.0.0.1", "private": True}]},
        gear=outside.GEAR,
        patterns=outside.patterns(),
        inlets=outside.INLETS,
        rewards=outside.REWARDS,
        sets=[{"id": "loud", "name": "The loud ones", "rewards": [one for one in outside.LOUD if one in known]}],
        cues=cues,
    )
    until(lambda: all(row["state"] == "in_step" for row in running.api.get("/api/gear").json()))
    until(lambda: len(running.channel.get("/rewards").json()) == len(outside.REWARDS))


def test_a_night_at_the_halt_and_everything_returns(running: Running, driver: Chrome) -> None:
    halt(running)
    person = Person(driver)
    windows = f"http://127.0.0.1:{running.port + 10}/window"

    # Lamp colour, by a viewer, in the lamps' window.
    driver.get(f"{windows}/lights")
    lamp = "[data-lamp={}]"
    rest = {one: person.see(lamp.format(one)).get_attribute("data-shown") for one in ("signal", "strip", "key")}
    asked = running.redeem("owlpost", "Lamp colour", "slate blue")
    wrong = running.redeem("bramble_jo", "Lamp colour", "the best one")
    until(lambda: running.state_of(asked) == "fulfilled")
    until(lambda: running.state_of(wrong) == "refunded")
    until(lambda: near(person.see(lamp.format("signal")).get_attribute("data-shown"), "#6a5acd"))
    assert person.see(lamp.format("key")).get_attribute("data-shown") == rest["key"], "a spared lamp"
    until(lambda: person.see(lamp.format("signal")).get_attribute("data-shown") == rest["signal"])

    # Parcels hit head and chest on the overlay, and startle the avatar while it wears its hat.
    link = running.api.post("/api/overlays/stream/link").json()["path"]
    driver.get(f"http://127.0.0.1:{running.port}{link}")
    until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
    running.redeem("owlpost", "Top hat")
    until(lambda: values(running, "avatar")["avatar/outfit"] == "Top hat")
    begun = time.monotonic()
    running.redeem("owlpost", "Parcel toss")
    person.see("[data-kind=throw] canvas")
    drawn = "const c=document.querySelector('[data-kind=throw] canvas');return c.getContext('2d').getImageData(0,0,c.width,c.height).data.some(v=>v)"
    until(lambda: driver.execute_script(drawn))
    until(lambda: values(running, "avatar")["avatar/expression/Startled"] == "on")
    assert time.monotonic() - begun >= 0.4, "not before the first hit"
    assert values(running, "avatar")["avatar/outfit"] == "Top hat", "the hat stays beside the face"
    hits = until(lambda: len(found := person.see("[data-kind=throw]").get_attribute("data-hit").split()) == 6 and found)
    assert set(hits) <= {"head", "chest"} and len(hits) == 6
    until(lambda: values(running, "avatar")["avatar/outfit"] == "Porter")
    until(lambda: values(running, "avatar")["avatar/expression/Startled"] == "off")

    # The quiet carriage switches the loud rewards off at the channel, for its time.
    def on_sale() -> bool:
        rewards = running.channel.get("/rewards").json()
        return all(row["on"] for row in rewards if row["title"] in ("Parcel toss", "Everybody up"))

    running.api.post("/api/cues/quiet-carriage/fire").raise_for_status()
    until(lambda: not on_sale())
    until(on_sale)

    # The express is felt in the coat's window; the voice box speaks as a tannoy; both go back.
    driver.get(f"{windows}/haptics")
    person.see("[data-test=wearable]")
    felt = "return Math.max(...[...document.querySelectorAll('[data-pad]')].map(c=>Number(c.dataset.level)))"
    running.redeem("owlpost", "Express rumble")
    running.redeem("bramble_jo", "Tannoy voice")
    highest = 0.0
    end = time.monotonic() + 2.6
    while time.monotonic() < end:
        highest = max(highest, float(driver.execute_script(felt)))
        time.sleep(0.05)
    assert 0.5 < highest <= 0.801, "felt, and within the house's limit"
    until(lambda: driver.execute_script(felt) == 0)
    driver.get(f"{windows}/voice")
    until(lambda: values(running, "voice")["voice/preset"] == "Plain")
    running.redeem("owlpost", "Tannoy voice")
    until(lambda: person.see("[data-test=voice]").get_attribute("data-preset") == "Tannoy")
    # The hand wins, from the stand-in's own window: Tunnel stays.
    person.click("[data-test='preset-Tunnel']")
    until(lambda: not running.state()["held"])
    assert values(running, "voice")["voice/preset"] == "Tunnel"


def test_keys_are_recorded_latched_and_put_right(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    home = f"http://127.0.0.1:{running.port}"
    driver.get(f"{home}/rig")
    person.click("[data-test=add-keys]")
    until(lambda: person.see("[data-gear=keys] [data-test=gear-state]").text == "in sync")
    driver.get(f"{home}/cues")
    person.press("Empty cue")
    person.click("[data-test=add-more]")
    person.click("[data-test=add-keys]")
    person.click("[data-test=record-keys]")
    ActionChains(driver).key_down(Keys.CONTROL).key_down(Keys.SHIFT).send_keys("m").key_up(Keys.SHIFT).key_up(
        Keys.CONTROL
    ).perform()
    beat = until(
        lambda: next(
            (b for b in running.api.get("/api/book").json()["book"]["cues"][0]["beats"] if "+" in b["combo"]), None
        )
    )
    assert beat["combo"] == "ControlLeft+ShiftLeft+KeyM"
    cue = running.api.get("/api/book").json()["book"]["cues"][0]["id"]
    running.api.post(f"/api/cues/{cue}/fire").raise_for_status()
    path = "keys/ControlLeft+ShiftLeft+KeyM"
    until(lambda: values(running, "keys")[path] == "on")
    # Released at the desk, and pressed by hand outside: one click records it, and nothing is pressed for it.
    running.api.post("/api/all-to-rest").raise_for_status()
    until(lambda: values(running, "keys")[path] == "off")
    httpx.post(f"http://127.0.0.1:{running.port + 10}/keys/hand", json={"combo": path[5:]}, trust_env=False)
    taps = state(running, "keys")["serial"]
    driver.get(f"{home}/rig")
    person.click(f"[data-test='correct-{path[5:]}']")
    person.reads("last known: on")
    assert state(running, "keys")["serial"] == taps


def test_throws_are_tuned_and_their_circles_laid(running: Running, driver: Chrome) -> None:
    halt(running)
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues/parcel-toss")
    person.click("[data-block=parcels]")
    head = person.see("[data-target=head]")
    before = head.location["x"]
    person.drag(head, -60, 0)
    targets = until(
        lambda: next(
            (
                g["targets"]
                for g in running.api.get("/api/book").json()["book"]["gear"]
                if g["id"] == "avatar" and g["targets"][0]["x"] < 0.7
            ),
            None,
        )
    )
    assert targets[0]["id"] == "head" and person.see("[data-target=head]").location["x"] < before - 30
    person.choose("[data-test=origin]", "above")
    person.press("Save to compare")
    person.choose("[data-test=origin]", "the right")
    driver.find_element("tag name", "body").send_keys("t")
    until(lambda: len(driver.find_elements("css selector", ".pair canvas")) == 2)
    person.press("Swap")
    until(lambda: person.see("[data-test=origin]").text == "above")
    person.choose("[data-test=origin]", "a point on the stage")
    person.drag(person.see("[data-test=from]"), 0, 40)
    until(lambda: 0.05 < _throw(running)["from_y"] < 0.6)
    driver.get(f"http://127.0.0.1:{running.port}/cues/top-hat")
    person.reads("↩ Porter")


def _throw(running: Running) -> dict[str, float]:
    cues = running.api.get("/api/book").json()["book"]["cues"]
    beat: dict[str, float] = next(
        b for c in cues if c["id"] == "parcel-toss" for b in c["beats"] if b["id"] == "parcels"
    )
    return beat


def test_a_pattern_is_painted_and_a_timer_shown(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    home = f"http://127.0.0.1:{running.port}"
    driver.get(f"{home}/rig")
    person.click("[data-test=add-haptics]")
    # Painted on the coat, by mouse and by keyboard.
    person.click("[data-test=patterns]")
    person.click(".dialog [data-pad='shoulder-left']")
    person.see(".dialog [data-pad='shoulder-right']").send_keys(Keys.ENTER)
    person.click("[data-test=copy-frame]")
    person.click(".dialog [data-pad='back-2']")
    person.click("[data-test=keep-pattern]")
    pattern = until(lambda: running.api.get("/api/book").json()["book"]["patterns"][0])
    x = {place: row["x"] for place, row in pattern["places"].items()}
    assert [sorted(x[place] for place in frame["levels"]) for frame in pattern["frames"]] == [
        [0.25, 0.75],
        [0.25, 0.42, 0.75],
    ]
    person.click("[data-test=play-pattern]")
    until(lambda: float(person.see(".dialog [data-pad='shoulder-left']").get_attribute("data-level") or -1) == 0.8)
    text = running.api.get(f"/api/patterns/{pattern['id']}.csv").text
    assert text.splitlines()[0] == "time_ms,side,x,y,size,level" and "0,front,0.75,0.13,0.14,0.8" in text

    # Another wearable, with two pads in front and one behind: it is drawn at once, and the pattern fits.
    hood = [
        {"id": "brow", "x": 0.3, "y": 0.05},
        {"id": "chin", "x": 0.5, "y": 0.4},
        {"id": "nape", "side": "back", "x": 0.5, "y": 0.1},
    ]
    running.standin("/haptics/wear", hood)
    until(lambda: len(driver.find_elements(By.CSS_SELECTOR, ".dialog [data-pad]")) == 3)
    person.click(".dialog .frame:last-child")

    def levels() -> dict[str, float]:
        there = driver.find_elements(By.CSS_SELECTOR, ".dialog [data-pad]")
        return {pad.get_attribute("data-pad"): float(pad.get_attribute("data-level") or -1) for pad in there}

    until(lambda: levels() == {"brow": 0.8, "chin": 0.8, "nape": 0})
    driver.find_elements(By.CSS_SELECTOR, ".dialog .frame")[1].click()
    until(lambda: levels() == {"brow": 0.8, "chin": 0.8, "nape": 0.8})
    # One without pads says on its card what it lacks.
    running.standin("/haptics/wear", [])
    person.reads("It reports no pads")

    # An overlay for the streamer alone shows how long something is still held.
    halt(running)
    running.book(overlays=[{"id": "eye", "name": "Eye", "private": True, "timers": True}])
    link = running.api.post("/api/overlays/eye/link").json()["path"]
    driver.get(home + link)
    until(lambda: next(o for o in running.api.get("/api/overlays").json() if o["id"] == "eye")["pages"])
    running.redeem("owlpost", "Top hat")
    until(lambda: "outfit: Top hat" in person.text() and "0:0" in person.text())
    until(lambda: "Top hat" not in person.text())


def test_hooks_come_in_and_go_out(running: Running, driver: Chrome) -> None:
    halt(running)
    running.api.put("/api/gear/signal-box-log/secret", json={"secret": "whsec_dGlud2hpc3RsZS1oYWx0LXNpZ25hbC1ib3g="})
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/rig")
    person.click("[data-inlet=parcel-office] [data-test=uncover-key]")
    key = until(lambda: (text := person.see("[data-test=inlet-key]").text).startswith("whsec_") and text)
    body = json.dumps({"order": {"parcels": 3, "sender": "puddlejump", "note": "fragile"}}).encode()

    def send(content: bytes, secret: str = key, message: str = "msg_1", **headers: str) -> httpx.Response:
        stamp = str(int(time.time()))
        signed = f"{message}.{stamp}.".encode() + content
        mac = hmac.new(base64.b64decode(secret.removeprefix("whsec_")), signed, hashlib.sha256).digest()
        told = {
            "webhook-id": message,
            "webhook-timestamp": stamp,
            "webhook-signature": "v1," + base64.b64encode(mac).decode(),
        }
        return running.api.post("/api/in/parcel-office", content=content, headers={**told, **headers})

    assert send(body).json()["taken"] is True
    assert send(body).json()["taken"] is False, "the same hook once more calls nothing"
    assert send(body, "whsec_" + base64.b64encode(b"wrong").decode(), "msg_2").status_code == 401
    assert running.api.post("/api/in/parcel-office", content=body).status_code == 401
    assert send(b"{", message="msg_3").status_code == 400
    event = json.dumps(
        {"specversion": "1.0", "id": "e1", "source": "/office", "type": "parcel", "data": json.loads(body)}
    )
    kind = {"content-type": "application/cloudevents+json"}
    assert send(event.encode(), message="msg_4", **kind).json()["taken"] is True
    assert send(event.encode(), message="msg_5", **kind).json()["taken"] is False
    assert (
        running.api.post("/api/in/parcel-office", content=body, headers={"authorization": f"Bearer {key}"}).status_code
        == 202
    )
    replies = until(lambda: len(found := [r["text"] for r in running.channel.get("/chat").json()]) == 3 and found)
    assert replies[0] == "Mind the gap, puddlejump!"
    received = until(lambda: len(rows := state(running, "hook")["received"]) == 3 and rows)  # type: ignore[arg-type]
    assert all(row["signed"] for row in received)  # type: ignore[attr-defined]
    assert received[0]["body"] == {"viewer": "puddlejump", "text": "fragile"}  # type: ignore[index]
    running.book(inlets=[{**outside.INLETS[0], "per_min": 5}])
    until(lambda: send(body, message=f"msg_{time.time()}").status_code == 429)
    assert key not in running.api.get("/api/book").text
