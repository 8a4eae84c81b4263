"""The state of each reward tonight: what it costs, how often it was redeemed, whether it can be, and where it is."""

from __future__ import annotations

from collections import Counter
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from sqlalchemy import func, select

from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.told import Kept, of_rewards
from cuejar.core.book.book import Book
from cuejar.core.facts.origin import GIVEN_ROW
from cuejar.core.facts.paths import reward_path
from cuejar.core.parts.folding import folded
from cuejar.core.rules.openings import CLOSED
from cuejar.core.rules.price import minutes_to_earn
from cuejar.core.rules.tickets import cues_of, limits_of, prompt_of
from cuejar.core.words.rewards import STANDINGS, limits_said, stamp_said, tonight_said
from cuejar.media.reward import SIDES
from cuejar.store.models import LedgerRow
from cuejar.studio import Studio

router = APIRouter(prefix="/api/rewards", tags=["rewards"])
NIGHT_MS = 12 * 3_600_000
"""How far back tonight reaches while the stream is off."""


class CalledOut(Shape):
    id: str
    name: str
    on: bool


class TonightOut(Shape):
    """How often a reward was redeemed, how often that was refunded, and the most common reason in words."""

    calls: int = 0
    refunds: int = 0
    reason: str = ""


class StandOut(Shape):
    """The state of a reward at a channel."""

    channel: str
    name: str
    standing: Literal["in_step", "waiting", "gone", "refused", "elsewhere", "missing", "away"]
    said: str
    problem: str


class TicketSaid(Shape):
    """A reward in words.

    ``does``: what it does; ``rule``: where its cue's rules differ from the defaults; ``limits``: what the channel keeps;
    ``tonight``: how often it was redeemed; ``stamp``: why viewers can't redeem it now (empty while they can).
    """

    does: str
    rule: str
    limits: str
    tonight: str
    stamp: str


class TicketOut(Shape):
    """A reward as it is now. ``minutes`` is how long a viewer watches to earn it; ``own_prompt``: it was written by
    hand; ``written``: its default; ``picture``: the address of its picture; ``closed``: why nobody can call its cue, in words; ``said``: the reward in words.
    """

    id: str
    title: str
    cost: int
    minutes: float
    prompt: str
    own_prompt: bool
    written: str
    picture: str | None
    on: bool
    shows: bool
    paused: bool
    closed: str
    cues: list[CalledOut]
    cooldown_s: float
    per_stream: int
    per_viewer: int
    tonight: TonightOut
    sets: list[str]
    channels: list[StandOut]
    said: TicketSaid


class OtherOut(Shape):
    """A reward of a channel that was made elsewhere; ``reward`` is the book's id for it."""

    channel: str
    name: str
    id: str
    title: str
    cost: int
    on: bool
    made_by: str
    reward: str | None


class TicketsOut(Shape):
    version: int
    since: int
    tickets: list[TicketOut]
    others: list[OtherOut]


def _tonight(studio: Studio) -> tuple[int, dict[str, TonightOut]]:
    """Returns since when (ms since 1970) tonight lasts, and what came for each reward."""
    runner = studio.runner
    begun = runner.view.on_air_from
    since = runner.clock.wall(begun if begun is not None else max(0, runner.clock.now() - NIGHT_MS))
    rows = (
        select(LedgerRow.reward, LedgerRow.outcome, LedgerRow.reason, func.count(LedgerRow.call.distinct()))
        .where(LedgerRow.wall >= since, LedgerRow.kind == "redemption", LedgerRow.reason != "repeat")
        .group_by(LedgerRow.reward, LedgerRow.outcome, LedgerRow.reason)
    )
    made: dict[str, TonightOut] = {}
    reasons: dict[str, Counter[str]] = {}
    with studio.sessions() as session:
        for reward, outcome, reason, count in session.execute(rows):
            night = made.setdefault(reward, TonightOut())
            night.calls += count
            if outcome == "refunded":
                night.refunds += count
                reasons.setdefault(reward, Counter())[reason or "dropped"] += count
    for reward, counted in reasons.items():
        reason = counted.most_common(1)[0][0]
        made[reward].reason = CLOSED.get(reason, "dropped while waiting, or nothing worked")
    return since, made


_WORDS = Kept(of_rewards)


@router.get("/{reward}/picture", include_in_schema=False)
async def picture(
    reward: str, studio: TheStudio, side: Annotated[int, Query(ge=SIDES.start, lt=SIDES.stop)] = 96
) -> Response:
    """Returns a reward's picture, or its cue's in its colour."""
    made = await studio.reward_pictures.made(reward, [side])
    if side not in made:
        raise Refused(404, "This reward has no picture.")
    return Response(made[side], media_type="image/png", headers={"Cache-Control": "private, max-age=86400"})


@router.get("/tickets")
async def tickets(studio: TheStudio) -> TicketsOut:
    """Returns every reward with its price, what it does, and whether viewers can redeem it now."""
    book = studio.books.book
    words = await _WORDS.of(book)
    view = studio.runner.view
    closed = view.closed()
    cues, (since, night) = cues_of(book), _tonight(studio)
    stands = studio.channels.stands()
    names = {channel: studio.channels.name(channel if channel != GIVEN_ROW else "") for channel in stands}
    per_min, marks = book.house.points_per_min, studio.reward_pictures.marks()
    sets: dict[str, list[str]] = {}
    for named in book.sets:
        for member in named.rewards:
            sets.setdefault(member, []).append(named.id)
    out = []
    for reward in book.rewards:
        called = cues.get(reward.id, [])
        cost, on = view.showing(reward_path(reward.id, "cost")), view.showing(reward_path(reward.id, "on"))
        now = cost if isinstance(cost, int) else reward.cost
        why = closed.get(reward.id)
        limits, tonight = limits_of(called, book), night.get(reward.id, TonightOut())
        shows = on if isinstance(on, bool) else reward.on
        paused = view.showing(reward_path(reward.id, "paused")) is True
        out.append(
            TicketOut(
                id=reward.id,
                title=reward.title,
                cost=now,
                minutes=minutes_to_earn(now, per_min),
                prompt=prompt_of(reward, called, book.house.most_text),
                own_prompt=reward.prompt is not None,
                written=prompt_of(reward.model_copy(update={"prompt": None}), called, book.house.most_text),
                picture=f"/api/rewards/{reward.id}/picture?side=112&mark={marks[reward.id]}"
                if reward.id in marks
                else None,
                on=reward.on,
                shows=shows,
                paused=paused,
                closed="" if why is None else CLOSED[why.reason] + (f": {why.detail}" if why.detail else ""),
                cues=[CalledOut(id=cue.id, name=cue.name, on=cue.on) for cue in called],
                cooldown_s=limits.cooldown_s,
                per_stream=limits.per_stream,
                per_viewer=limits.per_viewer,
                tonight=tonight,
                sets=sets.get(reward.id, []),
                channels=[
                    StandOut(
                        channel=channel,
                        name=names[channel],
                        said=STANDINGS[rows[reward.id].standing],
                        **rows[reward.id]._asdict(),
                    )
                    for channel, rows in stands.items()
                    if reward.id in rows
                ],
                said=TicketSaid(
                    does=words[reward.id][0],
                    rule=words[reward.id][1],
                    limits=limits_said(limits),
                    tonight=tonight_said(tonight.calls, tonight.refunds, tonight.reason),
                    stamp=stamp_said(reward.on, shows, paused),
                ),
            )
        )
    return TicketsOut(version=studio.books.version, since=since, tickets=out, others=_others(studio, book, names))


def _others(studio: Studio, book: Book, names: dict[str, str]) -> list[OtherOut]:
    by_title = {folded(reward.title): reward.id for reward in book.rewards if reward.elsewhere}
    return [
        OtherOut(
            channel=channel,
            name=names[channel],
            id=other.id,
            title=other.title,
            cost=other.cost,
            on=other.on,
            made_by=other.made_by,
            reward=by_title.get(folded(other.title)),
        )
        for channel, other in studio.channels.others()
    ]
