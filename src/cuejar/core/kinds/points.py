"""Points of ours: the viewer is given some."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import COMMON, CannotDo, Kind, Named, Resolving, StartingBeat
from cuejar.core.parts.steps import Beat


class PointsBeat(Beat):
    kind: Literal["points"]
    give: Annotated[int, Field(ge=1, le=1_000_000)] = 100


def _resolve(r: Resolving, beat: StartingBeat, b: PointsBeat) -> None:
    if r.person is None:
        raise CannotDo("there was nobody to give points to")
    if not r.has_points:
        raise CannotDo("points of our own are switched off")
    beat.value = {"viewer": r.person.id, "name": r.person.name, "give": b.give}


def _tells(b: PointsBeat, named: Named) -> str:
    return f"gives {b.give:,} points"


KIND = Kind(PointsBeat, "strike", "count", _resolve, tells=_tells, act="gives", harmless=f"{COMMON} give", asked="")
