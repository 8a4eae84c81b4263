"""Viewers: who was there, what they called, what they have in points of our own; and the streamer's settings for each."""

from __future__ import annotations

import asyncio
from typing import Annotated, Literal

from fastapi import APIRouter, Query
from pydantic import Field
from sqlalchemy import Select, case, func, select
from sqlalchemy.orm import Session

from cuejar import logs
from cuejar.api.errors import Refused
from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.api.texts import CsvText
from cuejar.core.facts import happenings as h
from cuejar.core.facts.gate import Key
from cuejar.core.parts.base import Id
from cuejar.core.rules.people import is_listed, listed, own_of, with_viewer
from cuejar.core.rules.playscript import speakable_name
from cuejar.core.rules.pointlist import Balance, read, written
from cuejar.core.rules.purse import ONE, Account
from cuejar.core.rules.words import ordinal
from cuejar.store.models import LedgerRow, PaidRow, ViewerRow
from cuejar.studio import Studio

router = APIRouter(prefix="/api/viewers", tags=["viewers"])
MOST_PAID = 20
MOST_TIMES = 12
LATER = case((PaidRow.what == "refunded", 2), (PaidRow.what == "spent", 1), else_=0)
"""The order of events within one instant."""


class ViewerOut(Shape):
    """A viewer: their roles and last name, when they were seen (ms since 1970), what they redeemed, what was refunded
    and spent at the channel; ``held`` are whole points of ours, none without an account.
    """

    id: str
    name: str
    roles: list[str]
    tier: int
    first: int
    last: int
    redemptions: int
    refunds: int
    spent: int
    held: int | None
    part: str | None
    spared: bool
    shut_out: bool


class ViewersOut(Shape):
    total: int
    viewers: list[ViewerOut]


class TimesOut(Shape):
    """How often a cue ran for a viewer and in total; in words: *7th time (412th overall)*."""

    cue: str
    name: str
    viewer: int
    all: int
    said: str


class PaidOut(Shape):
    at: int
    what: str
    amount: float
    held: int
    why: str


class AccountOut(Shape):
    earned: float
    given: float
    spent: float
    refunded: float
    held: float


class CardOut(Shape):
    """All about one viewer. ``read_as`` is how their name is read aloud; ``merged``: the viewer whose points they
    share.
    """

    viewer: ViewerOut
    read_as: str
    merged: str | None
    times: list[TimesOut]
    account: AccountOut | None
    paid: list[PaidOut]


class Chosen(Shape):
    """Which viewers, in which order."""

    text: Annotated[str, Query(max_length=200)] = ""
    sort: Literal["last", "name", "held"] = "last"
    limit: Annotated[int, Query(ge=1, le=500)] = 100
    skip: Annotated[int, Query(ge=0, le=10**7)] = 0


def _out(studio: Studio, session: Session, rows: list[ViewerRow], accounts: dict[str, Account]) -> list[ViewerOut]:
    """Returns the rows with the ledger's figures; a redemption counts once, however many cues it called."""
    settled = (
        select(
            LedgerRow.viewer,
            LedgerRow.call,
            func.max(LedgerRow.cost).label("cost"),
            func.max(case((LedgerRow.outcome == "refunded", 1), else_=0)).label("back"),
        )
        .where(
            LedgerRow.viewer.in_([row.id for row in rows]), LedgerRow.kind == "redemption", LedgerRow.reason != "repeat"
        )
        .group_by(LedgerRow.viewer, LedgerRow.call)
        .subquery()
    )
    query = select(
        settled.c.viewer,
        func.count(),
        func.sum(settled.c.back),
        func.sum(case((settled.c.back == 0, settled.c.cost), else_=0)),
    ).group_by(settled.c.viewer)
    counts = {viewer: (int(n), int(back), int(spent)) for viewer, n, back, spent in session.execute(query)}
    book, view = studio.books.book, studio.runner.view
    spared, shut_out, own = listed(book.house.spared), listed(book.house.shut_out), book.reading.viewers
    out = []
    for row in rows:
        redemptions, refunds, spent = counts.get(row.id, (0, 0, 0))
        account = accounts.get(view.merged_into(row.id))
        out.append(
            ViewerOut(
                id=row.id,
                name=row.name,
                roles=list(row.roles),
                tier=row.tier,
                first=row.first,
                last=row.last,
                redemptions=redemptions,
                refunds=refunds,
                spent=spent,
                held=None if account is None else account.held // ONE,
                part=own_of(row.id, row.name, own),
                spared=is_listed(row.id, row.name, spared),
                shut_out=is_listed(row.id, row.name, shut_out),
            )
        )
    return out


def _chosen(chosen: Chosen) -> Select[ViewerRow]:
    query = select(ViewerRow)
    if chosen.text.strip():
        query = query.where(ViewerRow.name.contains(chosen.text.strip(), autoescape=True))
    return query


@router.get("")
async def viewers(studio: TheStudio, chosen: Annotated[Chosen, Query()]) -> ViewersOut:
    """Lists viewers."""
    accounts = studio.runner.view.accounts() if studio.books.book.points.on else {}
    with studio.sessions() as session:
        query = _chosen(chosen)
        total = session.scalar(select(func.count()).select_from(query.subquery())) or 0
        if chosen.sort == "held" and accounts:
            ids = sorted(accounts, key=lambda viewer: (-accounts[viewer].held, viewer))
            wanted = ids if chosen.text.strip() else ids[chosen.skip : chosen.skip + chosen.limit]
            known = {
                row.id: row
                for i in range(0, len(wanted), 500)
                for row in session.scalars(query.where(ViewerRow.id.in_(wanted[i : i + 500])))
            }
            rows = [known[viewer] for viewer in wanted if viewer in known]
            rows = rows[chosen.skip : chosen.skip + chosen.limit] if chosen.text.strip() else rows
        else:
            by = [func.lower(ViewerRow.name), ViewerRow.id] if chosen.sort == "name" else [ViewerRow.last.desc()]
            rows = list(session.scalars(query.order_by(*by).offset(chosen.skip).limit(chosen.limit)))
        return ViewersOut(total=total, viewers=_out(studio, session, rows, accounts))


def _known(session: Session, viewer: str) -> ViewerRow:
    row = session.get(ViewerRow, viewer)
    if row is None:
        raise Refused(404, "This viewer doesn’t exist.", "Viewers appear once they call, chat or watch.")
    return row


def _account(account: Account | None) -> AccountOut | None:
    if account is None:
        return None
    return AccountOut(**{name: getattr(account, name) / ONE for name in AccountOut.model_fields})


@router.get("/card")
async def card(studio: TheStudio, viewer: Annotated[str, Query(max_length=200)]) -> CardOut:
    """Returns everything that is known of a viewer."""
    view = studio.runner.view
    names = {cue.id: cue.name for cue in studio.books.book.cues}
    account = view.account(viewer) if studio.books.book.points.on else None
    with studio.sessions() as session:
        row = _known(session, viewer)
        out = _out(studio, session, [row], {view.merged_into(viewer): account} if account is not None else {})[0]
        paid = session.scalars(
            select(PaidRow).where(PaidRow.viewer == viewer).order_by(PaidRow.at.desc(), LATER.desc()).limit(MOST_PAID)
        )
        rows = [PaidOut(at=one.wall, what=one.what, amount=one.amount, held=one.held, why=one.why) for one in paid]
    times = sorted(view.times(viewer).items(), key=lambda item: -item[1][0])[:MOST_TIMES]
    merged = view.merged_into(viewer)
    return CardOut(
        viewer=out,
        read_as=speakable_name(out.name) if out.name else "",
        merged=merged if merged != viewer else None,
        times=[
            TimesOut(
                cue=cue,
                name=names[cue],
                viewer=mine,
                all=everybody,
                said=f"{ordinal(mine)} time ({ordinal(everybody)} overall)",
            )
            for cue, (mine, everybody) in times
            if cue in names
        ],
        account=_account(account),
        paid=rows,
    )


class SayIn(Shape):
    """The streamer's settings for a viewer; anything not named stays. ``part`` empty: none of their own."""

    viewer: Key
    part: Id | Literal[""] | None = None
    spared: bool | None = None
    shut_out: bool | None = None


class SaidOfViewer(Shape):
    version: int


@router.post("/say")
async def say(studio: TheStudio, body: SayIn) -> SaidOfViewer:
    """Changes what is set for a viewer: the part that reads for them, whether they are exempt or blocked."""
    with studio.sessions() as session:
        row = _known(session, body.viewer)
    if body.part and body.part not in {part.id for part in studio.books.book.cast}:
        raise Refused(404, f"There is no part “{body.part}”.")
    asked = {name: wanted for name in ("spared", "shut_out") if (wanted := getattr(body, name)) is not None}
    await studio.edit(
        lambda draft: draft.become(with_viewer(draft.data, row.id, row.name, asked, body.part)),
        f"changed the settings of {row.name or 'a viewer'}",
    )
    return SaidOfViewer(version=studio.books.version)


def _points_on(studio: Studio) -> None:
    if not studio.books.book.points.on:
        raise Refused(409, "Own points are off.", "Switch them on first.")


class GiveIn(Shape):
    viewer: Key
    held: Annotated[int, Field(ge=0, le=10**9)]
    why: Annotated[str, Field(min_length=1, max_length=200)]


@router.post("/points")
async def give(studio: TheStudio, body: GiveIn) -> CardOut:
    """Sets how many points a viewer has, for a reason that is saved."""
    _points_on(studio)
    with studio.sessions() as session:
        name = _known(session, body.viewer).name
    await studio.runner.post(h.GivePoints(body.viewer, body.held, name, body.why))
    await studio.runner.recorder.written()
    return await card(studio, body.viewer)


class MergeIn(Shape):
    """Two viewers are the same person: the first uses the points and counts of the second from now on."""

    viewer: Key
    into: Key


@router.post("/merge")
async def merge(studio: TheStudio, body: MergeIn) -> CardOut:
    """Makes two ids of one person one viewer."""
    with studio.sessions() as session:
        one, other = _known(session, body.viewer), _known(session, body.into)
    view = studio.runner.view
    if view.merged_into(one.id) == view.merged_into(other.id):
        raise Refused(409, "They are already one viewer.", "Choose another.")
    await studio.runner.post(h.Merge(one.id, other.id))
    await studio.runner.recorder.written()
    return await card(studio, other.id)


class WhoIn(Shape):
    viewer: Key


@router.post("/forget", status_code=204)
async def forget(studio: TheStudio, body: WhoIn) -> None:
    """Blanks a viewer's name and texts everywhere; totals stay."""
    with studio.sessions() as session:
        _known(session, body.viewer)
        query = select(LedgerRow.call).where(LedgerRow.viewer == body.viewer).order_by(LedgerRow.id.desc()).limit(60)
        calls = list(session.scalars(query))
    studio.faces.forget(body.viewer)
    await studio.runner.forget(body.viewer)
    await asyncio.to_thread(logs.empty, studio.folder)
    studio.desk.ledger_changed(calls)


# Tables


@router.get("/points.csv", response_class=CsvText)
async def points_csv(studio: TheStudio) -> CsvText:
    """Returns every viewer’s points as CSV."""
    accounts = studio.runner.view.accounts()
    rows = sorted((viewer, a.name, a.held // ONE) for viewer, a in accounts.items())
    headers = {"Content-Disposition": 'attachment; filename="points.csv"'}
    return CsvText("\ufeff" + written(rows), headers=headers)


class BalancesIn(Shape):
    text: Annotated[str, Field(max_length=10_000_000)]


class BalanceOut(Shape):
    line: int
    viewer: str
    name: str
    held: int
    was: int | None
    what: Literal["new", "changed", "same", "refused"]
    problem: str


class BalancesOut(Shape):
    """What a table does, with the first rows of each kind; ``counts`` by kind."""

    rows: list[BalanceOut]
    counts: dict[str, int]


MOST_SHOWN = 200


async def _balances(studio: Studio, text: str) -> list[Balance]:
    def known() -> dict[str, str]:
        with studio.sessions() as session:
            return {row.id: row.name for row in session.execute(select(ViewerRow.id, ViewerRow.name))}

    names = await asyncio.to_thread(known)
    held = {viewer: account.held // ONE for viewer, account in studio.runner.view.accounts().items()}
    return await studio.read_text("points", read, text, names, held)


def _told(rows: list[Balance]) -> BalancesOut:
    counts: dict[str, int] = {}
    for row in rows:
        counts[row.what] = counts.get(row.what, 0) + 1
    # Refused rows come first: they need attention.
    shown = sorted(rows, key=lambda row: (row.what != "refused", row.what == "same", row.line))[:MOST_SHOWN]
    return BalancesOut(rows=[BalanceOut(**row._asdict()) for row in shown], counts=counts)


@router.post("/table/preview")
async def preview_points(studio: TheStudio, body: BalancesIn) -> BalancesOut:
    """Returns what a table would change; nothing is done."""
    return _told(await _balances(studio, body.text))


@router.post("/table")
async def take_points(studio: TheStudio, body: BalancesIn) -> BalancesOut:
    """Imports what isn't refused."""
    _points_on(studio)
    rows = await _balances(studio, body.text)
    given = [
        h.GivePoints(row.viewer, row.held, row.name[:100], "from a table")
        for row in rows
        if row.what in ("new", "changed")
    ]
    await studio.runner.post_all(given)
    return _told(rows)
