"""Reads what earlier versions wrote.

- Patterns were painted on cells 0 to 39, four across and five down, 0 to 19 in front: they become places on the body.
- Scenes, sources and avatars had fades, which did nothing: they are left out.
"""

from __future__ import annotations

from typing import Any

ACROSS, DOWN, CELLS = 4, 5, 40


SUDDEN = ("scene", "source", "avatar")
FADES = ("fade_in_s", "fade_out_s")


def brought_on(data: Any) -> Any:
    """Returns a book's JSON as this version would have written it; unknown parts stay as they are."""
    if not isinstance(data, dict):
        return data
    new = dict(data)
    if isinstance(data.get("patterns"), list):
        new["patterns"] = [_by_place(pattern) for pattern in data["patterns"]]
    if isinstance(data.get("cues"), list):
        new["cues"] = [_without_fades(cue) for cue in data["cues"]]
    return new


def _without_fades(cue: Any) -> Any:
    beats = cue.get("beats") if isinstance(cue, dict) else None
    if not isinstance(beats, list) or not any(_fades(beat) for beat in beats):
        return cue
    kept = [{k: v for k, v in beat.items() if k not in FADES} if _fades(beat) else beat for beat in beats]
    return {**cue, "beats": kept}


def _fades(beat: Any) -> bool:
    return isinstance(beat, dict) and beat.get("kind") in SUDDEN and any(fade in beat for fade in FADES)


def _by_place(pattern: Any) -> Any:
    frames = pattern.get("frames") if isinstance(pattern, dict) else None
    if not isinstance(frames, list) or not any(isinstance(frame, dict) and "cells" in frame for frame in frames):
        return pattern
    felt: set[int] = set()
    new: list[Any] = []
    for frame in frames:
        if not isinstance(frame, dict):
            return pattern
        levels = {}
        for cell, level in (frame.get("cells") or {}).items():
            if not str(cell).isdecimal() or int(cell) >= CELLS:
                return pattern
            felt.add(int(cell))
            levels[f"c{int(cell)}"] = level
        new.append({**{key: value for key, value in frame.items() if key != "cells"}, "levels": levels})
    return {**pattern, "places": {f"c{cell}": _place(cell) for cell in sorted(felt)}, "frames": new}


def _place(cell: int) -> dict[str, Any]:
    row, column = divmod(cell % (ACROSS * DOWN), ACROSS)
    return {
        "side": "front" if cell < ACROSS * DOWN else "back",
        "x": round(0.2 + 0.2 * column, 3),
        "y": round(0.2 + 0.14 * row, 3),
        "size": 0.16,
    }
