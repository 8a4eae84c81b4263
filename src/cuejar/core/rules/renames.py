"""Follows renames on the gear: names in the book keep meaning the same thing."""

from __future__ import annotations

from cuejar.core.facts.happenings import Renamed
from cuejar.core.kinds.base import named_now
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import JsonObject
from cuejar.core.rules.rig import renaming


def followed(data: JsonObject, renamed: Renamed) -> JsonObject:
    """Returns the book's JSON with the new name in place of the old one; the same object if it isn't used."""
    cues = [_cue(cue, renamed) for cue in data.get("cues", [])]
    path_now, value_now = renaming(renamed)
    looks = [
        {**look, "values": {path_now(path): value_now(path, value) for path, value in look.get("values", {}).items()}}
        for look in data.get("looks", [])
    ]
    sets = [_set(one, renamed) for one in data.get("sets", [])]
    now = {"cues": cues, "looks": looks, "sets": sets}
    changed = {name: entries for name, entries in now.items() if entries != data.get(name, [])}
    return {**data, **changed} if changed else data


def _set(one: JsonObject, renamed: Renamed) -> JsonObject:
    if renamed.what != "scene" or "scenes" not in one:
        return one
    return {**one, "scenes": [named_now(scene, renamed) for scene in one["scenes"]]}


def _cue(cue: JsonObject, renamed: Renamed) -> JsonObject:
    out = {**cue, "beats": [KINDS[beat["kind"]].renamed(beat, renamed) for beat in cue.get("beats", [])]}
    if "beats" not in cue:
        out.pop("beats")
    if renamed.what != "scene":
        return out
    if "calls" in cue:
        out["calls"] = [
            {**call, "scene": named_now(call["scene"], renamed)} if call["kind"] == "scene" else call
            for call in cue["calls"]
        ]
    if cue.get("door", {}).get("scenes"):
        out["door"] = {**cue["door"], "scenes": [named_now(scene, renamed) for scene in cue["door"]["scenes"]]}
    return out
