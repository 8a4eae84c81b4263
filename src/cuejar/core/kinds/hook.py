"""An outgoing hook: calls another program, and again at the end if wanted."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal
from urllib.parse import urlsplit

from pydantic import Field

from cuejar.core.facts.happenings import Shown
from cuejar.core.kinds.base import COMMON, Asking, CheckContext, Kind, Power, Ref, Resolving, Snag, StartingBeat
from cuejar.core.parts.base import Id, Length_s, ms
from cuejar.core.parts.gear import HookOut, host_of
from cuejar.core.parts.steps import Beat, Template


class HookBeat(Beat):
    kind: Literal["hook"]
    hook: Id
    payload: Template = Field("", description="a body for this beat alone; empty: the hook's own")
    then_s: Length_s | None = Field(None, description="how long after it a second call is sent")
    then_payload: Template = ""


def _resolve(r: Resolving, beat: StartingBeat, b: HookBeat) -> None:
    values = r.values()
    beat.value = {"hook": b.hook, "payload": r.filled(b.payload, "json")}
    if any(gear.id == b.hook and (gear.address or gear.hook != HookOut()) for gear in r.gear):
        # Hooks fill their own templates when they are sent: these may hold secrets, which must not be in the ledger.
        beat.value["values"] = {**values, "count": dict(values["count"]), "drawn": dict(values["drawn"])}
    if b.then_s is not None:
        beat.value["then"] = r.filled(b.then_payload, "json")


def _own_ms(b: HookBeat) -> int | None:
    return ms(b.then_s) if b.then_s is not None else None


def _snags(b: HookBeat, context: CheckContext) -> Iterator[Snag]:
    gear = context.by_id.get(b.hook)
    host = urlsplit(gear.address).hostname if gear is not None and gear.address else None
    if host and host.casefold() not in context.hosts:
        yield Snag(
            "hook_not_allowed", f"Hooks to {host} aren’t allowed yet.", "Allow it on the Rig page.", is_error=True
        )


def _refs(b: HookBeat) -> Iterator[Ref]:
    yield Ref("hook", b.hook, ("hook",))


def _first(value: Shown) -> Shown:
    assert isinstance(value, dict)
    return {key: part for key, part in value.items() if key != "then"}


def _second(value: Shown) -> Shown | None:
    assert isinstance(value, dict)
    return {**_first(value), "payload": value["then"], "second": True} if "then" in value else None


def _power(b: HookBeat, asking: Asking) -> Power:
    there = asking.gear(b.hook)
    sent = [b.payload or (there.hook.body if there is not None else ""), b.then_payload]
    with_ = " and ".join(f"“{asking.words(one)}”" for one in sent if one)
    host = host_of(there.address) if there is not None else ""
    more = {"there": [there.address, there.hook.model_dump(mode="json")]} if there is not None else {}
    return asking.power(b, f"sends {with_ or 'a request'} to {host or 'the hook ' + b.hook}", **more)


KIND = Kind(
    HookBeat,
    "strike",
    "hook",
    _resolve,
    "hook",
    snags=_snags,
    refs=_refs,
    own_ms=_own_ms,
    limit_s=120.0,
    missed="the hook was not sent",
    struck=lambda value: str(value["hook"]),
    unnoticed="calls a hook",
    power=_power,
    first=_first,
    second=_second,
    harmless=COMMON,
    asked="hook payload then_s then_payload",
)
