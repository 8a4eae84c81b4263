"""A night as a timeline: lanes with their runs, who waited and who was turned away, what was held, what was seen and
heard.

All instants are ms from the beginning of the night. A run already in progress begins before it.
"""

from __future__ import annotations

from collections.abc import Mapping, Set

from pydantic import BaseModel, ConfigDict

from cuejar.core.book.book import Book
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import Happening, PropertyValue
from cuejar.core.facts.paths import OTHERS, Family, read_path
from cuejar.core.kinds.table import KINDS
from cuejar.core.nights.noticed import Notice
from cuejar.core.words.properties import property_said, value_said

MOST = 20_000
"""The maximum number of listed runs, and of refused calls; more are only counted."""
MOST_TEXT = 300
QUIET_MS = 60_000
"""The length from which a stretch without anything visible counts as quiet."""


class _Row(BaseModel):
    model_config = ConfigDict(extra="forbid")


class RunRow(_Row):
    """A run: when it was let in, began and ended (None: never, within the night), what became of it (``as_``: finished,
    dropped, …) and of its redemption (``outcome``), and its row in the lane, chosen so that no two overlap. ``kind``:
    what called it; ``figures``: the report's figures that it belongs to, apart from those of every call.
    """

    run: str
    cue: str
    name: str
    lane: str
    viewer: str
    text: str
    call: str
    cost: int
    came: int
    start: int | None
    end: int | None
    as_: str
    outcome: str
    row: int
    kind: str
    figures: list[str]


class TurnedRow(_Row):
    """A call without a run of its own: no cue let it in, for a reason, or it extended the run ``run``."""

    run: str
    kind: str
    at: int
    call: str
    cue: str
    viewer: str
    text: str
    reason: str
    detail: str
    cost: int
    outcome: str


class SpanRow(_Row):
    """A state that lasted for a while: a property held (``what`` is its path), or a kind of output shown."""

    what: str
    value: PropertyValue
    run: str
    begin: int
    end: int


class MarkRow(_Row):
    """An event beside the calls: a raid, a change by hand, gear lost and back, the beginning and end of the stream."""

    at: int
    what: str
    words: str


class LaneRow(_Row):
    id: str
    name: str
    rows: int


class Timeline(_Row):
    """``quiet``: pairs of begin and end; ``left_out``: how many further runs and calls there were."""

    length: int
    lanes: list[LaneRow]
    runs: list[RunRow]
    turned: list[TurnedRow]
    extended: list[TurnedRow]
    held: list[SpanRow]
    shown: list[SpanRow]
    quiet: list[tuple[int, int]]
    marks: list[MarkRow]
    left_out: int


class _Call:
    __slots__ = ("kind", "text", "viewer")

    def __init__(self, viewer: str, text: str, kind: str) -> None:
        self.viewer, self.text, self.kind = viewer, text, kind


_NOBODY = _Call("", "", "")


class Drawing:
    """Listens to a night and draws its `timeline`; ``shows`` are the orders for an overlay's page, with their instants."""

    def __init__(self, book: Book, begin: int = 0) -> None:
        self._book, self._begin = book, begin
        self._names = {cue.id: cue.name for cue in book.cues}
        self._lanes = {cue.id: book.lane_of(cue) for cue in book.cues}
        self._notice = Notice()
        self._calls: dict[str, _Call] = {}
        self.runs: dict[str, RunRow] = {}
        self.turned: list[TurnedRow] = []
        self.extended: list[TurnedRow] = []
        self._by_call: dict[str, list[RunRow | TurnedRow]] = {}
        self._up: dict[tuple[str, str], SpanRow] = {}
        self._held: dict[str, SpanRow] = {}
        self.held: list[SpanRow] = []
        self.shown: list[SpanRow] = []
        self.marks: list[MarkRow] = []
        self.shows: list[Timed] = []
        self.left_out = 0
        self._last = begin
        self._ended = False

    # Input

    def note(self, at: int, happening: Happening) -> None:
        call, viewer = getattr(happening, "id", None), getattr(happening, "viewer", None)
        if call is not None and viewer is not None:
            text = str(getattr(happening, "text", "") or "")[:MOST_TEXT]
            self._calls[call] = _Call(viewer.name or viewer.id, text, happening.kind)
        words = _words(happening)
        if words is not None:
            self.marks.append(MarkRow(at=at - self._begin, what=happening.kind, words=words))

    def add(self, at: int, order: o.Order) -> None:
        at -= self._begin
        if not self._ended:
            self._notice.add(at, _moved(order, self._begin) if isinstance(order, o.Roll) else order)
        if isinstance(order, o.Verdict):
            self._verdict(at, order)
        elif isinstance(order, o.Start):
            row = self.runs.get(order.run)
            if row is None:
                row = self._run(order.run, order.cue, order.call, at)
            if row is not None:
                row.start = at
        elif isinstance(order, (o.Finish, o.Drop)):
            row = self.runs.get(order.run)
            if row is not None:
                row.end, row.as_ = at, order.as_ if isinstance(order, o.Finish) else f"dropped: {order.as_}"
        elif isinstance(order, o.Settle):
            for line in self._by_call.get(order.redemption, ()):
                line.outcome = order.as_
        elif isinstance(order, (o.Show, o.Roll)):
            self.shows.append((at, _moved(order, self._begin)))
            self._comes(at, order)
        elif isinstance(order, o.Hide):
            self.shows.append((at, order))
            span = self._up.pop((order.run, order.beat), None)
            if span is not None:
                span.end = at
        elif isinstance(order, o.Set):
            self._set(at, order)

    def over(self, at: int) -> None:
        self._last, self._ended = at, True
        self._notice.end(at - self._begin)

    def _verdict(self, at: int, order: o.Verdict) -> None:
        if order.verdict == "ignored":
            return
        if order.verdict in ("turned_away", "extended"):
            if len(self.turned) + len(self.extended) >= MOST:
                self.left_out += 1
                return
            who = self._calls.get(order.call, _NOBODY)
            row = TurnedRow(
                at=at, call=order.call, cue=order.cue or "", viewer=who.viewer, text=who.text,
                reason=order.reason or "", detail=order.detail, cost=order.cost, outcome="", kind=who.kind,
                run=order.run or "",
            )  # fmt: skip
            (self.extended if order.verdict == "extended" else self.turned).append(row)
            self._by_call.setdefault(order.call, []).append(row)
        elif order.run is not None and order.run not in self.runs:
            self._run(order.run, order.cue or "", order.call, at, order.cost)

    def _run(self, run: str, cue: str, call: str, at: int, cost: int = 0) -> RunRow | None:
        if len(self.runs) >= MOST:
            self.left_out += 1
            return None
        who = self._calls.get(call, _NOBODY)
        row = RunRow(
            run=run, cue=cue, name=self._names.get(cue, cue), lane=self._lanes.get(cue, ""), viewer=who.viewer,
            text=who.text, call=call, cost=cost, came=at,
            start=None, end=None, as_="", outcome="", row=0, kind=who.kind, figures=[],
        )  # fmt: skip
        self.runs[run] = row
        self._by_call.setdefault(call, []).append(row)
        return row

    def _comes(self, at: int, order: o.Show | o.Roll) -> None:
        kind = order.kind if isinstance(order, o.Show) else "chance"
        what = KINDS[kind].output if kind in KINDS else kind
        span = SpanRow(what=what, value=None, run=order.run, begin=at, end=at)
        if isinstance(order, o.Roll) and order.until is not None:
            # Nobody takes a roll down: it goes at its end.
            span.end = order.until - self._begin
            self.shows.append((span.end, o.Hide(order.run, order.beat)))
        else:
            self._up[order.run, order.beat] = span
        if len(self.shown) < MOST:
            self.shown.append(span)

    def _set(self, at: int, order: o.Set) -> None:
        if order.path == OTHERS:
            self.shows.append((at, order))
        if read_path(order.path).known in (Family.REWARD, Family.SOUND):
            return
        held = self._held.pop(order.path, None)
        if held is not None:
            held.end = at
        if order.run is not None:
            span = SpanRow(what=order.path, value=order.value, run=order.run, begin=at, end=at)
            self._held[order.path] = span
            if len(self.held) < MOST:
                self.held.append(span)

    # Output

    def timeline(self, figures: Mapping[str, Set[str]]) -> Timeline:
        """Returns the finished night; ``figures``: the figures of each run (`Tally`)."""
        length = self._last - self._begin
        self.shows.sort(key=lambda timed: timed[0])
        for span in (*self._up.values(), *self._held.values()):
            span.end = length
        runs = sorted(self.runs.values(), key=lambda row: (row.start if row.start is not None else row.came, row.came))
        for row in runs:
            row.figures = sorted(figures.get(row.run, ()))
        lanes = self._laid(runs, length)
        return Timeline(
            length=length, lanes=lanes, runs=runs, turned=self.turned, extended=self.extended, held=self.held, shown=self.shown,
            quiet=list(self._notice.quiets(QUIET_MS)), marks=self.marks, left_out=self.left_out,
        )  # fmt: skip

    def _laid(self, runs: list[RunRow], length: int) -> list[LaneRow]:
        """Puts each run on the first free row of its lane."""
        free: dict[str, list[int]] = {}
        for run in runs:
            if run.start is None:
                continue
            rows = free.setdefault(run.lane, [])
            end = run.end if run.end is not None else length
            run.row = next((i for i, until in enumerate(rows) if until <= run.start), len(rows))
            if run.row == len(rows):
                rows.append(end)
            else:
                rows[run.row] = end
        used = [LaneRow(id=lane.id, name=lane.name, rows=len(free.get(lane.id, []))) for lane in self._book.all_lanes]
        return [lane for lane in used if lane.rows or any(run.lane == lane.id for run in runs)]


def _moved(order: o.Show | o.Roll, begin: int) -> o.Show | o.Roll:
    """Returns the order with its instants from the beginning of the night."""
    until = order.until - begin if order.until is not None else None
    if isinstance(order, o.Show):
        return order._replace(at=order.at - begin, until=until)
    return order._replace(until=until)


def _words(happening: Happening) -> str | None:
    """Returns the words of a mark; None if it isn't one."""
    if isinstance(happening, h.Stream):
        return "On air" if happening.state == "live" else "The stream ended"
    if isinstance(happening, h.Raid):
        return f"A raid of {happening.party}"
    if isinstance(happening, h.Hand):
        return f"By hand: {property_said(happening.path)} {value_said(happening.value)}"
    if isinstance(happening, h.GearState):
        return f"{happening.gear} {'disconnected' if happening.state == 'lost' else 'is back'}"
    if isinstance(happening, h.AllToRest):
        return "All to rest"
    if isinstance(happening, h.NewBook):
        return "The book was changed"
    return None
