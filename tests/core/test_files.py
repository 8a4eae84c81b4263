"""Open formats: an exported file is imported unchanged, other programs' files are read, errors are refused in words."""

from __future__ import annotations

import io
import json
import re
from typing import Any

import opentimelineio as otio
import pytest
import webvtt
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.book.book import Cue
from cuejar.core.book.files import book_from, book_json
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.files import captions, lamps, timeline
from cuejar.core.files.events import event_of
from cuejar.core.files.timeline import Media
from cuejar.core.measures.haptics import from_csv, to_csv
from cuejar.core.measures.jarfiles import read_jar
from cuejar.core.parts.base import BookError
from cuejar.core.rules.score import Lengths, Score, Span, ranges
from cuejar.demo.load import demo_book

HALT = book_from(demo_book())
FACTS = {
    entry.id: MediaFacts("sound" if "bell" in entry.id or "rumble" in entry.id else "picture", 2.5)
    for entry in HALT.media
}
MEDIA = [Media(e.id, e.name, FACTS[e.id].kind, f"media/{e.id}.ogg", 2500) for e in HALT.media]


def spans_of(cue: Cue) -> list[Span]:
    return ranges(Score(cue, HALT), Lengths(HALT, FACTS))


def otio_of(cue: Cue) -> str:
    return timeline.written(cue, HALT, spans_of(cue), {one.id: one for one in MEDIA})


def back(cue: Cue, data: dict[str, Any]) -> Cue:
    book = book_json(HALT)
    return next(
        one
        for one in book_from({**book, "cues": [data if c["id"] == cue.id else c for c in book["cues"]]}).cues
        if one.id == cue.id
    )


@pytest.mark.parametrize("cue", HALT.cues, ids=lambda cue: cue.id)
def test_a_score_goes_out_and_comes_back_as_it_was(cue: Cue) -> None:
    text = otio_of(cue)
    read = timeline.read(text, cue, MEDIA)
    assert read.changes == [] and read.lost == [] and back(cue, read.cue) == cue
    whole = otio.adapters.read_from_string(text, "otio_json")
    for span in spans_of(cue):
        clip = next((one for one in whole.find_clips() if one.metadata["cue-jar"]["beat"] == span.beat), None)
        if clip is not None:
            lies = clip.transformed_time_range(clip.trimmed_range(), whole.tracks)
            assert abs(lies.start_time.to_seconds() * 1000 - span.start.shortest) < 17, "to the frame"
    # As other programs require: one rate throughout, and no clip longer than its file, which loops instead.
    rates = {float(rate) for rate in re.findall(r'"rate": ([\d.]+)', text)}
    assert rates <= {30.0}
    for clip in whole.find_clips():
        long = clip.media_reference.available_range
        assert long is None or clip.source_range.duration <= long.duration


@given(st.integers(0, 60_000), st.integers(1, 60_000))
def test_times_between_two_frames_come_back_as_they_were(start: int, length: int) -> None:
    beat = {
        "id": "c",
        "kind": "caption",
        "text": "tea",
        "start": {"at_s": start / 1000},
        "length": {"s": length / 1000},
    }
    book = book_from({"cues": [{"id": "tea", "name": "Tea", "beats": [beat]}]})
    text = timeline.written(book.cues[0], book, ranges(Score(book.cues[0], book), Lengths(book, None)), {})
    assert timeline.read(text, book.cues[0], []).changes == []
    # Half a second later in the editor is half a second later here, to the millisecond.
    whole = otio.adapters.read_from_string(text, "otio_json")
    gap = otio.schema.Gap(source_range=otio.opentime.TimeRange(duration=otio.opentime.RationalTime(15, 30)))
    whole.tracks[0].insert(0, gap)
    moved = timeline.read(whole.to_json_string(), book.cues[0], []).cue["beats"][0]
    assert moved["start"]["at_s"] == pytest.approx(start / 1000 + 0.5, abs=0.0011)
    assert moved["length"] == {"s": length / 1000}


def test_what_an_editor_moved_is_moved() -> None:
    cue = next(cue for cue in HALT.cues if cue.id == "night-mail")
    whole = otio.adapters.read_from_string(otio_of(cue), "otio_json")
    clip = next(iter(whole.find_clips()))
    track = clip.parent()
    # Another rate, as film editors use: 2 s later, 3 s long.
    if isinstance(track[0], otio.schema.Gap):
        del track[0]
    begin = clip.metadata["cue-jar"]["at_ms"] / 1000 + 2
    track.insert(
        0, otio.schema.Gap(source_range=otio.opentime.TimeRange(duration=otio.opentime.RationalTime(begin * 25, 25)))
    )
    clip.source_range = otio.opentime.TimeRange(otio.opentime.RationalTime(0, 25), otio.opentime.RationalTime(75, 25))
    other = otio.schema.Track("Guest")
    source = otio.schema.ExternalReference("file:///home/halt/Platform%20bell.wav")
    other.append(
        otio.schema.Clip("Take 7", source, otio.opentime.TimeRange(duration=otio.opentime.RationalTime(24, 24)))
    )
    other.append(otio.schema.Clip("Nobody", None, otio.opentime.TimeRange(duration=otio.opentime.RationalTime(24, 24))))
    whole.tracks.append(other)
    read = timeline.read(whole.to_json_string(), cue, MEDIA)
    beat_id = clip.metadata["cue-jar"]["beat"]
    old, new = (next(b for b in one.beats if b.id == beat_id) for one in (cue, back(cue, read.cue)))
    assert new.start.at_s == old.start.at_s + 2 and new.length.s == 3
    added = back(cue, read.cue).beats[-1]
    assert (added.kind, added.start.at_s, added.length.s) == ("sound", 0, 1)
    assert read.lost == ["Nobody"] and len(read.changes) == 3


BARE = {"OTIO_SCHEMA": "Timeline.1", "name": "x", "tracks": {"OTIO_SCHEMA": "Stack.1", "children": []}}


@pytest.mark.parametrize(
    "text",
    [
        "",
        "no json",
        "[]",
        json.dumps({"OTIO_SCHEMA": "Clip.1", "name": "x"}),
        json.dumps({"OTIO_SCHEMA": "Nothing.9"}),
        '{"a":' * 2_000 + "1" + "}" * 2_000,
        json.dumps(BARE).replace('"x"', "NaN"),
    ],
)
def test_what_is_no_timeline_is_refused(text: str) -> None:
    with pytest.raises(BookError, match="an OpenTimelineIO"):
        timeline.read(text, HALT.cues[0], [])


def test_times_that_cannot_be_are_refused() -> None:
    for start, length, rate in ((-5, 10, 24), (0, 10**9, 24), (0, 10, 0)):
        whole = otio.schema.Timeline()
        track = otio.schema.Track()
        track.append(
            otio.schema.Gap(source_range=otio.opentime.TimeRange(duration=otio.opentime.RationalTime(start, 24)))
        )
        track.append(
            otio.schema.Clip("Late", None, otio.opentime.TimeRange(duration=otio.opentime.RationalTime(length, rate)))
        )
        whole.tracks.append(track)
        with pytest.raises(BookError, match="no time from 0 to a day"):
            timeline.read(whole.to_json_string(), HALT.cues[0], [])


def with_captions(*texts: str) -> Cue:
    beats = [
        {"id": f"c{n}", "kind": "caption", "text": text, "start": {"at_s": n * 3}, "length": {"s": 2.5}}
        for n, text in enumerate(texts)
    ]
    return book_from({"cues": [{"id": "a", "name": "A", "beats": beats}]}).cues[0]


def back_alone(data: dict[str, Any]) -> Cue:
    return book_from({"cues": [data]}).cues[0]


def own_spans(cue: Cue) -> list[Span]:
    book = book_from({"cues": [cue.model_dump(mode="json", by_alias=True, exclude_defaults=True)]})
    return ranges(Score(cue, book), Lengths(book, None))


@given(st.lists(st.text(st.characters(codec="utf-8", exclude_categories=["C"]), min_size=1, max_size=60), max_size=4))
def test_captions_go_out_and_come_back_as_they_were(texts: list[str]) -> None:
    cue = with_captions(*texts)
    text = captions.written(cue, own_spans(cue))
    assert len(webvtt.from_buffer(io.StringIO(text)).captions) == len(texts)
    read = captions.read(text, cue, own_spans(cue))
    assert read.changes == [] and back_alone(read.cue) == cue


BY_ANOTHER = """\ufeffWEBVTT - Tinwhistle Halt\r
Kind: captions\r
\r
STYLE\r
::cue { color: cream }\r
\r
NOTE by hand\r
\r
c0\r
00:01.000 --> 00:02.500 line:80% align:start\r
<v Stationmaster>Mind the <i>gap</i> &amp; the step\r
\r
00:00:04.250 --> 00:00:06.000\r
<c.loud>Tea!</c>\r
"""


def test_captions_of_another_program() -> None:
    cue = with_captions("Mind the gap")
    read = captions.read(BY_ANOTHER, cue, own_spans(cue))
    first, second = read.cue["beats"]
    assert (first["text"], first["start"], first["length"]) == ("Mind the gap & the step", {"at_s": 1.0}, {"s": 1.5})
    assert (second["text"], second["start"], second["length"]) == ("Tea!", {"at_s": 4.25}, {"s": 1.75})
    for wrong in ("", "no file", "WEBVTT\n\n00:05.000 --> 00:02.000\nx", "WEBVTT\n\n99:00:00.000 --> 99:00:01.000\nx"):
        with pytest.raises(BookError):
            captions.read(wrong, cue, own_spans(cue))


LAMPS = book_from(
    {
        "gear": [
            {
                "id": "lamps",
                "kind": "lights",
                "fixtures": [
                    {"id": "door", "name": "=Door", "profile": "rgbw", "universe": 2, "address": 17, "gamma": 1.8},
                    {"id": "yard", "name": "Yard", "spared": True},
                ],
                "groups": [{"id": "out", "name": "Outside", "fixtures": ["door", "yard"]}],
            }
        ]
    }
).gear[0]
BY_A_SPREADSHEET = "\ufeffName;Universe;Address;Groups\r\nYard;3;1;Outside|Signals\r\nNew lamp;3;20;\r\n"


def test_lamps_as_a_table() -> None:
    data = lamps.read(lamps.written(LAMPS), LAMPS)
    assert book_from({"gear": [data]}).gear[0] == LAMPS
    gear = book_from({"gear": [lamps.read(BY_A_SPREADSHEET, LAMPS)]}).gear[0]
    assert [(one.id, one.universe, one.address) for one in gear.fixtures] == [
        ("door", 2, 17),
        ("yard", 3, 1),
        ("new-lamp", 3, 20),
    ]
    assert {group.name: group.fixtures for group in gear.groups} == {"Outside": ["door", "yard"], "Signals": ["yard"]}
    for wrong, says in (
        ("", "is empty"),
        ("a,b\n1,2", "no column"),
        ("lamp,universe\nx,many", "line 2"),
        ("lamp,address\nx,900", "line 2"),
    ):
        with pytest.raises(BookError, match=says):
            lamps.read(wrong, LAMPS)


def test_what_other_programs_wrote() -> None:
    """A player's play list, a painting program's palette, a spreadsheet's pattern."""
    player = '#EXTM3U\r\n#EXTENC: UTF-8\r\n#PLAYLIST:Halt\r\n#EXTINF:3,Bell\r\nmedia/bell.ogg\r\n\r\n#EXTINF:-1 tvg-id="x",Rain\r\nrain.mp3\r\n'
    assert [entry.value for entry in read_jar("m3u8", player)] == ["media/bell.ogg", "rain.mp3"]
    palette = "GIMP Palette\nName: Halt\nColumns: 3\n#\n 42 157 143\tSignal teal\n255   0   0\tUntitled\n"
    assert [(entry.value, entry.name) for entry in read_jar("gpl", palette)] == [
        ("#2a9d8f", "Signal teal"),
        ("#ff0000", ""),
    ]
    table = 'value;weight\r\n"Mind; the gap";2,5\r\n'
    assert [(entry.value, entry.weight) for entry in read_jar("csv", table)] == [("Mind; the gap", 2.5)]
    pattern = from_csv(
        "\ufefftime_ms,side,x,y,size,level\r\n0,front,0.5,0.5,0.12,0\r\n250,front,0.5,0.5,0.12,1\r\n", "jolt", "Jolt"
    )
    assert from_csv(to_csv(pattern), "jolt", "Jolt") == pattern


def test_past_calls_are_made_sound() -> None:
    data = {"call": "c", "at": 5, "kind": "chat", "verdict": "let_in", "viewer_name": "owl\x00post", "more": 1}
    event = {"specversion": "1.0", "type": "cue-jar.call", "source": "/ledger/halt", "data": data}
    found = event_of(json.dumps(event).encode())
    assert found.data.viewer_name == "owlpost"
    for wrong in (
        b"{",
        b"[]",
        b"\xff",
        json.dumps({**event, "type": "tea"}).encode(),
        json.dumps({**event, "data": {**data, "at": -1}}).encode(),
    ):
        with pytest.raises(ValueError):
            event_of(wrong)


def test_captions_that_are_too_many_or_too_long_are_refused() -> None:
    cue, head = HALT.cues[0], "WEBVTT\n\n00:01.000 --> 00:02.000\n"
    for text in (head + "t" * 1_000_000, head + "tea\n\n00:01.000 --> 00:02.000\n" * 1_001):
        with pytest.raises(BookError, match=r"longer than|more than"):
            captions.read(text, cue, [])
    # Unclosed brackets used to take minutes.
    assert len(captions.read(head + "<" * 40_000, cue, []).cue["beats"]) == len(cue.beats) + 1
