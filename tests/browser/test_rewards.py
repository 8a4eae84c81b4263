"""Whole jobs with rewards, viewers and points, at the real page and the real channel."""

from __future__ import annotations

import csv
import io
import subprocess
import sys
from pathlib import Path
from typing import Any

from selenium.webdriver import Chrome, Keys

from tests.browser.person import Person
from tests.running import Running, until

BEATS = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.1}}]
CUE = {"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "beats": BEATS}


def _there(running: Running) -> dict[str, dict[str, Any]]:
    return {row["title"]: row for row in running.channel.get("/rewards").json()}


def _book(running: Running) -> dict[str, Any]:
    book: dict[str, Any] = running.api.get("/api/book").json()["book"]
    return book


def _open(running: Running, driver: Chrome, page: str = "rewards") -> Person:
    driver.get(f"http://127.0.0.1:{running.port}/{page}")
    person = Person(driver)
    person.see("main h1")
    return person


def test_a_first_reward_from_nothing_and_its_price_after_the_first(running: Running, driver: Chrome) -> None:
    person = _open(running, driver)
    person.reads("Make the first reward")
    person.see("body").send_keys("n")
    person.see("[data-test=title]").send_keys("Tea break")
    person.click("[data-test=make-stay]")
    person.see("[data-reward=tea-break]")
    until(lambda: _there(running)["Tea break"]["cost"] == 300)
    book = _book(running)
    assert book["cues"][0]["calls"][0]["reward"] == "tea-break"
    running.book(cues=[{**book["cues"][0], "beats": BEATS}])
    # More expensive after the first of the night.
    person.click("[data-reward=tea-break] .title")
    person.press_segment("First one differs")
    person.see("[data-test=price-curve] svg")
    until(lambda: _book(running)["rewards"][0].get("price", {}).get("then") == 75)
    running.channel.post("/stream", json={"state": "live"}).raise_for_status()
    until(lambda: running.state()["show"]["on_air"])
    first = running.redeem("owlpost", "Tea break")
    until(lambda: running.state_of(first) == "fulfilled")
    until(lambda: _there(running)["Tea break"]["cost"] == 75)
    # Its prompt follows the door, until it is edited by hand.
    cue = {**_book(running)["cues"][0], "door": {"text": {"kind": "choice", "choices": ["Up", "Down"]}}}
    running.book(cues=[cue])
    until(lambda: _there(running)["Tea break"]["prompt"] == "Up or Down")
    until(lambda: person.see("[data-test=prompt]").get_attribute("value") == "Up or Down")
    person.see("[data-test=prompt]").send_keys("?" + Keys.TAB)
    until(lambda: _there(running)["Tea break"]["prompt"] == "Up or Down?")
    person.click("[data-test=self-written]")
    until(lambda: _there(running)["Tea break"]["prompt"] == "Up or Down")
    # Undone like everything else.
    driver.find_element("css selector", "body").send_keys(Keys.ESCAPE)
    until(lambda: not person.is_seen("[data-test=reward-drawer]"))
    person.see("body").send_keys(Keys.CONTROL + "z")
    until(lambda: _there(running)["Tea break"]["prompt"] == "Up or Down?")


def test_a_set_is_off_during_a_song_by_a_hook_and_back(running: Running, driver: Chrome) -> None:
    song = {"id": "song", "name": "Song", "calls": [{"kind": "hook", "name": "Song"}], "beats": [
        {"id": "off", "kind": "reward", "sets": ["between"], "on": False, "length": {"s": 4}}]}  # fmt: skip
    rewards = [{"id": one, "title": one.title(), "cost": 10} for one in ("tea", "horn", "fog")]
    running.book(rewards=rewards, inlets=[{"id": "song", "name": "Song"}])
    until(lambda: len(_there(running)) == 3)
    person = _open(running, driver)
    for reward in ("tea", "horn"):
        person.click(f"[data-reward={reward}] .el-checkbox")
    person.click("[data-test=new-set]")
    person.see("[data-test=set-name]").send_keys("Between")
    person.click("[data-test=set-save]")
    until(lambda: _book(running)["sets"][0]["rewards"] == ["tea", "horn"])
    running.book(cues=[song])
    key = running.api.post("/api/inlets/song/key").json()["key"]
    told = {"authorization": f"Bearer {key}"}
    running.api.post("/api/in/song", json={}, headers=told).raise_for_status()
    until(lambda: [row["on"] for row in _there(running).values()] == [False, False, True])
    person.see("[data-reward=tea] .stamp")
    until(lambda: all(row["on"] for row in _there(running).values()))
    person.gone("[data-reward=tea] .stamp")
    # One press switches it, and undo brings it back.
    person.click(".set .el-switch")
    until(lambda: [row["on"] for row in _there(running).values()] == [False, False, True])
    person.see("body").send_keys(Keys.CONTROL + "z")
    until(lambda: all(row["on"] for row in _there(running).values()))


def test_a_reward_of_somebody_else_is_taken_over(running: Running, driver: Chrome) -> None:
    other = running.channel.post("/hand/rewards", json={"title": "Tea", "cost": 40}).json()
    person = _open(running, driver)
    person.see("[data-test=others]")
    person.click("[data-test=take-over]")
    person.reads("Remove the old “Tea”")
    person.reads("refused by the channel")
    running.channel.delete(f"/hand/rewards/{other['id']}").raise_for_status()
    until(lambda: _there(running)["Tea"]["made_by"] == "cue-jar")
    person.gone("[data-test=others]")
    # Removed there by hand: the page asks, and one press makes it again.
    until(lambda: running.api.get("/api/rewards/tickets").json()["tickets"][0]["channels"][0]["standing"] == "in_step")
    running.channel.delete(f"/hand/rewards/{_there(running)['Tea']['id']}").raise_for_status()
    person.click("[data-test=again]")
    until(lambda: _there(running)["Tea"]["cost"] == 40)


def test_a_table_goes_out_and_comes_back(running: Running, driver: Chrome, tmp_path: Path) -> None:
    rewards = [{"id": one, "title": one.title(), "cost": 10} for one in ("tea", "horn")]
    running.book(rewards=rewards, cues=[CUE])
    rows = list(csv.DictReader(io.StringIO(running.api.get("/api/rewards/table.csv").text.removeprefix("\ufeff"))))
    rows[0] |= {"cost": "25", "max_per_stream": "3"}
    rows[1] |= {"cost": "many"}
    rows.append({**rows[0], "title": "Fog", "set": "Bench"})
    file = tmp_path / "rewards.csv"
    with file.open("w", encoding="utf-8-sig", newline="") as out:
        table = csv.DictWriter(out, list(rows[0]), delimiter=";")
        table.writeheader()
        table.writerows(rows)
    person = _open(running, driver)
    person.click("[data-test=from-table]")
    person.drop_files(".zone", str(file))
    person.reads("“many” isn’t a whole number.")
    person.reads("max per stream: 3 (was none)")
    assert [reward["cost"] for reward in _book(running)["rewards"]] == [10, 10], "nothing is done yet"
    person.click("[data-test=take-table]")
    until(lambda: {row["title"]: row["cost"] for row in _there(running).values()} == {"Tea": 25, "Horn": 10, "Fog": 25})
    assert _book(running)["cues"][0]["door"]["cap_stream"] == 3
    until(lambda: not person.is_seen("[data-test=take-table]"))
    driver.find_element("css selector", "body").send_keys(Keys.CONTROL + "z")
    until(lambda: {row["title"]: row["cost"] for row in _there(running).values()} == {"Tea": 10, "Horn": 10})


def test_points_are_earned_spent_and_set_by_hand(running: Running, driver: Chrome) -> None:
    calls = [{"kind": "chat", "match": "is", "text": "!tea", "cost": 120}]
    running.book(cues=[{**CUE, "calls": calls, "entry": "overlap"}])
    person = _open(running, driver, "ledger")
    person.click("[data-test=room-viewers]")
    person.click("[data-test=points-card] .el-switch")
    until(lambda: _book(running).get("points", {}).get("on"))
    running.channel.post("/follows", json={"viewer": "owlpost"}).raise_for_status()
    person.reads("300")
    running.channel.post("/chat", json={"viewer": "owlpost", "text": "!tea"}).raise_for_status()
    person.reads("180")
    person.click("[data-viewer=v-owl] .name")
    person.see("[data-test=viewer-card]")
    person.reads("1st time (1st overall)")
    person.see("[aria-label='New balance'] input, input[aria-label='New balance']").send_keys("50")
    person.see("input[aria-label=Why]").send_keys("a lost parcel")
    person.click("[data-test=give]")
    person.reads("a lost parcel")
    running.channel.post("/chat", json={"viewer": "owlpost", "text": "!tea"}).raise_for_status()
    until(lambda: running.api.get("/api/ledger").json()["lines"][0]["reason"] == "too_few_points")
    # Any name on the desk opens the same card.
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    person.click(".viewer-name")
    person.see("[data-test=viewer-card]")
    person.reads("50 points")


def test_the_playbill_is_opened_from_a_file(running: Running, driver: Chrome, tmp_path: Path) -> None:
    speech = {"id": "s", "kind": "speech", "text": "{{text}}"}
    running.book(
        rewards=[{"id": "tea", "title": "Tea <break>", "cost": 100}, {"id": "own", "title": "Kept quiet", "cost": 5}],
        cast=[{"id": "pip", "name": "Pip", "may": ["echo"]}],
        cues=[{**CUE, "door": {"text": {"kind": "colour"}}, "beats": [speech]}],
    )
    person = _open(running, driver)
    person.click("[data-test=playbill]")
    field = person.see("[data-text='reward/tea']")
    assert field.get_attribute("value") == "Reads your text aloud."
    field.send_keys(Keys.CONTROL + "a")
    field.send_keys("A cup, and a word." + Keys.TAB)
    until(lambda: _book(running)["playbill"]["words"] == {"reward/tea": "A cup, and a word."})
    person.click("[data-on-it=own] .el-switch")
    until(lambda: _book(running)["playbill"]["left_out"] == ["own"])
    file = tmp_path / "playbill.html"
    ran = subprocess.run(
        [sys.executable, "-m", "cuejar.cli", "playbill", str(file), "--port", str(running.port)],
        capture_output=True,
        timeout=120,
    )
    assert ran.returncode == 0, ran.stderr
    assert (
        subprocess.run(
            [sys.executable, "-m", "cuejar.cli", "playbill", "x.pdf"], capture_output=True, timeout=120
        ).returncode
        == 1
    )
    text = file.read_text("utf-8")
    assert "<script" not in text and "http" not in text, "it needs nothing beside it"
    driver.get(file.as_uri())
    shown = person.text()
    assert "Tea <break>" in shown and "A cup, and a word." in shown and "Kept quiet" not in shown and "10 min" in shown
    driver.execute_script("const a = document.querySelector('audio'); a.preload = 'auto'; a.load()")
    until(lambda: driver.execute_script("return document.querySelector('audio').duration > 0.5"))
    assert driver.execute_script("return document.documentElement.scrollWidth <= innerWidth")
    assert (
        driver.execute_script("return getComputedStyle(document.querySelector('.swatches i')).backgroundColor")
        == "rgb(255, 0, 0)"
    )
