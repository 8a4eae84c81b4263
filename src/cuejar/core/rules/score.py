"""The score: from beats to a timed plan, and how the plan moves while it runs.

A beat starts at an anchor plus an offset: the run's start, or the start or end of another beat. Its length is one of

    seconds    a fixed time
    natural    the media after trimming, the speech, the pattern; a still picture takes the house's `still_s`
    loops      whole loops of an animated picture: 3 loops of 1.4 s are 4.2 s
    to_end     until every beat with another length has ended
    open       until released by hand, at most the house's `open_cap_s`
    keep       for properties: sets the rest value itself, and is over at once

A picture for 5 s, a scene 1 s after the picture's start for 4 s, a sound at the scene's end:

    picture  0 ------- 5
    scene      1 ---- 5
    sound             5 --

The plan is made when the run starts, and again when the end of something that is up changes (released early, extended):
beats that have begun keep their start, later ones move with their anchor.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import NamedTuple

from cuejar.core.book.book import Book, Cue, MediaEntry
from cuejar.core.facts.happenings import MediaFacts, PropertyValue, Shown
from cuejar.core.kinds.base import look_of, loops_of, show_media
from cuejar.core.kinds.table import KINDS, AnyBeat
from cuejar.core.measures.haptics import found
from cuejar.core.measures.keys import canonical
from cuejar.core.measures.throw import hit_ms
from cuejar.core.parts.base import JsonObject, ms
from cuejar.core.parts.steps import Flight, ForLoops, ForSeconds, FromFace, FromFile, FromJar
from cuejar.core.rules.door import Doorway, switched_off
from cuejar.core.rules.words import speech_length_s

PENDING, UP, OVER, LEFT_OUT = range(4)

GOES_FIRST = frozenset({"overlap", "replace"})
"""Entries at the head of the line, which even a full line never refuses."""

TAKEN_AS_THERE = MediaFacts()
"""The assumed content of an unknown file."""


class Spec:
    """A beat as the plan needs it: its anchor by index, its length in ms if known beforehand."""

    __slots__ = (
        "after",
        "at_end",
        "beat",
        "duck",
        "fade_in",
        "fade_out",
        "file",
        "id",
        "kind",
        "length",
        "look",
        "off",
        "offset",
        "output",
        "own",
        "sets",
        "settled",
        "way",
    )

    def __init__(
        self, beat: AnyBeat, index: Mapping[str, int], book: Book, volume: float, anchor: AnyBeat | None, speed: int
    ) -> None:
        """Args:
        speed: divides its offset and its length, for a try.
        """
        kind = KINDS[beat.kind]
        self.beat, self.id, self.kind, self.way, self.output = beat, beat.id, beat.kind, kind.way, kind.output
        self.after = index[beat.start.after] if beat.start.after is not None else -1
        self.at_end = beat.start.edge == "end"
        self.offset = ms(beat.start.at_s)
        if beat.start.edge == "hit" and isinstance(anchor, Flight):
            self.offset += hit_ms(anchor, beat.start.hit)
        self.off = switched_off(beat.kind, book.house)
        length = getattr(beat, "length", None)
        self.own: int | None = None
        if isinstance(length, ForSeconds):
            self.length, self.own = "seconds", ms(length.s)
        elif isinstance(length, ForLoops):
            self.length = "loops"
        elif length is not None:
            self.length = length
        else:
            self.length = "none"
            self.own = 0
        self.own = own if (own := kind.own_ms(beat)) is not None else self.own
        if self.length == "keep":
            self.own = 0
        self.fade_in, self.fade_out = ms(getattr(beat, "fade_in_s", 0)), ms(getattr(beat, "fade_out_s", 0))
        if speed > 1:
            self.offset //= speed
            self.own = max(1, self.own // speed) if self.own else self.own
        self.duck: float = getattr(beat, "duck", 1)
        media = getattr(beat, "media", None)
        self.file = media.file if isinstance(media, FromFile) and kind.resolve is show_media else None
        self.sets = kind.sets
        self.settled = (
            not beat.only_if
            and beat.whose == "caller"
            and (self.sets is not None or (self.file is not None and self.own is not None))
        )
        self.look: JsonObject = {}
        if self.way == "shown" or kind.look is not look_of:
            self.look = kind.look(beat)
            if "volume" in self.look:
                self.look["volume"] = round(self.look["volume"] * volume / 100, 3)


class Score:
    """A cue ready to run: its door, its lane, its beats ordered so that every anchor comes before the beats that depend
    on it.
    """

    def __init__(self, cue: Cue, book: Book) -> None:
        self.cue, self.id, self.entry, self.house, self._book = cue, cue.id, cue.entry, book.house, book
        self.lane = book.lane_of(cue)
        self.takes_room = cue.entry != "overlap"
        self.goes_first = cue.entry in GOES_FIRST
        self.cap_stream = cue.door.cap_stream
        self.doorway = Doorway(cue, book)
        self.specs = self._specs(1)
        self.settled = all(spec.settled for spec in self.specs)
        self.speaks = any(KINDS[spec.kind].speaks for spec in self.specs)

    def _specs(self, speed: int) -> list[Spec]:
        ordered = in_order(self.cue.beats)
        index = {beat.id: i for i, beat in enumerate(ordered)}
        volume = self.house.volume * (1 if self.cue.volume is None else self.cue.volume / 100)
        anchors = {beat.id: beat for beat in ordered}
        return [Spec(beat, index, self._book, volume, anchors.get(beat.start.after or ""), speed) for beat in ordered]

    def at_speed(self, speed: int) -> list[Spec]:
        """Returns its beats; for a faster try with divided offsets and lengths."""
        return self.specs if speed <= 1 else self._specs(speed)


def in_order(beats: Sequence[AnyBeat]) -> list[AnyBeat]:
    """Returns beats ordered so that each follows its anchor, otherwise unchanged. The book has refused circles."""
    by_id = {beat.id: beat for beat in beats}
    out: dict[str, AnyBeat] = {}

    for beat in beats:
        trail: list[AnyBeat] = []
        at: AnyBeat | None = beat
        while at is not None and at.id not in out:
            trail.append(at)
            at = by_id[at.start.after] if at.start.after is not None else None
        out.update((one.id, one) for one in reversed(trail))
    return list(out.values())


class RunBeat:
    """A beat of one run. Times are ms of the engine's clock; None while an open beat keeps them unknown.

    ``away``: it is up, and its gear was never connected since it began.
    """

    __slots__ = ("away", "end", "failed", "own", "sets", "spec", "start", "state", "value")

    def __init__(self, spec: Spec, own: int | None = None) -> None:
        self.spec, self.own = spec, own
        self.start: int | None = None
        self.end: int | None = None
        self.state = PENDING
        self.value: Shown = None
        self.sets: list[tuple[str, PropertyValue]] = []
        self.failed: str | None = None
        self.away = False

    @property
    def id(self) -> str:
        return self.spec.id

    @property
    def is_unmeasured(self) -> bool:
        """Returns whether its length is that of its media, and not known yet."""
        return self.own is None and self.spec.length in ("natural", "loops")


def place(beats: Sequence[RunBeat], run_start: int, not_before: int, cap: int | None = None) -> list[RunBeat]:
    """Sets the start and end of every beat that isn't over.

    Args:
        beats: in the order of `Score.specs`.
        not_before: now; nothing still to come starts earlier.
        cap: the latest end of the run.

    Returns:
        The beats that are up and whose end has changed.
    """
    changed: list[RunBeat] = []
    to_end = False
    for beat in beats:
        spec = beat.spec
        if beat.state == PENDING:
            if spec.after < 0:
                beat.start = run_start + spec.offset
            else:
                anchor = beats[spec.after]
                if anchor.state == LEFT_OUT:
                    beat.state = LEFT_OUT
                    continue
                at = anchor.end if spec.at_end else anchor.start
                beat.start = None if at is None else max(at + spec.offset, not_before)
            if cap is not None and beat.start is not None and beat.start >= cap:
                beat.state = LEFT_OUT
                continue
            if spec.length == "to_end":
                to_end = True
            else:
                beat.end = None if beat.start is None or beat.own is None else beat.start + beat.own
        elif spec.length == "to_end":
            to_end = True
        if cap is not None and beat.end is not None and beat.state in (PENDING, UP):
            beat.end = min(beat.end, cap)
    if to_end:
        end = _horizon(beats)
        for beat in beats:
            if beat.spec.length == "to_end" and beat.state in (PENDING, UP):
                before = beat.end
                beat.end = None if end is None or beat.start is None else max(end, beat.start)
                if beat.state == UP and beat.end != before:
                    changed.append(beat)
    return changed


def _horizon(beats: Iterable[RunBeat]) -> int | None:
    """Returns when every beat with another length has ended; strikes count only if there is nothing else."""
    there = [b for b in beats if b.state != LEFT_OUT and b.spec.length != "to_end"]
    lasting = [b for b in there if b.spec.length != "none"] or there
    ends = [b.end for b in lasting]
    known = [end for end in ends if end is not None]
    return None if len(known) < len(ends) or not known else max(known)


def media_ms(facts: MediaFacts, entry: MediaEntry | None) -> int:
    """Returns one pass of a file in ms, after trimming; 0 for a still picture."""
    length = facts.length_s
    if entry is not None and entry.trim is not None:
        end = length if entry.trim.to_s is None else min(entry.trim.to_s, length)
        length = max(0.0, end - entry.trim.from_s)
    return ms(length)


class Range(NamedTuple):
    """Shortest and longest length in ms; ``longest`` is None if it is open."""

    shortest: int
    longest: int | None


class Lengths:
    """The natural lengths of beats: as a range before the run, as a number at its start."""

    def __init__(self, book: Book, media: Mapping[str, MediaFacts] | None) -> None:
        self.still = ms(book.house.still_s)
        self.open_cap = ms(book.house.open_cap_s)
        self.entries = {entry.id: entry for entry in book.media}
        self.media = media
        self.jars = {jar.id: jar for jar in book.jars}
        self.parts = {part.id: part for part in book.cast}
        self.patterns = book.patterns
        self.combos: dict[str, str] = {}
        for cue in book.cues:
            for beat in cue.beats:
                if (combo := KINDS[beat.kind].latch(beat)) is not None:
                    self.combos.setdefault(canonical(combo), combo)

    def known(self, media_id: str) -> MediaFacts | None:
        """Returns what is in the file, or None if it is missing. Without a library every file of the book counts as
        present.
        """
        if self.media is None:
            return TAKEN_AS_THERE if media_id in self.entries else None
        facts = self.media.get(media_id)
        return None if facts is None or facts.missing else facts

    def one_pass(self, media_id: str) -> int:
        facts = self.known(media_id)
        return media_ms(facts, self.entries.get(media_id)) if facts else 0

    def of_media(self, media_id: str, loops: int | None) -> int:
        """Returns the length of ``loops`` passes, or the natural length: a picture that repeats n times by itself has n
        passes.
        """
        once = self.one_pass(media_id)
        if once == 0:
            return self.still
        facts = self.known(media_id)
        natural = facts.loops if facts and facts.kind == "picture" and facts.loops > 1 else 1
        return once * (loops if loops is not None else natural)

    def spelled(self, combo: str) -> str:
        """Returns a combination as the book first writes it: two spellings of the same keys are one latch."""
        return self.combos.get(canonical(combo), combo)

    def of_pattern(self, name: str, loops: int | None) -> int:
        """Returns the length of a pattern of the book, ``loops`` times; one from elsewhere has the length that the
        library knows.
        """
        pattern = found(self.patterns, name)
        if pattern is None:
            return self.of_media(name, loops)
        return ms(pattern.length_s) * (loops or 1)

    def of_speech(self, text: str, part: str | None) -> int:
        rate = self.parts[part].rate if part in self.parts else 1.0
        return ms(speech_length_s(text, rate))

    def range_of(self, spec: Spec, most_characters: int = 300) -> Range:
        """Returns the range of one beat before its run."""
        if spec.length == "open":
            return Range(0, self.open_cap)
        if spec.own is not None:
            return Range(spec.own, spec.own)
        loops = loops_of(spec.beat)
        if isinstance(getattr(spec.beat, "media", None), FromFace):
            return Range(self.still, self.still)
        span = KINDS[spec.kind].span_ms(spec.beat, self, loops, most_characters)
        if span is not None:
            return Range(*span)
        lengths = [self.of_media(m, loops) for m in self._may_give(spec.beat) if self.known(m) is not None]
        return Range(min(lengths), max(lengths)) if lengths else Range(0, 0)

    def _may_give(self, beat: AnyBeat) -> list[str]:
        media = getattr(beat, "media", None)
        if isinstance(media, FromFile):
            return [media.file]
        return self.drawable(media.jar) if isinstance(media, FromJar) else []

    def drawable(self, jar: str) -> list[str]:
        """What a jar of the book can give."""
        return [e.value for e in self.jars[jar].entries if e.on and e.weight > 0] if jar in self.jars else []


class Span(NamedTuple):
    """Where a beat lies before the run, in ms from its start: earliest and latest start, and end (None: open)."""

    beat: str
    start: Range
    end: Range


def ranges(score: Score, lengths: Lengths) -> list[Span]:
    """Returns where every beat lies on the score, shortest and longest; the cue's length is the furthest end."""
    text = score.cue.door.text
    most = text.max if text is not None and text.max is not None else 300

    def planned(pick: Callable[[Range], int | None]) -> list[RunBeat]:
        beats = []
        for spec in score.specs:
            own = None if spec.length == "to_end" else pick(lengths.range_of(spec, most))
            beats.append(RunBeat(spec, own))
        place(beats, 0, 0)
        return beats

    short, long = planned(lambda r: r.shortest), planned(lambda r: r.longest)
    return [
        Span(a.spec.id, Range(a.start or 0, b.start), Range(a.end or 0, b.end))
        for a, b in zip(short, long, strict=True)
    ]
