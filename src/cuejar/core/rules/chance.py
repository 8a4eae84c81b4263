"""Chance: dice and drums, the outcome of a roll, and its exact odds.

Outcomes are tested in order and the first match counts. With three dice, *three alike* before *a pair* before
*anything*: 4-4-4 is three alike (1/36); 4-4-1 is a pair (4/9 of all rolls have at least one, less the 1/36 above it,
leaves 5/12); 4-2-1 is anything (5/9).

Odds are exact fractions, each without the rolls that outcomes above it take. They are counted, not sampled: rolls fall
into classes by their sum and by whether their faces are all different, partly equal or all equal; all rolls of a class
have the same outcome. Outcomes that name faces remove their few rolls from their class.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from fractions import Fraction
from math import factorial, prod
from typing import NamedTuple

from cuejar.core.kinds.chance import ChanceBeat, Outcome
from cuejar.core.parts.base import Random

NONE = "none"
"""The outcome of a roll that matches none of those listed."""


class _Class(NamedTuple):
    total: int
    pair: bool
    all_equal: bool
    faces: tuple[int, ...] | None


def _class_of(faces: Sequence[int]) -> _Class:
    kinds = len(set(faces))
    return _Class(sum(faces), kinds < len(faces), kinds == 1, tuple(sorted(faces)))


def _holds(outcome: Outcome, roll: _Class) -> bool:
    if outcome.when == "any":
        return True
    if outcome.when == "pair":
        return roll.pair
    if outcome.when == "all_equal":
        return roll.all_equal
    if outcome.when == "faces":
        return roll.faces == tuple(sorted(outcome.numbers))
    if outcome.is_ == "in":
        return roll.total in outcome.numbers
    number = outcome.number or 0
    return {"=": roll.total == number, ">=": roll.total >= number, "<=": roll.total <= number}[outcome.is_]


def outcome_of(faces: Sequence[int], outcomes: Sequence[Outcome]) -> str:
    """Returns the id of the first outcome that matches these faces, or `NONE`."""
    roll = _class_of(faces)
    return next((o.id for o in outcomes if _holds(o, roll)), NONE)


def roll(beat: ChanceBeat, random: Random, forced: str | None = None) -> tuple[list[int], str]:
    """Rolls the dice or spins the drum.

    Returns:
        The faces (for a drum: the number of the outcome, from 1) and the outcome's id.

    Raises:
        ValueError: the forced outcome cannot come out.
    """
    if beat.dice is None:
        weights = [o.weight for o in beat.outcomes]
        if forced is not None:
            index = next((i for i, o in enumerate(beat.outcomes) if o.id == forced), None)
            if index is None:
                raise ValueError(f"there is no outcome “{forced}”")
            return [index + 1], forced
        mark = random() * sum(weights)
        for i, weight in enumerate(weights):
            mark -= weight
            if mark < 0:
                return [i + 1], beat.outcomes[i].id
        last = max(i for i, w in enumerate(weights) if w > 0)
        return [last + 1], beat.outcomes[last].id
    count, sides = beat.dice.count, beat.dice.sides
    if forced is None:
        faces = [1 + int(random() * sides) for _ in range(count)]
        return faces, outcome_of(faces, beat.outcomes)
    return _forced(beat, random, forced), forced


def possible(beat: ChanceBeat) -> list[str]:
    """Returns the possible outcomes, in order."""
    if beat.dice is None:
        return [outcome.id for outcome in beat.outcomes]
    return [outcome for outcome, share in odds(beat) if share > 0]


def _forced(beat: ChanceBeat, random: Random, forced: str) -> list[int]:
    assert beat.dice is not None
    can = possible(beat)
    if forced not in can:
        raise ValueError(f"the outcome “{forced}” cannot come out; there are {', '.join(can)}")
    count, sides = beat.dice.count, beat.dice.sides
    wanted = next((o for o in beat.outcomes if o.id == forced), None)
    for attempt in range(20_000):
        faces = [1 + int(random() * sides) for _ in range(count)]
        if wanted is not None and wanted.when == "all_equal":
            faces = [faces[0]] * count
        elif wanted is not None and wanted.when == "faces" and len(wanted.numbers) == count:
            faces = sorted(wanted.numbers, key=lambda _: random())
        elif wanted is not None and wanted.when == "pair" and count > 1:
            faces[1] = faces[0]
        elif wanted is not None and wanted.when == "sum" and attempt % 2:
            target = wanted.number if wanted.number is not None else wanted.numbers[attempt % len(wanted.numbers)]
            faces = _towards(faces, target, sides)
        if outcome_of(faces, beat.outcomes) == forced:
            return faces
    raise ValueError(f"the outcome “{forced}” can’t occur with {count} dice of {sides} sides")


def _towards(faces: list[int], target: int, sides: int) -> list[int]:
    out = list(faces)
    for i in range(len(out)):
        out[i] = min(sides, max(1, out[i] + target - sum(out)))
    return out


def odds(beat: ChanceBeat) -> list[tuple[str, Fraction]]:
    """Returns the exact chance of every outcome in order, each without the rolls of those above it; `NONE` last if
    possible.
    """
    found: Counter[str] = Counter()
    if beat.dice is None:
        weights = [Fraction(o.weight).limit_denominator(10**9) for o in beat.outcomes]
        return [(o.id, w / sum(weights)) for o, w in zip(beat.outcomes, weights, strict=True)]
    count, sides = beat.dice.count, beat.dice.sides
    classes = _classes(count, sides)
    for numbers in {tuple(sorted(o.numbers)) for o in beat.outcomes if o.when == "faces"}:
        if len(numbers) != count or not all(1 <= n <= sides for n in numbers):
            continue
        named = _class_of(numbers)
        orders = factorial(count) // prod(factorial(n) for n in Counter(numbers).values())
        classes[named._replace(faces=None)] -= orders
        classes[named] = orders
    for roll_class, ways in classes.items():
        outcome = next((o.id for o in beat.outcomes if _holds(o, roll_class)), NONE)
        found[outcome] += ways
    whole = sides**count
    rows = [(o.id, Fraction(found[o.id], whole)) for o in beat.outcomes]
    return [*rows, (NONE, Fraction(found[NONE], whole))] if found[NONE] else rows


def _classes(count: int, sides: int) -> dict[_Class, int]:
    """Returns the number of ordered rolls by (sum, pair, all equal)."""
    sums = {0: 1}
    subsets: list[dict[int, int]] = [{0: 1}] + [{} for _ in range(count)]
    for _ in range(count):
        after: Counter[int] = Counter()
        for total, ways in sums.items():
            for face in range(1, sides + 1):
                after[total + face] += ways
        sums = dict(after)
    for face in range(1, sides + 1):
        for size in range(count - 1, -1, -1):
            for total, ways in subsets[size].items():
                subsets[size + 1][total + face] = subsets[size + 1].get(total + face, 0) + ways
    classes: dict[_Class, int] = {}
    for total, ways in sums.items():
        equal = 1 if total % count == 0 and 1 <= total // count <= sides else 0
        different = subsets[count].get(total, 0) * factorial(count) if count > 1 else 0
        classes[_Class(total, False, False, None)] = different
        classes[_Class(total, count > 1, True, None)] = equal
        classes[_Class(total, True, False, None)] = ways - different - equal
    return classes
