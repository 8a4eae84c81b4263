"""From which channel an id is: those of several channels are told apart by what stands before their first colon.

yard:rd-17      rd-17 of the channel “yard” of the book
rd-17           rd-17 of the channel that was given on starting
:a:b            a:b of the channel that was given on starting
"""

from __future__ import annotations

GIVEN = ""
"""The channel that was given on starting. Its ids stand as they are."""
GIVEN_ROW = "given:channel"
"""What it is called among the gear, where no gear of the book can be called so."""


def joined(channel: str, theirs: str) -> str:
    """An id of a channel, as the engine has it."""
    return theirs if channel == GIVEN and ":" not in theirs else f"{channel}:{theirs}"


def parted(ours: str) -> tuple[str, str]:
    """The channel of an id, and the id as that has it."""
    channel, colon, theirs = ours.partition(":")
    return (channel, theirs) if colon else (GIVEN, ours)
