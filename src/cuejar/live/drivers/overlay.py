"""Overlays: tells their pages what to put up and take down, and a page that joins what is up already.

Which overlay shows what is said by the beat (its ``overlays``; none means all that are for the stream) and by the
overlay (picture, sound). The page draws what it is told, counted from the instant at which it began.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from cuejar.core.book.book import Book, OverlayEntry
from cuejar.core.engine.night import Timed
from cuejar.core.engine.view import View
from cuejar.core.facts import orders as o
from cuejar.core.kinds.throw import ThrowBeat
from cuejar.core.measures.throw import Thing, things
from cuejar.live.hub import Hub

HEARD = frozenset({"sound", "speech"})


def topic(overlay: str) -> str:
    return f"overlay/{overlay}"


class Overlays:
    """The feeds of all overlays."""

    def __init__(self, hub: Hub, view: Callable[[], View], source: Callable[[str], dict[str, Any] | None]) -> None:
        """Args:
        source: what a page needs to fetch a media entry (its address, kind, length, loops, trim), or None.
        """
        self._hub, self._view, self._source = hub, view, source
        self._told: dict[tuple[str, str], set[str]] = {}
        self.speech: Callable[[str, str], dict[str, Any] | None] = lambda run, beat: None
        self._speaking: dict[tuple[str, str], int] = {}
        self._entries: dict[str, OverlayEntry] = {}
        self._timed: list[dict[str, Any]] = []

    def _book(self) -> Book:
        return self._view().book

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
        if order.kind == "speech":
            return self._spoken(order, self.speech(order.run, order.beat))
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
            **({"things": self._things(order)} if order.kind == "throw" else {}),
        }

    def _things(self, order: o.Show) -> list[Thing]:
        """What a throw throws; the same on every page, as it follows from the run."""
        beat = ThrowBeat.model_validate({"id": order.beat, "kind": "throw", **order.look})
        return self.thrown(beat, f"{self._view().seed}/{order.run}/{order.beat}")

    def thrown(self, beat: ThrowBeat, seed: str) -> list[Thing]:
        """What a beat throws at the circles of the book, on an overlay of the stream's shape."""
        book = self._book()
        targets = [target for gear in book.gear if gear.kind == "avatar" for target in gear.targets]
        wide = next((overlay for overlay in book.overlays if not overlay.private), None)
        ratio = wide.width / wide.height if wide is not None else 16 / 9
        return things(beat, targets, ratio, seed)

    def sources(self, media: list[str]) -> list[dict[str, Any] | None]:
        """What a page needs to fetch these media entries."""
        return [self._source(entry) for entry in media]

    def _spoken(self, order: o.Show, speech: dict[str, Any] | None) -> dict[str, Any]:
        """A speech as a page plays it; it is counted from when its sound began, which may be after its beat's start."""
        speech = speech or {}
        length = speech.get("length_s", 0)
        sound = {"kind": "sound", "mime": "audio/wav", "length_s": length, "loops": 1, "from_s": 0, "to_s": None}
        pictures = [self._source(media) for media in speech.get("pictures", [])]
        blink = self._source(speech["blink"]) if speech.get("blink") else None
        return {
            "t": "show",
            "run": order.run,
            "beat": order.beat,
            "kind": "speech",
            "value": order.value,
            "at": self._speaking.get((order.run, order.beat), order.at),
            "until": order.until,
            "look": order.look,
            "media": [{**sound, "url": speech.get("url", ""), "gain_db": 0}],
            "speech": {
                "words": speech.get("words", []),
                "mouth": speech.get("mouth", []),
                "pictures": [source["url"] for source in pictures if source],
                "blink": blink["url"] if blink else None,
            },
        }

    def speech_ready(self, run: str, beat: str, now: int) -> None:
        """A speech whose beat is up already can be heard now."""
        if (run, beat) in self._told:
            return
        for order in self._view().up():
            if isinstance(order, o.Show) and order.kind == "speech" and (order.run, order.beat) == (run, beat):
                self._show_speech(order, now)

    def _show_speech(self, order: o.Show, now: int) -> None:
        key = (order.run, order.beat)
        if self.speech(*key) is None:
            return
        self._speaking[key] = now
        message = {**self._message(order), "now": now}
        overlays = [overlay for overlay in self._for("sound", order.look) if overlay.sound]
        # Its mouth and its caption are seen where there is a picture, also without the sound.
        overlays = [*overlays, *(other for other in self._for("caption", order.look) if other not in overlays)]
        self._told[key] = {overlay.id for overlay in overlays}
        for overlay in overlays:
            self._hub.say(topic(overlay.id), message)

    def hear(self, timed: Sequence[Timed]) -> None:
        for at, order in timed:
            if isinstance(order, (o.Show, o.Roll)):
                kind = order.kind if isinstance(order, o.Show) else "chance"
                if isinstance(order, o.Show) and kind == "speech":
                    self._show_speech(order, at)
                    continue
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
                    self._speaking.pop((order.run, order.beat), None)
            elif isinstance(order, o.Set) and order.path.startswith("sound/"):
                for overlay in self._book().overlays:
                    self._hub.say(topic(overlay.id), {"t": "others", "value": order.value})
        if timed:
            self._tell_timers()

    def timers(self) -> list[dict[str, Any]]:
        """How long everything that is held is still on, the first to end first."""
        rows = [
            {"path": row.path, "value": row.value, "until": row.until, "cue": row.cue} for row in self._view().held()
        ]
        return rows[::-1]

    def _tell_timers(self) -> None:
        """Overlays with timers hear what is held, whenever that changed."""
        watching = [overlay for overlay in self._book().overlays if overlay.timers]
        if not watching:
            self._timed = []
            return
        rows = self.timers()
        if rows != self._timed:
            self._timed = rows
            for overlay in watching:
                self._hub.say(topic(overlay.id), {"t": "timers", "rows": rows})

    def book_changed(self, now: int) -> None:
        """Pages of an overlay that is set up otherwise now are told the whole again; nothing is loaded anew."""
        entries = {overlay.id: overlay for overlay in self._book().overlays}
        for overlay_id, entry in entries.items():
            if self._entries.get(overlay_id, entry) != entry:
                self._hub.say(topic(overlay_id), self.whole(overlay_id, now))
        self._entries = entries

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
        view = self._view()
        overlay = next(entry for entry in self._book().overlays if entry.id == overlay_id)
        messages = []
        for order in view.up():
            kind = order.kind if isinstance(order, o.Show) else "chance"
            if kind == "speech":
                if self.speech(order.run, order.beat) is None:
                    continue
                kind = "caption" if overlay.picture else "sound"
            if overlay in self._for(kind, order.look):
                self._told.setdefault((order.run, order.beat), set()).add(overlay_id)
                messages.append({"at": now, **self._message(order)})
        return {
            "t": "whole",
            "now": now,
            "overlay": overlay.model_dump(),
            "others": view.showing("sound/others"),
            "timers": self.timers() if overlay.timers else [],
            "up": messages,
        }
