"""A score as OpenTimelineIO (the Academy Software Foundation's interchange format), exported and imported with its
times.

Each beat that lasts is a clip on a track of its own, after a gap up to its start; a strike is a marker. Clips
remember their beat and the times they were written with: what an editor didn't move stays as it is in the book,
anchors included. A moved clip moves its beat by as much; a trimmed one sets its length in seconds. Added clips of
known files become beats.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Container, Mapping, Sequence
from typing import Any, Literal, NamedTuple

import opentimelineio as otio

from cuejar.core.book.book import Book, Cue
from cuejar.core.facts.gate import sound_json
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import DAY_S, BookError, JsonObject, Problem
from cuejar.core.parts.folding import folded
from cuejar.core.parts.slugs import slug
from cuejar.core.rules.score import Span
from cuejar.core.words.cues import beat_told
from cuejar.core.words.names import Noticed

OURS = "cue-jar"
"""The key of our own data in an object's metadata."""
RATE = 30.0
"""Frames per second: a rate that every editor accepts. Exact times, in ms, are in the metadata."""
MOST_PASSES = 200
"""A file that loops more often is one clip, however long."""
OPEN_MS = 10_000
"""How long an open clip is drawn."""
MOST_CLIPS, MOST_PARTS, MOST_DEPTH = 2_000, 500_000, 60
_NO_TIMELINE = "isn’t an OpenTimelineIO timeline"


class Media(NamedTuple):
    """A file of the library: its kind, its place beside the timeline (``media/NAME.ext``), and its length in ms (0: a
    still picture).
    """

    id: str
    name: str
    kind: Literal["picture", "clip", "sound"]
    url: str
    length: int


class Read(NamedTuple):
    """A cue's JSON with the times of a timeline, what changed in words, and the names of clips that match no file of
    the library.
    """

    cue: JsonObject
    changes: list[str]
    lost: list[str]


def _frame(ms: float) -> int:
    return round(ms * RATE / 1000)


def _exact(ms: float) -> int:
    """Returns what an instant becomes once written and read: ms."""
    return round(_frame(ms) * 1000 / RATE)


def _frames(start: int, length: int) -> Any:
    return otio.opentime.TimeRange(otio.opentime.RationalTime(start, RATE), otio.opentime.RationalTime(length, RATE))


def _clips(name: str, there: Media | None, missing: str, begin: int, end: int, about: JsonObject) -> list[Any]:
    """Returns what is up from ``begin`` to ``end`` (frames) as clips; a looping file is one clip per pass.

    Args:
        missing: the placeholder if there is no file.
    """
    once = _frame(there.length) if there is not None else 0
    passes = -(-(end - begin) // once) if once else 1
    if passes > MOST_PASSES:
        once, passes = 0, 1
    found = []
    for number in range(passes):
        length = min(once, end - begin - number * once) if once else end - begin
        source: Any = otio.schema.MissingReference(name=missing)
        if there is not None:
            long = _frames(0, once) if once else None
            source = otio.schema.ExternalReference(there.url, long, {OURS: {"media": there.id}})
        found.append(otio.schema.Clip(name, source, _frames(0, max(1, length)), metadata={OURS: about}))
    return found


def written(cue: Cue, book: Book, spans: Sequence[Span], media: Mapping[str, Media]) -> str:
    """Returns a cue's score as an OTIO document; if lengths vary, the shortest one."""
    timeline = otio.schema.Timeline(cue.name, metadata={OURS: {"cue": cue.id}})
    beats = {beat.id: beat for beat in cue.beats}
    noticed = Noticed(book)
    for span in spans:
        beat = beats[span.beat]
        kind, start = KINDS[beat.kind], span.start.shortest
        end = span.end.shortest if span.end.longest is not None else max(span.end.shortest, start + OPEN_MS)
        about = {"beat": beat.id, "kind": beat.kind, "at_ms": start, "length_ms": end - start}
        if kind.way == "strike" or end <= start:
            mark = otio.schema.Marker(beat.id, _frames(_frame(start), 0), metadata={OURS: about})
            timeline.tracks.markers.append(mark)
            continue
        heard = otio.schema.TrackKind.Audio if kind.is_heard and not kind.is_seen else otio.schema.TrackKind.Video
        track = otio.schema.Track(beat.id, kind=heard)
        if _frame(start) > 0:
            track.append(otio.schema.Gap(source_range=_frames(0, _frame(start))))
        there = media.get(getattr(getattr(beat, "media", None), "file", ""))
        told = beat_told(beat, noticed)
        name = there.name if there is not None else told or beat.id
        track.extend(_clips(name, there, told or beat.kind, _frame(start), _frame(end), about))
        timeline.tracks.append(track)
    text: str = timeline.to_json_string(indent=2)
    return text + "\n"


class Laid(NamedTuple):
    """Something that was on the overlay: on a track of its ``sort``, from when to when (ms), and its file, if any."""

    sort: str
    name: str
    begin: int
    end: int
    media: str = ""


class Mark(NamedTuple):
    """A moment (ms) with its words and further details."""

    at: int
    name: str
    about: JsonObject


def night_written(
    name: str, laid: Sequence[Laid], marks: Sequence[Mark], media: Mapping[str, Media], heard: Container[str]
) -> str:
    """Returns a night as an OTIO document: each sort on as many tracks as it needs, with gaps; calls as markers.

    Args:
        media: the files by their ids in the book.
        heard: which sorts are sounds.
    """
    timeline = otio.schema.Timeline(name)
    tracks: dict[str, list[Any]] = {}
    ends: dict[int, int] = {}
    for one in sorted(laid, key=lambda one: (one.sort, one.begin)):
        rows = tracks.setdefault(one.sort, [])
        begin = _frame(one.begin)
        end = max(begin + 1, _frame(one.end))
        track = next((row for row in rows if ends[id(row)] <= begin), None)
        if track is None:
            kind = otio.schema.TrackKind.Audio if one.sort in heard else otio.schema.TrackKind.Video
            track = otio.schema.Track(f"{one.sort} {len(rows) + 1}" if rows else one.sort, kind=kind)
            rows.append(track)
            ends[id(track)] = 0
            timeline.tracks.append(track)
        if begin > ends[id(track)]:
            track.append(otio.schema.Gap(source_range=_frames(0, begin - ends[id(track)])))
        about = {"at_ms": one.begin, "length_ms": one.end - one.begin}
        track.extend(_clips(one.name, media.get(one.media), one.name, begin, end, about))
        ends[id(track)] = end
    for mark in marks:
        about = {**mark.about, "at_ms": mark.at}
        timeline.tracks.markers.append(
            otio.schema.Marker(mark.name, _frames(_frame(mark.at), 0), metadata={OURS: about})
        )
    text: str = timeline.to_json_string(indent=2)
    return text + "\n"


def read(text: str, cue: Cue, media: Sequence[Media]) -> Read:
    """Returns a cue with the times of a timeline.

    Raises:
        BookError: it isn't a timeline, or has impossible times.
    """
    timeline = _timeline(text)
    data = cue.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    beats: list[JsonObject] = [dict(beat) for beat in data.get("beats", [])]
    by_id = {beat["id"]: beat for beat in beats}
    changes: list[str] = []
    lost: list[str] = []
    abouts: dict[str, dict[str, Any]] = {}
    clips = timeline.find_clips()
    if len(clips) > MOST_CLIPS:
        raise BookError([Problem("", f"it has more than {MOST_CLIPS:,} clips")])
    lying: dict[str, tuple[int, int]] = {}
    for clip in clips:
        lies = _lies(clip, timeline)
        start, length = _ms(lies.start_time, clip.name), _ms(lies.duration, clip.name)
        about = _about(clip)
        beat = by_id.get(about.get("beat", ""))
        if beat is not None:
            first, last = lying.get(beat["id"], (start, start))
            lying[beat["id"]] = min(first, start), max(last, start + length)
            abouts[beat["id"]] = about
            continue
        found = _found(clip, media)
        if found is None:
            lost.append(clip.name or "a clip without a name")
            continue
        new = {
            "id": slug(found.name, set(by_id), found.kind),
            "kind": found.kind,
            "media": {"file": found.id},
            "start": {"at_s": start / 1000},
            "length": {"s": max(1, length) / 1000},
        }
        beats.append(new)
        by_id[new["id"]] = new
        changes.append(f"new: {found.name} at {start / 1000:g} s for {length / 1000:g} s")
    for thing, (begin, end) in lying.items():
        _moved(by_id[thing], abouts[thing], begin, end - begin, changes)
    for mark in timeline.tracks.markers:
        about = _about(mark)
        beat = by_id.get(about.get("beat", ""))
        if beat is not None:
            _moved(beat, about, _ms(mark.marked_range.start_time, mark.name), None, changes)
    return Read({**data, "beats": beats}, changes, lost)


def _timeline(text: str) -> Any:
    try:
        # Our own gate checks it first: the library's reader isn't made for hostile input.
        sound_json(json.loads(text), MOST_PARTS, MOST_DEPTH)
        timeline = otio.adapters.read_from_string(text, "otio_json")
    except (ValueError, RecursionError, LookupError, TypeError, AttributeError, otio.exceptions.OTIOError) as error:
        # Its reader raises anything.
        why = str(error).splitlines()[0][:200] if str(error) else type(error).__name__
        raise BookError([Problem("", f"the file {_NO_TIMELINE}: {why}")]) from error
    if not isinstance(timeline, otio.schema.Timeline):
        raise BookError([Problem("", f"the file {_NO_TIMELINE}")])
    return timeline


def _lies(clip: Any, timeline: Any) -> Any:
    """Returns where a clip lies on the timeline. Raises BookError: unknown."""
    try:
        return clip.transformed_time_range(clip.trimmed_range(), timeline.tracks)
    except (otio.exceptions.OTIOError, ValueError, LookupError, TypeError, NotImplementedError) as error:
        raise BookError([Problem(clip.name or "a clip", "has no duration of its own or from its file")]) from error


def _ms(time: Any, name: str) -> int:
    seconds = time.to_seconds() if time.rate > 0 else math.nan
    if not math.isfinite(seconds) or not 0 <= seconds <= DAY_S:
        raise BookError([Problem(name or "a clip", "lies at no time from 0 to a day")])
    return round(seconds * 1000)


def _about(thing: Any) -> dict[str, Any]:
    about = thing.metadata.get(OURS)
    try:
        return {str(key): about[key] for key in about} if about is not None else {}
    except (TypeError, KeyError):
        return {}


def _moved(beat: JsonObject, about: dict[str, Any], start: int, length: int | None, changes: list[str]) -> None:
    was_at, was_long = (about.get(key) for key in ("at_ms", "length_ms"))
    if not isinstance(was_at, (int, float)) or not math.isfinite(was_at):
        return
    # Times in frames are slightly rounded: only the distance moved counts.
    by = start - _exact(was_at)
    if abs(by) > 1:
        begin = dict(beat.get("start", {}))
        begin["at_s"] = round(begin.get("at_s", 0) + by / 1000, 3)
        beat["start"] = begin
        changes.append(f"“{beat['id']}” begins at {(was_at + by) / 1000:g} s (was {was_at / 1000:g} s)")
    if length is not None and isinstance(was_long, (int, float)) and math.isfinite(was_long) and length > 0:
        longer = length - max(_exact(was_at + was_long) - _exact(was_at), _exact(1000 / RATE))
        if abs(longer) > 1 and was_long + longer > 0:
            beat["length"] = {"s": (was_long + longer) / 1000}
            changes.append(f"“{beat['id']}” lasts {(was_long + longer) / 1000:g} s (was {was_long / 1000:g} s)")


def _found(clip: Any, media: Sequence[Media]) -> Media | None:
    """Returns the file of the library that a clip shows: by our id, its address, or its name."""
    source = clip.media_reference
    about = _about(source) if source is not None else {}
    url = str(getattr(source, "target_url", "") or "")
    file = url.replace("%20", " ").replace("\\", "/").rsplit("/", 1)[-1].rsplit(".", 1)[0]
    names = {folded(clip.name or ""), folded(file)} - {""}
    tests: list[Callable[[Media], bool]] = [
        lambda one: one.id == about.get("media"),
        lambda one: bool(url) and one.url == url,
        lambda one: folded(one.name) in names or folded(one.id) in names,
    ]
    return next((one for test in tests for one in media if test(one)), None)
