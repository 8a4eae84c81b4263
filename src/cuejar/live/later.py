"""Small data that may be written later: now if possible, otherwise as soon as it is."""

from __future__ import annotations

from collections.abc import Awaitable, Callable
from typing import Any

from cuejar.live.troubles import Troubles
from cuejar.live.watch import Watch
from cuejar.store.writer import CannotWrite, Work, Writer, until_written

KeepLater = Callable[[str, Work[Any]], Awaitable[bool]]


class Later:
    """What waits to be written, by kind. Each kind keeps its order: nothing newer of it is written first."""

    def __init__(self, writer: Writer, watch: Watch, troubles: Troubles) -> None:
        self._writer, self._watch, self._troubles = writer, watch, troubles
        self._waits: dict[str, list[Work[Any]]] = {}

    def is_kept(self, what: str) -> bool:
        """Returns whether nothing of this kind waits to be written."""
        return what not in self._waits

    async def keep(self, what: str, work: Work[Any]) -> bool:
        """Writes something small. Returns whether it is written now.

        Args:
            what: its kind, in words.
        """
        if what in self._waits:
            self._waits[what].append(work)
            return False
        try:
            await self._writer.do(work)
        except CannotWrite as error:
            self._failed(what, str(error))
            if what in self._waits:
                self._waits[what].append(work)
            else:
                self._waits[what] = [work]
                self._watch.once(f"writing {what}", lambda: self._again(what))
            return False
        return True

    def _failed(self, what: str, why: str) -> None:
        means = "It is saved once this is fixed; until then it is in memory only."
        self._troubles.has("small", f"{what[:1].upper()}{what[1:]} can’t be saved: {why}.", means)

    async def _again(self, what: str) -> None:
        try:
            while waiting := list(self._waits[what]):
                await until_written(
                    lambda some=waiting: self._writer.do(lambda c: [one(c) for one in some]),  # type: ignore[misc]
                    lambda why: self._failed(what, why),
                )
                del self._waits[what][: len(waiting)]
        finally:  # Whatever happens to it, the next one is tried.
            del self._waits[what]
            if not self._waits:
                self._troubles.gone("small")
