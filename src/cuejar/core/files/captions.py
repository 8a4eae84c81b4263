"""The captions of a score as WebVTT (W3C), exported and imported with their times; a caption without a beat becomes
one.
"""

from __future__ import annotations

import io
import re
from collections.abc import Sequence

import webvtt

from cuejar.core.book.book import Cue
from cuejar.core.files.timeline import Read
from cuejar.core.kinds.table import KINDS
from cuejar.core.parts.base import DAY_S, BookError, JsonObject, Problem
from cuejar.core.parts.slugs import slug
from cuejar.core.rules.score import Span

MOST_CAPTIONS = 1_000
MOST_TEXT = 1_000_000
"""Maximum characters of a file."""
_TAG = re.compile(r"<[^<>\n]*>")
_ESCAPES = (("&", "&amp;"), ("<", "&lt;"), (">", "&gt;"))


def stamp(ms: int) -> str:
    """Returns milliseconds in the form of WebVTT."""
    return f"{ms // 3_600_000:02}:{ms // 60_000 % 60:02}:{ms // 1000 % 60:02}.{ms % 1000:03}"


def written(cue: Cue, spans: Sequence[Span]) -> str:
    """Returns the captions of a score with fixed words; those drawn from a jar, or with an open end, are left out."""
    beats = {beat.id: beat for beat in cue.beats}
    rows = ["WEBVTT", ""]
    for span in sorted(spans, key=lambda span: span.start.shortest):
        beat = beats[span.beat]
        text = getattr(beat, "text", None) if KINDS[beat.kind].captions else None
        if not isinstance(text, str) or span.end.longest is None:
            continue
        start, end = span.start.shortest, max(span.end.shortest, span.start.shortest + 1)
        rows += [beat.id, f"{stamp(start)} --> {stamp(end)}", _escaped(text), ""]
    return "\n".join(rows)


def of_night(rows: Sequence[tuple[int, int, str]]) -> str:
    """Returns what was read aloud and captioned: begin and end (ms) with the words."""
    told = ["WEBVTT", ""]
    for number, (begin, end, words) in enumerate(sorted(rows), 1):
        told += [str(number), f"{stamp(begin)} --> {stamp(max(end, begin + 1))}", _escaped(words), ""]
    return "\n".join(told)


def _escaped(text: str) -> str:
    for sign, told in _ESCAPES:
        text = text.replace(sign, told)
    # A blank line would end the caption.
    return "\n".join(line if line.strip() else "\u00a0" for line in text.splitlines()) or "\u00a0"


def _plain(text: str) -> str:
    for sign, told in reversed(_ESCAPES):
        text = text.replace(told, sign)
    return text.replace("&nbsp;", " ").replace("&lrm;", "").replace("&rlm;", "").replace("\u00a0", " ").strip()


def read(text: str, cue: Cue, spans: Sequence[Span]) -> Read:
    """Returns a cue with the captions of a file: its own beats (by the caption's id) get their words and times, others
    become new beats.

    Raises:
        BookError: it isn't a WebVTT file, or has impossible times.
    """
    if len(text) > MOST_TEXT:
        raise BookError([Problem("", f"it is longer than {MOST_TEXT:,} characters")])
    if text.count("-->") > MOST_CAPTIONS:
        raise BookError([Problem("", f"it has more than {MOST_CAPTIONS:,} captions")])
    try:
        captions = webvtt.from_buffer(io.StringIO(text.removeprefix("\ufeff").replace("\r\n", "\n"))).captions
    except (webvtt.errors.MalformedFileError, webvtt.errors.MalformedCaptionError, ValueError, IndexError) as error:
        raise BookError([Problem("", f"the file isn’t WebVTT: {error or 'it can’t be read'}")]) from error
    data = cue.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    beats: list[JsonObject] = [dict(beat) for beat in data.get("beats", [])]
    by_id = {beat["id"]: beat for beat in beats if KINDS[beat["kind"]].captions}
    lies = {span.beat: (span.start.shortest, max(span.end.shortest, span.start.shortest + 1)) for span in spans}
    taken, changes = {beat["id"] for beat in beats}, list[str]()
    for number, caption in enumerate(captions, 1):
        start, end = _ms(caption.start, number), _ms(caption.end, number)
        if end <= start:
            raise BookError([Problem(f"caption {number}", "ends before it begins")])
        words = _plain(_TAG.sub("", caption.raw_text))
        if not words:
            continue
        beat = by_id.get(caption.identifier or "")
        if beat is None:
            new: JsonObject = {"id": slug(words[:24], taken, "caption"), "kind": "caption", "text": words}
            new |= {"start": {"at_s": start / 1000}, "length": {"s": (end - start) / 1000}}
            taken.add(new["id"])
            beats.append(new)
            changes.append(f"new: “{words[:60]}” at {start / 1000:g} s")
            continue
        was_at, was_end = lies.get(beat["id"], (start, end))
        if start != was_at:
            begin = dict(beat.get("start", {}))
            beat["start"] = {**begin, "at_s": round(begin.get("at_s", 0) + (start - was_at) / 1000, 3)}
            changes.append(f"“{beat['id']}” begins at {start / 1000:g} s (was {was_at / 1000:g} s)")
        if end - start != was_end - was_at:
            beat["length"] = {"s": (end - start) / 1000}
            changes.append(f"“{beat['id']}” lasts {(end - start) / 1000:g} s")
        if isinstance(beat["text"], str) and words != _plain(_escaped(beat["text"])):
            beat["text"] = words
            changes.append(f"“{beat['id']}” says “{words[:60]}”")
    return Read({**data, "beats": beats}, changes, [])


def _ms(told: str, number: int) -> int:
    hours, minutes, seconds = ["0", *told.split(":")][-3:]
    found = round((int(hours) * 3600 + int(minutes) * 60 + float(seconds)) * 1000)
    if not 0 <= found <= DAY_S * 1000:
        raise BookError([Problem(f"caption {number}", "lies at no time from 0 to a day")])
    return found
