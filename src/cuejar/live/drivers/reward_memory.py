"""What is remembered of a reward at a channel: what it confirmed, and what it was asked for."""

from __future__ import annotations

from collections.abc import Container, Mapping
from typing import Any

LATE_S = 60.0
"""How long an unanswered request may still be carried out."""
SURE_S = 3.0
"""How long a former value may be an outdated answer."""
Values = dict[str, Any]


class Wish:
    """A value that a field was asked to have. It may be reported until ``until`` (s, monotonic); None: not confirmed
    yet.
    """

    __slots__ = ("held", "until", "value")

    def __init__(self, value: Any, held: bool) -> None:
        self.value, self.held = value, held
        self.until: float | None = None


class There:
    """What the channel has confirmed of a reward: its values, and its former ones, with the time until which those may
    be reported.

    ``wishes`` are the values that each field was asked to have; ``wish`` is the last request, until that is
    confirmed.
    """

    __slots__ = ("before", "gone", "is_unwritten", "values", "wish", "wishes")

    def __init__(
        self, values: Values | None = None, gone: bool = False, asked: Mapping[str, list[Any]] | None = None
    ) -> None:
        """Args:
        asked: unconfirmed requests, field by field, as far as an earlier process knew.
        """
        self.values: Values = values or {}
        self.gone = gone
        self.is_unwritten = False
        self.wish: Values = {}
        self.before: list[tuple[float, Values]] = []
        self.wishes = {name: [Wish(value, True) for value in asked_for] for name, asked_for in (asked or {}).items()}

    @property
    def unconfirmed(self) -> dict[str, list[Any]]:
        """Returns unconfirmed requests, field by field."""
        found = {name: [wish.value for wish in wishes if wish.until is None] for name, wishes in self.wishes.items()}
        return {name: values for name, values in found.items() if values}

    def confirmed(self, values: Values, now: float, answered: Values | None = None) -> None:
        """Args:
        answered: what it has just confirmed. All other earlier requests may still be carried out late.
        """
        if self.values != values or self.unconfirmed:
            self.is_unwritten = True
        if self.values != values and self.values:
            self.before.append((now + SURE_S, self.values))
        did = answered or {}
        for name, wishes in self.wishes.items():
            # An answered request without a hold is over; it may be reported for a moment more, like all earlier values.
            self.wishes[name] = [w for w in wishes if w.held or not (name in did and did[name] == w.value)]
            for wish in self.wishes[name]:
                wish.until = now + LATE_S if wish.until is None else wish.until
        self.values, self.wish = values, {}

    def is_there(self, yes: bool) -> None:
        if self.gone == yes:
            self.gone, self.is_unwritten = not yes, True

    def asked(self, values: Values, now: float, held: Container[str] = ()) -> None:
        """Notes a request; it may be carried out whether it is confirmed or not.

        Args:
            held: the fields whose value a hold asks for.
        """
        self.wish, self.is_unwritten = {**self.values, **values}, True
        self.before.append((now + SURE_S, self.wish))
        for name, value in values.items():
            wishes = self.wishes[name] = [wish for wish in self.wishes.get(name, ()) if wish.value != value]
            wishes.append(Wish(value, name in held))

    def is_ours(self, name: str, value: Any, now: float) -> bool:
        """Returns whether a field may have this value because it was asked for."""
        wishes = self.wishes.get(name, [])
        return any(wish.value == value and (wish.until is None or wish.until > now) for wish in wishes)

    def may_be_old(self, name: str, value: Any, now: float) -> bool:
        self.before = [row for row in self.before if row[0] > now]
        return any(values.get(name) == value for _, values in self.before)

    def is_fresh(self, now: float) -> bool:
        """Returns whether it was asked for something just now."""
        return not self.gone and any(until > now for until, _ in self.before)


class Asked:
    """A reward that was requested: with which key, under which titles, and until when that may still be carried out."""

    __slots__ = ("key", "titles", "until")

    def __init__(self, key: str) -> None:
        self.key, self.titles, self.until = key, set[str](), 0.0
