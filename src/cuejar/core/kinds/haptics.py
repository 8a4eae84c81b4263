"""Haptics: a pattern on the skin."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from cuejar.core.kinds.base import (
    COMMON,
    FELT,
    CannotDo,
    CheckContext,
    HouseLimits,
    Kind,
    Lengths,
    Named,
    Ref,
    Resolving,
    Snag,
    StartingBeat,
    loops_of,
)
from cuejar.core.measures.catalogue import Catalogues, NotThere, near_names
from cuejar.core.measures.haptics import found
from cuejar.core.parts.base import JsonObject, Name, Share
from cuejar.core.parts.steps import Natural


class HapticsBeat(Natural):
    kind: Literal["haptics"]
    pattern: Name
    strength: Share = 1


def _has_no_pads(catalogues: Catalogues) -> bool:
    """Returns whether a wearable reported what it has, and has no pads."""
    there = catalogues.known.get("haptics")
    return there is not None and not there.touches


def _resolve(r: Resolving, beat: StartingBeat, b: HapticsBeat) -> None:
    if _has_no_pads(r.catalogues):
        raise CannotDo("the wearable reports no pads, so nothing can be felt")
    pattern = found(r.patterns, b.pattern)
    if pattern is None and r.patterns:
        raise NotThere("pattern", b.pattern, near_names(b.pattern, [p.name for p in r.patterns]), "in the book")
    beat.value = pattern.id if pattern is not None else b.pattern
    if beat.is_unmeasured:
        beat.own = r.lengths.of_pattern(b.pattern, loops_of(b))


def _span(b: HapticsBeat, lengths: Lengths, loops: int | None, most: int) -> tuple[int, int]:
    own = lengths.of_pattern(b.pattern, loops)
    return own, own


def _snags(b: HapticsBeat, context: CheckContext) -> Iterator[Snag]:
    if _has_no_pads(context.catalogues):
        yield Snag("no_pads", f"“{b.id}” can’t be felt: the wearable reports no pads.", "Check it on the Rig page.")
    if found(context.patterns, b.pattern) is None:
        near = tuple(near_names(b.pattern, [pattern.name for pattern in context.patterns]))
        mend = f"Use “{near[0]}”." if near else "Paint it, or choose another."
        yield Snag("lost_name", f"“{b.id}”: there is no pattern “{b.pattern}”.", mend, "pattern", near, is_error=True)


def _tells(b: HapticsBeat, named: Named) -> str:
    return "can be felt by the streamer"


def _refs(b: HapticsBeat) -> Iterator[Ref]:
    yield Ref("pattern", b.pattern, ("pattern",), loose=True)


def _limited(look: JsonObject, lasts_ms: int | None, house: HouseLimits) -> bool:
    is_long = lasts_ms is not None and lasts_ms > house.haptics_most_s * 1000
    return is_long or bool(look.get("strength", 1) > house.haptics_level)


KIND = Kind(
    HapticsBeat,
    "shown",
    "haptics",
    _resolve,
    "haptics",
    snags=_snags,
    span_ms=_span,
    tells=_tells,
    noticed=FELT,
    refs=_refs,
    limited=_limited,
    harmless=f"{COMMON} pattern strength",
    asked="",
)
