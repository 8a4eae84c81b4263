"""What can be seen of the engine: what is up, what is held and what it returns to, who runs and who waits how long.

Nothing here changes anything.
"""

from __future__ import annotations

import heapq
from itertools import islice
from typing import Any, NamedTuple

from cuejar.core import orders as o
from cuejar.core.base import ms
from cuejar.core.beats import KINDS
from cuejar.core.engine import Engine
from cuejar.core.happenings import PropertyValue
from cuejar.core.holds import combined, family
from cuejar.core.lanes import Lane
from cuejar.core.run import Run
from cuejar.core.score import UP, RunBeat, ranges


def up(engine: Engine) -> list[o.Show | o.Roll]:
    """Everything that is up now, as the orders that would show it; ``at`` is when each began."""
    shown: list[o.Show | o.Roll] = []
    for run in engine.runs.values():
        for beat in run.beats:
            if beat.state != UP or beat.failed is not None or beat.spec.off:
                continue
            spec = beat.spec
            if spec.way == "shown":
                shown.append(o.Show(run.id, spec.id, spec.kind, beat.value, beat.end, beat.start or 0, spec.look))
            elif spec.kind == "chance":
                value = beat.value
                shown.append(o.Roll(run.id, spec.id, value["faces"], value["outcome"], beat.end, spec.look))
    return shown


class Held(NamedTuple):
    """A property away from rest. ``until`` (ms) is None while it is open; ``returns_to`` is what shows after it."""

    path: str
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


_OUTPUTS = {"broadcast": "broadcast", "reward": "reward"}


def _beat_of(engine: Engine, run: str, beat: str) -> tuple[Run | None, RunBeat | None]:
    found = engine.runs.get(run)
    return found, next((b for b in found.beats if b.spec.id == beat), None) if found else None


def held(engine: Engine) -> list[Held]:
    """Every property away from rest, the one that ends last first."""
    rows = []
    for path, p in engine.holds.held().items():
        top = p.layers[-1]
        run, beat = _beat_of(engine, top.run, top.beat)
        returns_to = combined(path, p.rest, p.layers[:-1])
        rows.append(
            Held(
                path,
                _OUTPUTS.get(family(path), family(path)),
                engine.holds.showing(path),
                returns_to,
                p.rest,
                top.run,
                top.beat,
                run.score.cue.name if run else "",
                run.viewer.name if run and run.viewer else "",
                (beat.start or 0) if beat else 0,
                beat.end if beat else None,
                len(p.layers),
            )
        )
    return sorted(rows, key=lambda row: (row.until is not None, -(row.until or 0)))


def _length(engine: Engine, run: Run) -> int:
    """About how long a waiting run will last: the middle of its range, in ms."""
    spans = ranges(run.score, engine.lengths)
    longest = max((span.end.longest or span.end.shortest for span in spans), default=0)
    shortest = max((span.end.shortest for span in spans), default=0)
    return (longest + shortest) // 2


def waits(engine: Engine, lane: Lane, most: int | None = None) -> list[tuple[Run, int]]:
    """Who waits in a lane, in order, each with about how long still (ms): runs take their room one after the other.

    Args:
        most: how many of them, from the front.
    """
    now = engine.now
    room = [max(run.until() or now, now) for run in lane.running if run.takes_room]
    room += [max(lane.gap_until, now)] * max(0, lane.settings.width - len(room))
    heapq.heapify(room)
    gap = ms(lane.settings.gap_s)
    rows = []
    for run in islice(lane.line, most):
        free = heapq.heappop(room) if room else now
        start = free + (gap if free > now and free != lane.gap_until else 0)
        if run.score.entry == "solo":
            start = max([start, *room])
        rows.append((run, start - now))
        heapq.heappush(room, start + _length(engine, run))
    return rows


def _run_row(run: Run) -> dict[str, Any]:
    return {
        "run": run.id,
        "cue": run.score.id,
        "name": run.score.cue.name,
        "viewer": run.viewer.name if run.viewer else "",
        "text": run.text.text,
        "redemption": run.redemption,
        "call": run.call,
        "entry": run.score.entry,
    }


def lane_row(engine: Engine, lane: Lane, most: int | None = None) -> dict[str, Any]:
    """A lane with what runs in it (with the beats that are up) and who waits: how many, and who they are. Times in ms.

    ``begins`` is about when someone who waits will start, to the second.

    Args:
        most: how many of those who run and who wait are named.
    """
    running = [
        {
            **_run_row(run),
            "started": run.started_at,
            "until": run.until(),
            "beats": [
                {"beat": b.spec.id, "kind": b.spec.kind, "output": KINDS[b.spec.kind].output, "until": b.end}
                for b in run.beats
                if b.state == UP
            ],
        }
        for run in islice(lane.running, most)
    ]
    waiting = [
        {**_run_row(run), "since": run.admitted_at, "begins": round((engine.now + wait) / 1000) * 1000}
        for run, wait in waits(engine, lane, most)
    ]
    settings = lane.settings
    return {
        "id": settings.id,
        "name": settings.name,
        "width": settings.width,
        "runs": len(lane.running),
        "waits": len(lane.line),
        "running": running,
        "waiting": waiting,
    }
