"""Write and read failures never end the show: they are reported, and everything that waited is done once the fault is
gone.
"""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import psutil
import pytest

from tests import copies
from tests.live.test_gear_crash import a_cue, connected, scene
from tests.running import PATIENCE_S, Running, until, wav

FILE = "cue-jar.sqlite"


@contextlib.contextmanager
def _full(data: Path) -> Iterator[None]:
    filler = data / "filler"
    for size in (65_536, 512):
        with contextlib.suppress(OSError), filler.open("ab", buffering=0) as file:
            while True:
                file.write(b"\0" * size)
    yield
    filler.unlink()


@contextlib.contextmanager
def _locked(data: Path) -> Iterator[None]:
    base = sqlite3.connect(data / FILE, isolation_level=None)
    base.execute("begin immediate")
    yield
    base.rollback()
    base.close()


def _aborting(table: str) -> Callable[[Path], contextlib.AbstractContextManager[None]]:
    @contextlib.contextmanager
    def fault(data: Path) -> Iterator[None]:
        base = sqlite3.connect(data / FILE, timeout=20, isolation_level=None)
        base.execute(f"create trigger no_{table} before insert on {table} begin select raise(abort, 'no more'); end")
        yield
        base.execute(f"drop trigger no_{table}")
        base.close()

    return fault


@pytest.fixture
def on_a_small_disk(tmp_path: Path) -> Iterator[Running]:
    """A server whose data folder is on a disk of its own, which can be filled."""
    data = tmp_path / "data"
    data.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", "size=24m", "tmpfs", str(data)]
    if subprocess.run(mount, capture_output=True, check=False).returncode:
        pytest.skip("no disk can be mounted here")
    made = Running(data)
    try:
        yield made.start()
    finally:
        made.stop()
        subprocess.run(["umount", "-l", str(data)], check=False)


def a_night_with(
    running: Running, fault: Callable[[Path], contextlib.AbstractContextManager[None]], waits: bool
) -> None:
    """Runs a night in which a hold ends on time while something can't be written; what came meanwhile is done
    afterwards.

    Args:
        waits: whether nothing that comes in can be acted on meanwhile.
    """
    connected(running)
    cue = {**a_cue(1.5), "entry": "overlap", "calls": [{"kind": "reward", "reward": "yard"}]}
    running.book(rewards=[{"id": "yard", "title": "Yard", "cost": 10}], cues=[cue])
    until(lambda: len(running.channel.get("/rewards").json()) == 1)
    running.api.post("/api/cues/yard/fire").raise_for_status()
    until(lambda: scene(running) == "Yard cam")
    with fault(running.data):
        redemption = running.redeem("owlpost", "Yard")
        for n in range(12):
            running.channel.post("/chat", json={"viewer": "owlpost", "text": f"mind the gap {n}"}).raise_for_status()
        trouble = until(lambda: running.api.get("/api/health").json()["troubles"])[0]
        assert trouble["what"] and trouble["means"]
        until(lambda: scene(running) == "Workbench")
        if waits:
            refused = running.api.post("/api/cues/yard/fire")
            assert refused.status_code == 503 and "Nothing was done" in refused.json()["what"]
            saved = running.api.put("/api/book/house", json={"value": {"volume": 70}})
            assert (saved.status_code == 503) == (
                "data folder" in refused.json()["what"] or "disk" in refused.json()["what"]
            )
            assert running.api.post("/api/all-to-rest").is_success, "things can be brought to rest all the same"
            assert running.state_of(redemption) == "unfulfilled"
    until(lambda: running.state_of(redemption) == "fulfilled")
    until(lambda: running.api.get("/api/health").json()["ok"])
    until(lambda: scene(running) == "Workbench")
    line = until(
        lambda: next((r for r in running.api.get("/api/ledger").json()["lines"] if r["call"] == redemption), None)
    )
    assert line["outcome"] == "fulfilled"
    assert (running.data.parent / "serve.log").stat().st_size < 20_000, "said once a minute"


def test_a_full_disk(on_a_small_disk: Running) -> None:
    a_night_with(on_a_small_disk, _full, waits=True)


def test_files_on_a_full_disk_are_refused_in_words(on_a_small_disk: Running) -> None:
    running, bell = on_a_small_disk, wav(1.0)
    book = running.api.get("/api/carry/book.zip").content
    with _full(running.data):
        for path, files in (
            ("/api/media", {"files": ("bell.wav", bell)}),
            ("/api/carry/in", {"file": ("book.zip", book)}),
        ):
            answer = running.api.post(path, files=files)
            assert answer.status_code in (503, 507), (path, answer.text)
            assert "disk" in answer.json()["what"] or "be saved" in answer.json()["what"], (path, answer.text)
    assert not list((running.data / "incoming").glob("*")), "nothing is left of it"
    until(lambda: running.api.get("/api/health").json()["ok"])
    assert running.add_file("bell.wav", bell)


def test_an_upload_after_the_media_workers_were_killed(running: Running) -> None:
    running.add_file("bell.wav", wav(0.4))
    assert running.server is not None
    for number in range(3):
        for child in psutil.Process(running.server.pid).children(recursive=True):
            with contextlib.suppress(psutil.Error):  # A task that ended by itself meanwhile.
                if "spawn_main" in " ".join(child.cmdline()):
                    child.kill()
        answer = running.api.post("/api/media", files={"files": (f"bell{number}.wav", wav(0.5 + number / 10))})
        assert answer.is_success and answer.json()["media"], answer.text


def test_a_database_that_another_program_holds(running: Running) -> None:
    a_night_with(running, _locked, waits=True)


@pytest.mark.parametrize(("table", "waits"), [("journal", True), ("ledger", False), ("notes", False)])
def test_a_table_that_takes_nothing(running: Running, table: str, waits: bool) -> None:
    a_night_with(running, _aborting(table), waits)


def test_a_snapshot_that_cannot_be_kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("CUEJAR_SNAPSHOT_EVERY", "5")
    made = Running(tmp_path / "data")
    try:
        a_night_with(made.start(), _aborting("snapshots"), waits=False)
    finally:
        made.stop()


def test_a_task_that_falls_is_said_and_begun_again(tmp_path: Path) -> None:
    import asyncio

    from cuejar.live.watch import Watch

    fell: list[str] = []

    async def night() -> None:
        watch, runs = Watch(), 0

        async def work() -> None:
            nonlocal runs
            runs += 1
            if runs < 3:
                raise ValueError("the points are frozen")
            await asyncio.Event().wait()

        async def stubborn() -> None:
            with contextlib.suppress(asyncio.CancelledError):
                await asyncio.sleep(600)
            await asyncio.sleep(600)

        watch.keep("points", work, fell.append)
        await asyncio.sleep(0.05)
        row = watch.rows()[0]
        assert (row.name, row.state, row.problem) == ("points", "away", "ValueError: the points are frozen")
        while watch.rows()[0].state == "away" or watch.rows()[0].falls < 2:
            await asyncio.sleep(0.02)
        assert runs == 3 and len(fell) == 2
        watch.once("stubborn", stubborn)
        await asyncio.sleep(0.01)
        begun = time.monotonic()
        assert await watch.stop() == ["stubborn"]
        assert time.monotonic() - begun < 10

    asyncio.run(night())


def test_no_task_is_started_unwatched() -> None:
    """Tasks are started by the watch, or in a group or gathering that waits for them; the sockets of the web wait for
    theirs.
    """
    here = Path(__file__).parents[2] / "src" / "cuejar"
    waited = {here / "api" / "feeds.py", here / "pads" / "app.py", here / "pads" / "server.py"}
    allowed = {here / "live" / "watch.py", *waited}
    for path in here.rglob("*.py"):
        if "standins" in path.parts or path in allowed:
            continue
        text = path.read_text("utf-8")
        assert "ensure_future" not in text and "asyncio.create_task" not in text, path
        assert "asyncio.wait_for(" not in text, f"{path}: wait_for can swallow a stop; use asyncio.timeout"


# Faults at start-up


def _stopped(running: Running) -> None:
    assert running.server is not None
    running.server.terminate()
    running.server.wait(20)


def _nights(running: Running) -> None:
    """Puts something into every table."""
    beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.1}}]
    calls = [{"kind": "reward", "reward": "tea"}]
    running.book(
        rewards=[{"id": "tea", "title": "Tea", "cost": 10}],
        cues=[{"id": "tea", "name": "Tea", "entry": "overlap", "calls": calls, "beats": beats}],
    )
    until(lambda: len(running.channel.get("/rewards").json()) == 1)
    for n in range(40):
        running.redeem(["owlpost", "bramble_jo"][n % 2], "Tea")
    until(lambda: running.api.get("/api/ledger").json()["total"] == 40)
    until(lambda: all(r["state"] == "fulfilled" for r in running.channel.get("/redemptions").json()))


def _spoil(file: Path, table: str) -> None:
    """Overwrites the last page of a table."""
    base = sqlite3.connect(file)
    base.execute("pragma wal_checkpoint(truncate)")
    pages = [row[0] for row in base.execute("select pageno from dbstat where name = ? order by path", [table])]
    size = base.execute("pragma page_size").fetchone()[0]
    base.close()
    with file.open("r+b") as raw:
        raw.seek((pages[-1] - 1) * size)
        raw.write(b"\xfe" * size)


@pytest.mark.parametrize("table", ["journal", "snapshots", "revisions", "ledger", "settlements", "notes", "meta"])
def test_a_damaged_page_costs_what_lay_on_it(running: Running, table: str) -> None:
    _nights(running)
    running.kill_server()
    _spoil(running.data / FILE, table)
    shutil.rmtree(running.data / "copies")  # With copies the streamer is asked first.
    running.start_server()
    running.in_step()
    said = " ".join(running.state()["show"]["said"])
    assert "damaged" in said and "can’t be read" in said
    assert list(running.data.glob("cue-jar.damaged-*.sqlite")), "the damaged file is kept"
    assert [cue["id"] for cue in running.api.get("/api/book").json()["book"]["cues"]] == ["tea"]
    redemption = running.redeem("owlpost", "Tea")
    until(lambda: running.state_of(redemption) == "fulfilled")
    assert all(r["state"] == "fulfilled" for r in running.channel.get("/redemptions").json())


@pytest.mark.stumbles
def test_half_a_row_costs_itself(running: Running) -> None:
    _nights(running)
    running.kill_server()
    base = sqlite3.connect(running.data / FILE)
    with base:
        base.execute("update journal set happening = substr(happening, 1, 20) where id = (select max(id) from journal)")
        base.execute("update revisions set book = substr(book, 1, 50) where id = (select max(id) from revisions)")
    base.close()
    running.start_server()
    running.in_step()
    said = " ".join(running.state()["show"]["said"])
    assert "of the journal can’t be handled" in said
    assert "of the book can’t be read" in said and "is kept as" in said
    now = running.api.get("/api/book").json()
    assert now["book"]["rewards"][0]["title"] == "Tea" and now["undoes"]
    # The history of a cue continues past the broken row.
    cue = {"id": "tea", "name": "Tea again", "calls": [], "beats": []}
    running.api.put("/api/book/cues/tea", json={"value": cue}).raise_for_status()
    assert running.api.get("/api/cues/tea/history").json()


@pytest.mark.parametrize("what", ["emptied", "no database"])
def test_an_emptied_file_that_held_a_book(running: Running, what: str) -> None:
    _nights(running)
    _stopped(running)
    for ending in ("-wal", "-shm"):
        (running.data / f"{FILE}{ending}").unlink(missing_ok=True)
    (running.data / FILE).write_bytes(b"" if what == "emptied" else b"this is a picture of a whistle" * 200)
    shutil.rmtree(running.data / "copies")
    running.start_server()
    running.in_step()
    said = " ".join(running.state()["show"]["said"])
    assert "book was taken from its copy" in said
    assert running.api.get("/api/book").json()["book"]["cues"][0]["id"] == "tea"


def _refused(running: Running) -> str:
    """Returns what the command line says when it doesn't start."""
    log = running.data.parent / "refused.log"
    port = str(running.port)
    started = copies.start(["serve", "--port", port, "--data", str(running.data)], log)
    started.wait(PATIENCE_S)
    return log.read_text()


def test_starts_that_end_in_words(running: Running) -> None:
    _nights(running)
    _stopped(running)
    base = sqlite3.connect(running.data / FILE, isolation_level=None)
    base.execute("pragma locking_mode=exclusive")
    base.execute("begin exclusive")
    assert "Another program is using" in _refused(running)
    base.rollback()
    base.close()
    lock = running.data / ".lock"
    lock.unlink()
    lock.mkdir()
    words = _refused(running)
    assert ".lock can’t be written" in words and "Traceback" not in words
    lock.rmdir()
    (running.data / "book-copy.json").unlink()
    kept = (running.data / FILE).read_bytes()
    (running.data / FILE).write_bytes(b"")
    (running.data / "media" / ("a" * 64)).write_bytes(b"x")
    assert "is empty, but this folder has media" in _refused(running)
    (running.data / FILE).write_bytes(kept)
    running.start_server()
    assert running.api.get("/api/ledger").json()["total"] == 40


def test_sound_words_on_a_trouble_are_those_of_the_desk(running: Running) -> None:
    with _locked(running.data):
        running.channel.post("/chat", json={"viewer": "owlpost", "text": "mind the gap"}).raise_for_status()
        wrong: Any = until(lambda: running.state()["wrong"]["troubles"])
    assert "another program is using the data folder’s database" in wrong[0]["what"]
    until(lambda: not running.state()["wrong"]["troubles"])
