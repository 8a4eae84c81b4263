"""Strikes at gear and channel: each is written under an id before it is sent, and owed until it is confirmed.

The id follows from the run, the beat and the instant; the wire carries it, and the other side does it once however
often it comes. So after a crash strikes still within their time limit are sent again under the same id; late ones are
noted in the ledger. If the other side can't remember ids, or has lost its memory of them, a strike that may have been
sent is never repeated.
"""

from __future__ import annotations

import asyncio
import hashlib
import json
import logging
from collections.abc import Callable, Iterable
from typing import Any, NamedTuple, Protocol

from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.table import KINDS
from cuejar.live.drivers.base import AwayError, GearRefused, Unanswered
from cuejar.live.rooms import Rooms
from cuejar.pauses import Pauses

log = logging.getLogger(__name__)
LIMIT_S = {kind.name: kind.limit_s for kind in KINDS.values() if kind.limit_s is not None}
"""How late a strike may still be sent, by its kind."""
MOST_PAUSE_S = 1.0
MOST_AT_ONCE = 16
"""How many go to one piece of gear, or to one host, at the same time."""


def is_outward(kind: str) -> bool:
    """Returns whether a strike goes to gear or channel."""
    return kind in LIMIT_S


class Owed(NamedTuple):
    """A strike to be done once. ``at`` is when it fell due (ms of the show's clock)."""

    id: str
    at: int
    strike: o.Strike

    def row(self) -> dict[str, Any]:
        """Returns its row in the database."""
        strike = self.strike
        return {"id": self.id, "at": self.at, "run": strike.run, "beat": strike.beat, "kind": strike.kind,
                "value": json.dumps(strike.value), "state": "owed", "problem": ""}  # fmt: skip


def strike_id(installation: str, strike: o.Strike, at: int) -> str:
    """Returns an id, the same for the same strike, even after a restart; different for every other one, also of another
    data folder.
    """
    second = isinstance(strike.value, dict) and bool(strike.value.get("second"))
    told = f"{installation}/{strike.run}/{strike.beat}/{at}/{int(second)}"
    return "st_" + hashlib.sha256(told.encode()).hexdigest()[:28]


def _whose(strike: o.Strike) -> str:
    """Returns the viewer behind a strike, if known; otherwise its run."""
    values = strike.value.get("values") if isinstance(strike.value, dict) else None
    viewer = values.get("viewer") if isinstance(values, dict) else None
    return f"viewer {viewer}" if viewer else strike.run


class Striker(Protocol):
    """Carries out strikes of a kind."""

    def memory(self) -> str:
        """Returns the name of the memory in which a repeated strike with the same id is known; empty: it has none.
        Raises AwayError: unknown yet.
        """

    def memory_before(self, at: int) -> str:
        """Returns the one to which an earlier process may have sent what fell due then (ms); empty: unknown."""

    async def strike(self, strike: o.Strike, strike_id: str) -> None:
        """Raises AwayError (it wasn't received), Unanswered (it may have been done) or GearRefused (it never will be)."""


class Strikes:
    """All strikes that are owed."""

    def __init__(
        self,
        striker: Callable[[o.Strike], Striker | None],
        now: Callable[[], int],
        once: Callable[[str, Callable[[], Any]], Any],
        ended: Callable[[Owed, str, str], None],
        tell: Callable[[h.Happening], Any],
        where: Callable[[o.Strike], str],
    ) -> None:
        """Args:
        striker: returns who carries out a strike; None while nobody can.
        once: runs a watched task.
        ended: gets the result of a strike: `done`, `failed` or `late`, and why.
        tell: posts a happening and waits until it was handled.
        where: returns the target of a strike: a piece of gear, a channel, or the host of a hook.
        """
        self._striker, self._now, self._once, self._ended, self._tell = striker, now, once, ended, tell
        self._where = where
        self._rooms = Rooms(MOST_AT_ONCE)
        self.owed: dict[str, Owed] = {}

    def owe(self, strikes: Iterable[Owed], again: bool = False) -> None:
        """Takes strikes to carry out. ``again``: an earlier process may have sent them."""
        for owed in strikes:
            if owed.id not in self.owed:
                self.owed[owed.id] = owed
                self._once(f"strike {owed.strike.kind}", lambda one=owed: self._do(one, again))  # type: ignore[misc]

    async def _do(self, owed: Owed, again: bool) -> None:
        strike = owed.strike
        until = owed.at + round(LIMIT_S[strike.kind] * 1000)
        state, why = "late", "Cue Jar came back too late for it"
        try:
            async with self._rooms.at(self._where(strike), _whose(strike)):
                if self._now() < until:
                    state, why = await self._tried(owed, until, again)
        except asyncio.CancelledError:
            self.owed.pop(owed.id, None)
            raise
        except Exception as error:
            log.exception("A strike failed.")
            state, why = "failed", str(error) or type(error).__name__
        self._ended(owed, state, why)
        self.owed.pop(owed.id, None)
        if state != "done":
            await self._tell(h.StrikeFailed(strike.run, strike.beat, f"{KINDS[strike.kind].missed}: {why}"))

    async def _tried(self, owed: Owed, until: int, again: bool) -> tuple[str, str]:
        """Sends it until it is confirmed, refused, or too late. Returns its state, and why."""
        why, pauses = "", Pauses(most_s=MOST_PAUSE_S)
        sent_to: str | None = None
        """The memory that it may have been sent to."""
        while True:
            striker = self._striker(owed.strike)
            try:
                if striker is None:
                    raise AwayError("it isn’t connected")
                memory = striker.memory()
                if again and sent_to is None:
                    sent_to = striker.memory_before(owed.at)
                if sent_to is not None and (not memory or memory != sent_to):
                    why = why or "Cue Jar ended meanwhile"
                    return "failed", f"{why}: it may have been done; do it once by hand if not"
                left_s = max(0.05, (until - self._now()) / 1000)
                async with asyncio.timeout(left_s):
                    await striker.strike(owed.strike, owed.id)
                return "done", ""
            except GearRefused as error:
                return "failed", str(error)
            except Unanswered as error:
                why, sent_to = str(error), memory
            except AwayError as error:
                why = str(error)
            except TimeoutError:
                why = why or f"no answer within {LIMIT_S[owed.strike.kind]:g} s"
                return "failed", why
            if self._now() >= until:
                return "failed", why
            await asyncio.sleep(min(pauses.next(), max(0.0, (until - self._now()) / 1000)))
