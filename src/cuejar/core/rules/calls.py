"""Calls: the cues that a happening calls.

Chat matches by the whole message (`is`), its first word (`starts`), a word in it (`has_word`) or a part of it
(`contains`); case, width, accent form and surrounding space never matter. With `starts`, the rest after the first word
is the viewer's text: ``!tint teal`` brings *teal* to the door. Reward calls use the reward's id, so that renaming
breaks nothing.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from datetime import datetime, timedelta
from typing import Any

from cuejar.core.book.book import Book, Cue, Feed, Reward
from cuejar.core.facts import happenings as h
from cuejar.core.parts.base import JsonObject
from cuejar.core.parts.callkinds import Call, ChatCall, ClockCall, CountCall, MembershipCall
from cuejar.core.parts.folding import folded

_WORD_EDGE = re.compile(r"[^\w!?#@'-]+")


def chat_matches(call: ChatCall, text: str) -> bool:
    """Returns whether a chat message makes this call."""
    said, wanted = folded(text), folded(call.text)
    if call.match == "is":
        return said == wanted
    if call.match == "starts":
        return said == wanted or said.startswith(wanted + " ")
    if call.match == "contains":
        return wanted in said
    words = [w for w in _WORD_EDGE.split(said) if w]
    return wanted in words or wanted in said.split()


def text_after(call: ChatCall, text: str) -> str:
    """Returns the viewer's text: the rest after the first word for `starts`, otherwise the whole message."""
    if call.match != "starts":
        return text
    parts = text.strip().split(None, len(folded(call.text).split()))
    return parts[-1] if len(parts) > len(folded(call.text).split()) else ""


Brought = tuple[str, str, int]
"""A cue that is called, by its id, the text that it gets, and its price in points of ours."""

Match = Callable[[Any, Any], bool]
"""Compares a call with a happening; `MATCHES` lists the two classes by kind."""


def _membership(call: MembershipCall, x: h.Membership) -> bool:
    return (
        (call.tier is None or x.tier >= call.tier)
        and (call.months_from is None or x.months >= call.months_from)
        and (call.months_to is None or x.months <= call.months_to)
        and (call.gifts_from is None or x.gifts >= call.gifts_from)
        and (call.gifts_to is None or x.gifts <= call.gifts_to)
    )


MATCHES: dict[str, Match] = {
    "chat": lambda call, x: chat_matches(call, x.text),
    "tip": lambda call, x: bool(call.has(x.amount)),
    "raid": lambda call, x: bool(call.has(x.party)),
    "follow": lambda call, x: True,
    "membership": _membership,
    "hook": lambda call, x: folded(call.name) == folded(x.name),
    "stream": lambda call, x: bool(call.state == x.state),
    "scene": lambda call, x: folded(call.scene) == folded(x.scene),
}
"""How a call of the book matches a happening, by the happening's kind."""


FEEDS: dict[str, dict[str, Callable[[Any], int]]] = {
    "redemption": {"redemptions": lambda x: 1, "points": lambda x: x.cost or 0},
    "tip": {"tips": lambda x: 1, "tipped": lambda x: int(x.amount)},
    "membership": {"members": lambda x: max(1, x.gifts)},
    "follow": {"follows": lambda x: 1},
    "raid": {"raiders": lambda x: x.party},
}
"""By how much a happening of a kind raises a count that it feeds."""


def feeds_of(book: Book) -> dict[str, list[tuple[str, Feed]]]:
    """Returns what feeds which count, by kind."""
    feeds: dict[str, list[tuple[str, Feed]]] = {}
    for count in book.counts:
        for feed in count.feeds:
            feeds.setdefault(feed.by, []).append((count.id, feed))
    return feeds


class Calls:
    """The calls of all cues except those of rewards, sorted by kind, so that a happening is only compared with calls of
    its kind.
    """

    def __init__(self, book: Book) -> None:
        self._by_kind: dict[str, list[tuple[Call, Cue]]] = {}
        self.clocks: list[tuple[ClockCall, Cue]] = []
        self._counts: dict[str, list[tuple[CountCall, Cue]]] = {}
        self._goals = {count.id: count.goal for count in book.counts}
        self.feeds = feeds_of(book)
        for cue in book.cues:
            for call in cue.calls:
                if call.kind == "clock":
                    self.clocks.append((call, cue))
                elif call.kind == "count":
                    self._counts.setdefault(call.count, []).append((call, cue))
                elif call.kind != "reward":
                    self._by_kind.setdefault(call.kind, []).append((call, cue))
        self.scenes = "scene" in self._by_kind
        """Whether any cue is called by a scene that becomes current."""

    def counted(self, name: str, before: int, after: int) -> list[str]:
        """Returns the cues that a count calls on its way from one number to another, each once."""
        goal = self._goals.get(name)
        called = (cue.id for call, cue in self._counts.get(name, ()) if call.is_reached(before, after, goal))
        return list(dict.fromkeys(called))

    def of(self, happening: h.Called) -> list[Brought]:
        """Returns the cues that are called, each once."""
        text = getattr(happening, "text", "")
        called: dict[str, Brought] = {}
        matches = MATCHES[happening.kind]
        for call, cue in self._by_kind.get(happening.kind, ()):
            if cue.id not in called and matches(call, happening):
                if isinstance(call, ChatCall):
                    called[cue.id] = (cue.id, text_after(call, text), call.cost or 0)
                else:
                    called[cue.id] = (cue.id, text, 0)
        return list(called.values())


def next_time(book: Book, after: datetime) -> tuple[datetime, list[str]] | None:
    """Returns the next time of day at which cues are called, and those cues; None if there is none.

    Args:
        after: local time, without a zone: a clock that is put back an hour shows the same time again, and calls only
        once.
    """
    times: dict[datetime, list[str]] = {}
    for cue in book.cues:
        for call in cue.calls:
            if isinstance(call, ClockCall) and call.at_time is not None:
                hour, minute = map(int, call.at_time.split(":"))
                at = after.replace(hour=hour, minute=minute, second=0, microsecond=0)
                times.setdefault(at if at > after else at + timedelta(days=1), []).append(cue.id)
    return min(times.items()) if times else None


def facts_of(happening: h.Called, rewards: Mapping[str, Reward]) -> JsonObject:
    """Returns what templates may use of the happening itself."""
    if happening.kind == "redemption":
        reward = rewards.get(happening.reward)
        return {
            "reward": reward.title if reward else happening.reward,
            "cost": happening.cost if happening.cost is not None else (reward.cost if reward else ""),
        }
    names = ("amount", "party", "months", "tier", "gifts", "payload")
    facts = {name: getattr(happening, name) for name in names if hasattr(happening, name)}
    if happening.kind == "raid":
        facts["raid"] = {"viewers": happening.party}
    if "amount" in facts:
        facts["amount"] = f"{facts['amount']:g}"
    return facts
