"""A scene: the broadcaster switches to another one, and back."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from cuejar.core.facts.happenings import PropertyValue, Renamed
from cuejar.core.facts.paths import SCENE
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
    lost,
    named_now,
)
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.parts.base import JsonObject, Name
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Timed


class SceneBeat(Timed):
    kind: Literal["scene"]
    scene: Name


def _sets(b: SceneBeat, catalogues: Catalogues) -> list[tuple[str, PropertyValue]]:
    return [(SCENE, catalogues.scene(b.scene))]


def _resolve(r: Resolving, beat: StartingBeat, b: SceneBeat) -> None:
    beat.sets = _sets(b, r.catalogues)


def _snags(b: SceneBeat, context: CheckContext) -> Iterator[Snag]:
    try:
        context.catalogues.scene(b.scene)
    except NotThere as error:
        yield lost(b, "scene", error)


def _needless(b: SceneBeat, context: CheckContext) -> str | None:
    on = context.rest.get(SCENE) == context.catalogues.scene(b.scene)
    return f"the scene {b.scene} is already on" if on else None


def _holds(b: SceneBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str:
    return SCENE


def _renamed(beat: JsonObject, renamed: Renamed) -> JsonObject:
    return {**beat, "scene": named_now(beat["scene"], renamed)} if renamed.what == "scene" else beat


def _tells(b: SceneBeat, named: Named) -> str:
    return f"switches to {b.scene}"


def _choices(b: SceneBeat, what: str, catalogues: Catalogues) -> list[str]:
    return list(catalogues.broadcaster.scenes) if catalogues.broadcaster is not None else []


KIND = Kind(
    SceneBeat,
    "hold",
    "broadcast",
    _resolve,
    "broadcaster",
    snags=_snags,
    holds=_holds,
    needless=_needless,
    renamed=_renamed,
    noticed=SEEN | HELD,
    tells=_tells,
    sets=_sets,
    choices=_choices,
    harmless=f"{SUDDEN} scene",
    asked="",
)
