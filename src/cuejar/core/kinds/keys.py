"""A latch: a key combination, tapped once to switch something on and once more to switch it off."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from cuejar.core.facts.paths import keys_path
from cuejar.core.kinds.base import (
    COMMON,
    HELD,
    Asking,
    CheckContext,
    Kind,
    Lengths,
    Power,
    Resolving,
    Snag,
    StartingBeat,
)
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.measures.keys import unknown
from cuejar.core.parts.base import Name
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Timed


class KeysBeat(Timed):
    kind: Literal["keys"]
    combo: Name


def _resolve(r: Resolving, beat: StartingBeat, b: KeysBeat) -> None:
    beat.sets = [(keys_path(r.lengths.spelled(b.combo)), "on")]


def _snags(b: KeysBeat, context: CheckContext) -> Iterator[Snag]:
    if wrong := unknown(b.combo):
        what = f"“{b.id}”: there is no key “{wrong[0]}”."
        yield Snag("unknown_key", what, "Press the keys to record them.", is_error=True)


def _holds(b: KeysBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str:
    return keys_path(lengths.spelled(b.combo))


def _power(b: KeysBeat, asking: Asking) -> Power:
    return Power("keys", b.combo, f"presses {asking.keys(b.combo)} on this computer")


def _latch(b: KeysBeat) -> str:
    return b.combo


KIND = Kind(
    KeysBeat,
    "hold",
    "keys",
    _resolve,
    "keys",
    snags=_snags,
    holds=_holds,
    noticed=HELD,
    unnoticed="holds keys down",
    power=_power,
    latch=_latch,
    harmless=COMMON,
    asked="combo",
)
