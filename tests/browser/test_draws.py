"""A viewer is drawn: a game for whoever is there, a winner ticked off, and the draw repeated."""

from __future__ import annotations

import csv
import io
import json

import pytest
from selenium.webdriver import Chrome
from selenium.webdriver.common.by import By

from tests.browser.person import Person
from tests.copies import ours
from tests.running import Running, until


def there(running: Running, viewer: str, left: bool = False) -> None:
    running.channel.post("/presence", json={"viewer": viewer, "left": left}).raise_for_status()


def in_the_jar(running: Running, jar: str) -> list[str]:
    told = running.api.get(f"/api/jars/{jar}/odds").json()
    assert sum(entry["share"] for entry in told["entries"]) == pytest.approx(1 if told["entries"] else 0)
    return sorted(entry["name"] for entry in told["entries"])


def test_a_game_for_whoever_is_there(running: Running, driver: Chrome) -> None:
    """Three are there, one leaves meanwhile; one of the others is drawn on the board, wins, and gets it."""
    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/jars")
    person.click("[data-test=new-viewers]")
    person.reads("Nobody can be drawn now")
    (jar,) = until(lambda: [one["id"] for one in running.now["jars"]])
    running.channel.post("/stream", json={"state": "live"}).raise_for_status()
    for viewer in ("owlpost", "bramble_jo", "hopper_kit"):
        there(running, viewer)
    until(lambda: in_the_jar(running, jar) == ["bramble_jo", "hopper_kit", "owlpost"])
    person.reads("33.3 %")
    person.fill("[data-test=weight-member] input", "3")
    until(lambda: running.now["jars"][0]["draws"]["weights"] == {"member": 3})

    # The cue is built by hand: a draw, and what happens to the drawn one.
    driver.get(f"http://127.0.0.1:{running.port}/cues")
    person.press("Empty cue")
    person.see(".score-card")
    person.add_beat("draw")
    person.fill("[data-test=draw-title]", "Tonight’s guest")
    person.fill("[data-test=spin] input", "0.5")
    person.add_beat("win")
    assert "drawn viewer" in person.see("[data-test=whose]").text
    person.choose("[data-test=whose]", "whoever called")
    until(lambda: running.now["cues"][0]["beats"][1]["whose"] == "caller")
    person.choose("[data-test=whose]", "the drawn viewer")
    until(lambda: running.now["cues"][0]["beats"][1]["whose"] == "drawn")
    assert running.now["cues"][0]["beats"][1]["start"]["after"] == "draw", "once they are drawn"
    person.fill("[data-test=win-what]", "A ticket for {{viewer}}")
    until(lambda: "A ticket" in str(running.now["cues"]))
    (cue,) = running.now["cues"]
    draw, win = cue["beats"]
    assert (draw["jar"], draw["title"], draw["spin_s"]) == (jar, "Tonight’s guest", 0.5)
    assert (win["what"], win["whose"]) == ("A ticket for {{viewer}}", "drawn")

    there(running, "bramble_jo", left=True)
    until(lambda: in_the_jar(running, jar) == ["hopper_kit", "owlpost"])
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    person.see(".arrivals")
    running.api.post(f"/api/cues/{cue['id']}/fire").raise_for_status()
    winner = person.see("[data-test=winners] strong").text
    assert winner in ("hopper_kit", "owlpost") and f"A ticket for {winner}" in person.see("[data-test=winners]").text
    person.press("Tick off")
    person.gone("[data-test=winners]")

    # The draw is repeated, in the ledger and on the command line.
    driver.get(f"http://127.0.0.1:{running.port}/ledger")
    person.click(".line")
    person.click("[data-test=draw-again]")
    person.reads("The same viewer comes out.")
    shown = person.see("[data-test=drawn-again]")
    assert shown.find_element(By.CSS_SELECTOR, "strong").text == winner and "bramble_jo" not in shown.text
    said = ours.run("draw", "again", "--json", "--port", str(running.port))
    (kept,) = json.loads(said.stdout)
    assert kept["holds"] and {one["name"] for one in kept["those"]} == {"hopper_kit", "owlpost"}

    # It stands in the list for good, with its export; and outlives a crash.
    running.kill_server()
    running.start_server()
    driver.get(f"http://127.0.0.1:{running.port}/viewers")
    assert "1, all given" in person.see("[data-test=winners]").text
    (row,) = csv.DictReader(io.StringIO(running.api.get("/api/winners.csv").text.removeprefix("\ufeff")))
    assert (row["name"], row["what"], row["cue"]) == (winner, f"A ticket for {winner}", cue["id"]) and row["given"]
    # The playbill names them once it may.
    assert winner not in running.api.get("/api/playbill.html").text
    driver.get(f"http://127.0.0.1:{running.port}/rewards")
    person.click("[data-test=playbill]")
    person.click("label:has([aria-label=Winners]) .el-switch")
    until(lambda: f"<b>{winner}</b><p>A ticket for {winner}" in running.api.get("/api/playbill.html").text)
    assert f"**{winner}**".replace("_", "\\_") in running.api.get("/api/playbill.md").text
    running.api.post("/api/viewers/forget", json={"viewer": row["viewer"]}).raise_for_status()
    assert winner not in running.api.get("/api/playbill.html").text
    (gone,) = csv.DictReader(io.StringIO(running.api.get("/api/winners.csv").text.removeprefix("\ufeff")))
    assert (gone["name"], gone["what"].strip()) == ("", "A ticket for") and winner not in running.api.get(
        "/api/ledger"
    ).text
    driver.get(f"http://127.0.0.1:{running.port}/viewers")
    person.click("[data-test=winners] [aria-label=Remove]")
    person.gone("[data-test=winners]")
    assert running.api.get("/api/winners").json()["total"] == 0


def test_nobody_there_and_the_board(running: Running, driver: Chrome) -> None:
    """With nobody there the points go back. A try draws the pretended viewer on the stage; a board stops at the name."""
    beats = [{"id": "draw", "kind": "draw", "spin_s": 1, "title": "Guest"},
             {"id": "hi", "kind": "caption", "text": "{{drawn.name}}", "length": {"s": 30}, "whose": "drawn", "start": {"after": "draw"}}]  # fmt: skip
    running.book(
        rewards=[{"id": "guest", "title": "Guest", "cost": 50}],
        cues=[{"id": "guest", "name": "Guest", "calls": [{"kind": "reward", "reward": "guest"}], "beats": beats}],
    )
    until(lambda: any(row["title"] == "Guest" for row in running.channel.get("/rewards").json()))
    lost = running.redeem("owlpost", "guest")
    until(lambda: running.state_of(lost) == "refunded")
    there(running, "bramble_jo")
    until(lambda: "bramble_jo" in [row["name"] for row in running.api.get("/api/viewers").json()["viewers"]])

    person = Person(driver)
    driver.get(f"http://127.0.0.1:{running.port}/cues/guest")
    person.click("[data-test=pretend]")
    person.fill("[placeholder=random]", "saltmarsh_sue")
    person.click("[data-test=try-here]")
    until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-drawn=saltmarsh_sue]"))
    until(lambda: "saltmarsh_sue" in person.see(".stage").text)

    link = running.api.post("/api/overlays/stream/link").json()["path"]
    driver.get(f"http://127.0.0.1:{running.port}{link}")
    until(lambda: running.api.get("/api/overlays").json()[0]["pages"])
    won = running.redeem("owlpost", "guest")
    until(lambda: driver.find_elements(By.CSS_SELECTOR, "[data-drawn=bramble_jo]"))
    until(lambda: running.state_of(won) == "fulfilled")
    until(lambda: "bramble_jo" in person.text())
