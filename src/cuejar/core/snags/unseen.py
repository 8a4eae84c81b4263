"""Checks for things that work without any effect: calls that can never come, beats that nobody sees or hears."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from typing import Literal

from cuejar.core.book.book import Cue
from cuejar.core.kinds.filter import FilterBeat
from cuejar.core.kinds.light import LightBeat
from cuejar.core.kinds.scene import PATH as SCENE
from cuejar.core.kinds.source import SourceBeat
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.catalogue import NotThere
from cuejar.core.parts.gear import meant_lamps
from cuejar.core.parts.steps import Condition
from cuejar.core.rules.score import Score, ranges
from cuejar.core.snags.context import CheckContext, Snag

WORDLESS = {
    "follow": "A follow",
    "raid": "A raid",
    "clock": "A timer",
    "count": "A count",
    "stream": "The start or end of the stream",
    "scene": "A scene",
}
"""Kinds of call that never bring a text."""


def never_text(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds a call that never brings a text, at a door that needs one."""
    if cue.door.text is None or not cue.door.text.need:
        return
    kinds = [kind for kind in WORDLESS if any(call.kind == kind for call in cue.calls)]
    if kinds:
        what = f"{WORDLESS[kinds[0]]} brings no text, but this cue needs it, so every such call is refused."
        grade: Literal["error", "warning"] = "error" if all(one.kind in WORDLESS for one in cue.calls) else "warning"
        yield Snag("never_text", grade, cue.id, "", what, "Allow calls without text.")


def before_chance(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds a beat that depends on a roll, and begins while it is still rolling."""
    chances = {outcome.id: beat for beat in cue.beats if beat.kind == "chance" for outcome in beat.outcomes}
    if not chances:
        return
    spans = {span.beat: span for span in ranges(Score(cue, context.book), context.lengths)}
    for beat in cue.beats:
        for condition in beat.only_if:
            chance = chances.get(condition.rolled or "")
            if chance is None or spans[beat.id].start.shortest >= spans[chance.id].end.shortest:
                continue
            what = f"“{beat.id}” depends on “{chance.id}” but starts before its result, so it gives the result away."
            yield Snag("before_chance", "warning", cue.id, beat.id, what, f"Start it after “{chance.id}”.", chance.id)
            break


def _scenes(cue: Cue) -> Iterator[tuple[str, str]]:
    """Yields names of scenes that call a cue or open its door, each with its beat."""
    yield from ((call.scene, "") for call in cue.calls if call.kind == "scene")
    yield from ((scene, "") for scene in cue.door.scenes)
    conditions: list[tuple[str, list[Condition]]] = [("", cue.door.only_if), *((b.id, b.only_if) for b in cue.beats)]
    for beat, asked in conditions:
        yield from ((one.scene, beat) for one in asked if one.scene is not None)


def unknown_scene(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    for name, beat in _scenes(cue):
        try:
            context.catalogues.scene(name)
        except NotThere as error:
            mend = f"Choose {error.near[0]}, or another scene." if error.near else "Choose another scene."
            yield Snag("unknown_scene", "warning", cue.id, beat, f"There is no scene “{name}”.", mend)
            return


def hidden_hold(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds changes that nobody sees: a filter that is off, a source in a scene that isn't shown."""
    for beat in cue.beats:
        if beat.kind == "filter" and beat.setting != "on":
            yield from _filter_off(cue, beat, context)
        elif beat.kind == "source":
            yield from _scene_away(cue, beat, context)
        elif beat.kind == "light" and beat.level is None:
            yield from _dark(cue, beat, context)


def _filter_off(cue: Cue, beat: FilterBeat, context: CheckContext) -> Iterator[Snag]:
    on = {
        source
        for one in cue.beats
        if one.kind == "filter" and one.setting == "on" and one.value
        for source in one.sources
    }
    for source in beat.sources:
        try:
            there, name, _ = context.catalogues.filter(source, beat.filter, beat.setting)
        except NotThere:
            return
        if context.rest.get(f"broadcast/filter/{there}/{name}/on") is False and source not in on:
            what = f"“{beat.id}” changes the filter {name} of {there}, which is off, so nobody will see it."
            yield Snag("filter_off", "warning", cue.id, beat.id, what, "Switch the filter on for the beat.")
            return


def _scene_away(cue: Cue, beat: SourceBeat, context: CheckContext) -> Iterator[Snag]:
    rest = context.rest.get(SCENE)
    try:
        scene = context.catalogues.scene(beat.scene)
    except NotThere:
        return
    with suppress(NotThere):
        if KINDS["source"].needless(beat, context):
            return  # Another check reports that nothing happens at all.
    switches = any(other.kind in ("scene", "fire") for other in cue.beats)
    if isinstance(rest, str) and rest != scene and not switches and not cue.door.scenes:
        what = f"“{beat.id}” moves something in the scene {scene}, and {rest} is on, so nobody will see it."
        yield Snag("scene_away", "warning", cue.id, beat.id, what, f"Show {scene} for the beat.", scene)


def _dark(cue: Cue, beat: LightBeat, context: CheckContext) -> Iterator[Snag]:
    levels = [context.rest.get(f"light/{lamp}/level") for lamp in meant_lamps(context.gear, beat.fixtures)]
    lit = any(other.kind == "light" and other.level for other in cue.beats)
    if levels and all(level == 0 for level in levels) and not lit:
        what = f"“{beat.id}” colours lamps whose level is 0, so they stay dark."
        yield Snag("lamps_dark", "warning", cue.id, beat.id, what, "Turn them up for the beat.")


def unheard(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds a sound that no overlay of the stream plays."""
    loud = {one.id for one in context.book.overlays if one.sound and not one.private}
    for beat in cue.beats:
        if not KINDS[beat.kind].is_heard or not context.book.overlays:
            continue
        meant = getattr(beat, "overlays", []) or [one.id for one in context.book.overlays]
        if not loud & set(meant):
            mend = "Play it on every overlay." if loud else "Let an overlay play sound, on the Rig page."
            what = f"“{beat.id}” plays only on overlays without sound, so nobody will hear it."
            yield Snag("unheard", "warning", cue.id, beat.id, what, mend, "overlays" if loud else "")
