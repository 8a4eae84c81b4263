"""The crowd: whom Cue Jar has met, and which of them a jar of viewers may draw.

A jar of viewers has no fixed entries; who is in it is asked at the moment of the draw. Blocked viewers and bots never
are, and the caller only if the jar says so. A viewer's weight is the highest of the weights of their roles, 1 without
any.

Three viewers are there: an owl, a member with twice the weight, and a blocked one. The owl is drawn once in three draws,
the member twice in three, the blocked one never. With the rule ``bag`` each is drawn once before anybody is drawn again;
whoever comes meanwhile still has their turn.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from cuejar.core.book.book import House, Jar
from cuejar.core.facts.happenings import Viewer
from cuejar.core.parts.base import JsonRow, Random
from cuejar.core.parts.folding import folded
from cuejar.core.rules.conditions import has_role
from cuejar.core.rules.draw import JarState, Weights, pick, shares
from cuejar.core.rules.people import is_listed, listed

MOST = 10_000
"""How many viewers are remembered: those who were there last."""
MINUTE_MS = 60_000
EVERYBODY = Jar.model_validate({"id": "everybody", "kind": "viewers"})
"""The jar of a draw that names none: whoever is there now."""


@dataclass(slots=True)
class Met:
    """A viewer, when they were last there (ms), and in which streams: the first, the last, and the last in which they
    redeemed something. ``left``: the channel said that they went.
    """

    viewer: Viewer
    at: int
    first: int
    stream: int
    redeemed: int = -1
    left: bool = False


class Entrant(NamedTuple):
    """Somebody who may be drawn, and their weight."""

    viewer: Viewer
    weight: float


class Crowd:
    """Everybody whom Cue Jar has met, in the order in which they were last there."""

    def __init__(self) -> None:
        self.met: dict[str, Met] = {}

    def see(self, viewer: Viewer, now: int, stream: int, redeemed: bool = False) -> None:
        """Notes that a viewer is there; ``redeemed``: they spent points."""
        met = self.met.pop(viewer.id, None)
        if met is None:
            met = Met(viewer, now, stream, stream)
            while len(self.met) >= MOST:
                del self.met[next(iter(self.met))]
        else:
            met.viewer, met.at, met.stream, met.left = viewer, now, stream, False
        if redeemed:
            met.redeemed = stream
        self.met[viewer.id] = met

    def leave(self, viewer: str) -> None:
        """Notes that a viewer went."""
        if viewer in self.met:
            self.met[viewer].left = True

    def merge(self, viewer: str, into: str) -> None:
        """Takes two viewers for one: what was met of the first counts for the second."""
        gone = self.met.pop(viewer, None)
        if gone is None:
            return
        kept = self.met.get(into)
        if kept is None:
            self.met[into] = replace(gone, viewer=replace(gone.viewer, id=into))
            return
        if gone.at > kept.at:
            kept.at, kept.left = gone.at, gone.left
        kept.first = min(kept.first, gone.first)
        kept.stream, kept.redeemed = max(kept.stream, gone.stream), max(kept.redeemed, gone.redeemed)

    def forget(self, viewer: str) -> None:
        self.met.pop(viewer, None)

    def named(self, who: str) -> Viewer | None:
        """Returns a viewer by id, or by name in any case and width."""
        if who in self.met:
            return self.met[who].viewer
        wanted = folded(who)
        return next((met.viewer for met in self.met.values() if folded(met.viewer.name) == wanted), None)

    def snapshot(self) -> list[JsonRow]:
        return [
            [v.id, v.name, list(v.roles), v.tier, met.at, met.first, met.stream, met.redeemed, met.left]
            for met in self.met.values()
            for v in (met.viewer,)
        ]

    def restore(self, rows: list[JsonRow]) -> None:
        self.met = {row[0]: Met(Viewer(row[0], row[1], tuple(row[2]), row[3]), *row[4:]) for row in rows}


def entrants(
    jar: Jar, crowd: Crowd, house: House, now: int, stream: int, points: Callable[[str], int], caller: str = ""
) -> list[Entrant]:
    """Returns who may be drawn now.

    Args:
        now: ms.
        stream: the number of the stream.
        points: tells how many points a viewer has, by id.
        caller: the id of who calls; empty: nobody.
    """
    said = jar.draws
    kept_out = listed([*house.shut_out, *house.bots])
    found: list[Entrant] = []
    for viewer, own, met in _asked(jar, crowd, now, stream):
        if "broadcaster" in viewer.roles or is_listed(viewer.id, viewer.name, kept_out):
            continue
        if viewer.id == caller and not said.caller:
            continue
        if said.roles and not any(has_role(viewer, role, said.tier) for role in said.roles):
            continue
        if said.new_only and (met is None or met.first != stream):
            continue
        if said.points_from and points(viewer.id) < said.points_from:
            continue
        shares = [share for role, share in said.weights.items() if has_role(viewer, role)]
        weight = own * (max(shares) if shares else 1.0)
        if weight > 0:
            found.append(Entrant(viewer, weight))
    return found


def _asked(jar: Jar, crowd: Crowd, now: int, stream: int) -> Iterator[tuple[Viewer, float, Met | None]]:
    """Yields those whom a jar means, before its filters: each once, with a weight and what is known of them."""
    said = jar.draws
    if said.who == "list":
        there: set[str] = set()
        for entry in jar.entries:
            viewer = crowd.named(entry.value) or Viewer(entry.value, entry.value)
            if entry.on and viewer.id not in there:
                there.add(viewer.id)
                yield viewer, float(entry.weight), crowd.met.get(viewer.id)
        return
    since = now - said.within_min * MINUTE_MS
    for met in list(crowd.met.values()):
        if said.who == "redeemed":
            meant = met.redeemed == stream
        elif said.who == "members":
            meant = met.stream == stream and has_role(met.viewer, "member", said.tier)
        else:
            meant = met.at >= since and not met.left
        if meant:
            yield met.viewer, 1.0, met


def shares_now(found: Sequence[Entrant], rule: str, state: JarState) -> list[float]:
    """Returns the chance of each entrant in the next draw; they add up to 1."""
    ids = {viewer.id for viewer, _ in _fresh(found, rule, state)}
    return shares([weight if viewer.id in ids else 0.0 for viewer, weight in found])


def _fresh(found: Sequence[Entrant], rule: str, state: JarState) -> Sequence[Entrant]:
    """Returns who can come out in the next draw."""
    if rule == "bag":
        had = set(state.had)
        left = [one for one in found if one.viewer.id not in had]
        if left:
            return left
    if rule != "any":
        return [one for one in found if one.viewer.id != state.last] or found
    return found


class Drawing(NamedTuple):
    """Who was in a draw, the number that decided, and who was drawn: the `pick` of this number."""

    weights: list[tuple[str, float]]
    number: float
    drawn: Viewer


def draw_viewer(found: Sequence[Entrant], rule: str, state: JarState, luck: Random) -> Drawing | None:
    """Draws one viewer and updates ``state``; None: there is nobody."""
    fresh = _fresh(found, rule, state)
    if not fresh:
        return None
    weights = [(viewer.id, weight) for viewer, weight in fresh]
    number = luck()
    drawn = fresh[pick(weights, number)].viewer
    if rule == "bag":
        had = set(state.had)
        if all(one.viewer.id in had for one in found):
            state.had = []
        state.had = [*state.had[-MOST:], drawn.id]
    state.last = drawn.id
    state.times[drawn.id] = state.times.pop(drawn.id, 0) + 1
    while len(state.times) > MOST:
        del state.times[next(iter(state.times))]
    return Drawing(weights, number, drawn)


def luck_of(seed: str) -> Random:
    """Returns the random numbers of a draw's own seed."""
    return random.Random(seed).random


def drawn_again(seed: str, weights: Weights) -> tuple[float, str]:
    """Draws once more from what was kept of a draw. Returns the number that decides, and who is drawn."""
    number = luck_of(seed)()
    return number, weights[pick(weights, number)][0]
