"""Traces: the results of a door's checks, stored compactly. Passed checks aren't written down; they follow from the
list of checks.

[]                                     every check passed
[[11, "cooldown", "3.2 s …", 3200]]    the twelfth check failed, with its words and the ms left
[1016, [...]]                          the checks of these bits (512 + 256 + …) were skipped, as for a pad
"""

from __future__ import annotations

from collections.abc import Sequence

from cuejar.core.facts.orders import Check
from cuejar.core.parts.base import JsonObject, JsonRow
from cuejar.core.rules.door import CHECKS

NAMES = (
    "house", "cue", "role", "viewer", "category", "scene", "text", "points", "cap_stream", "cap_viewer", "cap_window", "cooldown_viewer",
    "cooldown", "lane", "air", "condition",
)  # fmt: skip
"""The checks by their position in stored traces. A new one comes last, wherever it is checked."""
_PLACE = {name: place for place, name in enumerate(NAMES)}
NOT_ASKED = "not asked"


def packed(trace: Sequence[Check]) -> JsonRow:
    """Returns a trace in its stored form."""
    rows: JsonRow = []
    bits = sum(1 << _PLACE[check.check] for check in trace if check.passed and check.detail == NOT_ASKED)
    if bits:
        rows.append(bits)
    for check in trace:
        if not check.passed:
            row = [_PLACE[check.check], check.reason, check.detail, check.left_ms]
            while row[-1] in ("", None):
                row.pop()
            rows.append(row)
    return rows


def unpacked(rows: JsonRow) -> list[JsonObject]:
    """Returns all checks of a stored trace; one that an earlier version stored in full is unchanged."""
    if rows and isinstance(rows[0], dict):
        return list(rows)
    bits = rows[0] if rows and isinstance(rows[0], int) else 0
    failed = {row[0]: row[1:] for row in rows if isinstance(row, list)}
    checks = []
    for name in CHECKS:
        place = _PLACE[name]
        if place in failed:
            reason, detail, left = (*failed[place], None, None, None)[:3]
            checks.append(Check(name, False, reason, detail or "", left))
        else:
            checks.append(Check(name, True, None, NOT_ASKED if bits >> place & 1 else ""))
    return [check._asdict() for check in checks]
