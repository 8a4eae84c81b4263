"""The pictures of rewards, made in a worker when they are asked for, and remembered for a while."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from cuejar.core.book.book import Book, Reward
from cuejar.core.facts.happenings import MediaFacts
from cuejar.core.rules.pictured import Pictured, mark, pictured
from cuejar.core.rules.tickets import cues_of
from cuejar.media.library import Library
from cuejar.media.reward import reward_picture
from cuejar.media.workers import Stopped, Workers, WorkFailed

MOST_KEPT = 400
LIMIT_S = 20.0


class RewardPictures:
    def __init__(
        self,
        library: Library,
        workers: Workers,
        book: Callable[[], Book],
        facts: Callable[[], Mapping[str, MediaFacts]],
    ) -> None:
        self._library, self._workers, self._book, self._facts = library, workers, book, facts
        self._made: OrderedDict[tuple[str, int], bytes] = OrderedDict()
        self._known: tuple[Book, Mapping[str, MediaFacts], dict[str, tuple[Pictured, Path, str]]] | None = None

    def marks(self) -> dict[str, str]:
        """Returns a text for each reward with a picture, which differs whenever the picture does."""
        return {reward: found[2] for reward, found in self._all().items()}

    async def made(self, reward: str, sides: Sequence[int]) -> dict[int, bytes]:
        """Returns a reward's picture as PNGs, by their sides in pixels; nothing if it has none, or it can't be made."""
        found = self._all().get(reward)
        if found is None:
            return {}
        picture, path, marked = found
        missing = tuple(side for side in dict.fromkeys(sides) if (marked, side) not in self._made)
        out = {side: self._made[marked, side] for side in sides if side not in missing}
        if missing:
            try:
                made = await self._workers.apart(
                    "reading", "a reward’s picture", LIMIT_S, reward_picture, path, picture, missing
                )
            except (Stopped, WorkFailed, OSError, ValueError):
                return {}
            out.update(zip(missing, made, strict=True))
            for side in missing:
                self._made[marked, side] = out[side]
            while len(self._made) > MOST_KEPT:
                self._made.popitem(last=False)
        return out

    def _all(self) -> dict[str, tuple[Pictured, Path, str]]:
        book, facts = self._book(), self._facts()
        if self._known is None or self._known[0] is not book or self._known[1] != facts:
            called, entries = cues_of(book), {entry.id: entry.file or "" for entry in book.media}
            found: dict[str, tuple[Pictured, Path, str]] = {}
            for reward in book.rewards:
                one = self._one(reward, pictured(reward, called.get(reward.id, []), book, facts), entries)
                if one is not None:
                    found[reward.id] = one
            self._known = (book, facts, found)
        return self._known[2]

    def _one(
        self, reward: Reward, picture: Pictured | None, entries: Mapping[str, str]
    ) -> tuple[Pictured, Path, str] | None:
        if picture is None:
            return None
        file = entries.get(picture.media, "")
        there = self._library.row(file)
        if there is None:
            return None
        # A clip is shown by its poster.
        path = self._library.file(file) if there.kind == "picture" else self._library.beside(file, "poster")
        return (picture, path, mark(picture, file)) if path is not None else None
