"""A draw: one of the viewers is drawn from a jar of viewers, on a board that flips through their names."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal, NamedTuple

from pydantic import Field

from cuejar.core.kinds.base import SEEN, VISIBLE, CannotDo, Kind, Named, Ref, Resolving, StartingBeat, look_of
from cuejar.core.parts.base import Id, JsonObject, Length_s, ms
from cuejar.core.parts.steps import Beat, Template, Visible

DRAWN, NOBODY = "drawn", "nobody"


class DrawBeat(Beat, Visible):
    kind: Literal["draw"]
    jar: Id | None = Field(None, description="the jar of viewers; none: whoever is there now")
    title: Template = ""
    spin_s: Length_s = 4


class DrawOutcome(NamedTuple):
    """Somebody was drawn, or nobody was there."""

    id: str
    name: str


def _resolve(r: Resolving, beat: StartingBeat, b: DrawBeat) -> None:
    names, drawn = r.draw_viewer(beat, b.jar)
    if drawn is None:
        raise CannotDo("there was nobody to draw")
    beat.value = {"faces": [], "outcome": DRAWN, "title": r.fill(b.title), "names": names, "drawn": drawn}


def _own_ms(b: DrawBeat) -> int:
    return ms(b.spin_s)


def _refs(b: DrawBeat) -> Iterator[Ref]:
    if b.jar is not None:
        yield Ref("jar", b.jar, ("jar",))


def _look(b: DrawBeat) -> JsonObject:
    # The title is filled in when it is drawn.
    return {key: value for key, value in look_of(b).items() if key not in ("title", "jar")}


def _tells(b: DrawBeat, named: Named) -> str:
    return "draws one of the viewers"


def _outcomes(b: DrawBeat) -> Sequence[DrawOutcome]:
    return [DrawOutcome(DRAWN, "Somebody was drawn"), DrawOutcome(NOBODY, "Nobody was there")]


KIND = Kind(
    DrawBeat,
    "strike",
    "chance",
    _resolve,
    refs=_refs,
    own_ms=_own_ms,
    look=_look,
    tells=_tells,
    noticed=SEEN,
    act="draws",
    outcomes=_outcomes,
    harmless=f"{VISIBLE} jar title spin_s",
    asked="",
)
