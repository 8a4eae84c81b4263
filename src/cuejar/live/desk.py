"""The desk: what the live page is told. Whole small pictures of the state, at most twenty a second, and ledger lines as
they come or change."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.engine import Timed
from cuejar.core.traces import unpacked
from cuejar.core.view import held, lanes
from cuejar.live.drivers.overlay import topic
from cuejar.live.hub import Hub
from cuejar.live.show import Show
from cuejar.store.models import LedgerRow, NoteRow

TOPIC = "desk"
PAUSE_S = 0.05
ARRIVALS = 60


def ledger_json(session: Session, rows: Sequence[LedgerRow]) -> list[dict[str, Any]]:
    """Ledger lines as the API gives them, each with the notes on its run."""
    runs = [row.run for row in rows if row.run]
    notes: dict[str, list[dict[str, Any]]] = {}
    for note in session.scalars(select(NoteRow).where(NoteRow.run.in_(runs)).order_by(NoteRow.id)):
        notes.setdefault(note.run, []).append({"what": note.what, "at": note.at, **note.data})
    names = [column.name for column in LedgerRow.__table__.columns if column.name not in ("at", "wall", "trace")]
    return [
        {
            **{name: getattr(row, name) for name in names},
            "at": row.wall,
            "trace": unpacked(row.trace),
            "notes": notes.get(row.run, []),
        }
        for row in rows
    ]


class Desk:
    """Tells every open desk what is going on."""

    def __init__(self, hub: Hub, show: Show, sessions: sessionmaker[Session]) -> None:
        self._hub, self._show, self._sessions = hub, show, sessions
        self._stirred = asyncio.Event()
        self._calls: dict[str, None] = {}
        self.gear: Callable[[], list[dict[str, Any]]] = lambda: []
        self.jobs: Callable[[], list[dict[str, Any]]] = lambda: []

    def start(self) -> None:
        self._show.watch.keep("desk", self._tell)

    async def stop(self) -> None:
        await self._show.watch.stop("desk")

    def hear(self, timed: Sequence[Timed]) -> None:
        if timed:
            self._stirred.set()

    def changed(self) -> None:
        self._stirred.set()

    def ledger_changed(self, calls: list[str]) -> None:
        for call in calls:
            self._calls[call] = None
        self._stirred.set()

    async def _tell(self) -> None:
        while True:
            await self._stirred.wait()
            self._stirred.clear()
            calls, self._calls = list(self._calls), {}
            if self._hub.listeners(TOPIC):
                if calls:
                    self._hub.say(TOPIC, {"t": "ledger", "lines": self.lines(calls)})
                self._hub.say(TOPIC, self.state())
            await asyncio.sleep(PAUSE_S)

    def lines(self, calls: list[str]) -> list[dict[str, Any]]:
        with self._sessions() as session:
            rows = session.scalars(select(LedgerRow).where(LedgerRow.call.in_(calls)).order_by(LedgerRow.id)).all()
            return ledger_json(session, rows)

    def state(self) -> dict[str, Any]:
        """What is going on now. Times in ms since 1970."""
        engine = self._show.engine
        return {
            "t": "state",
            "now": self._show.clock.now(),
            "on_air": engine.on_air,
            "stream_from": engine.stream_from if engine.on_air else None,
            "category": engine.category,
            "open": engine.book.house.open,
            "held": [row._asdict() for row in held(engine)],
            "lanes": lanes(engine),
            "tries": [run.id for run in engine.runs.values() if run.tried],
            "reviews": [
                {
                    "redemption": call,
                    "reward": getattr(waiting, "reward", waiting.kind),
                    "viewer": waiting.viewer.name,
                    "text": waiting.text,
                }
                for call, waiting in engine.reviews.items()
            ],
            "gear": self.gear(),
            "overlays": [
                {
                    "id": overlay.id,
                    "name": overlay.name,
                    "pages": len(pages := self._hub.pages(topic(overlay.id))),
                    "lags": [page.about.get("lag_ms") for page in pages],
                }
                for overlay in engine.book.overlays
            ],
            "jobs": self.jobs(),
            "said": self._show.journal.said,
        }

    def whole(self) -> dict[str, Any]:
        """What a desk needs when it opens: the state and the latest arrivals."""
        with self._sessions() as session:
            rows = session.scalars(select(LedgerRow).order_by(LedgerRow.id.desc()).limit(ARRIVALS)).all()
            lines = ledger_json(session, rows[::-1])
        return {"t": "whole", "state": self.state(), "lines": lines}
