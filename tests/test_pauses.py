"""Pauses between tries grow to their longest, differ, and begin anew once it works."""

from __future__ import annotations

from itertools import islice

from cuejar.pauses import Pauses, pauses


def test_pauses_grow_and_begin_anew() -> None:
    own = Pauses(0.2, 4.0)
    for _ in range(2):
        told = [own.next() for _ in range(12)]
        longest = [min(4.0, 0.2 * 2**number) for number in range(12)]
        assert all(most / 2 <= pause <= most for pause, most in zip(told, longest, strict=True))
        assert len(set(told)) == len(told), "never the same"
        own.reset()
    other = Pauses(0.2, 4.0)
    assert [own.next() for _ in range(4)] != [other.next() for _ in range(4)]
    assert max(islice(pauses(), 2_000)) <= 4.0, "however long it fails"
