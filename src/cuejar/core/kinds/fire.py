"""A cue fires another, by its id or drawn from a jar of cues."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from cuejar.core.kinds.base import COMMON, Kind, Named, Ref, Resolving, StartingBeat
from cuejar.core.parts.base import Id
from cuejar.core.parts.steps import Beat, FromJar


class FireBeat(Beat):
    kind: Literal["fire"]
    cue: Id | FromJar


def _resolve(r: Resolving, beat: StartingBeat, b: FireBeat) -> None:
    beat.value = r.draw(beat, b.cue)[0] if isinstance(b.cue, FromJar) else b.cue


def _refs(b: FireBeat) -> Iterator[Ref]:
    if isinstance(b.cue, str):
        yield Ref("cue", b.cue, ("cue",))


def _tells(b: FireBeat, named: Named) -> str:
    return f"calls {named.cue(b.cue)}"


def _fires(b: FireBeat) -> str | FromJar:
    return b.cue


KIND = Kind(
    FireBeat,
    "strike",
    "cue",
    _resolve,
    refs=_refs,
    tells=_tells,
    act="fires",
    fires=_fires,
    harmless=f"{COMMON} cue",
    asked="",
)
