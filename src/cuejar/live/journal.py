"""The journal: what happened, written down before anything is acted on; and the ledger that follows from it.

A happening is journalled, then handled; so after a crash the same happenings give the same orders. On the way up the
last readable snapshot is loaded and the entries after it are handled again; what they mean for the ledger and for
settlements is written again too, which changes nothing where it was written before.
"""

from __future__ import annotations

import json
import logging
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy import bindparam, delete, select, text, update
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.book import Book
from cuejar.core.engine import Engine, Timed
from cuejar.store.models import JournalRow, LedgerRow, NoteRow, SettlementRow, SnapshotRow

log = logging.getLogger(__name__)
KEPT_SNAPSHOTS = 2
SPEECH_GRACE_MS = 21_000
"""A little more than a speech may take to be made: one that cannot be made is told before that."""


class Journal:
    """Writes happenings, snapshots, ledger and settlements; reads the engine back."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self.sessions = sessions
        self.last_id = 0
        self.last_at = 0
        self.since_snapshot = 0
        self.said: list[str] = []

    def load(self, book: Book, seed: int) -> Engine:
        """The engine as it was when Cue Jar last ran, or a new one over ``book``.

        What was noticed on the way (an unreadable snapshot) is in ``said`` afterwards.
        """
        with self.sessions() as session:
            snapshots = session.scalars(select(SnapshotRow).order_by(SnapshotRow.id.desc())).all()
            engine, after = None, 0
            for row in snapshots:
                try:
                    engine, after = Engine.restore(json.loads(row.state), tracing=True), row.journal_id
                    engine.resolver.speech_grace = SPEECH_GRACE_MS
                    break
                except (ValueError, KeyError, TypeError, AttributeError, AssertionError) as error:
                    self.said.append(
                        f"The snapshot of entry {row.journal_id} cannot be read ({error}); the one before it is used."
                    )
                    log.warning(self.said[-1])
            if engine is None:
                engine = Engine(book, seed, media={}, tracing=True)
                engine.resolver.speech_grace = SPEECH_GRACE_MS
            entries = session.scalars(select(JournalRow).where(JournalRow.id > after).order_by(JournalRow.id)).all()
        self.last_id = after
        batch: list[tuple[h.Happening | None, list[Timed]]] = []
        for entry in entries:
            self.last_id, self.last_at = entry.id, entry.at
            try:
                happening = h.happening_from(entry.happening)
                batch.append((happening, engine.handle(happening, entry.at)))
            except Exception as error:
                self.said.append(f"Entry {entry.id} of the journal cannot be handled ({error}); it is left out.")
                log.exception(self.said[-1])
        self.since_snapshot = len(entries)
        if batch:
            self.record(batch)
        return engine

    def append(self, happenings: Sequence[h.Happening], at: int) -> list[h.Happening]:
        """Writes the happenings in one transaction.

        Returns:
            The same happenings, with redemptions that came before marked as such.
        """
        out: list[h.Happening] = []
        with self.sessions.kw["bind"].begin() as connection:
            for happening in happenings:
                if isinstance(happening, h.Redemption):
                    done = connection.execute(_REMEMBER, {"redemption": happening.id, "at": at})
                    if done.rowcount == 0:
                        happening = replace(happening, repeat=True)
                out.append(happening)
                written = json.dumps(h.happening_json(happening), ensure_ascii=False)
                self.last_id = connection.execute(_WRITE, {"at": at, "happening": written}).lastrowid
        self.last_at = at
        self.since_snapshot += len(out)
        return out

    def hooks_before(self, most: int) -> list[str]:
        """The ids of the hooks that called something last, the oldest first."""
        with self.sessions() as session:
            ids = session.execute(_HOOKS, {"most": most}).scalars().all()
        return [str(one) for one in reversed(ids)]

    def record(self, batch: Iterable[tuple[h.Happening | None, list[Timed]]]) -> list[str]:
        """Writes what orders mean for ledger and settlements, in one transaction.

        Returns:
            The calls whose ledger lines are new or changed.
        """
        lines: list[dict[str, Any]] = []
        notes: list[dict[str, Any]] = []
        settled: list[dict[str, Any]] = []
        touched: dict[str, None] = {}
        runs: dict[str, None] = {}
        for happening, timed in batch:
            for at, order in timed:
                if isinstance(order, o.Verdict):
                    lines.append(_ledger_line(happening, at, order))
                    touched[order.call] = None
                elif isinstance(order, o.Settle):
                    settled.append({"r": order.redemption, "o": order.as_, "t": at})
                    touched[order.redemption] = None
                elif (note := _note_of(order, at)) is not None:
                    notes.append(note)
                    runs[note["run"]] = None
        with self.sessions.begin() as session:
            if lines:
                session.execute(insert(LedgerRow).on_conflict_do_nothing(), lines)
            if notes:
                session.execute(insert(NoteRow).on_conflict_do_nothing(), notes)
            if settled:
                session.connection().execute(_SETTLE, settled)
                session.connection().execute(_SETTLE_LINES, settled)
            for call in session.scalars(select(LedgerRow.call).where(LedgerRow.run.in_(runs))) if runs else ():
                touched[call] = None
        return list(touched)

    def snapshot(self, engine: Engine) -> None:
        """Writes the engine's state and prunes what is not needed any more."""
        state = json.dumps(engine.snapshot(), ensure_ascii=False)
        with self.sessions.begin() as session:
            session.add(SnapshotRow(journal_id=self.last_id, at=engine.now, state=state))
            session.flush()
            kept = session.execute(
                select(SnapshotRow.id, SnapshotRow.journal_id).order_by(SnapshotRow.id.desc()).limit(KEPT_SNAPSHOTS)
            ).all()
            session.execute(delete(SnapshotRow).where(SnapshotRow.id < kept[-1].id))
            if len(kept) == KEPT_SNAPSHOTS:
                session.execute(delete(JournalRow).where(JournalRow.id <= kept[-1].journal_id))
        self.since_snapshot = 0

    def unconfirmed(self) -> list[tuple[str, str]]:
        """Settlements that the channel has not confirmed, oldest first."""
        with self.sessions() as session:
            rows = session.scalars(
                select(SettlementRow)
                .where(SettlementRow.outcome != "", SettlementRow.confirmed.is_(False))
                .order_by(SettlementRow.at)
            ).all()
            return [(row.redemption, row.outcome) for row in rows]

    def knows(self, redemption: str) -> bool:
        """Whether this redemption was written down before."""
        with self.sessions() as session:
            return session.get(SettlementRow, redemption) is not None

    def confirm(self, redemption: str, problem: str = "") -> None:
        with self.sessions.begin() as session:
            row = update(SettlementRow).where(SettlementRow.redemption == redemption)
            session.execute(row.values(confirmed=True, problem=problem))


_SETTLE = (
    update(SettlementRow)
    .where(SettlementRow.redemption == bindparam("r"), SettlementRow.outcome == "")
    .values(outcome=bindparam("o"), at=bindparam("t"))
)
_SETTLE_LINES = (
    update(LedgerRow)
    .where(LedgerRow.call == bindparam("r"), LedgerRow.verdict != "ignored")
    .values(outcome=bindparam("o"))
)


_HOOKS = text("select call from ledger where call like 'hook:%' group by call order by max(at) desc limit :most")
_WRITE = text("insert into journal (at, happening) values (:at, :happening)")
_REMEMBER = text(
    "insert into settlements (redemption, at, outcome, confirmed, problem) values (:redemption, :at, '', 0, '') "
    "on conflict do nothing"
)


def _ledger_line(happening: h.Happening | None, at: int, verdict: o.Verdict) -> dict[str, Any]:
    own = happening if getattr(happening, "id", None) == verdict.call else None
    if own is None and happening is not None and verdict.call.startswith(f"{happening.kind}-"):
        own = happening
    viewer = getattr(own, "viewer", None)
    kind = own.kind if own is not None else verdict.call.split("-")[0].split("/")[0]
    return {
        "at": at,
        "call": verdict.call,
        "kind": kind if not kind.isdigit() else "fire",
        "viewer": viewer.id if viewer else "",
        "viewer_name": viewer.name if viewer else "",
        "text": getattr(own, "text", ""),
        "reward": getattr(own, "reward", ""),
        "cost": getattr(own, "cost", None) or 0,
        "cue": verdict.cue or "",
        "verdict": verdict.verdict,
        "reason": verdict.reason or "",
        "detail": verdict.detail,
        "run": verdict.run or "",
        "outcome": "",
        "trace": [check._asdict() for check in verdict.trace],
    }


def _note_of(order: o.Order, at: int) -> dict[str, Any] | None:
    """What the ledger keeps of a run beside its verdict."""
    kinds = {o.Start: "start", o.Drop: "drop", o.Finish: "finish", o.Fail: "fail", o.Draw: "draw", o.Roll: "roll"}
    kind = kinds.get(type(order))
    if kind is None:
        return None
    fields = {name.rstrip("_"): value for name, value in order._asdict().items()}
    for left_out in ("look", "until", "call", "cue"):
        fields.pop(left_out, None)
    run, beat = fields.pop("run"), fields.get("beat", "")
    return {"run": run, "at": at, "what": kind, "beat": beat, "data": fields}
