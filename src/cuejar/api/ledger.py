"""The ledger: every call with its verdict, reason, trace and settlement; as JSON, CSV and CloudEvents lines."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import BaseModel
from sqlalchemy import Select, func, select

from cuejar.api.need import TheStudio
from cuejar.core.rules.door import REASONS
from cuejar.live.desk import ledger_lines
from cuejar.live.messages import LedgerLine
from cuejar.store.exports import Where, csv_lines, event_lines
from cuejar.store.models import LedgerRow

router = APIRouter(prefix="/api", tags=["ledger"])


class Lines(BaseModel):
    lines: list[LedgerLine]
    total: int
    reasons: dict[str, str]


class Filters(BaseModel):
    """Which lines: since an instant (ms since 1970), by viewer's name, cue, verdict, reason."""

    since: Annotated[int, Query(ge=0, le=2**53)] = 0
    viewer: str = ""
    cue: str = ""
    verdict: str = ""
    reason: str = ""


def _chosen(filters: Filters) -> Select[LedgerRow]:
    query = select(LedgerRow).where(LedgerRow.wall >= filters.since)
    if filters.viewer:
        query = query.where(LedgerRow.viewer_name.contains(filters.viewer, autoescape=True))
    for name in ("cue", "verdict", "reason"):
        if getattr(filters, name):
            query = query.where(getattr(LedgerRow, name) == getattr(filters, name))
    return query


TheFilters = Annotated[Filters, Query()]


class PagedFilters(Filters):
    limit: Annotated[int, Query(ge=1, le=1000)] = 200
    skip: Annotated[int, Query(ge=0, le=10**9)] = 0


@router.get("/ledger")
async def ledger(studio: TheStudio, filters: Annotated[PagedFilters, Query()]) -> Lines:
    query = _chosen(filters)
    with studio.sessions() as session:
        total = session.scalar(select(func.count()).select_from(query.subquery())) or 0
        rows = session.scalars(query.order_by(LedgerRow.id.desc()).offset(filters.skip).limit(filters.limit)).all()
        lines = ledger_lines(session, rows)
    return Lines(lines=lines, total=total, reasons=REASONS)


def _where(filters: Filters) -> Where:
    return Where(filters.since, filters.viewer, filters.cue, filters.verdict, filters.reason)


class CsvLines(StreamingResponse):
    media_type = "text/csv; charset=utf-8"


class JsonLines(StreamingResponse):
    media_type = "application/x-ndjson"


@router.get("/ledger.csv", response_class=CsvLines)
async def ledger_csv(studio: TheStudio, filters: TheFilters) -> CsvLines:
    headers = {"Content-Disposition": 'attachment; filename="ledger.csv"'}
    lines = csv_lines(studio.database, _where(filters))
    return CsvLines(lines, headers=headers)


@router.get("/ledger.jsonl", response_class=JsonLines)
async def ledger_jsonl(studio: TheStudio, filters: TheFilters) -> JsonLines:
    """One CloudEvents 1.0 message a line; its source names this installation."""
    headers = {"Content-Disposition": 'attachment; filename="ledger.jsonl"'}
    lines = event_lines(studio.database, _where(filters), f"/ledger/{studio.runner.journal.installation}")
    return JsonLines(lines, headers=headers)
