"""Whole jobs at building: a random picture of five with a sound, and dice whose outcome decides."""

from __future__ import annotations

from typing import Any

from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By

from cuejar.demo.make import FILES
from tests.browser.person import Person
from tests.running import Running, until

CARD = {"id": "card", "kind": "caption", "text": "mind the gap", "length": {"s": 5}}
POSTERS = [str(FILES / f"poster-{name}") for name in ("dusk.gif", "tea.gif", "mail.gif", "signal.gif", "snow.webp")]


def test_a_random_picture_of_five_with_a_sound(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    person.drop_files(".random", *POSTERS)
    person.see("[data-test=stage] [data-beat=picture]")
    person.drop_files(".score-card .drop", str(FILES / "platform-bell.ogg"))
    person.click("[data-test=calls]")
    person.click("[data-test=reward-add]")
    person.reads("(300) is redeemed")
    person.click("[data-test=pace]")
    person.click("[data-test=pace-60]")
    person.reads("once a minute")
    person.reads("Saved")
    print(
        f"\na random picture of five with a sound, on a new reward, once a minute: {person.clicks} clicks, {person.keys} keys"
    )
    assert person.clicks + person.keys <= 14
    book = running.api.get("/api/book").json()["book"]
    assert len(book["jars"][0]["entries"]) == 5
    assert book["cues"][0]["door"]["cooldown_s"] == 60
    for _ in range(12):
        until(lambda: running.api.post("/api/all-to-rest").is_success)
        fired = running.api.post(f"/api/cues/{book['cues'][0]['id']}/try", json={"speed": 16}).json()
        assert fired["failed"] == []

    def drawn() -> list[str]:
        lines = running.api.get("/api/ledger").json()["lines"]
        return [value for line in lines for note in line["notes"] if note["what"] == "draw" for value in note["drawn"]]

    shown = until(lambda: (values := drawn()) and len(values) == 12 and values)
    assert len(set(shown)) >= 3
    assert all(a != b for a, b in zip(shown, shown[1:], strict=False))

    # The jar itself: its rule, and a share moved from one layer to the next.
    driver.get(f"http://127.0.0.1:{running.port}/jars")
    edge = person.see("[data-test=edge-0]")
    person.drag(edge, 0, 30)
    entries = until(
        lambda: (e := running.api.get("/api/book").json()["book"]["jars"][0]["entries"])[0]["weight"] != 1 and e
    )
    assert entries[0]["weight"] < 1 < entries[1]["weight"]
    assert abs(sum(entry["weight"] for entry in entries) - 5) < 0.01
    person.click("[data-test=draw-many]")
    until(lambda: len(driver.find_elements("css selector", ".bars li")) == 5)


def test_dice_with_two_outcomes(running: Running, driver: Chrome) -> None:
    person = Person(driver)
    path = running.api.post("/api/overlays/stream/link").json()["path"]
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    person.drop_files(".new", str(FILES / "poster-tea.gif"))
    person.add_beat("chance")
    person.click("[data-block=picture]")
    person.choose("[data-test=only-if] [data-test=add-condition]", "the roll comes out as…")
    person.choose("[data-test=condition-rolled]", "Three alike")
    person.choose("[data-test=after]", "chance")
    person.click("[data-test=pretend]")
    person.choose("[data-test=force-chance]", "Three alike")
    person.click(".head .state")
    person.click("[data-test=try-here]")
    person.see("[data-test=try-stage] [data-kind=chance]")
    person.see("[data-test=try-stage] img[data-beat=picture]")
    assert running.api.get("/api/ledger").json()["total"] == 0
    person.reads("Saved")
    cue = running.api.get("/api/book").json()["book"]["cues"][0]["id"]

    driver.switch_to.new_window("window")
    driver.get(f"http://127.0.0.1:{running.port}{path}")
    until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
    page = Person(driver)
    for outcome, name in (("alike", "Three alike"), ("nothing", "Nothing")):
        fired = running.api.post(f"/api/cues/{cue}/try", json={"rolled": {"chance": outcome}}).json()
        assert fired["failed"] == []
        node = page.see("[data-kind=chance]")
        until(lambda node=node: node.get_attribute("data-outcome"))
        assert node.get_attribute("data-outcome") == outcome
        assert name in node.text
        assert len(node.find_elements("css selector", "svg")) == 3
        page.gone("[data-kind=chance]")
        if outcome == "alike":
            page.see("img[data-beat=picture]")
            page.gone("img[data-beat=picture]")
        assert driver.find_elements("css selector", "img[data-beat=picture]") == []


def test_two_pages_that_edit_one_cue_both_count(running: Running, driver: Chrome) -> None:
    running.book(cues=[{"id": "go", "name": "Go", "beats": [CARD]}])
    address = f"http://127.0.0.1:{running.port}/cues/go"
    driver.get(address)
    person, first = Person(driver), driver.current_window_handle
    person.see("[data-block=card]")
    driver.switch_to.new_window("tab")
    second = driver.current_window_handle
    driver.get(address)
    person.see("[data-block=card]")
    person.add_beat("chance")  # Not saved yet when the other page is edited.
    driver.switch_to.window(first)
    person.type(".name", " north")
    person.add_beat("caption")

    def cue() -> Any:
        return running.api.get("/api/book").json()["book"]["cues"][0]

    until(lambda: cue()["name"] == "Go north" and len(cue()["beats"]) == 3)
    assert {beat["kind"] for beat in cue()["beats"]} == {"caption", "chance"}
    for window in (first, second):
        driver.switch_to.window(window)
        until(lambda: len(driver.find_elements(By.CSS_SELECTOR, "[data-test=score] [data-block]")) == 3)
        until(lambda: person.see(".name").get_attribute("value") == "Go north")
    person.type(".name", " again")
    driver.switch_to.window(first)
    until(lambda: person.see(".name").get_attribute("value") == "Go north again")
    driver.switch_to.window(second)
    driver.close()
    driver.switch_to.window(first)
