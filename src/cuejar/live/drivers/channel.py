"""The channel: viewers' calls come in, rewards are kept as the book has them, redemptions are settled, replies are said.

On every connect it first reads what it missed (redemptions nobody settled; whether the stream is on), makes the rewards
of the book be at the channel, and sends every settlement that was not confirmed. Redemptions are told apart by their id, so
reading them twice does no harm.
"""

from __future__ import annotations

import asyncio
import logging
from collections.abc import AsyncGenerator, Callable, Sequence
from contextlib import aclosing
from datetime import UTC, datetime
from typing import Any, cast
from urllib.parse import quote

import httpx
import websockets
from sqlalchemy import delete, select
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.book.book import Reward
from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.live.drivers import channel_wire as wire
from cuejar.live.drivers.base import AwayError, GearRefused, State, Unanswered, pause_s, pauses
from cuejar.live.drivers.said import Unreadable, read
from cuejar.live.runner import Runner
from cuejar.live.settling import Settling, words
from cuejar.live.wirelog import WireLog
from cuejar.store.models import LinkRow

log = logging.getLogger(__name__)
MADE_BY = "cue-jar"
REWARD_LINK, CURSOR_LINK = "reward", "cursor"
CURSOR_S = 2.0
UNHEARD = (OSError, websockets.WebSocketException, httpx.HTTPError, ValueError, TimeoutError)
"""What is raised where the channel does not answer, or not as it should."""
OWN_ECHOES = ("settled", "reply")
"""Events that say what we asked for ourselves."""


class ChannelDriver:
    """Keeps the connection to the channel and both sides in step."""

    def __init__(self, address: str, runner: Runner, sessions: sessionmaker[Session]) -> None:
        self.address, self._runner, self._sessions = address.rstrip("/"), runner, sessions
        self.state: State = "away"
        self.since = runner.clock.now()
        self.problem = ""
        self.on_state: Callable[[], None] = lambda: None
        self._http = httpx.AsyncClient(base_url=f"{self.address}/channel", timeout=5, trust_env=False)
        self._sync_now = asyncio.Event()
        self._connected = asyncio.Event()
        self.settling = Settling(self._http, self._connected, runner.recorder.confirmed, self._settling_is)
        with sessions() as session:
            rows = session.scalars(select(LinkRow).where(LinkRow.kind == REWARD_LINK))
            self._channel_id = {row.thing: row.value for row in rows}
            cursor = session.scalar(select(LinkRow.value).where(LinkRow.kind == CURSOR_LINK))
        self._cursor: str = cursor or ""
        self._moved = asyncio.Event()
        self._streamed_at: datetime | None = None
        self.wire = WireLog()
        self._reward_lock = asyncio.Lock()

    def start(self) -> None:
        watch = self._runner.watch
        watch.keep("channel: what comes in", self._listen, self._fell)
        watch.keep("channel: settling", self.settling.run)
        watch.keep("channel: rewards", self._sync)
        watch.keep("channel: cursor", self._keep_cursor)

    async def stop(self) -> None:
        await self._runner.watch.stop(
            "channel: what comes in", "channel: settling", "channel: rewards", "channel: cursor"
        )
        await self._http.aclose()

    def hear(self, timed: Sequence[Timed]) -> None:
        if any(isinstance(order, o.Set) and order.path.startswith("reward/") for _, order in timed):
            self._sync_now.set()

    def book_changed(self) -> None:
        self._sync_now.set()

    def _become(self, state: State, problem: str = "") -> None:
        if (state, problem) == (self.state, self.problem):
            return
        if state != self.state:
            self.since = self._runner.clock.now()
        self.state, self.problem = state, problem
        self.on_state()

    def _fell(self, problem: str) -> None:
        self._connected.clear()
        self._become("away", f"Something went wrong here: {problem}")

    def _settling_is(self, problem: str) -> None:
        """Settling goes well (no problem), or why it does not."""
        if self._connected.is_set():
            self._become("catching_up" if problem else "in_step", problem)

    # Coming in

    async def _listen(self) -> None:
        """Hears the channel for good: connects again by itself, each time from the event heard last."""
        address = self.address.replace("http", "ws", 1) + "/channel/events"
        attempt = 0
        while True:
            url = f"{address}?after={quote(self._cursor, safe='')}" if self._cursor else address
            line = websockets.connect(
                url, proxy=None, compression=None, max_size=1 << 20, open_timeout=5,
                process_exception=self._unheard, reconnect_delays=pauses,
            )  # fmt: skip
            async with aclosing(cast(AsyncGenerator[websockets.ClientConnection], aiter(line))) as sockets:
                socket = await anext(sockets)
                try:
                    self._become("catching_up")
                    await self._catch_up()
                    self._connected.set()
                    self.settling.stir()
                    self._become("in_step")
                    attempt = 0
                    async for text in socket:
                        self._hear(text)
                    raise ConnectionError("the channel closed the connection")
                except UNHEARD as error:
                    self._unheard(error)
            await asyncio.sleep(pause_s(attempt))
            attempt += 1

    def _unheard(self, error: Exception) -> Exception | None:
        """The channel is away. Returns the error where trying again does not help."""
        if not isinstance(error, UNHEARD):
            return error
        self._connected.clear()
        self._become("away", f"{self.address} does not answer ({error or type(error).__name__})")
        return None

    async def _catch_up(self) -> None:
        await self._make_rewards()
        view = self._runner.view
        try:
            stream = read(wire.Stream, (await self._get("/stream")) or {})
            state, category = stream.state or "ended", stream.category
            if (state == "live") != view.on_air or category != view.category:
                self._runner.put(h.Stream(state, category))
        except Unreadable as error:
            self._leave_out(error)
        for row in _rows(await self._get("/redemptions", state="unfulfilled")):
            try:
                redemption = read(wire.Redemption, row)
                if not self._runner.journal.knows(redemption.id):
                    self._redeemed(redemption)
            except Unreadable as error:
                self._leave_out(error)

    async def _get(self, path: str, **query: str) -> Any:
        answer = await self._http.get(path, params=query)
        answer.raise_for_status()
        return answer.json()

    def _hear(self, text: str | bytes) -> None:
        """One message. One that cannot be read is left out, and the connection goes on."""
        try:
            event, message = wire.read_event(text)
            self._event(event, message)
        except Unreadable as error:
            self._leave_out(error)
        except Exception as error:
            log.exception("A message of the channel stumbled.")
            self._leave_out(Unreadable(str(text[:1000]), f"something went wrong here: {error}"))

    def _leave_out(self, error: Unreadable) -> None:
        fresh = self.wire.leave_out(error.message, str(error))
        if (redemption := wire.redemption_in(error.message)) is not None:
            self._runner.leave_out("redemption", redemption, str(error))
        elif fresh:
            self._runner.leave_out("channel", None, f"a message of the channel cannot be read: {error}")
        self.on_state()

    def _event(self, event: wire.Event, message: Any) -> None:
        if event.what == "redemption":
            self._redeemed(read(wire.Redemption, event.data, message), event.key)
        elif event.what in ("reward", "reward-gone"):
            ids = self._channel_id.values()
            if isinstance(event.data, dict) and event.data.get("id") in ids:
                self._sync_now.set()
        elif event.what == "stream":
            self._streamed(read(wire.Stream, event.data, message), event)
        elif event.what in wire.CALLS:
            model, made = wire.CALLS[event.what]
            call = made(read(model, event.data, message))
            late_s = self._late_s(event)
            if late_s > self._runner.view.book.house.late_s:
                self._runner.ignore(call, "too_late", f"it is {late_s:.0f} s old", event.key)
            else:
                self._runner.put(call, event.key)
        elif event.what not in OWN_ECHOES:
            self.wire.pass_over(event.type)
        if event.id is not None and event.id != self._cursor:
            self._cursor = event.id
            self._moved.set()

    def _late_s(self, event: wire.Event) -> float:
        """How old an event is, by this machine's clock; 0 where it does not say."""
        return (datetime.now(UTC) - event.said_at).total_seconds() if event.said_at is not None else 0.0

    def _streamed(self, stream: wire.Stream, event: wire.Event) -> None:
        """The event's own time counts: one that is older than what was heard of the stream last changes nothing."""
        if event.said_at is not None:
            if self._streamed_at is not None and event.said_at < self._streamed_at:
                return
            self._streamed_at = event.said_at
        view = self._runner.view
        state = stream.state or ("live" if view.on_air else "ended")
        self._runner.put(h.Stream(state, stream.category), event.key)

    def _redeemed(self, data: wire.Redemption, event: str | None = None) -> None:
        reward = next((ours for ours, theirs in self._channel_id.items() if theirs == data.reward), data.reward)
        self._runner.put(h.Redemption(data.id, reward, data.viewer.fact(), data.text, data.cost), event)

    async def _keep_cursor(self) -> None:
        """Writes down now and then which event was heard last; those that come again are told apart by their ids."""
        while True:
            await self._moved.wait()
            self._moved.clear()
            row = {"kind": CURSOR_LINK, "thing": "channel", "value": self._cursor}
            query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
            await self._runner.keep_later("the last event heard", lambda c: c.execute(query))  # noqa: B023
            await asyncio.sleep(CURSOR_S)

    # Rewards

    async def _sync(self) -> None:
        attempt = 0
        while True:
            await self._sync_now.wait()
            await self._connected.wait()
            self._sync_now.clear()
            try:
                await self._make_rewards()
                attempt = 0
                if self.state == "catching_up":
                    self._become("in_step")
            except httpx.HTTPError as error:
                attempt += 1
                self._become("catching_up", f"the rewards are not in step ({error or type(error).__name__})")
                self._sync_now.set()
                await asyncio.sleep(pause_s(attempt))

    def _wanted(self, reward: Reward) -> dict[str, Any]:
        view = self._runner.view
        on, cost = view.showing(f"reward/{reward.id}/on"), view.showing(f"reward/{reward.id}/cost")
        return {
            "title": reward.title,
            "cost": cost if isinstance(cost, int) else reward.cost,
            "prompt": reward.prompt,
            "text": reward.text,
            "on": on if isinstance(on, bool) else reward.on,
        }

    async def _make_rewards(self) -> None:
        """Makes the channel's rewards be as the book and the engine want them; what is right is left alone."""
        async with self._reward_lock:
            there = {reward.id: reward for reward in self._rewards(await self._get("/rewards"))}
            by_title = {r.title.casefold(): r.id for r in there.values() if r.made_by == MADE_BY}
            rewards = self._runner.view.book.rewards
            for reward in rewards:
                wanted = self._wanted(reward)
                theirs = self._channel_id.get(reward.id)
                if theirs not in there:
                    theirs = by_title.get(reward.title.casefold())
                if theirs is None:
                    answer = await self._http.post("/rewards", json={**wanted, "made_by": MADE_BY})
                    if answer.status_code == 409:
                        self.problem = words(answer)
                        continue
                    answer.raise_for_status()
                    try:
                        theirs = read(wire.Reward, {**wanted, **_object(answer)}).id
                    except Unreadable as error:
                        self._leave_out(error)
                        continue
                elif any(getattr(there[theirs], key) != value for key, value in wanted.items()):
                    (await self._http.patch(f"/rewards/{theirs}", json=wanted)).raise_for_status()
                await self._link(reward.id, theirs)
            for gone in set(self._channel_id) - {reward.id for reward in rewards}:
                await self._http.delete(f"/rewards/{self._channel_id[gone]}")
                await self._link(gone, None)

    def _rewards(self, told: Any) -> list[wire.Reward]:
        """The channel's rewards, as far as they can be read."""
        rewards = []
        for row in _rows(told):
            try:
                rewards.append(read(wire.Reward, row))
            except Unreadable as error:
                self.wire.leave_out(error.message, str(error))
        return rewards

    async def _link(self, reward: str, theirs: str | None) -> None:
        """Remembers which of the channel's rewards is ours; what cannot be written is found by its title next time."""
        if self._channel_id.get(reward) == theirs:
            return
        mine = (LinkRow.kind == REWARD_LINK) & (LinkRow.thing == reward)
        if theirs is None:
            self._channel_id.pop(reward, None)
            await self._runner.keep_later(f"link {reward}", lambda c: c.execute(delete(LinkRow).where(mine)))
        else:
            self._channel_id[reward] = theirs
            row = {"kind": REWARD_LINK, "thing": reward, "value": theirs}
            query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
            await self._runner.keep_later(f"link {reward}", lambda c: c.execute(query))

    # Replies

    def remembers(self) -> bool:
        """The channel does a reply that comes again under its ``Idempotency-Key`` once."""
        return True

    async def strike(self, strike: o.Strike, strike_id: str) -> None:
        """Says a reply in chat. Raises AwayError, Unanswered or GearRefused."""
        try:
            answer = await self._http.post(
                "/replies", json={"text": str(strike.value)}, headers={"Idempotency-Key": strike_id}
            )
        except httpx.ConnectError as error:
            raise AwayError("the channel does not answer") from error
        except httpx.HTTPError as error:
            raise Unanswered("the channel does not answer") from error
        if answer.status_code == 429 or answer.status_code >= 500:
            raise AwayError(f"the channel answers {answer.status_code}")
        if not answer.is_success:
            raise GearRefused(f"the channel answers {answer.status_code}")


def _rows(told: Any) -> list[Any]:
    """The rows of a list; of anything else there are none."""
    return told if isinstance(told, list) else []


def _object(answer: httpx.Response) -> dict[str, Any]:
    try:
        told = answer.json()
    except ValueError:
        return {}
    return told if isinstance(told, dict) else {}


class NoChannel:
    """Stands where a channel would: says of every reply that there is no chat to say it in."""

    def remembers(self) -> bool:
        return True

    async def strike(self, strike: o.Strike, strike_id: str) -> None:
        raise GearRefused("there is no channel")
