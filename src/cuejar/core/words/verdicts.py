"""The result of a call, in words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from cuejar.core.facts import orders as o
from cuejar.core.rules.door import REASONS

SPENT = "The points stay spent: part of it has already started."
VERDICTS = {"let_in": "let in", "extended": "extended", "turned_away": "refused", "ignored": "ignored"}


def reason_said(reason: str, detail: str = "") -> str:
    """Returns why a call was refused: *not in this scene*, *12 s of cooldown left*."""
    if detail and reason.startswith("cooldown"):
        return detail
    return REASONS.get(reason, reason)


def verdict_said(
    verdict: str, reason: str = "", detail: str = "", refunded: int = 0, notes: Iterable[Mapping[str, Any]] = ()
) -> str:
    """Returns the result of a call: *refused, 12 s of cooldown left, 300 points refunded*.

    Args:
        refunded: the points that were refunded.
        notes: what the ledger noted on its run.
    """
    notes = list(notes)
    dropped = next((note for note in notes if note["what"] == "drop"), None)
    failed = next((note for note in notes if note["what"] == "fail"), None)
    parts = [
        VERDICTS.get(verdict, verdict),
        reason_said(reason, detail) if reason else detail,
        "" if dropped is None else "waited too long" if dropped.get("as") == "stale" else "dropped by hand",
        "" if failed is None else str(failed.get("why", "")),
        f"{refunded:,} {'point' if refunded == 1 else 'points'} refunded" if refunded else "",
    ]
    return ", ".join(part for part in parts if part)


def sent_back_said(call: str, redemption: str | None, orders: Iterable[o.Order]) -> str:
    """Returns what became of a call that was dropped by hand, by the orders that followed."""
    for order in orders:
        settled = isinstance(order, o.Settle) and order.redemption == redemption and order.as_ == "refunded"
        if settled or (isinstance(order, o.Paid) and order.call == call and order.what == "refunded"):
            return "Dropped and refunded."
    return "Dropped." if redemption is None else f"Dropped. {SPENT}"
