"""The database: migrations killed after any statement, the clock that was ahead, exports as other programs read them."""

from __future__ import annotations

import asyncio
import csv
import io
import json
import os
import re
import shutil
import signal
import sqlite3
import time
from pathlib import Path
from typing import Any

import pytest
from alembic import command
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, event, select

from cuejar.core.book.files import book_from
from cuejar.core.facts import happenings as h
from cuejar.live import rows
from cuejar.store.database import FILE, HEAD, open_database
from cuejar.store.exports import csv_lines, event_lines
from cuejar.store.ledger import Where
from cuejar.store.models import LedgerRow, NoteRow, PaidRow, StrikeRow
from cuejar.store.upgrading import config_of
from tests.inside import Inside

BOOK = {
    "rewards": [{"id": "tea", "title": "Tea", "cost": 10}],
    "cues": [
        {"id": "tea", "name": "Tea", "entry": "overlap", "calls": [{"kind": "reward", "reward": "tea"}],
         "beats": [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.05}}]}
    ],
}  # fmt: skip


def _before(folder: Path) -> Path:
    """Makes a database as an earlier version left it, with something in every changed table."""
    folder.mkdir()
    file = folder / FILE
    command.upgrade(config_of(f"sqlite:///{file}"), "0002")
    base = sqlite3.connect(file)
    with base:
        for n in range(50):
            base.execute("insert into journal (at, happening) values (?, ?)", [n, '{"kind": "all_to_rest"}'])
            base.execute(
                "insert into ledger (at, call, kind, viewer, viewer_name, text, reward, cost, cue, verdict, reason, detail, "
                "run, outcome, trace) values (?, ?, 'chat', 'v', 'owlpost', '', '', 0, 'tea', 'let_in', '', '', ?, '', '[]')",
                [n, f"chat-{n}", str(n)],
            )
            base.execute("insert into notes (run, at, what, beat, data) values (?, ?, 'start', '', '{}')", [str(n), n])
            base.execute("insert into settlements values (?, 'fulfilled', 1, ?, '')", [f"rd-{n}", n])
        base.execute("insert into links values ('latch', 'keys/F8', 'on')")
    base.close()
    return file


def _upgraded_until(folder: Path, statement: int) -> bool:
    """Opens the database in a process of its own that is killed before its n-th statement. Returns False: it needed
    fewer.
    """
    child = os.fork()
    if child == 0:
        count = 0

        @event.listens_for(Engine, "before_cursor_execute")
        def _count(*_: Any) -> None:
            nonlocal count
            count += 1
            if count == statement:
                os.kill(os.getpid(), signal.SIGKILL)

        try:
            open_database(folder)
        finally:
            os._exit(0)
    return os.WIFSIGNALED(os.waitpid(child, 0)[1])


def test_a_migration_survives_a_kill_before_any_statement(tmp_path: Path) -> None:
    before = _before(tmp_path / "before")
    killed = 0
    for statement in range(1, 200):
        folder = tmp_path / str(statement)
        folder.mkdir()
        shutil.copy(before, folder / FILE)
        if not _upgraded_until(folder, statement):
            break
        killed += 1
        database = open_database(folder)
        assert database.said == []
        with database.sessions() as session:
            calls = session.scalars(select(LedgerRow.call).order_by(LedgerRow.id)).all()
            assert calls == [f"chat-{n}" for n in range(50)]
            tables = (
                session.connection().exec_driver_sql("select name from sqlite_master where type = 'table'").scalars()
            )
            assert not [name for name in tables if "before" in name or "_alembic_tmp" in name]
            for table in ("journal", "notes", "settlements"):
                assert session.connection().exec_driver_sql(f"select count(*) from {table}").scalar() == 50
            assert session.connection().exec_driver_sql("select path, value from latches").all() == [("keys/F8", "on")]
        copies = list(folder.glob("cue-jar.before-*.sqlite"))
        assert copies and sqlite3.connect(copies[0]).execute("select count(*) from links").fetchone()[0] == 1
        assert all(file.stat().st_mode & 0o077 == 0 for file in folder.glob("cue-jar*"))
    assert killed >= 25, killed


def _night(folder: Path, count: int, first: int = 0) -> Inside:
    """Makes a night with redemptions, deleted afterwards."""

    async def night() -> Inside:
        inside = Inside(folder, book_from(BOOK))
        inside.start()
        for n in range(first, first + count):
            viewer = h.Viewer(f"v{n}", "owlpost", ("follower",))
            await inside.runner.post(h.Redemption(f"rd-{n}", "tea", viewer, f"mind the gap {n}", 10))
        await asyncio.sleep(0.2)
        await inside.stop()
        return inside

    return asyncio.run(night())


def test_the_ledger_follows_the_wall_clock_again(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A start with the computer's clock a day ahead; it is right again at the next start."""
    real = time.time_ns
    with monkeypatch.context() as ahead:
        ahead.setattr(time, "time_ns", lambda: real() + 86_400_000_000_000)
        _night(tmp_path, 3)
    inside = _night(tmp_path, 3, first=3)
    with inside.database.sessions() as session:
        rows = session.scalars(select(LedgerRow).order_by(LedgerRow.id)).all()
    assert [row.call for row in rows] == [f"rd-{n}" for n in range(6)], "the order stays"
    assert [row.at for row in rows] == sorted(row.at for row in rows)
    now = real() // 1_000_000
    assert all(row.wall > now + 80_000_000 for row in rows[:3])
    assert all(abs(row.wall - now) < 60_000 for row in rows[3:])


def test_exports_are_read_by_other_programs(tmp_path: Path) -> None:
    _night(tmp_path, 30)
    file = tmp_path / FILE
    base = sqlite3.connect(file)
    nasty = ["=1+1", " @now", "　＋3", "-5", "\tx", '"quoted", with %d', "two\r\nlines", "it's fine", "plain"]
    with base:
        for n, text in enumerate(nasty):
            base.execute("update ledger set text = ? where call = ?", [text, f"rd-{n}"])
    base.close()
    rows = list(csv.DictReader(io.StringIO("".join(csv_lines(file, Where())), newline="")))
    assert len(rows) == 30
    assert [row["text"] for row in rows[: len(nasty)]] == ["'" + text for text in nasty[:5]] + nasty[5:]
    assert {row["run"] for row in rows} == {str(n) for n in range(1, 31)} and rows[3]["viewer"] == "v3"
    events = [json.loads(line) for line in "".join(event_lines(file, Where(), "/ledger/here")).splitlines()]
    assert [event["data"]["text"] for event in events][: len(nasty)] == nasty
    assert [note["what"] for note in events[7]["data"]["notes"]] == ["start", "finish"]
    assert events[0]["source"] == "/ledger/here" and events[0]["data"]["trace"] == []
    some = "".join(csv_lines(file, Where(viewer="OWL", verdict="let_in", cue="tea")))
    assert some.count("\r\n") >= 31 and "".join(csv_lines(file, Where(viewer="nobody"))).count("\r\n") == 1


def test_every_column_is_written_where_lines_notes_points_and_strikes_are() -> None:
    """The statements are separate from the models: a new column must be in both."""
    for table, statement in {
        LedgerRow: rows._LINE, NoteRow: rows._NOTE, PaidRow: rows._PAID, StrikeRow: rows._OWE,
    }.items():  # fmt: skip
        columns = {column.name for column in table.__table__.columns if column.autoincrement is not True}
        written = set(re.findall(r":(\w+)", statement))
        assert written == columns, table.__name__


def test_the_newest_revision_is_the_one_that_starts_look_for() -> None:
    """A start that finds it doesn't read Alembic, which takes a while."""
    assert ScriptDirectory.from_config(config_of("")).get_current_head() == HEAD
