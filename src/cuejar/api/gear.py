"""The rig: the state of each piece of gear, what it shows and rests at, its secret, a test; and resting looks."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from fastapi import APIRouter
from fastapi.responses import Response
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import Done, TheGear, TheKeeper, TheLook, TheTested
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import is_sound
from cuejar.core.facts.origin import GIVEN_ROW
from cuejar.core.facts.paths import read_path
from cuejar.core.kinds.gear import GEAR_KINDS
from cuejar.core.measures.catalogue import shows
from cuejar.core.measures.lamps import LOOKS, overlaps, patched
from cuejar.core.parts.gear import CHANNELS, KindOfGear, Side
from cuejar.core.words.properties import property_said
from cuejar.live.drivers.base import AwayError, GearRefused
from cuejar.live.drivers.keys import KeysDriver
from cuejar.live.keeper import Keeper
from cuejar.live.wirelog import WireLog
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["gear"])
Value = bool | float | str


class GearKindOut(Shape):
    """A kind of gear: its name, title and mark, the scheme of its address, what its secret is called, whether it
    reports what it shows, and whether there may be several.
    """

    name: str
    title: str
    mark: str
    scheme: str
    secret: str
    tells: bool
    many: bool


class PropertyOut(Shape):
    """A property of the gear: what it rests at, what it should show, what it does show; ``held``: a hold is on it."""

    path: str
    name: str
    rest: Value | None
    wanted: Value | None
    actual: Value | None
    held: bool


class GearOut(Shape):
    """A piece of gear. ``address`` is where Cue Jar looks for it; the secret itself is never sent. ``lacks`` is what it
    can't do that others of its kind can.
    """

    id: str
    kind: KindOfGear
    name: str
    on: bool
    address: str
    state: str
    since: int
    problem: str
    serial: int
    lacks: list[str]
    has_secret: bool
    properties: list[PropertyOut]


class SettingOut(Shape):
    """What a setting, or a value of a deed, can be; ``title`` is what people call it if its id doesn't say so."""

    type: Literal["bool", "number", "colour", "choice", "text"]
    min: float | None
    max: float | None
    choices: list[str]
    title: str = ""
    unit: str = ""
    step: float | None = None


class DeedOut(Shape):
    title: str
    values: dict[str, SettingOut]


class ThingOut(Shape):
    title: str
    settings: dict[str, SettingOut]
    deeds: dict[str, DeedOut]


class TouchOut(Shape):
    """A pad of a wearable, and where on the body it lies, in the coordinates of a pattern."""

    id: str
    title: str
    side: Side
    x: float
    y: float
    size: float


class OutlineOut(Shape):
    """A line of a wearable's picture: x and y of each point in turn. The first line of a side is its edge."""

    side: Side
    points: list[float]


class CatalogueOut(Shape):
    """What the gear of a kind has, as last reported: scenes with their sources, filters by source, other names; the
    things of a bridge (its catalogue is called ``things/`` and the gear's id); the pads of a wearable, and the lines
    of its picture.
    """

    scenes: dict[str, list[str]]
    filters: dict[str, dict[str, dict[str, SettingOut]]]
    names: dict[str, list[str]]
    things: dict[str, ThingOut] = {}
    touches: list[TouchOut] = []
    outlines: list[OutlineOut] = []


def _properties(studio: Studio, keeper: Keeper | None) -> list[PropertyOut]:
    if keeper is None:
        return []
    view = studio.runner.view
    paths = sorted(set(keeper.actual) | set(keeper.wanted()))
    return [
        PropertyOut(
            path=path,
            name=property_said(path, view.book.rewards),
            rest=p.rest if (p := view.known(path)) else None,
            wanted=view.showing(path),
            actual=keeper.actual.get(path),
            held=view.is_held(path),
        )
        for path in paths
    ]


@router.get("/gear")
async def gear(studio: TheStudio) -> list[GearOut]:
    """Lists all gear with its state and problems."""
    rows = {row["id"]: row for row in [*studio.channels.rows(), *studio.rig.rows()]}
    nothing = {
        "state": "off",
        "since": 0,
        "problem": "This kind of gear isn’t supported yet.",
        "serial": 0,
        "lacks": [],
    }
    return [
        GearOut(
            id=one.id,
            kind=one.kind,
            name=one.name or one.id,
            on=one.on,
            address=studio.rig.address(one),
            has_secret=bool(studio.secrets.get(one.id)),
            properties=_properties(studio, studio.rig.keepers.get(one.id)),
            **{key: rows.get(one.id, nothing).get(key, empty) for key, empty in nothing.items()},
        )
        for one in studio.books.book.gear
    ]


@router.get("/gear/kinds")
async def gear_kinds() -> list[GearKindOut]:
    """Returns every kind of gear, including those from plug-ins."""
    return [
        GearKindOut(
            name=kind.name,
            title=kind.title,
            mark=kind.mark,
            scheme=kind.scheme,
            secret=kind.secret,
            tells=kind.tells,
            many=kind.many,
        )
        for kind in GEAR_KINDS.values()
    ]


@router.get("/gear/catalogue")
async def catalogue(studio: TheStudio) -> dict[str, CatalogueOut]:
    """Returns what each piece of gear has."""
    known = studio.runner.view.catalogues.snapshot()
    return {kind: CatalogueOut.model_validate(row) for kind, row in known.items()}


class SecretIn(Shape):
    secret: Annotated[str, Field(max_length=1000)]


@router.put("/gear/{gear_id}/secret")
async def put_secret(studio: TheStudio, gear: TheGear, body: SecretIn) -> Done:
    """Saves the gear's password where only its owner can read it, and reconnects."""
    studio.secrets.put(gear.id, body.secret)
    studio.rig.take(studio.books.book)
    studio.channels.take(studio.books.book)
    return Done(what=f"Secret of {gear.name or gear.id} saved.")


@router.post("/gear/{gear_id}/test")
async def test(tested: TheTested) -> Done:
    """Asks a piece of gear for an answer now."""
    try:
        return Done(what=await tested.test())
    except AwayError as error:
        raise Refused(409, f"It isn’t connected: {error}", "Check its address and password.") from error


@router.get("/gear/{gear_id}/picture", include_in_schema=False)
async def picture(keeper: TheKeeper) -> Response:
    """Returns what the gear shows now, as a PNG; nothing while it is disconnected."""
    png = await keeper.driver.picture() if keeper.driver is not None else None
    if png is None:
        raise Refused(404, "It isn’t connected, or can’t report its state.")
    return Response(png, media_type="image/png", headers={"Cache-Control": "no-store"})


@router.post("/gear/{gear_id}/keep-as-rest")
async def keep_as_rest(studio: TheStudio, keeper: TheKeeper) -> Done:
    """Makes what the gear shows now its rest; holds on it are dropped, as if the streamer had set it by hand."""
    view = studio.runner.view
    taken = 0
    for path, value in list(keeper.actual.items()):
        p = view.known(path)
        if p is None or p.layers or p.rest != value:
            await studio.runner.post(h.Hand(path, value))
            taken += 1
    return Done(what=f"{taken} {'property' if taken == 1 else 'properties'} saved as rest.")


class HandIn(Shape):
    path: str
    value: Value


@router.post("/gear/{gear_id}/hand")
async def hand(studio: TheStudio, keeper: TheKeeper, body: HandIn) -> Done:
    """Reports a change by hand on gear that can't report one: lamps, and latches that were toggled outside."""
    if keeper.kind not in ("lights", "keys") or not keeper.mine(body.path):
        raise Refused(409, f"{keeper.name} has no “{body.path}” that can be set here.")
    if keeper.kind == "lights" and not _shines(body.path, body.value):
        raise Refused(422, f"“{body.value}” isn’t a valid value for this lamp.", "Write colours like #d2281e.")
    if isinstance(keeper.driver, KeysDriver):
        if body.value not in ("on", "off"):
            raise Refused(422, "A latch can only be on or off.")
        await keeper.driver.correct(body.path, body.value)
    await studio.runner.post(h.Hand(body.path, body.value))
    keeper.stir()  # The gear doesn't show it yet: it is the one change by hand that must be sent.
    return Done(what=f"{body.path.split('/', 1)[1]} is {body.value}.")


class LatchIn(Shape):
    """A latch in doubt: ``press`` if it is on and should be tapped once more; otherwise it is off and nothing is
    pressed.
    """

    path: str
    press: bool


@router.post("/gear/{gear_id}/latch")
async def settle_doubt(keeper: TheKeeper, body: LatchIn) -> Done:
    """Settles the state of a latch that may or may not have been tapped; it is off afterwards."""
    if not isinstance(keeper.driver, KeysDriver) or not keeper.mine(body.path):
        raise Refused(409, f"{keeper.name} has no latch “{body.path}”, or isn’t connected.")
    try:
        await keeper.driver.correct(body.path, "off", body.press)
    except (AwayError, GearRefused) as error:
        raise Refused(409, f"The keys couldn’t be pressed: {error}", "Check the address of the keys.") from error
    keeper.stir()
    return Done(what=f"{property_said(body.path)} is off{', pressed once' if body.press else ''}.")


def _shines(path: str, value: Value) -> bool:
    what = read_path(path).steps[-1]
    if what == "level":
        return not isinstance(value, (bool, str)) and 0 <= value <= 1
    if what == "colour":
        return isinstance(value, str) and re.fullmatch(r"#[0-9a-fA-F]{6}", value) is not None
    return isinstance(value, str) and value.split(" ")[0] in LOOKS


class LampOut(Shape):
    """Where a lamp listens; ``problem`` says what is wrong with that."""

    id: str
    universe: int
    address: int | None
    channels: int
    problem: str


@router.get("/gear/{gear_id}/lamps")
async def lamps(gear: TheGear) -> list[LampOut]:
    """Lists the lamps of a piece of gear with their addresses."""
    fixtures = gear.fixtures
    where, clashes = patched(fixtures), overlaps(fixtures)
    rows = []
    for fixture in fixtures:
        with_ = [b if a == fixture.id else a for a, b in clashes if fixture.id in (a, b)]
        problem = f"Its channels overlap those of {', '.join(with_)}." if with_ else ""
        at = where.get(fixture.id)
        if at is None:
            problem = f"Universe {fixture.universe} is full."
        count = CHANNELS[fixture.profile]
        rows.append(
            LampOut(
                id=fixture.id,
                universe=fixture.universe,
                address=at.address if at else None,
                channels=count,
                problem=problem,
            )
        )
    return rows


class LeftOutOut(Shape):
    """A message that was ignored: when (ms since 1970), what it said (cut, secrets blanked), why."""

    at: int
    what: str
    why: str


class WireOut(Shape):
    """Messages of one wire that couldn't be read, newest first; and how often each unknown kind was ignored."""

    count: int
    left_out: list[LeftOutOut]
    passed_over: dict[str, int]


def _wires(studio: Studio) -> dict[str, WireLog]:
    """Returns the wire logs of the channels and of all gear."""
    channels = {channel or GIVEN_ROW: driver.wire for channel, driver in studio.channels.drivers.items()}
    return channels | {"osc": studio.osc.wire} | {gear: keeper.wire for gear, keeper in studio.rig.keepers.items()}


def _told(log: WireLog) -> WireOut:
    rows = [LeftOutOut(**row._asdict()) for row in reversed(log.left_out)]
    return WireOut(count=log.count, left_out=rows, passed_over=dict(log.passed_over))


@router.get("/wires")
async def wire_logs(studio: TheStudio) -> dict[str, WireOut]:
    """Returns the wire logs of every piece of gear; that of a channel given at start-up is called
    ``given:channel``, that of incoming OSC ``osc``.
    """
    return {name: _told(log) for name, log in _wires(studio).items()}


@router.get("/wires/{wire}")
async def wire_log(studio: TheStudio, wire: str) -> WireOut:
    """Returns the latest odd messages of a wire."""
    found = _wires(studio).get(wire)
    if found is None:
        raise Refused(404, f"There is no wire “{wire}”.")
    return _told(found)


class RestIn(Shape):
    values: dict[str, Value]


@router.put("/rest-values")
async def put_rest(studio: TheStudio, body: RestIn) -> Done:
    """Sets the rest values of properties; they show as soon as nothing lies above."""
    for path, value in body.values.items():
        _fits(studio, path, value)
    await studio.runner.post(h.Keep(dict(body.values)))
    return Done(what="Rest values saved.")


def _fits(studio: Studio, path: str, value: Value) -> None:
    """Raises Refused: there is no such property, or it can't rest at this value."""
    p = studio.runner.view.known(path)
    shown = next((k.actual[path] for k in studio.rig.keepers.values() if k.mine(path) and path in k.actual), None)
    now = shown if shown is not None else p.rest if p is not None else None
    if now is None:
        raise Refused(404, f"There is no property “{path}”.", "See the list on the Rig page.")
    number = isinstance(now, (int, float)) and not isinstance(now, bool)
    alike = isinstance(value, (int, float)) and not isinstance(value, bool) if number else type(value) is type(now)
    if not alike or not is_sound(value):
        kind = "a number" if number else "true or false" if isinstance(now, bool) else "text"
        raise Refused(422, f"“{path}” rests at {kind}, not at “{value}”.")
    setting = studio.runner.view.catalogues.setting_at(path)
    if setting is None or shows(setting, value):
        return
    if number:
        low, high = ("…" if end is None else f"{end:g}" for end in (setting.min, setting.max))
        raise Refused(422, f"“{path}” goes from {low} to {high}; {value} is not in it.")
    raise Refused(422, f"“{path}” can’t rest at “{value}”.", f"Choose one of {', '.join(setting.choices)}.")


class LookIn(Shape):
    """A resting look of all current rest values."""

    name: Annotated[str, Field(min_length=1, max_length=200)]


@router.post("/looks", status_code=201)
async def new_look(studio: TheStudio, body: LookIn) -> Edited:
    """Saves the rest values of all connected gear as a resting look."""
    rests = studio.runner.view.rest_values()
    values: dict[str, Value] = {}
    for keeper in studio.rig.keepers.values():
        for path in keeper.actual:
            rest = rests.get(path)
            if rest is not None:
                values[path] = rest
    if not values:
        raise Refused(409, "No gear has reported its state yet.", "Connect some on the Rig page first.")
    look = {"name": body.name, "values": values}
    await studio.edit(lambda draft: draft.add("looks", body.name, look, "look"), f"added the resting look {body.name}")
    return edited(studio)


@router.post("/looks/{look_id}/take")
async def take_look(studio: TheStudio, look: TheLook) -> Done:
    """Applies a resting look: all its rest values at once."""
    await studio.runner.post(h.Keep(dict(look.values)))
    return Done(what=f"{look.name} applied.")
