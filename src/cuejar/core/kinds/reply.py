"""A reply: something is said in the channel's chat."""

from __future__ import annotations

from typing import Literal

from cuejar.core.kinds.base import CannotDo, Coming, Kind, Resolving
from cuejar.core.parts.steps import Beat, Words


class ReplyBeat(Beat):
    kind: Literal["reply"]
    text: Words


def _resolve(r: Resolving, beat: Coming, b: ReplyBeat) -> None:
    beat.value = r.words(beat, b.text)
    if not beat.value.strip():
        raise CannotDo("the reply is empty")


KIND = Kind(ReplyBeat, "strike", "reply", _resolve)
