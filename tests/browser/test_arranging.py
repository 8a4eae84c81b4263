"""Whole jobs at arranging: a sound trimmed to fit, beats tied to each other, copied and aligned, and several overlays."""

from __future__ import annotations

import gzip
import re
from pathlib import Path
from typing import Any

from selenium.webdriver import ActionChains, Chrome, Keys

from cuejar.demo.make import FILES
from tests.browser.person import Person
from tests.running import Running, until

WEB = Path(__file__).parents[2] / "src/cuejar/web"


# The handles are in their own shadow root.
TRIM_END = """return document.querySelector('[data-test=trim] > div')?.shadowRoot?.querySelector('[part~="region-handle-right"]')"""


def only_cue(running: Running) -> dict[str, Any]:
    cue: dict[str, Any] = running.api.get("/api/book").json()["book"]["cues"][0]
    return cue


def beat(running: Running, name: str) -> dict[str, Any]:
    found: dict[str, Any] = next(b for b in only_cue(running)["beats"] if b["id"] == name)
    return found


def test_a_sound_trimmed_to_fit(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    path = running.api.post("/api/overlays/stream/link").json()["path"]
    driver.get(f"http://127.0.0.1:{running.port}{path}")
    overlay = driver.current_window_handle
    driver.switch_to.new_window("window")
    editor = driver.current_window_handle
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    posters = [str(FILES / f"poster-{name}.gif") for name in ("dusk", "tea", "mail", "signal")]
    person.drop_files(".random", *posters, str(FILES / "poster-snow.webp"))
    person.see("[data-block=picture]")
    person.drop_files(".score-card .drop", str(FILES / "crossing-bell.ogg"))
    person.click("[data-block=sound]")
    person.reads("The sound “sound” plays 2.6")

    # The end handle goes to half; the file stays, but plays half as long.
    track = person.see("[data-test=trim]")
    until(lambda: driver.execute_script(TRIM_END))
    person.drag(driver.execute_script(TRIM_END), -track.size["width"] // 2, 0)
    trim = until(lambda: [m["trim"] for m in running.api.get("/api/book").json()["book"]["media"] if m["trim"]])[0]
    assert 1.8 < trim["to_s"] < 2.2
    person.reads("plays 0.6")

    # And then it ends with the picture, to the millisecond, and the snag is gone.
    person.click("[data-test=fit-sound]")
    length = until(lambda: (b := beat(running, "sound")["length"]) != "natural" and b)
    assert length == {"s": 1.4}
    until(lambda: "longer than the last picture" not in person.text())
    person.click("[data-test=fit-picture]")
    assert running.api.post(f"/api/cues/{only_cue(running)['id']}/fire").json()["started"]

    driver.switch_to.window(overlay)
    page = Person(driver)
    page.see("img[data-beat=picture]")
    until(lambda: driver.execute_script("const a=document.querySelector('audio');return a&&!a.paused"))
    page.gone("audio")
    page.gone("img")

    # The picture is moved and stretched in the editor; the overlay follows at the next firing, without a reload.
    driver.switch_to.window(editor)
    person.click("[data-block=picture]")
    stage = person.see("[data-test=stage]")
    person.drag(person.see("[data-test=stage] [data-beat=picture]"), -int(stage.size["width"] * 0.2), 0)
    until(lambda: beat(running, "picture")["place"]["x"] < 0.2)
    running.api.post(f"/api/cues/{only_cue(running)['id']}/fire")
    driver.switch_to.window(overlay)
    assert page.see("img[data-beat=picture]").rect["x"] < 0.2 * 1280


def test_beats_tied_copied_and_aligned(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    plume = running.add_file("plume.webp", (FILES / "whistle-plume.webp").read_bytes())
    beats = [
        {"id": name, "kind": "picture", "media": {"file": plume}, "length": {"s": 2}, "place": place}
        for name, place in (
            ("one", {"x": 0.1, "y": 0.1, "w": 0.2, "h": 0.2}),
            ("two", {"x": 0.6, "y": 0.5, "w": 0.3, "h": 0.3}),
        )
    ]
    bell = {"id": "bell", "kind": "caption", "text": "hi", "length": {"s": 1}, "start": {"at_s": 4}}
    running.book(cues=[{"id": "pair", "name": "Pair", "calls": [{"kind": "follow"}], "beats": [*beats, bell]}])
    driver.get(f"http://127.0.0.1:{running.port}/cues/pair")

    # Dropped on the right half of another block, it begins at that one's end.
    target, moved = person.see("[data-block=two]"), person.see("[data-block=bell]")
    middle = target.rect["x"] + target.rect["width"] * 0.8 - (moved.rect["x"] + moved.rect["width"] / 2)
    person.drag(moved, int(middle), int(target.rect["y"] - moved.rect["y"]))
    until(lambda: beat(running, "bell")["start"] == {"at_s": 0, "after": "two", "edge": "end", "hit": 1})

    # Two selected: aligned to the first, moved together, brought to the front, copied and pasted.
    person.click("[data-block=one]")
    ActionChains(driver).key_down(Keys.SHIFT).click(person.see("[data-block=two]")).key_up(Keys.SHIFT).perform()
    person.reads("and 1 more")
    person.choose("[data-test=align]", "Same place")
    until(lambda: beat(running, "two")["place"] == beat(running, "one")["place"])
    ActionChains(driver).key_down(Keys.ALT).send_keys(Keys.ARROW_RIGHT).key_up(Keys.ALT).perform()
    until(lambda: [round(beat(running, b)["place"]["x"], 3) for b in ("one", "two")] == [0.105, 0.105])
    person.click("[data-block=one]")
    ActionChains(driver).send_keys(Keys.ESCAPE).perform()
    person.click("[data-block=one]")
    person.click("[data-test=to-front]")
    until(lambda: beat(running, "one")["layer"] > beat(running, "two")["layer"])
    ActionChains(driver).key_down(Keys.CONTROL).send_keys("a").send_keys("c").key_up(Keys.CONTROL).perform()
    person.reads("3 beats copied")
    person.click("[data-test=cue-more]")
    person.click("[data-test=duplicate]")
    person.reads("Nothing calls it yet")
    ActionChains(driver).key_down(Keys.CONTROL).send_keys("v").key_up(Keys.CONTROL).perform()
    cues = until(lambda: len((c := running.api.get("/api/book").json()["book"]["cues"])[1]["beats"]) == 6 and c)
    pasted = cues[1]["beats"][5]
    assert pasted["kind"] == "caption"
    assert pasted["start"]["after"] == cues[1]["beats"][4]["id"] != "two"
    assert len(cues[0]["beats"]) == 3


def test_several_overlays(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    home = f"http://127.0.0.1:{running.port}"
    driver.get(f"{home}/rig")
    person.reads("no page connected")
    first = running.api.post("/api/overlays/stream/link").json()["path"].rsplit("/", 1)[1]
    assert first not in driver.page_source, "the link is covered"
    person.click("[data-test=add-overlay]")
    person.see("[data-overlay=overlay]")
    running.book(
        overlays=[{"id": "overlay", "name": "Desk only", "private": True, "ground": "#102030", "sound": False}]
    )
    person.see("[data-overlay=overlay] input[type=color]")

    media = running.add_file("bell.ogg", (FILES / "crossing-bell.ogg").read_bytes())
    beats = [
        {"id": "bell", "kind": "sound", "media": {"file": media}},
        {"id": "both", "kind": "caption", "text": "both", "length": {"s": 8}, "overlays": ["stream", "overlay"]},
        {"id": "mine", "kind": "caption", "text": "mine", "length": {"s": 8}, "overlays": ["overlay"]},
    ]
    running.book(cues=[{"id": "bell", "name": "Bell", "calls": [{"kind": "follow"}], "beats": beats}])
    own = running.api.post("/api/overlays/overlay/link").json()["path"]
    driver.switch_to.new_window("window")
    driver.get(f"{home}{own}?check")
    second = Person(driver)
    second.reads("Desk only: connected")
    assert driver.execute_script("return getComputedStyle(document.body).backgroundColor") == "rgb(16, 32, 48)"
    running.api.post("/api/cues/bell/fire")
    second.see("[data-beat=both]")
    second.see("[data-beat=mine]")
    assert driver.find_elements("css selector", "audio") == []
    second.reads(" 2 up")
    # Its setup changes while it is on: the page follows by itself.
    running.book(overlays=[{"id": "overlay", "name": "Second", "sound": True}])
    until(lambda: driver.execute_script("return getComputedStyle(document.body).backgroundColor") == "rgba(0, 0, 0, 0)")
    running.api.post("/api/all-to-rest")
    second.gone("[data-beat=mine]")

    driver.switch_to.new_window("window")
    driver.get(f"{home}/overlay/{first}")
    until(lambda: all(o["pages"] for o in running.api.get("/api/overlays").json()))
    assert not driver.find_elements("css selector", "#check"), "no health line unless it is asked for"
    snags = [s["check"] for s in running.api.get("/api/snags").json()]
    assert "same_sound_twice" in snags
    driver.switch_to.window(driver.window_handles[0])
    person.reads("ms round trip")
    running.api.post("/api/overlays/stream/renew")
    until(lambda: not running.api.get("/api/overlays").json()[0]["pages"])


def test_forty_pictures_at_once_and_a_small_page(running: Running, driver: Chrome) -> None:
    page = (WEB / "overlay.html").read_text()
    entry = set(re.findall(r"/assets/[\w.-]+\.(?:js|css)", page))
    size = sum(len(gzip.compress((WEB / path.lstrip("/")).read_bytes())) for path in entry)
    print(f"\nthe overlay's page before its first picture: {size / 1000:.1f} kB gzipped")
    assert 0 < size <= 70_000
    assert not any("burst" in path or "chance" in path for path in entry)

    files = [running.add_file(name, (FILES / name).read_bytes()) for name in ("poster-owl.png", "paper-ticket.png")]
    beats = [
        {
            "id": f"p{n}",
            "kind": "picture",
            "media": {"file": files[n % 2]},
            "length": {"s": 6},
            "place": {"x": n % 8 / 8, "y": n // 8 / 5, "w": 0.12, "h": 0.19},
            "layer": n,
        }
        for n in range(40)
    ]
    running.book(cues=[{"id": "many", "name": "Many", "beats": beats}])
    path = running.api.post("/api/overlays/stream/link").json()["path"]
    driver.get(f"http://127.0.0.1:{running.port}{path}")
    until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
    running.api.post("/api/cues/many/fire").raise_for_status()
    shown = "return [...document.querySelectorAll('img')].filter(i => i.complete && i.naturalWidth).length"
    until(lambda: driver.execute_script(shown) == 40)
    order = driver.execute_script("return [...document.querySelectorAll('img')].map(i => Number(i.style.zIndex))")
    assert sorted(order) == list(range(1, 41))
    Person(driver).gone("img")
