"""A tap: a key combination, once."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from cuejar.core.kinds.base import COMMON, Asking, CheckContext, Kind, Power, Resolving, Snag, StartingBeat
from cuejar.core.measures.keys import unknown
from cuejar.core.parts.base import Name
from cuejar.core.parts.steps import Beat


class TapBeat(Beat):
    kind: Literal["tap"]
    combo: Name


def _resolve(r: Resolving, beat: StartingBeat, b: TapBeat) -> None:
    beat.value = b.combo


def _snags(b: TapBeat, context: CheckContext) -> Iterator[Snag]:
    if wrong := unknown(b.combo):
        what = f"“{b.id}”: there is no key “{wrong[0]}”."
        yield Snag("unknown_key", what, "Press the keys to record them.", is_error=True)


def _power(b: TapBeat, asking: Asking) -> Power:
    return Power("keys", b.combo, f"presses {asking.keys(b.combo)} on this computer")


KIND = Kind(
    TapBeat,
    "strike",
    "keys",
    _resolve,
    "keys",
    snags=_snags,
    limit_s=10.0,
    missed="the keys were not tapped",
    unnoticed="presses keys",
    power=_power,
    harmless=COMMON,
    asked="combo",
)
