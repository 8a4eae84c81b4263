"""Pads on other devices: their requests, each counted and signed, and their messages."""

from __future__ import annotations

import asyncio
import json
import time
from collections import deque
from collections.abc import Awaitable, Callable, Sequence
from typing import Any

from pydantic import TypeAdapter, ValidationError

from cuejar.core.book.book import Book, Cue
from cuejar.core.engine.night import Timed
from cuejar.core.engine.rows import PadNow
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.rules.door import REASONS
from cuejar.core.rules.pads import endings, opens, padded
from cuejar.core.words.verdicts import SPENT, sent_back_said
from cuejar.live.desk import lanes_told
from cuejar.live.devices import Device, Devices
from cuejar.live.hub import Hub
from cuejar.live.messages import LedgerLine, PadsDesk, Pong
from cuejar.live.padmessages import (
    ArrivalTold,
    DeskWish,
    EndWish,
    HouseWish,
    LetGoWish,
    PadsArrivals,
    PadsDeskNow,
    PadsDo,
    PadsDone,
    PadsNow,
    PadsSaid,
    PadsTold,
    PadsWish,
    PadTold,
    PressWish,
    RestWish,
    SendBackWish,
    VolumeWish,
)
from cuejar.live.proving import Entry, ProvenLine
from cuejar.live.runner import NotNow, Runner
from cuejar.store.writer import CannotWrite

PAUSE_S = 0.1
RATE, RATE_S = 200, 10.0
"""How many requests a device may make in how long."""
MOST_TOLD = 50
MOST_NAMED, MOST_ARRIVALS, MOST_ARRIVED_TEXT = 20, 20, 200
"""How many holds, runs of a lane and arrivals a device is told, and how much of a viewer's text."""
WISH: TypeAdapter[Any] = TypeAdapter(PadsWish)
ChangeHouse = Callable[[dict[str, Any]], Awaitable[None]]


class Pads(Entry):
    """Sends the state to every device, and carries out their requests."""

    def __init__(
        self, hub: Hub, runner: Runner, devices: Devices, house: ChangeHouse, latest: Callable[[], list[LedgerLine]]
    ) -> None:
        """Args:
        latest: returns the latest ledger lines, oldest first.
        """
        super().__init__(devices, lambda: hub.changed())
        self.runner, self.house = runner, house
        self.held: dict[tuple[str, str], str] = {}
        """The runs held by a device's presses, by device and cue."""
        self._stirred = asyncio.Event()
        self.latest = latest
        self.listens: Callable[[], bool] = lambda: False
        """Returns whether a microphone is open."""

    def start(self) -> None:
        self.runner.watch.keep("pads", self._tell)

    async def stop(self) -> None:
        await self.runner.watch.stop("pads")

    def hear(self, timed: Sequence[Timed]) -> None:
        if timed:
            self._stirred.set()

    def changed(self) -> None:
        self._stirred.set()

    async def _tell(self) -> None:
        while True:
            await self._stirred.wait()
            self._stirred.clear()
            there = self._there()
            if there:
                rows = self.runner.view.pads()
                for line in there:
                    line.tell(rows)
            if any(line.shows_desk for line in there):
                view = self.runner.view
                desk = PadsDeskNow(held=view.held()[:MOST_NAMED], lanes=lanes_told(view, MOST_NAMED))
                for line in there:
                    line.tell_desk(desk)
            await asyncio.sleep(PAUSE_S)

    def _there(self) -> list[PadsLine]:
        return [line for line in self.lines if isinstance(line, PadsLine) and line.device is not None]

    # The desk, for devices that show it

    def shows_desk(self) -> bool:
        return any(line.shows_desk for line in self._there())

    def arrived(self, lines: list[LedgerLine]) -> None:
        """Tells them of ledger lines that are new or changed, oldest first."""
        told = self.arrivals(lines)
        for line in self._there():
            line.tell_arrivals(told)

    def arrivals(self, lines: list[LedgerLine]) -> PadsArrivals:
        book = self.runner.view.book
        named = {cue.id: cue.name for cue in book.cues} | {reward.id: reward.title for reward in book.rewards}
        rows = [
            ArrivalTold(
                id=line.id,
                at=line.at,
                viewer=line.viewer_name,
                what=named.get(line.cue) or named.get(line.reward) or line.reward or line.kind,
                text=line.text[:MOST_ARRIVED_TEXT],
                verdict=line.verdict,
                outcome=line.outcome,
                said=line.said,
            )
            for line in lines[::-1][:MOST_ARRIVALS]
        ]
        return PadsArrivals(rows=rows)

    def told_to_the_desk(self, hands: Entry) -> PadsDesk:
        """Returns what the desk's own pads show, the other devices with pads, and the computer whose keys are pressed."""
        paired = self.devices.hands()
        return PadsDesk(
            rows=self.runner.view.pads()[: 2 * MOST_TOLD],
            devices=[self.told(device) for device in self.devices.all.values() if device.does == "pads"],
            hands=hands.told(paired) if paired is not None else None,
        )


class PadsLine(ProvenLine):
    """One connection of a device with pads."""

    does = "pads"
    said = TypeAdapter(PadsSaid)

    def __init__(self, pads: Pads, sender: str) -> None:
        """Args:
        sender: the address it comes from.
        """
        super().__init__(pads, sender)
        self._pads = pads
        self._lately: deque[float] = deque()
        self._book: Book | None = None
        self._there: set[str] = set()
        self._said_pads = self._said_now = self._said_desk = ""
        self.shows_desk = False

    async def proven(self, said: Any) -> bool:
        if isinstance(said, PadsDo):
            return await self._asked(said)
        self._say(Pong(sent=said.sent))
        return True

    def welcomed(self, device: Device) -> None:
        self.tell(self._pads.runner.view.pads())

    # Messages

    def tell(self, rows: list[PadNow]) -> None:
        """Sends the pads if they changed; and what isn't idle."""
        if self.device is None:
            return
        view = self._pads.runner.view
        if view.book is not self._book:
            self._book = view.book
            self._tell_pads(padded(view.book, self.device.cues))
        house = view.book.house
        now = PadsNow(
            now=self._pads.runner.clock.now(),
            rows=[row for row in rows if row.cue in self._there],
            open=house.open,
            volume=house.volume,
            on_air=view.on_air,
            listens=self._pads.listens(),
        )
        told = now.model_dump_json(exclude={"now"})
        if told != self._said_now:
            self._said_now = told
            self._say(now)

    def _tell_pads(self, cues: list[Cue]) -> None:
        self._there = {cue.id for cue in cues}
        pads = [PadTold(cue=cue.id, name=cue.name, tags=list(cue.tags), face=cue.pad, holds=opens(cue)) for cue in cues]
        told = PadsTold(pads=pads).text()
        if told != self._said_pads:
            self._said_pads = told
            self.listener.put(told)

    def tell_desk(self, desk: PadsDeskNow) -> None:
        """Sends what is on and who waits, if this device shows it and it changed."""
        text = desk.text()
        if self.shows_desk and text != self._said_desk:
            self._said_desk = text
            self.listener.put(text)

    def tell_arrivals(self, arrivals: PadsArrivals) -> None:
        if self.shows_desk:
            self._say(arrivals)

    async def _show_desk(self, on: bool) -> None:
        self.shows_desk, self._said_desk = on, ""
        if on:
            self.tell_arrivals(self._pads.arrivals(await asyncio.to_thread(self._pads.latest)))
            self._pads.changed()

    # Requests

    async def _asked(self, do: PadsDo) -> bool:
        assert self._signed is not None and self.device is not None
        device = self.device
        if device.conduct.locked or device.id not in self._pads.devices.all:
            return self._refuse("locked" if device.conduct.locked else "unknown")
        if not self._signed.takes(do.n, do.body, do.signature):
            return await self._wrong(device)
        if self._too_many():
            self._say(PadsDone(n=do.n, ok=False, what="Too much at once; it was left out."))
            return True
        try:
            wish = WISH.validate_python(json.loads(do.body))
        except (ValueError, ValidationError, RecursionError):
            self._say(PadsDone(n=do.n, ok=False, what="It cannot be understood; load the page again."))
            return True
        try:
            why = await self._do(device, wish, f"pads/{device.id}/{self._signed.ours[:12]}-{do.n}")
        except (NotNow, CannotWrite) as error:
            why = str(error)
        self._say(PadsDone(n=do.n, ok=not why, what=why))
        return True

    def _too_many(self) -> bool:
        now = time.monotonic()
        while self._lately and now - self._lately[0] > RATE_S:
            self._lately.popleft()
        if len(self._lately) >= RATE:
            return True
        self._lately.append(now)
        return False

    async def _do(self, device: Device, wish: Any, call: str) -> str:
        """Carries out a request. Returns why it wasn't done; empty if it was."""
        runner = self._pads.runner
        if isinstance(wish, (PressWish, LetGoWish)):
            there = padded(runner.view.book, device.cues)
            if not any(cue.id == wish.cue for cue in there):
                return "This pad no longer exists."
            return await (
                self._press(device, wish.cue, call) if isinstance(wish, PressWish) else self._let(device, wish.cue)
            )
        if device.cues is not None:
            return "This device can only press its own pads."
        if isinstance(wish, RestWish):
            await runner.post(h.AllToRest())
        elif isinstance(wish, VolumeWish):
            await self._pads.house({"volume": round(wish.value)})
        elif isinstance(wish, HouseWish):
            await self._pads.house({"open": wish.open})
        elif isinstance(wish, DeskWish):
            await self._show_desk(wish.on)
        elif isinstance(wish, (EndWish, SendBackWish)):
            return await self._end(wish)
        return ""

    async def _end(self, wish: EndWish | SendBackWish) -> str:
        runner = self._pads.runner
        run = runner.view.run(wish.run)
        if isinstance(wish, SendBackWish):
            if run is None or run.started_at is not None:
                return "It no longer waits."
            timed = await runner.post(h.DropCall(run=wish.run))
            said = sent_back_said(run.call, run.redemption, (order for _, order in timed))
            return said if said.endswith(SPENT) else ""
        if run is None or run.started_at is None:
            return "It has ended already."
        await runner.post(h.Release(wish.run))
        return ""

    async def _press(self, device: Device, cue: str, call: str) -> str:
        timed = await self._pads.runner.post(h.Pad(cue, "", call))
        verdict = next((v for _, v in timed if isinstance(v, o.Verdict) and v.cue == cue), None)
        if verdict is None:
            return "This pad no longer exists."
        if verdict.run is not None:
            self._pads.held[device.id, cue] = verdict.run
        if verdict.verdict == "turned_away":
            return REASONS.get(verdict.reason or "", verdict.reason or "It was refused.")
        return ""

    async def _let(self, device: Device, cue: str) -> str:
        """Ends what is open of the run that this device began, otherwise of the latest of the cue; a waiting run is
        dropped.
        """
        runner = self._pads.runner
        own = runner.view.run(self._pads.held.pop((device.id, cue), ""))
        run = own if own is not None else runner.view.pressed(cue)
        if run is not None:
            for happening in endings(run):
                await runner.post(happening)
        return ""
