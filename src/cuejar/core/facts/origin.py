"""Ids of several channels: the part before the first colon names the channel.

yard:rd-17      rd-17 of the channel “yard” of the book
rd-17           rd-17 of the channel given at start-up
:a:b            a:b of the channel given at start-up
"""

from __future__ import annotations

GIVEN = ""
"""The channel given at start-up. Its ids have no prefix."""
GIVEN_ROW = "given:channel"
"""Its name among the gear, which no gear of the book can have."""


def joined(channel: str, theirs: str) -> str:
    """Returns an id of a channel in the engine's form."""
    return theirs if channel == GIVEN and ":" not in theirs else f"{channel}:{theirs}"


def parted(ours: str) -> tuple[str, str]:
    """Returns the channel of an id, and the id in that channel's own form."""
    channel, colon, theirs = ours.partition(":")
    return (channel, theirs) if colon else (GIVEN, ours)
