"""Messages of the feeds, to the desk and to the pages of an overlay. The web's types are made from these models.

A field that isn't set isn't sent. Times are ms since 1970 by the show's clock.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag

from cuejar.core.engine.rows import HeldRow, LaneState, PadNow, Told
from cuejar.core.facts.happenings import PropertyValue
from cuejar.core.measures.throw import Thing
from cuejar.core.parts.steps import Entrance, Place


class Message(Told):
    """A whole message: its ``t`` says which."""

    def model_post_init(self, _: Any) -> None:
        self.__pydantic_fields_set__.add("t")

    def text(self) -> str:
        return self.model_dump_json(exclude_unset=True)


# The ledger


class CheckTold(Told):
    """The result of one check of the door."""

    check: str
    passed: bool
    reason: str | None
    detail: str
    left_ms: int | None


class LedgerLine(Told):
    """A line of the ledger; ``at`` is ms since 1970, ``outcome`` how a redemption ended, ``said`` the result in words."""

    id: int
    at: int
    call: str
    kind: str
    viewer: str
    viewer_name: str
    text: str
    reward: str
    cost: int
    cue: str
    verdict: str
    reason: str
    detail: str
    run: str
    outcome: str
    trace: list[CheckTold]
    notes: list[dict[str, Any]]
    said: str


# The desk


class ShowState(Told):
    """The state of the show; ``said`` are problems found at start-up, ``owed`` what channel and gear haven't confirmed
    yet; ``listens``: a microphone is open.
    """

    on_air: bool
    stream_from: int | None
    category: str | None
    open: bool
    said: list[str]
    owed: dict[str, int]
    listens: bool = False


class ReviewRow(Told):
    redemption: str
    reward: str
    viewer: str
    text: str
    viewer_id: str = ""


class Reviews(Told):
    """Calls waiting for the streamer's approval: how many, and the first."""

    count: int
    first: list[ReviewRow]


class GearRow(Told):
    id: str
    kind: str
    name: str
    state: Literal["in_step", "catching_up", "away", "off"]
    since: int
    problem: str
    serial: int = 0
    lacks: list[str] = []


class PageTold(Told):
    """An overlay page's report: how far it lags (ms), its size, whether the browser blocks its sound."""

    lag_ms: float | None = None
    width: int | None = None
    height: int | None = None
    blocked: bool = False


class OverlayRow(Told):
    """An overlay with the number of its connected pages, and the report of each; ``beyond`` is the address on which other
    computers may show it, if any.
    """

    id: str
    name: str
    pages: int
    lags: list[float | None]
    told: list[PageTold] = []
    beyond: str = ""


class JobRow(Told):
    """Work on a file: ``share`` of it is done (0 to 1)."""

    id: int
    what: str
    name: str
    state: Literal["waiting", "running", "done", "stopped", "failed"]
    share: float
    problem: str


class TroubleRow(Told):
    what: str
    means: str
    since: int


class TaskRow(Told):
    name: str
    state: str
    problem: str
    since: int
    falls: int


class Wrong(Told):
    """What doesn't work now, and the tasks that failed."""

    troubles: list[TroubleRow]
    tasks: list[TaskRow]


class DeviceTold(Told):
    """A paired device: its number of connections, and of wrong signatures in its name."""

    id: str
    name: str
    made: int
    seen: int
    cues: list[str] | None
    locked: bool
    wrong: int
    connected: int


class PadsDesk(Told):
    """What pads show, the devices that have any, and the computer whose keys are pressed."""

    rows: list[PadNow]
    devices: list[DeviceTold]
    hands: DeviceTold | None = None


class QuietTold(Told):
    """A quiet spell: until then new sounds play at this share of their volume."""

    share: float
    until: int


class NextTimer(Told):
    """When a timer calls which cue next."""

    at: int
    cue: str


class Timing(Told):
    """What depends on the clock: the current quiet spell, and the next timers."""

    quiet: QuietTold | None
    timers: list[NextTimer]


class _Part(Message):
    t: Literal["part"] = "part"
    now: int


class ShowPart(_Part):
    of: Literal["show"]
    value: ShowState


class HeldPart(_Part):
    of: Literal["held"]
    value: list[HeldRow]


class LanePart(_Part):
    of: Literal["lane"]
    value: LaneState


class TimingPart(_Part):
    of: Literal["timing"]
    value: Timing


class LanesPart(_Part):
    """The ids of the lanes, in their order."""

    of: Literal["lanes"]
    value: list[str]


class TriesPart(_Part):
    """The runs that are tries."""

    of: Literal["tries"]
    value: list[str]


class ReviewsPart(_Part):
    of: Literal["reviews"]
    value: Reviews


class GearPart(_Part):
    of: Literal["gear"]
    value: list[GearRow]


class OverlaysPart(_Part):
    of: Literal["overlays"]
    value: list[OverlayRow]


class JobsPart(_Part):
    of: Literal["jobs"]
    value: list[JobRow]


class PadsPart(_Part):
    of: Literal["pads"]
    value: PadsDesk


class WrongPart(_Part):
    of: Literal["wrong"]
    value: Wrong


DeskPart = Annotated[
    ShowPart
    | HeldPart
    | LanePart
    | LanesPart
    | TimingPart
    | TriesPart
    | ReviewsPart
    | GearPart
    | OverlaysPart
    | JobsPart
    | PadsPart
    | WrongPart,
    Field(discriminator="of"),
]


class DeskWhole(Message):
    """A desk opened: everything follows."""

    t: Literal["whole"] = "whole"
    now: int
    version: int


class DeskLedger(Message):
    t: Literal["ledger"] = "ledger"
    lines: list[LedgerLine]


class DeskBook(Message):
    """The book has a new version."""

    t: Literal["book"] = "book"
    version: int


class DeskReady(Message):
    """A desk that opened has received everything."""

    t: Literal["ready"] = "ready"


class Pong(Message):
    t: Literal["pong"] = "pong"
    sent: float | None


def _kind_of(message: Any) -> str:
    return str(message.get("t") if isinstance(message, dict) else message.t)


DeskMessage = Annotated[
    Annotated[DeskPart, Tag("part")]
    | Annotated[DeskWhole, Tag("whole")]
    | Annotated[DeskLedger, Tag("ledger")]
    | Annotated[DeskBook, Tag("book")]
    | Annotated[DeskReady, Tag("ready")]
    | Annotated[Pong, Tag("pong")],
    Discriminator(_kind_of),
]
"""Every message to a desk."""


# Overlays


class Source(Told):
    """What a page needs to fetch and play a file; ``gain_db`` is what levelling adds."""

    url: str
    kind: Literal["picture", "clip", "sound"]
    mime: str
    length_s: float
    loops: int
    from_s: float
    to_s: float | None
    gain_db: float


class Look(BaseModel):
    """How a beat looks and sounds; each kind adds its own fields."""

    model_config = ConfigDict(extra="allow")
    place: Place | None = None
    layer: int | None = None
    opacity: float | None = None
    corner: float | None = None
    flip: bool | None = None
    enter: Entrance | None = None
    leave: Entrance | None = None
    fade_in_s: float | None = None
    fade_out_s: float | None = None
    volume: float | None = None
    duck: float | None = None
    size: float | None = None
    colour: str | None = None
    plate: str | None = None
    face: Literal["display", "text"] | None = None
    align: Literal["left", "centre", "right"] | None = None
    caption: bool | None = None
    mouth: bool | None = None
    mouth_place: Place | None = None


class SpeechTold(Told):
    """A speech's details, in s from its beginning: words with their beginning, end and speaker;
    which mouth picture shows from when on.
    """

    words: list[tuple[str, float, float, str]]
    mouth: list[tuple[float, int]]
    pictures: list[str]
    blink: str | None


class ShowTold(Message):
    """A beat is up: since ``at``, until ``until`` (None: open). ``things`` are what a throw throws."""

    t: Literal["show"] = "show"
    at: int
    run: str
    beat: str
    kind: str
    value: Any
    until: int | None
    look: Look
    media: list[Source | None] | None = None
    things: list[Thing] | None = None
    speech: SpeechTold | None = None
    now: int | None = None


class HideTold(Message):
    t: Literal["hide"] = "hide"
    run: str
    beat: str
    at: int | None = None
    now: int | None = None


class UntilTold(Message):
    t: Literal["until"] = "until"
    run: str
    beat: str
    until: int | None
    now: int


class OthersTold(Message):
    """The factor for every sound that doesn't duck others."""

    t: Literal["others"] = "others"
    value: float
    at: int | None = None


class TimerRow(Told):
    """Something held: its value, its end (None: open), its cue."""

    path: str
    name: str
    value: PropertyValue
    until: int | None
    cue: str


class TimersTold(Message):
    t: Literal["timers"] = "timers"
    rows: list[TimerRow]


class OverlaySetUp(Told):
    """The setup of an overlay."""

    id: str
    name: str
    width: int
    height: int
    sound: bool
    picture: bool
    private: bool
    ground: str | None
    timers: bool


class OverlayWhole(Message):
    """A page opens, or its overlay's setup changed: all that is up."""

    t: Literal["whole"] = "whole"
    now: int
    overlay: OverlaySetUp
    others: float | None
    timers: list[TimerRow]
    up: list[ShowTold]


OverlayMessage = Annotated[
    ShowTold | HideTold | UntilTold | OthersTold | TimersTold | OverlayWhole | Pong, Field(discriminator="t")
]
"""Every message to a page of an overlay."""
