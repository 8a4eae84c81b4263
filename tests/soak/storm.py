"""The storm: viewers, changes by hand and bad luck, drawn from a seed; and the audit from the other side."""

from __future__ import annotations

import heapq
import itertools
import json
import random
import time
from collections import Counter
from collections.abc import Callable
from typing import Any

from tests.fuzz import strange
from tests.soak.world import World, until

VIEWERS = ["bramble_jo", "owlpost", "nine_gauge", "kettlewright", "saltmarsh_sue", "puddlejump"]
FOG, TINT = "broadcast/filter/Bench cam/Fog/amount", "broadcast/filter/Bench cam/Tint/colour"
SNOW = "broadcast/source/Yard cam/Snow/visible"
HANDS: dict[str, list[Any]] = {
    "broadcast/scene": ["Workbench", "Tea table"],
    FOG: [0.0, 12.0],
    TINT: ["#ffffff", "#ff8800"],
    SNOW: [True, False],
}
"""The values set by hand. Cues set other values, so that an effect that became rest is noticed."""


COSTS = {"cool": 1, "victim": 500}
OPEN = ("yard", "victim", "lamps")
"""Rewards that stay open while the gear of their cues is disconnected, and are refunded."""
BRANCH = "branch"
"""A second channel, at the gear's stand-ins."""


def _s(seconds: float) -> dict[str, float]:
    return {"s": seconds}


def _reward(cue: str) -> list[dict[str, Any]]:
    return [{"kind": "reward", "reward": cue}]


def book() -> dict[str, list[dict[str, Any]]]:
    """Returns cues of every kind that holds or strikes."""
    filter_ = {"kind": "filter", "source": "Bench cam"}
    rewards = {
        "yard": [{"id": "a", "kind": "scene", "scene": "Yard cam", "length": _s(1.5)}],
        "night": [{"id": "a", "kind": "scene", "scene": "Night mail", "length": _s(2.5)},
                  {"id": "b", "kind": "caption", "text": "Night mail, {{viewer}}", "length": _s(2)}],
        "fog": [{"id": "a", **filter_, "filter": "Fog", "setting": "amount", "value": 80.0, "length": _s(1.2),
                 "fade_in_s": 0.4, "fade_out_s": 1.0}],
        "tint": [{"id": "a", **filter_, "filter": "Tint", "setting": "colour", "value": "#3366aa", "length": _s(1)}],
        "lamps": [{"id": "a", "kind": "light", "colour": "#ff0000", "length": _s(1.2)}],
        "hat": [{"id": "a", "kind": "avatar", "outfit": "Top hat", "expressions": ["Cheer"], "length": _s(1.4)}],
        "tannoy": [{"id": "a", "kind": "voice", "preset": "Tannoy", "length": _s(1)}],
        "mute": [{"id": "a", "kind": "keys", "combo": "ControlLeft+ShiftLeft+KeyM", "length": _s(0.9)}],
        "curtain": [{"id": "a", "kind": "keys", "combo": "F8", "length": _s(1.6)}],
        "water": [{"id": "a", "kind": "set", "gear": "sheds", "thing": "tower", "setting": "flow", "value": 85, "length": _s(1.3),
                   "fade_in_s": 0.3, "fade_out_s": 0.6},
                  {"id": "b", "kind": "set", "gear": "sheds", "thing": "tower", "setting": "valve", "value": True, "length": _s(1.1)}],
        "priced": [{"id": "a", "kind": "reward", "rewards": ["tint"], "cost": 5, "length": _s(2)}],
        "closes": [{"id": "a", "kind": "reward", "rewards": ["victim"], "on": False, "length": _s(1.7)}],
        "cheapens": [{"id": "a", "kind": "reward", "rewards": ["cool"], "cost": 7, "length": _s(2)},
                     {"id": "b", "kind": "reward", "sets": ["pair"], "on": False, "start": {"at_s": 0.6}, "length": _s(0.8)}],
        "victim": [{"id": "a", "kind": "scene", "scene": "Yard cam", "length": _s(0.7)}],
        "cool": [{"id": "a", "kind": "light", "colour": "#00ff00", "length": _s(0.8)}],
    }  # fmt: skip
    chats = {
        "say": [{"id": "r", "kind": "reply", "text": "heard {{text}}"}],
        "log": [{"id": "h", "kind": "hook", "hook": "box", "payload": '{"n": "{{text}}"}'}],
        "press": [{"id": "t", "kind": "tap", "combo": "F9"}],
        "spin": [{"id": "d", "kind": "do", "gear": "sheds", "thing": "vane", "deed": "spin", "values": {"turns": 1}}],
    }
    cues = [{"id": c, "name": c, "calls": _reward(c), "lane": "yard", "beats": beats} for c, beats in rewards.items()]
    for cue in cues:
        if cue["id"] in ("mute", "fog", "closes", "cheapens"):
            cue["entry"] = "overlap"
        if cue["id"] == "cool":  # Limits that the channel keeps too.
            cue["door"] = {"cooldown_s": 1, "cap_window": {"count": 5, "per_s": 4}}
    cues += [
        {"id": c, "name": c, "entry": "overlap", "calls": [{"kind": "chat", "match": "starts", "text": f"!{c}"}],
         "beats": beats}
        for c, beats in chats.items()
    ]  # fmt: skip
    return {
        "house": [{"hook_places": [{"host": "127.0.0.1", "private": True}], "cooldown_s": 0, "viewer_cooldown_s": 0}],
        "lanes": [{"id": "yard", "name": "Yard", "width": 3, "gap_s": 0, "line": 12, "wait_s": 6}],
        "gear": [
            {"id": "broadcast", "kind": "broadcaster"},
            {"id": "lamps", "kind": "lights", "fixtures": [{"id": "signal", "address": 1}]},
            {"id": "avatar", "kind": "avatar"},
            {"id": "voice", "kind": "voice"},
            {"id": "keys", "kind": "keys"},
            {"id": "sheds", "kind": "things"},
            {"id": BRANCH, "kind": "channel"},
            {"id": "box", "kind": "hook"},
        ],
        "rewards": [
            {"id": c, "title": c, "cost": COSTS.get(c, 10), **({"closed": "refund"} if c in OPEN else {})}
            for c in rewards
        ],
        "sets": [{"id": "pair", "name": "Pair", "rewards": ["victim", "cool"]}],
        "cues": cues,
    }


def _cue(cue_id: str) -> dict[str, Any]:
    found: dict[str, Any] = next(cue for cue in book()["cues"] if cue["id"] == cue_id)
    return found


def as_put(world: World) -> dict[str, Any]:
    """Returns the book without the storm's own edits."""
    there: dict[str, Any] = world.http["server"].get("/api/book").json()["book"]
    return {**there, "cues": [cue for cue in there["cues"] if cue["id"] != "night"]}


class Storm:
    """One night of bad luck."""

    def __init__(self, world: World, seed: int) -> None:
        self.world, self.luck = world, random.Random(seed)
        self.numbers = itertools.count(1)
        self.did: Counter[str] = Counter()
        self.wrong: set[str] = set()
        """Errors noticed on the way."""
        self.later: list[tuple[float, int, Callable[[], None]]] = []
        self._serial = itertools.count()
        self.what: list[tuple[float, str, Callable[[], None]]] = [
            (40, "redeem", self._redeem),
            (14, "chat", self._chat),
            (9, "hand", self._hand),
            (2, "pad", self._pad),
            (4, "look", self._look),
            (1.5, "edit", self._edit),
            (1.5, "a switch", self._switch),
            (1.5, "a stranger", self._stranger),
            (1.6, "kill the server", lambda: self._kill("server", 0, 2)),
            (0.9, "kill the gear", lambda: self._kill("gear", 0, 2)),
            (0.7, "kill the channel", lambda: self._kill("channel", 0, 2)),
            (0.5, "kill server and gear", self._kill_both),
            (0.5, "freeze the server", lambda: self._freeze("server")),
            (0.6, "freeze the gear", lambda: self._freeze("gear")),
            (0.5, "freeze the channel", lambda: self._freeze("channel")),
            (1.2, "cut", self._cut),
            (0.8, "a bad day at the channel", self._bad_day),
            (0.6, "fill the disk", self._fill),
            (0.6, "lock the database", self._lock),
        ]

    # Events

    def _redeem(self) -> None:
        reward = self.luck.choice([cue["id"] for cue in book()["rewards"]])
        body = {"viewer": self.luck.choice(VIEWERS), "reward": reward}
        where = self.luck.choice(["channel", "channel", "gear"])
        for _ in range(self.luck.choice([1, 1, 1, 2, 5])):
            self.world.ask(where, "POST", "/channel/redemptions", json=body)

    def _chat(self) -> None:
        text = f"!{self.luck.choice(['say', 'log', 'press', 'spin'])} n{next(self.numbers)}"
        self.world.ask("channel", "POST", "/channel/chat", json={"viewer": self.luck.choice(VIEWERS), "text": text})

    def _hand(self) -> None:
        if self.luck.random() < 0.2:
            hand = {"thing": "tower", "setting": "flow", "value": self.luck.choice([30, 40])}
            self.world.ask("gear", "POST", "/things/hand", json=hand)
            return
        path = self.luck.choice(list(HANDS))
        self.world.ask("gear", "POST", "/broadcaster/hand", json={"path": path, "value": self.luck.choice(HANDS[path])})

    def _pad(self) -> None:
        self.world.ask("server", "POST", f"/api/cues/{self.luck.choice(['yard', 'hat', 'mute'])}/fire", json={})

    def _look(self) -> None:
        """Checks whether an effect has become rest, at any moment."""
        answer = self.world.ask("server", "GET", "/api/gear")
        for gear in answer.json() if answer is not None and answer.is_success else ():
            for p in gear["properties"]:
                if p["path"] in HANDS and p["rest"] is not None and p["rest"] not in HANDS[p["path"]]:
                    self.wrong.add(f"{p['path']} rests at {p['rest']}")

    def _edit(self) -> None:
        cue = _cue("night")
        cue["beats"][0]["length"] = _s(self.luck.choice([1.0, 2.0, 2.5]))
        self.world.ask("server", "PUT", "/api/book/cues/night", json={"value": cue})

    def _switch(self) -> None:
        """Switches a cue, or a set, off for a moment: its rewards are paused, or off."""
        what, one, entry = self.luck.choice(
            [("cues", "tint", {**_cue("tint"), "on": False}), ("sets", "pair", {**book()["sets"][0], "on": False})]
        )
        self.world.ask("server", "PUT", f"/api/book/{what}/{one}", json={"value": entry})
        self._after(0.3, 2, self._switch_back)

    def _switch_back(self) -> None:
        for what, one, entry in (("cues", "tint", _cue("tint")), ("sets", "pair", book()["sets"][0])):
            self.world.ask("server", "PUT", f"/api/book/{what}/{one}", json={"value": entry})

    def _stranger(self) -> None:
        """Uses a hostile template in a cue, or reviews a hostile file."""
        if self.luck.random() < 0.5:
            cue = _cue("night")
            cue["beats"][1]["text"] = strange.template(self.luck)
            self.world.ask("server", "PUT", "/api/book/cues/night", json={"value": cue})
            return
        content = strange.bundle(self.luck) if self.luck.random() < 0.7 else strange.broken("{}", self.luck).encode()
        self.world.ask("server", "POST", "/api/carry/in", files={"file": ("far.zip", content)})

    # Faults

    def _after(self, low: float, high: float, do: Callable[[], None]) -> None:
        at = time.monotonic() + self.luck.uniform(low, high)
        heapq.heappush(self.later, (at, next(self._serial), do))

    def _kill(self, name: str, low: float, high: float) -> None:
        self.world.kill(name)
        self._after(low, high, lambda: self.world.start(name))

    def _kill_both(self) -> None:
        first, second = self.luck.sample(["server", "gear"], 2)
        self._kill(first, 0.5, 3)
        time.sleep(self.luck.uniform(0, 0.3))
        self._kill(second, 0.5, 3)

    def _freeze(self, name: str) -> None:
        self.world.freeze(name)
        self._after(0.5, 4, lambda: self.world.thaw(name))

    def _cut(self) -> None:
        self.world.ask("gear", "POST", f"/{self.luck.choice(['broadcaster', 'keys', 'things'])}/cut")

    def _bad_day(self) -> None:
        body = {"status": self.luck.choice([429, 500, 503, 401]), "times": self.luck.randint(1, 20),
                "slow_s": self.luck.choice([0, 0, 0.5]), "retry_after": self.luck.choice(["", "1"])}  # fmt: skip
        self.world.ask("channel", "POST", "/channel/trouble", json=body)
        self._after(1, 4, lambda: self._good_day() and None)

    def _good_day(self) -> Any:
        return self.world.ask("channel", "POST", "/channel/trouble", json={})

    def _fill(self) -> None:
        self.world.fill()
        self._after(1, 4, self.world.empty)

    def _lock(self) -> None:
        self.world.lock()
        self._after(1, 5, self.world.unlock)

    def _due(self) -> None:
        while self.later and self.later[0][0] <= time.monotonic():
            heapq.heappop(self.later)[2]()

    def rage(self, for_s: float) -> None:
        """Does everything at once, for a while. In the last third there are no changes by hand: they would repair what
        they touch.
        """
        begun = time.monotonic()
        weights = [weight for weight, _, _ in self.what]
        while (passed := time.monotonic() - begun) < for_s:
            self._due()
            _, name, do = self.luck.choices(self.what, weights)[0]
            if name != "hand" or passed < for_s * 2 / 3:
                do()
            self.did[name] += 1
            time.sleep(self.luck.choice([0, 0.01, 0.03, 0.08]))

    def calm(self) -> None:
        """Ends all faults, and gives everything time to recover."""
        world = self.world
        world.unlock()
        world.empty()
        self.later.clear()
        for name in world.ports:
            world.thaw(name)
        for name in ("channel", "gear", "server"):
            until(lambda n=name: world.answers(n) or ((world.is_up(n) or world.start(n)) and None), lambda n=name: n)
        until(lambda: self.world.http["channel"].post("/channel/trouble", json={}), lambda: "the channel")
        until(lambda: self._switch_back() or self._is_on(), lambda: "the switches")
        until(self._quiet, self._how)

    def _is_on(self) -> bool:
        there = as_put(self.world)
        return all(named.get("on", True) for named in [*there["sets"], *there["cues"]])

    def _quiet(self) -> bool:
        """Returns whether nothing runs, waits or is owed, twice in a row."""
        for _ in range(2):
            if self._how():
                return False
            time.sleep(0.4)
        return True

    def _how(self) -> dict[str, Any]:
        """Returns what isn't at rest yet."""
        server = self.world.http["server"]
        health = server.get("/api/health").json()
        found: dict[str, Any] = {}
        if not health["ok"] or health["channel"] != "in_step" or any(health["owed"].values()):
            found["health"] = {k: health[k] for k in ("troubles", "channel", "owed")} | {
                "tasks": [t for t in health["tasks"] if t["state"] != "running"]
            }
        away = {g["id"]: (g["state"], g["problem"]) for g in server.get("/api/gear").json() if g["state"] != "in_step"}
        if away:
            found["gear"] = away
        if held := server.get("/api/holds").json():
            found["held"] = held
        for where in ("channel", "gear"):
            waiting = self.world.http[where].get("/channel/redemptions?state=unfulfilled").json()
            if waiting:
                found[f"unfulfilled at {where}"] = [row["id"] for row in waiting][:5]
        return found


def audit(world: World, put: dict[str, Any]) -> list[str]:
    """Returns what is wrong, seen from the channel and the gear; empty if all is as it should be.

    Args:
        put: the book as the streamer put it: nobody changed a channel by hand, so nothing in it may differ.
    """
    wrong: list[str] = []
    channel, gear, server = world.http["channel"], world.http["gear"], world.http["server"]

    def expect(right: Any, what: str) -> None:
        if not right:
            wrong.append(what)

    both = {"": channel, f"{BRANCH}:": gear}
    redemptions = {f"{of}{row['id']}": row for of, at in both.items() for row in at.get("/channel/redemptions").json()}
    outcomes = dict(world.rows("select redemption, outcome from settlements"))
    lines = dict(world.rows("select call, outcome from ledger where kind = 'redemption' and verdict != 'ignored'"))
    for one, row in redemptions.items():
        expect(row["state"] in ("fulfilled", "refunded"), f"{one} is {row['state']} at the channel")
        expect(outcomes.get(one) == row["state"], f"{one} is {row['state']}, here {outcomes.get(one)!r}")
        expect(lines.get(one) == row["state"], f"{one} is {row['state']}, in the ledger {lines.get(one)!r}")
    for of, at in both.items():
        spent: Counter[str] = Counter()
        for one, row in redemptions.items():
            if one.startswith(f"{BRANCH}:") == bool(of) and row["state"] == "fulfilled":
                spent[row["viewer"]["name"]] += row["cost"]
        for viewer in at.get("/channel/viewers").json():
            there = viewer["points"] + spent[viewer["name"]]
            expect(
                there == 20_000, f"{of}{viewer['name']} has {viewer['points']} points and spent {spent[viewer['name']]}"
            )
    expect(not (said := channel.get("/channel/contradicted").json()), f"settled twice, otherwise: {said}")
    for name, entries in as_put(world).items():
        for was, now in zip(put[name], entries, strict=True) if isinstance(entries, list) else [(put[name], entries)]:
            expect(was == now, f"the book's {name}: {now}, was {was}")
    for of, at in both.items():
        there = {row["title"]: row for row in at.get("/channel/rewards").json()}
        for reward in put["rewards"]:
            row = there.get(reward["title"], {})
            shows = {"cost": row.get("cost"), "on": row.get("on"), "paused": row.get("paused")}
            wanted = {"cost": reward["cost"], "on": True, "paused": False}
            expect(shows == wanted, f"{of}{reward['title']} is left at {shows}")
    nothing = world.rows(
        "select l.call, l.cue, count(distinct n.beat) from ledger l join notes n on n.run = l.run and n.what = 'fail' "
        "where l.outcome = 'fulfilled' and l.verdict = 'let_in' group by l.call, l.cue, l.run"
    )
    beats = {cue["id"]: len(cue["beats"]) for cue in put["cues"]}
    for call, cue, failed in nothing:
        expect(failed < beats.get(cue, 2), f"{call} is fulfilled, and nothing of {cue} was done")
    owed = world.rows("select redemption from settlements where outcome != '' and confirmed = 0")
    expect(not owed, f"not confirmed: {owed[:3]}")

    shows = gear.get("/broadcaster/state").json()["values"]
    for path, values in HANDS.items():
        expect(shows[path] in values, f"{path} is left at {shows[path]}")
    for one in server.get("/api/gear").json():
        for p in one["properties"]:
            expect(
                p["actual"] == p["rest"] and not p["held"], f"{p['path']} shows {p['actual']}, its rest is {p['rest']}"
            )
    for path, value in (("avatar/outfit", "Porter"), ("avatar/expression/Cheer", "off")):
        there = gear.get("/avatar/state").json()["values"][path]
        expect(there == value, f"{path} is left at {there}")
    tower = gear.get("/things/state").json()["values"]
    expect(tower["tower/valve"] is False and tower["tower/flow"] in (30, 40), f"the tower is left at {tower}")
    keys = gear.get("/keys/state").json()
    expect(not [row for row in keys["toggles"] if row["on"]], f"latches left on: {keys['toggles']}")

    strikes = world.rows("select id, kind, state, problem from strikes")
    expect(not [row for row in strikes if row[2] == "owed"], "strikes are still owed")
    known = set(gear.get("/keys/known").json())
    hooks = {row[0] for row in strikes if row[1] == "hook" and row[2] == "done"}
    lost = hooks - set(gear.get("/hook/done").json())
    expect(not lost, f"hooks said to be sent that were not: {len(lost)}")
    replies = {row[0] for row in strikes if row[1] == "reply" and row[2] == "done"}
    lost = replies - set(channel.get("/channel/replies").json())
    expect(not lost, f"replies said to be said that were not: {len(lost)}")
    taps = {row[0] for row in strikes if row[1] == "tap" and row[2] == "done"}
    expect(len(known) >= 1000 or taps <= known, f"taps said to be done that were not: {len(taps - known)}")
    said_texts = Counter(row["text"] for row in channel.get("/channel/replies").json().values())
    expect(max(said_texts.values(), default=0) <= 1, f"said twice: {said_texts.most_common(2)}")
    sent = Counter(json.dumps(row["body"]) for row in gear.get("/hook/state").json()["received"] if row["status"] < 300)
    expect(max(sent.values(), default=0) <= 1, f"sent twice: {sent.most_common(2)}")
    unsaid = world.rows(
        "select count(*) from strikes s where s.state in ('failed', 'late') "
        "and not exists (select 1 from notes n where n.run = s.run and n.what = 'fail')"
    )[0][0]
    expect(unsaid == 0, f"{unsaid} strikes failed and no line says so")
    return wrong
