"""The API as other programs use it: what is refused and how, concurrent edits, undo over a restart, files of all kinds."""

from __future__ import annotations

import io
import json
import socket
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import httpx
import pytest
from PIL import Image, PngImagePlugin
from websockets.exceptions import InvalidStatus
from websockets.sync.client import connect

from cuejar.demo.make import FILES
from tests.running import Running, until


def test_ten_lines_drive_it(alone: Running, capsys: pytest.CaptureFixture[str]) -> None:
    page = (Path(__file__).parents[2] / "docs" / "reference" / "api.md").read_text("utf-8")
    lines = page.split("```python\n")[1].split("```")[0]
    exec(compile(lines.replace(":8700", f":{alone.port}"), "api.md", "exec"), {})
    assert capsys.readouterr().out == "bell let in\n"
    assert len([line for line in lines.splitlines() if line]) == 10


def test_pages_of_others_may_not_speak_to_us(running: Running) -> None:
    running.book(cues=[{"id": "a", "name": "A"}])
    home = f"http://127.0.0.1:{running.port}"
    path = running.api.post("/api/overlays/stream/link").json()["path"]
    foreign: list[dict[str, str]] = [
        {"Origin": "http://evil.example"},
        {"Origin": "null"},
        {"Origin": f"http://127.0.0.1:{running.port + 10}"},
        {"Host": "evil.example"},
        {"Host": f"evil.example:{running.port}"},
        {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors"},
    ]
    for headers in foreign:
        for method, address in (
            ("POST", "/api/cues/a/fire"),
            ("GET", "/api/book"),
            ("POST", "/api/overlays/stream/link"),
        ):
            answer = httpx.request(method, home + address, headers=headers, trust_env=False)
            assert answer.status_code == 403, (headers, address)
            assert set(answer.json()) == {"what", "do", "problems"}
    for feed in ("/api/feed", f"{path}/feed"):
        for headers in ({"Origin": "http://evil.example"}, {"Host": "evil.example"}):
            with (
                pytest.raises(InvalidStatus),
                connect(f"ws://127.0.0.1:{running.port}{feed}", additional_headers=headers, proxy=None),
            ):
                pass
    own = {"Origin": home, "x-cue-jar-token": running.api.get("/api/token").json()["token"]}
    assert httpx.post(f"{home}/api/cues/a/fire", headers=own, trust_env=False).json()["verdict"] == "let_in"
    for headers in ({"Origin": "http://evil.example"}, {"Sec-Fetch-Site": "same-site", "Sec-Fetch-Mode": "cors"}):
        assert httpx.get(f"{home}/api/token", headers=headers, trust_env=False).status_code == 403
    with socket.socket() as probe:
        outside = socket.gethostbyname(socket.gethostname())
        if not outside.startswith("127."):
            assert probe.connect_ex((outside, running.port)) != 0


BAD: list[tuple[str, str, Any, int, str]] = [
    ("PUT", "/api/book/cues/x", {"value": {"id": "x"}}, 422, "name: is needed"),
    ("PUT", "/api/book/cues/x", {"value": {"id": "y", "name": "Y"}}, 422, "must be “x”"),
    ("PUT", "/api/book/cues/x", {"value": {"id": "x", "name": "X", "lane": "no"}}, 422, "there is no lane “no”"),
    ("PUT", "/api/book/cues/x", {"value": "text"}, 422, "must be an object"),
    ("PUT", "/api/book/cues/x", {}, 422, "value: is needed"),
    ("PUT", "/api/book/shoes/x", {"value": {}}, 422, "must be one of"),
    ("PUT", "/api/book/house", {"value": {"volume": 101}}, 422, "at most 100"),
    ("DELETE", "/api/book/cues/nobody", None, 404, "There is no “nobody”"),
    ("POST", "/api/book/redo", None, 404, "nothing to redo"),
    ("POST", "/api/cues/nobody/fire", None, 404, "no cue “nobody”"),
    ("POST", "/api/cues/from-media", {"media": ["lost"]}, 404, "no file “lost”"),
    ("POST", "/api/rewards", {"title": "", "cost": 0}, 422, "cost: 0 must be at least 1"),
    ("POST", "/api/runs/99/release", {}, 409, "already over"),
    ("GET", "/api/ledger?limit=0", None, 422, "limit"),
    ("GET", "/api/nothing", None, 404, "Nothing is at this address"),
]


def test_bad_input_is_refused_in_one_shape(running: Running) -> None:
    before = running.api.get("/api/book").json()
    for method, address, body, status, says in BAD:
        answer = (
            running.api.request(method, address, json=body)
            if body is not None
            else running.api.request(method, address)
        )
        assert answer.status_code == status, (address, answer.text)
        refusal = answer.json()
        assert set(refusal) == {"what", "do", "problems"}
        assert says in refusal["what"], refusal
    garbage = running.api.put("/api/book/house", content=b"{nope", headers={"content-type": "application/json"})
    assert garbage.status_code == 422
    assert running.api.get("/api/book").json() == before


def test_edits_that_cross_and_undo_over_a_restart(running: Running) -> None:
    running.book(cues=[{"id": "a", "name": "A"}, {"id": "b", "name": "B"}])
    seen = running.api.get("/api/book").json()["version"]
    put = running.api.put("/api/book/cues/a", json={"value": {"id": "a", "name": "A one"}, "version": seen})
    assert put.status_code == 200
    beside = running.api.put("/api/book/cues/b", json={"value": {"id": "b", "name": "B one"}, "version": seen})
    assert beside.status_code == 200
    crossed = running.api.put("/api/book/cues/a", json={"value": {"id": "a", "name": "A two"}, "version": seen})
    assert crossed.status_code == 409
    assert {p["path"] for p in crossed.json()["problems"]} == {"cues/a", "cues/b"}

    for i in range(110):
        running.book(cues=[{"id": "a", "name": f"A {i}"}])
    running.kill_server()
    running.start_server()
    for _ in range(105):
        running.api.post("/api/book/undo").raise_for_status()
    names = {cue["id"]: cue["name"] for cue in running.api.get("/api/book").json()["book"]["cues"]}
    assert names == {"a": "A 4", "b": "B one"}
    for _ in range(3):
        running.api.post("/api/book/redo").raise_for_status()
    assert running.api.get("/api/book").json()["book"]["cues"][0]["name"] == "A 7"
    fired = running.api.post("/api/cues/a/fire").json()
    assert fired["verdict"] == "let_in"


def _bomb() -> bytes:
    out = io.BytesIO()
    Image.new("1", (30_000, 30_000)).save(out, "PNG")
    return out.getvalue()


def _text_chunk_png() -> bytes:
    info = PngImagePlugin.PngInfo()
    info.add_text("Comment", "<script>alert(1)</script>")
    out = io.BytesIO()
    Image.new("RGB", (8, 8)).save(out, "PNG", pnginfo=info)
    return out.getvalue()


WHISTLE = (FILES / "steam-whistle.ogg").read_bytes()
DUSK = (FILES / "poster-dusk.gif").read_bytes()
OWL = (FILES / "poster-owl.png").read_bytes()
REFUSED: list[tuple[str, bytes, str]] = [
    ("empty.gif", b"", "is empty"),
    ("notes.png", b"just words, not a picture at all", "Only PNG"),
    ("drawing.svg", b"<svg xmlns='http://www.w3.org/2000/svg'><script>alert(1)</script></svg>", "an SVG or a web page"),
    ("drawing.png", b"<?xml version='1.0'?><svg onload='x()'/>", "an SVG or a web page"),
    ("half.gif", DUSK[: len(DUSK) // 2], "cut off or damaged"),
    ("half.ogg", WHISTLE[:300], "damaged or cut off"),
    ("head.png", OWL[:60], "damaged"),
    ("bomb.png", _bomb(), "30000 by 30000"),
    ("zip.mp3", b"PK\x03\x04" + bytes(400), "Only PNG"),
    ("noise.webm", b"\x1aE\xdf\xa3" + bytes(range(256)) * 8, "damaged or cut off"),
]


def test_files_that_are_not_taken(running: Running) -> None:
    for name, content, says in REFUSED:
        answer = running.api.post("/api/media", files={"files": (name, content)}).json()
        assert answer["media"] == [], name
        assert says in answer["refused"][0]["what"], answer
    assert running.api.get("/api/media").json() == []
    for folder in ("media", "arrivals", "posters"):
        assert list((running.data / folder).iterdir()) == [], folder
    assert running.api.post("/api/media", files={"files": ("ok.png", _text_chunk_png())}).json()["refused"] == []


def test_files_are_known_by_content_not_by_name(running: Running) -> None:
    odd = [("../../etc/passwd.exe", WHISTLE), ("trim “this”.txt", DUSK), ('"C:\\halt\\owl.jpeg"', OWL)]
    answer = running.api.post("/api/media", files=[("files", (name, content)) for name, content in odd]).json()
    assert [(m["name"], m["kind"], m["format"]) for m in answer["media"]] == [
        ("passwd", "sound", "ogg"),
        ("trim “this”", "picture", "gif"),
        ("owl", "picture", "apng"),
    ]
    gif = answer["media"][1]
    assert (gif["length_s"], gif["loops"], gif["width"], gif["height"]) == (1.4, 0, 360, 480)
    assert max(answer["media"][0]["wave"]) > 0.5
    again = running.api.post("/api/media", files={"files": ("other name.gif", DUSK)}).json()
    assert [m["id"] for m in again["media"]] == [gif["id"]]
    assert {p.name for p in (running.data / "media").iterdir()} == {m["hash"] for m in answer["media"]}
    running.book(
        cues=[{"id": "a", "name": "A", "beats": [{"id": "p", "kind": "picture", "media": {"file": gif["id"]}}]}]
    )
    refused = running.api.delete(f"/api/media/{gif['id']}")
    assert refused.status_code == 409
    assert "is used by A" in refused.json()["what"]


def test_a_file_over_the_limit(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("CUEJAR_MAX_FILE_MB", "1")
    small = Running(tmp_path / "data")
    try:
        small.start()
        answer = small.api.post("/api/media", files={"files": ("big.wav", b"RIFF" + bytes(1_100_000))}).json()
        assert "larger than 1 MB" in answer["refused"][0]["what"]
        assert list((small.data / "arrivals").iterdir()) == []
    finally:
        small.stop()


def _cli(*arguments: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "cuejar.cli", *arguments]
    return subprocess.run(command, capture_output=True, text=True, timeout=60)


def test_what_keeps_it_from_starting(running: Running, tmp_path: Path) -> None:
    import sqlite3

    used = _cli("serve", "--port", str(running.port), "--data", str(tmp_path / "other"))
    assert (used.returncode, used.stderr.strip()) == (1, f"Port {running.port} is in use. Choose another with --port.")
    both = _cli("serve", "--port", str(running.port + 1), "--data", str(running.data))
    assert both.returncode == 1
    assert both.stderr.startswith("Another Cue Jar is running on")
    blocked = tmp_path / "file"
    blocked.write_text("")
    nowhere = _cli("demo", "--port", str(running.port + 2), "--data", str(blocked / "data"))
    assert nowhere.returncode == 1
    assert "can’t be written" in nowhere.stderr
    newer = tmp_path / "newer"
    newer.mkdir()
    with sqlite3.connect(newer / "cue-jar.sqlite") as database:
        database.execute("create table alembic_version (version_num varchar(32) not null)")
        database.execute("insert into alembic_version values ('9999')")
    later = _cli("serve", "--port", str(running.port + 3), "--data", str(newer))
    assert later.returncode == 1
    assert "newer Cue Jar" in later.stderr
    assert all(done.stderr.count("\n") == 1 for done in (used, both, nowhere, later))


def test_a_snapshot_that_cannot_be_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    import sqlite3

    monkeypatch.setenv("CUEJAR_SNAPSHOT_EVERY", "5")
    made = Running(tmp_path / "data")
    try:
        made.start()
        door = {"cap_window": {"count": 2, "per_s": 3600}}
        calls = [{"kind": "reward", "reward": "a"}]
        made.book(
            rewards=[{"id": "a", "title": "A", "cost": 10}],
            cues=[{"id": "a", "name": "A", "calls": calls, "door": door}],
        )
        until(lambda: made.channel.get("/rewards").json())
        first = [made.redeem("bramble_jo", "A") for _ in range(4)]
        until(lambda: all(made.state_of(r) != "unfulfilled" for r in first))
        with sqlite3.connect(made.data / "cue-jar.sqlite") as database:

            def two_kept() -> bool:
                """Simultaneous happenings make at most one snapshot, so they come one by one."""
                made.channel.post("/chat", json={"viewer": "owlpost", "text": "mind the gap"})
                return bool(database.execute("select count(*) from snapshots").fetchone()[0] == 2)

            until(two_kept, every=0.2)
            time.sleep(0.3)
        made.kill_server()
        with sqlite3.connect(made.data / "cue-jar.sqlite") as database:
            kept, oldest = database.execute("select count(*), min(id) from journal").fetchone()
            newest, older = [r[0] for r in database.execute("select journal_id from snapshots order by id desc")]
            assert oldest == older + 1
            assert kept < 20
            database.execute("update snapshots set state = '{broken' where journal_id = ?", (newest,))
            broken = json.dumps({"kind": "chat", "text": "no viewer"})
            database.execute("insert into journal (at, happening) values (?, ?)", (int(time.time() * 1000), broken))
        made.start_server()
        said = made.state()["show"]["said"]
        assert len(said) == 2
        assert "can’t be read" in said[0]
        assert "can’t be handled" in said[1]
        made.in_step()
        again = made.redeem("kettlewright", "A")
        until(lambda: made.state_of(again) == "refunded")
        # The ledger is written behind the show: the channel may know it first.
        lines = until(lambda: len(found := made.api.get("/api/ledger?cue=a").json()["lines"]) == 5 and found)
        assert [line["reason"] for line in lines] == ["cap_window", "cap_window", "cap_window", "", ""]
        assert made.api.get("/api/ledger.csv").text.count("\n") == 6
        events = [json.loads(line) for line in made.api.get("/api/ledger.jsonl").text.splitlines()]
        assert [event["specversion"] for event in events] == ["1.0"] * 5
    finally:
        made.stop()


def test_what_changed_since_a_version_makes_the_whole_of_it(running: Running) -> None:
    """A page follows by what changed alone: over edits, undo, files, and from several versions back."""
    there: dict[str, Any] = {"book": None, "media": {}, "mark": "", "version": 0}

    def follow() -> dict[str, Any]:
        answer = running.api.get(f"/api/book/since/{there['version']}?media={there['mark']}").raise_for_status().json()
        if answer["book"] is not None:
            there["book"] = answer["book"]
        book = there["book"] | answer["parts"]
        for kind in {**answer["entries"], **answer["order"]}:
            rows = {row["id"]: row for row in [*book[kind], *answer["entries"].get(kind, [])]}
            book[kind] = [rows[one] for one in answer["order"].get(kind, [row["id"] for row in book[kind]])]
        media = there["media"] | {row["id"]: row for row in answer["media"]["rows"]}
        there["media"] = {one: media[one] for one in answer["media"]["order"]}
        there["book"], there["version"], there["mark"] = book, answer["version"], answer["media"]["mark"]
        whole = running.api.get("/api/book").json()
        assert book == whole["book"] and list(there["media"].values()) == running.api.get("/api/media").json()
        assert {key: answer[key] for key in ("version", "undo", "redo", "undoes", "redoes")} == {
            key: value for key, value in whole.items() if key != "book"
        }
        return dict(answer)

    follow()
    running.book(
        cues=[{"id": name, "name": name.upper()} for name in "abc"], lanes=[{"id": "yard", "name": "Yard"}],
        house={"volume": 40},
    )  # fmt: skip
    followed = follow()
    assert followed["book"] is None and list(followed["parts"]) == ["house"]
    assert {kind: len(rows) for kind, rows in followed["entries"].items()} == {"cues": 3, "lanes": 1}
    files = {"files": ("steam-whistle.ogg", (FILES / "steam-whistle.ogg").read_bytes())}
    running.api.post("/api/media", files=files).raise_for_status()
    followed = follow()
    assert [row["id"] for row in followed["media"]["rows"]] == ["steam-whistle"] and list(followed["entries"]) == [
        "media"
    ]
    assert follow()["media"]["rows"] == [], "nothing twice"
    sound = {"id": "s", "kind": "sound", "media": {"file": "steam-whistle"}}
    running.book(cues=[{"id": "b", "name": "B", "beats": [sound]}])
    followed = follow()
    assert [row["used_by"] for row in followed["media"]["rows"]] == [["B"]], "who uses it is news, too"
    running.api.delete("/api/book/cues/a").raise_for_status()
    assert follow()["order"] == {"cues": ["b", "c"]}
    for way in ("undo", "undo", "redo"):
        running.api.post(f"/api/book/{way}").raise_for_status()
        follow()
    for n in range(12):  # More than are at hand.
        running.book(cues=[{"id": "c", "name": f"C {n}"}])
    assert list(follow()["entries"]) == ["cues"]
    there["version"], there["mark"] = 10_000, "nobody’s"
    assert follow()["book"] is not None, "an unknown version gets the whole"
