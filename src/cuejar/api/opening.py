"""Opening night: the simulated channel at one press, gear that answers on this machine, an overlay's test, ready-made
media.
"""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import Annotated, Literal

import httpx
import websockets
from fastapi import APIRouter
from fastapi.responses import FileResponse
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.found import Done, TheOverlay
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.kinds.gear import GEAR_KINDS, GearKind
from cuejar.core.parts.slugs import slug
from cuejar.core.parts.steps import Place
from cuejar.live.drivers.base import AwayError
from cuejar.live.drivers.osc import host_and_port, udp
from cuejar.live.drivers.overlay import topic
from cuejar.live.messages import Look, ShowTold, Source
from cuejar.settings import READY
from cuejar.standins.halt import PASSWORD
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["opening"])


class SimulatedOut(Shape):
    """Where the simulated channel is; none while it isn't running. ``demo``: this is the demo."""

    address: str | None
    demo: bool


def _web(studio: Studio) -> str | None:
    return f"http://{studio.simulated.address}" if studio.simulated.address is not None else None


@router.get("/simulated")
async def simulated(studio: TheStudio) -> SimulatedOut:
    """Returns where the simulated channel is, if it runs."""
    return SimulatedOut(address=_web(studio), demo=studio.is_demo)


@router.post("/simulated")
async def simulate(studio: TheStudio) -> SimulatedOut:
    """Runs the simulated channel and gear, now and at every start."""
    try:
        await studio.simulate()
    except AwayError as error:
        raise Refused(409, f"The simulated channel didn’t start: {error}.", "Stop it, then try again.") from error
    return await simulated(studio)


class FirstViewerIn(Shape):
    """A viewer of the simulated channel redeems a reward, by its title there."""

    viewer: Annotated[str, Field(min_length=1, max_length=200)] = "owlpost"
    reward: Annotated[str, Field(min_length=1, max_length=200)]
    text: Annotated[str, Field(max_length=500)] = ""


class RedeemedOut(Shape):
    redemption: str


@router.post("/simulated/redemptions", status_code=201)
async def redeem(studio: TheStudio, body: FirstViewerIn) -> RedeemedOut:
    """Redeems a reward as a simulated viewer."""
    where = _web(studio)
    if where is None:
        raise Refused(409, "The simulated channel isn’t running.", "Start it on the Opening night page.")
    async with httpx.AsyncClient(base_url=where, trust_env=False, timeout=5) as http:
        try:
            answer = await http.post("/channel/redemptions", json=body.model_dump())
        except httpx.HTTPError as error:
            raise Refused(409, "The simulated channel isn’t answering.", "Try again in a moment.") from error
    told = answer.json()
    if not answer.is_success:
        raise Refused(409, str(told.get("what") or answer.status_code), "Check the reward at the channel.")
    return RedeemedOut(redemption=told["id"])


# Gear found here

ASKED_S = 0.6


class GearFoundOut(Shape):
    """Gear that answers on its usual address and isn't in the book."""

    kind: str
    title: str
    mark: str
    address: str


@router.get("/gear-found")
async def gear_found(studio: TheStudio) -> list[GearFoundOut]:
    """Looks for gear on this computer."""
    port = 8710 if studio.simulated.address is None else int(studio.simulated.address.rpartition(":")[2])
    there = {gear.kind for gear in studio.books.book.gear}
    asked = [kind for kind in GEAR_KINDS.values() if kind.name not in there and kind.scheme in ("ws", "osc")]
    addresses = [kind.address.format(host="127.0.0.1", port=port) for kind in asked]
    answers = await asyncio.gather(*(_answers(kind, address) for kind, address in zip(asked, addresses, strict=True)))
    return [
        GearFoundOut(kind=kind.name, title=kind.title, mark=kind.mark, address=address)
        for kind, address, answered in zip(asked, addresses, answers, strict=True)
        if answered
    ]


class GearFoundIn(Shape):
    kind: Annotated[str, Field(max_length=40)]


@router.post("/gear-found", status_code=201)
async def add_found(studio: TheStudio, body: GearFoundIn) -> Edited:
    """Adds gear that answers here to the book, with the password of the simulated broadcaster."""
    found = next((one for one in await gear_found(studio) if one.kind == body.kind), None)
    if found is None:
        raise Refused(404, f"There is no “{body.kind}” answering here.", "Start it, then look again.")
    gear_id = slug(found.kind, {gear.id for gear in studio.books.book.gear}, "gear")
    simulated = studio.simulated.address
    if found.kind == "broadcaster" and simulated is not None and simulated in found.address:
        studio.secrets.put(gear_id, PASSWORD)
    value = {"id": gear_id, "kind": found.kind, "name": found.title, "address": found.address}
    await studio.edit(lambda draft: draft.put("gear", gear_id, value), f"added {found.title.lower()}")
    return edited(studio)


async def _answers(kind: GearKind, address: str) -> bool:
    try:
        async with asyncio.timeout(ASKED_S):
            if kind.scheme == "ws":
                async with websockets.connect(address, proxy=None, open_timeout=ASKED_S):
                    return True
            return await _says_here(kind.name, address)
    except (OSError, TimeoutError, AwayError, websockets.WebSocketException):
        return False


async def _says_here(kind: str, address: str) -> bool:
    """Checks whether gear behind OSC answers a hello. Raises AwayError or TimeoutError."""
    from pythonosc.osc_message_builder import OscMessageBuilder

    port = await udp(*host_and_port(address, "osc", 8710))
    heard = asyncio.Event()
    port.heard = lambda data: heard.set()
    hello = OscMessageBuilder(address=f"/{kind}/hello")
    for value in ("cue-jar", 0, 1):
        hello.add_arg(value)
    try:
        port.send(hello.build().dgram)
        await heard.wait()
        return True
    finally:
        port.close()


# An overlay's test

TEST_MS = 5_000
READY_FILES: dict[str, tuple[Literal["picture", "sound"], str, float]] = {
    "poster-tea.gif": ("picture", "image/gif", 1.0),
    "platform-bell.ogg": ("sound", "audio/ogg", 1.5),
}
"""Media that ship, for the test and the first cue: kind, type, and the length of one pass, in s."""


@router.post("/overlays/{overlay_id}/test")
async def try_overlay(studio: TheStudio, overlay: TheOverlay) -> Done:
    """Shows a picture and plays a sound on this overlay's pages for five seconds; nothing else is affected."""
    now = studio.runner.clock.now()
    pages = len(studio.hub.pages(topic(overlay.id)))
    if not pages:
        raise Refused(409, "No page of this overlay is connected.", "First copy its link and open it as a page.")
    for name, (kind, mime, length_s) in READY_FILES.items():
        source = Source(
            url=f"/api/ready/{name}", kind=kind, mime=mime, length_s=length_s, loops=0, from_s=0, to_s=None, gain_db=0
        )
        look = Look(place=Place(x=0.3, y=0.25, w=0.4, h=0.5), volume=80)
        told = ShowTold(
            run=f"test-{now}",
            beat=kind,
            kind=kind,
            value="test",
            at=now,
            until=now + TEST_MS,
            look=look,
            media=[source],
            now=now,
        )
        studio.hub.say(topic(overlay.id), told)
    return Done(what=f"A picture and a bell were sent to {pages} {'page' if pages == 1 else 'pages'}.")


@router.get("/ready/{name}", response_class=FileResponse)
async def ready(name: str) -> FileResponse:
    """Returns a file that ships with Cue Jar."""
    if name not in READY_FILES:
        raise Refused(404, f"There is no sample file “{name}”.")
    return FileResponse(Path(READY) / name, media_type=READY_FILES[name][1])
