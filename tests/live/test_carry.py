"""Books as files between real processes: hostile ones, kills in the middle, keys that stay, daily copies, commands as
documented.
"""

from __future__ import annotations

import asyncio
import contextlib
import hashlib
import io
import json
import re
import shutil
import sqlite3
import stat
import zipfile
from collections.abc import AsyncIterator, Callable
from datetime import date, timedelta
from pathlib import Path
from threading import Thread
from typing import Any

import httpx
import pytest
from PIL import Image
from typer.main import get_command
from typer.testing import CliRunner

from cuejar.carriage import Show
from cuejar.cli import app
from cuejar.compiling import is_compiled
from cuejar.core.book.files import book_from
from cuejar.core.carry.review import Choices
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import BookError
from cuejar.settings import Settings
from cuejar.store import bundle as bundles
from cuejar.store.bundle import NotABundle, read
from cuejar.store.copies import KEPT, copies, make_copy
from cuejar.store.database import FILE
from cuejar.studio import Studio
from tests.live.test_faults import _spoil
from tests.running import Running, free_ports, until, wav


def png() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (8, 6), "#2a9d8f").save(out, "PNG")
    return out.getvalue()


BOOK = {"format": "cue-jar-book", "version": 1, "cues": [{"id": "tea", "name": "Tea", "beats": []}]}
BELL = wav(1.5)
ROOM = 10_000_000


def cuejar(*arguments: str) -> tuple[int, str]:
    """Returns a command's exit status and its whole output, run in this process."""
    done = CliRunner().invoke(app, list(arguments), catch_exceptions=False)
    return done.exit_code, done.output


def zipped(entries: dict[str, bytes], change: Callable[[zipfile.ZipInfo], None] = lambda info: None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in entries.items():
            info = zipfile.ZipInfo(name)
            info.compress_type = zipfile.ZIP_DEFLATED
            change(info)
            made.writestr(info, content)
    return out.getvalue()


def linked(info: zipfile.ZipInfo) -> None:
    if info.filename.startswith("media"):
        info.external_attr = (stat.S_IFLNK | 0o777) << 16


TOLD = json.dumps(BOOK).encode()
MEDIA = f"media/{'a' * 64}.wav"
HOSTILE: dict[str, tuple[bytes, str]] = {
    "no zip": (b"tinwhistle", "neither a zip nor a book"),
    "no book": (zipped({"manifest.json": b"{}"}), "wasn’t exported by Cue Jar"),
    "leads out": (zipped({"book.json": TOLD, "../far.txt": b"x"}), "outside the folder"),
    "leads to the root": (zipped({"book.json": TOLD, "/etc/x": b"x"}), "outside the folder"),
    "leads out the other way": (zipped({"book.json": TOLD, "media\\..\\..\\x": b"x"}), "outside the folder"),
    "a drive": (zipped({"book.json": TOLD, "c:x": b"x"}), "outside the folder"),
    "a link": (zipped({"book.json": TOLD, MEDIA: b"/etc/passwd"}, linked), "is a link"),
    "a hash that is not right": (zipped({"book.json": TOLD, MEDIA: BELL}), "was altered"),
    "a stranger": (zipped({"book.json": TOLD, "run.sh": b"x"}), "doesn’t belong"),
    "too many": (zipped({"book.json": TOLD, **{f"media/{n:064x}": b"" for n in range(10_000)}}), "10,001 entries"),
    "a bomb": (zipped({"book.json": TOLD, MEDIA: bytes(ROOM + 1)}), "unpacks to more than 10 MB"),
    "a bomb of a book": (zipped({"book.json": b" " * (ROOM + 1)}), "unpacks to more than"),
    "a newer book": (zipped({"book.json": json.dumps({**BOOK, "version": 2}).encode()}), "newer Cue Jar"),
    "a newer bundle": (
        zipped({"book.json": TOLD, "manifest.json": b'{"format": "cue-jar-bundle", "version": 2}'}),
        "newer Cue Jar",
    ),
    "cut off": (zipped({"book.json": TOLD, MEDIA: BELL})[:-40], "damaged or cut off"),
    "another manifest": (
        zipped({"book.json": TOLD, "manifest.json": b'{"format": "tea"}'}),
        "wasn’t exported by Cue Jar",
    ),
    "deep": (zipped({"book.json": b'{"a":' * 5_000 + b"1" + b"}" * 5_000}), "can’t be read"),
    "not a number": (
        zipped({"book.json": b'{"format": "cue-jar-book", "version": 1, "house": {"volume": NaN}}'}),
        "finite",
    ),
    "missing from it": (
        zipped(
            {
                "book.json": TOLD,
                "manifest.json": json.dumps(
                    {"format": "cue-jar-bundle", "version": 1, "files": [{"path": MEDIA, "sha256": "a" * 64}]}
                ).encode(),
            }
        ),
        "is missing from the file",
    ),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_file_is_refused_in_words(name: str, tmp_path: Path) -> None:
    content, says = HOSTILE[name]
    path = tmp_path / "x.zip"
    path.write_bytes(content)
    with pytest.raises(NotABundle, match=re.escape(says)):
        read(path, ROOM)
    assert list(tmp_path.iterdir()) == [path]


@pytest.mark.parametrize("at", range(0, 100, 7))
def test_a_spoilt_file_is_refused_or_still_right(at: int, tmp_path: Path) -> None:
    """Any byte may be wrong: what is imported is what was written, or nothing."""
    media = bundles.MediaFile(_hash(BELL), tmp_path / "bell", ".wav")
    media.path.write_bytes(BELL)
    book = book_from({**BOOK, "media": [{"id": "bell", "name": "Bell", "file": media.hash, "credit": "The halt"}]})
    content = bytearray(b"".join(bundles.written(book, "book", {media.hash: media})))
    path = tmp_path / "x.zip"
    path.write_bytes(content)
    whole = read(path, ROOM)
    assert whole.book == book and set(whole.media) == {media.hash}
    bundles.copied(path, whole.media[media.hash], media.hash, tmp_path / "out")
    assert (tmp_path / "out").read_bytes() == BELL
    content[len(content) * at // 100] ^= 0xFF
    path.write_bytes(content)
    try:
        found = read(path, ROOM)
    except (NotABundle, BookError):
        return
    assert found.book == book


def _hash(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


def _furnished(running: Running) -> None:
    bell, still = running.add_file("Platform bell.wav", BELL), running.add_file("Poster.png", png())
    running.book(
        gear=[
            {
                "id": "log",
                "kind": "hook",
                "name": "Log",
                "address": "http://127.0.0.1:9/in?token=T0pSecret",
                "hook": {"headers": {"Authorization": "Bearer H1dden"}},
            }
        ],
        house={"hook_places": [{"host": "127.0.0.1", "private": True}]},
        cues=[
            {
                "id": "tea",
                "name": "Tea",
                "beats": [
                    {"id": "s", "kind": "sound", "media": {"file": bell}},
                    {"id": "p", "kind": "picture", "media": {"file": still}},
                ],
            },
            {"id": "note", "name": "Note", "beats": [{"id": "h", "kind": "hook", "hook": "log"}]},
        ],
    )
    running.api.put("/api/gear/log/secret", json={"secret": "S1gning"}).raise_for_status()


def test_a_book_goes_to_another_machine_without_its_keys(running: Running, tmp_path: Path) -> None:
    _furnished(running)
    file, there = tmp_path / "tinwhistle.zip", tmp_path / "there"
    assert cuejar("export", str(file), "--port", str(running.port))[0] == 0
    book = running.api.get("/api/book").json()["book"]
    links = [running.api.post(f"/api/overlays/{one['id']}/link").json()["path"] for one in book["overlays"]]
    secrets = ["T0pSecret", "H1dden", "S1gning", *(link.removeprefix("/overlay/") for link in links)]
    with zipfile.ZipFile(file) as bundle:
        manifest = json.loads(bundle.read("manifest.json"))
        for name in bundle.namelist():
            for secret in secrets:
                assert len(secret) > 5 and secret.encode() not in bundle.read(name), f"{secret} in {name}"
    assert {row.get("name") for row in manifest["files"]} == {None, "Platform bell", "Poster"}
    assert manifest["left_out"] == ["a key in the address of Log", "the header Authorization of Log"]
    assert cuejar("check", str(file))[0] == 0

    status, said = cuejar("import", str(file), "--data", str(there), "--dry-run")
    assert status == 0 and "Would import" in said and "! Note sends a request to 127.0.0.1: off" in said
    assert not list((there / "media").glob("?" * 64)), "nothing was taken yet"
    assert cuejar("import", str(file), "--data", str(there), "--allow", "--exact")[0] == 0
    brought = json.loads((there / "book-copy.json").read_text())
    ours = json.loads((running.data / "book-copy.json").read_text())
    assert brought["cues"] == ours["cues"] and brought["media"] == ours["media"]
    assert {path.name for path in (there / "media").glob("?" * 64)} == {_hash(BELL), _hash(png())}
    assert cuejar("import", str(file), "--data", str(there))[1].splitlines()[-1] == "Imported: nothing."

    other = Running(there)
    try:
        other.start_standins()
        other.start_server()
        media = other.api.get("/api/media").json()
        assert [(one["name"], one["missing"], one["length_s"]) for one in media if one["kind"] == "sound"] == [
            ("Platform bell", False, 1.5)
        ]
        assert "imported tinwhistle.zip" in other.api.get("/api/books").json()[0]["what"]
        other.api.post("/api/book/undo").raise_for_status()
        assert other.api.get("/api/book").json()["book"]["cues"] == [], "one undo takes all of it back"
    finally:
        other.stop()


def test_an_end_in_the_middle_changes_nothing(running: Running, tmp_path: Path) -> None:
    files = {}
    for n in range(6):
        content = wav(20 + n)
        path = tmp_path / f"long{n}"
        path.write_bytes(content)
        files[_hash(content)] = bundles.MediaFile(_hash(content), path, ".wav")
    media = [{"id": f"m{n}", "name": f"Long {n}", "file": file_hash} for n, file_hash in enumerate(files)]
    book = book_from({**BOOK, "media": media})
    content = b"".join(bundles.written(book, "book", files))
    before = running.api.get("/api/book").json()["book"]
    key = running.api.post("/api/carry/in", files={"file": ("long.zip", content)}).json()["key"]

    def take() -> None:
        with contextlib.suppress(httpx.HTTPError):
            running.api.post(f"/api/carry/in/{key}/take", json={})

    taking = Thread(target=take)
    taking.start()
    until(lambda: running.api.get("/api/jobs").json())
    running.kill_server()
    taking.join()
    running.start_server()
    assert running.api.get("/api/book").json()["book"] == before
    assert running.api.post(f"/api/carry/in/{key}/take", json={}).status_code == 404
    for folder in ("incoming", "arrivals"):
        assert not list((running.data / folder).glob("*")), f"nothing is left in {folder}"
    key = running.api.post("/api/carry/in", files={"file": ("long.zip", content)}).json()["key"]
    running.api.post(f"/api/carry/in/{key}/take", json={}).raise_for_status()
    assert len([one for one in running.api.get("/api/media").json() if not one["missing"]]) == 6
    # Killed after the files were moved to their places, before the book named them: the next start removes them.
    named = [one["file"] for one in running.api.get("/api/book").json()["book"]["media"]]
    stray = running.add_file("stray.wav", wav(3))
    stray = next(one["file"] for one in running.api.get("/api/book").json()["book"]["media"] if one["id"] == stray)
    running.api.post("/api/book/undo").raise_for_status()
    running.kill_server()
    assert not (running.data / "taking.json").exists() and (running.data / "media" / stray).exists()
    (running.data / "taking.json").write_text(json.dumps([*named[:2], stray]))
    running.start_server()
    assert {path.name for path in (running.data / "media").glob("?" * 64)} == set(named)
    with contextlib.closing(sqlite3.connect(running.data / "cue-jar.sqlite")) as database:
        assert {row[0] for row in database.execute("select hash from media")} == set(named)
    assert not (running.data / "taking.json").exists()
    # If one of several files can't be read, none is added.
    bad = {**files, _hash(b"no sound"): bundles.MediaFile(_hash(b"no sound"), tmp_path / "bad", ".wav")}
    (tmp_path / "bad").write_bytes(b"no sound")
    more = {
        _hash(wav(9)): bundles.MediaFile(_hash(wav(9)), tmp_path / "nine", ".wav"),
        _hash(b"no sound"): bad[_hash(b"no sound")],
    }
    (tmp_path / "nine").write_bytes(wav(9))
    media = [{"id": f"n{n}", "name": f"New {n}", "file": file_hash} for n, file_hash in enumerate(more)]
    content = b"".join(bundles.written(book_from({**BOOK, "media": media}), "book", more))
    key = running.api.post("/api/carry/in", files={"file": ("bad.zip", content)}).json()["key"]
    assert running.api.post(f"/api/carry/in/{key}/take", json={}).status_code == 422
    assert {path.name for path in (running.data / "media").glob("?" * 64)} == set(named)


def test_a_copy_a_day_is_kept_and_old_ones_go(tmp_path: Path) -> None:
    base = sqlite3.connect(tmp_path / FILE)
    with base:
        base.executescript(
            "create table meta (key text, value text); create table revisions (id integer, what text, book text);"
            "create table ledger (id integer); insert into meta values ('book', '1');"
            """insert into revisions values (1, 'made the cue Tea', '{"cues": [{}, {}]}')"""
        )
    first = date(2026, 5, 1)
    for days in range(KEPT + 3):
        assert make_copy(tmp_path / FILE, first + timedelta(days=days)) is not None
    assert make_copy(tmp_path / FILE, first + timedelta(days=KEPT + 2)) is None, "one a day"
    (tmp_path / "copies" / "cue-jar-2026-05-10.sqlite").write_bytes(b"spoilt" * 1000)
    kept = copies(tmp_path)
    assert [one.day for one in kept][:2] == ["2026-05-17", "2026-05-16"] and len(kept) == KEPT - 1
    assert (kept[0].what, kept[0].cues, kept[0].calls) == ("made the cue Tea", 2, 0)


def _with_a_copy_of_yesterday(running: Running) -> str:
    """Makes today's copy yesterday's, with a cue in it; then another cue."""
    running.book(cues=[{"id": "tea", "name": "Tea"}], rewards=[{"id": "tea", "title": "Tea", "cost": 10}])
    day = (date.today() - timedelta(days=1)).isoformat()
    until(lambda: list((running.data / "copies").glob("cue-jar-*.sqlite")))
    shutil.rmtree(running.data / "copies")
    assert make_copy(running.data / FILE, date.fromisoformat(day)) is not None
    for n in range(40):
        running.book(cues=[{"id": f"c{n}", "name": f"Cue {n}"}])
    return day


@pytest.mark.stumbles
def test_a_damaged_database_is_offered_its_copies(running: Running) -> None:
    day = _with_a_copy_of_yesterday(running)
    running.kill_server()
    _spoil(running.data / FILE, "revisions")
    kept = (running.data / FILE).read_bytes()

    def page() -> str:
        shown = running.api.get("/cues", headers={"accept": "text/html"})
        return shown.text if "Restore this copy" in shown.text else ""

    try:
        running.server = running._start("serve", "--port", str(running.port), "--data", str(running.data))
        shown = until(page)
        assert "The data is damaged" in shown and "of the book can’t be read" in shown
        assert running.api.get("/api/health").status_code == 503
        assert (running.data / FILE).read_bytes() == kept, "nothing was changed yet"
        foreign = running.api.post("/mend", data={"choice": day}, headers={"origin": "http://far.example"})
        assert foreign.status_code == 403
        assert "There is no readable copy" in running.api.post("/mend", data={"choice": "2001-01-01"}).text
        assert "Starting" in running.api.post("/mend", data={"choice": day}).text
        until(lambda: running.api.get("/api/health").is_success)
        assert [cue["id"] for cue in running.api.get("/api/book").json()["book"]["cues"]] == ["tea"]
        assert list(running.data.glob("cue-jar.before-restore-*.sqlite")), "the damaged one is kept"

        running.kill_server()
        (running.data / FILE).write_bytes(b"no database at all " * 500)
        running.server = running._start("serve", "--port", str(running.port), "--data", str(running.data))
        until(page)
        assert "Starting" in running.api.post("/mend", data={"choice": "go-on"}).text
        until(lambda: running.api.get("/api/health").is_success)
        assert "damaged" in " ".join(running.state()["show"]["said"])
    finally:
        (running.data.parent / "serve.log").write_text("")


def test_restore_on_the_command_line(running: Running) -> None:
    day = _with_a_copy_of_yesterday(running)
    data = str(running.data)
    assert cuejar("restore", "--data", data)[1].startswith(f"{day}  1 cues, 0 calls")
    assert "Another Cue Jar is running" in cuejar("restore", day, "--data", data)[1]
    running.kill_server()
    assert "There is no readable copy of 2001-01-01" in cuejar("restore", "2001-01-01", "--data", data)[1]
    status, said = cuejar("restore", day, "--data", data)
    assert status == 0 and "is kept as cue-jar.before-restore-" in said
    running.start_server()
    assert len(running.api.get("/api/book").json()["book"]["cues"]) == 1


def test_a_ledger_goes_to_another_machine_once(running: Running, tmp_path: Path) -> None:
    running.book(
        rewards=[{"id": "tea", "title": "Tea", "cost": 10}],
        cues=[{"id": "tea", "name": "Tea", "calls": [{"kind": "reward", "reward": "tea"}], "beats": []}],
    )
    until(lambda: running.channel.get("/rewards").json())
    for viewer in ("owlpost", "bramble_jo"):
        redemption = running.redeem(viewer, "Tea", "“Mind the gap”, =1+1")
        until(lambda redemption=redemption: running.state_of(redemption) == "fulfilled")
    until(lambda: len(running.api.get("/api/ledger").json()["lines"]) == 2)
    until(lambda: all(line["outcome"] for line in running.api.get("/api/ledger").json()["lines"]))
    calls = running.api.get("/api/ledger.jsonl").content
    home = running.api.post("/api/ledger/in", files={"file": ("calls.jsonl", calls)}).json()
    assert home == {"taken": 0, "known": 2, "refused": []}, "at home all of it is there already"
    (tmp_path / "other").mkdir()
    other = Running(tmp_path / "other" / "data")
    try:
        other.start_standins()
        other.start_server()
        for taken in (2, 0):
            told = other.api.post("/api/ledger/in", files={"file": ("calls.jsonl", calls)}).json()
            assert (told["taken"], told["known"], told["refused"]) == (taken, 2 - taken, [])
        lines, there = (one.api.get("/api/ledger").json()["lines"] for one in (running, other))
        same = ("call", "viewer_name", "text", "cost", "cue", "verdict", "outcome", "at", "trace")
        assert [[line[key] for key in same] for line in there] == [[line[key] for key in same] for line in lines]
        assert [[note["what"] for note in line["notes"]] for line in there] == [["start", "finish"]] * 2
        assert other.channel.get("/redemptions").json() == [], "nothing was fired or settled by it"
    finally:
        other.stop()


def test_check_of_files(tmp_path: Path) -> None:
    file = tmp_path / "book.json"
    file.write_text(json.dumps(BOOK))
    status, said = cuejar("check", str(file))
    assert status == 0 and "This cue does nothing" in said
    beat = {"id": "k", "kind": "tap", "combo": "Whistle"}
    file.write_text(json.dumps({**BOOK, "cues": [{"id": "tea", "name": "Tea", "beats": [beat]}]}))
    status, said = cuejar("check", str(file), "--json")
    assert status == 1 and {row["check"] for row in json.loads(said)} >= {"unknown_key"}
    file.write_text(json.dumps({**BOOK, "cues": [{"id": "tea", "name": "Tea", "lane": "nowhere"}]}))
    assert cuejar("check", str(file)) == (2, f"{file}: cues[0].lane: there is no lane “nowhere”\n")
    assert cuejar("check", str(tmp_path / "nothing.zip"))[0] == 2


def test_doctor_says_what_is_wrong(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, running: Running) -> None:
    where = ["--port", str(running.port), "--data", str(tmp_path / "fresh")]
    status, said = cuejar("doctor", *where, "--json")
    found = {row["of"]: row for row in json.loads(said)}
    assert status == 0 and set(found) >= {"python", "pages", "folder", "disk", "database", "ports", "codecs", "voices"}
    assert (found["engine"]["what"] == "The engine is compiled.") is is_compiled()
    assert "by a running Cue Jar" in next(row["what"] for row in json.loads(said) if "(the pages)" in row["what"])
    monkeypatch.setattr("cuejar.doctor.WEB", tmp_path)
    (tmp_path / "fresh" / FILE).write_bytes(b"spoilt" * 1000)
    status, said = cuejar("doctor", *where)
    assert status == 1 and "The pages are missing" in said and "The database is damaged" in said


def _commands(group: Any, before: str = "") -> dict[str, Any]:
    """Yields every command that is listed by its name, those of groups with the group's before it."""
    found: dict[str, Any] = {}
    for name, command in group.commands.items():
        if command.hidden:
            continue
        found |= _commands(command, f"{name} ") if hasattr(command, "commands") else {f"{before}{name}": command}
    return found


COMMANDS = _commands(get_command(app))


@pytest.mark.parametrize("name", sorted(COMMANDS))
def test_every_command_has_help_and_examples_that_it_takes(name: str) -> None:
    command = COMMANDS[name]
    status, said = cuejar(*name.split(), "--help")
    assert status == 0
    undone = [p.name for p in command.params if p.name != "help" and not getattr(p, "help", None)]
    assert undone == [], "without a help"
    examples = re.findall(r"Example: cuejar (.*)", said)
    assert examples and f"cuejar {name}" in (
        Path(__file__).parents[2] / "docs" / "reference" / "commands.md"
    ).read_text("utf-8")
    for example in examples:
        words = example.split()
        depth = len(name.split())
        first, rest = " ".join(words[:depth]), words[depth:]
        assert first == name
        command.make_context(name, rest, resilient_parsing=True)
        known = {option for p in command.params for option in p.opts}
        assert {word for word in rest if word.startswith("--")} <= known


def test_what_goes_wrong_once_the_book_names_them_leaves_the_files_of_an_import(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def studio(name: str) -> Studio:
        return Studio(Settings(data=tmp_path / name, key_store=False, port=free_ports()))

    async def pieces(content: bytes) -> AsyncIterator[bytes]:
        yield content

    async def falls() -> None:
        raise RuntimeError("the show has trouble")

    async def scene() -> None:
        one, other = studio("one"), studio("other")
        row = await one.library.add(pieces(png()), "Poster.png")
        await one.edit(lambda draft: draft.add("media", "Poster", {"name": "Poster", "file": row.hash}, "file"))
        key = await other.carriage.arrive(pieces(b"".join(one.carriage.out())), "halt.zip")
        await other.carriage.review(key, Choices(), Show(Catalogues()))
        monkeypatch.setattr(other, "_book_changed", falls)
        other._is_on = True
        with pytest.raises(RuntimeError):
            await other.carriage.take(key, Choices(), Show(Catalogues()), None)
        assert [entry.file for entry in other.books.book.media] == [row.hash]
        assert other.library.row(row.hash) is not None and other.library.file(row.hash) is not None
        for made in (one, other):
            made.let_go()

    asyncio.run(scene())
