"""All channels: those of the book, and one given at start-up. Each has its own rewards, viewers and redemptions.

A redemption is settled at the channel it came from; what is owed to a missing channel waits for it. The
show is on air while any of them says so.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import Book
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.origin import GIVEN, GIVEN_ROW, parted
from cuejar.core.kinds.gear import CHANNEL
from cuejar.core.parts.gear import Gear
from cuejar.live.drivers.base import AwayError, GearRefused
from cuejar.live.drivers.channel import ChannelDriver, Met
from cuejar.live.drivers.channel_rewards import HandAt, Stand
from cuejar.live.drivers.channel_wire import Reward, Stream
from cuejar.live.drivers.reward_given import Pictures
from cuejar.live.memories import ALWAYS
from cuejar.live.runner import Runner


class Channels:
    """Every connected channel, by the id of its gear; None for the one given at start-up."""

    def __init__(
        self,
        runner: Runner,
        sessions: sessionmaker[Session],
        secret: Callable[[str], str],
        address: Callable[[Gear], str],
        given: str | None,
        on_hand: HandAt,
        changed: Callable[[], None],
        met: Met,
        pictures: Pictures,
    ) -> None:
        """Args:
        changed: is told when the state of a connection changes.
        secret: returns the token of a channel, by the id of its gear.
        address: returns where to look for a channel of the book.
        given: the address of a channel outside the book.
        on_hand: takes changes by hand to a channel's rewards.
        met: is told of viewers' pictures.
        pictures: the pictures of rewards.
        """
        self._runner, self._sessions, self._secret, self._address, self._given = (
            runner,
            sessions,
            secret,
            address,
            given,
        )
        self._on_hand, self._met, self._pictures = on_hand, met, pictures
        self.drivers: dict[str, ChannelDriver] = {}
        self._set_up: dict[str, tuple[str, str]] = {}
        self._gear: dict[str, Gear] = {}
        self._owed: dict[str, str] = {}
        """What is owed to disconnected channels."""
        self._same: dict[str, str] = {}
        """Channels whose address another one already listens to, and which one."""
        self._streams: dict[str, Stream] = {}
        self._changed = changed

    def take(self, book: Book) -> None:
        """Takes the channels of a new book; unchanged ones are left alone."""
        self._gear = {gear.id: gear for gear in book.gear if gear.kind == CHANNEL}
        wanted: dict[str, tuple[str, str]] = {}
        there: dict[str, str] = {}
        self._same = {}
        for gear in self._gear.values():
            address = self._address(gear)
            if not gear.on or not address:
                continue
            # Listening twice, every call there would be made twice.
            first = there.setdefault(address.rstrip("/"), gear.id)
            if first == gear.id:
                wanted[gear.id] = (address, self._secret(gear.id))
            else:
                self._same[gear.id] = first
        if self._given and self._given.rstrip("/") not in {self._address(g).rstrip("/") for g in self._gear.values()}:
            wanted[GIVEN] = (self._given, "")
        for gone in [channel for channel, set_up in self._set_up.items() if wanted.get(channel) != set_up]:
            self._drop(gone)
        for channel, set_up in wanted.items():
            if channel not in self.drivers:
                self._set_up[channel] = set_up
                self._begin(channel, *set_up)
            else:
                self.drivers[channel].book_changed()
        self._share()

    def _begin(self, channel: str, address: str, token: str) -> None:
        driver = ChannelDriver(
            channel,
            address,
            token,
            self._runner,
            self._sessions,
            self._streamed,
            self._on_hand,
            self._met,
            self._pictures,
            self._changed,
        )
        self.drivers[channel] = driver
        driver.start()

    def _drop(self, channel: str) -> None:
        driver = self.drivers.pop(channel)
        self._set_up.pop(channel)
        self._streams.pop(channel, None)
        self._owed.update(driver.settling.owed)
        self._runner.watch.once(f"letting go of the channel {channel or 'given'}", driver.stop)

    async def stop(self) -> None:
        await asyncio.gather(*(driver.stop() for driver in self.drivers.values()))

    def hear(self, timed: Sequence[Timed]) -> None:
        for driver in self.drivers.values():
            driver.hear(timed)

    # Debts

    def owe(self, settled: Iterable[tuple[str, str]]) -> None:
        """Takes redemptions to be settled with these outcomes."""
        self._owed.update(settled)
        self._share()

    def _share(self) -> None:
        shares: dict[str, dict[str, str]] = {}
        for redemption, outcome in self._owed.items():
            channel, _ = parted(redemption)
            if channel == GIVEN and GIVEN not in self.drivers:
                channel = self._now_in_book()
            shares.setdefault(channel, {})[redemption] = outcome
        for channel, share in shares.items():
            if channel in self.drivers:
                self.drivers[channel].settling.owe(share.items())
                for redemption in share:
                    del self._owed[redemption]

    def _now_in_book(self) -> str:
        """Returns the gear that now has the address of the channel given at start-up, and takes over its debts."""
        given = (self._given or "").rstrip("/")
        return next((channel for channel, driver in self.drivers.items() if driver.address == given), GIVEN)

    @property
    def owed(self) -> int:
        """Returns how many settlements aren't confirmed."""
        return len(self._owed) + sum(len(driver.settling.owed) for driver in self.drivers.values())

    # The stream

    def _streamed(self, channel: str, stream: Stream, event: str | None) -> None:
        """Notes whether a channel's stream is on: the show is on air while any of them is."""
        self._streams[channel] = stream
        view = self._runner.view
        live = any(one.state == "live" for one in self._streams.values())
        known = any(one.state is not None for one in self._streams.values())
        state = ("live" if live else "ended") if known else ("live" if view.on_air else "ended")
        category = stream.category if stream.category is not None else view.category
        if event is not None or state != ("live" if view.on_air else "ended") or category != view.category:
            self._runner.put(h.Stream("live" if state == "live" else "ended", stream.category), event)

    # Replies

    def memory(self) -> str:
        """Returns `ALWAYS`: a channel does a repeated reply with the same ``Idempotency-Key`` only once."""
        return ALWAYS

    def memory_before(self, at: int) -> str:
        return ALWAYS

    async def strike(self, strike: o.Strike, strike_id: str) -> None:
        """Says a reply in the chat of the viewer's channel; without a viewer in all channels, unless one was given at
        start-up.

        Raises AwayError, Unanswered or GearRefused.
        """
        whole = strike.value if isinstance(strike.value, dict) else {"text": strike.value}
        channel = whole.get("channel", GIVEN)
        if not self.drivers:
            raise GearRefused("there is no channel")
        if channel in self.drivers:
            await self.drivers[channel].reply(str(whole["text"]), strike_id)
        elif channel != GIVEN:
            raise AwayError("its channel is not connected")
        else:
            for driver in self.drivers.values():
                await driver.reply(str(whole["text"]), strike_id)

    # State

    def name(self, channel: str) -> str:
        gear = self._gear.get(channel)
        return (gear.name or gear.id) if gear is not None else "Channel"

    def rows(self) -> list[dict[str, Any]]:
        """Returns the state of each, for the desk and the rig."""
        rows: list[dict[str, Any]] = []
        for channel in [*([GIVEN] if GIVEN in self.drivers else []), *self._gear]:
            row = {"id": channel or GIVEN_ROW, "kind": CHANNEL, "name": self.name(channel), "serial": 0}
            driver = self.drivers.get(channel)
            if driver is not None:
                rows.append(
                    {
                        **row,
                        "state": driver.state,
                        "since": driver.since,
                        "problem": driver.problem,
                        "lacks": driver.lacks(),
                    }
                )
                continue
            problem = "It has no address." if self._gear[channel].on else "It is switched off."
            if channel in self._same:
                problem = f"{self.name(self._same[channel])} is heard at this address already; give it another."
            rows.append({**row, "state": "off", "since": 0, "problem": problem})
        return rows

    # Rewards

    def stands(self) -> dict[str, dict[str, Stand]]:
        """Returns the state of each reward at each channel: by the channel's row, then by the reward."""
        return {
            channel or GIVEN_ROW: driver.rewards.stands(driver.state != "away")
            for channel, driver in self.drivers.items()
        }

    def others(self) -> list[tuple[str, Reward]]:
        """Returns rewards that were made elsewhere, each with its channel's row."""
        return [
            (channel or GIVEN_ROW, other) for channel, driver in self.drivers.items() for other in driver.rewards.others
        ]

    async def make_again(self, reward: str) -> bool:
        """Makes a reward again wherever it was removed by hand. Returns whether it was removed anywhere."""
        again = [await driver.rewards.again(reward) for driver in self.drivers.values()]
        for driver in self.drivers.values():
            driver.book_changed()
        return any(again)

    @property
    def state(self) -> str | None:
        """Returns the state of the worst of them; nothing without channels."""
        states = [driver.state for driver in self.drivers.values()]
        return next((state for state in ("away", "catching_up", "in_step") if state in states), None)
