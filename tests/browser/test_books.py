"""Whole jobs with books as files: a shared cue, a hostile one kept out, an earlier book restored, a broken database
restored.
"""

from __future__ import annotations

import shutil
import sqlite3
from collections.abc import Iterator
from contextlib import closing
from datetime import date, timedelta
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from threading import Thread
from typing import Any

import pytest
from selenium.webdriver import Chrome, Keys

from cuejar.core.book.files import book_from
from cuejar.standins.halt import PASSWORD
from cuejar.store.bundle import written
from cuejar.store.copies import make_copy
from cuejar.store.database import FILE
from tests.browser.person import Person
from tests.live.test_faults import _spoil
from tests.running import Running, until, wav


def _open(running: Running, driver: Chrome, page: str) -> Person:
    driver.get(f"http://127.0.0.1:{running.port}/{page}")
    person = Person(driver)
    person.see("main h1")
    return person


def _book(running: Running) -> dict[str, Any]:
    book: dict[str, Any] = running.api.get("/api/book").json()["book"]
    return book


def _cue(running: Running, cue: str) -> dict[str, Any]:
    found: dict[str, Any] = next(one for one in _book(running)["cues"] if one["id"] == cue)
    return found


@pytest.fixture
def other(tmp_path: Path) -> Iterator[Running]:
    """Another streamer's Cue Jar."""
    (tmp_path / "other").mkdir()
    made = Running(tmp_path / "other" / "data")
    try:
        yield made.start()
    finally:
        made.stop()


BROADCASTER = {"id": "broadcaster", "kind": "broadcaster", "name": "Broadcaster"}


def test_a_cue_is_handed_on_to_where_scenes_are_called_otherwise(
    running: Running, other: Running, driver: Chrome, tmp_path: Path
) -> None:
    bell = other.add_file("Night bell.wav", wav(0.4))
    other.book(
        lanes=[{"id": "stage", "name": "Stage"}],
        rewards=[{"id": "night", "title": "Night mail", "cost": 30}],
        cues=[
            {
                "id": "night",
                "name": "Night mail",
                "lane": "stage",
                "calls": [{"kind": "reward", "reward": "night"}],
                "beats": [
                    {"id": "s", "kind": "scene", "scene": "Yrd camera", "length": {"s": 8}},
                    {"id": "b", "kind": "sound", "media": {"file": bell}},
                ],
            }
        ],
    )
    person = _open(other, driver, "cues/night")
    person.click("[data-test=cue-files]")
    link = person.see("[data-test=hand-on]").get_attribute("href")
    file = tmp_path / "night-mail.cuejar.zip"
    file.write_bytes(other.api.get(str(link)).content)

    running.book(gear=[BROADCASTER], cues=[{"id": "night", "name": "Night", "beats": []}])
    running.api.put("/api/gear/broadcaster/secret", json={"secret": PASSWORD}).raise_for_status()
    until(lambda: running.api.get("/api/gear/catalogue").json()["broadcaster"]["scenes"])
    before = _book(running)
    person = _open(running, driver, "cues")
    # Dropped on Cues, it opens the review.
    driver.find_element("css selector", ".new input[type=file]").send_keys(str(file))
    person.reads("shared cues")
    person.see("[data-test='cues/night']")
    person.reads("as night-2")
    assert "Yard cam" in person.see("[data-test=names]").text and "Yrd camera" in person.see("[data-test=names]").text
    assert _book(running) == before, "nothing is changed yet"
    person.click("[data-test=allow-all]")
    person.reads("Allow none")
    person.click("[data-test=take]")
    until(lambda: any(cue["id"] == "night-2" for cue in _book(running)["cues"]))
    brought = _cue(running, "night-2")
    assert brought["beats"][0]["scene"] == "Yard cam" and brought["lane"] == "stage"
    assert not brought["on"], "a copy beside one's own begins switched off"
    running.book(cues=[{**brought, "on": True}])
    until(
        lambda: [
            r
            for r in running.channel.get("/rewards").json()
            if r["title"] == "Night mail" and r["on"] and not r["paused"]
        ]
    )
    redemption = running.redeem("owlpost", "Night mail")
    until(lambda: running.broadcaster.get("/state").json()["scene"] == "Yard cam")
    until(lambda: running.state_of(redemption) == "fulfilled")
    until(lambda: running.broadcaster.get("/state").json()["scene"] == "Workbench")
    lines = until(lambda: [line for line in running.api.get("/api/ledger").json()["lines"] if line["cue"] == "night-2"])
    assert lines[0]["verdict"] == "let_in" and not [note for note in lines[0]["notes"] if note["what"] == "fail"]
    person.see("main h1")
    person.see("body").send_keys(Keys.CONTROL + "z")
    until(lambda: not _cue(running, "night-2")["on"])
    person.see("body").send_keys(Keys.CONTROL + "z")
    until(lambda: _book(running) == before)


class _Hears(BaseHTTPRequestHandler):
    heard: list[str] = []

    def do_POST(self) -> None:
        self.heard.append(self.path)
        self.send_response(204)
        self.end_headers()

    def log_message(self, *_: object) -> None:
        """Quiet."""


def test_a_hostile_hook_stays_off(running: Running, driver: Chrome, tmp_path: Path) -> None:
    far = HTTPServer(("127.0.0.1", 0), _Hears)
    Thread(target=far.serve_forever, daemon=True).start()
    try:
        book = book_from(
            {
                "gear": [
                    {"id": "log", "kind": "hook", "name": "Log", "address": f"http://127.0.0.1:{far.server_port}/take"}
                ],
                "cues": [
                    {
                        "id": "gift",
                        "name": "A gift",
                        "calls": [{"kind": "chat", "match": "contains", "text": "a"}],
                        "beats": [{"id": "h", "kind": "hook", "hook": "log"}],
                    }
                ],
            }
        )
        file = tmp_path / "gift.zip"
        file.write_bytes(b"".join(written(book, "cues", {}, ["gift"])))
        person = _open(running, driver, "books")
        driver.find_element("css selector", "[data-test=bring]").send_keys(str(file))
        person.reads("sends a request to 127.0.0.1")
        assert "A gift" in person.see("[data-test=off]").text
        person.click("[data-test=take]")
        until(lambda: any(cue["id"] == "gift" for cue in _book(running)["cues"]))
        assert not _cue(running, "gift")["on"] and not _book(running)["gear"][0]["on"]
        assert _book(running)["house"].get("hook_places", []) == []
        running.channel.post("/chat", json={"viewer": "owlpost", "text": "what a night"}).raise_for_status()
        lines: Any = until(lambda: running.api.get("/api/ledger").json()["lines"])
        assert (lines[0]["verdict"], lines[0]["reason"]) == ("turned_away", "cue_off")
        assert _Hears.heard == []
        until(lambda: driver.current_url.endswith("/cues"))
        # Cancelled, nothing of it is imported.
        driver.get(f"http://127.0.0.1:{running.port}/books")
        driver.find_element("css selector", "[data-test=bring]").send_keys(str(file))
        person.see("[data-test=leave]")
        version = running.api.get("/api/book").json()["version"]
        person.click("[data-test=leave]")
        until(lambda: driver.current_url.endswith("/cues"))
        assert running.api.get("/api/book").json()["version"] == version
    finally:
        far.shutdown()
    # A file that isn't a book is refused in words.
    _open(running, driver, "books")
    bad = tmp_path / "bad.zip"
    bad.write_bytes(b"PK\x03\x04 no zip")
    driver.find_element("css selector", "[data-test=bring]").send_keys(str(bad))
    person.reads("damaged or cut off")


def test_back_to_yesterdays_book(running: Running, driver: Chrome) -> None:
    caption = {"id": "c", "kind": "caption", "text": "tea", "length": {"s": 1}}
    running.book(
        cues=[{"id": "tea", "name": "Tea", "beats": [caption]}, {"id": "cake", "name": "Cake", "beats": [caption]}]
    )
    yesterday = _book(running)
    with closing(sqlite3.connect(running.data / FILE)) as base, base:
        base.execute("update revisions set at = at - 86400000")
        version = base.execute("select max(id) from revisions").fetchone()[0]
    running.book(
        cues=[
            {"id": "tea", "name": "Tea", "beats": [caption], "door": {"cooldown_s": 90}},
            {"id": "new", "name": "Something new", "beats": [caption]},
        ],
        house={"volume": 40},
    )
    running.api.delete("/api/book/cues/cake").raise_for_status()
    today = _book(running)
    person = _open(running, driver, "books")
    person.reads("Yesterday")
    person.reads("changed the cue Tea: cooldown: house default → once every 1 min 30 s")
    person.click(f"[data-test=book-{version}]")
    person.reads("Restore this version")
    person.see("[data-test='cues/cake']")
    # One of its cues.
    for key in ("cues/tea", "cues/new", "house"):
        box = person.see(f"[data-test='{key}'] .el-checkbox")
        if "is-checked" in str(box.get_attribute("class")):
            box.click()
            until(
                lambda key=key: (
                    "is-checked" not in str(person.see(f"[data-test='{key}'] .el-checkbox").get_attribute("class"))
                )
            )
    person.click("[data-test=take-some]")
    until(lambda: [cue["id"] for cue in _book(running)["cues"]] == ["tea", "cake", "new"])
    assert _cue(running, "tea")["door"]["cooldown_s"] == 90
    # All of it.
    person.click(f"[data-test=book-{version}]")
    person.see("[data-test='cues/new']")
    person.click("[data-test=take-whole]")
    until(lambda: sorted(cue["id"] for cue in _book(running)["cues"]) == ["cake", "tea"])
    assert {cue["id"]: cue for cue in _book(running)["cues"]} == {cue["id"]: cue for cue in yesterday["cues"]}
    assert _book(running)["house"] == yesterday["house"]
    person.gone("[data-test=take-whole]")
    for _ in range(2):
        person.see("body").send_keys(Keys.CONTROL + "z")
        person.reads("Undone")
    until(lambda: _book(running) == today)


@pytest.mark.stumbles
def test_a_broken_database_is_restored_on_a_page(running: Running, driver: Chrome) -> None:
    running.book(cues=[{"id": "tea", "name": "Tea"}])
    day = date.today() - timedelta(days=1)
    until(lambda: list((running.data / "copies").glob("cue-jar-*.sqlite")))
    shutil.rmtree(running.data / "copies")
    assert make_copy(running.data / FILE, day) is not None
    for n in range(40):
        running.book(cues=[{"id": f"c{n}", "name": f"Cue {n}"}])
    running.kill_server()
    _spoil(running.data / FILE, "revisions")
    running.server = running._start("serve", "--port", str(running.port), "--data", str(running.data))
    until(lambda: running.api.get("/api/health").status_code == 503)
    driver.get(f"http://127.0.0.1:{running.port}/desk")
    person = Person(driver)
    person.reads("The data is damaged")
    assert f"{day:%A, %d %B %Y}" in person.text() and "1 cues, 0 calls in the ledger" in person.text()
    person.click("button.copy")
    person.reads("Starting")
    # The page goes to the desk by itself once that is up.
    person.see(".labels a[href='/desk']")
    assert [cue["id"] for cue in _book(running)["cues"]] == ["tea"]
