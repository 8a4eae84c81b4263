"""Overlays: tells their pages what to put up and take down, and a page that joins what is up already.

Which overlay shows what is said by the beat (its ``overlays``; none means all that are for the stream) and by the
overlay (picture, sound). The page draws what it is told, counted from the instant at which it began.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from cuejar.core import orders as o
from cuejar.core.book import Book, OverlayEntry
from cuejar.core.engine import Engine, Timed
from cuejar.core.view import up
from cuejar.live.hub import Hub

HEARD = frozenset({"sound", "speech"})


def topic(overlay: str) -> str:
    return f"overlay/{overlay}"


class Overlays:
    """The feeds of all overlays."""

    def __init__(self, hub: Hub, engine: Callable[[], Engine], source: Callable[[str], dict[str, Any] | None]) -> None:
        """Args:
        source: what a page needs to fetch a media entry (its address, kind, length, loops, trim), or None.
        """
        self._hub, self._engine, self._source = hub, engine, source
        self._told: dict[tuple[str, str], set[str]] = {}

    def _book(self) -> Book:
        return self._engine().book

    def _for(self, kind: str, look: dict[str, Any]) -> list[OverlayEntry]:
        wanted = look.get("overlays") or [overlay.id for overlay in self._book().overlays if not overlay.private]
        return [
            overlay
            for overlay in self._book().overlays
            if overlay.id in wanted and (overlay.sound if kind in HEARD else overlay.picture)
        ]

    def _message(self, order: o.Show | o.Roll) -> dict[str, Any]:
        if isinstance(order, o.Roll):
            value: Any = {"faces": order.faces, "outcome": order.outcome}
            return {
                "t": "show", "run": order.run, "beat": order.beat, "kind": "chance", "value": value,
                "until": order.until, "look": order.look,
            }  # fmt: skip
        values = order.value if isinstance(order.value, list) else [order.value]
        return {
            "t": "show",
            "run": order.run,
            "beat": order.beat,
            "kind": order.kind,
            "value": order.value,
            "at": order.at,
            "until": order.until,
            "look": order.look,
            "media": [self._source(value) for value in values if isinstance(value, str)],
        }

    def hear(self, timed: Sequence[Timed]) -> None:
        for at, order in timed:
            if isinstance(order, (o.Show, o.Roll)):
                kind = order.kind if isinstance(order, o.Show) else "chance"
                message = {"at": at, **self._message(order), "now": at}
                overlays = self._for(kind, order.look)
                self._told[order.run, order.beat] = {overlay.id for overlay in overlays}
                for overlay in overlays:
                    self._hub.say(topic(overlay.id), message)
            elif isinstance(order, (o.Hide, o.Prolong)):
                told = self._told.get((order.run, order.beat), set())
                word = "hide" if isinstance(order, o.Hide) else "until"
                message = {"t": word, "now": at, **order._asdict()}
                for overlay_id in told:
                    self._hub.say(topic(overlay_id), message)
                if isinstance(order, o.Hide):
                    self._told.pop((order.run, order.beat), None)
            elif isinstance(order, o.Set) and order.path.startswith("sound/"):
                for overlay in self._book().overlays:
                    self._hub.say(topic(overlay.id), {"t": "others", "value": order.value})

    def told(self, timed: Sequence[Timed]) -> list[dict[str, Any]]:
        """Orders as the messages a page would hear, without telling anyone; ``at`` as in the orders."""
        messages: list[dict[str, Any]] = []
        for at, order in timed:
            if isinstance(order, (o.Show, o.Roll)):
                messages.append({"at": at, **self._message(order)})
            elif isinstance(order, o.Hide):
                messages.append({"at": at, "t": "hide", "run": order.run, "beat": order.beat})
            elif isinstance(order, o.Set) and order.path == "sound/others":
                messages.append({"at": at, "t": "others", "value": order.value})
        return messages

    def whole(self, overlay_id: str, now: int) -> dict[str, Any]:
        """Everything a page of this overlay needs on joining."""
        engine = self._engine()
        overlay = next(entry for entry in self._book().overlays if entry.id == overlay_id)
        messages = []
        for order in up(engine):
            kind = order.kind if isinstance(order, o.Show) else "chance"
            if overlay in self._for(kind, order.look):
                self._told.setdefault((order.run, order.beat), set()).add(overlay_id)
                messages.append({"at": now, **self._message(order)})
        return {
            "t": "whole",
            "now": now,
            "overlay": overlay.model_dump(),
            "others": engine.holds.showing("sound/others"),
            "up": messages,
        }
