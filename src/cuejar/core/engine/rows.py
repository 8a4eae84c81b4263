"""What is sent of a running show, row by row: as the view gives it, and as the desk gets it. Times are ms of the show's
clock.
"""

from __future__ import annotations

from typing import NamedTuple

from pydantic import BaseModel, ConfigDict

from cuejar.core.facts.happenings import PropertyValue, Viewer


class InTheDraw(NamedTuple):
    """Somebody who may be drawn: their weight, their chance in the next draw, and how often they were drawn."""

    viewer: Viewer
    weight: float
    share: float
    times: int


class Told(BaseModel):
    """A message, or a part of one. Its checks are built when it is first used, or in the background before."""

    model_config = ConfigDict(extra="forbid", defer_build=True)


class HeldRow(Told):
    """A property away from rest; ``until`` is None while it is open, ``returns_to`` shows after it. ``name`` and ``thing`` are it
    and its owner in words."""

    path: str
    name: str
    thing: str
    output: str
    value: PropertyValue
    returns_to: PropertyValue
    rest: PropertyValue
    run: str
    beat: str
    cue: str
    viewer: str
    since: int
    until: int | None
    layers: int
    viewer_id: str = ""


class BeatUp(Told):
    beat: str
    kind: str
    output: str
    until: int | None


class RunRow(Told):
    run: str
    cue: str
    name: str
    viewer: str
    text: str
    redemption: str | None
    call: str
    entry: str
    viewer_id: str = ""


class RunningRow(RunRow):
    started: int
    until: int | None
    beats: list[BeatUp]


class WaitingRow(RunRow):
    """``begins`` is roughly when it will start, to the second."""

    since: int
    begins: int


class PadNow(Told):
    """A cue that isn't idle, as its pad shows it: how many of it run and wait; since when and until when it is on
    (None: until it is released, or nothing runs); whether something open is up; until when viewers wait for its
    cooldown.
    """

    cue: str
    runs: int
    waits: int
    since: int | None
    until: int | None
    open: bool
    cools_until: int | None


class LaneState(Told):
    """A lane: how many run and wait; the first of them by name."""

    id: str
    name: str
    width: int
    runs: int
    waits: int
    running: list[RunningRow]
    waiting: list[WaitingRow]
