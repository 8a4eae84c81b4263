"""A setting of a thing behind a bridge (a vane's angle, a valve, a lamp's colour), held at a value for the beat's
length.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Literal

from cuejar.core.facts.paths import thing_path
from cuejar.core.kinds.base import (
    COMMON,
    HELD,
    SEEN,
    Asking,
    CheckContext,
    Kind,
    Lengths,
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
from cuejar.core.measures.catalogue import Catalogues, NotThere, fitted
from cuejar.core.parts.base import Id, Name
from cuejar.core.parts.gear import Gear
from cuejar.core.parts.steps import Faded, SettingValue, Timed


class SetBeat(Timed, Faded):
    kind: Literal["set"]
    gear: Id
    thing: Name
    setting: Name
    value: SettingValue


def _path(b: SetBeat, catalogues: Catalogues) -> str:
    return thing_path(b.gear, *catalogues.setting(b.gear, b.thing, b.setting)[:2])


def _resolve(r: Resolving, beat: StartingBeat, b: SetBeat) -> None:
    path, setting = _path(b, r.catalogues), r.catalogues.setting(b.gear, b.thing, b.setting)[2]
    value = value_of(r, b.value, path) if isinstance(b.value, str) else b.value
    beat.sets = [(path, value if setting is None else fitted(setting, value))]


def _snags(b: SetBeat, context: CheckContext) -> Iterator[Snag]:
    yield from no_bridge(b, b.gear, context)
    try:
        setting = context.catalogues.setting(b.gear, b.thing, b.setting)[2]
    except NotThere as error:
        yield lost_thing(b, error, {b.thing: "thing", b.setting: "setting"})
        return
    if setting is not None and "{{" not in str(b.value):
        title = setting.title or b.setting
        try:
            takes = fitted(setting, b.value)
        except ValueError as error:
            what = f"“{b.id}” sets {title} to an invalid value: {error}."
            yield Snag("value", what, "Choose a value.", "value", is_error=True)
            return
        if setting.type == "number" and takes != float(b.value):
            what = f"“{b.id}” sets “{title}” to {float(b.value):g}, which it can’t show; it shows {takes:g}."
            yield Snag("value", what, "Choose a value in its range and steps.", "value")


def _holds(b: SetBeat, lengths: Lengths, catalogues: Catalogues, gear: Sequence[Gear]) -> str:
    return _path(b, catalogues)


def _refs(b: SetBeat) -> Iterator[Ref]:
    yield Ref("gear", b.gear, ("gear",))


def _tells(b: SetBeat, named: Named) -> str:
    return f"changes {named.thing(b.gear, b.thing)}"


def _power(b: SetBeat, asking: Asking) -> Power:
    where = f"{b.thing} of {asking.named('gear', b.gear)}"
    return asking.power(b, f"sets {b.setting} at {where} to {asking.value('value', b.value)}")


KIND = Kind(
    SetBeat,
    "hold",
    "things",
    _resolve,
    "things",
    snags=_snags,
    holds=_holds,
    refs=_refs,
    tells=_tells,
    noticed=SEEN | HELD,
    power=_power,
    harmless=COMMON,
    asked="gear thing setting value",
)
