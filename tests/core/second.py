"""A second reading of a night: every figure of its report from the plain list of happenings and orders, by hand.

It shares no code with the report. Everything is kept as it came and searched from the beginning for each figure.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from typing import Any

import numpy as np

from cuejar.core.book.book import Book
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o

SEEN = {"picture", "clip", "caption", "burst", "throw", "chance", "scene", "source", "filter", "light", "avatar", "set"}
HEARD = {"sound", "clip", "speech", "voice"}
FELT = {"haptics"}
HELD = {"scene", "source", "filter", "light", "avatar", "set", "voice", "keys"}


class Log:
    """Everything in order: happenings and orders, each with its instant; ``ended`` is the end of the night itself."""

    def __init__(self) -> None:
        self.rows: list[tuple[int, Any]] = []
        self.ended = self.until = 0

    def note(self, at: int, happening: h.Happening) -> None:
        self.rows.append((at, happening))

    def add(self, at: int, order: o.Order) -> None:
        self.rows.append((at, order))

    def over(self, at: int) -> None:
        self.ended, self.until = len(self.rows), at

    def of(self, *kinds: type, within: bool = False) -> list[tuple[int, Any]]:
        rows = self.rows[: self.ended] if within else self.rows
        return [(at, one) for at, one in rows if isinstance(one, kinds)]


def up(log: Log, kinds: set[str]) -> list[tuple[int, int]]:
    """Returns from when to when something of these kinds was there."""
    found: list[tuple[int, int]] = []
    ends = _ends(log)
    for i, (at, one) in enumerate(log.rows[: log.ended]):
        if isinstance(one, o.Roll) and "chance" in kinds and one.until is not None:
            found.append((at, min(one.until, log.until)))
        if isinstance(one, (o.Show, o.Hold)) and one.kind in kinds:
            later = [j for j in ends.get(_end_of(one), ()) if j > i]
            found.append((at, log.rows[later[0]][0] if later else log.until))
    return found


def _end_of(one: o.Show | o.Hold) -> o.Hide | o.Let:
    return o.Hide(one.run, one.beat) if isinstance(one, o.Show) else o.Let(one.run, one.beat, one.path)


def _ends(log: Log) -> dict[Any, list[int]]:
    """Returns where in the night each thing that was up or held ended."""
    ends: dict[Any, list[int]] = defaultdict(list)
    for i, (_, one) in enumerate(log.rows[: log.ended]):
        if isinstance(one, (o.Hide, o.Let)):
            ends[one].append(i)
    return ends


def joined(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    out: list[tuple[int, int]] = []
    for begin, end in sorted(spans):
        if out and begin <= out[-1][1]:
            out[-1] = (out[-1][0], max(end, out[-1][1]))
        else:
            out.append((begin, end))
    return out


def prices(book: Book, log: Log) -> dict[str, int]:
    """Returns the price of each redemption: what its reward showed at its first verdict."""
    now, paid = {reward.id: reward.cost for reward in book.rewards}, dict[str, int]()
    reward_of = {one.id: one for _, one in log.of(h.Redemption)}
    for _, one in log.rows:
        if isinstance(one, o.Set) and one.path.startswith("reward/") and one.path.endswith("/cost"):
            now[one.path.split("/")[1]] = one.value  # type: ignore[assignment]
        call = one.call if isinstance(one, o.Verdict) else one.redemption if isinstance(one, o.AskReview) else None
        if call in reward_of and call not in paid:
            told = reward_of[call].cost
            paid[call] = told if told is not None else now.get(reward_of[call].reward, 0)
    return paid


def unseen(log: Log) -> Counter[str]:
    """Returns runs that changed a source whose scene was never on meanwhile."""
    cue_of, scenes, scene = {one.run: one.cue for _, one in log.of(o.Start)}, [], None
    for i, (_, one) in enumerate(log.rows[: log.ended]):
        if isinstance(one, (o.Set, h.Hand)) and one.path == "broadcast/scene":
            scene = one.value
        scenes.append((i, scene))
    runs: dict[str, str] = {}
    ends = _ends(log)
    for i, (_, one) in enumerate(log.rows[: log.ended]):
        if isinstance(one, o.Hold) and one.path.startswith("broadcast/source/") and scenes[i][1] is not None:
            end = next((j for j in ends.get(_end_of(one), ()) if j > i), log.ended)
            if one.path.split("/")[2] not in {told for _, told in scenes[i:end]}:
                runs[one.run] = cue_of[one.run]
    return Counter(runs.values())


def report(book: Book, log: Log) -> dict[str, Any]:
    """Returns every figure of the report, by its name."""
    verdicts = [(at, one) for at, one in log.of(o.Verdict) if one.verdict != "ignored"]
    turned = [one for _, one in verdicts if one.verdict == "turned_away"]
    let_in = [one for _, one in verdicts if one.verdict != "turned_away"]
    who = {one.id: one.viewer.name for _, one in log.rows if getattr(one, "id", None) and getattr(one, "viewer", None)}
    reward = {one.id: one.reward for _, one in log.of(h.Redemption)}
    paid = prices(book, log)
    settled = [one for _, one in log.of(o.Settle)]
    refunded = [one.redemption for one in settled if one.as_ == "refunded"]
    spent = sum(paid.get(one.redemption, 0) for one in settled if one.as_ == "fulfilled")
    came = {one.run: at for at, one in verdicts if one.verdict == "let_in"}
    lanes = {cue.id: cue.lane or book.all_lanes[0].id for cue in book.cues}
    waits: dict[str, list[float]] = defaultdict(list)
    by_cue: dict[str, list[float]] = defaultdict(list)
    for at, one in log.of(o.Start):
        waits[lanes.get(one.cue, "")].append((at - came.get(one.run, at)) / 1000)
        by_cue[one.cue].append((at - came.get(one.run, at)) / 1000)
    every = [wait for some in waits.values() for wait in some]
    running, most = set[str](), 0
    for _, one in log.of(o.Start, o.Finish):
        (running.add if isinstance(one, o.Start) else running.discard)(one.run)
        most = max(most, len(running))
    begun = {one.run: (at, who.get(one.call, "")) for at, one in log.of(o.Start)}
    air: Counter[str] = Counter()
    for at, one in log.of(o.Finish):
        since, viewer = begun.get(one.run, (at, ""))
        air[viewer] += at - since
    del air[""]
    sounds, over, there = 0, 0, set[tuple[str, str]]()
    for _, one in log.of(o.Show, o.Hide, within=True):
        if isinstance(one, o.Hide):
            there.discard((one.run, one.beat))
        elif one.kind in HEARD:
            there.add((one.run, one.beat))
            sounds, over = max(sounds, len(there)), over + (len(there) > 1)
    seen = joined(up(log, SEEN))
    edges = [0, *(edge for span in seen for edge in span), log.until]
    quiets = [(b - a, a) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    longest = max(quiets, key=lambda quiet: quiet[0])
    share = {sense: round(sum(b - a for a, b in joined(up(log, kinds))) / log.until, 4) if log.until else 0
             for sense, kinds in (("seen", SEEN), ("heard", HEARD), ("felt", FELT), ("held", HELD))}  # fmt: skip
    asked, got = Counter(who.get(one.call, "") for _, one in verdicts), Counter(who.get(one.call, "") for one in let_in)
    often = sorted((got[name] / count, name) for name, count in asked.items() if name and count >= 3)
    away: Counter[str] = Counter()
    lost: dict[str, int] = {}
    for at, one in log.of(h.GearState, within=True):
        if one.state == "lost":
            lost.setdefault(one.gear, at)
        elif one.gear in lost:
            away[one.gear] += at - lost.pop(one.gear)
    for gear, at in lost.items():
        away[gear] += log.until - at
    return {
        "length_s": log.until / 1000,
        "calls": len({one.call for _, one in verdicts}),
        "redemptions": len(log.of(h.Redemption)),
        "let_in": len(let_in),
        "turned_away": dict(Counter(one.reason for one in turned)),
        "dropped": len(log.of(o.Drop)),
        "points_spent": spent,
        "points_refunded": sum(paid.get(one, 0) for one in refunded),
        "refunds": len(refunded),
        "waits_by_lane": {lane: _wait(some) for lane, some in waits.items()},
        "waits_by_cue": {cue: _wait(some) for cue, some in by_cue.items()},
        "wait_median_s": _wait(every)[1],
        "wait_p95_s": _wait(every)[2],
        "wait_longest_s": _wait(every)[3],
        **share,
        "most_at_once": most,
        "most_sounds": sounds,
        "sounds_over_others": over,
        "longest_quiet_s": longest[0] / 1000,
        "longest_quiet_at_s": longest[1] / 1000 if longest[0] else 0,
        "luckiest_share": round(often[-1][0], 3) if often else 0,
        "unluckiest_share": round(often[0][0], 3) if often else 0,
        "minutes_paid": round(spent / book.house.points_per_min, 1),
        "calls_by_reward": dict(Counter(reward.values())),
        "refunds_by_reward": dict(Counter(reward[one] for one in refunded)),
        "full_by_lane": dict(Counter(lanes[one.cue] for one in turned if one.reason == "lane_full")),
        "air_s": sum(air.values()) / 1000,
        "air_viewers": len(air),
        "runs_by_cue": dict(Counter(one.cue for _, one in log.of(o.Start))),
        "let_in_by_cue": dict(Counter(one.cue for one in let_in)),
        "unseen_by_cue": dict(unseen(log)),
        "away_by_gear": {gear: at / 1000 for gear, at in away.items() if at},
    }


def _wait(some: list[float]) -> tuple[int, float, float, float]:
    if not some:
        return 0, 0, 0, 0
    return len(some), float(np.median(some)), round(float(np.percentile(some, 95)), 3), max(some)
