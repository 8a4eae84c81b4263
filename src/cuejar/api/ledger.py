"""The ledger: every call with its verdict, reason, trace and settlement; as JSON, CSV and CloudEvents lines."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse

from cuejar.api.need import TheStudio
from cuejar.api.shapes import Shape
from cuejar.core.rules.door import REASONS
from cuejar.live.desk import ledger_lines
from cuejar.live.messages import LedgerLine
from cuejar.store.draws import LAST, KeptDraw, draws_of
from cuejar.store.exports import csv_lines, event_lines
from cuejar.store.ledger import Where, page_of

router = APIRouter(prefix="/api", tags=["ledger"])


MOST_COUNTED = 1_000
"""Lines are counted up to here; beyond it there are just "more"."""


class Lines(Shape):
    """Lines, newest first. ``total`` counts all that match, up to 1,000; ``before`` asks for the next page."""

    lines: list[LedgerLine]
    total: int
    more: bool
    before: int | None
    reasons: dict[str, str]


class Filters(Shape):
    """Which lines: in a period (ms since 1970), by words anywhere in them, by viewer's name, cue, verdict, reason or
    outcome, or of one call.
    """

    since: Annotated[int, Query(ge=0, le=2**53)] = 0
    until: Annotated[int | None, Query(ge=0, le=2**53)] = None
    words: Annotated[str, Query(max_length=300)] = ""
    viewer: Annotated[str, Query(max_length=200)] = ""
    cue: Annotated[str, Query(max_length=80)] = ""
    verdict: Annotated[str, Query(max_length=20)] = ""
    reason: Annotated[str, Query(max_length=40)] = ""
    outcome: Annotated[str, Query(max_length=20)] = ""
    call: Annotated[str, Query(max_length=200)] = ""


def _where(filters: Filters) -> Where:
    return Where(**{name: getattr(filters, name) for name in Filters.model_fields})


TheFilters = Annotated[Filters, Query()]


class PagedFilters(Filters):
    limit: Annotated[int, Query(ge=1, le=1000)] = 200
    before: Annotated[int | None, Query(ge=0, le=2**53)] = None


@router.get("/ledger")
async def ledger(studio: TheStudio, filters: Annotated[PagedFilters, Query()]) -> Lines:
    """Returns a page of lines. Pages go by key: the next one starts before the last line of this one, however many
    lines are added meanwhile.
    """
    where = _where(filters)
    await studio.runner.recorder.caught_up()
    with studio.sessions() as session:
        page = page_of(session, where, filters.before, filters.limit, MOST_COUNTED + 1)
        lines = ledger_lines(session, page.lines)
    before = page.lines[-1].id if len(page.lines) == filters.limit else None
    return Lines(
        lines=lines, total=min(page.total, MOST_COUNTED), more=page.total > MOST_COUNTED, before=before, reasons=REASONS
    )


@router.get("/draws")
async def draws(studio: TheStudio, line: Annotated[str, Query(min_length=1, max_length=200)] = LAST) -> list[KeptDraw]:
    """Draws the viewers of a line of the ledger once more: a call, a run, or ``last``."""
    await studio.runner.recorder.caught_up()
    with studio.sessions() as session:
        return draws_of(session, line)


class CsvLines(StreamingResponse):
    media_type = "text/csv; charset=utf-8"


class JsonLines(StreamingResponse):
    media_type = "application/x-ndjson"


@router.get("/ledger.csv", response_class=CsvLines)
async def ledger_csv(studio: TheStudio, filters: TheFilters) -> CsvLines:
    """Returns the ledger as CSV."""
    await studio.runner.recorder.caught_up()
    headers = {"Content-Disposition": 'attachment; filename="ledger.csv"'}
    lines = csv_lines(studio.database, _where(filters))
    return CsvLines(lines, headers=headers)


@router.get("/ledger.jsonl", response_class=JsonLines)
async def ledger_jsonl(studio: TheStudio, filters: TheFilters) -> JsonLines:
    """One CloudEvents 1.0 message a line; its source names this installation."""
    await studio.runner.recorder.caught_up()
    headers = {"Content-Disposition": 'attachment; filename="ledger.jsonl"'}
    lines = event_lines(studio.database, _where(filters), f"/ledger/{studio.runner.journal.installation}")
    return JsonLines(lines, headers=headers)
