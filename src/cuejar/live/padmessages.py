"""Messages between Cue Jar and a device with pads. The web's types are made from these models.

The device receives pad names and times, and no secret; viewers' names and texts only while it shows the desk, which a
limited one can't. It sends requests, counted and signed (`core.rules.pairing`).
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from cuejar.core.book.book import PadFace
from cuejar.core.engine.rows import HeldRow, LaneState, PadNow, Told
from cuejar.live.messages import Message, Pong

Number = Annotated[str, Field(pattern=r"^[0-9a-f]{32,128}$")]
Signature = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]

MOST_BODY = 3_000
"""How long what is asked of hands, or its answer, may be."""

# To the device


class PadsChallenge(Message):
    """Our nonce for this connection."""

    t: Literal["challenge"] = "challenge"
    number: str


class PadsPaired(Message):
    """The device now has an id and a key of its own."""

    t: Literal["paired"] = "paired"
    device: str


class PadsWelcome(Message):
    """The device is accepted. ``signature`` proves that this is the Cue Jar that it was paired with; ``limited``: to
    some cues.
    """

    t: Literal["welcome"] = "welcome"
    signature: str
    name: str
    limited: bool


class PadTold(Told):
    """A pad: its cue, its name, its pages, its look, and whether it can be held."""

    cue: str
    name: str
    tags: list[str]
    face: PadFace
    holds: bool


class PadsTold(Message):
    """All pads of this device, in order."""

    t: Literal["pads"] = "pads"
    pads: list[PadTold]


class PadsNow(Message):
    """What isn't idle, and the state of the house."""

    t: Literal["now"] = "now"
    now: int
    rows: list[PadNow]
    open: bool
    volume: float
    on_air: bool
    listens: bool = False


class ArrivalTold(Told):
    """A call that arrived: its ledger line, when (ms since 1970), who, for which cue or reward, and its result."""

    id: int
    at: int
    viewer: str
    what: str
    text: str
    verdict: str
    outcome: str
    said: str


class PadsDeskNow(Message):
    """What is on and who waits, for a device that shows the desk."""

    t: Literal["desk"] = "desk"
    held: list[HeldRow]
    lanes: list[LaneState]


class PadsArrivals(Message):
    """Calls that arrived or changed, newest first."""

    t: Literal["arrivals"] = "arrivals"
    rows: list[ArrivalTold]


class PadsDone(Message):
    """The result of a request, by its count; ``what`` says why it wasn't done."""

    t: Literal["done"] = "done"
    n: int
    ok: bool
    what: str


class PadsRefused(Message):
    """The device is refused, and why; ``wait_ms``: until it may try again."""

    t: Literal["refused"] = "refused"
    why: Literal["unknown", "expired", "wrong", "locked", "slow", "full"]
    wait_ms: int = 0


class HandsAsk(Message):
    """A request to the computer whose keys are pressed: ``body`` has a method of the wire of the keys and its params."""

    t: Literal["ask"] = "ask"
    n: int
    body: str
    signature: str


PadsMessage = Annotated[
    PadsChallenge
    | PadsPaired
    | PadsWelcome
    | PadsTold
    | PadsNow
    | PadsDeskNow
    | PadsArrivals
    | PadsDone
    | PadsRefused
    | Pong,
    Field(discriminator="t"),
]
"""Every message to a device."""

# From the device


class _Said(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, allow_inf_nan=False)


class PadsHello(_Said):
    """Who is connecting: a device, or one that uses the link of an offer; with its nonce for this connection."""

    t: Literal["hello"]
    device: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,40}$")]
    number: Number
    pair: bool = False


class PadsProve(_Said):
    t: Literal["prove"]
    signature: Signature


class PadsDo(_Said):
    """A request: ``body`` is a `PadsWish` as JSON, ``n`` its count."""

    t: Literal["do"]
    n: Annotated[int, Field(ge=1, le=1_000_000_000)]
    body: Annotated[str, Field(max_length=1000)]
    signature: Signature


class PadsPing(_Said):
    t: Literal["ping"]
    sent: Annotated[float, Field(ge=-1e15, le=1e15)]


class HandsAnswer(_Said):
    """The answer to the request of the same number: ``body`` has a result or an error."""

    t: Literal["answer"]
    n: Annotated[int, Field(ge=1, le=1_000_000_000)]
    body: Annotated[str, Field(max_length=MOST_BODY)]
    signature: Signature


HandsSaid = Annotated[PadsHello | PadsProve | HandsAnswer | PadsPing, Field(discriminator="t")]
"""Every message from a computer whose keys are pressed."""

PadsSaid = Annotated[PadsHello | PadsProve | PadsDo | PadsPing, Field(discriminator="t")]
"""Every message from a device."""

CueId = Annotated[str, Field(max_length=80)]


class PressWish(_Said):
    do: Literal["press"]
    cue: CueId


class LetGoWish(_Said):
    """Ends what this device's press of the cue holds, otherwise the latest run of the cue that is held."""

    do: Literal["let_go"]
    cue: CueId


class RestWish(_Said):
    do: Literal["rest"]


class VolumeWish(_Said):
    do: Literal["volume"]
    value: Annotated[float, Field(ge=0, le=100)]


class HouseWish(_Said):
    do: Literal["house"]
    open: bool


class DeskWish(_Said):
    """Sends the desk from now on, or no longer."""

    do: Literal["desk"]
    on: bool


class EndWish(_Said):
    """Ends a run that is on."""

    do: Literal["end"]
    run: CueId


class SendBackWish(_Said):
    """Drops a run that waits, with a refund."""

    do: Literal["send_back"]
    run: CueId


PadsWish = Annotated[
    PressWish | LetGoWish | RestWish | VolumeWish | HouseWish | DeskWish | EndWish | SendBackWish,
    Field(discriminator="do"),
]
"""The requests of a device."""
