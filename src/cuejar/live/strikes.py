"""Strikes at gear and channel: each is written down under an id before it goes out, and owed until it is confirmed.

The id follows from the run, the beat and the instant; the wire carries it, and the other side does it once however often it
comes. So after a crash whatever is still within its time limit is sent again under the same id; what is too late is a line
in the ledger. Where the other side cannot remember ids, a strike that may have gone out is never sent twice.
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
from cuejar.live.drivers.base import AwayError, GearRefused, Unanswered, pause_s
from cuejar.live.rooms import Rooms

log = logging.getLogger(__name__)
LIMIT_S = {kind.name: kind.limit_s for kind in KINDS.values() if kind.limit_s is not None}
"""How late a strike may still be sent, by its kind."""
MOST_PAUSE_S = 1.0
MOST_AT_ONCE = 16
"""How many go to one piece of gear, or to one host, at the same time."""


def is_outward(kind: str) -> bool:
    """Whether a strike goes to gear or channel."""
    return kind in LIMIT_S


class Owed(NamedTuple):
    """A strike that is to be done once. ``at`` is when it fell due (ms of the show's clock)."""

    id: str
    at: int
    strike: o.Strike

    def row(self) -> dict[str, Any]:
        """As it stands in the database."""
        strike = self.strike
        return {"id": self.id, "at": self.at, "run": strike.run, "beat": strike.beat, "kind": strike.kind,
                "value": json.dumps(strike.value), "state": "owed", "problem": ""}  # fmt: skip


def strike_id(installation: str, strike: o.Strike, at: int) -> str:
    """The same for the same strike, also after a restart; another one for every other, also of another data folder."""
    second = strike.kind == "hook" and bool(strike.value.get("second"))
    told = f"{installation}/{strike.run}/{strike.beat}/{at}/{int(second)}"
    return "st_" + hashlib.sha256(told.encode()).hexdigest()[:28]


def _whose(strike: o.Strike) -> str:
    """The viewer whose call it comes from, as far as it says; else its run."""
    values = strike.value.get("values") if isinstance(strike.value, dict) else None
    viewer = values.get("viewer") if isinstance(values, dict) else None
    return f"viewer {viewer}" if viewer else strike.run


class Striker(Protocol):
    """Who does strikes of a kind."""

    def remembers(self) -> bool:
        """Whether a strike that comes again under its id is done once. Raises AwayError: that is not known yet."""

    async def strike(self, strike: o.Strike, strike_id: str) -> None:
        """Raises AwayError (nothing was heard), Unanswered (it may have been done) or GearRefused (it will never be)."""


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
        striker: who does a strike; None while nobody can.
        once: runs a watched task.
        ended: gets what became of a strike: `done`, `failed` or `late`, and why.
        tell: posts a happening and waits until it was handled.
        where: what a strike goes to: a piece of gear, a channel, or the host of a hook.
        """
        self._striker, self._now, self._once, self._ended, self._tell = striker, now, once, ended, tell
        self._where = where
        self._rooms = Rooms(MOST_AT_ONCE)
        self.owed: dict[str, Owed] = {}

    def owe(self, strikes: Iterable[Owed], again: bool = False) -> None:
        """These are to be done. ``again``: they may have gone out before, from an earlier process."""
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
        why, attempt = "", 0
        while True:
            striker = self._striker(owed.strike)
            try:
                if striker is None:
                    raise AwayError("nobody is there to do it")
                if again and not striker.remembers():
                    return (
                        "failed",
                        f"{why or 'Cue Jar ended meanwhile'}: it may have been done; do it once by hand if not",
                    )
                left_s = max(0.05, (until - self._now()) / 1000)
                async with asyncio.timeout(left_s):
                    await striker.strike(owed.strike, owed.id)
                return "done", ""
            except GearRefused as error:
                return "failed", str(error)
            except Unanswered as error:
                why = str(error)
                again = True
            except AwayError as error:
                why = str(error)
            except TimeoutError:
                why = why or f"no answer within {LIMIT_S[owed.strike.kind]:g} s"
                return "failed", why
            if self._now() >= until:
                return "failed", why
            await asyncio.sleep(min(pause_s(attempt, MOST_PAUSE_S), max(0.0, (until - self._now()) / 1000)))
            attempt += 1
