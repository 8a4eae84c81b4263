"""Whether tonight can begin: what wouldn't work, each with its fix."""

from __future__ import annotations

import shutil
from typing import Literal

from fastapi import APIRouter

from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.snags import snags_of
from cuejar.core.kinds.table import KINDS
from cuejar.core.snags.readiness import Concern, GearThere, OverlayThere, Tonight, concerns
from cuejar.live.drivers.overlay import topic
from cuejar.studio import Studio

router = APIRouter(prefix="/api", tags=["opening"])


class ConcernOut(Shape):
    """Something to look at before going on air, and the page on which to fix it."""

    check: str
    grade: Literal["error", "warning"]
    what: str
    mend: str
    page: str


def _overlays(studio: Studio) -> list[OverlayThere]:
    there = []
    for overlay in studio.books.book.overlays:
        if not overlay.private:
            pages = studio.hub.pages(topic(overlay.id))
            there.append(OverlayThere(overlay.name, len(pages), sum(bool(page.about.get("blocked")) for page in pages)))
    return there


def looked_at(studio: Studio) -> list[Concern]:
    """Returns every current problem, worst first."""
    book, view = studio.books.book, studio.runner.view
    on = {cue.id: cue for cue in book.cues if cue.on}
    graded: dict[str, set[str]] = {"error": set(), "warning": set()}
    for snag in snags_of(studio, book):
        if snag.cue in on and snag.hidden is None:
            graded[snag.grade].add(snag.cue)
    off: dict[str, list[str]] = {}
    for name, is_on in book.house.switches.items():
        if not is_on:
            having = [cue.name for cue in on.values() if any(name in (b.kind, KINDS[b.kind].output) for b in cue.beats)]
            off[name.capitalize()] = having
    gear = [*studio.channels.rows(), *studio.rig.rows()]
    return concerns(
        Tonight(
            house_open=book.house.open,
            volume=book.house.volume,
            errors=[cue.name for cue in on.values() if cue.id in graded["error"]],
            warnings=[cue.name for cue in on.values() if cue.id in graded["warning"] - graded["error"]],
            gear=[GearThere(row["name"], row["kind"], row["state"], row["problem"]) for row in gear],
            overlays=_overlays(studio),
            off=off,
            tries=[run.score.cue.name for run in view.runs if run.tried and run.speed > 1],
            free_bytes=shutil.disk_usage(studio.folder).free,
            locked=[device.name for device in studio.devices.all.values() if device.conduct.locked],
            troubles=[f"{trouble.what} {trouble.means}".strip() for trouble in studio.troubles.rows()],
        )
    )


@router.get("/readiness")
async def readiness(studio: TheStudio) -> list[ConcernOut]:
    """Returns what wouldn't work tonight; empty if all is well."""
    return [ConcernOut(**one._asdict()) for one in looked_at(studio)]
