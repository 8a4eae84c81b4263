"""Makes a night of an audience. The same audience, book and seed give the same night, to the millisecond.

Calls are a Poisson process whose rate follows the drawn curve: their number is Poisson distributed; given that, their
times are drawn one by one from the curve by the inverse of its cumulative (E. Çinlar, *Introduction to Stochastic
Processes*, 1975, 4.5). A raid adds a second one whose rate halves every ten minutes.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from itertools import accumulate
from random import Random
from typing import NamedTuple

from cuejar.core.book.audience import Audience, CurvePoint
from cuejar.core.book.book import Book, TextRule
from cuejar.core.facts import happenings as h
from cuejar.core.measures.colour import names
from cuejar.core.rules.tickets import cues_of

KEEN, RAID_HALVES_MIN = 3.0, 10.0
"""How much more often the keen call; in what time half of a raid leaves."""
BURST = (3, 8)
"""How many calls a spammer makes at once."""
LINES = (
    "Mind the gap", "Is there still tea?", "All aboard!", "What is on the bench tonight?", "Greetings from the signal box",
    "That kettle has character", "More steam, please", "The owl post is late again",
)  # fmt: skip
NONSENSE = ("zxqv", "!!!!!!", "purplish-maybe", "999999999999", "teapot teapot teapot", "?")
NAMES_OF_VIEWERS = (
    "bramble", "kettle", "owl", "hopper", "lantern", "signal", "treacle", "whistle", "parcel", "shunter", "bobbin", "clinker",
)  # fmt: skip


class _Wish(NamedTuple):
    """Something that can be called: a reward, or a cue by its chat command."""

    reward: str
    words: str
    rule: TextRule | None
    asks: bool


class _Guest(NamedTuple):
    viewer: h.Viewer
    manner: str


def night_of(
    audience: Audience, book: Book, seed: int, past: Mapping[str, float] | None = None
) -> list[tuple[int, h.Happening]]:
    """Returns the happenings of a night, in time order.

    Args:
        seed: of this night; the audience's own is mixed in.
        past: how often each reward (by id) and chat cue (``cue/ID``) was called on past nights, for ``likes: past``.

    Returns:
        Pairs of an instant (ms from the start) and what happens.
    """
    rng = Random(f"{audience.id}/{audience.seed}/{seed}")
    length = audience.length_min * 60_000
    guests = [_guest(rng, audience, n, "v") for n in range(audience.viewers)]
    wishes, weights = _wishes(audience, book, past)
    rows: list[tuple[int, h.Happening]] = [(0, h.Stream("live"))]
    calls = _times(rng, audience.curve, audience.calls, length) if wishes else []
    rows += _called(rng, calls, guests, wishes, weights, "c")
    for number, raid in enumerate(audience.raids):
        at = raid.at_min * 60_000
        if at < length:
            come = [_guest(rng, audience, n, f"r{number}-") for n in range(raid.viewers)]
            rows.append((round(at), h.Raid(raid.viewers, come[0].viewer, f"raid-{number}")))
            rate = audience.calls / length / audience.viewers * raid.viewers
            times = _after_raid(rng, at, rate, length) if wishes else []
            rows += _called(rng, times, come, wishes, weights, f"r{number}")
    for hand in audience.hands:
        rows.append((round(hand.at_min * 60_000), h.Hand(hand.path, hand.value)))
    for outage in audience.outages:
        rows.append((round(outage.at_min * 60_000), h.GearState(outage.gear, "lost")))
        rows.append((round((outage.at_min + outage.for_min) * 60_000), h.GearState(outage.gear, "back")))
    rows = [row for row in rows if row[0] <= length]
    rows.append((round(length), h.Stream("ended")))
    return sorted(rows, key=lambda row: row[0])


def poisson(rng: Random, mean: float) -> int:
    """Returns a Poisson number, by counting exponential gaps in pieces, so that large means lose nothing (Knuth, TAOCP
    2, 3.4.1).
    """
    count = 0
    while mean > 0:
        piece = min(mean, 500.0)
        mean -= piece
        left = rng.expovariate(1.0)
        while left < piece:
            count += 1
            left += rng.expovariate(1.0)
    return count


def _times(rng: Random, curve: Sequence[CurvePoint], mean: float, length: float) -> list[float]:
    """Returns instants (ms) of a Poisson process over [0, length] whose rate follows the curve."""
    points = [(point.at_min * 60_000, point.level) for point in curve if point.at_min * 60_000 <= length]
    if not points or not any(level for _, level in points):
        points = [(0.0, 1.0)]
    if points[0][0] > 0:
        points.insert(0, (0.0, points[0][1]))
    if points[-1][0] < length:
        points.append((length, points[-1][1]))
    areas = [0.0, *accumulate((b[0] - a[0]) * (a[1] + b[1]) / 2 for a, b in zip(points, points[1:], strict=False))]
    return sorted(_inverse(rng.random() * areas[-1], points, areas) for _ in range(poisson(rng, mean)))


def _inverse(area: float, points: Sequence[tuple[float, float]], areas: Sequence[float]) -> float:
    """Returns the instant before which this much of a curve's area lies."""
    index = min(bisect_right(areas, area) - 1, len(points) - 2)
    (begin, low), (end, high) = points[index], points[index + 1]
    rest, slope = area - areas[index], (high - low) / (end - begin) if end > begin else 0.0
    if abs(slope) < 1e-15:
        return begin + (rest / low if low > 0 else 0.0)
    # slope/2·t² + low·t = rest
    return begin + (math.sqrt(max(0.0, low * low + 2 * slope * rest)) - low) / slope


def _after_raid(rng: Random, at: float, rate: float, length: float) -> list[float]:
    """Returns the instants of raiders: their rate (per ms at first) halves every ten minutes."""
    tau = RAID_HALVES_MIN * 60_000 / math.log(2)
    share = 1 - math.exp(-(length - at) / tau)
    return sorted(at - tau * math.log(1 - rng.random() * share) for _ in range(poisson(rng, rate * tau * share)))


def _guest(rng: Random, audience: Audience, number: int, mark: str) -> _Guest:
    name = f"{NAMES_OF_VIEWERS[number % len(NAMES_OF_VIEWERS)]}_{mark.strip('-')}{number}"
    luck = rng.random()
    follows, member = luck < audience.followers, luck < audience.members
    roles = tuple(role for role, has in (("follower", follows or member), ("member", member)) if has)
    manners = audience.manners.model_dump()
    total = sum(manners.values())
    manner = rng.choices(list(manners), list(manners.values()))[0] if total else "patient"
    return _Guest(h.Viewer(f"{mark}{number}", name, roles), manner)


def _wishes(audience: Audience, book: Book, past: Mapping[str, float] | None) -> tuple[list[_Wish], list[float]]:
    """Returns what can be called, with the relative frequency of each."""
    called = cues_of(book)
    keys: list[str] = []
    wishes: list[_Wish] = []
    prices: list[float] = []
    for reward in book.rewards:
        if reward.id in called:
            rule = next((cue.door.text for cue in called[reward.id] if cue.door.text is not None), None)
            keys.append(reward.id)
            wishes.append(_Wish(reward.id, "", rule, reward.text))
            prices.append(reward.cost)
    for cue in book.cues:
        chat = next((call for call in cue.calls if call.kind == "chat"), None)
        if chat is not None:
            keys.append(f"cue/{cue.id}")
            wishes.append(_Wish("", chat.text, cue.door.text, cue.door.text is not None))
            prices.append(chat.cost or 50)
    if audience.likes == "by_price":
        weights = [1 / price for price in prices]
    elif audience.likes == "shares":
        weights = [audience.shares.get(key, 0.0) for key in keys]
    elif audience.likes == "past" and past:
        weights = [past.get(key, 0.0) for key in keys]
    else:
        weights = [1.0] * len(keys)
    if not any(weights):
        return [], []
    return wishes, weights


def _called(
    rng: Random,
    times: Sequence[float],
    guests: Sequence[_Guest],
    wishes: Sequence[_Wish],
    weights: Sequence[float],
    mark: str,
) -> Iterator[tuple[int, h.Happening]]:
    who = list(accumulate(KEEN if guest.manner == "keen" else 1.0 for guest in guests))
    what = list(accumulate(weights))
    number = 0
    for time in times:
        guest = rng.choices(guests, cum_weights=who)[0]
        wish = rng.choices(wishes, cum_weights=what)[0]
        at = time
        for _ in range(rng.randint(*BURST) if guest.manner == "spammer" else 1):
            number += 1
            yield round(at), _call(rng, guest, wish, f"{mark}-{number}")
            at += rng.uniform(1_000, 3_000)


def _call(rng: Random, guest: _Guest, wish: _Wish, call: str) -> h.Happening:
    text = _text(rng, guest, wish)
    if wish.reward:
        return h.Redemption(call, wish.reward, guest.viewer, text)
    return h.Chat(guest.viewer, f"{wish.words} {text}".strip(), call)


def _text(rng: Random, guest: _Guest, wish: _Wish) -> str:
    rule = wish.rule
    if rule is None and not wish.asks:
        return ""
    if guest.manner == "nonsense":
        return rng.choice(NONSENSE)
    if rule is not None and rule.kind == "colour":
        return rng.choice(_colours())
    if rule is not None and rule.kind == "number":
        low, high = rule.range or (1, 20)
        return str(rng.randint(low, high))
    if rule is not None and rule.kind == "choice":
        return rng.choice(rule.choices)
    text = rng.choice(LINES)
    return text[: rule.max] if rule is not None and rule.max is not None else text


@cache
def _colours() -> list[str]:
    return sorted(names())[:40]
