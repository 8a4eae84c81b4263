"""A count: a number with a name goes up or down."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.kinds.base import COMMON, Kind, Ref, Resolving, StartingBeat
from cuejar.core.parts.base import Id
from cuejar.core.parts.steps import Beat


class CountBeat(Beat):
    kind: Literal["count"]
    name: Id
    add: Annotated[int, Field(ge=-1_000_000, le=1_000_000)] = 1


def _resolve(r: Resolving, beat: StartingBeat, b: CountBeat) -> None:
    beat.value = {"name": b.name, "add": b.add}


def _refs(b: CountBeat) -> Iterator[Ref]:
    yield Ref("count", b.name, ("name",), loose=True)


def _counts(b: CountBeat) -> str:
    return b.name


KIND = Kind(
    CountBeat,
    "strike",
    "count",
    _resolve,
    refs=_refs,
    unnoticed="counts",
    act="counts",
    counts=_counts,
    harmless=f"{COMMON} name add",
    asked="",
)
