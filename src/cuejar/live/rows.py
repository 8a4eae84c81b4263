"""What orders mean for the data folder: lines of the ledger, notes of runs, points, settlements and strikes.

Written over a plain connection: it comes before the journal's next entry, which viewers wait for.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from typing import Any

from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.traces import packed
from cuejar.live.strikes import Owed

MANY = 500
"""The maximum number of ids in one database query."""

Row = dict[str, Any]


def decide(connection: sqlite3.Connection, settled: Sequence[tuple[int, o.Settle]], owed: Sequence[Owed]) -> None:
    """Writes settlements, each with its instant, and strikes. Writing them twice changes nothing."""
    settlements = [{"r": order.redemption, "o": order.as_, "t": at} for at, order in settled]
    connection.executemany(_SETTLE_NEW, settlements)
    connection.executemany(_SETTLE, settlements)
    connection.executemany(_OWE, [one.row() for one in owed])


def confirm(connection: sqlite3.Connection, settled: Sequence[tuple[str, str]]) -> None:
    """Notes that the channel accepted these settlements, or never will; then the problem says why."""
    connection.executemany(_CONFIRM, [{"r": redemption, "p": problem} for redemption, problem in settled])


def struck(connection: sqlite3.Connection, done: Sequence[tuple[str, str, str]]) -> None:
    """Writes the results of strikes: their ids, `done`, `failed` or `late`, and why."""
    connection.executemany(_STRUCK, [{"i": one, "s": state, "p": problem} for one, state, problem in done])


class Lines:
    """The ledger lines of many orders, collected and written at once."""

    def __init__(self) -> None:
        self._lines: list[Row] = []
        self._notes: list[Row] = []
        self._outcomes: list[Row] = []
        self._paid: list[Row] = []
        self._won: list[Row] = []
        self._seen: dict[str, Row] = {}
        self._touched: dict[str, None] = {}
        self._runs: dict[str, None] = {}

    def see(self, viewer: h.Viewer, wall: int) -> None:
        """Notes that a viewer was there (ms since 1970)."""
        roles = json.dumps(viewer.roles, ensure_ascii=False)
        self._seen[viewer.id] = {"id": viewer.id, "name": viewer.name, "roles": roles, "tier": viewer.tier, "at": wall}

    def add(self, at: int, wall: int, order: o.Order) -> None:
        """Adds an order of this instant."""
        if isinstance(order, o.Paid):
            self._paid.append({**order._asdict(), "at": at, "wall": wall})
        elif isinstance(order, o.Verdict):
            self._lines.append({**_ledger_line(at, order), "wall": wall})
            self._touched[order.call] = None
        elif isinstance(order, o.Settle):
            self._outcomes.append({"r": order.redemption, "o": order.as_})
            self._touched[order.redemption] = None
        elif (note := _note_of(order, at)) is not None:
            if isinstance(order, o.Won):
                self._won.append({**order._asdict(), "what": order.prize, "wall": wall})
            self._notes.append(note)
            self._runs[note["run"]] = None

    def write(self, connection: sqlite3.Connection) -> list[str]:
        """Writes them; existing lines stay.

        Returns:
            The calls whose lines in the ledger are new or changed.
        """
        connection.executemany(_LINE, self._lines)
        connection.executemany(_SEE, self._seen.values())
        connection.executemany(_PAID, self._paid)
        connection.executemany(_NOTE, self._notes)
        connection.executemany(_WON, self._won)
        connection.executemany(_SETTLE_LINES, self._outcomes)
        of_runs = list(self._runs)
        for i in range(0, len(of_runs), MANY):
            some = of_runs[i : i + MANY]
            for (call,) in connection.execute(_CALLS_OF.format(",".join("?" * len(some))), some):
                self._touched[call] = None
        return list(self._touched)


def _insert(table: str, *columns: str) -> str:
    """Returns an insert that skips existing rows."""
    values = ", ".join(f":{column}" for column in columns)
    return f"insert into {table} ({', '.join(columns)}) values ({values}) on conflict do nothing"


_LINE = _insert(
    "ledger", "at", "wall", "call", "kind", "viewer", "viewer_name", "text", "reward", "cost", "cue", "verdict",
    "reason", "detail", "run", "outcome", "trace",
)  # fmt: skip
_NOTE = _insert("notes", "run", "at", "what", "beat", "data")
_PAID = _insert("paid", "viewer", "at", "what", "call", "wall", "amount", "held", "why")
_WON = _insert("winners", "run", "beat", "wall", "viewer", "name", "what")
_OWE = _insert("strikes", "id", "at", "run", "beat", "kind", "value", "state", "problem")
_SEE = (
    "insert into viewers (id, name, roles, tier, first, last) values (:id, :name, :roles, :tier, :at, :at) "
    "on conflict (id) do update set first = min(first, excluded.first), "
    "name = case when excluded.last >= last then excluded.name else name end, "
    "roles = case when excluded.last >= last then excluded.roles else roles end, "
    "tier = case when excluded.last >= last then excluded.tier else tier end, last = max(last, excluded.last)"
)
_SETTLE_NEW = "insert into settlements (redemption, at, outcome, confirmed, problem) values (:r, :t, '', 0, '') on conflict do nothing"
_SETTLE = "update settlements set outcome = :o, at = :t where redemption = :r and outcome = ''"
_SETTLE_LINES = "update ledger set outcome = :o where call = :r and (verdict != 'ignored' or reason = 'unreadable')"
_CONFIRM = "update settlements set confirmed = 1, problem = :p where redemption = :r"
_STRUCK = "update strikes set state = :s, problem = :p where id = :i"
_CALLS_OF = "select call from ledger where run in ({})"
_NOTED = {
    o.Start: "start",
    o.Drop: "drop",
    o.Finish: "finish",
    o.Fail: "fail",
    o.Draw: "draw",
    o.Roll: "roll",
    o.Won: "won",
}


def _ledger_line(at: int, verdict: o.Verdict) -> Row:
    kind, viewer, text, reward = verdict.arrived
    return {
        "at": at,
        "call": verdict.call,
        "kind": kind,
        "viewer": viewer.id if viewer else "",
        "viewer_name": viewer.name if viewer else "",
        "text": text,
        "reward": reward,
        "cost": verdict.cost,
        "cue": verdict.cue or "",
        "verdict": verdict.verdict,
        "reason": verdict.reason or "",
        "detail": verdict.detail,
        "run": verdict.run or "",
        "outcome": "",
        "trace": json.dumps(packed(verdict.trace)),
    }


def _note_of(order: o.Order, at: int) -> Row | None:
    """Returns the ledger's note on a run, apart from its verdict."""
    kind = _NOTED.get(type(order))
    if kind is None:
        return None
    fields = {name.rstrip("_"): value for name, value in order._asdict().items()}
    for left_out in ("look", "until", "call", "cue"):
        fields.pop(left_out, None)
    run, beat = fields.pop("run"), fields.get("beat", "")
    return {"run": run, "at": at, "what": kind, "beat": beat, "data": json.dumps(fields)}
