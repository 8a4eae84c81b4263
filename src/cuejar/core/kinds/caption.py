"""A caption: words on the overlay."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import SEEN, VISIBLE, CannotDo, Kind, Named, Resolving, StartingBeat
from cuejar.core.parts.steps import Place, Timed, Visible, Words


class CaptionBeat(Timed, Visible):
    kind: Literal["caption"]
    text: Words
    place: Place = Place(x=0.1, y=0.78, w=0.8, h=0.14)
    size: Annotated[float, Field(ge=0.01, le=1)] = Field(
        0.06, description="height of the type, as a fraction of the overlay's"
    )
    colour: str = "#f4eedd"
    plate: str | None = "#121d1b"
    face: Literal["display", "text"] = "display"
    align: Literal["left", "centre", "right"] = "centre"


def _resolve(r: Resolving, beat: StartingBeat, b: CaptionBeat) -> None:
    beat.value = r.words(beat, b.text)
    if not beat.value.strip():
        raise CannotDo("the caption is empty")
    if beat.is_unmeasured:
        beat.own = r.lengths.of_speech(beat.value, None)


def _tells(b: CaptionBeat, named: Named) -> str:
    return f"shows {named.whose} text" if isinstance(b.text, str) and "{{text}}" in b.text else "shows a caption"


KIND = Kind(
    CaptionBeat,
    "shown",
    "caption",
    _resolve,
    noticed=SEEN,
    tells=_tells,
    captions=True,
    harmless=f"{VISIBLE} text size colour plate face align",
    asked="",
)
