"""The channel's messages as models: each one is read by a model or not at all. Unknown fields are ignored."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from datetime import UTC, datetime
from typing import Annotated, Any, Literal, TypeVar

from pydantic import BeforeValidator, Field

from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import Amount, Count, Key, ShortText, Text, Tier
from cuejar.core.files.events import data_of
from cuejar.live.drivers.said import MOST_PICTURE, Said, Unreadable, Version, read
from cuejar.media.reward import SIDES

TYPES = "cuejar.channel."
"""The prefix of a channel's event types."""
MOST_SIDES = 8
MOST_ADDRESS = 2_000
"""Maximum characters of a picture's address."""
T = TypeVar("T", bound=Said)
Roles = Annotated[list[h.Role], Field(max_length=50), BeforeValidator(lambda roles: [] if roles is None else roles)]


def _picture(value: object) -> str:
    """Returns the address of a picture, or its data; anything else is none, as no call is refused for it."""
    if not isinstance(value, str) or not value.isascii():
        return ""
    if value.startswith("data:"):
        return value if len(value) < MOST_PICTURE else ""
    return value if len(value) <= MOST_ADDRESS else ""


class Viewer(Said):
    id: Key
    name: ShortText = ""
    roles: Roles = []
    tier: Tier = 1
    picture: Annotated[str, BeforeValidator(_picture)] = ""

    def fact(self) -> h.Viewer:
        return h.Viewer(self.id, self.name or self.id, tuple(self.roles), self.tier)


class Redemption(Said):
    id: Key
    reward: Key
    viewer: Viewer
    text: Annotated[Text, BeforeValidator(lambda text: "" if text is None else text)] = ""
    cost: Count | None = None


class Stream(Said):
    state: Literal["live", "ended"] | None = None
    category: ShortText | None = None


class Chat(Said):
    id: Key | None = None
    viewer: Viewer
    text: Text


class Follow(Said):
    id: Key | None = None
    viewer: Viewer | None = None


class Present(Said):
    """Viewers who are watching now, and the ids of those who left."""

    viewers: Annotated[list[Viewer], Field(max_length=1_000)] = []
    left: Annotated[list[Key], Field(max_length=1_000)] = []


class Tip(Follow):
    amount: Amount
    text: Text = ""


class Membership(Follow):
    tier: Tier = 1
    months: Count = 1
    gifts: Count = 0
    text: Text = ""


class Raid(Follow):
    party: Count


class Limits(Said):
    """Limits that a channel keeps itself; 0: none. A refund frees a place."""

    cooldown_s: Annotated[float, Field(ge=0, le=86_400)] = 0
    per_stream: Count = 0
    per_viewer: Count = 0


def _colour(value: object) -> str:
    """Returns ``#rrggbb`` in small letters; anything else is none."""
    known = isinstance(value, str) and re.fullmatch(r"#[0-9a-fA-F]{6}", value)
    return str(value).lower() if known else ""


def _sides(value: object) -> list[int]:
    """Returns the sides of pictures that can be made, in pixels."""
    rows = value if isinstance(value, list) else []
    return list(dict.fromkeys(row for row in rows if isinstance(row, int) and row in SIDES))[:MOST_SIDES]


class Reward(Said):
    """A reward at the channel; ``on``: viewers see it, ``paused``: they can't redeem it now."""

    id: Key
    title: ShortText
    cost: Count = 0
    prompt: Text = ""
    text: bool = False
    on: bool = True
    paused: bool = False
    limits: Limits = Limits()
    colour: Annotated[str, Field(pattern=r"^(#[0-9a-f]{6})?$"), BeforeValidator(_colour)] = ""
    made_by: ShortText = ""


class Can(Said):
    """What a channel can do. Later additions to the wire must be reported."""

    rewards: bool = True
    replies: bool = True
    pause: bool = False
    limits: bool = False
    order: bool = False
    presence: bool = False
    colours: bool = False
    pictures: Annotated[list[int], BeforeValidator(_sides)] = []
    """The sides of a reward's picture that it wants, in pixels; none: it takes no pictures."""


class About(Said):
    """A channel's report about itself; ``boot`` changes once it has lost its memory."""

    version: Version = 1
    name: ShortText = ""
    boot: ShortText = ""
    can: Can = Can()


class Event(Said):
    """A CloudEvent (1.0): ``id`` and ``source`` together identify it."""

    specversion: Literal["1.0"]
    id: Key
    source: ShortText
    type: Annotated[str, Field(min_length=1, max_length=200)]
    time: datetime | None = None
    data: Any = None

    @property
    def what(self) -> str:
        """Its type without our prefix; a foreign type matches none of the known ones."""
        return self.type.removeprefix(TYPES) if self.type.startswith(TYPES) else ""

    @property
    def key(self) -> str:
        return f"{self.source} {self.id}"

    @property
    def said_at(self) -> datetime | None:
        """When it happened, by the channel's clock; a time without a zone counts as UTC."""
        return self.time if self.time is None or self.time.tzinfo else self.time.replace(tzinfo=UTC)


def redemption_in(message: Any) -> str | None:
    """Returns the id of the redemption in an unreadable message, if any."""
    data = message.get("data", message) if isinstance(message, dict) else None
    found = data.get("id") if isinstance(data, dict) else None
    kind = str(message.get("type", "")) if isinstance(message, dict) else ""
    is_one = isinstance(data, dict) and ("reward" in data or kind.endswith(".redemption"))
    return found if is_one and isinstance(found, str) and 0 < len(found) <= h.MOST_ID else None


def read_event(text: str | bytes) -> tuple[Event, Any]:
    """Returns an event, and the whole message it came in. Raises Unreadable."""
    try:
        message = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Unreadable(str(text[:1000]), "it is not JSON") from error
    if isinstance(message, dict) and "data_base64" in message:
        try:
            message = {**message, "data": data_of(message)}
        except ValueError as error:
            raise Unreadable(message, f"its data_base64 {error}") from error
    return read(Event, message), message


def _chat(data: Chat) -> h.Happening:
    return h.Chat(data.viewer.fact(), data.text, data.id)


def _who(data: Follow) -> h.Viewer | None:
    return data.viewer.fact() if data.viewer is not None else None


CALLS: dict[str, tuple[type[Said], Callable[[Any], h.Happening]]] = {
    "chat": (Chat, _chat),
    "follow": (Follow, lambda data: h.Follow(_who(data), data.id)),
    "tip": (Tip, lambda data: h.Tip(data.amount, _who(data), data.text, data.id)),
    "membership": (
        Membership,
        lambda data: h.Membership(_who(data), data.tier, data.months, data.gifts, data.text, data.id),
    ),
    "raid": (Raid, lambda data: h.Raid(data.party, _who(data), data.id)),
}
"""Viewers' calls other than redemptions: how each is read, and its happening."""
