"""Rewards: new ones, several changed at once, those made elsewhere, price curves, tables in and out."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter
from pydantic import Field

from cuejar.api.book import Edited, edited
from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.texts import CsvText
from cuejar.core.book.book import Book, Price, Reward
from cuejar.core.book.files import book_json
from cuejar.core.carry.references import Emptied, Key, without
from cuejar.core.facts.origin import GIVEN_ROW
from cuejar.core.parts.base import Id, JsonObject, Name
from cuejar.core.parts.folding import folded
from cuejar.core.rules.price import forecast, minutes_to_earn
from cuejar.core.rules.rewardlist import Row, read, written
from cuejar.store.draft import Draft
from cuejar.studio import Studio

router = APIRouter(prefix="/api/rewards", tags=["rewards"])
MOST_AT_ONCE = 2_000


class NewReward(Shape):
    """A new reward; ``cue``: with an empty cue of the same name."""

    title: Annotated[str, Field(min_length=1, max_length=200)]
    cost: Annotated[int, Field(ge=1, le=10_000_000)] = 300
    text: bool = False
    cue: bool = False


class RewardOut(Shape):
    reward: Reward
    version: int
    cue: str | None = None


def _refuse_twice(book: Book, title: str) -> None:
    if any(folded(reward.title) == folded(title) for reward in book.rewards):
        raise Refused(409, f"There is already a reward “{title}”.", "Use it, or give the new one another title.")


@router.post("", status_code=201)
async def new_reward(studio: TheStudio, body: NewReward) -> RewardOut:
    """Adds a reward; its id is made from its title and stays, whatever the title becomes."""
    title = body.title.strip()

    def add(draft: Draft) -> tuple[str, str | None]:
        _refuse_twice(draft.book, title)
        fields = {"title": title, "cost": body.cost, "text": body.text}
        reward_id = draft.add("rewards", title, fields, "reward")
        if not body.cue:
            return reward_id, None
        cue = {"name": title, "calls": [{"kind": "reward", "reward": reward_id}]}
        return reward_id, draft.add("cues", title, cue, "cue")

    reward_id, cue_id = await studio.edit(add, f"added the reward {title}")
    reward = next(r for r in studio.books.book.rewards if r.id == reward_id)
    return RewardOut(reward=reward, version=studio.books.version, cue=cue_id)


class Change(Shape):
    """Changes to several rewards; anything not named stays."""

    on: bool | None = None
    cost: Annotated[int, Field(ge=1, le=10_000_000)] | None = None
    review: bool | None = None
    closed: Literal["pause", "refund"] | None = None
    tag: Name | None = None
    untag: Name | None = None
    into: Id | None = None
    out_of: Id | None = None


class ChangeIn(Shape):
    rewards: Annotated[list[Id], Field(min_length=1, max_length=MOST_AT_ONCE)]
    change: Change


def _known(studio: Studio, wanted: list[str]) -> list[Reward]:
    known = {reward.id: reward for reward in studio.books.book.rewards}
    for one in wanted:
        if one not in known:
            raise Refused(404, f"There is no reward “{one}”.")
    return [known[one] for one in dict.fromkeys(wanted)]


@router.post("/change")
async def change(studio: TheStudio, body: ChangeIn) -> Edited:
    """Changes several rewards in one step. Those made elsewhere keep what belongs to the channel."""
    chosen, asked = _known(studio, body.rewards), body.change
    ids = [reward.id for reward in chosen]
    theirs = {reward.id for reward in chosen if reward.elsewhere}
    sets = {named.id for named in studio.books.book.sets}
    for one in (asked.into, asked.out_of):
        if one is not None and one not in sets:
            raise Refused(404, f"There is no set “{one}”.")
    if theirs and (asked.on is not None or asked.cost is not None):
        title = next(reward.title for reward in chosen if reward.elsewhere)
        raise Refused(
            409,
            f"“{title}” was made elsewhere, so its switch and price are set at the channel.",
            "Take it over to change it here.",
        )
    fields = asked.model_dump(include={"on", "cost", "review", "closed"}, exclude_none=True)

    def changed(row: JsonObject) -> JsonObject:
        if row["id"] not in ids:
            return row
        tags = [tag for tag in row.get("tags", []) if tag != asked.untag]
        if asked.tag is not None and asked.tag not in tags:
            tags.append(asked.tag)
        return {**row, **fields, "tags": tags}

    def with_members(row: JsonObject) -> JsonObject:
        members = row.get("rewards", [])
        if row["id"] == asked.into:
            members = [*members, *(one for one in ids if one not in members)]
        if row["id"] == asked.out_of:
            members = [one for one in members if one not in ids]
        return {**row, "rewards": members}

    def change_all(draft: Draft) -> None:
        draft.become(
            {
                **draft.data,
                "rewards": [changed(row) for row in draft.entries("rewards")],
                "sets": [with_members(row) for row in draft.entries("sets")],
            }
        )

    what = chosen[0].title if len(chosen) == 1 else f"{len(chosen)} rewards"
    await studio.edit(change_all, f"changed {what}")
    return edited(studio, what)


class OrderIn(Shape):
    order: Annotated[list[Id], Field(min_length=1, max_length=MOST_AT_ONCE)]


@router.post("/order")
async def order(studio: TheStudio, body: OrderIn) -> Edited:
    """Puts rewards in this order; the others follow in their old order."""
    _known(studio, body.order)
    place = {one: number for number, one in enumerate(dict.fromkeys(body.order))}

    def sort(draft: Draft) -> None:
        rows = sorted(draft.entries("rewards"), key=lambda row: place.get(row["id"], len(place)))
        draft.become({**draft.data, "rewards": rows})

    await studio.edit(sort, "sorted the rewards")
    return edited(studio)


class RewardsIn(Shape):
    rewards: Annotated[list[Id], Field(min_length=1, max_length=MOST_AT_ONCE)]


@router.post("/remove")
async def remove(studio: TheStudio, body: RewardsIn) -> Edited:
    """Removes rewards from the book, and from everything that names them: calls of cues, sets, beats."""
    chosen = _known(studio, body.rewards)
    gone = {Key("rewards", reward.id) for reward in chosen}
    what = chosen[0].title if len(chosen) == 1 else f"{len(chosen)} rewards"
    try:
        await studio.edit(lambda draft: draft.become(without(draft.book, gone)), f"removed {what}")
    except Emptied as empty:
        raise Refused(
            409,
            f"The cue “{empty.cue}” would change nothing once this is removed (“{empty.beat}”).",
            "Remove that beat first.",
        ) from empty
    return edited(studio, what)


# The channel


@router.post("/{reward_id}/again")
async def again(studio: TheStudio, reward_id: Id) -> Edited:
    """Makes a reward again that was removed at a channel."""
    _known(studio, [reward_id])
    if not await studio.channels.make_again(reward_id):
        raise Refused(409, "It wasn’t removed at any channel.", "Nothing to do.")
    return edited(studio)


class ElsewhereIn(Shape):
    """A reward that was made elsewhere: its channel, and its id there."""

    channel: str
    id: str


class TakenOver(RewardOut):
    """``by_hand`` is what is still to be done at the channel; empty if that is nothing."""

    by_hand: str = ""


def _elsewhere(studio: Studio, body: ElsewhereIn) -> Any:
    for channel, other in studio.channels.others():
        if (channel, other.id) == (body.channel, body.id):
            return other
    raise Refused(404, "That reward no longer exists at the channel.")


async def _take(studio: Studio, body: ElsewhereIn, ours: bool) -> RewardOut:
    """Adds a reward that was made elsewhere to the book: as it is, or replaced by one of ours."""
    other = _elsewhere(studio, body)
    fields = {
        "title": other.title,
        "cost": max(1, other.cost),
        "text": other.text,
        "on": other.on,
        "elsewhere": not ours,
    }
    if other.prompt:
        fields["prompt"] = other.prompt[:400]
    channel = {} if body.channel == GIVEN_ROW else {"channel": body.channel}

    def take(draft: Draft) -> str:
        known = next((one for one in draft.book.rewards if folded(one.title) == folded(other.title)), None)
        if known is None:
            return draft.add("rewards", other.title, {**channel, **fields}, "reward")
        if not (known.elsewhere and ours):
            raise Refused(409, f"There is already a reward “{other.title}”.", "Give one of them another title.")
        draft.put("rewards", known.id, {**(draft.part("rewards", known.id) or {}), **fields})
        return known.id

    reward_id = await studio.edit(take, f"{'took over' if ours else 'imported'} {other.title}")
    return RewardOut(
        reward=next(r for r in studio.books.book.rewards if r.id == reward_id), version=studio.books.version
    )


@router.post("/take-in", status_code=201)
async def take_in(studio: TheStudio, body: ElsewhereIn) -> RewardOut:
    """Lets a reward that was made elsewhere call cues; it can't be changed, fulfilled or refunded."""
    return await _take(studio, body, ours=False)


@router.post("/take-over", status_code=201)
async def take_over(studio: TheStudio, body: ElsewhereIn) -> TakenOver:
    """Replaces it with an equal one of ours, also in the cues that it calls. The other must be removed by hand."""
    made = await _take(studio, body, ours=True)
    title, name = made.reward.title, studio.channels.name("" if body.channel == GIVEN_ROW else body.channel)
    by_hand = (
        f"Remove the old “{title}” at {name} by hand. Once it is gone, Cue Jar creates its own under the same name."
    )
    return TakenOver(**made.model_dump(), by_hand=by_hand)


# Prices and prompts


class CurveIn(Shape):
    """A price rule to look at, and how often an hour it may be redeemed."""

    cost: Annotated[int, Field(ge=1, le=10_000_000)]
    price: Price = Price()
    per_hour: Annotated[float, Field(ge=0, le=3_600)] = 6


class PointOut(Shape):
    """From this minute on: the price, and the minutes of watching it takes."""

    minute: float
    cost: int
    minutes: float


@router.post("/curve")
async def curve(studio: TheStudio, body: CurveIn) -> list[PointOut]:
    """The price over the coming hour."""
    reward = Reward(id="curve", title="curve", cost=body.cost, price=body.price)
    per_min = studio.books.book.house.points_per_min
    return [
        PointOut(minute=at / 60_000, cost=cost, minutes=minutes_to_earn(cost, per_min))
        for at, cost in forecast(reward, body.per_hour)
    ]


# Tables


@router.get("/table.csv", response_class=CsvText)
async def table(studio: TheStudio) -> CsvText:
    """Returns all rewards as CSV."""
    headers = {"Content-Disposition": 'attachment; filename="rewards.csv"'}
    return CsvText("\ufeff" + written(studio.books.book), headers=headers)


class TableIn(Shape):
    text: Annotated[str, Field(max_length=2_000_000)]


class RowOut(Shape):
    """A row of a table: its result, what it changes in the reward, and why it is refused."""

    line: int
    title: str
    what: Literal["new", "changed", "same", "refused"]
    changes: list[str]
    problem: str


class TableOut(Shape):
    rows: list[RowOut]


def _rows(rows: list[Row]) -> TableOut:
    return TableOut(rows=[RowOut(**row._asdict()) for row in rows])


@router.post("/table/preview")
async def preview_table(studio: TheStudio, body: TableIn) -> TableOut:
    """Returns what a table would change; nothing is done."""
    return _rows((await studio.read_text("rewards", read, body.text, studio.books.book)).rows)


@router.post("/table")
async def take_table(studio: TheStudio, body: TableIn) -> TableOut:
    """Imports what isn't refused, in one step."""
    reading = await studio.read_text("rewards", read, body.text, studio.books.book)
    if reading.data != book_json(studio.books.book):
        taken = sum(row.what in ("new", "changed") for row in reading.rows)
        await studio.edit(lambda draft: draft.become(reading.data), f"imported {taken} rewards from a table")
    return _rows(reading.rows)
