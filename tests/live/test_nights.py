"""Saved nights: identical to the millisecond when replayed, as files, without forgotten viewers, deleted; and the
ledger over them.
"""

from __future__ import annotations

import io
import itertools
import json
import random
import re
import sqlite3
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import httpx
import opentimelineio as otio
import psutil
import pytest
import webvtt
from sqlalchemy import insert
from typer.testing import CliRunner

from cuejar.cli import app
from cuejar.core.book.book import WordList
from cuejar.core.engine.rehearsal import lines
from cuejar.core.facts import orders as o
from cuejar.core.nights.assumed import PAST
from cuejar.core.nights.scripts import rehearse, script_from
from cuejar.core.rules.words import blocked
from cuejar.store.database import open_database
from cuejar.store.models import JournalRow
from cuejar.store.nights import begins, blanked, keep_blanked, pack_away, recorded
from cuejar.store.writer import plain
from tests.running import Running, until, wav
from tests.soak import storm

VIEWERS = ["bramble_jo", "owlpost", "nine_gauge", "saltmarsh_sue"]
SPEECH = {"id": "s", "kind": "speech", "text": "{{viewer}}: {{text}}"}
CAPTION = {"id": "c", "kind": "caption", "text": "{{viewer}} rang", "length": {"s": 1}}


@pytest.fixture
def written(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Running]:
    """A show that records its orders, and packs its journal often."""
    monkeypatch.setenv("CUEJAR_ORDERS", str(tmp_path / "orders.jsonl"))
    monkeypatch.setenv("CUEJAR_SNAPSHOT_EVERY", "30")
    made = Running(tmp_path / "data")
    try:
        yield made.start()
    finally:
        made.stop()


def _book(running: Running) -> None:
    parts: Any = storm.book()
    running.book(house=parts["house"][0], **{kind: parts[kind] for kind in parts if kind != "house"})
    running.book(
        cues=[
            {
                "id": "ask",
                "name": "Ask",
                "calls": [{"kind": "chat", "match": "starts", "text": "!ask"}],
                "beats": [SPEECH, CAPTION],
                "lane": "yard",
            }
        ]
    )
    until(lambda: len(running.channel.get("/rewards").json()) >= 10)


def _on_air(running: Running, state: str) -> None:
    running.channel.post("/stream", json={"state": state, "category": "Model railways"}).raise_for_status()
    until(lambda: any(night["ended"] is None for night in _nights(running)) == (state == "live"))


def _nights(running: Running) -> list[dict[str, Any]]:
    found: list[dict[str, Any]] = running.api.get("/api/nights").json()["nights"]
    return found


def _calls(running: Running, luck: random.Random, seconds: float) -> None:
    rewards = [cue["id"] for cue in storm.book()["cues"] if cue["calls"][0]["kind"] == "reward"]
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        what, viewer = luck.random(), luck.choice(VIEWERS)
        if what < 0.5:
            # A paused reward is refused at the channel: so it is on air.
            asks = {"viewer": viewer, "reward": luck.choice(rewards), "text": ""}
            running.channel.post("/redemptions", json=asks)
        elif what < 0.75:
            text = luck.choice(["!say tea", "!press", "!spin", "!ask is there tea?"])
            running.channel.post("/chat", json={"viewer": viewer, "text": text}).raise_for_status()
        elif what < 0.9:
            path, values = luck.choice(list(storm.HANDS.items()))
            running.broadcaster.post("/hand", json={"path": path, "value": luck.choice(values)})
        elif what < 0.95:
            running.api.post(f"/api/cues/{luck.choice(rewards)}/fire")
        else:
            running.api.post("/api/all-to-rest")
        time.sleep(luck.choice([0, 0.01, 0.06]))


def _ordered(file: Path, begin: int, end: int) -> list[str]:
    """Returns the orders of a night, with their times from its beginning."""
    found = []
    for row in map(json.loads, file.read_text("utf-8").splitlines()):
        at = round(row["at"] * 1000)
        if begin <= at <= end:
            found.append(json.dumps(_moved(row, begin), sort_keys=True))
    return found


def _moved(row: dict[str, Any], begin: int) -> dict[str, Any]:
    return {**row, **{key: round(row[key] * 1000) - begin for key in ("at", "until") if row.get(key) is not None}}


def _again(running: Running, night: int) -> tuple[list[str], int]:
    """Returns the orders of its script in rehearsal, and its length (ms)."""
    script = running.api.get(f"/api/nights/{night}/files/script").json()
    length = round(script["happenings"][-1]["at"] * 1000)
    rows = [json.loads(line) for line in lines(rehearse(script_from(script)))]
    return [json.dumps(_moved(row, 0), sort_keys=True) for row in rows if round(row["at"] * 1000) <= length], length


def test_random_nights_are_the_same_again_to_the_millisecond(written: Running, tmp_path: Path) -> None:
    _book(written)
    luck = random.Random(18)
    for _ in range(3):
        _on_air(written, "live")
        _calls(written, luck, 3)
        _on_air(written, "ended")
        time.sleep(luck.choice([0, 0.5]))
    until(lambda: all(night["ended"] for night in _nights(written)) and len(_nights(written)) == 3)
    time.sleep(0.3)
    for night in _nights(written):
        again, _ = _again(written, night["id"])
        database = open_database(written.data)
        there = recorded(database.sessions, night["id"])
        assert there is not None and there.ended is not None
        live = _ordered(tmp_path / "orders.jsonl", there.at, there.ended)
        assert len(live) > 60 and live == again


def test_a_night_that_was_killed_in_the_middle_is_whole(written: Running, tmp_path: Path) -> None:
    _book(written)
    luck = random.Random(19)
    _on_air(written, "live")
    _calls(written, luck, 2)
    written.kill_server()
    written.start_server()
    written.in_step()
    _calls(written, luck, 2)
    _on_air(written, "ended")
    until(lambda: len(_nights(written)) == 1 and _nights(written)[0]["ended"])
    night = _nights(written)[0]
    again, length = _again(written, night["id"])
    database = open_database(written.data)
    there = recorded(database.sessions, night["id"])
    assert there is not None and there.ended is not None
    live = _ordered(tmp_path / "orders.jsonl", there.at, there.ended)
    # Orders from the moment of its death may be missing from the record; no others were given.
    rest = iter(again)
    assert all(row in rest for row in live) and len(again) - len(live) < 20
    calls = written.api.get("/api/ledger?limit=1000").json()["lines"]
    assert night["calls"] == len({line["call"] for line in calls if line["verdict"] != "ignored"})
    assert length > 4000


def _small_night(running: Running, *viewers: str) -> int:
    """Makes a short night in which these viewers ask and redeem; returns its number."""
    before = {night["id"] for night in _nights(running)}
    _on_air(running, "live")
    for viewer in viewers:
        running.channel.post("/chat", json={"viewer": viewer, "text": f"!ask hello {viewers[0]}"}).raise_for_status()
        running.redeem(viewer, "tannoy")
    until(lambda: running.api.get("/api/nights").json()["nights"][0]["calls"] >= 2 * len(viewers))
    until(lambda: not running.api.get("/api/holds").json())
    until(
        lambda: not any(lane["running"] for lane in running.state()["lanes"])
    )  # A speech may last longer than all holds.
    _on_air(running, "ended")
    until(lambda: _nights(running)[0]["ended"])
    (night,) = {one["id"] for one in _nights(running)} - before
    return int(night)


def _file(running: Running, night: int, kind: str, made_up: bool = False) -> httpx.Response:
    answer = running.api.get(f"/api/nights/{night}/files/{kind}", params={"made_up": made_up})
    assert answer.is_success, answer.text
    return answer


def _zipped(name: str, content: bytes) -> bytes:
    whole = io.BytesIO()
    with zipfile.ZipFile(whole, "w", zipfile.ZIP_DEFLATED) as out:
        out.writestr(name, content)
    return whole.getvalue()


def _timeline_in(content: bytes, folder: Path) -> tuple[Any, set[str]]:
    """Returns a bundle's timeline as OpenTimelineIO's own reader unpacks it, and its existing files."""
    (folder / "out").mkdir(parents=True)
    (folder / "night.otioz").write_bytes(content)
    whole = otio.adapters.read_from_file(str(folder / "night.otioz"), extract_to_directory=str(folder / "out"))
    sources = [clip.media_reference for clip in whole.find_clips()]
    urls = {one.target_url for one in sources if isinstance(one, otio.schema.ExternalReference)}
    assert all((folder / "out" / url).stat().st_size for url in urls)
    return whole, {Path(url).name for url in urls}


def test_a_night_as_files_with_names_and_with_made_up_ones(written: Running, tmp_path: Path) -> None:
    _book(written)
    bell = written.add_file("owlpost bell.wav", wav(0.4))
    cue = next(one for one in written.api.get("/api/book").json()["book"]["cues"] if one["id"] == "ask")
    written.book(cues=[{**cue, "beats": [*cue["beats"], {"id": "bell", "kind": "sound", "media": {"file": bell}}]}])
    night = _small_night(written, "owlpost", "saltmarsh_sue")
    timeline = otio.adapters.read_from_string(_file(written, night, "otio").text, "otio_json")
    clips = timeline.find_clips()
    assert {"owlpost rang", "saltmarsh_sue rang"} <= {clip.name for clip in clips}
    assert len(timeline.tracks.markers) == 4
    whole, names = _timeline_in(_file(written, night, "otioz").content, tmp_path)
    assert len(whole.find_clips()) == len(clips) and names == {"owlpost-bell.wav"}
    score = written.api.get("/api/cues/ask/score.otioz").content
    assert _timeline_in(score, tmp_path / "cue")[1] == {"owlpost-bell.wav"}
    told = written.api.post("/api/cues/ask/score.otioz", files={"file": ("ask.otioz", score)}).json()
    assert told["changes"] == [] and told["lost"] == []
    for odd in (b"PK tea", score[:-40], _zipped("content.otio", b" " * 5_000_001), _zipped("tea.txt", b"tea")):
        assert written.api.post("/api/cues/ask/score.otioz", files={"file": ("ask.otioz", odd)}).status_code == 422
    captions = webvtt.from_buffer(io.StringIO(_file(written, night, "vtt").text)).captions
    assert any("owlpost rang" in one.text for one in captions)
    assert any("hello owlpost" in one.text for one in captions), "what was read aloud is there, too"
    calls = [json.loads(line)["data"] for line in _file(written, night, "events").text.splitlines()]
    assert {call["viewer_name"] for call in calls} == {"owlpost", "saltmarsh_sue"}
    assert _file(written, night, "csv").text.count("\r\n") == 5
    page = _file(written, night, "page")
    assert "owlpost" in page.text and page.headers["content-type"].startswith("text/html")
    assert "<script" not in page.text
    # Another viewer of the folder, blocked by name, and one who is named by the book and a call.
    shut_out = {"shut_out": ["saltmarsh_sue", "kettlewright"], "spared": ["owlpost"]}
    house = written.api.get("/api/book").json()["book"]["house"]
    written.book(house={**house, **shut_out})
    greeting = {"id": "owlpost-greeting", "name": "Owlpost’s greeting", "beats": [{"id": "c", "kind": "caption", "text": "hello ＯＷＬＰＯＳＴ"}],
                "calls": [{"kind": "chat", "match": "is", "text": "!owlpost"}]}  # fmt: skip
    written.book(cues=[greeting])
    written.channel.post(
        "/chat", json={"viewer": "kettlewright", "text": "!ask o w l p o s t, o.w.l.p.o.s.t"}
    ).raise_for_status()
    shut = _small_night(written, "owlpost", "saltmarsh_sue")
    verdicts = {
        call["call"]: call
        for call in (json.loads(line)["data"] for line in _file(written, shut, "events").text.splitlines())
    }
    assert {call["reason"] for call in verdicts.values() if call["viewer_name"] == "saltmarsh_sue"} == {
        "viewer_shut_out"
    }
    listed = _file(written, shut, "page", True).text
    assert listed.count("this viewer is blocked") == sum(
        call["reason"] == "viewer_shut_out" for call in verdicts.values()
    )
    names = [row["name"] for row in written.api.get("/api/viewers").json()["viewers"]]
    everybody = WordList(
        id="all", name="all", entries=[{"text": name} for name in {*names, "kettlewright"} if len(name) > 2]
    )
    for kind in ("otio", "vtt", "events", "csv", "script", "page"):
        said = _file(written, shut, kind, True).text
        assert blocked(said, [everybody]) == [], kind
    rehearsed = list(rehearse(script_from(_file(written, shut, "script", True).json())))
    assert {one.reason for _, one in rehearsed if isinstance(one, o.Verdict)} >= {"viewer_shut_out"}
    whole, files = _timeline_in(_file(written, night, "otioz", True).content, tmp_path / "made-up")
    assert len(files) == 1 and "owlpost" not in whole.to_json_string() + str(files)
    for kind in ("otio", "vtt", "events", "csv", "script", "page"):
        said = _file(written, night, kind, True).text
        assert "owlpost" not in said and "saltmarsh" not in said, kind
        assert re.search(r"[a-z]+_[12]\b", said), kind
    script = script_from(_file(written, night, "script", True).json())
    assert len(list(lines(rehearse(script)))) > 10
    note = written.api.put(f"/api/nights/{night}/note", json={"note": "The owl came."})
    assert note.is_success and {one["id"]: one["note"] for one in _nights(written)}[night] == "The owl came."


def test_a_forgotten_viewer_is_in_no_kept_night(written: Running) -> None:
    _book(written)
    night = _small_night(written, "owlpost", "saltmarsh_sue")
    sue = next(
        line["viewer"]
        for line in written.api.get("/api/ledger").json()["lines"]
        if line["viewer_name"] == "saltmarsh_sue"
    )
    assert written.api.get("/api/ledger?words=saltmarsh").json()["total"] >= 2
    written.api.post("/api/viewers/forget", json={"viewer": sue}).raise_for_status()
    database = open_database(written.data)
    there = recorded(database.sessions, night)
    assert there is not None
    told = json.dumps([there.state, there.entries])
    assert "saltmarsh" not in told and "owlpost" in told and sue in told
    assert written.api.get("/api/ledger?words=saltmarsh").json()["total"] == 0
    assert "saltmarsh" not in _file(written, night, "page").text
    assert b"saltmarsh" not in _bytes(written), "nor anywhere else in the file"


def test_what_is_packed_while_a_viewer_is_forgotten_does_not_know_them_either(tmp_path: Path) -> None:
    database = open_database(tmp_path)
    sessions = database.sessions
    call = {"kind": "chat", "id": "c", "text": "tea at saltmarsh", "viewer": {"id": "v1", "name": "saltmarsh_sue"}}
    with database.writing.begin() as connection:
        begins(plain(connection), 1, 1, 1, "", {"viewers": {}})
    with sessions.begin() as session:
        session.execute(insert(JournalRow), [{"id": n, "at": n, "happening": call} for n in range(1, 5)])
        pack_away(session.connection(), 2)
    there = blanked(sessions, "v1", lambda state: state)
    with sessions.begin() as session:
        pack_away(session.connection(), 4)  # A snapshot comes just then.
        keep_blanked(session.connection(), there)
    kept = recorded(sessions, 1)
    assert kept is not None and len(kept.entries) == 4
    assert "saltmarsh" not in json.dumps(kept.entries) and "v1" in json.dumps(kept.entries)


def _bytes(running: Running) -> bytes:
    import sqlite3

    file = running.data / "cue-jar.sqlite"
    running.kill_server()
    with sqlite3.connect(file) as database:
        database.execute("pragma wal_checkpoint(truncate)")
    return file.read_bytes()


def test_nights_are_kept_as_long_as_the_house_says(written: Running) -> None:
    _book(written)
    first, second = _small_night(written, "owlpost"), _small_night(written, "nine_gauge")
    frees = written.api.get("/api/nights/freed?kept=1").json()
    assert frees["nights"] == 1 and frees["calls"] >= 2 and frees["bytes"] > 500
    assert len(_nights(written)) == 2, "nothing goes by asking"
    house = written.api.get("/api/book").json()["book"]["house"]
    written.book(house={**house, "nights_kept": 1})
    written.kill_server()
    written.start_server()
    until(lambda: written.api.get("/api/health").json()["ok"])
    time.sleep(2)
    assert len(_nights(written)) == 2, "undo can stop it for an hour"
    written.api.post("/api/book/undo").raise_for_status()
    written.book(house={**house, "nights_kept": 1})
    written.kill_server()
    with sqlite3.connect(written.data / "cue-jar.sqlite") as database:
        database.execute("update revisions set at = at - 3600000")
    written.start_server()
    until(lambda: [night["id"] for night in _nights(written)] == [second])
    assert written.api.get(f"/api/nights/{first}/files/csv").status_code == 404
    assert {line["viewer_name"] for line in written.api.get("/api/ledger").json()["lines"]} == {"nine_gauge"}
    assert written.api.delete(f"/api/nights/{second}").is_success and not _nights(written)
    assert written.api.get("/api/ledger").json()["total"] == 0
    _on_air(written, "live")
    until(lambda: _nights(written))
    assert written.api.delete(f"/api/nights/{_nights(written)[0]['id']}").status_code == 409


def test_the_ledger_is_paged_by_key_and_found_by_words(written: Running) -> None:
    _book(written)
    for number in range(30):
        viewer = VIEWERS[number % 4]
        written.channel.post(
            "/chat", json={"viewer": viewer, "text": f"!say kettle {number} façade"}
        ).raise_for_status()

    def asked(**asks: Any) -> dict[str, Any]:
        found: dict[str, Any] = written.api.get("/api/ledger", params=asks).json()
        return found

    until(lambda: asked()["total"] == 30)
    seen: list[int] = []
    before: dict[str, int] = {}
    posted = 0
    for _ in range(4):
        page = asked(limit=10, **before)
        seen += [line["id"] for line in page["lines"]]
        if page["before"] is None:
            break
        before = {"before": page["before"]}
        written.channel.post("/chat", json={"viewer": "owlpost", "text": "!say one more"}).raise_for_status()
        posted += 1
    until(lambda: asked()["total"] == 30 + posted)
    assert len(seen) == len(set(seen)) == 30 and seen == sorted(seen, reverse=True)
    assert asked(words="facade KETT")["total"] == 30, "beginnings of words, without marks"
    assert asked(words="kettle 17")["total"] == 1
    assert asked(words="17", viewer="owl")["total"] == (1 if 17 % 4 == 1 else 0)
    assert asked(viewer="saltmarsh")["total"] == 7
    assert asked(words='" or * NEAR(')["total"] == 0 and asked(words="zebra")["total"] == 0
    # Every two filters together find what both find alone, on the page and in a file.
    walls = sorted(line["at"] for line in asked(limit=1000)["lines"])
    alone: list[dict[str, Any]] = [
        {"words": "kettle 1"}, {"viewer": "owl"}, {"viewer": "nine_gauge"}, {"cue": "say"}, {"outcome": "fulfilled"},
        {"verdict": "let_in"}, {"verdict": "turned_away"}, {"since": walls[8], "until": walls[20]}, {"since": walls[-1] + 1},
    ]  # fmt: skip

    def found(**asks: Any) -> set[int]:
        page = asked(limit=1000, **asks)
        assert page["total"] == len(page["lines"])
        file = written.api.get("/api/ledger.csv", params=asks).text
        assert file.count("\r\n") == 1 + page["total"]
        return {line["id"] for line in page["lines"]}

    for one, other in itertools.combinations(alone, 2):
        if not one.keys() & other.keys():
            assert found(**one, **other) == found(**one) & found(**other), (one, other)
    assert 0 < len(found(words="kettle 1", since=walls[8], until=walls[20])) < len(found(words="kettle 1"))


def _rehearsed(running: Running, **wish: Any) -> dict[str, Any]:
    begun = running.api.post("/api/rehearsals", json=wish)
    assert begun.is_success, begun.text
    one = begun.json()["id"]

    def over() -> Any:
        seen = running.api.get(f"/api/rehearsals/{one}").json()
        return seen if seen["state"] not in ("waiting", "running") else None

    done: dict[str, Any] = until(over)
    return done


FRIDAY = {"id": "friday", "name": "Friday", "calls": 200, "length_min": 40, "viewers": 40}


def test_rehearsals_over_the_api(written: Running) -> None:
    _book(written)
    written.book(audiences=[FRIDAY])
    night = _small_night(written, "owlpost", "nine_gauge")
    own = _rehearsed(written, night=night, books=[{"kind": "own"}])
    assert own["state"] == "done" and own["books"][0]["result"]["calls"] == 4 and own["night"] == night
    timeline = written.api.get(f"/api/rehearsals/{own['id']}/timeline").json()
    assert {run["viewer"] for run in timeline["runs"]} == {"owlpost", "nine_gauge"}
    told = written.api.get(f"/api/rehearsals/{own['id']}/stage?at=0&for_ms=60000").json()
    shown = [message for message in told["then"] if message["t"] == "show"]
    assert {message["value"] for message in shown} >= {"owlpost rang", "nine_gauge rang"}
    assert all(message["kind"] != "speech" for message in shown), "its words stand there instead"
    later = written.api.get(f"/api/rehearsals/{own['id']}/stage?at={timeline['length']}").json()
    assert not later["up"]

    shut = {**written.api.get("/api/book").json()["book"], "house": {"open": False}}
    two = _rehearsed(written, night=night, books=[{"kind": "own"}, {"kind": "file", "book": shut}])
    assert two["differ"] and two["shifts"]["let_in"]["by"]["median"] == -4

    many = _rehearsed(written, audience="friday", nights=3)
    assert many["done"] == many["total"] == 3 and many["books"][0]["nights"] == 3
    assert _rehearsed(written, audience="friday", nights=3)["books"] == many["books"], "the same seed, the same nights"
    assert any("estimates" in line for line in many["assumed"])
    written.book(audiences=[{**FRIDAY, "id": "rush", "name": "Rush", "length_min": 5}])
    swept = _rehearsed(written, audience="rush", nights=2, sweep={"setting": "lanes.yard.width", "values": [1, 3]})
    assert [(point["value"], point["nights"]) for point in swept["points"]] == [(1, 2), (3, 2)]
    waits = [point["figures"]["wait_p95_s"]["median"] for point in swept["points"]]
    assert waits[0] > waits[1]
    version = written.api.get("/api/book").json()["version"]
    done = written.api.post("/api/book/setting", json={"setting": "lanes.yard.width", "value": 2}).json()
    assert "Yard" in done["what"] or "yard" in done["what"]
    assert (
        next(lane for lane in written.api.get("/api/book").json()["book"]["lanes"] if lane["id"] == "yard")["width"]
        == 2
    )
    written.api.post("/api/book/undo").raise_for_status()
    assert (
        next(lane for lane in written.api.get("/api/book").json()["book"]["lanes"] if lane["id"] == "yard")["width"]
        == 3
    )
    assert written.api.get("/api/book").json()["version"] != version + 1

    for wish, status in (
        ({}, 400),
        ({"audience": "nobody"}, 404),
        ({"night": 999_999}, 404),
        ({"audience": "friday", "books": [{"kind": "own"}]}, 400),
        ({"audience": "friday", "books": [{"kind": "revision", "version": 99_999}]}, 404),
        ({"audience": "friday", "sweep": {"setting": "lanes.nowhere.width", "values": [1]}}, 422),
        ({"audience": "friday", "nights": 5_000}, 422),
    ):
        answer = written.api.post("/api/rehearsals", json=wish)
        assert answer.status_code == status and answer.json()["what"], (wish, answer.text)


def test_a_rehearsal_is_stopped_and_a_new_one_stops_it(written: Running) -> None:
    _book(written)
    written.book(audiences=[{**FRIDAY, "calls": 500}])
    first = written.api.post("/api/rehearsals", json={"audience": "friday", "nights": 200}).json()["id"]
    until(lambda: written.api.get(f"/api/rehearsals/{first}").json()["done"] >= 2)
    second = _rehearsed(written, audience="friday", nights=1)
    assert second["state"] == "done"
    seen = written.api.get(f"/api/rehearsals/{first}").json()
    assert seen["state"] == "stopped" and 2 <= seen["done"] < 200
    assert seen["books"][0]["nights"] == seen["done"], "what is there stays"
    third = written.api.post("/api/rehearsals", json={"audience": "friday", "nights": 200}).json()["id"]
    written.api.delete(f"/api/rehearsals/{third}").raise_for_status()
    until(lambda: written.api.get(f"/api/rehearsals/{third}").json()["state"] == "stopped")
    assert written.api.delete("/api/rehearsals/none").status_code == 404
    names = [row["id"] for row in written.api.get("/api/rehearsals").json()]
    assert names == [first, second["id"], third]


def test_an_audience_likes_what_was_called_on_past_nights(written: Running) -> None:
    """On the page as on the command line, which reads the folder of a running Cue Jar; without a night it says that
    none is known.
    """
    _book(written)
    written.book(audiences=[{**FRIDAY, "likes": "past"}])

    def on_the_command_line(*more: str) -> dict[str, Any]:
        asks = ["rehearse", "--audience", "Friday", "--data", str(written.data), "--json", *more]
        done = CliRunner().invoke(app, asks, catch_exceptions=False)
        told: dict[str, Any] = json.loads(done.output)
        return told

    def called(told: dict[str, Any]) -> set[str]:
        return {cue for cue, runs in told["let_in_by_cue"].items() if runs}

    alike = on_the_command_line()
    assert PAST in alike["assumed"] and len(called(alike["nights"][0])) > 3
    assert PAST in _rehearsed(written, audience="friday")["assumed"]
    _small_night(written, "owlpost", "saltmarsh_sue")
    here, there = on_the_command_line(), _rehearsed(written, audience="friday")
    assert called(here["nights"][0]) == called(there["books"][0]["result"]) == {"ask", "tannoy"}
    assert here["nights"][0]["calls"] == there["books"][0]["result"]["calls"]
    assert PAST not in here["assumed"] and here["assumed"] == there["assumed"]
    points = on_the_command_line("--sweep", "lanes.yard.width=1..2")["points"]
    assert [point["value"] for point in points] == [1, 2]


def _is_a_worker(process: psutil.Process) -> bool:
    try:
        return "spawn_main" in " ".join(process.cmdline())
    except psutil.Error:  # It is over, or just starting.
        return False


def test_a_worker_that_is_lost_is_said_and_the_next_rehearsal_has_new_ones(written: Running) -> None:
    _book(written)
    written.book(audiences=[{**FRIDAY, "calls": 600}])
    before = written.server.children(recursive=True)
    begun = written.api.post("/api/rehearsals", json={"audience": "friday", "nights": 200}).json()["id"]
    until(lambda: written.api.get(f"/api/rehearsals/{begun}").json()["done"] >= 1)
    workers = [one for one in written.server.children(recursive=True) if one not in before]
    next(one for one in workers if _is_a_worker(one)).kill()
    failed = until(lambda: (seen := written.api.get(f"/api/rehearsals/{begun}").json())["state"] == "failed" and seen)
    assert "The rehearsal crashed. Run it again." in failed["problem"] and failed["done"] < 200
    assert _rehearsed(written, audience="friday", nights=2)["done"] == 2
    written.redeem("owlpost", "tannoy")
    until(lambda: written.api.get("/api/ledger").json()["lines"][0]["viewer_name"] == "owlpost")
    # Nor does one stay behind if the show itself is killed.
    written.api.post("/api/rehearsals", json={"audience": "friday", "nights": 200}).raise_for_status()
    until(lambda: any(_is_a_worker(one) for one in written.server.children(recursive=True)))  # type: ignore[union-attr]
    others = [one for one in written.server.children(recursive=True) if one not in before]
    written.kill_server()

    def is_over(one: psutil.Process) -> bool:
        try:
            return not one.is_running() or one.status() == "zombie"
        except psutil.NoSuchProcess:
            return True

    until(lambda: all(is_over(one) for one in others))
