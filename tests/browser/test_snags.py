"""The Snags page: found by cue, all safe ones fixed in one step, hidden with a reason, and the rest on the desk."""

from __future__ import annotations

from typing import Any

from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.person import Person, attributes
from tests.running import Running, until

SAID = {"kind": "caption", "length": {"s": 3}}
CUES: list[dict[str, Any]] = [
    {"id": "read", "name": "Read it out", "beats": [{**SAID, "id": "words", "text": "{{text}}"}]},
    {"id": "blink", "name": "Blink", "beats": [{**SAID, "id": "words", "text": "mind the gap", "length": {"s": 0.1}}]},
    {"id": "count", "name": "Count alone", "beats": []},
]


def checks(driver: Chrome) -> list[str]:
    return attributes(driver, "li[data-check]", "data-check")


def test_mended_hidden_and_counted_no_more(running: Running, driver: Chrome) -> None:
    running.book(cues=[{**cue, "calls": [{"kind": "follow"}]} for cue in CUES])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    person.see(".head a .count")
    person.press("Snags3")
    until(lambda: checks(driver) == ["text_not_asked", "too_short", "nothing_happens"])
    person.press("Fix all safely (1)")
    until(lambda: checks(driver) == ["too_short", "nothing_happens"])
    # A follow never brings a text, so none is required.
    assert running.api.get("/api/book").json()["book"]["cues"][0]["door"]["text"]["need"] is False
    assert running.api.get("/api/book").json()["undo"] == 4, "one step"
    person.press("Give it a longer time.")
    until(lambda: checks(driver) == ["nothing_happens"])
    # Hidden with a reason; not without one.
    person.press("Hide…")
    assert not person.see("form .main").is_enabled()
    person.type("form input", "it counts alone")
    driver.switch_to.active_element.send_keys(Keys.ENTER)
    person.reads("No snags: every cue works as set up.")
    assert "snags" not in [row["check"] for row in running.api.get("/api/readiness").json()]
    until(lambda: "Hidden 1" in person.text())
    person.press_label("Hidden 1")
    person.reads("Hidden: it counts alone")
    driver.find_element(By.TAG_NAME, "body").send_keys(Keys.CONTROL, "z")
    person.reads("None hidden.")
    person.press_label("All 1")
    until(lambda: checks(driver) == ["nothing_happens"])
