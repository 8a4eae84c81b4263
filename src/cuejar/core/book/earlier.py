"""What books of before had otherwise, brought to what it is now.

Patterns were painted on cells 0 to 39, four across and five down, 0 to 19 in front: they become places on the body.
"""

from __future__ import annotations

from typing import Any

ACROSS, DOWN, CELLS = 4, 5, 40


def brought_on(data: Any) -> Any:
    """A book as JSON with what was otherwise before as it is now; everything else as it stands."""
    if not isinstance(data, dict) or not isinstance(data.get("patterns"), list):
        return data
    return {**data, "patterns": [_by_place(pattern) for pattern in data["patterns"]]}


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
