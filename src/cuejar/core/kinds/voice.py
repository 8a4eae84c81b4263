"""The voice box: a preset, a pitch, a mix."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, Literal

from pydantic import Field, model_validator

from cuejar.core.facts.paths import Family, path_of
from cuejar.core.kinds.base import (
    COMMON,
    HEARD,
    HELD,
    CheckContext,
    Kind,
    Lengths,
    Named,
    Resolving,
    Snag,
    StartingBeat,
    hold_each,
    lost_names,
)
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.parts.base import Name, Share
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Faded, Timed


class VoiceBeat(Timed, Faded):
    kind: Literal["voice"]
    preset: Name | None = None
    pitch: Annotated[float, Field(ge=-24, le=24)] | None = Field(None, description="half tones up or down")
    mix: Share | None = Field(None, description="0: the unchanged voice, 1: only the changed one")

    @model_validator(mode="after")
    def _something(self) -> VoiceBeat:
        if self.preset is None and self.pitch is None and self.mix is None:
            raise ValueError("give a preset, a pitch or a mix")
        return self


def _resolve(r: Resolving, beat: StartingBeat, b: VoiceBeat) -> None:
    hold_each(r, beat, Family.VOICE, [("preset", b.preset)], [("pitch", b.pitch), ("mix", b.mix)])


def _snags(b: VoiceBeat, context: CheckContext) -> Iterator[Snag]:
    return lost_names(b, "voice", [("preset", "preset", b.preset)], context.catalogues)


def _holds(b: VoiceBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str | None:
    return next(
        (path_of(Family.VOICE, what) for what in ("preset", "pitch", "mix") if getattr(b, what) is not None), None
    )


def _tells(b: VoiceBeat, named: Named) -> str:
    return "changes the streamer’s voice" + (f" ({b.preset})" if b.preset else "")


KIND = Kind(
    VoiceBeat,
    "hold",
    "voice",
    _resolve,
    "voice",
    snags=_snags,
    holds=_holds,
    tells=_tells,
    noticed=HEARD | HELD,
    harmless=f"{COMMON} preset pitch mix",
    asked="",
)
