"""Odds: exact against brute force, drawn against expected."""

from __future__ import annotations

import random
from collections import Counter
from fractions import Fraction
from itertools import permutations, product
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.kinds.chance import ChanceBeat
from cuejar.core.rules.chance import NONE, odds, outcome_of, roll
from cuejar.core.rules.draw import JarState, draw, long_run, mean_until_all, seen_after, shares


def chance(dice: tuple[int, int] | None, outcomes: list[dict[str, Any]]) -> ChanceBeat:
    data = {"id": "d", "kind": "chance", "outcomes": [{"id": f"o{i}", **o} for i, o in enumerate(outcomes)]}
    if dice is not None:
        data["dice"] = {"count": dice[0], "sides": dice[1]}
    return ChanceBeat.model_validate(data)


outcome = st.one_of(
    st.sampled_from([{"when": "pair"}, {"when": "all_equal"}, {"when": "any"}]),
    st.builds(
        lambda i, n: {"when": "sum", "is": i, "number": n}, st.sampled_from(["=", ">=", "<="]), st.integers(0, 20)
    ),
    st.builds(
        lambda n: {"when": "sum", "is": "in", "numbers": n}, st.lists(st.integers(1, 20), min_size=1, max_size=4)
    ),
    st.builds(lambda n: {"when": "faces", "numbers": n}, st.lists(st.integers(1, 6), min_size=1, max_size=4)),
)


@given(st.integers(1, 4), st.integers(2, 6), st.lists(outcome, min_size=1, max_size=4))
def test_odds_are_what_counting_all_rolls_gives(count: int, sides: int, outcomes: list[dict[str, Any]]) -> None:
    beat = chance((count, sides), outcomes)
    counted = Counter(outcome_of(faces, beat.outcomes) for faces in product(range(1, sides + 1), repeat=count))
    exact = dict(odds(beat))
    assert sum(exact.values()) == 1
    for name in [*(o.id for o in beat.outcomes), NONE]:
        assert exact.get(name, Fraction(0)) == Fraction(counted[name], sides**count)


@given(st.integers(2, 4), st.integers(2, 6), st.lists(outcome, min_size=1, max_size=3), st.integers(0, 99))
def test_any_outcome_that_can_come_can_be_forced(n: int, sides: int, outcomes: list[dict[str, Any]], seed: int) -> None:
    beat = chance((n, sides), outcomes)
    for name, share in odds(beat):
        if share > Fraction(1, 500) and name != NONE:
            faces, came = roll(beat, random.Random(seed).random, name)
            assert came == name == outcome_of(faces, beat.outcomes)
            assert all(1 <= face <= sides for face in faces)


def test_the_known_ones() -> None:
    assert odds(chance((3, 6), [{"when": "all_equal"}]))[0][1] == Fraction(1, 36)
    assert odds(chance((3, 6), [{"when": "pair"}]))[0][1] == Fraction(4, 9)
    assert dict(odds(chance((3, 6), [{"when": "all_equal"}, {"when": "pair"}, {}]))) == {
        "o0": Fraction(1, 36),
        "o1": Fraction(5, 12),
        "o2": Fraction(5, 9),
    }
    assert sum(share for _, share in odds(chance((8, 100), [{"when": "pair"}, {}]))) == 1
    assert odds(chance(None, [{"weight": 1}, {"weight": 3}]))[1][1] == Fraction(3, 4)


CHI_999 = {2: 13.82, 3: 16.27, 4: 18.47, 5: 20.52}
"""Chi-square that is exceeded once in a thousand, by degrees of freedom."""


def chi_square(found: Counter[str], expected: dict[str, float]) -> float:
    whole = sum(found.values())
    return sum((found[name] - share * whole) ** 2 / (share * whole) for name, share in expected.items() if share)


@pytest.mark.parametrize("rule", ["any", "no_repeat", "bag"])
def test_a_hundred_thousand_draws(rule: str) -> None:
    weights = [("dusk", 1.0), ("tea", 2.0), ("owl", 3.0), ("mail", 4.0)]
    state, stream = JarState(), random.Random(20).random
    drawn = [draw(weights, rule, state, stream)[0] for _ in range(100_000)]
    expected = dict(zip([v for v, _ in weights], long_run([w for _, w in weights], rule), strict=True))
    assert chi_square(Counter(drawn), expected) < CHI_999[3]
    repeats = sum(a == b for a, b in zip(drawn, drawn[1:], strict=False))
    if rule == "no_repeat":
        assert repeats == 0
    if rule == "bag":
        assert all(Counter(drawn[i : i + 10]) == Counter(dusk=1, tea=2, owl=3, mail=4) for i in range(0, 99_990, 10))
        assert all(drawn[i] != drawn[i - 1] for i in range(10, 99_990, 10))


def test_rolls_follow_their_odds() -> None:
    beat = chance((3, 6), [{"when": "all_equal"}, {"when": "pair"}, {}])
    stream = random.Random(4).random
    found = Counter(roll(beat, stream)[1] for _ in range(100_000))
    assert chi_square(found, {name: float(share) for name, share in odds(beat)}) < CHI_999[2]


@given(
    st.lists(
        st.tuples(st.text("abcdef", min_size=1, max_size=1), st.sampled_from([0, 0.3, 1, 2, 5])),
        max_size=6,
        unique_by=lambda e: e[0],
    ),
    st.sampled_from(["any", "no_repeat", "bag"]),
    st.integers(1, 8),
    st.integers(0, 50),
)
def test_several_at_once(weights: list[tuple[str, float]], rule: str, count: int, seed: int) -> None:
    state, stream = JarState(), random.Random(seed).random
    can = [v for v, w in weights if w > 0]
    for _ in range(5):
        drawn = draw(weights, rule, state, stream, count)
        assert len(set(drawn)) == len(drawn)
        assert set(drawn) <= set(can)
        if rule == "bag" and weights and any(int(w + 0.5) for _, w in weights):
            can_come = [v for v, w in weights if int(w + 0.5)]
            assert len(drawn) == min(count, len(can_come))
        elif rule != "bag":
            assert len(drawn) == min(count, len(can))


def brute_mean(weights: list[int], rule: str) -> float:
    """Returns the mean number of draws until all were seen, by trying every path."""
    n = len(weights)
    if rule == "bag":
        orders = list(permutations([i for i, w in enumerate(weights) for _ in range(w)]))
        return sum(next(k for k in range(1, len(o) + 1) if len(set(o[:k])) == n) for o in orders) / len(orders)
    share = shares([float(w) for w in weights])
    ways, mean = {(frozenset[int](), -1): 1.0}, 0.0
    for _ in range(4000):
        after: dict[tuple[frozenset[int], int], float] = {}
        for (seen, last), p in ways.items():
            if len(seen) == n:
                continue
            mean += p
            left = 1 - (share[last] if rule == "no_repeat" and last >= 0 else 0)
            for i in range(n):
                if rule == "no_repeat" and i == last:
                    continue
                key = (seen | {i}, i)
                after[key] = after.get(key, 0) + p * share[i] / left
        ways = after
    return mean


@pytest.mark.parametrize("rule", ["any", "no_repeat", "bag"])
@pytest.mark.parametrize("weights", [[1, 1], [1, 1, 1], [1, 2, 3], [1, 3, 1, 2]])
def test_mean_until_all_were_seen(rule: str, weights: list[int]) -> None:
    assert mean_until_all([float(w) for w in weights], rule) == pytest.approx(brute_mean(weights, rule), rel=1e-5)


def test_seen_after_by_trying() -> None:
    weights = [("a", 1.0), ("b", 2.0), ("c", 4.0)]
    for rule in ("any", "no_repeat", "bag"):
        said = seen_after([w for _, w in weights], rule, 5)
        stream, tries = random.Random(1).random, 20_000
        seen = [[0, 0, 0] for _ in range(5)]
        for _ in range(tries):
            state, so_far = JarState(), set[str]()
            for n in range(5):
                so_far.add(draw(weights, rule, state, stream)[0])
                for i, (value, _) in enumerate(weights):
                    seen[n][i] += value in so_far
        for n in range(5):
            for i in range(3):
                assert seen[n][i] / tries == pytest.approx(said[n][i], abs=0.015)
