"""What the engine asks for. Orders are named tuples: cheap, immutable, and compared by value.

Every order about something that shows carries the run and the beat it came from, so that "why did this happen" has
an answer. Times are whole milliseconds of the engine's clock.

`line` writes an order the way ``cuejar rehearse`` prints it. Some orders are for the live show only (`PRINTED` lists
the others): what to prepare, the weights of a draw, a new end for something that is up.
"""

from __future__ import annotations

from typing import NamedTuple

from cuejar.core.facts.happenings import PropertyValue, Shown, Viewer
from cuejar.core.facts.paths import is_pause
from cuejar.core.parts.base import JsonObject


class Check(NamedTuple):
    """One check of the door, for the ledger. ``left_ms`` is how long until it would pass, if known."""

    check: str
    passed: bool
    reason: str | None = None
    detail: str = ""
    left_ms: int | None = None


class Arrived(NamedTuple):
    """A call that comes to a door: its kind, and the viewer, text and reward that it brings itself."""

    kind: str
    viewer: Viewer | None = None
    text: str = ""
    reward: str = ""


class Verdict(NamedTuple):
    """The door's answer. ``cost``: the price of the call at that instant, in points; ``arrived``: what it is about."""

    call: str
    cue: str | None
    verdict: str
    reason: str | None
    run: str | None
    detail: str = ""
    trace: tuple[Check, ...] = ()
    cost: int = 0
    arrived: Arrived = Arrived("")


class Start(NamedTuple):
    run: str
    cue: str
    call: str
    until: int | None = None


class Settle(NamedTuple):
    redemption: str
    as_: str


class Show(NamedTuple):
    run: str
    beat: str
    kind: str
    value: Shown
    until: int | None
    at: int = 0
    look: JsonObject = {}


class Hide(NamedTuple):
    run: str
    beat: str


class Change(NamedTuple):
    """Something that is up shows another value."""

    run: str
    beat: str
    value: Shown


class Prolong(NamedTuple):
    """Something that is up ends at another time."""

    run: str
    beat: str
    until: int | None


class Set(NamedTuple):
    path: str
    value: PropertyValue
    run: str | None
    beat: str | None
    fade_ms: int = 0


class Hold(NamedTuple):
    """A beat lays a value on a property whose gear is connected; another may lie above it. Its `Let` ends it."""

    run: str
    beat: str
    kind: str
    path: str
    value: PropertyValue


class Let(NamedTuple):
    """What a beat laid on a property is taken off, or dropped by hand."""

    run: str
    beat: str
    path: str


class Strike(NamedTuple):
    run: str
    beat: str
    kind: str
    value: Shown


class Roll(NamedTuple):
    run: str
    beat: str
    faces: list[int]
    outcome: str
    until: int | None = None
    look: JsonObject = {}


class Draw(NamedTuple):
    """The result of a draw, with its weights and the numbers that decided, so that it can be checked; for a draw of
    viewers also the seed of its one number.
    """

    run: str
    beat: str
    jar: str
    weights: list[tuple[str, float]]
    numbers: list[float]
    drawn: list[str]
    seed: str = ""


class Won(NamedTuple):
    """A viewer has won something; it stands in the list of winners."""

    run: str
    beat: str
    viewer: str
    name: str
    prize: str


class Drop(NamedTuple):
    run: str
    as_: str


class Finish(NamedTuple):
    run: str
    as_: str


class Fail(NamedTuple):
    """A beat couldn't do its work; the others go on."""

    run: str
    beat: str
    why: str


class Prepare(NamedTuple):
    """A run that was let in will speak: synthesise this now."""

    run: str
    beat: str
    text: str
    part: str | None


class AskReview(NamedTuple):
    """A redemption waits for the streamer's approval. ``cost``: its price at that instant, in points."""

    redemption: str
    cost: int = 0


class Paid(NamedTuple):
    """Points of ours were `earned`, `spent`, `refunded` or `given`: how many, and the new balance. Minutes of
    presence are credited without an order.
    """

    viewer: str
    what: str
    amount: float
    held: int
    call: str = ""
    why: str = ""


Order = (
    Paid
    | Verdict
    | Start
    | Settle
    | Show
    | Hide
    | Prolong
    | Change
    | Set
    | Hold
    | Let
    | Strike
    | Roll
    | Draw
    | Won
    | Drop
    | Finish
    | Fail
    | Prepare
    | AskReview
)

PRINTED: dict[type[Order], str] = {
    Verdict: "verdict",
    Start: "start",
    Settle: "settle",
    Show: "show",
    Hide: "hide",
    Set: "set",
    Strike: "strike",
    Roll: "roll",
    Drop: "drop",
    Finish: "finish",
    Paid: "points",
}
_FIELDS: dict[str, tuple[str, ...]] = {
    "verdict": ("call", "cue", "verdict", "reason", "run"),
    "start": ("run", "cue", "call"),
    "settle": ("redemption", "as_"),
    "show": ("run", "beat", "kind", "value", "until"),
    "hide": ("run", "beat"),
    "set": ("path", "value", "run", "beat"),
    "strike": ("run", "beat", "kind", "value"),
    "roll": ("run", "beat", "faces", "outcome"),
    "drop": ("run", "as_"),
    "finish": ("run", "as_"),
    "points": ("viewer", "what", "amount", "held", "call"),
}


def line(order: Order, at_ms: int) -> JsonObject | None:
    """Returns one line of a rehearsal's output, times in seconds; None for an order that isn't printed."""
    kind = PRINTED.get(type(order))
    if kind is None or (isinstance(order, Set) and is_pause(order.path)):
        return None
    out: JsonObject = {"at": at_ms / 1000, "type": kind}
    for name in _FIELDS[kind]:
        value = getattr(order, name)
        if name == "until" and value is not None:
            value = value / 1000
        out[name.rstrip("_")] = value
    return out
