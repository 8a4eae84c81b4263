"""Rewards in words: limits, tonight's redemptions, and their state at a channel."""

from __future__ import annotations

from collections.abc import Sequence

from cuejar.core.book.book import Book, Cue
from cuejar.core.parts.base import JsonObject
from cuejar.core.rules.tickets import Limits
from cuejar.core.words.cues import effect
from cuejar.core.words.doors import exceptions_said
from cuejar.core.words.names import Names, Noticed
from cuejar.core.words.values import counted, pace

_FIELDS = {
    "title": "name",
    "cost": "price",
    "prompt": "prompt",
    "text": "text",
    "on": "on",
    "paused": "paused",
    "colour": "colour",
}
"""Fields that can be changed by hand at a channel."""
STANDINGS = {
    "in_step": "in sync",
    "waiting": "updating",
    "gone": "removed at the channel",
    "refused": "refused by the channel",
    "elsewhere": "made elsewhere",
    "missing": "missing at the channel",
    "away": "disconnected",
}
"""The state of a reward at a channel."""


def limits_said(limits: Limits) -> str:
    """Returns the limits of a reward: *3 per stream, 1 per viewer, once every 20 s*; empty if there are none."""
    parts = [
        f"{limits.per_stream:,} per stream" if limits.per_stream else "",
        f"{limits.per_viewer:,} per viewer" if limits.per_viewer else "",
        pace(limits.cooldown_s) if limits.cooldown_s else "",
    ]
    return ", ".join(part for part in parts if part)


def tonight_said(calls: int, refunds: int, reason: str) -> str:
    """Returns how often a reward was redeemed tonight: *3 redeemed tonight, 1 refunded (not in this scene)*."""
    if not calls:
        return "not redeemed tonight"
    back = f", {refunds:,} refunded{f' ({reason})' if reason else ''}" if refunds else ""
    return f"{calls:,} redeemed tonight{back}"


def stamp_said(on: bool, shows: bool, paused: bool) -> str:
    """Returns in a word why viewers can't redeem a reward now; empty while they can."""
    if not shows:
        return "not now" if on else "off"
    return "paused" if paused else ""


def called_said(title: str, cues: Sequence[Cue], names: Noticed) -> str:
    """Returns what a reward does: its cue's effect, after the cue's name if that isn't the reward's."""
    if not cues:
        return "No cue: redemptions wait for you at the channel"
    more = f" and {counted(len(cues) - 1, 'more cue')}" if len(cues) > 1 else ""
    name = "" if cues[0].name == title and not more else f"{cues[0].name}{more}: "
    return f"{name}{effect(cues[0], names)}"


def rule_said(cues: Sequence[Cue], book: Book, names: Names) -> str:
    """Returns where the rules of a reward's first cue differ from the defaults, apart from its limits; empty if they don't."""
    return " · ".join(exceptions_said(cues[0], book, names)) if cues else ""


def hand_said(was: JsonObject, now: JsonObject) -> str:
    """Returns what was changed by hand at a channel: *price 400 (was 500), off (was on)*."""

    def said(name: str, value: object) -> str:
        if name in ("on", "paused", "text"):
            yes, no = {
                "on": ("on", "off"),
                "paused": ("paused", "open"),
                "text": ("asks for text", "asks for no text"),
            }[name]
            return yes if value else no
        return f"{_FIELDS[name]} {value}" if name == "cost" else f"{_FIELDS[name]} “{value}”"

    def before(name: str, value: object) -> str:
        return said(name, value).removeprefix(f"{_FIELDS[name]} ")

    return ", ".join(
        f"{said(name, value)} (was {before(name, was[name])})" if name in was else said(name, value)
        for name, value in now.items()
    )
