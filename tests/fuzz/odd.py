"""Odd messages, made from good ones."""

from __future__ import annotations

import copy
import json
import random
from typing import Any

ODD: list[Any] = [
    None, True, False, 0, -1, 1, 2**31, 2**53, 2**63, 10**40, -(10**40), 0.5, 1e308, "", " ", "\x00", "\ud800", "a" * 5_000, "mind the gap",
    "../..", "{{text}}", "keys/F8", "broadcast/scene", "=1+1", "\u202e", "é" * 300, [], {}, [[]], [None] * 300, {"": {}}, {"id": None},
    {"id": "owlpost", "name": 7, "roles": None},
]  # fmt: skip
WORDS = [
    "type",
    "id",
    "data",
    "viewer",
    "text",
    "value",
    "method",
    "params",
    "result",
    "error",
    "name",
    "changes",
    "by",
    "t",
]


def odd(rng: random.Random) -> Any:
    return copy.deepcopy(rng.choice(ODD))


def deep(rng: random.Random) -> str:
    """Returns a structure nested deeper than any parser likes."""
    return rng.choice(["[", '{"a":']) * rng.choice([20, 1_000, 60_000])


def changed(message: Any, rng: random.Random) -> Any:
    """Returns a message with a part removed, repeated, or replaced by something odd."""
    message = copy.deepcopy(message)
    for _ in range(rng.choice([1, 1, 1, 2, 5])):
        there: list[tuple[Any, Any]] = []
        _parts(message, there)
        if not there:
            return odd(rng)
        holder, key = rng.choice(there)
        how = rng.random()
        if how < 0.2:
            del holder[key]
        elif how < 0.3 and isinstance(holder, dict):
            holder[rng.choice(WORDS)] = odd(rng)
        elif how < 0.4 and isinstance(holder, list):
            holder.append(copy.deepcopy(holder[key]))
        else:
            holder[key] = odd(rng)
    return message


def _parts(value: Any, there: list[tuple[Any, Any]]) -> None:
    if len(there) > 2_000:
        return
    if isinstance(value, dict):
        for key, inner in value.items():
            there.append((value, key))
            _parts(inner, there)
    elif isinstance(value, list):
        for index, inner in enumerate(value):
            there.append((value, index))
            _parts(inner, there)


def text(message: Any, rng: random.Random) -> str:
    """Returns a message as odd text: mostly JSON, sometimes cut off, not JSON at all, or with numbers that JSON doesn't
    have.
    """
    how = rng.random()
    if how < 0.06:
        return deep(rng)
    said = json.dumps(changed(message, rng), ensure_ascii=rng.random() < 0.5)
    if how < 0.12:
        return said[: rng.randrange(len(said) + 1)]
    if how < 0.16:
        return said.replace("1", rng.choice(["NaN", "Infinity", "1e999", "01"]), 1)
    if how < 0.18:
        return "".join(chr(rng.randrange(1, 0xD800)) for _ in range(rng.randrange(50)))
    return said
