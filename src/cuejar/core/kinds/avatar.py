"""The avatar: its model, its outfit, its expressions, its pose."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from pydantic import model_validator

from cuejar.core.facts.paths import Family, path_of
from cuejar.core.kinds.base import (
    HELD,
    SEEN,
    SUDDEN,
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
from cuejar.core.parts.base import Name
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Timed, one_for_many


class AvatarBeat(Timed):
    kind: Literal["avatar"]
    model: Name | None = None
    outfit: Name | None = None
    expressions: list[Name] = []
    pose: Name | None = None

    @model_validator(mode="before")
    @classmethod
    def _one(cls, data: object) -> object:
        return one_for_many(data, "expression", "expressions")

    @model_validator(mode="after")
    def _something(self) -> AvatarBeat:
        if not (self.model or self.outfit or self.expressions or self.pose):
            raise ValueError("give a model, an outfit, an expression or a pose")
        return self


def _worn(b: AvatarBeat) -> list[tuple[str, str | None]]:
    return [("model", b.model), ("outfit", b.outfit), ("pose", b.pose)]


def _resolve(r: Resolving, beat: StartingBeat, b: AvatarBeat) -> None:
    hold_each(r, beat, Family.AVATAR, _worn(b))
    for name in b.expressions:
        beat.sets.append((path_of(Family.AVATAR, "expression", r.catalogues.named("avatar", "expression", name)), "on"))
    beat.sets = list(dict.fromkeys(beat.sets))


def _snags(b: AvatarBeat, context: CheckContext) -> Iterator[Snag]:
    names = [(what, what, name) for what, name in _worn(b)]
    names += [("expressions", "expression", name) for name in b.expressions]
    return lost_names(b, "avatar", names, context.catalogues)


def _holds(b: AvatarBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str | None:
    return next((path_of(Family.AVATAR, what) for what, name in _worn(b) if name is not None), None)


def _tells(b: AvatarBeat, named: Named) -> str:
    worn = [name for name in (b.outfit, b.pose, *b.expressions, b.model) if name]
    return f"changes the avatar ({', '.join(worn)})"


KIND = Kind(
    AvatarBeat,
    "hold",
    "avatar",
    _resolve,
    "avatar",
    snags=_snags,
    holds=_holds,
    tells=_tells,
    noticed=SEEN | HELD,
    harmless=f"{SUDDEN} model outfit expressions pose",
    asked="",
)
