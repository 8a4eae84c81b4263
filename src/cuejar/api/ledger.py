"""The ledger: every call with its verdict, reason, trace and settlement; as JSON, CSV and CloudEvents lines."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import BaseModel
from sqlalchemy import Select, func, select

from cuejar.api.need import TheStudio
from cuejar.core.door import REASONS
from cuejar.live.desk import ledger_json
from cuejar.store.models import LedgerRow

router = APIRouter(prefix="/api", tags=["ledger"])


class CheckOut(BaseModel):
    check: str
    passed: bool
    reason: str | None = None
    detail: str = ""
    left_ms: int | None = None


class LineOut(BaseModel):
    """A line of the ledger; ``at`` is ms since 1970, ``outcome`` what became of a redemption."""

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
    trace: list[CheckOut]
    notes: list[dict[str, Any]]


class Lines(BaseModel):
    lines: list[LineOut]
    total: int
    reasons: dict[str, str]


class Filters(BaseModel):
    """Which lines: since an instant (ms since 1970), by viewer's name, cue, verdict, reason."""

    since: int = 0
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
    skip: Annotated[int, Query(ge=0)] = 0


@router.get("/ledger")
async def ledger(studio: TheStudio, filters: Annotated[PagedFilters, Query()]) -> Lines:
    query = _chosen(filters)
    with studio.sessions() as session:
        total = session.scalar(select(func.count()).select_from(query.subquery())) or 0
        rows = session.scalars(query.order_by(LedgerRow.id.desc()).offset(filters.skip).limit(filters.limit)).all()
        lines = [LineOut(**line) for line in ledger_json(session, rows)]
    return Lines(lines=lines, total=total, reasons=REASONS)


COLUMNS = (
    "at",
    "call",
    "kind",
    "viewer_name",
    "text",
    "reward",
    "cost",
    "cue",
    "verdict",
    "reason",
    "detail",
    "outcome",
)


def _plain_cell(value: Any) -> Any:
    """A cell that no spreadsheet takes for a formula."""
    return "'" + value if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t") else value


@router.get("/ledger.csv")
async def ledger_csv(studio: TheStudio, filters: TheFilters) -> StreamingResponse:
    def rows() -> Iterator[str]:
        out = io.StringIO()
        writer = csv.writer(out)
        writer.writerow(COLUMNS)
        with studio.sessions() as session:
            for row in session.scalars(_chosen(filters).order_by(LedgerRow.id)):
                when = datetime.fromtimestamp(row.wall / 1000, UTC).isoformat(timespec="milliseconds")
                writer.writerow([when, *(_plain_cell(getattr(row, name)) for name in COLUMNS[1:])])
                yield out.getvalue()
                out.seek(0)
                out.truncate()
        yield out.getvalue()

    headers = {"Content-Disposition": 'attachment; filename="ledger.csv"'}
    return StreamingResponse(rows(), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/ledger.jsonl")
async def ledger_jsonl(studio: TheStudio, filters: TheFilters) -> StreamingResponse:
    """One CloudEvents 1.0 message a line."""

    def rows() -> Iterator[str]:
        with studio.sessions() as session:
            for row in session.scalars(_chosen(filters).order_by(LedgerRow.id)):
                event = {
                    "specversion": "1.0",
                    "id": f"ledger-{row.id}",
                    "source": "/ledger",
                    "type": "cue-jar.call",
                    "time": datetime.fromtimestamp(row.wall / 1000, UTC).isoformat(),
                    "datacontenttype": "application/json",
                    "data": ledger_json(session, [row])[0],
                }
                yield json.dumps(event, ensure_ascii=False) + "\n"

    headers = {"Content-Disposition": 'attachment; filename="ledger.jsonl"'}
    return StreamingResponse(rows(), media_type="application/x-ndjson", headers=headers)
