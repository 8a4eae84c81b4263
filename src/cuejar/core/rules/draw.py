"""Jars: how an entry is drawn, and what the odds are.

* ``any`` every draw is independent; an entry's share is its weight over the sum of weights.
* ``no_repeat``  never the entry drawn last; the others keep their proportions.
* ``bag``        every entry once (its weight, rounded, times) in shuffled order, then a new shuffle. The first of a
                 new bag is never the last of the old one if there is another.

Three posters of weight 1 and one of weight 3 in a jar: ``any`` gives the heavy one half the time; ``no_repeat`` gives
it 3·3 / (3·5 + 9) = 3/8 in the long run, because it never follows itself; a ``bag`` gives it three times in every six.

Several at once are drawn without replacement; asking for more than there are gives the whole jar.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from math import comb, floor

import numpy as np

from cuejar.core.parts.base import Random


@dataclass(slots=True)
class JarState:
    """A jar's memory between draws: the last entry, and the rest of its bag; of a jar of viewers, who
    had their turn, and how often each was drawn.
    """

    last: str | None = None
    bag: list[str] = field(default_factory=list)
    filled_with: list[list[str | float]] = field(default_factory=list)
    had: list[str] = field(default_factory=list)
    times: dict[str, int] = field(default_factory=dict)

    def rename(self, viewer: str, other: str | None) -> None:
        """Gives a viewer's turns to another one, or to nobody."""
        if viewer in self.times:
            times = self.times.pop(viewer)
            if other is not None:
                self.times[other] = self.times.get(other, 0) + times
        names = [other if one == viewer else one for one in self.had]
        self.had = list(dict.fromkeys(one for one in names if one is not None))
        self.last = other if self.last == viewer else self.last


Weights = Sequence[tuple[str, float]]


def pick(weights: Weights, number: float) -> int:
    """Returns the index of the entry that a number from 0 up to 1 falls on."""
    mark = number * sum(w for _, w in weights)
    for i, (_, weight) in enumerate(weights):
        mark -= weight
        if mark < 0:
            return i
    return max(i for i, (_, weight) in enumerate(weights) if weight > 0)


def _fill_bag(weights: Weights, last: str | None, random: Random) -> list[str]:
    times = _times([weight for _, weight in weights])
    bag = [value for (value, _), n in zip(weights, times, strict=True) for _ in range(n)]
    for i in range(len(bag) - 1, 0, -1):
        j = int(random() * (i + 1))
        bag[i], bag[j] = bag[j], bag[i]
    if bag[0] == last:
        others = [i for i, value in enumerate(bag) if value != last]
        if others:
            j = others[int(random() * len(others))]
            bag[0], bag[j] = bag[j], bag[0]
    return bag


def draw(weights: Weights, rule: str, state: JarState, random: Random, count: int = 1) -> list[str]:
    """Draws ``count`` entries and updates ``state``.

    Args:
        weights: what can be drawn now, as (value, weight); weights of 0 are never drawn.
        rule: ``any``, ``no_repeat`` or ``bag``.

    Returns:
        The drawn values, at most as many as there are; empty if nothing can be drawn.
    """
    left = [(value, weight) for value, weight in weights if weight > 0]
    drawn: list[str] = []
    if rule == "bag" and left:
        signature: list[list[str | float]] = [[v, w] for v, w in left]
        if signature != state.filled_with:
            state.bag, state.filled_with = [], signature
        times = _times([weight for _, weight in left])
        distinct = sum(1 for t in times if t)
        while len(drawn) < min(count, distinct):
            at = next((i for i, value in enumerate(state.bag) if value not in drawn), None)
            if at is None:
                state.bag += _fill_bag(left, drawn[-1] if drawn else state.last, random)
                continue
            drawn.append(state.bag.pop(at))
    else:
        while left and len(drawn) < count:
            fresh = left
            if rule == "no_repeat" and not drawn:
                fresh = [(value, weight) for value, weight in left if value != state.last] or left
            value = fresh[pick(fresh, random())][0]
            drawn.append(value)
            left = [(other, weight) for other, weight in left if other != value]
    if drawn:
        state.last = drawn[-1]
    return drawn


def shares(weights: Sequence[float]) -> list[float]:
    """Returns the share of each entry in one draw: its weight over the sum."""
    whole = sum(weights)
    return [w / whole if whole else 0 for w in weights]


def long_run(weights: Sequence[float], rule: str) -> list[float]:
    """Returns the share of each entry over many draws.

    For ``no_repeat`` this is the stationary distribution of the chain without self-transitions:
    pi_i = w_i (W - w_i) / sum_j w_j (W - w_j). (The chain is reversible: w_i w_j flows both ways.)
    """
    if rule == "bag":
        return shares(_times(weights))
    whole = sum(weights)
    flows = [w * (whole - w) for w in weights]
    if rule == "no_repeat" and sum(flows) > 0:
        return shares(flows)
    return shares(weights)


def _times(weights: Sequence[float]) -> list[int]:
    times = [floor(w + 0.5) for w in weights]
    return times if any(times) else [1 if w > 0 else 0 for w in weights]


def seen_after(weights: Sequence[float], rule: str, draws: int) -> list[list[float]]:
    """Returns the chance of having seen each entry after 1, 2, … ``draws`` draws, starting with an empty memory.

    Returns:
        One row for each number of draws, one column for each entry.
    """
    share = np.array(shares(weights))
    rows = []
    if rule == "bag":
        times = _times(weights)
        whole = sum(times)
        for n in range(1, draws + 1):
            m = min(n, whole)
            rows.append([1 - comb(whole - t, m) / comb(whole, m) if whole else 0.0 for t in times])
    elif rule == "no_repeat" and np.count_nonzero(share) > 1:
        step = share[None, :] / (1 - share[:, None])
        np.fill_diagonal(step, 0)
        unseen = np.tile(share, (len(share), 1))
        np.fill_diagonal(unseen, 0)
        for _ in range(draws):
            rows.append([float(1 - row.sum()) for row in unseen])
            unseen = unseen @ step
            np.fill_diagonal(unseen, 0)
    else:
        rows = [[float(v) for v in 1 - (1 - share) ** n] for n in range(1, draws + 1)]
    return rows


EXACT_UP_TO = 14


def mean_until_all(weights: Sequence[float], rule: str) -> float | None:
    """Returns the mean number of draws until every possible entry was seen.

    ``any``: the coupon collector with unequal shares, integral of 1 - prod(1 - exp(-p_i t)) over t from 0
    (Flajolet, Gardy, Thimonier 1992). ``bag``: from the exact count of orders in which all were seen by the n-th draw.
    ``no_repeat``: by sets of what was seen; None for jars of more than `EXACT_UP_TO` entries.
    """
    live = [w for w in weights if w > 0]
    if len(live) < 2:
        return float(len(live))
    if rule == "bag":
        return _bag_mean([t for t in _times(live) if t])
    share = np.array(shares(live))
    if rule == "any":
        t = np.concatenate(([0.0], np.geomspace(1e-4, 60 / share.min(), 200_000)))
        rest = 1 - np.prod(1 - np.exp(-share[:, None] * t[None, :]), axis=0)
        return float(np.trapezoid(rest, t))
    return _no_repeat_mean(share) if len(live) <= EXACT_UP_TO else None


def _bag_mean(times: list[int]) -> float:
    ways = [1]
    for t in times:
        row = [0] + [comb(t, k) for k in range(1, t + 1)]
        product = [0] * (len(ways) + len(row) - 1)
        for i, a in enumerate(ways):
            for j, b in enumerate(row):
                product[i + j] += a * b
        ways = product
    whole = sum(times)
    return float(sum((1 - Fraction(ways[n], comb(whole, n)) for n in range(whole)), Fraction(0)))


def _no_repeat_mean(share: np.ndarray) -> float:
    """E[set, last] = 1 + sum_j step(last, j) E[set + j, j], solved from the full set downwards."""
    n = len(share)
    step = share[None, :] / (1 - share[:, None])
    np.fill_diagonal(step, 0)
    full = (1 << n) - 1
    mean = np.zeros((full + 1, n))
    for seen in range(full - 1, 0, -1):
        inside = [i for i in range(n) if seen >> i & 1]
        outside = [i for i in range(n) if not seen >> i & 1]
        known = 1 + np.array([sum(step[i, j] * mean[seen | 1 << j, j] for j in outside) for i in inside])
        block = step[np.ix_(inside, inside)]
        mean[seen, inside] = np.linalg.solve(np.eye(len(inside)) - block, known)
    return float(1 + sum(share[i] * mean[1 << i, i] for i in range(n)))
