"""Lamps: their colour, their level, and how their light moves."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, Literal

from pydantic import Field, model_validator

from cuejar.core.facts.paths import lamp_path
from cuejar.core.kinds.base import (
    COMMON,
    HELD,
    SEEN,
    CannotDo,
    CheckContext,
    Kind,
    Lengths,
    Named,
    OtherBeats,
    Ref,
    Resolving,
    Snag,
    StartingBeat,
)
from cuejar.core.measures.catalogue import Catalogues
from cuejar.core.measures.colour import RANDOM, as_hex
from cuejar.core.measures.lamps import Motion, overlaps, patched
from cuejar.core.parts.base import Id, Share
from cuejar.core.parts.gear import Gear, meant_lamps
from cuejar.core.parts.steps import Faded, Timed, Words


class LightBeat(Timed, Faded):
    kind: Literal["light"]
    fixtures: Literal["all"] | list[Id] = "all"
    colour: Words | None = None
    level: Share | None = None
    look: Literal["steady", "breathe", "chase", "flicker"] | None = None
    period_s: Annotated[float, Field(ge=0.2, le=60)] = Field(2, description="how long one turn of the look takes")

    @model_validator(mode="after")
    def _something(self) -> LightBeat:
        if self.colour is None and self.level is None and self.look is None:
            raise ValueError("give a colour, a level or a look")
        return self


def _resolve(r: Resolving, beat: StartingBeat, b: LightBeat) -> None:
    lamps = [gear for gear in r.gear if gear.kind == "lights"]
    fixtures = meant_lamps(lamps, b.fixtures) if lamps or b.fixtures != "all" else r.lamps()
    if not fixtures:
        raise CannotDo("there are no lamps")
    if b.colour is not None:
        path = lamp_path(fixtures[0], "colour")
        if isinstance(b.colour, str) and "{{colour}}" in b.colour:
            r.colour(path)
        colour = as_hex(r.words(beat, b.colour))
        if not colour:
            raise CannotDo("the viewer named no colour")
        if colour == RANDOM:
            colour = r.random_colour(path)
        beat.sets += [(lamp_path(fixture, "colour"), colour) for fixture in fixtures]
    if b.level is not None:
        beat.sets += [(lamp_path(fixture, "level"), b.level) for fixture in fixtures]
    if b.look is not None:
        motions = [Motion(b.look, b.period_s, i, len(fixtures)) for i in range(len(fixtures))]
        beat.sets += [
            (lamp_path(fixture, "look"), str(motion)) for fixture, motion in zip(fixtures, motions, strict=True)
        ]


def _snags(b: LightBeat, context: CheckContext) -> Iterator[Snag]:
    lamps = [fixture for gear in context.gear if gear.kind == "lights" for fixture in gear.fixtures]
    if lamps and (overlaps(lamps) or len(patched(lamps)) < len(lamps)):
        what = "Two lamps use the same channels, or one doesn’t fit."
        yield Snag("lamp_overlap", what, "Fix it on the Rig page.")


def _holds(b: LightBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str | None:
    wanted = meant_lamps(gear, b.fixtures)
    key = "colour" if b.colour is not None else "level" if b.level is not None else "look"
    return lamp_path(wanted[0], key) if wanted else None


def _refs(b: LightBeat) -> Iterator[Ref]:
    if isinstance(b.fixtures, list):
        for index, fixture in enumerate(b.fixtures):
            yield Ref("fixture", fixture, ("fixtures", index))


def _tells(b: LightBeat, named: Named) -> str:
    colour = b.colour if isinstance(b.colour, str) else ""
    if "{{colour}}" in colour:
        return f"turns the lamps {named.whose} colour"
    return "changes the lamps’ colour" if b.colour is not None else "changes the lamps"


def _unseen(b: LightBeat, cue: OtherBeats, context: CheckContext) -> Iterator[Snag]:
    """Finds a colour for lamps that are dark."""
    if b.level is not None:
        return
    levels = [context.rest.get(lamp_path(lamp, "level")) for lamp in meant_lamps(context.gear, b.fixtures)]
    lit = any(isinstance(other, LightBeat) and other.level for other in cue.beats)
    if levels and all(level == 0 for level in levels) and not lit:
        what = f"“{b.id}” colours lamps whose level is 0, so they stay dark."
        yield Snag("lamps_dark", what, "Turn them up for the beat.")


KIND = Kind(
    LightBeat,
    "hold",
    "light",
    _resolve,
    "lights",
    snags=_snags,
    holds=_holds,
    refs=_refs,
    noticed=SEEN | HELD,
    tells=_tells,
    unseen=_unseen,
    harmless=f"{COMMON} fixtures colour level look period_s",
    asked="",
)
