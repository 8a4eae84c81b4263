"""Following renames: what the book says by name goes on to mean the same thing when it has another name on the gear."""

from __future__ import annotations

from typing import Any

from cuejar.core.book.folding import folded
from cuejar.core.facts.happenings import Renamed
from cuejar.core.rules.rig import renaming


def followed(data: dict[str, Any], renamed: Renamed) -> dict[str, Any]:
    """The book's JSON with the new name wherever the old one stood; the same object when it stood nowhere."""
    cues = [_cue(cue, renamed) for cue in data.get("cues", [])]
    path_now, value_now = renaming(renamed)
    looks = [
        {**look, "values": {path_now(path): value_now(path, value) for path, value in look.get("values", {}).items()}}
        for look in data.get("looks", [])
    ]
    if cues == data.get("cues", []) and looks == data.get("looks", []):
        return data
    return {**data, **({"cues": cues} if cues else {}), **({"looks": looks} if looks else {})}


def _name(name: Any, renamed: Renamed) -> Any:
    return renamed.new if isinstance(name, str) and folded(name) == folded(renamed.old) else name


def _cue(cue: dict[str, Any], renamed: Renamed) -> dict[str, Any]:
    out = {**cue, "beats": [_beat(beat, renamed) for beat in cue.get("beats", [])]}
    if "beats" not in cue:
        out.pop("beats")
    if renamed.what != "scene":
        return out
    if "calls" in cue:
        out["calls"] = [
            {**call, "scene": _name(call["scene"], renamed)} if call["kind"] == "scene" else call
            for call in cue["calls"]
        ]
    if cue.get("door", {}).get("scenes"):
        out["door"] = {**cue["door"], "scenes": [_name(scene, renamed) for scene in cue["door"]["scenes"]]}
    return out


def _beat(beat: dict[str, Any], renamed: Renamed) -> dict[str, Any]:
    kind, what = beat["kind"], renamed.what
    if what == "scene" and kind in ("scene", "source"):
        return {**beat, "scene": _name(beat["scene"], renamed)}
    if what == "source" and kind == "source" and beat.get("source"):
        return {**beat, "source": _name(beat["source"], renamed)}
    if what == "source" and kind == "filter":
        return {**beat, "sources": [_name(source, renamed) for source in beat["sources"]]}
    if what == "filter" and kind == "filter" and any(folded(s) == folded(renamed.of) for s in beat["sources"]):
        return {**beat, "filter": _name(beat["filter"], renamed)}
    return beat
