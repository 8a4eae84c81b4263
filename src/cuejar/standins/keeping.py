"""The simulated channel's storage: rows by kind and id in a small database, one write per change."""

from __future__ import annotations

import contextlib
import json
import sqlite3
from collections.abc import Iterator
from pathlib import Path
from typing import Any


class Keeping:
    """JSON objects by kind and id. Without a file nothing is kept."""

    def __init__(self, file: Path | None) -> None:
        self._base: sqlite3.Connection | None = None
        if file is not None:
            self._base = sqlite3.connect(file, isolation_level=None, check_same_thread=False)
            self._base.execute("pragma journal_mode=wal")
            self._base.execute("pragma synchronous=off")  # It outlives its process, not a power cut.
            self._base.execute(
                "create table if not exists kept (kind text, id text, data text, primary key (kind, id)) without rowid"
            )

    def all(self, kind: str) -> dict[str, Any]:
        """Returns everything of a kind, by id."""
        if self._base is None:
            return {}
        rows = self._base.execute("select id, data from kept where kind = ? order by id", [kind]).fetchall()
        return {key: json.loads(data) for key, data in rows}

    @contextlib.contextmanager
    def together(self) -> Iterator[None]:
        """Writes everything inside completely or not at all, whenever the process ends."""
        if self._base is None:
            yield
            return
        self._base.execute("begin")
        try:
            yield
        finally:
            self._base.execute("commit")

    def put(self, kind: str, key: str, data: Any) -> None:
        if self._base is not None:
            self._base.execute("insert or replace into kept values (?, ?, ?)", [kind, key, json.dumps(data)])

    def drop(self, kind: str, key: str) -> None:
        if self._base is not None:
            self._base.execute("delete from kept where kind = ? and id = ?", [kind, key])
