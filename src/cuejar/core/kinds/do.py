"""A deed of a thing behind a bridge, once (a bell is struck, smoke is let out), with its values."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Annotated, Literal

from pydantic import Field

from cuejar.core.facts.happenings import Deed, PropertyValue
from cuejar.core.kinds.base import (
    COMMON,
    Asking,
    CheckContext,
    Kind,
    Named,
    Power,
    Ref,
    Resolving,
    Snag,
    StartingBeat,
    lost_thing,
    no_bridge,
    value_of,
)
from cuejar.core.measures.catalogue import NotThere, fitted
from cuejar.core.parts.base import Id, Name
from cuejar.core.parts.steps import Beat, SettingValue


class DoBeat(Beat):
    kind: Literal["do"]
    gear: Id
    thing: Name
    deed: Name
    values: Annotated[dict[Name, SettingValue], Field(max_length=50)] = {}


def _fitting(deed: Deed | None, values: Mapping[str, PropertyValue]) -> dict[str, PropertyValue]:
    """Returns the values that the deed takes; unknown ones are left out. Raises ValueError."""
    if deed is None:
        return dict(values)
    made: dict[str, PropertyValue] = {}
    for name, kind in deed.values.items():
        if name in values:
            try:
                made[name] = fitted(kind, values[name])
            except ValueError as error:
                raise ValueError(f"{kind.title or name}: {error}") from error
    return made


def _resolve(r: Resolving, beat: StartingBeat, b: DoBeat) -> None:
    thing, deed, known = r.catalogues.deed(b.gear, b.thing, b.deed)
    values = {name: value_of(r, v, None) if isinstance(v, str) and v else v for name, v in b.values.items()}
    beat.value = {"gear": b.gear, "thing": thing, "deed": deed, "values": _fitting(known, values)}


def _snags(b: DoBeat, context: CheckContext) -> Iterator[Snag]:
    yield from no_bridge(b, b.gear, context)
    try:
        known = context.catalogues.deed(b.gear, b.thing, b.deed)[2]
    except NotThere as error:
        yield lost_thing(b, error, {b.thing: "thing", b.deed: "deed"})
        return
    try:
        _fitting(known, {name: value for name, value in b.values.items() if "{{" not in str(value)})
    except ValueError as error:
        yield Snag("value", f"“{b.id}” can’t run: {error}.", "Choose a value.", "values", is_error=True)


def _refs(b: DoBeat) -> Iterator[Ref]:
    yield Ref("gear", b.gear, ("gear",))


def _tells(b: DoBeat, named: Named) -> str:
    return f"triggers {named.thing(b.gear, b.thing)}"


def _power(b: DoBeat, asking: Asking) -> Power:
    with_ = f" with {asking.value('values', b.values)}" if b.values else ""
    return asking.power(b, f"{b.deed} at {b.thing} of {asking.named('gear', b.gear)}{with_}")


KIND = Kind(
    DoBeat,
    "strike",
    "things",
    _resolve,
    "things",
    snags=_snags,
    refs=_refs,
    limit_s=10.0,
    missed="the thing did not do it",
    struck=lambda value: str(value["gear"]),
    tells=_tells,
    power=_power,
    harmless=COMMON,
    asked="gear thing deed values",
)
