"""A night as files: what was on the overlay (OpenTimelineIO), what was read and captioned (WebVTT), a script, a page to
print.
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from importlib.resources import files
from typing import Any

import pystache

from cuejar.core.book.book import Book
from cuejar.core.engine.night import Timed
from cuejar.core.facts import orders as o
from cuejar.core.facts.script import FORMAT
from cuejar.core.files import captions, timeline
from cuejar.core.files.timeline import Laid, Mark, Media
from cuejar.core.kinds.table import KINDS
from cuejar.core.nights.compare import FIGURES, SHARES
from cuejar.core.nights.recorded import Recording
from cuejar.core.nights.standouts import Standout
from cuejar.core.nights.tally import Result
from cuejar.core.nights.timeline import Timeline
from cuejar.core.parts.base import JsonObject
from cuejar.core.words.verdicts import verdict_said

STEPS = 120
PRINTED = (
    "redemptions", "let_in", "refunds", "points_spent", "points_refunded", "wait_median_s", "wait_p95_s", "wait_longest_s",
    "seen", "heard", "felt", "held", "most_at_once", "longest_quiet_s", "minutes_paid",
)  # fmt: skip


def _has_words(kind: str) -> bool:
    return KINDS[kind].speaks or KINDS[kind].captions


def _lasted(shows: Sequence[Timed], end: int) -> list[tuple[o.Show | o.Roll, int, int]]:
    """Returns everything that was up by the end of a night, with its beginning and end."""
    up: dict[tuple[str, str], tuple[o.Show | o.Roll, int]] = {}
    found: list[tuple[o.Show | o.Roll, int, int]] = []
    for at, order in shows:
        if isinstance(order, (o.Show, o.Roll)):
            up[order.run, order.beat] = (order, at)
        elif isinstance(order, o.Hide) and (there := up.pop((order.run, order.beat), None)) is not None:
            found.append((*there, at))
    found += [(order, begin, end) for order, begin in up.values()]
    return [(order, max(0, begin), min(gone, end)) for order, begin, gone in found if begin < end and gone > 0]


def _words(order: o.Show | o.Roll, names: Mapping[str, str]) -> str:
    if isinstance(order, o.Roll):
        return f"{order.outcome} of {len(order.faces)}" if order.faces else order.outcome
    values = order.value if isinstance(order.value, list) else [order.value]
    return ", ".join(names.get(str(value), str(value)) for value in values)[:200]


def overlay_otio(name: str, shows: Sequence[Timed], drawn: Timeline, book: Book, media: Mapping[str, Media]) -> str:
    """Returns all that was on the overlay as a timeline for editing the recording, with its gaps; calls are markers.

    Args:
        media: the files by their ids in the orders; known ones have their names here.
    """
    names = {entry.id: entry.name for entry in book.media} | {media_id: one.name for media_id, one in media.items()}
    laid = []
    for order, begin, end in _lasted(shows, drawn.length):
        kind = order.kind if isinstance(order, o.Show) else "chance"
        value = order.value if isinstance(order, o.Show) else None
        file = value if isinstance(value, str) and value in media else ""
        laid.append(Laid(kind, _words(order, names), begin, end, file))
    marks = [
        Mark(
            max(0, run.came),
            f"{run.name}: {run.viewer}" if run.viewer else run.name,
            {"call": run.call, "cue": run.cue},
        )
        for run in drawn.runs
    ]
    for what, rows in (("Refused", drawn.turned), ("Extended", drawn.extended)):
        marks += [
            Mark(max(0, one.at), f"{what}: {one.viewer}", {"call": one.call, "cue": one.cue, "reason": one.reason})
            for one in rows
        ]
    heard = {kind for kind, one in KINDS.items() if one.is_heard and not one.is_seen}
    return timeline.night_written(name, laid, sorted(marks, key=lambda mark: mark.at), media, heard)


def said_vtt(shows: Sequence[Timed], drawn: Timeline) -> str:
    """Returns what was read aloud and captioned, with its times."""
    rows = [
        (begin, end, str(order.value))
        for order, begin, end in _lasted(shows, drawn.length)
        if isinstance(order, o.Show) and _has_words(order.kind) and str(order.value).strip()
    ]
    return captions.of_night(rows)


def script_of(recording: Recording, entries: Sequence[tuple[int, int, Any]], with_state: bool) -> JsonObject:
    """Returns a night as a script, to be rehearsed elsewhere.

    Args:
        with_state: with everything in progress, counted and owned before it, so that the result is the same; otherwise
        it begins at rest.
    """
    begin = recording.begin
    rows = [{**told, "at": (at - begin) / 1000} for _, at, told in entries if isinstance(told, dict)]
    script: JsonObject = {
        "format": FORMAT,
        "version": 1,
        "seed": recording.state["seed"],
        "book": recording.state["book"],
        "happenings": rows,
    }
    if with_state:
        script |= {"state": recording.state, "begins": begin}
    return script


def script_text(script: JsonObject) -> str:
    """Returns one happening per line, so that scripts can be read and compared."""
    rows = ",\n".join(json.dumps(row, ensure_ascii=False) for row in script["happenings"])
    frame = {key: value for key, value in script.items() if key != "happenings"}
    head = json.dumps(frame, ensure_ascii=False)[:-1]
    return f'{head},\n"happenings":[\n{rows}\n]}}\n'


def told(figure: str, value: float) -> str:
    """Returns a figure in words: shares in percent, times in seconds or minutes."""
    if figure in SHARES:
        return f"{value:.1%}".replace(".0%", "%").replace("%", " %")
    return f"{value:,.10g}"


def clock(ms: int) -> str:
    """Returns a time of the night, as people write it."""
    seconds = max(0, round(ms / 1000))
    return f"{seconds // 3600}:{seconds // 60 % 60:02}:{seconds % 60:02}"


def page(
    title: str, when: str, note: str, result: Result, stand_out: Sequence[Standout], drawn: Timeline, book: Book
) -> str:
    """Returns a page to print: the totals of the night, what stands out, and every call."""
    names = {cue.id: cue.name for cue in book.cues}
    calls = [
        (run.came, {
            "at": clock(run.came), "who": run.viewer, "cue": run.name, "text": run.text,
            "waited": f"{(run.start - run.came) / 1000:.1f} s" if run.start is not None else "",
            "became": run.outcome or run.as_,
        })
        for run in drawn.runs
    ]  # fmt: skip
    calls += [
        (one.at, {
            "at": clock(one.at), "who": one.viewer, "cue": names.get(one.cue, one.cue), "text": one.text, "waited": "",
            "became": verdict_said("turned_away", one.reason) if one.reason else f"{verdict_said('extended')}, {one.outcome or verdict_said('let_in')}",
        })
        for one in (*drawn.turned, *drawn.extended)
    ]  # fmt: skip
    counts = [0] * STEPS
    for at, _ in calls:
        counts[min(STEPS - 1, max(0, at) * STEPS // max(1, drawn.length))] += 1
    highest = max(1, *counts)
    bars = [{"x": x, "y": 20 - 20 * n / highest, "height": 20 * n / highest} for x, n in enumerate(counts) if n]
    figures = [{"words": FIGURES[name], "value": told(name, getattr(result, name))} for name in PRINTED]
    template = files("cuejar.core.nights").joinpath("night.html.mustache").read_text("utf-8")
    made: str = pystache.Renderer().render(
        template,
        {
            "title": title,
            "when": when,
            "note": note,
            "steps": STEPS,
            "curve": bars,
            "figures": figures,
            "has_standouts": bool(stand_out),
            "standouts": [one._asdict() for one in stand_out],
            "calls": [row for _, row in sorted(calls, key=lambda pair: pair[0])],
        },
    )
    return made
