"""Throws: where each thing comes from, how it flies, where and when it hits.

A thing flies on the parabola of a mass in uniform gravity: with ``t`` from 0 to 1 over the flight,

    x(t) = x0 + (x1 - x0) t
    y(t) = y0 + (y1 - y0) t - 4 arc t (1 - t)

which is gravity ``8 arc / flight_s**2`` (of the overlay's height, in 1/s**2). So it reaches (x1, y1) at the end of the
flight to the millisecond, and (x1, y1) lies within the circle that it was thrown at. The same seed gives the same
throw.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from random import Random
from typing import NamedTuple

from cuejar.core.parts.base import ms
from cuejar.core.parts.gear import Target
from cuejar.core.parts.steps import Flight

EVERYWHERE = Target(id="middle", name="Middle", x=0.5, y=0.4, r=0.12)
"""The target of throws without a circle."""
OUTSIDE = 0.15
NEAR_MIDDLE = 0.8


class Thing(NamedTuple):
    """One thing: thrown ``at`` ms after the beat begins, flying for ``flight`` ms from (x0, y0) to (x1, y1) in a circle."""

    at: int
    flight: int
    x0: float
    y0: float
    x1: float
    y1: float
    arc: float
    spin: float
    target: str


def hit_ms(beat: Flight, number: int) -> int:
    """Returns when the thing ``number`` (from 1; at most the last) hits, in ms after the beat begins."""
    return (min(number, beat.count) - 1) * ms(beat.every_s) + ms(beat.flight_s)


def natural_ms(beat: Flight) -> int:
    """Returns how long it takes until the last thing has hit and is gone."""
    return hit_ms(beat, beat.count) + ms(beat.linger_s)


def _origin(beat: Flight, target: Target, random: Random) -> tuple[float, float]:
    how = beat.origin
    if how == "random":
        how = random.choice(("above", "left", "right"))
    if how == "above":
        return target.x + random.uniform(-0.3, 0.3), -OUTSIDE
    if how == "point":
        return beat.from_x, beat.from_y
    return (-OUTSIDE if how == "left" else 1 + OUTSIDE), target.y + random.uniform(-0.25, 0.15)


def things(beat: Flight, targets: Sequence[Target], ratio: float, seed: str) -> list[Thing]:
    """Returns everything that a beat throws.

    Args:
        targets: the circles on the avatar.
        ratio: the overlay's width over its height; radii are relative to the height.
        seed: the same one gives the same throw.
    """
    random = Random(seed)
    wanted = [target for target in targets if not beat.targets or target.id in beat.targets] or list(targets)
    out = []
    for number in range(beat.count):
        target = random.choice(wanted or [EVERYWHERE])
        angle, far = random.uniform(0, 2 * math.pi), math.sqrt(random.random()) * NEAR_MIDDLE * target.r
        x1, y1 = target.x + far * math.cos(angle) / ratio, target.y + far * math.sin(angle)
        x0, y0 = _origin(beat, target, random)
        spin = beat.spin * random.uniform(0.6, 1.4) * random.choice((-1, 1))
        x0, y0, x1, y1, spin = (round(value, 5) for value in (x0, y0, x1, y1, spin))
        at, flight = number * ms(beat.every_s), ms(beat.flight_s)
        out.append(Thing(at, flight, x0, y0, x1, y1, beat.arc, spin, target.id))
    return out
