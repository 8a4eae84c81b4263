"""What simulated gear shows: properties that a program or a hand can set, each with its last author and a count."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from typing import Any

START, HAND = "start", "hand"
Value = bool | float | str


class Refused(Exception):
    """A change that can't be made; ``code`` is the JSON-RPC error code."""

    def __init__(self, what: str, code: int = -32004) -> None:
        self.code = code
        super().__init__(what)


class Property:
    """One thing that can be changed: its value, its last author, its number of changes."""

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
        """Returns it with the last value set by hand, and its change number."""
        hand = {"value": self.hand, "changes": self.hand_changes}
        return {"value": self.value, "by": self.by, "changes": self.changes, "hand": hand}


class Panel:
    """Gear with a fixed set of properties, by key: ``outfit``, ``expression/Startled``, ``pitch``."""

    def __init__(self, kind: str, start: dict[str, Value], names: dict[str, list[str]]) -> None:
        """Args:
        start: the first value of every property, by key.
        names: the options, by the first step of a key; a key without options takes a number.
        """
        self.kind = kind
        self.names = {key: list(choices) for key, choices in names.items()}
        # A copy of its own: changing its wardrobe doesn't affect other avatars.
        self.boot = secrets.token_hex(6)
        self.serial = 1
        self.properties = {key: Property(value) for key, value in start.items()}
        self.listeners: set[Callable[[str], None]] = set()

    def set(self, key: str, value: Any, by: str) -> Property:
        """Raises Refused: there is no such property, or it can't have this value."""
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
        """Returns every property by Cue Jar's path for it."""
        return {f"{self.kind}/{key}": property_.value for key, property_ in self.properties.items()}

    def hand(self, path: str, value: Any) -> dict[str, Any]:
        """Changes a property by hand, by its path."""
        return self.set(path.removeprefix(f"{self.kind}/"), value, HAND).json()

    def faces(self) -> list[str]:
        """Returns the expressions that are on, the latest on top."""
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
