"""The haptics: patterns played as frames over OSC, within the house's limits on what reaches the skin."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field

from cuejar.core.book.book import Book
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.gate import Key, ShortText
from cuejar.core.kinds.gear import GearKind
from cuejar.core.measures.haptics import Limit, Worn, found
from cuejar.live.drivers.base import Greeting
from cuejar.live.drivers.osc import OscDriver
from cuejar.live.drivers.said import Said, Unreadable, read
from cuejar.live.watch import background

FRAME_S = 0.02
MOST_PADS, MOST_LINES = 500, 40
NO_PADS = "It reports no pads, so nothing can be felt."
Part = Annotated[float, Field(ge=0, le=1)]


class PadTold(Said):
    """A pad: its id, its name, where it lies, how wide it is."""

    id: Key
    name: ShortText
    side: Literal["front", "back"]
    x: Part
    y: Part
    size: Annotated[float, Field(gt=0, le=1)]

    def fact(self) -> h.Touch:
        x, y, size = (round(number, 5) for number in (self.x, self.y, self.size))
        return h.Touch(self.id, self.side, x, y, size, self.name)


class OutlineTold(Said):
    """A line of its picture: x and y of its points in turn."""

    side: Literal["front", "back"]
    points: Annotated[list[Part], Field(min_length=4, max_length=400)]

    def fact(self) -> h.Outline:
        return h.Outline(self.side, tuple(round(number, 5) for number in self.points[: len(self.points) // 2 * 2]))


def read_pad(params: list[Any]) -> h.Touch:
    """Raises Unreadable."""
    return read(PadTold, dict(zip(PadTold.model_fields, params, strict=False)), ["pad", *params]).fact()


def read_outline(params: list[Any]) -> h.Outline:
    """Raises Unreadable."""
    told = {"side": params[0] if params else None, "points": params[1:]}
    return read(OutlineTold, told, ["outline", *params]).fact()


class HapticsDriver(OscDriver):
    """Plays what is up, on the reported pads. A frame carries every pad, so that a lost one does no harm."""

    def __init__(self, kind: GearKind, address: str, book: Callable[[], Book], now: Callable[[], int]) -> None:
        """Args:
        now: the show's clock in ms, by which beats begin.
        """
        super().__init__(kind, address)
        self._book, self._now = book, now
        self._up: list[o.Show] = []
        self._stirred = asyncio.Event()
        self._playing: asyncio.Task[None] | None = None
        self.limit: Limit | None = None
        self._told: tuple[list[h.Touch | None], list[h.Outline]] = ([], [])
        """Reports about its pads and lines since the last complete one; None: an unreadable pad."""
        self._outlines: tuple[h.Outline, ...] = ()
        self._slots: tuple[h.Touch | None, ...] = ()
        self.pads: tuple[h.Touch, ...] = ()
        self.worn = Worn(())

    def _heard(self, what: str, params: list[Any]) -> None:
        pads, lines = self._told
        if what == "pad":
            if len(pads) >= MOST_PADS:
                raise Unreadable([what, *params], f"it has more than {MOST_PADS} pads")
            pads.append(None)  # An unreadable pad keeps its place in the frames.
            pad = read_pad(params)
            if any(other is not None and other.id == pad.id for other in pads):
                raise Unreadable([what, *params], "there is a pad of this id already")
            pads[-1] = pad
        elif what == "outline":
            if len(lines) >= MOST_LINES:
                raise Unreadable([what, *params], f"its picture has more than {MOST_LINES} lines")
            lines.append(read_outline(params))
        else:
            super()._heard(what, params)
            if what == "all":
                self._all_told(tuple(pads), tuple(lines))

    def _all_told(self, slots: tuple[h.Touch | None, ...], lines: tuple[h.Outline, ...]) -> None:
        self._told = ([], [])
        if (slots, lines) != (self._slots, self._outlines):
            self._slots, self._outlines = slots, lines
            self.pads = tuple(pad for pad in slots if pad is not None)
            self.worn = Worn(self.pads)
            if self.ready:
                self._reports.put_nowait(self._catalogue())

    def _catalogue(self) -> Greeting:
        greeting = super()._catalogue()
        assert greeting.things is not None
        things = replace(greeting.things, touches=self.pads, outlines=self._outlines)
        return replace(greeting, things=things, lacks=() if self.pads else (NO_PADS,))

    async def connect(self) -> Greeting:
        there = await super().connect()
        self._playing = background("haptics", self._play(), self._fell)
        return there

    def up(self, shows: Sequence[o.Show]) -> None:
        """Takes everything that is up now."""
        self._up = list(shows)
        self._stirred.set()

    def levels(self, now: int) -> bytes:
        """Returns the frame of this moment, one byte per pad, within the house's limits."""
        book = self._book()
        house = book.house
        wanted = (house.haptics_level, round(house.haptics_most_s * 1000), round(house.haptics_pause_s * 1000))
        if self.limit is None:
            self.limit = Limit(*wanted)
        self.limit.level, self.limit.most_ms, self.limit.pause_ms = wanted
        playing = []
        for show in self._up:
            pattern = found(book.patterns, str(show.value))
            if pattern is not None and show.at <= now and (show.until is None or now < show.until):
                t_s = (now - show.at) / 1000 % pattern.length_s
                playing.append(self.worn.felt(pattern, t_s) * float(show.look.get("strength", 1)))
        levels = np.round(self.limit.passed(self.worn.merged(playing), now) * 255).astype(int).tolist()
        felt = iter(levels)
        return bytes(next(felt) if pad is not None else 0 for pad in self._slots)

    async def _play(self) -> None:
        still = 0
        while True:
            if not self._up and still > 3:
                self._stirred.clear()
                if not self._up:
                    await self._stirred.wait()
            frame = self.levels(self._now())  # Without any pads, if it reported none.
            still = still + 1 if not any(frame) and not self._up else 0
            if frame:
                self._send("frame", frame)
            await asyncio.sleep(FRAME_S)

    async def close(self) -> None:
        if self._playing is not None:
            self._playing.cancel()
            self._playing = None
        await super().close()
