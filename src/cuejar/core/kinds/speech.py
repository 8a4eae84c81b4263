"""A speech: words read aloud, with a caption and a mouth if wanted."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import AUDIBLE, HEARD, CannotDo, Kind, Lengths, Named, Ref, Resolving, StartingBeat
from cuejar.core.parts.base import Id
from cuejar.core.parts.steps import Audible, Natural, Place, Words

_DECIDED = re.compile(r"\{\{\s*[#^&]?\s*(drawn|rolled)\b")
NOT_SAID = "the text could not be turned into speech"


class SpeechBeat(Natural, Audible):
    kind: Literal["speech"]
    text: Words = "{{text}}"
    part: Id | None = None
    caption: bool = True
    mouth: bool = Field(False, description="the part's mouth pictures follow the sound")
    place: Place = Place(x=0.1, y=0.75, w=0.8, h=0.18)
    mouth_place: Place = Place(x=0.72, y=0.3, w=0.24, h=0.44)
    size: Annotated[float, Field(ge=0.01, le=1)] = Field(0.06, description="height of the caption's type")


def is_known_before(b: SpeechBeat) -> bool:
    """Returns whether its words are known before its run starts: nothing in them is rolled or drawn."""
    return b.whose == "caller" and (not isinstance(b.text, str) or _DECIDED.search(b.text) is None)


def _resolve(r: Resolving, beat: StartingBeat, b: SpeechBeat) -> None:
    beat.value = r.words(beat, b.text, said=True)
    if not beat.value.strip():
        raise CannotDo("there is nothing to say")
    ready = r.speech_ms(beat)
    if ready == 0:
        raise CannotDo(NOT_SAID)
    if beat.is_unmeasured:
        beat.own = ready if ready is not None else r.reckoned_ms(beat.value, b.part)


def _span(b: SpeechBeat, lengths: Lengths, loops: int | None, most: int) -> tuple[int, int]:
    return lengths.of_speech("", b.part), lengths.of_speech("x" * most, b.part)


def _refs(b: SpeechBeat) -> Iterator[Ref]:
    if b.part is not None:
        yield Ref("part", b.part, ("part",))


def _tells(b: SpeechBeat, named: Named) -> str:
    who = named.part(b.part)
    yours = not isinstance(b.text, str) or "{{text}}" in b.text
    said = f"{named.whose} text" if yours and isinstance(b.text, str) else "a text"
    return f"reads {said} aloud" + (f" as {who}" if who else "")


KIND = Kind(
    SpeechBeat,
    "shown",
    "speech",
    _resolve,
    refs=_refs,
    span_ms=_span,
    noticed=HEARD,
    tells=_tells,
    speaks=True,
    harmless=f"{AUDIBLE} text part caption mouth place mouth_place size",
    asked="",
)
