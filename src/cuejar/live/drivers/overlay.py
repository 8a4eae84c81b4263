"""Overlays: tells their pages what to show and hide; a page that joins gets what is already up.

The beat (its ``overlays``; none means all for the stream) and the overlay (picture, sound) decide where it shows.
The page draws what it is told, counted from the instant at which it began.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from cuejar.core.book.book import Book, OverlayEntry
from cuejar.core.engine.night import Timed
from cuejar.core.engine.view import View
from cuejar.core.facts import orders as o
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.facts.paths import OTHERS
from cuejar.core.kinds.base import HEARD
from cuejar.core.kinds.table import KINDS, is_spoken
from cuejar.core.measures.throw import Thing, things
from cuejar.core.parts.steps import Flight
from cuejar.live.hub import Hub
from cuejar.live.messages import (
    HideTold,
    Look,
    Message,
    OthersTold,
    OverlaySetUp,
    OverlayWhole,
    ShowTold,
    Source,
    SpeechTold,
    TimerRow,
    TimersTold,
    UntilTold,
)


def topic(overlay: str) -> str:
    return f"overlay/{overlay}"


Speech = Callable[[str, str], dict[str, Any] | None]


class Overlays:
    """The feeds of all overlays."""

    def __init__(
        self, hub: Hub, view: Callable[[], View], source: Callable[[str], Source | None], speech: Speech
    ) -> None:
        """Args:
        speech: returns what a page needs to play what a run's beat reads aloud, or None while it is being made.
        source: returns what a page needs to fetch a media entry (its address, kind, length, loops, trim), or None.
        """
        self._hub, self._view, self._source, self._speech = hub, view, source, speech
        self._told: dict[tuple[str, str], set[str]] = {}
        self._speaking: dict[tuple[str, str], int] = {}
        self._begun: set[tuple[str, str]] = set()
        """Speeches of which only the beginning was audible when they were sent."""
        self._entries: dict[str, OverlayEntry] = {}
        self._timed: list[TimerRow] = []

    def _book(self) -> Book:
        return self._view().book

    def _for(self, is_sound: bool, look: dict[str, Any]) -> list[OverlayEntry]:
        wanted = look.get("overlays") or [overlay.id for overlay in self._book().overlays if not overlay.private]
        return [
            overlay
            for overlay in self._book().overlays
            if overlay.id in wanted and (overlay.sound if is_sound else overlay.picture)
        ]

    def _message(
        self, order: o.Show | o.Roll, at: int, now: int | None = None, speech: Speech | None = None
    ) -> ShowTold:
        """Returns the message about a beat that is up since ``at``."""
        if isinstance(order, o.Show) and is_spoken(order):
            return self._spoken(order, now, speech or self._speech)
        told: dict[str, Any] = {
            "run": order.run,
            "beat": order.beat,
            "until": order.until,
            "look": order.look,
            "at": at,
        }
        if now is not None:
            told["now"] = now
        if isinstance(order, o.Roll):
            kind = "draw" if "drawn" in order.look else "chance"
            return ShowTold(kind=kind, value={"faces": order.faces, "outcome": order.outcome}, **told)
        values = order.value if isinstance(order.value, list) else [order.value]
        told["media"] = [self._source(value) for value in values if isinstance(value, str)]
        if issubclass(KINDS[order.kind].model, Flight):
            told["things"] = self._things(order)
        return ShowTold(kind=order.kind, value=order.value, **told)

    def _things(self, order: o.Show) -> list[Thing]:
        """Returns what a throw throws; the same on every page, as it follows from the run."""
        beat = KINDS[order.kind].model.model_validate({"id": order.beat, "kind": order.kind, **order.look})
        return self.thrown(beat, f"{self._view().seed}/{order.run}/{order.beat}")

    def thrown(self, beat: Flight, seed: str) -> list[Thing]:
        """Returns what a beat throws at the circles of the book, on an overlay of the stream's shape."""
        book = self._book()
        targets = [target for gear in book.gear if gear.kind == "avatar" for target in gear.targets]
        wide = next((overlay for overlay in book.overlays if not overlay.private), None)
        ratio = wide.width / wide.height if wide is not None else 16 / 9
        return things(beat, targets, ratio, seed)

    def sources(self, media: list[str]) -> list[Source | None]:
        """Returns what a page needs to fetch these media entries."""
        return [self._source(entry) for entry in media]

    def _spoken(self, order: o.Show, now: int | None, told_of: Speech) -> ShowTold:
        """Returns a speech for a page, counted from when its sound began, which may be after its beat's start."""
        speech = told_of(order.run, order.beat) or {}
        length = speech.get("length_s", 0)
        sound = Source(
            url=speech.get("url", ""),
            kind="sound",
            mime="audio/wav",
            length_s=length,
            loops=1,
            from_s=0,
            to_s=None,
            gain_db=0,
        )
        pictures = [self._source(media) for media in speech.get("pictures", [])]
        blink = self._source(speech["blink"]) if speech.get("blink") else None
        brings = SpeechTold(
            words=speech.get("words", []),
            mouth=speech.get("mouth", []),
            pictures=[source.url for source in pictures if source is not None],
            blink=blink.url if blink is not None else None,
        )
        told: dict[str, Any] = {"now": now} if now is not None else {}
        return ShowTold(
            run=order.run,
            beat=order.beat,
            kind="speech",
            value=order.value,
            at=self._speaking.get((order.run, order.beat), order.at),
            until=order.until,
            look=Look(**order.look),
            media=[sound],
            speech=brings,
            **told,
        )

    def speech_ready(self, run: str, beat: str, now: int) -> None:
        """Notes that a speech of a beat that is up can be heard now, or is complete: its words, and its length."""
        if (run, beat) in self._told and (run, beat) not in self._begun:
            return
        for order in self._view().up():
            if isinstance(order, o.Show) and is_spoken(order) and (order.run, order.beat) == (run, beat):
                self._show_speech(order, now)

    def _show_speech(self, order: o.Show, now: int) -> None:
        key = (order.run, order.beat)
        speech = self._speech(*key)
        if speech is None:
            return
        if speech["is_whole"]:
            self._begun.discard(key)
        else:
            self._begun.add(key)
        since = self._speaking.setdefault(key, now)
        message = self._message(order, since, now)
        overlays = [overlay for overlay in self._for(True, order.look) if overlay.sound]
        # Its mouth and its caption show on overlays with pictures, even without sound.
        overlays = [*overlays, *(other for other in self._for(False, order.look) if other not in overlays)]
        self._told[key] = {overlay.id for overlay in overlays}
        for overlay in overlays:
            self._hub.say(topic(overlay.id), message)

    def hear(self, timed: Sequence[Timed]) -> None:
        for at, order in timed:
            if isinstance(order, (o.Show, o.Roll)):
                if isinstance(order, o.Show) and is_spoken(order):
                    self._show_speech(order, at)
                    continue
                message = self._message(order, order.at if isinstance(order, o.Show) else at, at)
                overlays = self._for(_is_sound(order), order.look)
                self._told[order.run, order.beat] = {overlay.id for overlay in overlays}
                for overlay in overlays:
                    self._hub.say(topic(overlay.id), message)
            elif isinstance(order, (o.Hide, o.Prolong)):
                told = self._told.get((order.run, order.beat), set())
                gone: Message = (
                    HideTold(run=order.run, beat=order.beat, now=at)
                    if isinstance(order, o.Hide)
                    else UntilTold(run=order.run, beat=order.beat, until=order.until, now=at)
                )
                for overlay_id in told:
                    self._hub.say(topic(overlay_id), gone)
                if isinstance(order, o.Hide):
                    self._told.pop((order.run, order.beat), None)
                    self._speaking.pop((order.run, order.beat), None)
                    self._begun.discard((order.run, order.beat))
            elif isinstance(order, o.Change):
                self._tell_changed(order, at)
            elif isinstance(order, o.Set) and order.path == OTHERS:
                for overlay in self._book().overlays:
                    self._hub.say(topic(overlay.id), _others(order.value))
        if timed:
            self._tell_timers()

    def _tell_changed(self, change: o.Change, now: int) -> None:
        """Tells pages that already show it what it shows now."""
        for order in self._view().up():
            if isinstance(order, o.Show) and (order.run, order.beat) == (change.run, change.beat):
                message = self._message(order._replace(value=change.value), order.at, now)
                for overlay_id in self._told.get((order.run, order.beat), ()):
                    self._hub.say(topic(overlay_id), message)

    def timers(self) -> list[TimerRow]:
        """Returns how long everything held is still on, the first to end first."""
        rows = [
            TimerRow(path=r.path, name=r.name, value=r.value, until=r.until, cue=r.cue) for r in self._view().held()
        ]
        return rows[::-1]

    def _tell_timers(self) -> None:
        """Tells overlays with timers what is held, whenever that changes."""
        watching = [overlay for overlay in self._book().overlays if overlay.timers]
        if not watching:
            self._timed = []
            return
        rows = self.timers()
        if rows != self._timed:
            self._timed = rows
            for overlay in watching:
                self._hub.say(topic(overlay.id), TimersTold(rows=rows))

    def book_changed(self, now: int) -> None:
        """Sends everything again to pages of an overlay whose setup changed; nothing is reloaded."""
        entries = {overlay.id: overlay for overlay in self._book().overlays}
        for overlay_id, entry in entries.items():
            if self._entries.get(overlay_id, entry) != entry:
                self._hub.say(topic(overlay_id), self.whole(overlay_id, now))
        self._entries = entries

    def told(
        self, timed: Sequence[Timed], speech: Speech = lambda run, beat: None
    ) -> list[ShowTold | HideTold | OthersTold]:
        """Returns orders that aren't the show's as messages for a page, without sending them; ``at`` as in the orders.

        Args:
            speech: as in the constructor, for these orders.
        """
        messages: list[ShowTold | HideTold | OthersTold] = []
        for at, order in timed:
            if isinstance(order, (o.Show, o.Roll)):
                messages.append(self._message(order, order.at if isinstance(order, o.Show) else at, speech=speech))
            elif isinstance(order, o.Hide):
                messages.append(HideTold(at=at, run=order.run, beat=order.beat))
            elif isinstance(order, o.Set) and order.path == OTHERS:
                messages.append(OthersTold(at=at, value=_others(order.value).value))
        return messages

    def whole(self, overlay_id: str, now: int) -> OverlayWhole:
        """Returns everything that a page of this overlay needs when it joins."""
        view = self._view()
        overlay = next(entry for entry in self._book().overlays if entry.id == overlay_id)
        messages = []
        for order in view.up():
            is_sound = _is_sound(order)
            if is_spoken(order):
                if self._speech(order.run, order.beat) is None:
                    continue
                is_sound = not overlay.picture
            if overlay in self._for(is_sound, order.look):
                self._told.setdefault((order.run, order.beat), set()).add(overlay_id)
                messages.append(self._message(order, order.at if isinstance(order, o.Show) else now))
        return OverlayWhole(
            now=now,
            overlay=OverlaySetUp(**overlay.model_dump()),
            others=_others(view.showing(OTHERS)).value,
            timers=self.timers() if overlay.timers else [],
            up=messages,
        )


def _is_sound(order: o.Show | o.Roll) -> bool:
    """Returns whether it is only heard."""
    return isinstance(order, o.Show) and KINDS[order.kind].noticed == HEARD


def _others(value: PropertyValue) -> OthersTold:
    return OthersTold(value=value if isinstance(value, (int, float)) else 1)
