"""What calls a cue, in words."""

from __future__ import annotations

from collections.abc import Callable

from cuejar.core.parts.base import JsonObject
from cuejar.core.words.names import Names
from cuejar.core.words.values import between, joined

MATCH = {"is": "is", "starts": "starts with", "has_word": "has the word", "contains": "contains"}


def call_said(call: JsonObject, names: Names) -> str:
    """Returns a call as a clause after "when": *Steam whistle (250) is redeemed*."""
    said = SAID.get(call["kind"])
    return said(call, names) if said is not None else f"{call['kind']} happens"


def calls_said(calls: list[JsonObject], names: Names) -> str:
    """Returns all calls of a cue as one clause."""
    return joined([call_said(call, names) for call in calls], "or") if calls else "you press its pad"


def call_brief(call: JsonObject, names: Names, cue: str = "") -> str:
    """Returns a call for a list, without the name it shares with its cue: *250 points*, *“!whistle”*.

    Args:
        cue: the cue's name.
    """
    if call["kind"] == "reward":
        title, said = names.of("rewards", call["reward"]), names.reward(call["reward"])
        return f"{said.removeprefix(f'{title} (').removesuffix(')')} points" if title == cue and title in said else said
    if call["kind"] == "chat":
        said = {"is": "", "starts": "", "has_word": "has ", "contains": "contains "}[call.get("match", "is")]
        return f"{said}“{call['text']}”{_cost(call, names)}"
    return call_said(call, names)


def _cost(call: JsonObject, names: Names) -> str:
    return f" ({call['cost']:,} {names.points})" if call.get("cost") and names.points else ""


def _reward(call: JsonObject, names: Names) -> str:
    return f"{names.reward(call['reward'])} is redeemed"


def _chat(call: JsonObject, names: Names) -> str:
    return f"a message {MATCH[call.get('match', 'is')]} “{call['text']}”{_cost(call, names)}"


def _tip(call: JsonObject, names: Names) -> str:
    return f"someone tips {between(call.get('from'), call.get('to'))}".rstrip()


def _raid(call: JsonObject, names: Names) -> str:
    size = between(call.get("from"), call.get("to"))
    return f"a raid{' of ' if size else ''}{size} arrives"


def _membership(call: JsonObject, names: Names) -> str:
    tier = f" of tier {call['tier']} or above" if call.get("tier") else ""
    bounds = [
        f"{size} {what}"
        for what in ("months", "gifts")
        if (size := between(call.get(f"{what}_from"), call.get(f"{what}_to")))
    ]
    said = f" ({', '.join(bounds)})" if bounds else ""
    return f"someone becomes a member{tier}{said}"


def _clock(call: JsonObject, names: Names) -> str:
    if call.get("at_time"):
        return f"it is {call['at_time']} while live"
    if call.get("every_min"):
        return "every minute on air" if call["every_min"] == 1 else f"every {call['every_min']:g} minutes on air"
    return f"the stream reaches minute {call['at_min']:g}"


def _count(call: JsonObject, names: Names) -> str:
    name = names.of("counts", call["count"])
    if call.get("goal"):
        return f"{name} reaches its goal"
    return f"{name} goes up by another {call['every']:,}" if call.get("every") else f"{name} reaches {call['at']:,}"


SAID: dict[str, Callable[[JsonObject, Names], str]] = {
    "reward": _reward,
    "chat": _chat,
    "tip": _tip,
    "follow": lambda call, names: "someone follows",
    "membership": _membership,
    "raid": _raid,
    "hook": lambda call, names: f"the hook {call['name']} arrives",
    "pad": lambda call, names: "its pad is pressed",
    "said": lambda call, names: f"you say “{call['phrase']}”",
    "clock": _clock,
    "count": _count,
    "stream": lambda call, names: "the stream ends" if call.get("state") == "ended" else "the stream goes live",
    "scene": lambda call, names: f"the scene switches to {call['scene']}",
}
