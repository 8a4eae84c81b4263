"""What simulated gear shows: properties that a program or a hand can set, each knowing who did last and how often."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from typing import Any

START, HAND = "start", "hand"
Value = bool | float | str


class Refused(Exception):
    """A change that cannot be made; ``code`` is the JSON-RPC error code."""

    def __init__(self, what: str, code: int = -32004) -> None:
        self.code = code
        super().__init__(what)


class Property:
    """One thing that can be changed: its value, who changed it last, how often."""

    __slots__ = ("by", "changes", "hand", "hand_changes", "turn", "value")

    def __init__(self, value: Value) -> None:
        self.value, self.by, self.changes = value, START, 0
        self.hand, self.hand_changes = value, 0
        self.turn = 0
        """The panel's serial at its last change."""

    def become(self, value: Value, by: str) -> None:
        self.value, self.by, self.changes = value, by, self.changes + 1
        if by == HAND:
            self.hand, self.hand_changes = value, self.changes

    def json(self) -> dict[str, Any]:
        """With the value that a hand gave it last, and at which of its changes."""
        hand = {"value": self.hand, "changes": self.hand_changes}
        return {"value": self.value, "by": self.by, "changes": self.changes, "hand": hand}


class Panel:
    """Gear with a fixed set of properties, by key: ``outfit``, ``expression/Startled``, ``pitch``."""

    def __init__(self, kind: str, start: dict[str, Value], names: dict[str, list[str]]) -> None:
        """Args:
        start: what every property shows at first, by key.
        names: what may be chosen, by the first step of a key; a key whose step is not here takes a number.
        """
        self.kind = kind
        self.names = {key: list(choices) for key, choices in names.items()}
        # Its own copy: another wardrobe here is no other avatar's.
        self.boot = secrets.token_hex(6)
        self.serial = 1
        self.properties = {key: Property(value) for key, value in start.items()}
        self.listeners: set[Callable[[str], None]] = set()

    def set(self, key: str, value: Any, by: str) -> Property:
        """Raises Refused: there is no such property, or it cannot show that."""
        if key not in self.properties:
            raise Refused(f"there is no property “{key}”", -32003)
        property_ = self.properties[key]
        old = property_.value
        if isinstance(old, bool) or isinstance(value, bool):
            raise Refused(f"“{value}” isn’t a value of “{key}”")
        if isinstance(old, float):
            if not isinstance(value, (int, float)):
                raise Refused(f"“{key}” takes a number")
            value = float(value)
        elif "/" in key:
            if value not in ("on", "off"):
                raise Refused(f"“{key}” is on or off")
        elif value not in self.names[key]:
            raise Refused(f"there is no {key} “{value}”", -32003)
        if value != old or by == HAND:
            property_.become(value, by)
            self.serial += 1
            property_.turn = self.serial
            for listener in list(self.listeners):
                listener(key)
        return property_

    def values(self) -> dict[str, Value]:
        """Every property by the path under which Cue Jar knows it."""
        return {f"{self.kind}/{key}": property_.value for key, property_ in self.properties.items()}

    def hand(self, path: str, value: Any) -> dict[str, Any]:
        """A hand changes a property, by its path."""
        return self.set(path.removeprefix(f"{self.kind}/"), value, HAND).json()

    def faces(self) -> list[str]:
        """The expressions that are on, the last that came on top."""
        on = [(p.turn, key) for key, p in self.properties.items() if key.startswith("expression/") and p.value == "on"]
        return [key.split("/", 1)[1] for _, key in sorted(on)]

    def state(self) -> dict[str, Any]:
        return {
            "faces": self.faces(),
            "serial": self.serial,
            "boot": self.boot,
            "names": self.names,
            "values": self.values(),
        }
