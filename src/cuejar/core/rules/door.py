"""The door: who is let in, and the one reason why someone isn't.

`CHECKS` has the checks in order; the first that fails gives the reason. The ledger keeps the results of all of them.

    house   the house is open, and not every kind of output of the cue is switched off      house_closed
    cue     the cue is on                                                                  cue_off
    role    one of the viewer's roles is in who                                            role
    viewer  the viewer isn't blocked                                                     viewer_shut_out
    where   the stream is live, or isn't; its category and the current scene are allowed  off_air, on_air, category,
    scene
    text    the viewer's text is as the door requires                                  text_…
    condition  the conditions of the cue hold                                              condition
    points  the viewer has enough points of our own for the call                        too_few_points
    caps    for the stream, per viewer for the stream, in a sliding window                 cap_…
    pace    the viewer's cooldown, then the cue's                                          cooldown_viewer, cooldown
    lane    there is room to wait, or the cue needs none                                busy, lane_full

A cooldown of 45 s that began at 100.000 is over at 145.000: a call at exactly 145.000 is let in. It counts from the
latest admission that wasn't refunded; a viewer who waited in vain and was refunded leaves no trace in any cap or
cooldown. Caps per stream count only calls let in while the stream was on, and apply only then.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import NamedTuple, Protocol

from cuejar.core.book.book import Air, Book, Cue, House, TextRule, WordList
from cuejar.core.facts.happenings import Viewer
from cuejar.core.facts.orders import Check
from cuejar.core.kinds.table import KINDS
from cuejar.core.measures.colour import read_colour
from cuejar.core.parts.base import ms
from cuejar.core.parts.folding import folded
from cuejar.core.rules.conditions import all_hold, among, has_role
from cuejar.core.rules.defaults import air_of, longest_text, paces_of
from cuejar.core.rules.people import is_listed, listed
from cuejar.core.rules.purse import Purse
from cuejar.core.rules.tallies import Cooldown, CueTally, Tallies
from cuejar.core.rules.words import censored, linked, normalised

REASONS: dict[str, str] = {
    "house_closed": "the house is closed",
    "cue_off": "the cue is off",
    "role": "not for this viewer's role",
    "viewer_shut_out": "this viewer is blocked",
    "off_air": "only while live",
    "on_air": "only off air",
    "category": "not in this category",
    "scene": "not in this scene",
    "text_missing": "text is required",
    "text_short": "the text is too short",
    "text_long": "the text is too long",
    "text_word": "a word in the text is not allowed",
    "text_colour": "not a colour",
    "text_number": "not a whole number in range",
    "text_choice": "not one of the choices",
    "condition": "its condition isn’t met",
    "too_few_points": "the viewer has too few points",
    "cap_stream": "limit for this stream reached",
    "cap_viewer": "limit per viewer reached",
    "cap_window": "limit for this period reached",
    "cooldown_viewer": "this viewer’s cooldown",
    "cooldown": "the cue’s cooldown",
    "busy": "already running",
    "lane_full": "the line is full",
    "repeat": "duplicate redemption",
    "no_cue": "it calls no cue",
    "unreadable": "unreadable",
    "too_late": "it came too late",
    "sent_back": "sent back by hand",
}
"""Every reason in plain words."""


class Text(NamedTuple):
    """The viewer's text after the door."""

    text: str = ""
    colour: str | None = None
    number: int | None = None
    choice: str | None = None
    note: str = ""


NO_TEXT = Text()


class Failed(NamedTuple):
    reason: str
    detail: str = ""
    left_ms: int | None = None


class Host(Protocol):
    """What the checks may ask of the engine."""

    @property
    def on_air(self) -> bool: ...
    @property
    def category(self) -> str | None: ...

    tallies: Tallies
    purse: Purse
    shared_before: Cooldown
    """The shared clock before the call that is at the door now."""

    def scene(self) -> str | None: ...
    def has_gear(self, gear: str) -> bool: ...
    def count(self, cue: str, viewer: str, name: str) -> int: ...
    def lane_reason(self, cue: str, viewer: Viewer | None) -> str | None: ...


class Visit:
    """One call at one door: everything the checks may use.

    ``now`` is ms of the engine's clock, ``read`` the text after the door, ``cost`` is in points of ours.
    """

    __slots__ = ("cost", "doorway", "host", "now", "read", "tally", "text", "viewer")

    def __init__(
        self, host: Host, doorway: Doorway, tally: CueTally, viewer: Viewer | None, text: str, now: int, cost: int = 0
    ) -> None:
        self.host = host
        self.doorway = doorway
        self.tally = tally
        self.viewer = viewer
        self.text = text
        self.now = now
        self.cost = cost
        self.read = NO_TEXT


CheckFunction = Callable[[Visit], Failed | None]


def _house(visit: Visit) -> Failed | None:
    if not visit.doorway.house.open:
        return Failed("house_closed")
    if visit.doorway.all_off:
        return Failed("house_closed", "every kind of output of this cue is switched off")
    return None


def _cue(visit: Visit) -> Failed | None:
    return None if visit.doorway.cue.on else Failed("cue_off")


def _role(visit: Visit) -> Failed | None:
    if visit.viewer is None:
        return None
    door = visit.doorway.cue.door
    if any(has_role(visit.viewer, role, door.tier) for role in door.who):
        return None
    return Failed("role", "for " + ", ".join(door.who))


def _viewer(visit: Visit) -> Failed | None:
    viewer = visit.viewer
    if viewer is None or not is_listed(viewer.id, viewer.name, visit.doorway.shut_out):
        return None
    return Failed("viewer_shut_out")


def _air(visit: Visit) -> Failed | None:
    air = visit.doorway.air
    if air == "any" or (air == "live") == visit.host.on_air:
        return None
    return Failed("off_air" if air == "live" else "on_air")


def _category(visit: Visit) -> Failed | None:
    door = visit.doorway.cue.door
    if not door.categories or among(visit.host.category, door.categories):
        return None
    return Failed("category", f"the category is {visit.host.category or 'not known'}")


def _scene(visit: Visit) -> Failed | None:
    door = visit.doorway.cue.door
    scene = visit.host.scene() if door.scenes else None
    if not door.scenes or among(scene, door.scenes):
        return None
    return Failed("scene", f"the scene is {scene or 'not known'}")


ANY_TEXT = TextRule()


def _text(visit: Visit) -> Failed | None:
    rule = visit.doorway.text
    if not visit.text and not rule.need:
        return None
    if visit.doorway.no_links and linked(visit.text):
        return Failed("text_word", "there is a link in it")
    text, note = normalised(visit.text, runs=rule.kind == "any"), ""
    visit.read = Text(text)
    if not text:
        return Failed("text_missing") if rule.need else None
    if rule.min is not None and len(text) < rule.min:
        return Failed("text_short", f"{len(text)} of at least {rule.min} characters")
    most = longest_text(rule, visit.doorway.house)
    if len(text) > most:
        if rule.too_long == "refuse":
            return Failed("text_long", f"{len(text)} of at most {most} characters")
        note = f"cut from {len(text)} to {most} characters"
        text = text[:most].rstrip()
    if visit.doorway.words:
        text, refused = censored(text, visit.doorway.words)
        if refused:
            return Failed("text_word", f"“{refused[0].entry}” is on a list")
    if rule.kind == "colour":
        return _colour(visit, text)
    if rule.kind == "number":
        return _number(visit, text, rule)
    if rule.kind == "choice":
        wanted = " ".join(folded(text).split())
        choice = next((c for c in rule.choices if " ".join(folded(c).split()) == wanted), None)
        visit.read = Text(text, choice=choice)
        return None if choice else Failed("text_choice", "one of " + ", ".join(rule.choices))
    visit.read = Text(text, note=note)
    return None


def _colour(visit: Visit, text: str) -> Failed | None:
    reading = read_colour(text)
    if reading is None:
        return Failed("text_colour", f"“{text}”")
    visit.read = Text(text, colour=reading.hex, note=f"taken as {reading.taken_as}" if reading.taken_as else "")
    return None


def _number(visit: Visit, text: str, rule: TextRule) -> Failed | None:
    bare = text.strip().lstrip("+")
    digits = bare[1:] if bare.startswith("-") else bare
    number = int(bare) if digits.isdecimal() and len(digits) < 16 else None
    low, high = rule.range if rule.range is not None else (None, None)
    if number is None:
        return Failed("text_number", f"“{text}”")
    if low is not None and high is not None and not low <= number <= high:
        return Failed("text_number", f"{number} is not from {low} to {high}")
    visit.read = Text(text, number=number)
    return None


class _AtDoor:
    """The circumstances of a call at a door (`conditions.Standing`)."""

    def __init__(self, visit: Visit) -> None:
        self._visit, host = visit, visit.host
        self.viewer, self.on_air, self.category = visit.viewer, host.on_air, host.category
        self.viewer_text = visit.read.text or visit.text
        self.scene, self.has_gear = host.scene, host.has_gear

    def count(self, name: str) -> int:
        return self._visit.host.count(self._visit.doorway.cue.id, self.viewer.id if self.viewer else "", name)


def _condition(visit: Visit) -> Failed | None:
    return None if all_hold(visit.doorway.cue.door.only_if, _AtDoor(visit)) else Failed("condition")


def _points(visit: Visit) -> Failed | None:
    if not visit.cost or visit.viewer is None or not visit.host.purse.on:
        return None
    held = visit.host.purse.held(visit.viewer.id, visit.now)
    return Failed("too_few_points", f"{held} of {visit.cost}") if held < visit.cost else None


def _cap_stream(visit: Visit) -> Failed | None:
    cap = visit.doorway.cue.door.cap_stream
    if cap is None or not visit.host.on_air or visit.tally.stream < cap:
        return None
    return Failed("cap_stream", f"{cap} a stream")


def _cap_viewer(visit: Visit) -> Failed | None:
    cap = visit.doorway.cue.door.cap_viewer
    if cap is None or not visit.host.on_air or visit.viewer is None:
        return None
    return Failed("cap_viewer", f"{cap} a stream") if visit.tally.per_viewer.get(visit.viewer.id, 0) >= cap else None


def _cap_window(visit: Visit) -> Failed | None:
    window = visit.doorway.cue.door.cap_window
    if window is None:
        return None
    span = ms(window.per_s)
    inside = [at for at in visit.tally.window if at > visit.now - span]
    visit.tally.window[:] = inside
    if len(inside) < window.count:
        return None
    left = inside[len(inside) - window.count] + span - visit.now
    return Failed("cap_window", f"{window.count} in {window.per_s:g} s", left)


def _cooling(clock: Cooldown | None, span: int, from_finish: bool, now: int, reason: str) -> Failed | None:
    if clock is None:
        return None
    if from_finish and clock.busy:
        return Failed(reason, "it has not finished")
    latest = clock.latest()
    if latest is None or now >= latest + span:
        return None
    left = latest + span - now
    return Failed(reason, _left((left + 50) // 100), left)


@lru_cache(maxsize=4096)
def _left(tenths: int) -> str:
    return f"{tenths / 10:g} s of cooldown left"


def cools_until(doorway: Doorway, tallies: Tallies) -> int | None:
    """Returns when a cue's cooldown ends for those who aren't exempt (ms of the engine's clock); None if there is none,
    or its end is unknown.
    """
    tally = tallies.cues.get(doorway.cue.id)
    clock = tallies.shared if doorway.uses_shared else tally.clock if tally is not None else None
    latest = clock.latest() if clock is not None and doorway.cue_pace else None
    return None if latest is None else latest + doorway.cue_ms


def _cooldown_viewer(visit: Visit) -> Failed | None:
    if visit.viewer is None or not visit.doorway.viewer_pace:
        return None
    clock = visit.tally.viewers.get(visit.viewer.id)
    return _cooling(clock, visit.doorway.viewer_ms, visit.doorway.from_finish, visit.now, "cooldown_viewer")


def _cooldown(visit: Visit) -> Failed | None:
    doorway = visit.doorway
    if not doorway.cue_pace:
        return None
    if doorway.uses_shared:
        return _cooling(visit.host.shared_before, doorway.cue_ms, False, visit.now, "cooldown")
    return _cooling(visit.tally.clock, doorway.cue_ms, doorway.from_finish, visit.now, "cooldown")


def _lane(visit: Visit) -> Failed | None:
    reason = visit.host.lane_reason(visit.doorway.cue.id, visit.viewer)
    return Failed(reason) if reason else None


class DoorCheck(NamedTuple):
    """A row of the door's table.

    Attributes:
        title: its name on the pages.
        ask: checks a visit.
        reasons: the reasons it may give.
        can_fail: whether it can fail at a door as it is set.
        spares: whether a role in ``door.spared`` skips it.
        pads: whether it applies to the streamer's pads.
    """

    title: str
    ask: CheckFunction
    reasons: tuple[str, ...]
    can_fail: Callable[[Doorway], bool]
    spares: bool = False
    pads: bool = False


def _always(_: Doorway) -> bool:
    return True


TEXT_REASONS = ("text_missing", "text_short", "text_long", "text_word", "text_colour", "text_number", "text_choice")
CHECKS: dict[str, DoorCheck] = {
    "house": DoorCheck(
        "House and kind open", _house, ("house_closed",), lambda d: not d.house.open or d.all_off, pads=True
    ),
    "cue": DoorCheck("Cue is on", _cue, ("cue_off",), lambda d: not d.cue.on, pads=True),
    "role": DoorCheck("Role", _role, ("role",), lambda d: "everyone" not in d.cue.door.who),
    "viewer": DoorCheck("Not blocked", _viewer, ("viewer_shut_out",), lambda d: bool(d.shut_out)),
    "air": DoorCheck("On air", _air, ("off_air", "on_air"), lambda d: d.air != "any"),
    "category": DoorCheck("Category", _category, ("category",), lambda d: bool(d.cue.door.categories)),
    "scene": DoorCheck("Scene", _scene, ("scene",), lambda d: bool(d.cue.door.scenes)),
    "text": DoorCheck("Text", _text, TEXT_REASONS, _always),
    "condition": DoorCheck("Condition", _condition, ("condition",), lambda d: bool(d.cue.door.only_if)),
    "points": DoorCheck("Points", _points, ("too_few_points",), lambda d: d.costs),
    "cap_stream": DoorCheck(
        "Limit per stream", _cap_stream, ("cap_stream",), lambda d: d.cue.door.cap_stream is not None, spares=True
    ),
    "cap_viewer": DoorCheck(
        "Limit per viewer", _cap_viewer, ("cap_viewer",), lambda d: d.cue.door.cap_viewer is not None, spares=True
    ),
    "cap_window": DoorCheck(
        "Limit per period", _cap_window, ("cap_window",), lambda d: d.cue.door.cap_window is not None, spares=True
    ),
    "cooldown_viewer": DoorCheck(
        "Viewer cooldown", _cooldown_viewer, ("cooldown_viewer",), lambda d: d.viewer_pace, spares=True
    ),
    "cooldown": DoorCheck("Cue cooldown", _cooldown, ("cooldown",), lambda d: d.cue_pace, spares=True),
    "lane": DoorCheck("Room in the lane", _lane, ("busy", "lane_full"), _always, pads=True),
}
"""All checks, in order."""


class Doorway:
    """A cue's door combined with the house's settings, with only the checks that can fail."""

    cue: Cue
    house: House
    all_off: bool
    shut_out: frozenset[str]
    cue_pace: bool
    viewer_pace: bool
    costs: bool
    air: Air
    text: TextRule

    def __init__(self, cue: Cue, book: Book) -> None:
        door, house = cue.door, book.house
        self.cue, self.house, self.text = cue, house, door.text or ANY_TEXT
        self.all_off = bool(cue.beats) and all(switched_off(beat.kind, house) for beat in cue.beats)
        self.shut_out = listed([*door.shut_out, *house.shut_out])
        self.air = air_of(door, house)
        self.spared = listed(house.spared)
        self.costs = book.points.on and any(call.kind == "chat" and call.cost for call in cue.calls)
        self.words: list[WordList] = [words for words in book.words if words.on]
        self.no_links = book.reading.links == "refuse"
        self.from_finish = door.cooldown_from == "finished"
        paces = paces_of(door, house)
        self.uses_shared = paces.shared
        self.cue_ms, self.viewer_ms = ms(paces.cue_s), ms(paces.viewer_s)
        self.cue_pace = self.cue_ms > 0 or (self.from_finish and door.cooldown_s is not None)
        self.viewer_pace = self.viewer_ms > 0 or (self.from_finish and door.viewer_cooldown_s is not None)
        self.shares_clock = house.shared_cooldown_s is not None
        self.clocked = self.cue_pace or self.viewer_pace or self.shares_clock
        self.windowed = door.cap_window is not None
        self.spares_some = bool(door.spared) or bool(self.spared)
        self.steps = [check for check in CHECKS.values() if check.can_fail(self)]
        self.asks = [check.ask for check in self.steps]

    def _skipped(self, visit: Visit, pad: bool) -> Callable[[DoorCheck], bool]:
        if pad:
            return lambda check: not check.pads
        viewer = visit.viewer
        if viewer is not None and self._spares(viewer):
            return lambda check: check.spares
        return lambda check: False

    def _spares(self, viewer: Viewer) -> bool:
        """Returns whether a viewer skips caps and cooldowns, by name or by role."""
        door = self.cue.door
        if self.spared and is_listed(viewer.id, viewer.name, self.spared):
            return True
        return any(has_role(viewer, role, door.tier) for role in door.spared)

    def verdict(self, visit: Visit, pad: bool = False) -> Failed | None:
        """Returns the first check that fails, or None: let in. Fills ``visit.read``."""
        asks: Iterable[CheckFunction] = self.asks
        if pad or self.spares_some:
            skipped = self._skipped(visit, pad)
            asks = [check.ask for check in self.steps if not skipped(check)]
            if pad:
                self.read(visit)
        for ask in asks:
            failed = ask(visit)
            if failed is not None:
                return failed
        return None

    def read(self, visit: Visit) -> None:
        """Reads the text as far as possible, whatever the door would say of it."""
        _text(visit)

    def answered(self, visit: Visit, pad: bool = False) -> tuple[Failed | None, tuple[Check, ...]]:
        """Returns the verdict (`verdict`) and the results of all checks, in order; each runs once. Fills
        ``visit.read``.
        """
        skipped = self._skipped(visit, pad)
        if pad:
            self.read(visit)
        rows: list[Check] = []
        first: Failed | None = None
        for name, check in CHECKS.items():
            if skipped(check):
                rows.append(Check(name, True, None, "not asked"))
                continue
            failed = check.ask(visit)
            first = first or failed
            rows.append(Check(name, failed is None, *(failed or (None, "", None))))
        return first, tuple(rows)


def switched_off(kind: str, house: House) -> bool:
    """Returns whether the house has switched off this kind of beat, or its kind of output."""
    return not (house.switches.get(kind, True) and house.switches.get(KINDS[kind].output, True))
