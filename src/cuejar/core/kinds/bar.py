"""A bar: how far a count is on the way to its goal, filling up while it is seen."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import SEEN, VISIBLE, CannotDo, Kind, Named, Ref, Resolving, StartingBeat
from cuejar.core.parts.base import Id
from cuejar.core.parts.steps import Place, Timed, Visible


class BarBeat(Timed, Visible):
    kind: Literal["bar"]
    count: Id
    goal: Annotated[int, Field(ge=1, le=1_000_000_000)] | None = Field(None, description="none: the goal of the count")
    place: Place = Place(x=0.25, y=0.06, w=0.5, h=0.1)
    shape: Literal["rail", "jar", "dial"] = "rail"
    colour: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")] = "#f0a23c"
    plate: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")] = "#121d1b"
    title: bool = Field(True, description="with the name of the count")
    says: Literal["number", "share", "left", "nothing"] = Field("number", description="“37 of 100”, “37 %”, “63 to go”")


def _resolve(r: Resolving, beat: StartingBeat, b: BarBeat) -> None:
    told = r.progress(b.count)
    goal = b.goal if b.goal is not None else told["goal"]
    if goal is None:
        raise CannotDo(f"the count “{told['name']}” has no goal")
    beat.value = {**told, "goal": goal}


def _refs(b: BarBeat) -> list[Ref]:
    return [Ref("count", b.count, ("count",))]


def _tells(b: BarBeat, named: Named) -> str:
    return "shows the progress"


KIND = Kind(
    BarBeat,
    "shown",
    "caption",
    _resolve,
    refs=lambda b: iter(_refs(b)),
    tells=_tells,
    noticed=SEEN,
    harmless=f"{VISIBLE} count goal shape colour plate title says",
    asked="",
)
