"""A whole data folder moves to another computer in one file, and nothing else comes with it."""

from __future__ import annotations

import io
import json
import sqlite3
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from cuejar.store import moving
from cuejar.store.database import FILE, writing_engine
from cuejar.store.writer import Writer
from tests.running import Running, until

KEY = "yard-key-4711"
BEATS = [
    {"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.1}},
    {"id": "n", "kind": "count", "name": "cups"},
    {"id": "h", "kind": "hook", "hook": "kettle", "payload": '{"token": "' + KEY + '"}'},
]
CUE = {
    "id": "tea", "name": "Tea", "entry": "overlap", "beats": BEATS,
    "calls": [{"kind": "reward", "reward": "tea"}, {"kind": "chat", "match": "starts", "text": "!tea"}],
}  # fmt: skip


@pytest.fixture
def other(tmp_path: Path) -> Iterator[Running]:
    """A new computer: its own folder, its own channel."""
    (folder := tmp_path / "other").mkdir()
    there = Running(folder / "data")
    try:
        yield there.start()
    finally:
        there.stop()


def _lived(running: Running) -> None:
    """Makes a night with calls, points and counts, and a viewer whose name is a list of secrets."""
    points = {"on": True, "per_min": 0, "follow": 120, "name": "tokens"}
    running.api.put("/api/book/points", json={"value": points}).raise_for_status()
    running.book(
        gear=[{"id": "kettle", "kind": "hook", "address": "http://127.0.0.1:9/", "hook": {"headers": {"X-Key": KEY}}}],
        rewards=[{"id": "tea", "title": "Tea", "cost": 10}],
        counts=[{"id": "cups", "name": "Cups", "per": "good"}],
        cues=[CUE],
    )
    until(lambda: len(running.channel.get("/rewards").json()) == 1)
    running.channel.post("/stream", json={"state": "live", "category": "Model yards"}).raise_for_status()
    until(lambda: running.state()["show"]["on_air"])
    running.channel.post("/follows", json={"viewer": "owlpost"}).raise_for_status()
    for _ in range(3):
        running.redeem("owlpost", "Tea")
    running.channel.post("/chat", json={"viewer": "bramble_jo", "text": "!tea please"}).raise_for_status()
    until(lambda: running.api.get("/api/counts").json()[0]["now"] == 4)
    until(lambda: all(row["state"] != "open" for row in running.channel.get("/redemptions").json()))
    running.channel.post("/stream", json={"state": "ended"}).raise_for_status()
    until(lambda: running.api.get("/api/nights").json()["nights"][0]["ended"])


def _out(running: Running) -> bytes:
    return running.api.get("/api/carry/everything.zip").raise_for_status().content


def _in(other: Running, content: bytes) -> dict[str, Any]:
    answer = other.api.post("/api/carry/in", files={"file": ("everything.zip", content)}).raise_for_status()
    review: dict[str, Any] = answer.json()
    return review


def _take(other: Running, review: dict[str, Any], **choices: Any) -> str:
    answer = other.api.post(
        f"/api/carry/in/{review['key']}/take", json={"allowed": [one["key"] for one in review["asked"]], **choices}
    )
    return str(answer.raise_for_status().json()["what"])


def _calls(running: Running) -> list[tuple[Any, ...]]:
    lines = running.api.get("/api/ledger").json()["lines"]
    return [(line["call"], line["viewer_name"], line["text"], line["verdict"], line["outcome"]) for line in lines]


def _held(running: Running) -> int:
    return int(running.api.get("/api/viewers/card", params={"viewer": "v-owl"}).json()["account"]["held"])


def _data(review: dict[str, Any]) -> dict[str, tuple[int, int, bool]]:
    return {one["part"]: (one["all"], one["fresh"], one["takes"]) for one in review["data"]}


def test_everything_moves_to_another_computer(running: Running, other: Running) -> None:
    _lived(running)
    content = _out(running)
    with zipfile.ZipFile(io.BytesIO(content)) as bundle:
        told = b"".join(bundle.read(name) for name in bundle.namelist())
    assert b"owlpost" in told and KEY.encode() not in told, "keys stay at home"
    review = _in(other, content)
    assert review["scope"] == "all"
    assert _data(review) == {
        "calls": (4, 4, True), "nights": (1, 1, True), "viewers": (2, 2, True), "points": (1, 1, True), "counts": (1, 1, True),
    }  # fmt: skip
    assert "4 calls" in _take(other, review)
    assert [row[:4] for row in _calls(other)] == [row[:4] for row in _calls(running)]
    assert _calls(other) == _calls(running)
    night, was = (one.api.get("/api/nights").json()["nights"][0] for one in (other, running))
    assert {**night, "id": 0, "size": 0} == {**was, "id": 0, "size": 0}
    assert night["id"] >= 1_000_000_000
    events = (one.api.get(f"/api/nights/{row['id']}/files/script") for one, row in ((running, was), (other, night)))
    ones, others = (answer.raise_for_status().json() for answer in events)
    assert ones == others, "it can be played again, to the millisecond"
    assert other.api.get("/api/counts").json() == [{"id": "cups", "now": 4}]
    assert _held(other) == _held(running) == 120
    assert other.api.get("/api/viewers").json()["total"] == running.api.get("/api/viewers").json()["total"]


def test_it_comes_once_and_what_is_here_stays(running: Running, other: Running) -> None:
    _lived(running)
    content = _out(running)
    _take(other, _in(other, content))
    again = _in(other, content)
    assert {part: fresh for part, (_, fresh, _) in _data(again).items()} == {
        "calls": 0, "nights": 0, "viewers": 0, "points": 0, "counts": 0,
    }  # fmt: skip
    assert not any(takes for _, _, takes in _data(again).values()), "nothing by itself into a folder that somebody uses"
    _take(other, again, take=[], data=["counts", "points", "calls"])
    assert other.api.get("/api/counts").json() == [{"id": "cups", "now": 4}] and _held(other) == 120
    # Viewers forgotten here stay forgotten, and new runs don't collide with imported ones.
    before = len(_calls(other))
    other.api.post("/api/viewers/forget", json={"viewer": "v-owl"}).raise_for_status()
    _take(other, _in(other, content), data=["calls", "viewers", "points"])
    assert len(_calls(other)) == before
    assert "owlpost" not in json.dumps(_calls(other))
    redemption = other.redeem("bramble_jo", "Tea")
    until(lambda: other.state_of(redemption) in ("fulfilled", "refunded"))
    assert _calls(other)[0][4] in ("fulfilled", "refunded")
    assert [row[4] for row in _calls(other)[1:]] == [row[4] for row in _calls(running)]


def test_odd_lines_are_left_out_and_counted(running: Running, other: Running) -> None:
    _lived(running)
    out = io.BytesIO()
    odd = {
        "data/ledger.jsonl": b'{"at": 1}\n{"at": "x"\n' + b"[" * 100_000 + b"\n" + b"x" * 300_000 + b"\n",
        "data/viewers.jsonl": b'{"id": "v-owl\\u0000", "name": "", "first": 1, "last": 2}\n',
        "data/accounts.jsonl": b'{"viewer": "v-owl", "held": -5}\n{"viewer": "v-owl", "held": 1e99}\n',
        "data/settlements.jsonl": b'{"redemption": "r1", "outcome": "fulfilled", "confirmed": false}\n',
        "data/nights.jsonl": b'{"first": 1, "last": 2, "at": 0, "wall": 5, "ended": 9, "ended_wall": 9, "state": {}, "entries": []}\n',
    }
    with (
        zipfile.ZipFile(io.BytesIO(_out(running))) as bundle,
        zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as changed,
    ):
        for name in bundle.namelist():
            changed.writestr(name, odd.get(name, b"") + bundle.read(name))
    review = _in(other, out.getvalue())
    assert {one["part"]: one["odd"] for one in review["data"]} == {
        "calls": 5, "nights": 1, "viewers": 1, "points": 2, "counts": 0,
    }  # fmt: skip
    _take(other, review)
    assert _calls(other) == _calls(running)


def test_after_an_end_in_the_middle_all_of_it_comes_again(running: Running, other: Running, tmp_path: Path) -> None:
    _lived(running)
    (file := tmp_path / "everything.zip").write_bytes(_out(running))
    other.kill_server()
    base, side = other.data / FILE, tmp_path / "side"
    writer = Writer(writing_engine(f"sqlite:///{base}", pooled=False))

    def copied(most: int) -> None:
        """Copies with a limited number of transactions, or all."""
        moving.gated(file, side, 10**9)
        moving.fitted(side, base, "far")
        works = [work for part in ("calls", "nights", "viewers", "points") for work in moving.batches(side, part)]
        for work in works[:most]:
            writer.now(work)

    def count(table: str) -> int:
        with sqlite3.connect(base) as connection:
            return int(connection.execute(f"select count(*) from {table}").fetchone()[0])

    for most in (1, 2, 3, 4, 99, 99):
        copied(most)
    with sqlite3.connect(running.data / FILE) as there:
        for table in ("ledger", "notes", "viewers", "nights"):
            assert count(table) == there.execute(f"select count(*) from {table}").fetchone()[0] > 0, table
    other.start_server()
    night = other.api.get("/api/nights").json()["nights"][0]
    assert other.api.get(f"/api/nights/{night['id']}/files/script").raise_for_status().json()
