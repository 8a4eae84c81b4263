"""A source of a scene is shown or hidden, by name or at random."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import suppress
from typing import Literal

from pydantic import Field, model_validator

from cuejar.core.facts.happenings import Renamed
from cuejar.core.facts.paths import SCENE, source_path
from cuejar.core.kinds.base import (
    HELD,
    SEEN,
    SUDDEN,
    CheckContext,
    Kind,
    Lengths,
    Named,
    OtherBeats,
    Resolving,
    Snag,
    StartingBeat,
    lost,
    named_now,
)
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.parts.base import JsonObject, Name
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Timed


class SourceBeat(Timed):
    kind: Literal["source"]
    scene: Name
    source: Name | None = None
    any_source: bool = Field(False, description="a random one of the scene's sources")
    beginning: str = Field("", description="with any_source: only those whose name starts with this")
    hide_others: bool = False
    visible: bool = True

    @model_validator(mode="after")
    def _one_way(self) -> SourceBeat:
        if (self.source is None) == (not self.any_source):
            raise ValueError("name a source, or set any_source")
        return self


def _resolve(r: Resolving, beat: StartingBeat, b: SourceBeat) -> None:
    scene = r.catalogues.scene(b.scene)
    listed = r.sources(scene)
    if b.source is None:
        chosen = r.one_source(beat, scene, b.beginning)
    else:
        scene, chosen = r.catalogues.source(scene, b.source)
    beat.sets = [(source_path(scene, chosen), b.visible)]
    if b.hide_others:
        others = [s for s in listed if s != chosen and folded(s).startswith(folded(b.beginning))]
        beat.sets += [(source_path(scene, other), not b.visible) for other in others]


def _snags(b: SourceBeat, context: CheckContext) -> Iterator[Snag]:
    key = "scene"
    try:
        scene = context.catalogues.scene(b.scene)
        key = "source"
        if b.source is not None:
            context.catalogues.source(scene, b.source)
    except NotThere as error:
        yield lost(b, key, error)


def _needless(b: SourceBeat, context: CheckContext) -> str | None:
    if b.source is None:
        return None
    scene, source = context.catalogues.source(b.scene, b.source)
    if context.rest.get(source_path(scene, source)) is not b.visible:
        return None
    return f"{source} is already {'shown' if b.visible else 'hidden'} in {scene}"


def _holds(b: SourceBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str | None:
    return source_path(*catalogues.source(b.scene, b.source)) if b.source is not None else None


def _renamed(beat: JsonObject, renamed: Renamed) -> JsonObject:
    if renamed.what == "scene":
        return {**beat, "scene": named_now(beat["scene"], renamed)}
    if renamed.what == "source" and beat.get("source"):
        return {**beat, "source": named_now(beat["source"], renamed)}
    return beat


def _tells(b: SourceBeat, named: Named) -> str:
    what = b.source or f"a random source in {b.scene}"
    return f"{'shows' if b.visible else 'hides'} {what}"


def _unseen(b: SourceBeat, cue: OtherBeats, context: CheckContext) -> Iterator[Snag]:
    """Finds a source in a scene that isn't shown."""
    rest = context.rest.get(SCENE)
    try:
        scene = context.catalogues.scene(b.scene)
    except NotThere:
        return
    with suppress(NotThere):
        if _needless(b, context):
            return  # Another check reports that nothing happens at all.
    if isinstance(rest, str) and rest != scene and not context.may_switch(cue) and not cue.door.scenes:
        what = f"“{b.id}” moves something in the scene {scene}, and {rest} is on, so nobody will see it."
        yield Snag("scene_away", what, f"Show {scene} for the beat.", scene)


def _choices(b: SourceBeat, what: str, catalogues: Catalogues) -> list[str]:
    there = catalogues.broadcaster
    if there is None:
        return []
    return list(there.scenes) if what == "scene" else sorted(set(there.scenes.get(b.scene, ())))


KIND = Kind(
    SourceBeat,
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
    unseen=_unseen,
    choices=_choices,
    harmless=f"{SUDDEN} scene source any_source beginning hide_others visible",
    asked="",
)
