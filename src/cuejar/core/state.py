"""The whole state of the engine as JSON, and back. What is here and what `Engine` keeps must be the same things.

A run that is under way carries the cue as it was when it started, so that an edit to the book does not change it.
"""

from __future__ import annotations

from collections import Counter, OrderedDict
from typing import TYPE_CHECKING, Any

from cuejar.core import happenings as h
from cuejar.core.book import Book, Cue, House, book_from, book_json
from cuejar.core.door import Text
from cuejar.core.run import Run
from cuejar.core.score import RunBeat, Score

if TYPE_CHECKING:
    from cuejar.core.engine import Engine

VERSION = 1


def _viewer(viewer: h.Viewer | None) -> list[Any] | None:
    return None if viewer is None else [viewer.id, viewer.name, list(viewer.roles), viewer.tier]


def _viewer_from(row: list[Any] | None) -> h.Viewer | None:
    return None if row is None else h.Viewer(row[0], row[1], tuple(row[2]), row[3])


_PLAIN = [
    "id",
    "number",
    "call",
    "redemption",
    "facts",
    "admitted_at",
    "wait_until",
    "stream",
    "head",
    "rank",
    "behind",
    "depth",
    "tried",
    "speed",
    "forced",
    "speech_ms",
    "started_at",
    "cap_at",
    "next_at",
    "ends_at",
]


def _run(run: Run, engine: Engine) -> dict[str, Any]:
    row = {name: getattr(run, name) for name in _PLAIN}
    row["speech_ms"] = dict(run.speech_ms)
    row["viewer"], row["caller"], row["text"] = _viewer(run.viewer), _viewer(run.caller), list(run.text)
    row["cue"] = run.score.id
    if run.score is not engine.scores.get(run.score.id):
        row["as_it_was"] = [
            run.score.cue.model_dump(mode="json", by_alias=True),
            run.score.house.model_dump(mode="json"),
        ]
    row["beats"] = [[b.own, b.start, b.end, b.state, b.value, b.sets, b.failed] for b in run.beats]
    return row


def _run_from(row: dict[str, Any], engine: Engine) -> Run:
    score = engine.scores.get(row["cue"])
    if "as_it_was" in row:
        cue, house = row["as_it_was"]
        book = Book.model_validate({**book_json(engine.book), "house": House.model_validate(house)})
        score = Score(Cue.model_validate(cue), book)
    assert score is not None
    run = Run(row["id"], row["number"], score, row["call"])
    for name in _PLAIN:
        if name in row:
            setattr(run, name, row[name])
    run.viewer, run.caller = _viewer_from(row["viewer"]), _viewer_from(row["caller"])
    run.text = Text(*row["text"])
    specs = [spec.faster(run.speed) for spec in score.specs] if run.speed > 1 else score.specs
    run.beats = [
        RunBeat(spec, own, start, end, state, value, [(path, v) for path, v in sets], failed)
        for spec, (own, start, end, state, value, sets, failed) in zip(specs, row["beats"], strict=False)
    ]
    return run


def snapshot_of(engine: Engine) -> dict[str, Any]:
    """Everything `engine_from` needs; JSON, complete, and independent of the engine from then on."""
    lanes = {
        lane.settings.id: [
            [run.id for run in lane.running],
            [run.id for run in lane.line.as_they_came()],
            lane.gap_until,
            dict(lane.line.starts),
        ]
        for lane in engine.lanes.values()
    }
    media = engine.media
    return {
        "version": VERSION,
        "book": book_json(engine.book),
        "seed": engine.resolver.seed,
        "now": engine.now,
        "on_air": engine.on_air,
        "stream": engine.stream,
        "stream_from": engine.stream_from,
        "category": engine.category,
        "media": None
        if media is None
        else {name: [f.kind, f.length_s, f.loops, f.missing] for name, f in media.items()},
        "runs": [_run(run, engine) for run in engine.runs.values()],
        "lanes": lanes,
        "solo": engine.solo.id if engine.solo else None,
        "holds": engine.holds.snapshot(),
        "tallies": engine.tallies.snapshot(),
        "jars": engine.jars.snapshot(),
        "prices": engine.prices.snapshot(),
        "resolver": engine.resolver.snapshot(),
        "away": list(engine.away.lost),
        "seen": list(engine.seen),
        "open": {redemption: sorted(runs) for redemption, runs in engine.open.items()},
        "reviews": [[call, h.happening_json(waiting)] for call, waiting in engine.reviews.items()],
        "heard": sorted(engine.heard),
        "run_number": engine.run_number,
        "call_number": engine.call_number,
        "due": [entry for entry in engine.calendar() if entry[1] in ("clock", "price")],
    }


def engine_from(cls: type[Engine], data: dict[str, Any], tracing: bool) -> Engine:
    """The engine as it was. Raises KeyError, ValueError or TypeError when the data is not a whole snapshot."""
    if data["version"] != VERSION:
        raise ValueError(f"a snapshot of version {data['version']}; only {VERSION} is known here")
    media = data["media"]
    facts = None if media is None else {name: h.MediaFacts(*row) for name, row in media.items()}
    engine = cls(book_from(data["book"]), data["seed"], facts, tracing)
    for name in ("now", "on_air", "stream", "stream_from", "category", "run_number", "call_number"):
        setattr(engine, name, data[name])
    engine.holds.restore(data["holds"])
    engine.tallies.restore(data["tallies"])
    engine.jars.restore(data["jars"])
    engine.prices.restore(data["prices"])
    engine.resolver.restore(data["resolver"])
    for gear in data["away"]:
        engine.away.set(gear, True)
    engine.seen = OrderedDict.fromkeys(data["seen"])
    engine.open = {redemption: set(runs) for redemption, runs in data["open"].items()}
    engine.reviews = {}
    for row in data["reviews"]:
        call, waiting = (row["id"], row) if isinstance(row, dict) else row
        engine.reviews[call] = h.happening_from(waiting)
    engine.heard = set(data.get("heard", ()))
    engine.runs = {row["id"]: _run_from(row, engine) for row in data["runs"]}
    engine.solo = engine.runs.get(data["solo"] or "")
    for lane_id, (running, waiting, gap_until, starts) in data["lanes"].items():
        lane = engine.lanes[lane_id]
        lane.running = [engine.runs[run] for run in running]
        lane.taken = sum(run.takes_room for run in lane.running)
        for run in lane.running:
            run.lane = lane
        lane.line.starts = Counter(starts)
        for run in waiting:
            lane.join(engine.runs[run])
        lane.stirred, lane.gap_until = False, gap_until
    engine.reschedule(data["due"])
    return engine
