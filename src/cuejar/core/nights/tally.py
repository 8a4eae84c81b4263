"""The totals of a night: who was let in and who wasn't, how long they waited, what it cost, what was seen, heard, felt
and held.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from statistics import median, quantiles
from typing import Any, NamedTuple

from cuejar.core.book.book import Book
from cuejar.core.engine.stage import GEAR_AWAY, GEAR_WAS_AWAY
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import GearState, Hand, Happening, MediaFacts, PropertyValue, Redemption
from cuejar.core.facts.paths import SCENE, SOURCES, is_pause, read_path
from cuejar.core.kinds.table import KINDS
from cuejar.core.nights.noticed import Notice
from cuejar.core.parts.base import JsonObject

NOBODY = ("", "")
FEW = 3
"""Only viewers with at least this many calls count for who got in most and least."""


class Wait(NamedTuple):
    """How long runs waited, in s."""

    runs: int
    median_s: float
    p95_s: float
    longest_s: float


@dataclass
class Result:
    """The totals of a night. Times are s, shares from 0 to 1 of its length, counts and points whole numbers.

    Attributes:
        spared_by_pauses: refunds for a paused reward: at a channel that pauses, nobody could have redeemed it.
        at_rest: whether nothing was in progress when all was over.
    """

    length_s: float = 0
    calls: int = 0
    redemptions: int = 0
    let_in: int = 0
    turned_away: dict[str, int] = field(default_factory=dict)
    dropped: int = 0
    points_spent: int = 0
    points_refunded: int = 0
    refunds: int = 0
    waits_by_lane: dict[str, Wait] = field(default_factory=dict)
    waits_by_cue: dict[str, Wait] = field(default_factory=dict)
    wait_median_s: float = 0
    wait_p95_s: float = 0
    wait_longest_s: float = 0
    seen: float = 0
    heard: float = 0
    felt: float = 0
    held: float = 0
    most_at_once: int = 0
    most_sounds: int = 0
    longest_quiet_s: float = 0
    longest_quiet_at_s: float = 0
    luckiest: str = ""
    luckiest_share: float = 0
    unluckiest: str = ""
    unluckiest_share: float = 0
    minutes_paid: float = 0
    calls_by_reward: dict[str, int] = field(default_factory=dict)
    refunds_by_reward: dict[str, int] = field(default_factory=dict)
    full_by_lane: dict[str, int] = field(default_factory=dict)
    air_by_viewer: dict[str, float] = field(default_factory=dict)
    air_s: float = 0
    air_viewers: int = 0
    refund_reasons: dict[str, dict[str, int]] = field(default_factory=dict)
    away_by_gear: dict[str, float] = field(default_factory=dict)
    runs_by_cue: dict[str, int] = field(default_factory=dict)
    let_in_by_cue: dict[str, int] = field(default_factory=dict)
    flashes_softened: int = 0
    haptics_limited: int = 0
    sounds_over_others: int = 0
    unseen_by_cue: dict[str, int] = field(default_factory=dict)
    spared_by_pauses: int = 0
    at_rest: bool = True

    def json(self) -> JsonObject:
        return asdict(self) | {
            name: {key: wait._asdict() for key, wait in getattr(self, name).items()}
            for name in ("waits_by_lane", "waits_by_cue")
        }


class Tally:
    """Takes the happenings and orders of a night; `result` adds them up."""

    def __init__(
        self,
        book: Book,
        begin: int = 0,
        media: Mapping[str, MediaFacts] | None = None,
        scene: PropertyValue = None,
        figures: dict[str, set[str]] | None = None,
    ) -> None:
        """Args:
        begin: the instant at which the night begins (ms); all times count from there.
        media: what is known of files.
        scene: the first scene, if known.
        figures: collects the figures of each run, apart from those of every call.
        """
        self._figures = figures
        self._book, self._begin = book, begin
        self._flashing = {name for name, facts in (media or {}).items() if facts.flashes}
        self.flashes = self.felt = self.loud = 0
        self.unseen: Counter[str] = Counter()
        self._scene, self._off_scene = scene, dict[tuple[str, str, str], str]()
        self._unseen_runs: set[str] = set()
        self._lost: dict[str, int] = {}
        self.away: Counter[str] = Counter()
        self._why: dict[str, str] = {}
        """Why each call failed, if known."""
        self.refund_reasons: dict[str, Counter[str]] = {}
        self._lane_of = {cue.id: book.lane_of(cue) for cue in book.cues}
        self._paid: dict[str, int] = {}
        self.notice = Notice(begin)
        self.reasons: Counter[str] = Counter()
        self.full: Counter[str] = Counter()
        self._called: set[str] = set()
        self.redemptions = self.let_in = self.dropped = self.most = self.sounds = 0
        self.spent = self.refunded = self.refunds = 0
        self.by_reward: Counter[str] = Counter()
        self.refunds_of: Counter[str] = Counter()
        self.let_in_by: Counter[str] = Counter()
        self.runs_by: Counter[str] = Counter()
        self._paused: set[str] = set()
        self._in_vain: set[str] = set()
        self.spared, self.at_rest = 0, True
        self._end: int | None = None
        self._takes: dict[type, Callable[[int, Any], None]] = {
            o.Show: self._shown,
            o.Roll: self._noticed,
            o.Hide: self._noticed,
            o.Hold: self._hold,
            o.Let: self._let,
            o.Set: self._set,
            o.AskReview: self._asked_for,
            o.Fail: self._failed,
            o.Verdict: self._verdict,
            o.Start: self._started,
            o.Finish: self._finished,
            o.Settle: self._settled,
            o.Drop: self._dropped,
        }
        self._at_most: list[str] = []
        self._cue_of: dict[str, str] = {}
        self._call_of: dict[str, str] = {}
        self._came: dict[str, int] = {}
        self._who: dict[str, tuple[str, str]] = {}
        self._asked: Counter[str] = Counter()
        self._got: Counter[str] = Counter()
        self._runs: dict[str, tuple[str, str, int]] = {}
        self._air: Counter[str] = Counter()
        self._lanes: dict[str, list[int]] = {}
        self._cues: dict[str, list[int]] = {}

    def note(self, at: int, happening: Happening) -> None:
        """A happening is about to be handled."""
        if isinstance(happening, Redemption):
            self.redemptions += 1
            self.by_reward[happening.reward] += 1
            self._who[happening.id] = (happening.viewer.name, happening.reward)
        elif (call := getattr(happening, "id", None)) is not None and (who := getattr(happening, "viewer", None)):
            self._who[call] = (who.name, "")
        elif isinstance(happening, Hand) and happening.path == SCENE:
            self._on_scene(happening.value)
        elif isinstance(happening, GearState):
            if happening.state == "lost":
                self._lost.setdefault(happening.gear, at)
            else:
                self.away[happening.gear] += at - self._lost.pop(happening.gear, at)

    def add(self, at: int, order: o.Order) -> None:
        take = self._takes.get(type(order))
        if take is not None:
            take(at, order)

    def _started(self, at: int, order: o.Start) -> None:
        who = self._who.get(order.call, NOBODY)[0]
        self._runs[order.run] = (order.cue, who, at)
        self.runs_by[order.cue] += 1
        if len(self._runs) > self.most:
            self.most = len(self._runs)
            self._at_most = list(self._runs) if self._figures is not None else []
        waited = at - self._came.pop(order.run, at)
        self._lanes.setdefault(self._lane_of.get(order.cue, ""), []).append(waited)
        self._cues.setdefault(order.cue, []).append(waited)

    def _finished(self, at: int, order: o.Finish) -> None:
        _, who, since = self._runs.pop(order.run, ("", "", at))
        if who:
            self._air[who] += at - since

    def _dropped(self, at: int, order: o.Drop) -> None:
        self.dropped += 1
        self._why[self._call_of.get(order.run, "")] = order.as_
        self._came.pop(order.run, None)

    def _set(self, at: int, order: o.Set) -> None:
        if order.path == SCENE:
            self._on_scene(order.value)
        elif is_pause(order.path):
            (self._paused.add if order.value else self._paused.discard)(read_path(order.path).steps[0])

    def _noticed(self, at: int, order: o.Order) -> None:
        for sense in self.notice.add(at, order):
            self._part(getattr(order, "run", None), sense, True)

    def _hold(self, at: int, order: o.Hold) -> None:
        self._noticed(at, order)
        if order.path.startswith(SOURCES):
            scene = read_path(order.path).steps[1]
            if self._scene is not None and self._scene != scene:
                self._off_scene[order.run, order.beat, order.path] = scene

    def _let(self, at: int, order: o.Let) -> None:
        self._noticed(at, order)
        if self._off_scene.pop((order.run, order.beat, order.path), None) is not None:
            self._was_unseen(order.run)

    def _was_unseen(self, run: str) -> None:
        """Returns whether a run only changed a source while its scene wasn't on, so that nobody saw it."""
        if run not in self._unseen_runs:
            self._unseen_runs.add(run)
            self.unseen[self._runs[run][0] if run in self._runs else self._cue_of.get(run, "")] += 1

    def _asked_for(self, at: int, order: o.AskReview) -> None:
        self._paid[order.redemption] = order.cost

    def _failed(self, at: int, order: o.Fail) -> None:
        self._why[self._call_of.get(order.run, "")] = (
            "gear_away" if order.why in (GEAR_AWAY, GEAR_WAS_AWAY) else "failed"
        )

    def _verdict(self, at: int, order: o.Verdict) -> None:
        if order.verdict == "ignored":
            return
        self._called.add(order.call)
        if order.run is not None:
            self._cue_of[order.run] = order.cue or ""
            self._call_of[order.run] = order.call
        if order.call in self._who and self._who[order.call][1]:
            self._paid[order.call] = order.cost
            if self._who[order.call][1] in self._paused:
                self._in_vain.add(order.call)
        who = self._who.get(order.call, NOBODY)[0]
        self._asked[who] += 1
        if order.verdict == "turned_away":
            self.reasons[order.reason or ""] += 1
            self._why[order.call] = order.reason or ""
            if order.reason == "lane_full":
                self.full[self._lane_of.get(order.cue or "", "")] += 1
            return
        self.let_in += 1
        self._got[who] += 1
        self.let_in_by[order.cue or ""] += 1
        if order.run is not None:
            self._came[order.run] = at

    def _part(self, run: str | None, figure: str, is_part: bool) -> None:
        if is_part and run is not None and self._figures is not None:
            self._figures.setdefault(run, set()).add(figure)

    def _shown(self, at: int, order: o.Show) -> None:
        house = self._book.house
        self._noticed(at, order)
        if KINDS[order.kind].is_heard:
            there = sum(len(key) == 2 for key in self.notice.spells["heard"].there)  # A held voice doesn't count.
            self.sounds = max(self.sounds, there)
            self.loud += there > 1
            self._part(order.run, "sounds_over_others", there > 1)
        if self._flashing and house.flash_guard:
            values = order.value if isinstance(order.value, list) else [order.value]
            flashes = any(isinstance(one, str) and one in self._flashing for one in values)
            self.flashes += flashes
            self._part(order.run, "flashes_softened", flashes)
        kind = KINDS[order.kind]
        if "felt" in kind.noticed:
            limited = kind.limited(order.look, order.until - at if order.until is not None else None, house)
            self.felt += limited
            self._part(order.run, "haptics_limited", limited)

    def _on_scene(self, scene: PropertyValue) -> None:
        self._scene = scene
        self._off_scene = {key: wanted for key, wanted in self._off_scene.items() if wanted != scene}

    def _settled(self, at: int, order: o.Settle) -> None:
        reward = self._who.get(order.redemption, NOBODY)[1]
        cost = self._paid.pop(order.redemption, 0)
        if order.as_ == "fulfilled":
            self.spent += cost
        else:
            self.refunds += 1
            self.refunded += cost
            self.spared += order.redemption in self._in_vain
            why = self._why.pop(order.redemption, "by_hand")
            self.refund_reasons.setdefault(reward, Counter())[why] += 1
            self.refunds_of[reward] += 1

    def over(self, at: int) -> None:
        """Ends the night: whatever is still up or waiting ends, without counting as seen or heard."""
        self.notice.end(at)
        for gear, since in self._lost.items():
            self.away[gear] += at - since
        for run, _, _ in self._off_scene:
            self._was_unseen(run)
        for run in self._at_most:
            self._part(run, "most_at_once", True)
        self._end = at
        for kind in (o.Show, o.Roll, o.Hide, o.Hold, o.Let, o.Set):
            del self._takes[kind]

    def result(self) -> Result:
        """Returns the totals of the night up to its end."""
        end = (self._end or self._begin) - self._begin
        every = [wait for waits in self._lanes.values() for wait in waits]
        whole = _wait(every) if every else Wait(0, 0, 0, 0)
        shares = {who: self._got[who] / count for who, count in self._asked.items() if who and count >= FEW}
        order = sorted(shares, key=lambda who: (shares[who], who))
        per_min = self._book.house.points_per_min
        spells, quiet = self.notice.spells, self.notice.spells["seen"].longest_quiet
        return Result(
            length_s=end / 1000,
            calls=len(self._called),
            redemptions=self.redemptions,
            let_in=self.let_in,
            turned_away=dict(self.reasons.most_common()),
            dropped=self.dropped,
            points_spent=self.spent,
            points_refunded=self.refunded,
            refunds=self.refunds,
            waits_by_lane={lane: _wait(waits) for lane, waits in sorted(self._lanes.items())},
            waits_by_cue={cue: _wait(waits) for cue, waits in sorted(self._cues.items())},
            wait_median_s=whole.median_s,
            wait_p95_s=whole.p95_s,
            wait_longest_s=whole.longest_s,
            seen=_share(spells["seen"].total, end),
            heard=_share(spells["heard"].total, end),
            felt=_share(spells["felt"].total, end),
            held=_share(spells["held"].total, end),
            most_at_once=self.most,
            most_sounds=self.sounds,
            longest_quiet_s=(quiet[1] - quiet[0]) / 1000,
            longest_quiet_at_s=(quiet[0] - self._begin) / 1000 if quiet[1] else 0,
            luckiest=order[-1] if order else "",
            luckiest_share=round(shares[order[-1]], 3) if order else 0,
            unluckiest=order[0] if order else "",
            unluckiest_share=round(shares[order[0]], 3) if order else 0,
            minutes_paid=round(self.spent / per_min, 1),
            calls_by_reward=dict(self.by_reward),
            refunds_by_reward=dict(self.refunds_of),
            full_by_lane=dict(self.full),
            air_by_viewer={who: air / 1000 for who, air in self._air.most_common(10)},
            air_s=self._air.total() / 1000,
            air_viewers=len(self._air),
            refund_reasons={reward: dict(why.most_common()) for reward, why in self.refund_reasons.items()},
            away_by_gear={gear: away / 1000 for gear, away in self.away.items() if away},
            runs_by_cue=dict(self.runs_by),
            let_in_by_cue=dict(self.let_in_by),
            flashes_softened=self.flashes,
            haptics_limited=self.felt,
            sounds_over_others=self.loud,
            unseen_by_cue=dict(self.unseen),
            spared_by_pauses=self.spared,
            at_rest=self.at_rest,
        )


def _share(part: int, whole: int) -> float:
    return round(part / whole, 4) if whole else 0.0


def _wait(values: Sequence[int]) -> Wait:
    late = quantiles(values, n=20, method="inclusive")[18] if len(values) > 1 else values[0]
    return Wait(len(values), median(values) / 1000, round(late / 1000, 3), max(values) / 1000)
