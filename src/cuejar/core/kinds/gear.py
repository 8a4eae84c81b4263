"""The kinds of gear: what each is called, where its properties lie, where its other side is found, what it reports.

A new kind is a row here, a driver in `live.drivers` with its row in `live.drivers.table`, and a stand-in with its row
in `standins.app`. A test names what is missing.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from cuejar.core.facts.happenings import Setting
from cuejar.core.facts.paths import Family, within
from cuejar.core.parts.gear import Gear

NAME, NUMBER = Setting("text"), Setting("number", -1_000, 1_000)


@dataclass(frozen=True)
class GearKind:
    """A kind of gear.

    Attributes:
        name: its name in the book.
        title: the first name of a new piece.
        words: how it is named as a cue's need.
        prefix: where its properties lie.
        mark: the output whose mark it uses.
        address: where a stand-in of it listens, with the wire's scheme.
        port_offset: how many ports after the other stand-ins.
        secret: the name of its secret, if it has one.
        tells: whether it reports what it shows.
        many: whether there may be several.
        paths: where the properties of one piece lie, if that differs from its kind.
        properties: the possible values of its properties, by the first step after the prefix, if always the same.
    """

    name: str
    title: str
    words: str
    prefix: str
    mark: str
    address: str
    port_offset: int = 0
    secret: str = ""
    tells: bool = False
    many: bool = False
    paths: Callable[[Gear], tuple[str, ...]] | None = None
    properties: Mapping[str, Setting] = field(default_factory=dict)

    def paths_of(self, gear: Gear) -> tuple[str, ...]:
        """Returns where the properties of a piece of gear lie."""
        return (self.paths(gear) if self.paths is not None else ()) or (self.prefix,)

    @property
    def scheme(self) -> str:
        return self.address.split("://", 1)[0]


def _lamps(gear: Gear) -> tuple[str, ...]:
    return tuple(within(Family.LIGHT, fixture.id) for fixture in gear.fixtures)


def _hook(gear: Gear) -> tuple[str, ...]:
    return (within(Family.HOOK, gear.id),)


def things_of(gear: Gear) -> tuple[str, ...]:
    """Returns where the things of a bridge lie."""
    return (within(Family.THINGS, gear.id),)


CHANNEL = "channel"
REWARDS = within(Family.REWARD)
"""Where the channels' properties lie."""

_ALL = [
    GearKind(
        CHANNEL, "Channel", "a channel", REWARDS, "reward", "http://{host}:{port}", secret="Token", many=True,
    ),
    GearKind(
        "broadcaster", "Broadcaster", "a broadcaster", within(Family.BROADCAST), "broadcast", "ws://{host}:{port}/broadcaster",
        secret="Password", tells=True,
    ),
    GearKind("lights", "Lamps", "lamps", within(Family.LIGHT), "light", "sacn://{host}:{port}", port_offset=1, paths=_lamps),
    GearKind(
        "avatar", "Avatar", "an avatar", within(Family.AVATAR), "avatar", "osc://{host}:{port}", tells=True,
        properties={"model": NAME, "outfit": NAME, "pose": NAME, "expression": Setting("choice", choices=("on", "off"))},
    ),
    GearKind(
        "voice", "Voice box", "a voice box", within(Family.VOICE), "voice", "osc://{host}:{port}", tells=True,
        properties={"preset": NAME, "pitch": NUMBER, "mix": NUMBER},
    ),
    GearKind(
        "haptics", "Haptics", "haptics", within(Family.HAPTICS), "haptics", "osc://{host}:{port}", tells=True,
        properties={"strength": NUMBER},
    ),
    GearKind(
        "things", "Things", "things", within(Family.THINGS), "things", "ws://{host}:{port}/things", secret="Token", tells=True,
        paths=things_of, many=True,
    ),
    GearKind("keys", "Keys", "keys", within(Family.KEYS), "keys", "ws://{host}:{port}/keys"),
    GearKind(
        "hook", "Hook", "hooks", within(Family.HOOK), "hook", "http://{host}:{port}/hook/receive", secret="Signing secret", paths=_hook, many=True,
    ),
]  # fmt: skip
GEAR_KINDS = {kind.name: kind for kind in _ALL}
"""Every kind of gear by its name, in order; plug-ins add theirs."""


def of_things(name: str, title: str, words: str = "", address: str = "", secret: str = "") -> GearKind:
    """Returns a kind of gear whose pieces are bridges to things with settings and deeds."""
    return GearKind(
        name,
        title,
        words or title,
        within(Family.THINGS),
        "things",
        address,
        secret=secret,
        tells=True,
        paths=things_of,
        many=True,
    )


def kind_of(name: str) -> GearKind:
    """Returns a kind by its name. An unknown one belongs to a missing plug-in: its gear loads, and nothing drives it."""
    return GEAR_KINDS.get(name) or of_things(name, name.replace("_", " ").replace("-", " ").capitalize())


def add(kind: GearKind) -> None:
    """Adds a plug-in's kind.

    Raises:
        ValueError: there is one of this name, or its properties would lie among those of other gear.
    """
    if kind.name in GEAR_KINDS:
        raise ValueError(f"the kind of gear “{kind.name}” already exists")
    if kind.prefix != within(Family.THINGS):
        raise ValueError(f"the properties of “{kind.name}” must lie below {within(Family.THINGS)}")
    GEAR_KINDS[kind.name] = kind
