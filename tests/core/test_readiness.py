"""Before going on air: each problem is reported with its fix, and nothing if all is well."""

from __future__ import annotations

from typing import Any

import pytest

from cuejar.core.snags.readiness import LOW_BYTES, GearThere, OverlayThere, Tonight, concerns

CHANNEL = GearThere("Tinwhistle Halt", "channel", "in_step")
WELL = Tonight(True, 80, [], [], [CHANNEL], [OverlayThere("Stream", 1)], {}, [], 5 * LOW_BYTES, [])


def test_nothing_is_said_when_all_is_well() -> None:
    assert concerns(WELL) == []
    assert concerns(WELL._replace(gear=[CHANNEL, GearThere("Lamps", "lights", "off")], off={"Light": []})) == []


@pytest.mark.parametrize(
    ("check", "grade", "says", "change"),
    [
        ("channel", "error", "No channel is connected", {"gear": []}),
        ("away", "error", "Lamps isn’t connected: nothing answers.", {"gear": [CHANNEL, GearThere("Lamps", "lights", "away", "nothing answers.")]}),
        ("overlay", "error", "No overlay is connected", {"overlays": [OverlayThere("Stream", 0)]}),
        ("blocked", "error", "blocks the sound of Stream", {"overlays": [OverlayThere("Stream", 2, 1)]}),
        ("snags", "error", "“Tea”, “Owl”, “Fog” and 1 more can’t work as they are", {"errors": ["Tea", "Owl", "Fog", "Mail"]}),
        ("snags", "error", "“Tea” can’t work.", {"errors": ["Tea"]}),
        ("warnings", "warning", "“Tea” has a warning", {"warnings": ["Tea"]}),
        ("house", "error", "The house is closed", {"house_open": False}),
        ("volume", "warning", "The volume is 0", {"volume": 0}),
        ("off", "warning", "Speech is switched off; “Tea” has it", {"off": {"Speech": ["Tea"]}}),
        ("try", "warning", "“Tea” is being tried at a higher speed", {"tries": ["Tea"]}),
        ("disk", "warning", "Only 0.4 GB are free", {"free_bytes": 400_000_000}),
        ("trouble", "error", "The disk is full.", {"troubles": ["The disk is full."]}),
    ],
)  # fmt: skip
def test_each_is_said_with_its_mend(check: str, grade: str, says: str, change: dict[str, Any]) -> None:
    (row,) = concerns(WELL._replace(**change))
    assert (row.check, row.grade) == (check, grade) and says in row.what and row.mend and row.page.startswith("/")


def test_the_worst_stands_first() -> None:
    rows = concerns(WELL._replace(volume=0, warnings=["Tea"], house_open=False, free_bytes=1))
    assert [row.check for row in rows] == ["house", "volume", "warnings", "disk"]
