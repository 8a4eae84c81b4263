"""Lanes, what calls a cue, and when it can be called: every setting by hand."""

from __future__ import annotations

from typing import Any

from selenium.webdriver import Chrome, Keys

from tests.browser.person import Person
from tests.running import Running, until

BEATS = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.1}}]
CUES = [{"id": one, "name": one.title(), "calls": [], "beats": BEATS} for one in ("tea", "bell", "whistle")]


def _lane(running: Running, lane: str) -> dict[str, Any]:
    return next((one for one in running.now["lanes"] if one["id"] == lane), {})


def _in(running: Running, cue: str) -> str | None:
    lane: str | None = next(one for one in running.now["cues"] if one["id"] == cue)["lane"]
    return lane


def test_lanes_are_made_set_filled_and_deleted(running: Running, driver: Chrome) -> None:
    running.book(cues=CUES)
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    person.click("[data-test=room-lanes]")
    # The lane that a book starts with is there, and stays when another is added.
    person.see("[data-test=lane-main] [data-test=in-tea]")
    person.type("[data-test=lane-name]", "Siding")
    person.click("[data-test=lane-add]")
    until(lambda: [one["id"] for one in running.now["lanes"]] == ["main", "siding"])
    siding = "[data-test=lane-siding]"
    person.fill(f"{siding} [data-test=width] input", "3")
    until(lambda: _lane(running, "siding")["width"] == 3)
    person.fill(f"{siding} [data-test=line] input", "7")
    until(lambda: _lane(running, "siding")["line"] == 7)
    person.fill(f"{siding} input[data-test=wait], {siding} [data-test=wait] input", "90 s")
    until(lambda: _lane(running, "siding")["wait_s"] == 90)
    person.fill(f"{siding} input[data-test=gap], {siding} [data-test=gap] input", "1.5")
    until(lambda: _lane(running, "siding")["gap_s"] == 1.5)
    person.choose(f"{siding} [data-test=order]", "fair, by turns")
    until(lambda: _lane(running, "siding")["order"] == "fair")
    person.fill(f"{siding} [data-test=name]", "Coal siding")
    until(lambda: _lane(running, "siding")["name"] == "Coal siding")
    # Cues move, by the keyboard too; one undo brings one back.
    for cue in ("tea", "bell"):
        person.see(f"[data-test=in-{cue}] select").send_keys("to Coal")
        until(lambda cue=cue: _in(running, cue) == "siding")  # type: ignore[misc]
    person.see("h1").click()
    person.see("body").send_keys(Keys.CONTROL, "z")
    until(lambda: _in(running, "bell") in (None, "main"))
    # Deleted, with its cues moved, in one step.
    person.click(f"{siding} [data-test=delete]")
    person.reads("Move its 1 cue to")
    person.click("[data-test=delete-sure]")
    until(lambda: [one["id"] for one in running.now["lanes"]] == ["main"])
    assert _in(running, "tea") == "main"
    person.see("h1").click()
    person.see("body").send_keys(Keys.CONTROL, "z")
    until(lambda: _in(running, "tea") == "siding")
    answer = running.api.post("/api/lanes/siding/delete", json={"to": None})
    assert answer.status_code == 422 and "1 cue is in Coal siding" in answer.text
    # And search finds it.
    person.see("body").send_keys("/")
    person.type("input[aria-label=Search]", "lane")
    person.reads("page")
    person.see("input[aria-label=Search]").send_keys(Keys.ENTER)
    person.see(siding)


def test_what_calls_a_cue_and_when(running: Running, driver: Chrome) -> None:
    running.book(cues=CUES[:1], rewards=[{"id": f"r{i}", "title": f"Reward {i}", "cost": 10 + i} for i in range(80)])
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues/tea")
    person.click("[data-test=calls]")

    def calls() -> list[dict[str, Any]]:
        told: list[dict[str, Any]] = running.now["cues"][0]["calls"]
        return told

    # One of eighty rewards, by its name.
    person.click("[data-test=reward-there]")
    person.type("[data-test=reward-there] input", "Reward 42")
    person.see("[data-test=reward-there] input").send_keys(Keys.ARROW_DOWN, Keys.ENTER)
    until(lambda: [call.get("reward") for call in calls()] == ["r42"])
    person.click("[data-test=call-kind-clock]")
    person.fill("[data-test=timer-every] input", "10")
    person.click("[data-test=add-every]")
    until(lambda: calls()[-1] == {"kind": "clock", "every_min": 10, "at_min": None, "at_time": None})
    person.click("[data-test=call-kind-membership]")
    person.click("[data-test=add-membership]")
    for key, value in (("months_from", 12), ("months_to", 24), ("gifts_from", 5), ("gifts_to", 50)):
        person.fill(f"[data-test=bound-{key}] input", str(value))
        until(lambda key=key, value=value: calls()[-1].get(key) == value)  # type: ignore[misc]
    person.reads("12 to 24 months, 5 to 50 gifts")
    person.click("[data-test=call-kind-stream]")
    person.press("When the stream ends")
    until(lambda: calls()[-1] == {"kind": "stream", "state": "ended"})
    person.click("[data-test=call-kind-chat]")
    person.type("input[aria-label='Message']", "!tea")
    person.click("[data-test=add-chat]")
    until(lambda: calls()[-1]["text"] == "!tea")
    person.see("body").send_keys(Keys.ESCAPE)
    # Only while live: off air it is refunded, with that reason, and its reward is paused.
    person.click("[data-test=who]")
    person.choose("[data-test=air]", "only while live")
    until(lambda: running.now["cues"][0]["door"]["air"] == "live")
    person.reads("anyone while live")
    until(lambda: any(row["title"] == "Reward 42" and row["paused"] for row in running.channel.get("/rewards").json()))
    fired = running.channel.post("/chat", json={"viewer": "owlpost", "text": "!tea"})
    assert fired.is_success
    until(lambda: [line["reason"] for line in running.api.get("/api/ledger").json()["lines"]][:1] == ["off_air"])
    # The house can set it for all cues without their own.
    person.see("body").send_keys(Keys.ESCAPE)
    driver.get(f"http://127.0.0.1:{running.port}/rig")
    person.choose("[data-test=house-air]", "only off air")
    until(lambda: running.now["house"]["air"] == "off")


def test_what_had_no_control(running: Running, driver: Chrome) -> None:
    burst = {"id": "b", "kind": "burst", "length": "natural"}
    running.book(
        cues=[{"id": "tea", "name": "Tea", "beats": [burst]}],
        gear=[{"id": "lamps", "kind": "lights", "fixtures": [{"id": "signal", "name": "Signal"}]}],
        rewards=[{"id": "tea", "title": "Tea", "cost": 10}],
    )
    person = Person(driver)
    home = f"http://127.0.0.1:{running.port}"
    driver.get(f"{home}/cues/tea")
    person.click("[data-block=b]")
    person.fill("[data-test=gravity] input", "-0.5")
    until(lambda: running.now["cues"][0]["beats"][0]["gravity"] == -0.5)
    person.fill("input[data-test=life], [data-test=life] input", "4.5")
    until(lambda: running.now["cues"][0]["beats"][0]["life_s"] == 4.5)
    driver.get(f"{home}/rig")
    person.fill("[data-test=most-name] input", "25")
    until(lambda: running.now["house"]["most_name"] == 25)
    driver.get(f"{home}/rewards")
    person.click("[data-test=new-set]")
    person.type("[data-test=set-name]", "By day")
    person.press_label("Tea")
    person.click("[data-test=set-off-scenes]")
    driver.switch_to.active_element.send_keys("Night mail", Keys.ENTER)
    person.click("[data-test=set-name]")
    person.click("[data-test=set-save]")
    until(lambda: [one["off_scenes"] for one in running.now["sets"]] == [["Night mail"]])
    person.reads("not in Night mail")
