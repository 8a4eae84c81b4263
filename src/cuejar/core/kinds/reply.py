"""A reply: something is said in the channel's chat."""

from __future__ import annotations

from typing import Literal

from cuejar.core.facts.origin import GIVEN, parted
from cuejar.core.kinds.base import COMMON, Asking, CannotDo, Kind, Named, Power, Resolving, StartingBeat
from cuejar.core.parts.steps import Beat, Words


class ReplyBeat(Beat):
    kind: Literal["reply"]
    text: Words


def _resolve(r: Resolving, beat: StartingBeat, b: ReplyBeat) -> None:
    text = r.words(beat, b.text)
    if not text.strip():
        raise CannotDo("the reply is empty")
    channel, _ = parted(r.viewer_id)
    beat.value = text if channel == GIVEN else {"channel": channel, "text": text}


def _tells(b: ReplyBeat, named: Named) -> str:
    return "replies in chat"


def _power(b: ReplyBeat, asking: Asking) -> Power:
    return asking.power(b, f"writes in chat: {asking.words(b.text)}")


KIND = Kind(
    ReplyBeat,
    "strike",
    "reply",
    _resolve,
    limit_s=10.0,
    missed="the reply did not reach the chat",
    tells=_tells,
    power=_power,
    to_channel=True,
    harmless=COMMON,
    asked="text",
)
