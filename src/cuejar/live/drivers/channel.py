"""The channel: viewers' calls come in, rewards are kept as the book has them, redemptions are settled.

On every connect it first reads what it missed (redemptions nobody settled; whether the stream is on), makes the rewards
of the book be at the channel, and sends every settlement that was not confirmed. A settlement is sent until the channel
confirms it. Redemptions are told apart by their id, so reading them twice does no harm.
"""

from __future__ import annotations

import asyncio
import json
import logging
from collections.abc import Callable, Sequence
from typing import Any

import httpx
import websockets
from sqlalchemy import delete, select
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.book import Reward
from cuejar.core.engine import Timed
from cuejar.live.drivers.base import State, pause_s
from cuejar.live.show import Show
from cuejar.store.models import LinkRow

log = logging.getLogger(__name__)
MADE_BY = "cue-jar"
REWARD_LINK = "reward"


class ChannelDriver:
    """Keeps the connection to the channel and both sides in step."""

    def __init__(self, address: str, show: Show, sessions: sessionmaker[Session]) -> None:
        self.address, self._show, self._sessions = address.rstrip("/"), show, sessions
        self.state: State = "away"
        self.since = show.clock.now()
        self.problem = ""
        self.on_state: Callable[[], None] = lambda: None
        self._http = httpx.AsyncClient(base_url=f"{self.address}/channel", timeout=5, trust_env=False)
        self._tasks: list[asyncio.Task[None]] = []
        self._to_settle: dict[str, str] = {}
        self._settle_now = asyncio.Event()
        self._sync_now = asyncio.Event()
        self._connected = asyncio.Event()
        with sessions() as session:
            rows = session.scalars(select(LinkRow).where(LinkRow.kind == REWARD_LINK))
            self._channel_id = {row.thing: row.value for row in rows}
        self._reward_lock = asyncio.Lock()

    def start(self) -> None:
        self._to_settle = dict(self._show.journal.unconfirmed())
        for work in (self._listen, self._settle, self._sync):
            self._tasks.append(asyncio.create_task(work(), name=f"channel {work.__name__}"))

    async def stop(self) -> None:
        for task in self._tasks:
            task.cancel()
        await asyncio.gather(*self._tasks, return_exceptions=True)
        await self._http.aclose()

    def hear(self, timed: Sequence[Timed]) -> None:
        for _, order in timed:
            if isinstance(order, o.Settle):
                self._to_settle[order.redemption] = order.as_
                self._settle_now.set()
            elif isinstance(order, o.Set) and order.path.startswith("reward/"):
                self._sync_now.set()
            elif isinstance(order, o.Strike) and order.kind == "reply":
                reply = asyncio.create_task(self._reply(order))
                self._tasks = [*(t for t in self._tasks if not t.done()), reply]

    def book_changed(self) -> None:
        self._sync_now.set()

    def _become(self, state: State, problem: str = "") -> None:
        if state != self.state:
            self.since = self._show.clock.now()
        self.state, self.problem = state, problem
        self.on_state()

    # Coming in

    async def _listen(self) -> None:
        attempt = 0
        url = self.address.replace("http", "ws", 1) + "/channel/events"
        while True:
            try:
                async with websockets.connect(
                    url, proxy=None, compression=None, max_size=1 << 20, open_timeout=5
                ) as socket:
                    self._become("catching_up")
                    await self._catch_up()
                    self._connected.set()
                    self._settle_now.set()
                    self._become("in_step")
                    attempt = 0
                    async for text in socket:
                        self._event(json.loads(text))
                raise ConnectionError("the channel closed the connection")
            except (OSError, websockets.WebSocketException, httpx.HTTPError, ValueError) as error:
                self._connected.clear()
                self._become("away", f"{self.address} does not answer ({error or type(error).__name__})")
                await asyncio.sleep(pause_s(attempt))
                attempt += 1

    async def _catch_up(self) -> None:
        await self._make_rewards()
        stream = (await self._get("/stream")) or {}
        state, category = stream.get("state", "ended"), stream.get("category")
        engine = self._show.engine
        if (state == "live") != engine.on_air or category != engine.category:
            self._show.put(h.Stream(state, category))
        for redemption in await self._get("/redemptions", state="unfulfilled"):
            if not self._show.journal.knows(redemption["id"]):
                self._redemption(redemption)

    async def _get(self, path: str, **query: str) -> Any:
        answer = await self._http.get(path, params=query)
        answer.raise_for_status()
        return answer.json()

    def _event(self, event: dict[str, Any]) -> None:
        what, data = event.get("type", "").rsplit(".", 1)[-1], event.get("data") or {}
        if what == "redemption":
            self._redemption(data)
        elif what in ("reward", "reward-gone"):
            if data.get("id") in self._channel_id.values():
                self._sync_now.set()
        elif what == "stream":
            self._show.put(h.Stream(data["state"], data.get("category")))
        elif what in ("chat", "tip", "follow", "membership", "raid"):
            fields = {**data, "kind": what}
            self._show.put(h.happening_from(fields))

    def _redemption(self, data: dict[str, Any]) -> None:
        reward = next((ours for ours, theirs in self._channel_id.items() if theirs == data["reward"]), data["reward"])
        viewer = data["viewer"]
        who = h.Viewer(viewer["id"], viewer["name"], tuple(viewer["roles"]), viewer.get("tier", 1))
        self._show.put(h.Redemption(data["id"], reward, who, data.get("text", ""), data.get("cost")))

    # Settling

    async def _settle(self) -> None:
        attempt = 0
        while True:
            await self._settle_now.wait()
            await self._connected.wait()
            self._settle_now.clear()
            for redemption, outcome in list(self._to_settle.items()):
                try:
                    answer = await self._http.patch(f"/redemptions/{redemption}", json={"state": outcome})
                except httpx.HTTPError:
                    attempt += 1
                    self._settle_now.set()
                    await asyncio.sleep(pause_s(attempt))
                    break
                if answer.status_code >= 500:
                    attempt += 1
                    self._settle_now.set()
                    await asyncio.sleep(pause_s(attempt))
                    break
                attempt = 0
                problem = "" if answer.is_success else str(answer.json().get("what", answer.status_code))
                self._show.journal.confirm(redemption, problem)
                self._to_settle.pop(redemption, None)
                self._show.on_ledger([redemption])

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
        holds = self._show.engine.holds
        on, cost = holds.showing(f"reward/{reward.id}/on"), holds.showing(f"reward/{reward.id}/cost")
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
            there = {reward["id"]: reward for reward in await self._get("/rewards")}
            by_title = {r["title"].casefold(): r["id"] for r in there.values() if r.get("made_by") == MADE_BY}
            rewards = self._show.engine.book.rewards
            for reward in rewards:
                wanted = self._wanted(reward)
                theirs = self._channel_id.get(reward.id)
                if theirs not in there:
                    theirs = by_title.get(reward.title.casefold())
                if theirs is None:
                    answer = await self._http.post("/rewards", json={**wanted, "made_by": MADE_BY})
                    if answer.status_code == 409:
                        self.problem = str(answer.json().get("what", ""))
                        continue
                    answer.raise_for_status()
                    theirs = answer.json()["id"]
                elif any(there[theirs].get(key) != value for key, value in wanted.items()):
                    (await self._http.patch(f"/rewards/{theirs}", json=wanted)).raise_for_status()
                self._link(reward.id, theirs)
            for gone in set(self._channel_id) - {reward.id for reward in rewards}:
                await self._http.delete(f"/rewards/{self._channel_id[gone]}")
                self._link(gone, None)

    def _link(self, reward: str, theirs: str | None) -> None:
        if self._channel_id.get(reward) == theirs:
            return
        with self._sessions.begin() as session:
            if theirs is None:
                self._channel_id.pop(reward, None)
                mine = (LinkRow.kind == REWARD_LINK) & (LinkRow.thing == reward)
                session.execute(delete(LinkRow).where(mine))
            else:
                self._channel_id[reward] = theirs
                session.merge(LinkRow(kind=REWARD_LINK, thing=reward, value=theirs))

    async def _reply(self, strike: o.Strike) -> None:
        """Said once; what did not reach the chat is in the ledger."""
        try:
            (await self._http.post("/replies", json={"text": str(strike.value)})).raise_for_status()
        except httpx.HTTPStatusError as error:
            await self._failed(strike, f"answers {error.response.status_code}")
        except httpx.HTTPError:
            await self._failed(strike, "does not answer")

    async def _failed(self, strike: o.Strike, why: str) -> None:
        await self._show.post(
            h.StrikeFailed(strike.run, strike.beat, f"the reply did not reach the chat: the channel {why}")
        )


class NoChannel:
    """Stands where a channel would: says of every reply that there is no chat to say it in."""

    def __init__(self, show: Show) -> None:
        self._show = show
        self._tasks: set[asyncio.Task[Any]] = set()

    def hear(self, timed: Sequence[Timed]) -> None:
        for _, order in timed:
            if isinstance(order, o.Strike) and order.kind == "reply":
                failed = h.StrikeFailed(order.run, order.beat, "the reply did not reach the chat: there is no channel")
                task = asyncio.create_task(self._show.post(failed))
                self._tasks.add(task)
                task.add_done_callback(self._tasks.discard)
