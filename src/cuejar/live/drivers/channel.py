"""The channel: viewers' calls come in, rewards are kept as the book has them, redemptions are settled, replies are said.

On every connect it first reads what it missed (redemptions nobody settled; whether the stream is on), makes the rewards
of the book be at the channel, and sends every settlement that was not confirmed. Redemptions are told apart by their id, so
reading them twice does no harm.
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
from sqlalchemy.dialects.sqlite import insert
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core import happenings as h
from cuejar.core import orders as o
from cuejar.core.book import Reward
from cuejar.core.engine import Timed
from cuejar.live.drivers.base import AwayError, GearRefused, State, Unanswered, pause_s
from cuejar.live.settling import Settling
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
        self._sync_now = asyncio.Event()
        self._connected = asyncio.Event()
        self.settling = Settling(self._http, self._connected, show.recorder.confirmed, self._settling_is)
        with sessions() as session:
            rows = session.scalars(select(LinkRow).where(LinkRow.kind == REWARD_LINK))
            self._channel_id = {row.thing: row.value for row in rows}
        self._reward_lock = asyncio.Lock()

    def start(self) -> None:
        watch = self._show.watch
        watch.keep("channel: what comes in", self._listen, self._fell)
        watch.keep("channel: settling", self.settling.run)
        watch.keep("channel: rewards", self._sync)

    async def stop(self) -> None:
        await self._show.watch.stop("channel: what comes in", "channel: settling", "channel: rewards")
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
            self.since = self._show.clock.now()
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
                    self.settling.stir()
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
                await self._link(reward.id, theirs)
            for gone in set(self._channel_id) - {reward.id for reward in rewards}:
                await self._http.delete(f"/rewards/{self._channel_id[gone]}")
                await self._link(gone, None)

    async def _link(self, reward: str, theirs: str | None) -> None:
        """Remembers which of the channel's rewards is ours; what cannot be written is found by its title next time."""
        if self._channel_id.get(reward) == theirs:
            return
        mine = (LinkRow.kind == REWARD_LINK) & (LinkRow.thing == reward)
        if theirs is None:
            self._channel_id.pop(reward, None)
            await self._show.keep_later(f"link {reward}", lambda c: c.execute(delete(LinkRow).where(mine)))
        else:
            self._channel_id[reward] = theirs
            row = {"kind": REWARD_LINK, "thing": reward, "value": theirs}
            query = insert(LinkRow).values(row).on_conflict_do_update(index_elements=["kind", "thing"], set_=row)
            await self._show.keep_later(f"link {reward}", lambda c: c.execute(query))

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


class NoChannel:
    """Stands where a channel would: says of every reply that there is no chat to say it in."""

    def remembers(self) -> bool:
        return True

    async def strike(self, strike: o.Strike, strike_id: str) -> None:
        raise GearRefused("there is no channel")
