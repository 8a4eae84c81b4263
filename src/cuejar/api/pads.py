"""Pads on other devices, as the streamer sets them up: where they connect, which are paired, limited, locked, revoked."""

from __future__ import annotations

from typing import Annotated, Literal

import segno
from fastapi import APIRouter, Depends, Request
from pydantic import Field

from cuejar.api.errors import Refused
from cuejar.api.found import Done
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.live.devices import Device, Does, Offer
from cuejar.pads.server import PadsServer, addresses

router = APIRouter(prefix="/api/pads", tags=["pads"])


def _server(request: Request) -> PadsServer:
    server: PadsServer | None = request.app.state.beside.get("pads")
    if server is None:
        raise Refused(409, "Pads are switched off in this Cue Jar.")
    return server


def _device(studio: TheStudio, device_id: str) -> Device:
    found = studio.devices.all.get(device_id)
    if found is None:
        raise Refused(404, "This device is no longer paired.")
    return found


def _offer(studio: TheStudio, offer_id: str) -> Offer:
    found = studio.devices.offers.get(offer_id)
    if found is None:
        raise Refused(404, "This code has expired.", "Make a new one.")
    return found


TheServer = Annotated[PadsServer, Depends(_server)]
TheDevice = Annotated[Device, Depends(_device)]
TheOffer = Annotated[Offer, Depends(_offer)]


class PadsOut(Shape):
    """The pads' port, the network address on which devices may connect (empty: none) and the ones available, whether
    that uses HTTPS, whether it is listening now, and the address of the page.
    """

    port: int
    beyond: str
    addresses: list[str]
    secure: bool
    listens: bool
    link: str


def _out(server: PadsServer) -> PadsOut:
    return PadsOut(
        port=server.port,
        beyond=server.beyond,
        addresses=addresses(),
        secure=server.certificate is not None,
        listens=not server.beyond or server.beyond in server.listens,
        link=server.link(),
    )


async def let_in(server: PadsServer, address: str) -> None:
    """Listens on an address of this computer, or on none. Raises Refused: it has no such address."""
    there = addresses()
    if address and address not in there:
        known = f"There are {', '.join(there)}." if there else "It has no network address."
        raise Refused(422, f"“{address}” is not an address of this computer.", known)
    await server.listen_beyond(address)


@router.get("")
async def pads(server: TheServer) -> PadsOut:
    """Returns the pads, and where devices connect."""
    return _out(server)


class BeyondIn(Shape):
    """An address of this computer on which other devices may connect; empty: none."""

    address: Annotated[str, Field(max_length=45)]


@router.put("/beyond")
async def beyond(server: TheServer, body: BeyondIn) -> PadsOut:
    """Lets devices of the network connect on one address, or none."""
    await let_in(server, body.address)
    return _out(server)


class OfferIn(Shape):
    """``cues``: the device is limited to these; none: it may do everything. ``here``: the link is for this computer
    itself. ``does``: what it is paired for; a computer whose keys are pressed gets a code to type.
    """

    name: Annotated[str, Field(min_length=1, max_length=50)] = "Phone"
    cues: Annotated[list[str], Field(max_length=500)] | None = None
    here: bool = False
    does: Does = "pads"


class OfferOut(Shape):
    """A link for one new device, as text and as a QR code (an SVG as data URI), or the command for a computer whose keys
    are pressed; valid once, until ``ends`` (ms since 1970).
    """

    id: str
    link: str
    code: str
    ends: int


@router.post("/offers", status_code=201)
async def offer(studio: TheStudio, server: TheServer, body: OfferIn) -> OfferOut:
    """Offers a device to be paired, with a code for two minutes."""
    if body.does == "hands" and (paired := studio.devices.hands()) is not None:
        raise Refused(409, f"{paired.name} is paired already.", "Remove it first.")
    made = studio.devices.offer(body.name.strip() or "Phone", body.cues, body.does)
    if made is None:
        raise Refused(409, "Too many devices are paired.", "Revoke one you no longer use.")
    if made.code:
        command = f"cuejar hands {server.link(beyond=not body.here)} {made.code}"
        return OfferOut(id=made.id, link=command, code="", ends=made.ends)
    # Browsers never send the part after the #.
    link = f"{server.link(beyond=not body.here)}#pair.{made.id}.{made.key.hex()}"
    return OfferOut(
        id=made.id, link=link, code=segno.make(link, error="m").svg_data_uri(scale=6, border=3), ends=made.ends
    )


class OfferState(Shape):
    """``waits`` until a device uses it, then ``paired`` (with the device), or ``over``."""

    state: Literal["waits", "paired", "over"]
    device: str


@router.get("/offers/{offer_id}")
async def offered(studio: TheStudio, found: TheOffer) -> OfferState:
    """Returns whether an offer was taken."""
    if found.taken:
        return OfferState(state="paired", device=found.taken)
    return OfferState(state="waits" if studio.devices.open_offer(found.id, found.does) else "over", device="")


@router.delete("/offers/{offer_id}")
async def withdraw(studio: TheStudio, found: TheOffer) -> Done:
    """Withdraws an offer."""
    studio.devices.withdraw(found.id)
    return Done(what="The link no longer works.")


class DeviceIn(Shape):
    name: Annotated[str, Field(min_length=1, max_length=50)]
    cues: Annotated[list[str], Field(max_length=500)] | None = None


@router.put("/devices/{device_id}")
async def change_device(studio: TheStudio, device: TheDevice, body: DeviceIn) -> Done:
    """Names a device, or limits it to some cues."""
    await studio.devices.change(device, body.name.strip() or device.name, body.cues)
    studio.pads.let_go(device)
    return Done(what=f"{device.name} saved.")


@router.delete("/devices/{device_id}")
async def revoke(studio: TheStudio, device: TheDevice) -> Done:
    """Revokes a device; it can't do anything from this moment on."""
    try:
        await studio.devices.revoke(device)
    finally:
        studio.pads.let_go(device)
        studio.hands.let_go(device)
    return Done(what=f"{device.name} revoked.")


@router.post("/devices/{device_id}/unlock")
async def unlock(studio: TheStudio, device: TheDevice) -> Done:
    """Unlocks a device that was locked by wrong signatures."""
    await studio.devices.unlock(device)
    return Done(what=f"{device.name} unlocked.")
