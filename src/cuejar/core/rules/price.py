"""Prices: what a reward costs now, and how long a viewer earns for it.

* ``fixed``   stays.
* ``first``   one price for the first of the stream, another after it.
* ``rising``  every redemption that is let in multiplies the price by a factor; the part above the reward's own cost
halves every half-life.

With a cost of 100, a factor of 1.5 and a half-life of 10 min: after one redemption 150, ten minutes later 125. A
refunded redemption takes the rest of its rise with it. Prices are rounded to the step (half up) and kept within minimum
and maximum.
"""

from __future__ import annotations

from dataclasses import dataclass
from math import exp2, floor, log2

from cuejar.core.book.book import Book, Reward
from cuejar.core.facts.paths import Family, read_path, reward_path
from cuejar.core.parts.base import JsonObject, ms

FALLS_MS = 1_000
"""A high price falls by a point many times a second; this is the minimum interval between reports."""


@dataclass(slots=True)
class PriceState:
    """``above``: how far the unrounded price lay above the cost at ``at`` (ms); ``sold``: let in this stream."""

    above: float = 0.0
    at: int = 0
    sold: int = 0


def _above(reward: Reward, state: PriceState, now: int) -> float:
    if state.above <= 0:
        return 0.0
    return state.above * exp2(-(now - state.at) / ms(reward.price.half_life_s))


def _rounded(reward: Reward, raw: float) -> int:
    price = reward.price
    stepped = floor(raw / price.step + 0.5) * price.step
    return int(min(max(stepped, price.least), price.most))


def cost_now(reward: Reward, state: PriceState, now: int) -> int:
    """Returns the reward's price at ``now`` (ms)."""
    if reward.price.kind == "first" and state.sold and reward.price.then is not None:
        return _rounded(reward, reward.price.then)
    if reward.price.kind == "rising":
        return _rounded(reward, reward.cost + _above(reward, state, now))
    return _rounded(reward, reward.cost)


def sold(reward: Reward, state: PriceState, now: int) -> None:
    """Counts a redemption that was let in."""
    state.sold += 1
    if reward.price.kind == "rising":
        above = _above(reward, state, now)
        top = max(reward.price.most, reward.cost)
        state.above = min((reward.cost + above) * reward.price.factor, top) - reward.cost
        state.at = now


def refunded(reward: Reward, state: PriceState, now: int, sold_at: int) -> None:
    """Removes the rest of the rise of a redemption let in at ``sold_at`` that was refunded before it ran.

    With the cost `c`, the factor `f` and `d` the share of a rise that is left since then, the price was `c + above / d`
    right after it; `1 - 1/f` of that was its rise, and `d` of that is left: `(c d + above) (1 - 1/f)`. Exact if no
    other was let in since then.
    """
    state.sold = max(0, state.sold - 1)
    if reward.price.kind == "rising":
        above = _above(reward, state, now)
        faded = exp2(-(now - sold_at) / ms(reward.price.half_life_s))
        rise = (reward.cost * faded + above) * (1 - 1 / reward.price.factor)
        state.above, state.at = max(0.0, above - rise), now


def next_change(reward: Reward, state: PriceState, now: int) -> int | None:
    """Returns the next instant (ms) at which the rounded price falls by itself, at most once a second; None if it
    doesn't.
    """
    above = _above(reward, state, now)
    price = reward.price
    shown = cost_now(reward, state, now)
    if price.kind != "rising" or above <= 0 or shown <= _rounded(reward, reward.cost):
        return None
    edge = (floor((reward.cost + above) / price.step + 0.5) - 0.5) * price.step - reward.cost
    if shown == price.most:
        edge = min(edge, price.most - reward.cost)
    if edge <= 0:
        return None
    wait = ms(price.half_life_s) * log2(above / edge)
    at = now + max(FALLS_MS, floor(wait) + 1)
    return at if cost_now(reward, state, at) < shown else at + 1


def minutes_to_earn(cost: int, points_per_min: float) -> float:
    """Returns the cost over the points that a viewer earns per minute."""
    return cost / points_per_min


def forecast(reward: Reward, per_hour: float, minutes: int = 60) -> list[tuple[int, int]]:
    """Returns the coming price if it is redeemed evenly this often per hour: each instant (ms) from which it changes,
    with the price. If none were redeemed this stream yet, the first comes after half its share of the time.
    """
    state, until = PriceState(), minutes * 60_000
    every = round(3_600_000 / per_hour) if per_hour > 0 else until + 1
    line = [(0, cost_now(reward, state, 0))]
    comes, falls = every // 2 if per_hour > 0 else until, None
    while (now := min(comes, until if falls is None else falls)) < until:
        if now == comes:
            sold(reward, state, now)
            comes += every
        falls = next_change(reward, state, now)
        cost = cost_now(reward, state, now)
        if cost != line[-1][1]:
            line.append((now, cost))
    return line


class Prices:
    """The current prices of all rewards of the book."""

    def __init__(self) -> None:
        self.rewards: dict[str, Reward] = {}
        self.states: dict[str, PriceState] = {}
        self._due: dict[str, int] = {}

    def take(self, book: Book) -> None:
        self.rewards = {reward.id: reward for reward in book.rewards}
        self.states = {reward.id: self.states.get(reward.id, PriceState()) for reward in book.rewards}

    def properties(self, now: int) -> list[tuple[str, bool | int]]:
        """Returns every reward's ``on`` and ``cost`` at rest, by property path."""
        rows: list[tuple[str, bool | int]] = []
        for reward in self.rewards.values():
            rows.append((reward_path(reward.id, "on"), reward.on))
            rows.append((reward_path(reward.id, "cost"), self.cost(reward.id, now)))
        return rows

    def cost(self, reward: str, now: int) -> int:
        return cost_now(self.rewards[reward], self.states[reward], now)

    def sold(self, reward: str, now: int) -> bool:
        """Counts a redemption. Returns whether the price may have moved."""
        found = self.rewards.get(reward)
        if found is None:
            return False
        sold(found, self.states[reward], now)
        return found.price.kind != "fixed"

    def refunded(self, reward: str, now: int, sold_at: int) -> bool:
        found = self.rewards.get(reward)
        if found is None:
            return False
        refunded(found, self.states[reward], now, sold_at)
        return found.price.kind != "fixed"

    def handed(self, path: str) -> None:
        """Takes a property set by hand: if it is a price, its rise starts again from there."""
        match read_path(path):
            case (Family.REWARD.value, (reward, "cost")) if reward in self.states:
                self.states[reward].above = 0.0

    def new_stream(self) -> list[str]:
        """Resets what counts per stream. Returns the rewards whose price may have moved."""
        for state in self.states.values():
            state.sold = 0
        return [reward.id for reward in self.rewards.values() if reward.price.kind == "first"]

    def next_change(self, reward: str, now: int) -> int | None:
        at = next_change(self.rewards[reward], self.states[reward], now)
        self._due[reward] = at if at is not None else -1
        return at

    def due_at(self, reward: str) -> int:
        """Returns when the price last promised to fall; -1 if never."""
        return self._due.get(reward, -1)

    def note_due(self, reward: str, at: int) -> None:
        self._due[reward] = at

    def snapshot(self) -> JsonObject:
        return {reward: [s.above, s.at, s.sold] for reward, s in self.states.items()}

    def restore(self, data: JsonObject) -> None:
        for reward, row in data.items():
            if reward in self.states:
                self.states[reward] = PriceState(*row)
