"""Data beside the book, in words."""

from __future__ import annotations

from cuejar.core.words.values import counted

_PARTS = {
    "calls": ("call in the ledger", "calls in the ledger"),
    "nights": ("night", "nights"),
    "viewers": ("viewer", "viewers"),
    "points": ("viewer’s points", "viewers’ points"),
    "counts": ("count", "counts"),
}


def data_said(part: str, number: int) -> str:
    """Returns how much of a part there is: *1 night*, *1,204 calls in the ledger*."""
    return counted(number, *_PARTS[part])


def data_note(part: str, known: int, odd: int) -> str:
    """Returns what isn't imported: *12 already here, 1 line can't be read*; empty if everything is.

    Args:
        known: how many are here already.
        odd: how many lines can't be read.
    """
    here = f"{known:,} {'already running here' if part == 'counts' else 'already here'}" if known else ""
    unread = f"{counted(odd, 'line')} can’t be read" if odd else ""
    return ", ".join(one for one in (here, unread) if one)
