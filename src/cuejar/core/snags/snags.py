"""Snags: what the checks found wrong or risky in the book, each with a fix if one is known.

One function for each check, all in `CHECKS`. An *error* keeps a cue from doing its work (a lost file, an empty jar);
a *warning* is something that most streamers don't want (a sound that outlasts its picture, a duration so short that
nobody sees it, two overlays that would both play the same sound).
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping
from contextlib import suppress
from typing import Literal

from cuejar.core.book.book import Book, Cue
from cuejar.core.facts.happenings import MediaFacts, PropertyValue
from cuejar.core.kinds.base import HEARD
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.parts.steps import Beat, FromFile, FromJar
from cuejar.core.rules.score import Lengths, Score, ranges
from cuejar.core.snags.context import Check, CheckContext, Snag
from cuejar.core.snags.gearsnags import anchored, gear_there
from cuejar.core.snags.unseen import (
    before_chance,
    hidden_hold,
    never_text,
    nobody_drawn,
    phrase_unheard,
    unheard,
    unknown_scene,
)


def _files(beat: Beat, context: CheckContext) -> list[str]:
    media = getattr(beat, "media", None)
    if isinstance(media, FromFile):
        return [media.file]
    return context.lengths.drawable(media.jar) if isinstance(media, FromJar) else []


def _lost_file(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    for beat in cue.beats:
        media = getattr(beat, "media", None)
        for file in _files(beat, context):
            if context.lengths.known(file) is not None:
                continue
            jar = f" in the jar {media.jar}" if isinstance(media, FromJar) else ""
            grade: Literal["error", "warning"] = "warning" if jar else "error"
            yield Snag(
                "lost_file", grade, cue.id, beat.id, f"The file “{file}”{jar} is missing.", "Drop the file in again."
            )


def _empty_jar(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    for beat in cue.beats:
        sources = [getattr(beat, key, None) for key in ("media", "text", "colour", "cue")]
        named = [ref.id for ref in KINDS[beat.kind].refs(beat) if ref.what == "jar"]
        for name in [*(source.jar for source in sources if isinstance(source, FromJar)), *named]:
            jar = context.lengths.jars[name]
            if jar.kind == "viewers" and jar.draws.who != "list":
                continue
            if not jar.folder and not any(entry.on and entry.weight > 0 for entry in jar.entries):
                what = f"The jar “{jar.name or jar.id}” has nothing that can be drawn."
                yield Snag("empty_jar", "error", cue.id, beat.id, what, "Add an entry to the jar.")


def _nothing_happens(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    if not cue.beats:
        yield Snag("nothing_happens", "warning", cue.id, "", "This cue does nothing.", "Add a beat to its score.")


def _no_call(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    if not cue.calls and cue.id not in context.fired:
        yield Snag(
            "no_call", "warning", cue.id, "", "Only its pad calls this cue.", "Connect it to a reward or a message."
        )


SHORT_MS = 300


def _ends(cue: Cue, context: CheckContext) -> dict[str, tuple[int, int | None, int, int | None]]:
    spans = ranges(Score(cue, context.book), context.lengths)
    return {s.beat: (s.start.shortest, s.start.longest, s.end.shortest, s.end.longest) for s in spans}


def _too_short(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    spans = _ends(cue, context)
    for beat in cue.beats:
        start, _, end, longest = spans[beat.id]
        seen = KINDS[beat.kind].is_seen
        lasts = getattr(beat, "length", "keep") not in ("keep", "open") and longest is not None
        lost = not end and any(context.lengths.known(file) is None for file in _files(beat, context))
        if seen and lasts and not lost and end - start < SHORT_MS:
            what = f"“{beat.id}” is up for {end - start} ms; hardly anyone will see it."
            yield Snag("too_short", "warning", cue.id, beat.id, what, "Give it a longer time.")


def _sound_outlasts_picture(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    spans = _ends(cue, context)
    pictures = [spans[b.id] for b in cue.beats if KINDS[b.kind].is_seen and KINDS[b.kind].way == "shown"]
    if not pictures or any(picture[3] is None for picture in pictures):
        return
    last = max(picture[3] or 0 for picture in pictures)
    for beat in cue.beats:
        longest = spans[beat.id][3]
        kind = KINDS[beat.kind]
        if (
            kind.noticed == HEARD
            and not kind.speaks
            and kind.way == "shown"
            and longest is not None
            and longest > last + 100
        ):
            what = f"The sound “{beat.id}” plays {(longest - last) / 1000:g} s longer than the last picture."
            yield Snag("sound_outlasts_picture", "warning", cue.id, beat.id, what, "Let the picture last to the end.")


def _same_sound_twice(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    loud = [o for o in context.book.overlays if o.sound and not o.private and context.pages.get(o.id, 0) > 0]
    twice = [o for o in loud if context.pages[o.id] > 1]
    for beat in cue.beats:
        if not KINDS[beat.kind].is_heard:
            continue
        wanted = getattr(beat, "overlays", []) or [o.id for o in loud]
        hearing = [o for o in loud if o.id in wanted]
        if len(hearing) > 1 or any(o in twice for o in hearing):
            names = ", ".join(o.name for o in hearing)
            what = f"“{beat.id}” plays more than once: {names} play it on the stream."
            yield Snag("same_sound_twice", "warning", cue.id, beat.id, what, "Mute all but one of the overlays.")
            return


def _flashes(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    if not context.book.house.flash_guard:
        return
    for beat in cue.beats:
        for file in _files(beat, context):
            facts = context.lengths.known(file)
            if facts is not None and facts.flashes:
                what = f"“{file}” flashes more than three times a second, which can harm people."
                yield Snag("flashes", "warning", cue.id, beat.id, what, "Find the part on its media page and trim it.")


def _needless(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds a hold of the value that is at rest anyway: it has no effect."""
    held = {beat.id: context.held_by(beat) for beat in cue.beats}
    several = {path for path, number in Counter(held.values()).items() if path is not None and number > 1}
    for beat in cue.beats:
        # Where several beats hold the same, one may come back to what is at rest.
        if getattr(beat, "length", None) == "keep" or held[beat.id] in several:
            continue
        why = None
        with suppress(NotThere):
            why = KINDS[beat.kind].needless(beat, context)
        if why:
            what = f"Nothing will visibly change at “{beat.id}”: {why}."
            yield Snag("nothing_seen", "warning", cue.id, beat.id, what, "Change the rest value, or choose another.")


def _text_not_asked(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    asks = cue.door.text is not None
    for beat in cue.beats:
        for key in ("text", "colour", "value"):
            words = getattr(beat, key, None)
            if not isinstance(words, str) or asks:
                continue
            used = next((w for w in ("text", "colour", "number", "choice") if "{{" + w + "}}" in words), None)
            if used:
                what = f"“{beat.id}” uses the viewer's {used}, but the door doesn’t ask for text."
                yield Snag("text_not_asked", "warning", cue.id, beat.id, what, "Ask for text at the door.", used)


def _of_its_kind(cue: Cue, context: CheckContext) -> Iterator[Snag]:
    """Finds what each kind of beat knows of itself."""
    for beat in cue.beats:
        for found in KINDS[beat.kind].snags(beat, context):
            grade: Literal["error", "warning"] = "error" if found.is_error else "warning"
            yield Snag(found.check, grade, cue.id, beat.id, found.what, found.mend, found.key, found.near)


CHECKS: dict[str, Check] = {
    "lost_file": _lost_file,
    "empty_jar": _empty_jar,
    "nothing_happens": _nothing_happens,
    "no_call": _no_call,
    "too_short": _too_short,
    "sound_outlasts_picture": _sound_outlasts_picture,
    "same_sound_twice": _same_sound_twice,
    "flashes": _flashes,
    "nothing_seen": _needless,
    "text_not_asked": _text_not_asked,
    "never_text": never_text,
    "before_chance": before_chance,
    "nobody_drawn": nobody_drawn,
    "unknown_scene": unknown_scene,
    "hidden_hold": hidden_hold,
    "unheard": unheard,
    "phrase": phrase_unheard,
    "of_its_kind": _of_its_kind,
    "anchor": anchored,
    "gear": gear_there,
}
"""Every check by its name."""


def snags(
    book: Book,
    media: Mapping[str, MediaFacts] | None,
    pages: Mapping[str, int] | None = None,
    catalogues: Catalogues | None = None,
    rest: Mapping[str, PropertyValue] | None = None,
    unheard: Mapping[str, str] | None = None,
) -> list[Snag]:
    """Returns everything the checks find in the book.

    Args:
        pages: how many pages of each overlay are connected.
        catalogues: what the gear has; without them every name counts as known.
        rest: the known rest values.
        unheard: why phrases of the streamer aren't heard, by the folded phrase.
    """
    context = CheckContext(
        book, Lengths(book, media), pages or {}, catalogues or Catalogues(), rest or {}, unheard or {}
    )
    return [snag for cue in book.cues for check in CHECKS.values() for snag in check(cue, context)]
