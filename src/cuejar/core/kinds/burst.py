"""A burst: many small things that fly apart."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import SEEN, VISIBLE, Kind, Named, Resolving, StartingBeat
from cuejar.core.parts.base import Length_s, Share, ms
from cuejar.core.parts.steps import MediaRef, Timed, Visible


class BurstBeat(Timed, Visible):
    kind: Literal["burst"]
    media: MediaRef | None = None
    shape: Literal["ticket", "spark", "leaf", "dot"] = "ticket"
    colours: list[str] = ["#f0a23c", "#79c9a2", "#f4eedd"]
    count: Annotated[int, Field(ge=1, le=400)] = 60
    spread: Annotated[float, Field(ge=0, le=360)] = 90
    speed: Share = 0.7
    gravity: Annotated[float, Field(ge=-1, le=2)] = 0.6
    bounce: Share = 0
    life_s: Length_s = 3


def _resolve(r: Resolving, beat: StartingBeat, b: BurstBeat) -> None:
    beat.value = r.media(beat, b.media) if b.media is not None else b.shape


def _own_ms(b: BurstBeat) -> int | None:
    return ms(b.life_s) if b.length == "natural" else None


def _tells(b: BurstBeat, named: Named) -> str:
    return f"bursts into {b.count} {'pieces' if b.media is not None else b.shape + 's'}"


KIND = Kind(
    BurstBeat,
    "shown",
    "picture",
    _resolve,
    own_ms=_own_ms,
    tells=_tells,
    noticed=SEEN,
    harmless=f"{VISIBLE} media shape colours count spread speed gravity bounce life_s",
    asked="",
)
