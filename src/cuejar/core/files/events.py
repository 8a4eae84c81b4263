"""Imports calls of a ledger as CloudEvents 1.0, one per line: each made valid, or refused with its line number."""

from __future__ import annotations

import base64
import json
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from cuejar.core.facts.gate import MOST_WHOLE, Json, Key, ShortText, Text, sound_json
from cuejar.core.parts.base import plain_problems

MOST_LINE = 500_000
Wall = Annotated[int, Field(ge=0, le=MOST_WHOLE)]


class _Row(BaseModel):
    model_config = ConfigDict(extra="ignore")


class Call(_Row):
    """What became of a call at one cue's door; ``at`` is ms since 1970."""

    call: Key
    at: Wall
    kind: Annotated[str, Field(max_length=20)]
    viewer: Annotated[str, Field(max_length=200)] = ""
    viewer_name: ShortText = ""
    text: Text = ""
    reward: Annotated[str, Field(max_length=80)] = ""
    cost: Annotated[int, Field(ge=0, le=10**9)] = 0
    cue: Annotated[str, Field(max_length=80)] = ""
    verdict: Literal["let_in", "extended", "turned_away", "ignored"]
    reason: Annotated[str, Field(max_length=40)] = ""
    detail: Text = ""
    run: Annotated[str, Field(max_length=20)] = ""
    outcome: Annotated[str, Field(max_length=20)] = ""
    trace: Json = []
    notes: Annotated[list[Any], Field(max_length=2_000)] = []


class Event(_Row):
    """The event around a call."""

    specversion: Literal["1.0"]
    type: Literal["cue-jar.call"]
    source: Annotated[str, Field(min_length=1, max_length=500)]
    data: Call


def data_of(event: dict[str, Any]) -> Any:
    """Returns the content of a CloudEvent (1.0): its ``data``, or its ``data_base64`` as JSON or as text.

    Raises:
        ValueError: why it can't be read, to follow its name.
    """
    told = event.get("data_base64")
    if event.get("data") is not None or told is None:
        return event.get("data")
    try:
        content = base64.b64decode(told, validate=True).decode("utf-8")
    except UnicodeDecodeError:
        raise ValueError("contains neither JSON nor text") from None
    except (TypeError, ValueError):
        raise ValueError("isn’t base64") from None
    kind = str(event.get("datacontenttype") or "application/json").split(";")[0].strip().lower()
    if not kind.endswith("json"):
        return content
    try:
        return json.loads(content)
    except (ValueError, RecursionError):
        raise ValueError("doesn’t contain JSON") from None


def event_of(line: bytes) -> Event:
    """Returns the event of a line.

    Raises:
        ValueError: what is wrong, in words.
    """
    if len(line) > MOST_LINE:
        raise ValueError(f"is longer than {MOST_LINE:,} bytes")
    try:
        told = sound_json(json.loads(line), 20_000, 20)
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as error:
        raise ValueError("isn’t JSON") from error
    try:
        return Event.model_validate(told)
    except ValidationError as error:
        raise ValueError("; ".join(str(problem) for problem in plain_problems(error)[:3])) from error
