"""Checks for things that work without any effect: calls that can never come, beats that nobody sees or hears."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Literal

from cuejar.core.book.book import Cue
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.catalogue import NotThere
from cuejar.core.parts.folding import folded
from cuejar.core.parts.steps import Condition
from cuejar.core.rules.score import Score, ranges
from cuejar.core.snags.context import CheckContext, Snag

_NAMES_DRAWN = re.compile(r"\{\{\s*drawn\.(name|times|picture)\b")
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


def phrase_unheard(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds a phrase of the streamer that isn't heard."""
    for call in cue.calls:
        if call.kind != "said":
            continue
        if context.book.house.listening == "off":
            if any(one.kind != "said" for one in cue.calls):
                continue
            what = f"Listening is off, so “{call.phrase}” never calls this cue."
            yield Snag("phrase", "warning", cue.id, "", what, "Switch it on under Phrases, beside Pads.")
        elif why := context.unheard.get(folded(call.phrase)):
            what = f"“{call.phrase}” never calls this cue. {why}"
            yield Snag("phrase", "warning", cue.id, "", what, "Open Phrases, beside Pads.")


def before_chance(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds a beat that depends on a roll, and begins while it is still rolling."""
    chances = {outcome.id: beat for beat in cue.beats for outcome in KINDS[beat.kind].outcomes(beat)}
    if not chances:
        return
    draw = next((beat for beat in cue.beats if KINDS[beat.kind].act == "draws"), None)
    spans = {span.beat: span for span in ranges(Score(cue, context.book), context.lengths)}
    for beat in cue.beats:
        asked = [chances.get(condition.rolled or "") for condition in beat.only_if]
        for chance in [*asked, draw if beat.whose == "drawn" else None]:
            if chance is None or chance is beat or spans[beat.id].start.shortest >= spans[chance.id].end.shortest:
                continue
            what = f"“{beat.id}” depends on “{chance.id}” but starts before its result, so it gives the result away."
            yield Snag("before_chance", "warning", cue.id, beat.id, what, f"Start it after “{chance.id}”.", chance.id)
            break


def nobody_drawn(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds what is for a drawn viewer in a cue that draws nobody, and what gives points where there are none."""
    acts = {beat.id: KINDS[beat.kind].act for beat in cue.beats}
    draws = "draws" in acts.values()
    for beat in cue.beats:
        if not draws and (beat.whose == "drawn" or names_drawn(beat)):
            what = f"“{beat.id}” is for a drawn viewer, but this cue draws nobody."
            yield Snag("nobody_drawn", "error", cue.id, beat.id, what, "Add a draw, or choose the caller.")
        if acts[beat.id] == "gives" and not context.book.points.on:
            what = f"“{beat.id}” gives points, but Cue Jar’s own points are off."
            yield Snag("points_off", "error", cue.id, beat.id, what, "Switch them on under Viewers.")


def names_drawn(beat: object) -> bool:
    """Returns whether a beat's words name the drawn viewer."""
    words = (getattr(beat, key, None) for key in ("text", "what", "title"))
    return any(isinstance(said, str) and _NAMES_DRAWN.search(said) is not None for said in words)


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
        for check, what, mend, key, *_ in KINDS[beat.kind].unseen(beat, cue, context):
            yield Snag(check, "warning", cue.id, beat.id, what, mend, key)


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
