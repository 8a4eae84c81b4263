"""Requests to gear and channel are owed until confirmed, whoever dies: effects return, strikes are done once,
redemptions are settled.
"""

from __future__ import annotations

import asyncio
import itertools
import json
import random
import sqlite3
import threading
import time
from collections import Counter
from typing import Any

import httpx
import pytest
from sqlalchemy import create_engine
from websockets.sync.server import ServerConnection, serve

from cuejar.live.later import Later
from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.standins.halt import HOOK_SECRET
from cuejar.store.writer import CannotWrite, Writer
from tests.live.test_gear_crash import a_cue, connected, scene
from tests.running import Running, until

FOG = "broadcast/filter/Bench cam/Fog/amount"


def gear(running: Running, path: str) -> Any:
    return httpx.get(f"http://127.0.0.1:{running.port + 10}/{path}", trust_env=False).json()


def rows(running: Running, query: str) -> list[tuple[Any, ...]]:
    base = sqlite3.connect(running.data / "cue-jar.sqlite")
    try:
        return base.execute(query).fetchall()
    finally:
        base.close()


def in_step(running: Running) -> None:
    until(lambda: all(one["state"] == "in_step" for one in running.api.get("/api/gear").json()))


# Effects return


@pytest.mark.parametrize("whose", ["both", "gear"])
def test_what_was_held_never_becomes_rest(running: Running, whose: str) -> None:
    """Server and gear die during a hold and come back after its end; or the gear dies around the end of a fade."""
    connected(running)
    at_rest = gear(running, "broadcaster/state")["values"][FOG]
    fog = {"id": "f", "kind": "filter", "source": "Bench cam", "filter": "Fog", "setting": "amount", "value": 90.0,
           "length": {"s": 1.5}, "fade_out_s": 1.0}  # fmt: skip
    cue = a_cue(1.5)
    cue["beats"].append(fog)
    running.book(cues=[cue])
    for _ in range(2):
        running.api.post("/api/cues/yard/fire")
        until(lambda: scene(running) == "Yard cam")
        if whose == "gear":
            until(lambda: at_rest < gear(running, "broadcaster/state")["values"][FOG] < 85)
            running.kill_standins()
            assert until(lambda: running.api.get("/api/gear").json()[0]["state"] == "away")
            running.start_standins()
        else:
            running.kill_server()
            running.kill_standins()
            time.sleep(1.7)
            running.start_standins()
            running.start_server()
        in_step(running)
        until(lambda: scene(running) == "Workbench")
        until(lambda: gear(running, "broadcaster/state")["values"][FOG] == at_rest)
        rest = {p["path"]: p["rest"] for p in running.api.get("/api/gear").json()[0]["properties"]}
        assert (rest["broadcast/scene"], rest[FOG]) == ("Workbench", at_rest)


def test_a_latch_is_tapped_twice_however_often_everybody_dies(running: Running) -> None:
    running.book(gear=[{"id": "keys", "kind": "keys"}])
    in_step(running)
    beat = {"id": "k", "kind": "keys", "combo": "F8", "length": {"s": 0.6}}
    running.book(cues=[{"id": "curtain", "name": "Curtain", "entry": "overlap", "beats": [beat]}])
    luck = random.Random(4)
    for n in range(1, 8):
        in_step(running)
        running.api.post("/api/cues/curtain/fire")
        until(lambda n=n: gear(running, "keys/state")["serial"] >= 2 * n - 1, every=0.002)
        time.sleep(luck.choice([0, 0.002, 0.01]))
        running.kill_server()
        if n % 3 == 0:
            running.kill_standins()
            running.start_standins()
        running.start_server()
        until(lambda: gear(running, "keys/state")["values"]["keys/F8"] == "off")
        in_step(running)
        assert gear(running, "keys/state")["serial"] == 2 * n, "tapped on and off, and no more"
    assert not rows(running, "select * from latches where value != 'off' or asked != ''")


class OldKeys:
    """Keys on an older wire, without a memory: they do taps, and answer them unless told to be silent."""

    def __init__(self) -> None:
        self.taps, self.silent = 0, True
        self._server = serve(self._hear, "127.0.0.1", 0)
        self.address = f"ws://127.0.0.1:{self._server.socket.getsockname()[1]}"
        threading.Thread(target=self._server.serve_forever, daemon=True).start()

    def _hear(self, socket: ServerConnection) -> None:
        for text in socket:
            call = json.loads(text)
            if call["method"] != "tap":
                error = {"code": -32601, "message": "there is no such method"}
                socket.send(json.dumps({"jsonrpc": "2.0", "id": call["id"], "error": error}))
                continue
            self.taps += 1
            if not self.silent:
                socket.send(json.dumps({"jsonrpc": "2.0", "id": call["id"], "result": True}))

    def stop(self) -> None:
        self._server.shutdown()


def test_a_person_says_what_a_latch_in_doubt_shows(running: Running) -> None:
    keys = OldKeys()
    running.book(gear=[{"id": "keys", "kind": "keys", "name": "Keys", "address": keys.address}])
    in_step(running)
    beat = {"id": "k", "kind": "keys", "combo": "F8", "length": {"s": 0.2}}
    running.book(cues=[{"id": "curtain", "name": "Curtain", "beats": [beat]}])

    def problem() -> str:
        return str(running.api.get("/api/gear").json()[0]["problem"])

    for press, taps in ((True, 2), (False, 3)):
        running.api.post("/api/cues/curtain/fire")
        until(lambda: "F8 may be on; press once if so" in problem())
        keys.silent = False
        bad = running.api.post("/api/gear/keys/latch", json={"path": "broadcast/scene", "press": True})
        assert (bad.status_code, "has no latch" in bad.json()["what"]) == (409, True)
        said = running.api.post("/api/gear/keys/latch", json={"path": "keys/F8", "press": press})
        assert said.json()["what"] == ("F8 is off, pressed once." if press else "F8 is off.")
        assert keys.taps == taps
        in_step(running)
        keys.silent = True
    keys.stop()


# Strikes are done once


def test_strikes_under_kills_are_done_once_or_said(running: Running) -> None:
    box = {"id": "box", "kind": "hook", "address": f"http://127.0.0.1:{running.port + 10}/hook/receive"}
    running.book(
        house={"hook_places": [{"host": "127.0.0.1", "private": True}]},
        gear=[{"id": "keys", "kind": "keys"}, box],
    )
    running.api.put("/api/gear/box/secret", json={"secret": HOOK_SECRET}).raise_for_status()
    in_step(running)
    beats = [
        {"id": "r", "kind": "reply", "text": "heard {{text}}"},
        {"id": "h", "kind": "hook", "hook": "box", "payload": '{"n": "{{text}}"}'},
        {"id": "t", "kind": "tap", "combo": "F9"},
    ]
    calls = [{"kind": "chat", "match": "starts", "text": "!tea"}]
    running.book(cues=[{"id": "tea", "name": "Tea", "entry": "overlap", "calls": calls, "beats": beats}])
    luck, numbers = random.Random(9), itertools.count()
    for _ in range(6):
        for _ in range(4):
            told = {"viewer": "owlpost", "text": f"!tea {next(numbers)}"}
            running.channel.post("/chat", json=told).raise_for_status()
        time.sleep(luck.choice([0.001, 0.004, 0.01, 0.03]))
        running.kill_server()
        running.start_server()
        running.in_step()

    def steady() -> bool:
        """Waits until nothing is owed or coming in: messages missed meanwhile are read afterwards."""
        counts = []
        for _ in range(2):
            if running.api.get("/api/health").json()["owed"] != {"settlements": 0, "strikes": 0}:
                return False
            counts.append(
                rows(running, "select count(*), (select count(*) from strikes where state = 'owed') from ledger")
            )
            time.sleep(1)
        return counts[0] == counts[1] and counts[0][0][1] == 0

    until(steady)
    heard = rows(running, "select count(*) from ledger where cue = 'tea'")[0][0]
    states = Counter(rows(running, "select kind, state from strikes"))
    # Gear that is known to be disconnected when a beat is due isn't struck: the run's notes say so.
    away = rows(running, "select count(*) from notes where what = 'fail' and data like '%the gear is disconnected%'")[
        0
    ][0]
    assert sum(states.values()) + away == 3 * heard, "every strike of every run has become something"
    said = Counter(row["text"] for row in running.channel.get("/replies").json().values())
    assert set(said.values()) == {1}
    taps = gear(running, "keys/state")["serial"]
    assert len(gear(running, "keys/known")) == taps, "each once"
    for kind, count in (("reply", len(said)), ("hook", len(gear(running, "hook/done"))), ("tap", taps)):
        # On a stalled machine some exceed their limit: they are reported so, and still done at most once.
        unsure = states[kind, "failed"] + states[kind, "late"]  # The answer may have been lost.
        assert states[kind, "done"] <= count <= states[kind, "done"] + unsure, states
        assert states[kind, "done"] > 0


def test_what_is_too_late_is_said_and_not_done(running: Running) -> None:
    beats = [{"id": "r", "kind": "reply", "text": "mind the gap"}]
    calls = [{"kind": "chat", "match": "is", "text": "!gap"}]
    running.book(cues=[{"id": "gap", "name": "Gap", "entry": "overlap", "calls": calls, "beats": beats}])
    running.channel.post("/trouble", json={"times": 1000}).raise_for_status()
    running.channel.post("/chat", json={"viewer": "owlpost", "text": "!gap"}).raise_for_status()
    until(lambda: running.api.get("/api/health").json()["owed"]["strikes"] == 1)
    running.kill_server()
    running.channel.post("/trouble", json={}).raise_for_status()
    time.sleep(10.2)
    running.start_server()
    running.in_step()
    line = until(lambda: next((r for r in running.api.get("/api/ledger").json()["lines"] if len(r["notes"]) > 2), None))
    why = [str(note["why"]) for note in line["notes"] if note["what"] == "fail"]
    assert why == ["the reply did not reach the chat: Cue Jar came back too late for it"]
    assert running.channel.get("/replies").json() == {}


# Redemptions are settled


def _fired_reward(running: Running) -> None:
    beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 0.2}}]
    calls = [{"kind": "reward", "reward": "tea"}]
    running.book(
        rewards=[{"id": "tea", "title": "Tea", "cost": 10}],
        cues=[{"id": "tea", "name": "Tea", "entry": "overlap", "calls": calls, "beats": beats}],
    )
    until(lambda: len(running.channel.get("/rewards").json()) == 1)


@pytest.mark.parametrize(("status", "words"), [(503, "answers 503"), (429, "answers 429"), (401, "does not let us in")])
def test_a_settlement_is_sent_until_it_is_confirmed(running: Running, status: int, words: str) -> None:
    _fired_reward(running)
    trouble = {"status": status, "times": 3, "retry_after": "1" if status == 429 else ""}
    running.channel.post("/trouble", json=trouble).raise_for_status()
    redemption = running.redeem("owlpost", "Tea")
    until(lambda: running.api.get("/api/health").json()["owed"]["settlements"] == 1)
    until(lambda: any(words in row["problem"] for row in running.state()["gear"] if row["id"] == "given:channel"))
    until(lambda: running.state_of(redemption) == "fulfilled")
    until(lambda: running.api.get("/api/health").json()["owed"]["settlements"] == 0)
    running.in_step()


def test_what_the_channel_knows_otherwise_or_not_at_all_ends_there(running: Running) -> None:
    _fired_reward(running)
    running.channel.post("/trouble", json={"times": 2}).raise_for_status()
    by_hand = running.redeem("owlpost", "Tea")
    # Somebody else settled it meanwhile: it stays as it is there, with a note.
    running.channel.post("/trouble", json={}).raise_for_status()
    running.channel.patch(f"/redemptions/{by_hand}", json={"state": "refunded"})
    until(lambda: running.api.get("/api/health").json()["owed"]["settlements"] == 0)
    until(lambda: rows(running, "select 1 from settlements where confirmed = 1"))
    running.kill_server()
    base = sqlite3.connect(running.data / "cue-jar.sqlite")
    with base:
        base.execute("insert into settlements values ('rd-nobody', 'refunded', 0, 1, '')")
    base.close()
    running.start_server()
    running.in_step()
    problem = until(
        lambda: rows(running, "select problem from settlements where redemption = 'rd-nobody' and confirmed")
    )
    assert "knows no such redemption" in problem[0][0]


def test_what_the_first_look_decides_is_settled_at_once(running: Running) -> None:
    """A viewer waits while Cue Jar is down for longer than the maximum wait: they are refunded at the start, not at the
    next one.
    """
    beats = [{"id": "c", "kind": "caption", "text": "tea", "length": {"s": 30}}]
    calls = [{"kind": "reward", "reward": "tea"}]
    running.book(
        lanes=[{"id": "main", "name": "Main", "wait_s": 2}],
        rewards=[{"id": "tea", "title": "Tea", "cost": 10}],
        cues=[{"id": "tea", "name": "Tea", "calls": calls, "beats": beats}],
    )
    until(lambda: len(running.channel.get("/rewards").json()) == 1)
    first, second = running.redeem("owlpost", "Tea"), running.redeem("bramble_jo", "Tea")
    until(lambda: running.state_of(first) == "fulfilled")
    running.kill_server()
    time.sleep(2.2)
    running.start_server()
    until(lambda: running.state_of(second) == "refunded")


def test_small_things_are_written_in_their_order_and_what_waits_is_known() -> None:
    """Data waiting for a full disk must not overwrite newer data; and nothing is asked of a channel meanwhile."""
    written: list[str] = []
    full = True

    class Full(Writer):
        async def do(self, work: Any) -> Any:
            if full:
                raise CannotWrite("the disk is full")
            return work(None)

    async def show() -> None:
        nonlocal full
        troubles, watch = Troubles(), Watch()
        later = Later(Full(create_engine("sqlite://")), watch, troubles)
        keep = later.keep
        assert not await keep("rewards", lambda c: written.append("old"))
        full = False
        assert not await keep("rewards", lambda c: written.append("new")), "it waits its turn"
        assert await keep("a link", lambda c: written.append("another")), "of another sort"
        assert not later.is_kept("rewards")
        async with asyncio.timeout(5):
            while not later.is_kept("rewards"):
                await asyncio.sleep(0.02)
        assert written == ["another", "old", "new"] and not troubles.rows()
        await watch.stop()

    asyncio.run(show())
