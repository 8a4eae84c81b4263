"""A win: the viewer stands in the list of winners, with what they won, until it is given."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import COMMON, CannotDo, Kind, Named, Resolving, StartingBeat
from cuejar.core.parts.steps import Beat


class WinBeat(Beat):
    kind: Literal["win"]
    what: Annotated[str, Field(min_length=1, max_length=500, description="what they win; may use templates")]


def _resolve(r: Resolving, beat: StartingBeat, b: WinBeat) -> None:
    if r.person is None:
        raise CannotDo("there was nobody to win")
    beat.value = {"viewer": r.person.id, "name": r.person.name, "what": r.fill(b.what).strip()[:500]}


def _tells(b: WinBeat, named: Named) -> str:
    return "names a winner"


KIND = Kind(WinBeat, "strike", "count", _resolve, tells=_tells, act="wins", harmless=f"{COMMON} what", asked="")
