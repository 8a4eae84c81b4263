"""``cuejar wire``: the stand-ins keep every rule of their pages, and a side that breaks one learns which, and by which
message.
"""

from __future__ import annotations

import asyncio
import json
import re
import secrets
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from fastapi import FastAPI
from typer.testing import CliRunner

from cuejar.cli import app
from cuejar.live.drivers import channel_wire, things_wire
from cuejar.live.drivers.said import read
from cuejar.standins import channel as standin
from cuejar.standins import channel_rewards
from cuejar.standins.halt import HOOK_SECRET, PASSWORD
from cuejar.wires import asked, table
from cuejar.wires.caller import Caller
from cuejar.wires.trial import Trial
from tests.live.standin import StandIn

WIRES = Path(__file__).parents[2] / "docs" / "reference" / "wires"
SECRET = {"broadcaster": PASSWORD, "hook": HOOK_SECRET}


def address(stand_in: StandIn, kind: str) -> str:
    if kind in ("avatar", "voice", "haptics"):
        return f"osc://127.0.0.1:{stand_in.port}"
    if kind == "hook":
        return f"http://127.0.0.1:{stand_in.port}/hook/receive"
    return f"http://127.0.0.1:{stand_in.port}" if kind == "channel" else f"ws://127.0.0.1:{stand_in.port}/{kind}"


def tried(kind: str, where: str, secret: str = "") -> Trial:
    trial = Trial(lambda row: None)
    asyncio.run(table.TRIALS[kind](trial, where, secret))
    return trial


@pytest.mark.parametrize("kind", table.TRIALS)
def test_the_stand_in_keeps_every_rule_of_its_page(stand_in: StandIn, kind: str) -> None:
    trial = tried(kind, address(stand_in, kind), SECRET.get(kind, ""))
    assert [row for row in trial.tried if row.outcome == "broken"] == [] and trial.holds
    page = (WIRES / f"{table.PAGES.get(kind, kind)}.md").read_text("utf-8") + (WIRES / "README.md").read_text("utf-8")
    assert [row.rule for row in trial.tried if row.rule not in page] == [], "each is a sentence of the docs"


@pytest.mark.parametrize("kind", ["channel", "things"])
def test_a_token_is_tried_where_one_is_given(kind: str) -> None:
    asks = StandIn(token="branch-line-token")
    try:
        rows = {row.rule: row.outcome for row in tried(kind, address(asks, kind), "branch-line-token").tried}
        assert set(rows.values()) == {"holds"}
        assert tried(kind, address(asks, kind), "another").tried[0].outcome == "broken"
    finally:
        asks.stop()


def _kept(was: Callable[..., Any], value: Any) -> Callable[..., Any]:
    return lambda *args, **more: {**was(*args, **more), **value}


BROKEN: dict[str, tuple[str, Callable[[Any], Callable[..., Any]], str, str]] = {
    "tells nobody": ("tell", lambda was: lambda *_: None, "to every connection that said hello", "was not sent within"),
    "does it again": ("do", lambda was: lambda *_: {"done": secrets.token_hex(4)}, "gets the first answer", "a different answer"),
    "sets nothing": ("set", lambda was: lambda t, s, value, by: {"value": value}, "the setting as it is now", "contradicts"),
    "signs nothing": (
        "set", lambda was: lambda t, s, value, by: was(t, s, value, "somebody"), "changes by hand are safe", "that it was us",
    ),
    "has no list": ("catalogue", lambda was: lambda: {"thing": []}, "makes its row unreadable", "no list of things"),
    "is at what cannot be": (
        "catalogue",
        lambda was: lambda: {"things": [{"id": "vane", "settings": [{"id": "angle", "type": "bool", "value": 5}]}]},
        "makes its row unreadable", "can’t have that value",
    ),
}  # fmt: skip


@pytest.mark.parametrize("how", BROKEN)
def test_a_broken_rule_is_named_with_its_message(stand_in: StandIn, monkeypatch: pytest.MonkeyPatch, how: str) -> None:
    method, broken, rule, why = BROKEN[how]
    yard = stand_in.app.state.yard
    monkeypatch.setattr(yard, method, broken(getattr(yard, method)))
    rows = [row for row in tried("things", address(stand_in, "things")).tried if row.outcome == "broken"]
    found = next((row for row in rows if rule in " ".join(row.rule.split())), None)
    assert found is not None and why in found.why, rows
    assert found.message or "sent within" in why


def test_a_channel_that_breaks_its_rules(stand_in: StandIn, monkeypatch: pytest.MonkeyPatch) -> None:
    channel = stand_in.app.state.channel
    monkeypatch.setattr(channel, "after", lambda event: list(channel.told.values()))
    rows = {row.rule: row for row in tried("channel", address(stand_in, "channel")).tried if row.outcome == "broken"}
    assert set(rows) == {"the events after that one"}


def test_the_command_line_says_what_holds(stand_in: StandIn, tmp_path: Path) -> None:
    run = CliRunner().invoke
    where = address(stand_in, "keys")
    said = run(app, ["wire", "keys", where])
    assert said.exit_code == 0 and "4 hold, 0 broken, 0 not tried. docs/reference/wires/keys.md" in said.output
    rows = [json.loads(line) for line in run(app, ["wire", "keys", where, "--json"]).output.splitlines()]
    assert {row["outcome"] for row in rows} == {"holds"}
    nobody = run(app, ["wire", "things", "ws://127.0.0.1:9/things"])
    assert nobody.exit_code == 1 and "nobody answers" in nobody.output
    assert run(app, ["wire", "kettle", "x"]).exit_code == 2 and run(app, ["wire", "keys"]).exit_code == 2


VOLATILE = {"boot", "memory", "challenge", "proof", "png"}


def _still(message: Any) -> Any:
    """Returns a message without its changing parts."""
    if isinstance(message, dict):
        return {key: _still(value) for key, value in message.items() if key not in VOLATILE}
    return [_still(one) for one in message] if isinstance(message, list) else message


@pytest.mark.parametrize("kind", ["things", "keys"])
def test_the_recorded_session_is_what_the_stand_in_says(stand_in: StandIn, kind: str) -> None:
    rows = [
        json.loads(line) for line in (WIRES / "sessions" / "trials" / f"{kind}.jsonl").read_text("utf-8").splitlines()
    ]
    numbers = sorted({row["connection"] for row in rows})
    wanted = {n: [r["message"] for r in rows if r["connection"] == n and r["from"] == "other"] for n in numbers}

    async def replay() -> list[Any]:
        callers: dict[int, Caller] = {}
        for row in rows:
            if row["from"] != "cue-jar":
                continue
            if row["connection"] not in callers:
                callers[row["connection"]] = Caller([])
                await callers[row["connection"]].open(address(stand_in, kind))
            caller = callers[row["connection"]]
            await caller.send(row["message"])
            number = row["message"].get("id") if isinstance(row["message"], dict) else None
            if number is not None:
                await caller.heard(number)
        for number, caller in callers.items():
            while len(caller.said) < len(wanted[number]):
                await caller.next()
            await caller.close()
        return [_still(m) for n in numbers for m in callers[n].said]

    assert asyncio.run(replay()) == [_still(message) for n in numbers for message in wanted[n]]


@pytest.mark.parametrize("name", sorted(table.schemas()))
def test_the_shipped_schemas_are_the_models(name: str) -> None:
    assert json.loads((WIRES / name).read_text("utf-8")) == table.schemas()[name]


def test_the_examples_of_the_pages_can_be_read() -> None:
    blocks = re.findall(r"```\n(.*?)```", (WIRES / "things.md").read_text("utf-8"), re.S)
    lines = [json.loads(one) for one in re.split(r"^[→←] ", blocks[0], flags=re.M) if one.strip()]
    results = {line["id"]: line["result"] for line in lines if "result" in line}
    assert read(things_wire.Hello, results[1]).boot == "5f0c"
    odd: list[str] = []
    told = things_wire.tables("yard", results[2], lambda message, why: odd.append(why))
    assert not odd and set(told.found) == {"things/yard/vane/angle"}
    assert read(things_wire.Changed, lines[6]["params"]).by == "hand"
    event, _ = channel_wire.read_event(re.findall(r"```\n(.*?)```", (WIRES / "channel.md").read_text("utf-8"), re.S)[0])
    assert event.what == "redemption" and read(channel_wire.Redemption, event.data).cost == 250
    page = (WIRES / "channel.md").read_text("utf-8")
    known = {
        *channel_wire.CALLS,
        "redemption",
        "stream",
        "present",
        "reward",
        "reward-gone",
        "rewards-sorted",
        "settled",
        "reply",
    }
    assert set(re.findall(r"`cuejar\.channel\.([a-z-]+)`", page)) == known


def test_what_a_channel_is_asked_is_what_the_stand_in_takes() -> None:
    for ours, theirs in (
        (asked.NewReward, channel_rewards.NewReward),
        (asked.AskedLimits, channel_rewards.Limits),
        (asked.RewardPictures, channel_rewards.Pictures),
        (asked.RewardOrder, channel_rewards.Order),
        (asked.Settlement, standin.Settlement),
        (asked.Reply, standin.Reply),
    ):
        assert set(ours.model_fields) == set(theirs.model_fields)
    assert set(asked.RewardChange.model_fields) == set(channel_rewards.RewardChange.model_fields)
    routes = {(method.upper(), path.replace("{id}", "")) for method, path, *_ in asked.ROUTES}
    bare = FastAPI()
    bare.include_router(standin.router(standin.Channel()))
    there = {
        (method.upper(), re.sub(r"{\w+}", "", path)) for path, row in bare.openapi()["paths"].items() for method in row
    }
    assert routes <= there
    page = (WIRES / "channel.md").read_text("utf-8")
    assert [p for m, p, *_ in asked.ROUTES if f"`{m.upper()} {p.replace('{id}', 'ID')}" not in page] == [], (
        "each stands on its page"
    )


@pytest.mark.parametrize("kind", list(asked.CALLS))
def test_every_call_of_a_wire_stands_on_its_page(kind: str) -> None:
    page = (WIRES / f"{kind}.md").read_text("utf-8")
    assert [method for method in (*asked.CALLS[kind], *asked.TELLS[kind]) if f"`{method}" not in page] == []
    made = asked.asyncapi(kind)
    assert set(made["operations"]) == {"hear", "ask"} and made["components"]["schemas"]
