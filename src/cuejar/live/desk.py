"""The desk: the messages for the live page. Parts of the state as they change, at most twenty times a second, and
ledger lines as they come or change.

A message stays small (`MOST_BYTES`) however much is going on: the first of a line are named and all are counted, a
long text is cut. A desk that opens gets ``whole``, every part, the latest arrivals, and ``ready``.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterator, Sequence
from itertools import islice
from typing import Any, NamedTuple

from sqlalchemy import select
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import OverlayEntry
from cuejar.core.engine.night import Timed
from cuejar.core.engine.rows import LaneState
from cuejar.core.engine.view import View
from cuejar.core.rules.traces import unpacked
from cuejar.core.words.verdicts import verdict_said
from cuejar.live.drivers.overlay import topic
from cuejar.live.hub import Hub
from cuejar.live.messages import (
    CheckTold,
    DeskLedger,
    DeskPart,
    DeskReady,
    DeskWhole,
    GearPart,
    GearRow,
    HeldPart,
    JobRow,
    JobsPart,
    LanePart,
    LanesPart,
    LedgerLine,
    Message,
    NextTimer,
    OverlayRow,
    OverlaysPart,
    PadsDesk,
    PadsPart,
    PageTold,
    QuietTold,
    ReviewRow,
    Reviews,
    ReviewsPart,
    ShowPart,
    ShowState,
    TaskRow,
    Timing,
    TimingPart,
    TriesPart,
    TroubleRow,
    Wrong,
    WrongPart,
)
from cuejar.live.runner import Runner
from cuejar.store.models import LedgerRow, NoteRow

TOPIC = "desk"
PAUSE_S = 0.05
ARRIVALS = 60
MOST_BYTES = 64_000
MOST_NAMED = 50
"""How many waiting runs, holds or reviews are listed."""
MOST_TEXT = 120
LINES_A_MESSAGE = 15
ORDER = ("start", "draw", "roll", "fail", "won", "drop", "finish")
"""The order of a run's notes of the same instant."""


def ledger_lines(session: Session, rows: Sequence[LedgerRow]) -> list[LedgerLine]:
    """Returns ledger lines for the API, each with the notes on its run."""
    runs = [row.run for row in rows if row.run]
    notes: dict[str, list[dict[str, Any]]] = {}
    found = session.scalars(select(NoteRow).where(NoteRow.run.in_(runs))).all()
    for note in sorted(found, key=lambda note: (note.at, ORDER.index(note.what))):
        notes.setdefault(note.run, []).append({"what": note.what, "at": note.at, **_short(note.data)})
    names = [column.name for column in LedgerRow.__table__.columns if column.name not in ("at", "wall", "trace")]
    return [
        LedgerLine(
            **{name: getattr(row, name) for name in names},
            at=row.wall,
            trace=[CheckTold(**check) for check in unpacked(row.trace)],
            notes=notes.get(row.run, []),
            said=verdict_said(
                row.verdict,
                row.reason,
                row.detail,
                row.cost if row.outcome == "refunded" else 0,
                notes.get(row.run, []),
            ),
        )
        for row in rows
    ]


def _short(note: dict[str, Any]) -> dict[str, Any]:
    """Returns a note with the number of those who were in a large draw, not with all of them."""
    weights = note.get("weights", ())
    return note if len(weights) <= MOST_NAMED else {**note, "weights": [], "among": len(weights)}


def lanes_told(view: View, most: int) -> list[LaneState]:
    """Returns every lane with the first ``most`` of its runs, their texts cut."""
    rows = [view.lane(lane, most) for lane in view.lanes]
    for row in rows:
        for run in (*row.running, *row.waiting):
            run.text = _cut(run.text)
    return rows


def _cut(text: str) -> str:
    return text if len(text) <= MOST_TEXT else text[: MOST_TEXT - 1] + "…"


class Around(NamedTuple):
    """What the desk shows beside the show itself: each is asked when it is needed.

    Attributes:
        day_timers: which cues the wall clock calls next, and when (ms since 1970).
        beyond: the address at which other computers find the overlays.
        listens: whether a microphone is open.
        is_shown_beside: whether a device with pads shows arrivals, too.
        arrived: is told the new lines of the ledger.
    """

    gear: Callable[[], list[dict[str, Any]]] = list
    jobs: Callable[[], list[dict[str, Any]]] = list
    owed: Callable[[], dict[str, int]] = dict
    day_timers: Callable[[], list[tuple[int, str]]] = list
    beyond: Callable[[], str] = str
    pads: Callable[[], PadsDesk] = lambda: PadsDesk(rows=[], devices=[])
    listens: Callable[[], bool] = lambda: False
    is_shown_beside: Callable[[], bool] = lambda: False
    arrived: Callable[[list[LedgerLine]], None] = lambda lines: None


class Desk:
    """Tells every open desk what is going on."""

    def __init__(self, hub: Hub, runner: Runner, sessions: sessionmaker[Session], around: Around | None = None) -> None:
        self._hub, self._runner, self._sessions = hub, runner, sessions
        self._around = around or Around()
        self._stirred = asyncio.Event()
        self._calls: dict[str, None] = {}
        self._said: dict[str, str] = {}

    def start(self) -> None:
        self._runner.watch.keep("desk", self._tell)

    async def stop(self) -> None:
        await self._runner.watch.stop("desk")

    def hear(self, timed: Sequence[Timed]) -> None:
        if timed:
            self._stirred.set()

    def changed(self) -> None:
        self._stirred.set()

    def ledger_changed(self, calls: list[str]) -> None:
        """Sends changed lines; of very many at once only the last, as a desk shows no more."""
        for call in calls[-ARRIVALS:]:
            self._calls.pop(call, None)
            self._calls[call] = None
        while len(self._calls) > ARRIVALS:
            del self._calls[next(iter(self._calls))]
        self._stirred.set()

    async def _tell(self) -> None:
        while True:
            await self._stirred.wait()
            self._stirred.clear()
            calls, self._calls = list(self._calls), {}
            listens = self._hub.listeners(TOPIC)
            if calls and (listens or self._around.is_shown_beside()):
                lines = await asyncio.to_thread(self._lines, calls)
                self._around.arrived(lines)
                for message in _in_parts(lines):
                    self._hub.say(TOPIC, message)
            if listens:
                for part in self.parts():
                    name = f"lane/{part.value.id}" if isinstance(part, LanePart) else part.of
                    text = part.model_dump_json(exclude={"now"})
                    if self._said.get(name) != text:
                        self._said[name] = text
                        self._hub.say(TOPIC, part)
            else:
                self._said.clear()
            await asyncio.sleep(PAUSE_S)

    def _lines(self, calls: list[str]) -> list[LedgerLine]:
        with self._sessions() as session:
            query = select(LedgerRow).where(LedgerRow.call.in_(calls)).order_by(LedgerRow.id.desc()).limit(2 * ARRIVALS)
            return ledger_lines(session, session.scalars(query).all()[::-1])

    def parts(self) -> Iterator[DeskPart]:
        """Returns the current state, part by part."""
        runner, view = self._runner, self._runner.view
        now = runner.clock.now()
        show = ShowState(
            on_air=view.on_air,
            stream_from=view.on_air_from,
            category=view.category,
            open=view.book.house.open,
            said=[_cut_long(line) for line in runner.journal.said[-10:]],
            owed=self._around.owed(),
            listens=self._around.listens(),
        )
        yield ShowPart(now=now, of="show", value=show)
        yield HeldPart(now=now, of="held", value=view.held()[:MOST_NAMED])
        for row in lanes_told(view, MOST_NAMED):
            yield LanePart(now=now, of="lane", value=row)
        yield LanesPart(now=now, of="lanes", value=view.lanes)
        yield TimingPart(now=now, of="timing", value=self._timing())
        tries = [run.id for run in view.runs if run.tried and run.started_at is not None]
        yield TriesPart(now=now, of="tries", value=tries[:MOST_NAMED])
        titles = {reward.id: reward.title for reward in view.book.rewards}
        first = [
            ReviewRow(
                redemption=call,
                reward=titles.get(getattr(waiting, "reward", ""), waiting.kind),
                viewer=waiting.viewer.name if waiting.viewer is not None else "",
                viewer_id=waiting.viewer.id if waiting.viewer is not None else "",
                text=waiting.text[:500],
            )
            for call, waiting in islice(view.reviews.items(), MOST_NAMED)
        ]
        yield ReviewsPart(now=now, of="reviews", value=Reviews(count=len(view.reviews), first=first))
        yield GearPart(now=now, of="gear", value=[GearRow(**row) for row in self._around.gear()])
        yield OverlaysPart(now=now, of="overlays", value=[self._overlay(overlay) for overlay in view.book.overlays])
        yield JobsPart(now=now, of="jobs", value=[JobRow(**row) for row in self._around.jobs()])
        yield PadsPart(now=now, of="pads", value=self._around.pads())
        fallen = [row for row in runner.watch.rows() if row.state == "away"][:MOST_NAMED]
        wrong = Wrong(
            troubles=[TroubleRow(**trouble._asdict()) for trouble in runner.troubles.rows()],
            tasks=[TaskRow(**row._asdict()) for row in fallen],
        )
        yield WrongPart(now=now, of="wrong", value=wrong)

    def _timing(self) -> Timing:
        view, clock = self._runner.view, self._runner.clock
        quiet = QuietTold(share=view.quiet[0], until=view.quiet[1]) if view.quiet is not None else None
        ahead = clock.wall(0)
        coming = (
            sorted([*view.timers(), *((at - ahead, cue) for at, cue in self._around.day_timers())])
            if view.on_air
            else []
        )
        return Timing(quiet=quiet, timers=[NextTimer(at=at, cue=cue) for at, cue in coming[:MOST_NAMED]])

    def _overlay(self, overlay: OverlayEntry) -> OverlayRow:
        pages = self._hub.pages(topic(overlay.id))
        told = [PageTold(**{k: v for k, v in page.about.items() if k in PageTold.model_fields}) for page in pages[:10]]
        lags = [page.lag_ms for page in told]
        return OverlayRow(
            id=overlay.id, name=overlay.name, pages=len(pages), lags=lags, told=told, beyond=self._around.beyond()
        )

    def whole(self, version: int) -> Iterator[Message]:
        """Yields what a desk needs when it opens: every part of the state and the latest arrivals."""
        yield DeskWhole(now=self._runner.clock.now(), version=version)
        yield from self.parts()
        yield from _in_parts(self.latest(ARRIVALS))
        yield DeskReady()

    def latest(self, most: int) -> list[LedgerLine]:
        """Returns the latest ledger lines, oldest first."""
        with self._sessions() as session:
            rows = session.scalars(select(LedgerRow).order_by(LedgerRow.id.desc()).limit(most)).all()
            return ledger_lines(session, rows[::-1])


def _cut_long(line: str) -> str:
    return line if len(line) <= 500 else line[:499] + "…"


def _in_parts(lines: list[LedgerLine]) -> Iterator[DeskLedger]:
    for i in range(0, len(lines), LINES_A_MESSAGE):
        some = [line.model_copy(update={"text": line.text[:500]}) for line in lines[i : i + LINES_A_MESSAGE]]
        yield DeskLedger(lines=some)
