"""Mends: what puts a snag right, as fields that are changed. One function a check; where none knows better, a person must."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, NamedTuple

from cuejar.core.book.book import Cue, TextRule
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import JsonObject
from cuejar.core.snags.looked import Snag

LONG_ENOUGH_S = 3
MOST_ASKED = 200
"""How long a text may be that is asked for at the door."""


class Mend(NamedTuple):
    """``fields`` of the beat ``beat`` as they should be, or of the cue itself where that is empty. ``safe``: it changes nothing that
    the streamer meant, so that many may be done at once."""

    beat: str
    fields: JsonObject
    safe: bool


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
    """Asks for what is used; choices nobody else can know."""
    kinds: dict[str, Literal["any", "colour", "number"]] = {"text": "any", "colour": "colour", "number": "number"}
    if snag.key not in kinds:
        return None
    door = cue.door.model_copy(update={"text": TextRule(need=True, kind=kinds[snag.key], max=MOST_ASKED)})
    return Mend("", {"door": door.model_dump(mode="json")}, True)


def _last_hit(snag: Snag, cue: Cue) -> Mend | None:
    """A hit that is beyond what is thrown counts as the last one already: it says so from now on."""
    beat = next((one for one in cue.beats if one.id == snag.beat), None)
    thrown = next((one for one in cue.beats if beat is not None and one.id == beat.start.after), None)
    if beat is None or thrown is None or thrown.kind != "throw":
        return None
    return Mend(beat.id, {"start": beat.start.model_copy(update={"hit": thrown.count}).model_dump(mode="json")}, True)


MENDS: dict[str, Callable[[Snag, Cue], Mend | None]] = {
    "sound_outlasts_picture": _to_end,
    "lost_name": _nearest,
    "too_short": _longer,
    "text_not_asked": _ask,
    "no_hit": _last_hit,
}
"""What is known to put a check's snag right."""


def mend_of(snag: Snag, cue: Cue) -> Mend | None:
    find = MENDS.get(snag.check)
    return find(snag, cue) if find is not None else None


def hidden(snag: Snag, cue: Cue) -> str | None:
    """Why the streamer does not want to see a snag; None where they do."""
    return next((one.reason for one in cue.hidden if one.check == snag.check and one.beat == snag.beat), None)


def mended(cue: JsonObject, mend: Mend) -> JsonObject:
    """A cue as JSON with a mend in it."""
    if not mend.beat:
        return {**cue, **mend.fields}
    beats = [{**beat, **mend.fields} if beat["id"] == mend.beat else beat for beat in cue.get("beats", [])]
    return {**cue, "beats": beats}
