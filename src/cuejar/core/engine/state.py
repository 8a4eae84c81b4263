"""The whole state of the engine as JSON, and back.

A run in progress carries the cue as it was at its start, so that editing the book doesn't change it.

`KEPT` names the attributes of each part that a snapshot contains, `MADE` those that follow from the book or from other
parts, `EMPTY` those that are empty between two steps. A test checks that there are no others. A snapshot has a version,
which is raised when something is added; older ones can be read.
"""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Iterator, Mapping
from typing import cast

from cuejar.core.book.book import Book, Cue, House
from cuejar.core.book.files import book_from, book_json
from cuejar.core.engine.dues import ClockCall, PriceFalls
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.reception import Reception
from cuejar.core.engine.stage import LateStrike
from cuejar.core.facts import happenings as h
from cuejar.core.facts.paths import is_pause, read_path
from cuejar.core.parts.base import JsonObject, JsonRow
from cuejar.core.rules.door import Text
from cuejar.core.rules.run import Run
from cuejar.core.rules.score import RunBeat, Score

VERSION = 5
SPEECH_GRACE_MS = 21_000
"""Slightly more than the maximum time for making a speech: a failure is reported before that."""

KEPT: dict[str, set[str]] = {
    "night": {"now", "on_air", "stream", "stream_from", "category", "rules", "quiet", "runs"},
    "stage": {"late"},
    "reception": {"seen", "reviews", "run_number", "call_number", "twins"},
    "outcomes": {"tallies", "prices", "open", "heard", "purse"},
    "waiting": {"lanes", "solo"},
    "surroundings": {"holds", "away", "resolver", "media"},
    "tickets": {"told", "held_off"},
    "resolver": {"seed", "jars", "counts", "cue_counts", "by_viewer", "sources", "catalogues", "crowd"},
}  # fmt: skip
MADE: dict[str, set[str]] = {
    "night": set(),
    "stage": {"night", "calendar", "holds", "away", "resolver", "audience", "callee"},
    "reception": {
        "night", "calendar", "stage", "tracing", "holds", "resolver", "scores", "shares_clock", "how_reviewed", "calls", "shared_before",
        "by_reward", "asks_scene", "points", "counting", "waiting", "outcomes", "tallies", "prices", "purse",
    },
    "outcomes": {"night", "calendar", "stage", "waiting", "holds", "points", "doubtful", "counting"},
    "waiting": {"night", "calendar", "stage", "host"},
    "surroundings": {"night", "stage"},
    "tickets": {"reception", "holds", "away", "closed"},
    "resolver": {"book", "lengths", "holds", "away", "night", "speech_grace", "purse"},
}  # fmt: skip
EMPTY: dict[str, set[str]] = {
    "night": {"out"},
    "stage": {"due"},
    "reception": {"clocks"},
    "outcomes": set(),
    "waiting": {"stale", "newcomers"},
    "surroundings": {"scenes"},
    "tickets": set(),
    "resolver": set(),
}


def _viewer(viewer: h.Viewer | None) -> JsonRow | None:
    return None if viewer is None else [viewer.id, viewer.name, list(viewer.roles), viewer.tier]


def _viewer_from(row: JsonRow | None) -> h.Viewer | None:
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
    "paid",
    "tried",
    "speed",
    "forced",
    "speech_ms",
    "started_at",
    "cap_at",
    "next_at",
    "ends_at",
    "came",
    "luck",
]


def _run(run: Run, scores: Mapping[str, Score]) -> JsonObject:
    row = {name: getattr(run, name) for name in _PLAIN}
    row["speech_ms"] = dict(run.speech_ms)
    row["viewer"], row["caller"], row["text"] = _viewer(run.viewer), _viewer(run.caller), list(run.text)
    row["drawn"] = _viewer(run.drawn)
    row["cue"] = run.score.id
    if run.score is not scores.get(run.score.id):
        row["as_it_was"] = [
            run.score.cue.model_dump(mode="json", by_alias=True),
            run.score.house.model_dump(mode="json"),
        ]
    row["beats"] = [[b.own, b.start, b.end, b.state, b.value, b.sets, b.failed, b.away] for b in run.beats]
    return row


def _run_from(row: JsonObject, engine: Engine) -> Run:
    score = engine.reception.scores.get(row["cue"])
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
    run.text, run.drawn = Text(*row["text"]), _viewer_from(row.get("drawn"))
    for spec, (own, start, end, state, value, sets, failed, *away) in zip(
        score.at_speed(run.speed), row["beats"], strict=False
    ):
        beat = RunBeat(spec, own)
        beat.start, beat.end, beat.state, beat.value, beat.failed = start, end, state, value, failed
        beat.away = bool(away and away[0])
        beat.sets = [(path, v) for path, v in sets]
        run.beats.append(beat)
    return run


def _reception(reception: Reception) -> JsonObject:
    lanes = {
        lane.settings.id: [
            [run.id for run in lane.running],
            [run.id for run in lane.line.as_they_came()],
            lane.gap_until,
            dict(lane.line.starts),
        ]
        for lane in reception.waiting.lanes.values()
    }
    return {
        "lanes": lanes,
        "solo": reception.waiting.solo.id if reception.waiting.solo else None,
        "tallies": reception.tallies.snapshot(),
        "prices": reception.prices.snapshot(),
        "seen": list(reception.seen),
        "open": {redemption: sorted(runs) for redemption, runs in reception.outcomes.open.items()},
        "reviews": [[call, h.happening_json(waiting)] for call, waiting in reception.reviews.items()],
        "heard": sorted(reception.outcomes.heard),
        "run_number": reception.run_number,
        "call_number": reception.call_number,
        "purse": reception.purse.snapshot(),
        "twins": [reception.twins[0], dict(reception.twins[1])],
    }


def snapshot_of(engine: Engine) -> JsonObject:
    """Returns everything that `engine_from` needs: JSON, complete, and independent of the engine from then on."""
    around = engine.surroundings
    media = around.media
    scores = engine.reception.scores
    return {
        "version": VERSION,
        "book": book_json(engine.book),
        "seed": engine.resolver.seed,
        "night": engine.night.snapshot(),
        "runs": [_run(run, scores) for run in engine.night.runs.values()],
        "reception": _reception(engine.reception),
        "late": [[_run(late.run, scores), late.beat.id, late.until] for late in engine.stage.late],
        "holds": around.holds.snapshot(),
        "tickets": engine.tickets.snapshot(),
        "away": list(around.away.lost),
        "media": None
        if media is None
        else {name: [f.kind, f.length_s, f.loops, f.missing, f.flashes] for name, f in media.items()},
        "jars": engine.resolver.jars.snapshot(),
        "resolver": engine.resolver.snapshot(),
        "due": _due(engine),
    }


def _due(engine: Engine) -> list[JsonRow]:
    """Returns the calendar entries that don't follow from runs and lanes: clock calls, and prices that fall."""
    rows: list[JsonRow] = []
    for at, entry in engine.calendar:
        if isinstance(entry, ClockCall):
            rows.append([at, "clock", [entry.stream, entry.cue, entry.every]])
        elif isinstance(entry, PriceFalls):
            rows.append([at, "price", entry.reward])
    return rows


def _newer(data: JsonObject) -> JsonObject:
    """Returns a snapshot of an earlier version as one of this. Raises ValueError: its version is unknown."""
    if data["version"] in (1, 2, 3):
        # Until then anything that began counted as done.
        runs = [{"came": row["started_at"] is not None, **row} for row in data["runs"]]
        data = {**data, "late": [], "runs": runs, "night": {**data.get("night", {}), "rules": 3}}
    if data["version"] in (1, 2):
        paused = [read_path(path).steps[0] for path, row in data["holds"].items() if is_pause(path) and row[0]]
        data = {**data, "tickets": {"told": sorted(paused), "held_off": {}}}
    if data["version"] == 1:
        reception = ("lanes", "solo", "tallies", "prices", "seen", "open", "reviews", "run_number", "call_number")
        night = ("now", "on_air", "stream", "stream_from", "category")
        return {
            **data,
            "night": {**{name: data[name] for name in night}, "rules": 3},
            "reception": {
                **{name: data[name] for name in (*reception, *(name for name in ("purse",) if name in data))},
                "heard": data.get("heard", []),
            },
        }
    if data["version"] not in (2, 3, 4, VERSION):
        raise ValueError(f"a snapshot of version {data['version']}; only those up to {VERSION} are known here")
    return dict(data)


def engine_from(data: JsonObject, tracing: bool = False, speech_grace: int = 0) -> Engine:
    """Returns the engine of a snapshot. Raises KeyError, ValueError or TypeError if the data isn't a whole snapshot."""
    data = _newer(data)
    media = data["media"]
    facts = None if media is None else {name: h.MediaFacts(*row) for name, row in media.items()}
    engine = Engine(book_from(data["book"]), data["seed"], facts, tracing, speech_grace)
    engine.night.restore(data["night"])
    engine.surroundings.holds.restore(data["holds"])
    engine.tickets.restore(data["tickets"])
    for gear in data["away"]:
        engine.surroundings.away.set(gear, True)
    engine.resolver.jars.restore(data["jars"])
    engine.resolver.restore(data["resolver"])
    engine.night.runs = {row["id"]: _run_from(row, engine) for row in data["runs"]}
    engine.stage.late = list(_late(data["late"], engine))
    _receive(engine, data["reception"])
    _note_all(engine, data["due"])
    return engine


def without_viewer(state: JsonObject, viewer: str) -> JsonObject:
    """Returns a state of the engine without a viewer."""
    engine = engine_from(state, True, SPEECH_GRACE_MS)
    engine.handle(h.Forget(viewer), engine.now)
    return snapshot_of(engine)


def _late(rows: list[JsonRow], engine: Engine) -> Iterator[LateStrike]:
    """Returns the strikes that wait for their gear; their runs may be over."""
    over: dict[str, Run] = {}
    for row, beat, until in rows:
        run = engine.night.runs.get(row["id"]) or over.setdefault(row["id"], _run_from(row, engine))
        yield LateStrike(engine.stage, run, next(one for one in run.beats if one.id == beat), until)


def _receive(engine: Engine, data: JsonObject) -> None:
    """Restores the reception, with the existing runs."""
    reception, runs = engine.reception, engine.night.runs
    reception.tallies.restore(data["tallies"])
    reception.prices.restore(data["prices"])
    reception.seen = OrderedDict.fromkeys(data["seen"])
    reception.outcomes.open = {redemption: set(waiting) for redemption, waiting in data["open"].items()}
    reception.reviews = {}
    for row in data["reviews"]:
        call, told = (row["id"], row) if isinstance(row, dict) else row
        reception.reviews[call] = cast(h.Texted, h.happening_from(told))
    reception.outcomes.heard = set(data["heard"])
    if "purse" in data:
        reception.purse.restore(data["purse"])
    reception.run_number, reception.call_number = data["run_number"], data["call_number"]
    at, twins = data.get("twins", (0, {}))
    reception.twins = (at, dict(twins))
    waiting = reception.waiting
    waiting.solo = runs.get(data["solo"] or "")
    for lane_id, (running, in_line, gap_until, starts) in data["lanes"].items():
        lane = waiting.lanes[lane_id]
        lane.running = [runs[run] for run in running]
        lane.taken = sum(run.takes_room for run in lane.running)
        for run in lane.running:
            run.lane = lane_id
        lane.line.starts = Counter(starts)
        for waits in in_line:
            lane.line.put_back(runs[waits])
        lane.stirred, lane.gap_until = False, gap_until


def _note_all(engine: Engine, due: list[JsonRow]) -> None:
    """Fills the calendar: clocks and prices from ``due``, the rest from the runs and lanes."""
    calendar, reception = engine.calendar, engine.reception
    calendar.leave_out(object)
    for at, what, thing in due:
        if what == "price":
            reception.prices.note_due(thing, at)
            calendar.note(at, PriceFalls(engine.outcomes, thing))
        else:
            calendar.note(at, ClockCall(reception, *thing))
    for late in engine.stage.late:
        calendar.note(late.until, late)
    for run in engine.night.runs.values():
        if run.next_at is not None:
            engine.stage.note(run)
        elif run.started_at is None:
            engine.waiting.note(run)
    for lane in engine.waiting.lanes.values():
        engine.waiting.note_gap(lane)


def draft_of(engine: Engine, book: Book, media: dict[str, h.MediaFacts]) -> Engine:
    """Returns a fresh engine over another book, with the jars, counts and gear of this one."""
    fresh = Engine(book, engine.resolver.seed, media)
    fresh.reception.run_number = engine.reception.run_number
    fresh.resolver.jars.restore(engine.resolver.jars.snapshot())
    fresh.resolver.restore(engine.resolver.snapshot())
    fresh.handle(h.Rest(engine.surroundings.holds.wanted()), 0)
    return fresh
