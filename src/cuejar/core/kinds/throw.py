"""A throw: things, or drops of a liquid, thrown at the avatar."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import SEEN, VISIBLE, CheckContext, Kind, Named, Resolving, Snag, StartingBeat
from cuejar.core.measures.throw import natural_ms
from cuejar.core.parts.base import Share
from cuejar.core.parts.steps import Flight, MediaRef, Natural, Place, Visible


class ThrowBeat(Natural, Visible, Flight):
    """Its place is the part of the overlay that the things may cross."""

    kind: Literal["throw"]
    media: MediaRef | None = Field(None, description="the thrown picture; none: drops of ``colour``")
    place: Place = Place(x=0, y=0, w=1, h=1)
    landing: Literal["bounce", "stick", "run"] = "bounce"
    size: Annotated[float, Field(gt=0, le=1)] = Field(0.12, description="relative to the overlay's height")
    colour: str = "#6b3a12"
    thickness: Share = Field(0.7, description="for drops: 0 runs like water, 1 hardly runs")


def _resolve(r: Resolving, beat: StartingBeat, b: ThrowBeat) -> None:
    beat.value = r.media(beat, b.media) if b.media is not None else "drop"


def _own_ms(b: ThrowBeat) -> int | None:
    return natural_ms(b) if b.length == "natural" else None


def _snags(b: ThrowBeat, context: CheckContext) -> Iterator[Snag]:
    if not context.targets or not context.targets.issuperset(b.targets):
        what = f"“{b.id}” is thrown at a target that doesn’t exist, so it goes to the middle or another target."
        yield Snag("no_target", what, "Draw targets over the avatar on the stage.")


def _tells(b: ThrowBeat, named: Named) -> str:
    return f"throws {named.media(b.media, 'picture') if b.media else 'something'} at the avatar, {b.count} ×"


KIND = Kind(
    ThrowBeat,
    "shown",
    "avatar",
    _resolve,
    snags=_snags,
    own_ms=_own_ms,
    tells=_tells,
    noticed=SEEN,
    harmless=f"{VISIBLE} media count every_s origin from_x from_y targets flight_s arc spin linger_s landing size colour thickness",
    asked="",
)
