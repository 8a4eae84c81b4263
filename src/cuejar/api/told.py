"""What the core's words say of a cue, as the pages take it."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from typing import Generic, TypeVar

from cuejar.api.shapes import Shape
from cuejar.core.book.book import Air, Book, Cue
from cuejar.core.rules.tickets import cues_of
from cuejar.core.words.cues import PartKind, brief, calls_of, effect, sentence
from cuejar.core.words.doors import effective
from cuejar.core.words.names import Names, Noticed
from cuejar.core.words.rewards import called_said, rule_said


class SaidOut(Shape):
    """A part of a sentence: its subject, and its words."""

    kind: PartKind
    words: str


class EffectiveOut(Shape):
    """A cue's values after the house defaults. The default ones apply if it has none of its own; ``shared``: one clock
    for all cues without their own.
    """

    cooldown_s: float
    viewer_cooldown_s: float
    default_cooldown_s: float
    default_viewer_cooldown_s: float
    shared: bool
    air: Air
    lane: str
    lane_name: str
    longest_text: int


class CueLine(Shape):
    """A cue in a list.

    ``does``: what it does; ``brief``: its calls, and where its rules differ from the defaults.
    """

    id: str
    does: str
    brief: str


class CueTold(CueLine):
    """A cue in words: ``said`` is its sentence in parts, ``calls`` each of its calls, in their order."""

    said: list[SaidOut]
    calls: list[str]
    effective: EffectiveOut


class Teller:
    """Tells the cues of a book."""

    def __init__(self, book: Book) -> None:
        self._book, self._names, self._noticed = book, Names(book), Noticed(book)

    def line(self, cue: Cue) -> CueLine:
        return CueLine(id=cue.id, does=effect(cue, self._noticed), brief=brief(cue, self._book, self._names))

    def told(self, cue: Cue) -> CueTold:
        counts = effective(cue, self._book)
        return CueTold(
            **self.line(cue).model_dump(),
            said=[SaidOut(**part._asdict()) for part in sentence(cue, self._book, self._names, self._noticed)],
            calls=calls_of(cue, self._names),
            effective=EffectiveOut(
                **{name: value for name, value in counts._asdict().items() if name != "default"},
                default_cooldown_s=counts.default.cue_s,
                default_viewer_cooldown_s=counts.default.viewer_s,
                shared=counts.default.shared,
            ),
        )


def of_rewards(book: Book) -> dict[str, tuple[str, str]]:
    """Returns for each reward what it does, and where its cue's rules differ from the defaults."""
    names, noticed, cues = Names(book), Noticed(book), cues_of(book)
    return {
        reward.id: (
            called_said(reward.title, cues.get(reward.id, []), noticed),
            rule_said(cues.get(reward.id, []), book, names),
        )
        for reward in book.rewards
    }


Made = TypeVar("Made")


class Kept(Generic[Made]):
    """Something made from a book, made again only when the book changes, and off the show's thread."""

    def __init__(self, make: Callable[[Book], Made]) -> None:
        self._make = make
        self._of: tuple[Book, Made] | None = None

    async def of(self, book: Book) -> Made:
        if self._of is None or self._of[0] is not book:
            self._of = (book, await asyncio.to_thread(self._make, book))
        return self._of[1]
