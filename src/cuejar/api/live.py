"""What the streamer does on air: fire, try, release, drop, move, review, all to rest; and what is held."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import Field

from cuejar.api.errors import Refused
from cuejar.api.found import Done, Running, TheCue, Waiting
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.book.book import Cue
from cuejar.core.engine.night import Timed
from cuejar.core.engine.rows import HeldRow
from cuejar.core.facts import happenings as h
from cuejar.core.facts import orders as o
from cuejar.core.kinds.chance import ChanceBeat
from cuejar.core.kinds.table import KINDS
from cuejar.core.rules.chance import possible
from cuejar.core.rules.pads import endings
from cuejar.core.words.verdicts import sent_back_said

router = APIRouter(prefix="/api", tags=["live"])


class FireIn(Shape):
    text: Annotated[str, Field(max_length=10_000)] = ""


class ViewerIn(Shape):
    name: Annotated[str, Field(min_length=1, max_length=100)] = "hopper_kit"
    roles: list[str] = ["follower"]
    tier: int = 1


class TryIn(Shape):
    """A pretend viewer with their text, forced outcomes and draws by beat, and a speed that is never saved."""

    viewer: ViewerIn = ViewerIn()
    text: Annotated[str, Field(max_length=10_000)] = ""
    rolled: dict[str, str] = {}
    drawn: dict[str, str] = {}
    speed: Literal[1, 4, 16] = 1


class Fired(Shape):
    """The result: ``let_in``, ``extended`` or ``turned_away`` with a reason; ``until`` is when the run will end."""

    verdict: str
    reason: str | None = None
    detail: str = ""
    run: str | None = None
    started: bool = False
    until: int | None = None
    failed: list[str] = []


class Ended(Done):
    """What was brought to rest, by the names of the cues: running and waiting ones."""

    ended: list[str]
    dropped: list[str]


def _fired(timed: list[Timed], cue: str) -> Fired:
    verdict = next(v for _, v in timed if isinstance(v, o.Verdict) and v.cue == cue)
    start = next((s for _, s in timed if isinstance(s, o.Start) and s.run == verdict.run), None)
    failed = [f"{f.beat}: {f.why}" for _, f in timed if isinstance(f, o.Fail) and f.run == verdict.run]
    return Fired(
        verdict=verdict.verdict,
        reason=verdict.reason,
        detail=verdict.detail,
        run=verdict.run,
        started=start is not None,
        until=start.until if start else None,
        failed=failed,
    )


def refuse_impossible(cue: Cue, rolled: dict[str, str]) -> None:
    """Raises Refused: a forced outcome doesn't exist, or contradicts the others."""
    for beat_id, outcome in rolled.items():
        beat: Any = next((b for b in cue.beats if b.id == beat_id and KINDS[b.kind].outcomes(b)), None)
        if beat is None:
            chances = [b.id for b in cue.beats if KINDS[b.kind].outcomes(b)]
            there = f"Choose one of {', '.join(chances)}." if chances else "It doesn’t roll anything."
            raise Refused(422, f"“{cue.name}” has no roll “{beat_id}”.", there)
        can = possible(beat) if isinstance(beat, ChanceBeat) else [one.id for one in KINDS[beat.kind].outcomes(beat)]
        if outcome not in can:
            raise Refused(422, f"“{outcome}” isn’t an outcome of “{beat_id}”.", f"Choose one of {', '.join(can)}.")


@router.get("/holds")
async def holds(studio: TheStudio) -> list[HeldRow]:
    """Returns what is held now, and by which run."""
    return studio.runner.view.held()


@router.post("/cues/{cue_id}/fire")
async def fire(studio: TheStudio, cue: TheCue, body: FireIn | None = None) -> Fired:
    """Fires a cue by hand, as a pad does."""
    return _fired(await studio.runner.post(h.Pad(cue.id, body.text if body else "")), cue.id)


@router.post("/cues/{cue_id}/let-go")
async def let_go(studio: TheStudio, cue: TheCue) -> Done:
    """Ends the open beats of the latest run of a cue, as letting go of its pad does."""
    run = studio.runner.view.pressed(cue.id)
    for happening in endings(run) if run is not None else []:
        await studio.runner.post(happening)
    return Done(what="Released." if run is not None else "Nothing was held.")


@router.post("/cues/{cue_id}/try")
async def try_cue(studio: TheStudio, cue: TheCue, body: TryIn) -> Fired:
    """Fires a cue on air to see it: it skips the door and counts nowhere."""
    refuse_impossible(cue, body.rolled)
    viewer = h.Viewer("try", body.viewer.name, tuple(body.viewer.roles), body.viewer.tier)
    attempt = h.Try(cue.id, viewer, body.text, body.rolled, body.drawn, body.speed)
    return _fired(await studio.runner.post(attempt), cue.id)


@router.post("/all-to-rest")
async def all_to_rest(studio: TheStudio) -> Ended:
    """Ends every run and returns everything to rest, at once."""
    names = {run.id: run.score.cue.name for run in studio.runner.view.runs}
    timed = await studio.runner.post(h.AllToRest())
    ended = [names.get(f.run, f.run) for _, f in timed if isinstance(f, o.Finish) and f.as_ == "stopped"]
    dropped = [names.get(d.run, d.run) for _, d in timed if isinstance(d, o.Drop)]
    what = f"Ended: {', '.join(ended + dropped)}." if ended or dropped else "Everything was already at rest."
    return Ended(what=what, ended=ended, dropped=dropped)


class QuietIn(Shape):
    """What begins is heard at ``share`` of its volume for ``minutes``; a share of 1 ends the quiet spell."""

    share: Annotated[float, Field(ge=0, le=1)] = 0.5
    minutes: Annotated[float, Field(ge=0.1, le=1440)] = 60


@router.post("/quiet")
async def quiet(studio: TheStudio, body: QuietIn) -> Done:
    """Starts or ends a quiet spell. It also ends by itself."""
    await studio.runner.post(h.Quiet(body.share, body.minutes * 60))
    studio.desk.changed()
    if body.share == 1:
        return Done(what="Volume is back to normal.")
    return Done(what=f"Volume at {body.share:.0%} for {body.minutes:g} min.")


class ReleaseIn(Shape):
    beat: str | None = None


class MoveIn(Shape):
    before: str | None = None


class ReviewIn(Shape):
    ok: bool


@router.post("/runs/{run_id}/release")
async def release(studio: TheStudio, run: Running, body: ReleaseIn) -> Done:
    """Ends a run: everything it holds returns."""
    await studio.runner.post(h.Release(run, body.beat))
    return Done(what="Released.")


@router.post("/runs/{run_id}/drop")
async def drop(studio: TheStudio, run: Waiting) -> Done:
    """Drops everything of a waiting call; its points are refunded, unless something of it has been on."""
    there = studio.runner.view.run(run)
    assert there is not None
    timed = await studio.runner.post(h.DropCall(run=run))
    return Done(what=sent_back_said(there.call, there.redemption, (order for _, order in timed)))


@router.post("/runs/{run_id}/move")
async def move(studio: TheStudio, run: Waiting, body: MoveIn) -> Done:
    """Moves a waiting run in its line."""
    await studio.runner.post(h.Move(run, body.before))
    return Done(what="Moved.")


@router.post("/redemptions/{redemption}/review")
async def review(studio: TheStudio, redemption: str, body: ReviewIn) -> Done:
    """Approves or rejects a redemption that waits for approval."""
    if redemption not in studio.runner.view.reviews:
        raise Refused(409, "This redemption isn’t waiting for approval.")
    await studio.runner.post(h.Review(redemption, body.ok))
    return Done(what="Approved." if body.ok else "Rejected and refunded.")
