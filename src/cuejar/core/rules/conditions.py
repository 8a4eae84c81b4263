"""Conditions: what must hold for a beat to play, or for a call to be let in.

Names, roles and texts are compared regardless of case, width and surrounding space. A condition about a viewer or a
text doesn't hold if there is none; inverted by ``not`` it does.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from typing import Protocol

from cuejar.core.facts.happenings import Viewer
from cuejar.core.parts.folding import folded
from cuejar.core.parts.steps import Condition

_NUMBER = re.compile(r"[+-]?\d{1,15}")


class Standing(Protocol):
    """The circumstances of a call or a run."""

    @property
    def viewer(self) -> Viewer | None: ...
    @property
    def viewer_text(self) -> str:
        """The viewer's text."""

    @property
    def on_air(self) -> bool: ...
    @property
    def category(self) -> str | None: ...
    def scene(self) -> str | None: ...
    def has_gear(self, gear: str) -> bool: ...
    def count(self, name: str) -> int:
        """Returns the calls of the cue by this `viewer`, by `all`, or a count by its name."""


def has_role(viewer: Viewer, role: str, tier: int = 1) -> bool:
    """Returns whether a viewer counts as ``role``; a member only from ``tier``."""
    if role == "everyone":
        return True
    return role in viewer.roles and (role != "member" or viewer.tier >= tier)


def among(value: str | None, allowed: Iterable[str]) -> bool:
    """Returns whether a name is one of those, regardless of case and width."""
    return value is not None and folded(value) in {folded(name) for name in allowed}


def number_in(text: str) -> int | None:
    """Returns the first whole number in a text."""
    found = _NUMBER.search(text)
    return int(found.group()) if found else None


def all_hold(conditions: Sequence[Condition], standing: Standing) -> bool:
    return all(holds(condition, standing) for condition in conditions)


def holds(condition: Condition, standing: Standing) -> bool:
    """Returns whether a condition holds that isn't about rolls or draws."""
    return _plainly(condition, standing) != condition.not_


def _plainly(condition: Condition, standing: Standing) -> bool:
    if condition.role is not None:
        return standing.viewer is not None and has_role(standing.viewer, condition.role)
    if condition.live is not None:
        return condition.live == standing.on_air
    if condition.category is not None:
        return among(standing.category, [condition.category])
    if condition.scene is not None:
        return among(standing.scene(), [condition.scene])
    if condition.gear is not None:
        return standing.has_gear(condition.gear)
    if condition.count is not None:
        return compared(standing.count(condition.count), condition.is_, condition.number or 0)
    return _of_text(condition, folded(standing.viewer_text))


def _of_text(condition: Condition, words: str) -> bool:
    if condition.text_is is not None:
        return words == folded(condition.text_is)
    if condition.text_has is not None:
        return folded(condition.text_has) in words.split()
    if condition.text_contains is not None:
        return folded(condition.text_contains) in words
    number = number_in(words)
    return (
        number is not None
        and (condition.text_from is None or number >= condition.text_from)
        and (condition.text_to is None or number <= condition.text_to)
    )


def compared(value: int, how: str, number: int) -> bool:
    """Returns whether ``value`` compares with ``number`` as required: ``=``, ``>=`` or ``<=``."""
    return value == number if how == "=" else value >= number if how == ">=" else value <= number
