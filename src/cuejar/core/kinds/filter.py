"""A filter: a setting of a source's filter, or whether it is on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Annotated, Literal

from pydantic import Field, model_validator

from cuejar.core.facts.happenings import Renamed
from cuejar.core.facts.paths import filter_path
from cuejar.core.kinds.base import (
    COMMON,
    HELD,
    SEEN,
    CheckContext,
    Kind,
    Lengths,
    Named,
    OtherBeats,
    Resolving,
    Snag,
    StartingBeat,
    lost,
    named_now,
    value_of,
)
from cuejar.core.measures.catalogue import Catalogues, NotThere
from cuejar.core.parts.base import JsonObject, Name
from cuejar.core.parts.folding import folded
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Faded, Timed, one_for_many


class FilterBeat(Timed, Faded):
    kind: Literal["filter"]
    sources: Annotated[list[Name], Field(min_length=1)]
    filter: Name
    setting: Name = "on"
    value: bool | float | str = True

    @model_validator(mode="before")
    @classmethod
    def _one(cls, data: object) -> object:
        return one_for_many(data, "source", "sources")


def _resolve(r: Resolving, beat: StartingBeat, b: FilterBeat) -> None:
    meant = [r.catalogues.filter(source, b.filter, b.setting) for source in b.sources]
    paths = [filter_path(*where) for where in meant]
    value = value_of(r, b.value, paths[0]) if isinstance(b.value, str) else b.value
    beat.sets = [(path, r.catalogues.fitting(*where, value)) for path, where in zip(paths, meant, strict=True)]


def _snags(b: FilterBeat, context: CheckContext) -> Iterator[Snag]:
    try:
        for source in b.sources:
            context.catalogues.filter(source, b.filter, b.setting)
    except NotThere as error:
        key = "filter" if error.name == b.filter else "setting" if error.name == b.setting else "sources"
        yield lost(b, key, error)


def _holds(b: FilterBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str:
    return filter_path(*catalogues.filter(b.sources[0], b.filter, b.setting))


def _renamed(beat: JsonObject, renamed: Renamed) -> JsonObject:
    if renamed.what == "source":
        return {**beat, "sources": [named_now(source, renamed) for source in beat["sources"]]}
    if renamed.what == "filter" and any(folded(s) == folded(renamed.of) for s in beat["sources"]):
        return {**beat, "filter": named_now(beat["filter"], renamed)}
    return beat


def _tells(b: FilterBeat, named: Named) -> str:
    return f"applies the filter {b.filter}"


def _unseen(b: FilterBeat, cue: OtherBeats, context: CheckContext) -> Iterator[Snag]:
    """Finds a change of a filter that is off."""
    if b.setting == "on":
        return
    on = {
        source
        for one in cue.beats
        if isinstance(one, FilterBeat) and one.setting == "on" and one.value
        for source in one.sources
    }
    for source in b.sources:
        try:
            there, name, _ = context.catalogues.filter(source, b.filter, b.setting)
        except NotThere:
            return
        if context.rest.get(filter_path(there, name, "on")) is False and source not in on:
            what = f"“{b.id}” changes the filter {name} of {there}, which is off, so nobody will see it."
            yield Snag("filter_off", what, "Switch the filter on for the beat.")
            return


def _choices(b: FilterBeat, what: str, catalogues: Catalogues) -> list[str]:
    there = catalogues.broadcaster
    if there is None:
        return []
    if what == "source":
        return sorted({source for listed in there.scenes.values() for source in listed} | set(there.filters))
    if what != "filter":
        return list(there.names.get(what, ()))
    sources = [folded(one) for one in b.sources]
    return sorted({name for source, some in there.filters.items() if folded(source) in sources for name in some})


KIND = Kind(
    FilterBeat,
    "hold",
    "broadcast",
    _resolve,
    "broadcaster",
    snags=_snags,
    holds=_holds,
    renamed=_renamed,
    noticed=SEEN | HELD,
    tells=_tells,
    unseen=_unseen,
    choices=_choices,
    harmless=f"{COMMON} sources filter setting value",
    asked="",
)
