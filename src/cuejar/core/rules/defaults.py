"""The door's values after the house defaults."""

from __future__ import annotations

from typing import NamedTuple

from cuejar.core.book.book import Air, Door, House, TextRule


class Paces(NamedTuple):
    """Cooldowns in seconds, of the cue and of each viewer; ``shared``: the cue follows the one clock of the house."""

    cue_s: float
    viewer_s: float
    shared: bool


def paces_of(door: Door, house: House) -> Paces:
    """Returns the cooldowns that count: the door's own, also if 0, or the house's."""
    shared = house.shared_cooldown_s
    default = house.cooldown_s if shared is None else shared
    return Paces(
        default if door.cooldown_s is None else door.cooldown_s,
        house.viewer_cooldown_s if door.viewer_cooldown_s is None else door.viewer_cooldown_s,
        door.cooldown_s is None and shared is not None,
    )


def air_of(door: Door, house: House) -> Air:
    """Returns whether the cue can be called live, off air, or always."""
    return door.air or house.air


def longest_text(rule: TextRule | None, house: House) -> int:
    """Returns the maximum length of a viewer's text, in characters."""
    return min((rule.max if rule is not None else None) or house.most_text, house.most_text)
