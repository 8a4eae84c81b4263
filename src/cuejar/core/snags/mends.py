"""Fixes for snags, as changed fields. One function per check; if there is none, a person must decide."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, NamedTuple

from cuejar.core.book.book import Cue, TextRule
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.steps import Flight
from cuejar.core.snags.context import Snag
from cuejar.core.snags.unseen import WORDLESS

LONG_ENOUGH_S = 3
MOST_ASKED = 200
"""The maximum length of a text that a fix asks for at the door."""


class Mend(NamedTuple):
    """New ``fields`` of the beat ``beat``, or of the cue itself if that is empty. ``safe``: it changes nothing that
    the streamer intended, so that many can be applied at once. ``add``: beats to add.
    """

    beat: str
    fields: JsonObject
    safe: bool
    add: list[JsonObject] = []


def _to_end(snag: Snag, cue: Cue) -> Mend | None:
    shown = (beat for beat in cue.beats if KINDS[beat.kind].is_seen and KINDS[beat.kind].way == "shown")
    picture = next(shown, None)
    return Mend(picture.id, {"length": "to_end"}, True) if picture is not None else None


def _nearest(snag: Snag, cue: Cue) -> Mend | None:
    if not snag.near:
        return None
    name = snag.near[0]
    return Mend(snag.beat, {snag.key: [name] if snag.key == "sources" else name}, False)


def _longer(snag: Snag, cue: Cue) -> Mend | None:
    return Mend(snag.beat, {"length": {"s": LONG_ENOUGH_S}}, False)


def _ask(snag: Snag, cue: Cue) -> Mend | None:
    """Asks for what is used, and requires it if a call can bring it; choices can't be guessed."""
    kinds: dict[str, Literal["any", "colour", "number"]] = {"text": "any", "colour": "colour", "number": "number"}
    if snag.key not in kinds:
        return None
    brings = not cue.calls or any(call.kind not in WORDLESS for call in cue.calls)
    door = cue.door.model_copy(update={"text": TextRule(need=brings, kind=kinds[snag.key], max=MOST_ASKED)})
    return Mend("", {"door": door.model_dump(mode="json")}, True)


def _last_hit(snag: Snag, cue: Cue) -> Mend | None:
    """Writes a hit beyond the last thing as the last one, which it already means."""
    beat = next((one for one in cue.beats if one.id == snag.beat), None)
    thrown = next((one for one in cue.beats if beat is not None and one.id == beat.start.after), None)
    if beat is None or not isinstance(thrown, Flight):
        return None
    return Mend(beat.id, {"start": beat.start.model_copy(update={"hit": thrown.count}).model_dump(mode="json")}, True)


def _without_text(snag: Snag, cue: Cue) -> Mend | None:
    text = cue.door.text.model_copy(update={"need": False}) if cue.door.text is not None else None
    return Mend("", {"door": cue.door.model_copy(update={"text": text}).model_dump(mode="json", by_alias=True)}, False)


def _after_chance(snag: Snag, cue: Cue) -> Mend | None:
    before = {beat.id: beat.start.after for beat in cue.beats}
    at: str | None = snag.key
    while at is not None:  # Not if the chance itself waits for the beat.
        at = before.get(at)
        if at == snag.beat:
            return None
    return Mend(snag.beat, {"start": {"after": snag.key, "edge": "end", "at_s": 0}}, False)


def _meanwhile(fields: Callable[[Snag, JsonObject], JsonObject]) -> Callable[[Snag, Cue], Mend | None]:
    """Returns a beat beside the one of the snag, from its start for as long as it lasts."""

    def find(snag: Snag, cue: Cue) -> Mend | None:
        beat = next(one for one in cue.beats if one.id == snag.beat)
        data = beat.model_dump(mode="json", by_alias=True)
        taken = {one.id for one in cue.beats}
        name = next(name for n in range(1, 2_002) if (name := f"{snag.beat[:58]}-{n}") not in taken)
        lasts: JsonObject = {key: data[key] for key in ("start", "length", "only_if", "unless") if key in data}
        return Mend("", {}, False, [{"id": name, **lasts, **fields(snag, data)}])

    return find


def _filter_on(snag: Snag, data: JsonObject) -> JsonObject:
    return {"kind": "filter", "sources": data["sources"], "filter": data["filter"], "setting": "on", "value": True}


def _scene_on(snag: Snag, data: JsonObject) -> JsonObject:
    return {"kind": "scene", "scene": snag.key}


def _lit(snag: Snag, cue: Cue) -> Mend | None:
    return Mend(snag.beat, {"level": 1}, False)


def _everywhere(snag: Snag, cue: Cue) -> Mend | None:
    return Mend(snag.beat, {"overlays": []}, False) if snag.key else None


def _for_the_caller(snag: Snag, cue: Cue) -> Mend | None:
    beat = next((one for one in cue.beats if one.id == snag.beat), None)
    return Mend(snag.beat, {"whose": "caller"}, False) if beat is not None and beat.whose == "drawn" else None


MENDS: dict[str, Callable[[Snag, Cue], Mend | None]] = {
    "sound_outlasts_picture": _to_end,
    "lost_name": _nearest,
    "too_short": _longer,
    "text_not_asked": _ask,
    "no_hit": _last_hit,
    "never_text": _without_text,
    "before_chance": _after_chance,
    "nobody_drawn": _for_the_caller,
    "filter_off": _meanwhile(_filter_on),
    "scene_away": _meanwhile(_scene_on),
    "lamps_dark": _lit,
    "unheard": _everywhere,
}
"""The known fix of each check's snag."""


def mend_of(snag: Snag, cue: Cue) -> Mend | None:
    find = MENDS.get(snag.check)
    return find(snag, cue) if find is not None else None


def hidden(snag: Snag, cue: Cue) -> str | None:
    """Returns why the streamer has hidden a snag; None if they haven't."""
    return next((one.reason for one in cue.hidden if one.check == snag.check and one.beat == snag.beat), None)


def mended(cue: JsonObject, mend: Mend) -> JsonObject:
    """Returns a cue as JSON with a fix applied."""
    beats = [{**beat, **mend.fields} if beat["id"] == mend.beat else beat for beat in cue.get("beats", [])]
    return {**cue, **({} if mend.beat else mend.fields), "beats": [*beats, *mend.add]}
