"""The keeper of one piece of gear: keeps it in step with what the engine wants, and the engine in step with changes by
hand.

It works by desired state. `wanted` is what the engine wants a property to show; `actual` is what the gear last
reported. While they differ the gear is asked. A change by hand is reported to the engine first, and that property isn't
changed until the engine has handled it.

When the gear is back it reports what it shows, and `core.rig.reunited` interprets that. Nothing is played late:
it gets the current value. The engine hears that it is lost after a pause: a connection that comes back at once
shouldn't appear in a night's marks or affect a redemption.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import time
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from typing import Any, Literal

from cuejar.core.engine.night import Timed
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.facts.gate import is_sound
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.kinds.gear import kind_of
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.colour import fade, read_colour
from cuejar.core.rules.rig import Found
from cuejar.core.words.properties import property_said
from cuejar.live.brake import Brake
from cuejar.live.drivers.base import (
    AwayError,
    Doubting,
    Driver,
    Fading,
    Forgetful,
    GearRefused,
    Greeting,
    Logged,
    OneWay,
    Player,
    PropertyPath,
    Report,
    Reporting,
    State,
    Tested,
)
from cuejar.live.memories import ALWAYS, Memories
from cuejar.live.runner import Runner
from cuejar.live.wirelog import WireLog
from cuejar.pauses import Pauses

log = logging.getLogger(__name__)
FADE_STEP_S = 1 / 30
AGAIN_S = 1.0
MOST_PAUSE_S = 0.8
CLOSE_S = 1.0
MOST_ASKED = 5
"""How many times a second a property is asked for the same value."""
LOST_S = 1.0
"""How long gear is disconnected before the engine hears of it."""


class _Fade:
    """A property on its way to a value."""

    def __init__(self, start: PropertyValue, end: PropertyValue, span_s: float, begun: float) -> None:
        self.start, self.end, self.span_s, self.begun = start, end, span_s, begun

    def at(self, now: float) -> PropertyValue:
        part = min(1.0, (now - self.begun) / self.span_s)
        if part >= 1:
            return self.end
        if isinstance(self.end, str):
            return fade(str(self.start), self.end, part)
        return round(float(self.start or 0) + (float(self.end or 0) - float(self.start or 0)) * part, 4)


def _fadable(start: PropertyValue, end: PropertyValue) -> bool:
    def number(value: PropertyValue) -> bool:
        return isinstance(value, (int, float)) and not isinstance(value, bool)

    def colour(value: PropertyValue) -> bool:
        return isinstance(value, str) and value.startswith("#") and read_colour(value) is not None

    return (number(start) and number(end)) or (colour(start) and colour(end))


class Keeper:
    """Keeps one piece of gear in step."""

    def __init__(
        self,
        gear: str,
        kind: str,
        name: str,
        make: Callable[[], Driver],
        runner: Runner,
        prefixes: tuple[str, ...] = (),
        changed: Callable[[], None] = lambda: None,
        renamed: Callable[[h.Renamed], None] = lambda renamed: None,
        memories: Memories | None = None,
    ) -> None:
        """Args:
        changed: is told when its state changes.
        renamed: is told when something on the gear gets another name.
        make: makes a new driver for each attempt to connect.
        prefixes: where its properties lie, if that differs from its kind.
        """
        self.gear, self.kind, self.name = gear, kind, name
        self._name = f"gear {gear}"
        self.wire = WireLog()
        self._make, self._runner = make, runner
        self.prefixes = prefixes or (kind_of(kind).prefix,)
        self.state: State = "away"
        self.since, self.problem = runner.clock.now(), "It hasn’t been asked yet."
        self.lacks: tuple[str, ...] = ()
        """What it can't do that others of its kind can."""
        self.gone: dict[PropertyPath, str] = {}
        """Rest values that no longer exist, in words."""
        self.driver: Driver | None = None
        self.actual: dict[PropertyPath, PropertyValue] = {}
        self.refused: dict[PropertyPath, PropertyValue] = {}
        self._brake = Brake(MOST_ASKED)
        self._other: dict[PropertyPath, tuple[PropertyValue, PropertyValue]] = {}
        """What each property showed when it was last asked for something else: asked for, shown."""
        self._can: dict[PropertyPath, tuple[PropertyValue, PropertyValue]] = {}
        """Where that came twice: it is taken as what the gear can do."""
        self.serial = 0
        self._tell_changed, self._tell_renamed, self._memories = changed, renamed, memories
        self._fades: dict[PropertyPath, _Fade] = {}
        self._fade_in: dict[PropertyPath, int] = {}
        self._hands: Counter[PropertyPath] = Counter()
        """How many changes by hand on each property the engine wasn't told yet."""
        self._told: Literal["lost", "back"] | None = None
        """What this keeper last told the engine. The engine's own view may be older than an earlier keeper's reports,
        so it isn't used here.
        """
        self._gone_at: float | None = None
        """Since when (s, monotonic) it is disconnected."""
        self._stirred = asyncio.Event()
        self._task: asyncio.Task[None] | None = None

    # Connecting

    def start(self) -> None:
        self._task = self._runner.watch.keep(self._name, self._keep, lambda problem: self._become("away", problem))

    async def stop(self) -> None:
        self._gone_at = None
        if self._task is not None:
            await self._runner.watch.let_go([self._task])

    def _become(self, state: State, problem: str = "") -> None:
        if state != self.state:
            self.since = self._runner.clock.now()
        changed = (state, problem) != (self.state, self.problem)
        self.state, self.problem = state, problem
        if changed:
            self._tell_changed()

    async def _keep(self) -> None:
        pauses = Pauses(most_s=MOST_PAUSE_S)
        while True:
            self.driver = driver = self._make()
            self._hands.clear()
            if isinstance(driver, Logged):
                driver.log_to(self._odd, self.wire.pass_over)
            if self._told == "lost" and isinstance(driver, OneWay):
                driver.ask_longer()
            try:
                catalogue = await driver.connect()
                self._become("catching_up")
                await self._back(catalogue)
                pauses.reset()
                await self._while_there(driver)
            except AwayError as error:
                self._become("away", str(error))
            except Exception as error:
                log.exception("The keeper of %s failed.", self.gear)
                self._become("away", f"Internal error: {error or type(error).__name__}")
            finally:
                self.driver = None
                await self._close(driver)
            self._fades.clear()
            if self._gone_at is None:
                self._gone_at = time.monotonic()
                self._runner.watch.once(f"{self._name}: whether it stays away", self._perhaps_lost)
            await asyncio.sleep(pauses.next())

    async def _back(self, catalogue: Greeting) -> None:
        """Handles gear that is back: interprets what it shows, and informs the engine."""
        self._gone_at = None
        await self._understand(catalogue)
        if self._memories is not None and isinstance(self.driver, Forgetful):
            await self._memories.note(self.gear, self.driver.memory(), self._runner.clock.now())
        await self._tell("back")
        self._tell_up()

    async def _perhaps_lost(self) -> None:
        gone_at = self._gone_at
        await asyncio.sleep(LOST_S)
        if gone_at is not None and gone_at == self._gone_at:
            await self._tell("lost")

    async def _tell(self, state: Literal["lost", "back"]) -> None:
        if state != self._told:
            self._told = state
            await self._runner.post(h.GearState(self.gear, state), patient=True)

    def _odd(self, message: Any, why: str) -> None:
        """Ignores an unreadable message of the gear, and reports the first one."""
        if self.wire.leave_out(message, why):
            self._runner.leave_out(self.kind, None, f"a message of {self.name} can’t be read: {why}")

    async def _close(self, driver: Driver) -> None:
        """Closes a driver; one that hangs is left behind."""
        try:
            async with asyncio.timeout(CLOSE_S):
                await driver.close()
        except Exception as error:
            log.warning("%s could not be disconnected: %s", self.name, error or type(error).__name__)

    async def _understand(self, catalogue: Greeting) -> None:
        """Tells the engine what the gear has and shows."""
        self._take(catalogue)
        if catalogue.things is not None:
            await self._runner.post(catalogue.things, patient=True)
        meaning = self._runner.view.reunited(_sound(catalogue), catalogue.boot)
        for path, value in meaning.gone.items():
            what = f"“{value}” no longer exists. {property_said(path)} rests at “{meaning.rest[path]}” now."
            log.warning("%s: %s", self.name, what)
            self.gone[path] = what
        for path, value in meaning.hands.items():
            self.gone.pop(path, None)
            await self._runner.post(h.Hand(path, value, meaning.heard.get(path)), patient=True)
        if meaning.rest or meaning.heard:
            await self._runner.post(h.Rest(meaning.rest, meaning.heard), patient=True)

    def _take(self, catalogue: Greeting) -> None:
        if self.driver is not None:
            self.actual = self.driver.actual
        self.lacks = catalogue.lacks
        self.refused.clear()
        self._other.clear()
        self._can.clear()
        self.serial += 1

    async def _while_there(self, driver: Driver) -> None:
        """Serves both directions, until one of them ends."""
        try:
            async with asyncio.TaskGroup() as ways:
                heard: asyncio.Queue[tuple[Report, list[PropertyPath]] | AwayError] = asyncio.Queue()
                ways.create_task(self._hear_reports(driver, heard), name=f"{self._name}: from it")
                ways.create_task(self._tell_engine(heard), name=f"{self._name}: to the engine")
                ways.create_task(self._push(driver), name=f"{self._name}: to it")
        except BaseExceptionGroup as group:
            raise group.exceptions[0] from group

    # From the gear to the engine

    async def _hear_reports(
        self, driver: Driver, heard: asyncio.Queue[tuple[Report, list[PropertyPath]] | AwayError]
    ) -> None:
        """Takes reports at once, however long the engine takes over earlier ones: a property that was changed by hand
        twice isn't put back to its value in between.
        """
        try:
            async for report in driver.reports():
                if isinstance(report, h.Hand) and not is_sound(report.value):
                    log.warning(
                        "%s told of %s as %r, which cannot be; it is left out.",
                        self.name,
                        report.path,
                        report.value,
                    )
                    continue
                changed = self._changed(report)
                self._hands.update(changed)
                for path in changed:
                    self._fades.pop(path, None)
                heard.put_nowait((report, changed))
        except AwayError as error:
            heard.put_nowait(error)

    def _changed(self, report: Report) -> list[PropertyPath]:
        """Returns the properties that a report says were changed by hand: they aren't put back before the engine knows.
        All others are, however long it takes to tell the engine of the report: on a full disk it is for ever.
        """
        if isinstance(report, h.Hand):
            return [report.path]
        if isinstance(report, Greeting):
            return list(self._runner.view.reunited(_sound(report), report.boot).hands)
        return []

    async def _tell_engine(self, heard: asyncio.Queue[tuple[Report, list[PropertyPath]] | AwayError]) -> None:
        while True:
            told = await heard.get()
            if isinstance(told, AwayError):
                raise told
            report, changed = told
            if isinstance(report, h.Hand):
                self.serial += 1
                self.gone.pop(report.path, None)
                await self._runner.post(report, patient=True)
            elif isinstance(report, h.Renamed):
                await self._runner.post(report, patient=True)
                self._tell_renamed(report)
            else:
                await self._understand(report)
            self._hands.subtract(changed)
            self._hands = +self._hands
            self._stirred.set()
            self._tell_changed()

    # From the engine to the gear

    def mine(self, path: PropertyPath) -> bool:
        return path.startswith(self.prefixes)

    def hear(self, timed: Sequence[Timed]) -> None:
        for _, order in timed:
            if isinstance(order, o.Set):
                if self.mine(order.path):
                    self._fade_in[order.path] = order.fade_ms
                    self._stirred.set()
            elif isinstance(order, (o.Show, o.Hide, o.Prolong)):
                self._tell_up()

    def stir(self) -> None:
        """Checks again what the gear should show."""
        self.serial += 1
        self._stirred.set()

    # Strikes

    def memory(self) -> str:
        """Returns the name of the memory in which a repeated strike is known; empty: none. Raises AwayError: unknown
        yet.
        """
        if self.driver is None or self.state == "away":
            raise AwayError(f"{self.name} is disconnected")
        return self.driver.memory() if isinstance(self.driver, Forgetful) else ALWAYS

    def memory_before(self, at: int) -> str:
        """Returns the one to which an earlier process may have sent what fell due then (ms). Raises AwayError."""
        if self.memory() == ALWAYS:
            return ALWAYS
        return self._memories.before(self.gear, at) if self._memories is not None else ""

    async def strike(self, strike: o.Strike, strike_id: str) -> None:
        """Raises AwayError, Unanswered or GearRefused; the rig shows the problem too."""
        try:
            if self.driver is None or self.state == "away":
                raise AwayError(f"{self.name} is disconnected")
            await self.driver.strike(strike, strike_id)
        except (AwayError, GearRefused) as error:
            self._become(self.state, str(error))
            raise

    def _tell_up(self) -> None:
        """Sends everything that is up to gear that plays it."""
        if isinstance(self.driver, Player):
            shows = [order for order in self._runner.view.up() if isinstance(order, o.Show)]
            self.driver.up([show for show in shows if KINDS[show.kind].gear == self.kind])

    def wanted(self) -> dict[PropertyPath, PropertyValue]:
        """Returns what the engine wants of this gear now. An unknown property is left alone: its value must be known
        first, as that is its rest.
        """
        return {
            path: self._runner.view.showing(path)
            for path, rest in self._runner.view.rest_values().items()
            if rest is not None and self.mine(path)
        }

    def _due(self, fades_itself: bool = False) -> Mapping[PropertyPath, PropertyValue]:
        """Returns what to ask of the gear now: where wanted and actual differ, with fades at their current values."""
        due: dict[PropertyPath, PropertyValue] = {}
        at, wanted = time.monotonic(), self.wanted()
        # A fade to an unwanted value ends, even if nothing is requested now.
        self._fades = {path: fade for path, fade in self._fades.items() if path in wanted and fade.end == wanted[path]}
        for path, value in wanted.items():
            if path in self._hands or path not in self.actual or self.refused.get(path) == value:
                self._fades.pop(path, None)
                continue
            span = self._fade_in.pop(path, 0)
            there = self.actual[path]
            going = self._fades.get(path)
            if going is None and self._is_there(path, value):
                continue
            if going is None and span > 0 and not fades_itself and _fadable(there, value):
                going = self._fades[path] = _Fade(there, value, span / 1000, at)
            now = going.at(at) if going is not None else value
            if going is not None and now == value:
                self._fades.pop(path)
            if not _same(now, there):
                due[path] = now
        return due

    def _is_there(self, path: PropertyPath, value: PropertyValue) -> bool:
        """Returns whether a property shows a value, or what the gear makes of it."""
        return _same(self.actual[path], value) or self._can.get(path) == (value, self.actual[path])

    def _is_behind(self, path: PropertyPath, wanted: Mapping[PropertyPath, PropertyValue]) -> bool:
        return path in wanted and path in self.actual and not self._is_there(path, wanted[path])

    def _answered(
        self, path: PropertyPath, value: PropertyValue, shown: PropertyValue | None, before: PropertyValue
    ) -> None:
        """Takes what a property shows after it was asked for a value; none: it refused. Only gear that moved towards the
        value can be rounding; what stays where it was is asked again, or an effect might never end.
        """
        if shown is None:
            self.refused[path] = value
        elif path not in self._fades and not _same(shown, value):
            if self._other.get(path) == (value, shown):
                self._can[path] = value, shown
                self.refused.pop(path, None)
                return
            if _fadable(shown, value) and not _same(shown, before):
                self._other[path] = value, shown
            self.refused[path] = value

    async def _push(self, driver: Driver) -> None:
        again_at = time.monotonic() + AGAIN_S
        while True:
            self._stirred.clear()
            spans = dict(self._fade_in) if isinstance(driver, Fading) else {}
            # What it reported and nobody took yet is taken first; then this is checked again.
            is_behind = isinstance(driver, Reporting) and driver.unheard()
            due = {} if is_behind else self._due(isinstance(driver, Fading))
            due = {path: value for path, value in due.items() if path in self._fades or self._brake.passes(path, value)}
            if due:
                before = {path: self.actual.get(path) for path in due}
                shown = await (driver.fade(due, spans) if isinstance(driver, Fading) else driver.show(due))
                for path, value in shown.items():
                    if path not in self._hands:
                        self._answered(path, due[path], value, before[path])
                self.serial += 1
            self._say_step()
            if self.refused and time.monotonic() > again_at:
                again_at = time.monotonic() + AGAIN_S
                self.refused.clear()
                continue
            pause = AGAIN_S if self.refused else self._brake.pause()
            if self._fades:
                pause = getattr(driver, "fade_step_s", FADE_STEP_S)
            if due and not self._fades:
                continue
            with contextlib.suppress(TimeoutError):
                async with asyncio.timeout(pause):
                    await self._stirred.wait()

    def _say_step(self) -> None:
        wanted = self.wanted()
        lost = [path for path in wanted if path not in self.actual]
        if self.refused:
            path, value = next(iter(self.refused.items()))
            self._become("catching_up", f"It refused {value} for {property_said(path)}.")
        elif lost and any(self._runner.view.is_held(path) for path in lost):
            self._become("catching_up", f"It has no {property_said(lost[0])}.")
        elif isinstance(self.driver, Doubting) and (doubt := self.driver.doubt()):
            self._become("catching_up", doubt)
        elif braked := [path for path in self._brake.held() if self._is_behind(path, wanted)]:
            shows = f"It was asked for {wanted[braked[0]]} again and again, and shows {self.actual[braked[0]]}"
            self._become("catching_up", f"{property_said(braked[0])}: {shows}.")
        elif self._fades:
            self._become("in_step")
        else:
            behind = any(self._is_behind(path, wanted) for path in wanted)
            self._become("catching_up" if behind else "in_step")

    async def test(self) -> str:
        """Asks the gear for what it shows, and returns how long the answer took.

        Raises:
            AwayError: it is disconnected.
        """
        if self.driver is None:
            raise AwayError(self.problem or "It isn’t connected.")
        if isinstance(self.driver, Tested):
            return await self.driver.test()
        begun = time.perf_counter()
        picture = await self.driver.picture()
        took = (time.perf_counter() - begun) * 1000
        return f"It answers in {took:.0f} ms." if picture is not None else "It is connected."

    def _rounded(self) -> list[str]:
        return [
            f"{property_said(path)}: asked for {asked}, it shows {shown}."
            for path, (asked, shown) in sorted(self._can.items())
        ]

    def row(self) -> dict[str, Any]:
        """Returns its state, for the desk and the rig."""
        return {
            "id": self.gear,
            "kind": self.kind,
            "name": self.name,
            "state": self.state,
            "since": self.since,
            "problem": self.problem,
            "serial": self.serial,
            "lacks": [*self.lacks, *self.gone.values(), *self._rounded()],
        }


def _sound(catalogue: Greeting) -> dict[PropertyPath, Found]:
    """Returns what gear shows, without what cannot be."""
    return {path: there for path, there in catalogue.found.items() if is_sound(there.value) and is_sound(there.hand)}


def _same(one: PropertyValue, other: PropertyValue) -> bool:
    if isinstance(one, bool) or isinstance(other, bool):
        return one is other
    if isinstance(one, (int, float)) and isinstance(other, (int, float)):
        return abs(float(one) - float(other)) < 1e-6
    return one == other
