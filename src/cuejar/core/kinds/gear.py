"""The kinds of gear: how each is called, where its properties lie, where its other side is found, what it tells.

A new kind is a row here, a driver in `live.drivers` with its row in `live.drivers.table`, and a stand-in with its row in
`standins.app`. A test names what is missing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from cuejar.core.facts.happenings import Setting
from cuejar.core.parts.gear import Gear

NAME, NUMBER = Setting("text"), Setting("number", -1_000, 1_000)


@dataclass(frozen=True)
class GearKind:
    """A kind of gear.

    Attributes:
        name: as the book has it.
        title: what one piece of it is called at first.
        words: what a cue needs when it needs it.
        prefix: where its properties lie.
        mark: the output whose mark it wears.
        address: where a stand-in of it listens; its scheme is the wire's.
        behind: so many ports behind the other stand-ins.
        secret: what its secret is called, where it has one.
        tells: whether it says by itself what it shows.
        paths: where the properties of one piece lie, where that is not all of its kind.
        properties: what each of its properties can show, by the first step after the prefix, where that is always the same.
    """

    name: str
    title: str
    words: str
    prefix: str
    mark: str
    address: str
    behind: int = 0
    secret: str = ""
    tells: bool = False
    paths: Callable[[Gear], tuple[str, ...]] | None = None
    properties: Mapping[str, Setting] = field(default_factory=dict)

    def paths_of(self, gear: Gear) -> tuple[str, ...]:
        """Where the properties of a piece of gear lie."""
        return (self.paths(gear) if self.paths is not None else ()) or (self.prefix,)

    @property
    def scheme(self) -> str:
        return self.address.split("://", 1)[0]


def _lamps(gear: Gear) -> tuple[str, ...]:
    return tuple(f"light/{fixture.id}/" for fixture in gear.fixtures)


def _hook(gear: Gear) -> tuple[str, ...]:
    return (f"hook/{gear.id}/",)


_ALL = [
    GearKind(
        "broadcaster", "Broadcaster", "a broadcaster", "broadcast/", "broadcast", "ws://{host}:{port}/broadcaster",
        secret="Password", tells=True,
    ),
    GearKind("lights", "Lamps", "lamps", "light/", "light", "sacn://{host}:{port}", behind=1, paths=_lamps),
    GearKind(
        "avatar", "Avatar", "an avatar", "avatar/", "avatar", "osc://{host}:{port}", tells=True,
        properties={"model": NAME, "outfit": NAME, "pose": NAME, "expression": Setting("choice", choices=("on", "off"))},
    ),
    GearKind(
        "voice", "Voice box", "a voice box", "voice/", "voice", "osc://{host}:{port}", tells=True,
        properties={"preset": NAME, "pitch": NUMBER, "mix": NUMBER},
    ),
    GearKind(
        "haptics", "Haptics", "haptics", "haptics/", "haptics", "osc://{host}:{port}", tells=True,
        properties={"strength": NUMBER},
    ),
    GearKind("keys", "Keys", "keys", "keys/", "keys", "ws://{host}:{port}/keys"),
    GearKind(
        "hook", "Hook", "hooks", "hook/", "hook", "http://{host}:{port}/hook/receive", secret="Signing secret", paths=_hook
    ),
]  # fmt: skip
GEAR_KINDS = {kind.name: kind for kind in _ALL}
"""Every kind of gear by its name, in the order in which they are offered."""

CHANNEL = "channel"
REWARDS = "reward/"
"""Where the channel's properties lie. It is not in the book, but it comes and goes as gear does."""
