"""A data folder's contents beside its book and its files: calls, nights, viewers, points and counts, as lines of JSON
in the file that moves it to another computer.

When imported, every line goes through one gate into a small database of its own (*the side*); unreadable lines are
ignored and counted. There it is adapted: what is here already is removed, runs and nights get unused numbers, and
viewers who were forgotten here stay forgotten. Only then is it copied, in small transactions; copying it twice
changes nothing.
"""

from __future__ import annotations

import json
import sqlite3
import zipfile
from collections.abc import Iterator, Mapping
from contextlib import closing
from pathlib import Path
from typing import IO, Annotated, Any, Literal, NamedTuple, get_args

from pydantic import BaseModel, ConfigDict, Field, ValidationError
from sqlalchemy import Connection, create_engine, select
from sqlalchemy.orm import Session, sessionmaker

from cuejar.core.carry.secrets import scrubbed
from cuejar.core.engine.state import without_viewer
from cuejar.core.facts.gate import MOST_WHOLE, Key, ShortText, Text, Tier, sound_json
from cuejar.core.nights.recorded import engine_of, recording_of
from cuejar.core.parts.base import BookError
from cuejar.store.models import (
    Base,
    LedgerRow,
    NightPartRow,
    NightRow,
    NoteRow,
    PaidRow,
    SettlementRow,
    ViewerRow,
    WinnerRow,
)
from cuejar.store.nights import A_PART, packed, recorded, unpacked, without
from cuejar.store.writer import Work, plain

Kind = Literal[
    "ledger", "notes", "settlements", "viewers", "paid", "accounts", "aliases", "counts", "nights", "winners"
]
KINDS: tuple[Kind, ...] = get_args(Kind)
Part = Literal["calls", "nights", "viewers", "points", "counts"]
PARTS: dict[Part, tuple[Kind, ...]] = {
    "calls": ("ledger", "notes", "settlements"),
    "nights": ("nights",),
    "viewers": ("viewers", "winners"),
    "points": ("accounts", "aliases", "paid"),
    "counts": ("counts",),
}
"""Parts that are imported together, and their files in the zip. The first is counted."""
FIRST_NIGHT = 1_000_000_000
"""Imported nights are numbered from here on: no journal gets that long."""
MOST_LINE, MOST_NIGHT = 600_000, 200_000_000
"""The longest line, and the longest line of a night; in bytes."""
BATCH = 2_000
"""How many rows are copied in one transaction."""
LIMITS: dict[Kind, tuple[int, int]] = {"nights": (20_000_000, 60), "notes": (50_000, 16)}
"""The largest values and depths of a line, where they are larger than usual: a night, and a draw among many."""


class Balances(NamedTuple):
    """The show's data about viewers and counts: whole points with the viewers' names, who shares whose points, and the
    value of each count.
    """

    accounts: Mapping[str, tuple[str, int]]
    aliases: Mapping[str, str]
    counts: Mapping[str, int]


NOTHING = Balances({}, {}, {})


class Found(NamedTuple):
    """A part's contents in a file: how many in all, how many new ones, and how many unreadable lines."""

    part: Part
    all: int
    fresh: int
    odd: int


# Export


def written(sessions: sessionmaker[Session], balances: Balances) -> dict[str, Iterator[bytes]]:
    """Yields the files of the zip and their contents, in pieces. Nights in progress are left out, and redemptions whose
    outcome the channel hasn't confirmed: there they are still open.
    """
    rows: dict[Kind, Iterator[dict[str, Any]]] = {
        "ledger": _rows(sessions, LedgerRow, but=("id",)),
        "notes": _rows(sessions, NoteRow),
        "settlements": (row for row in _rows(sessions, SettlementRow) if row["confirmed"]),
        "viewers": (row for row in _rows(sessions, ViewerRow) if row["name"]),
        "paid": _rows(sessions, PaidRow),
        "winners": _rows(sessions, WinnerRow),
        "accounts": ({"viewer": who, "name": name, "held": n} for who, (name, n) in balances.accounts.items()),
        "aliases": ({"viewer": who, "into": other} for who, other in balances.aliases.items()),
        "counts": ({"count": name, "value": value} for name, value in balances.counts.items()),
        "nights": _nights(sessions),
    }
    return {f"data/{kind}.jsonl": _lines(those) for kind, those in rows.items()}


def _lines(rows: Iterator[dict[str, Any]]) -> Iterator[bytes]:
    for row in rows:
        yield json.dumps(row, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"


def _rows(sessions: sessionmaker[Session], table: type[Base], but: tuple[str, ...] = ()) -> Iterator[dict[str, Any]]:
    columns = [column for column in table.__table__.columns if column.name not in but]
    with sessions() as session:
        for row in session.execute(select(*columns).execution_options(yield_per=BATCH)):
            yield dict(row._mapping)


def _nights(sessions: sessionmaker[Session]) -> Iterator[dict[str, Any]]:
    query = select(NightRow.first, NightRow.last, NightRow.category).where(NightRow.last.is_not(None))
    with sessions() as session:
        those = session.execute(query.order_by(NightRow.wall)).all()
    for first, last, category in those:
        night = recorded(sessions, first)
        if night is not None:
            told = {**night._asdict(), "first": first, "last": last, "category": category}
            del told["id"]
            # What a hook sends, and its keys, stay here.
            yield {**told, "state": scrubbed(night.state), "entries": scrubbed(night.entries)}


# The gate

At = Annotated[int, Field(ge=-MOST_WHOLE, le=MOST_WHOLE)]
Wall = Annotated[int, Field(ge=0, le=MOST_WHOLE)]
Run = Annotated[str, Field(max_length=20, pattern=r"^[A-Za-z0-9.]*$")]
Word = Annotated[str, Field(max_length=40, pattern=r"^[A-Za-z0-9_ .:/-]*$")]


class _Line(BaseModel):
    model_config = ConfigDict(extra="forbid")


class LedgerLine(_Line):
    at: At
    wall: Wall
    call: Key
    kind: Word
    viewer: ShortText = ""
    viewer_name: ShortText = ""
    text: Text = ""
    reward: ShortText = ""
    cost: Wall = 0
    cue: ShortText = ""
    verdict: Word
    reason: Word = ""
    detail: Text = ""
    run: Run = ""
    outcome: Word = ""
    trace: list[Any] = []


class NoteLine(_Line):
    run: Run
    at: At
    what: Word
    beat: ShortText = ""
    data: dict[str, Any] = {}


class SettlementLine(_Line):
    redemption: Key
    outcome: Word
    confirmed: Literal[True]
    at: At = 0
    problem: Text = ""


class ViewerLine(_Line):
    id: Key
    name: Annotated[ShortText, Field(min_length=1)]
    roles: Annotated[list[Word], Field(max_length=20)] = []
    tier: Tier = 0
    first: Wall
    last: Wall


class PaidLine(_Line):
    viewer: Key
    at: At
    what: Word
    call: ShortText
    wall: Wall
    amount: Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]
    held: Annotated[int, Field(ge=0, le=10**9)]
    why: ShortText = ""


class WinnerLine(_Line):
    run: Run
    beat: ShortText
    wall: Wall
    viewer: Key
    name: ShortText = ""
    what: Annotated[str, Field(max_length=500)]
    given: Wall = 0
    removed: Literal[0, 1] = 0


class AccountLine(_Line):
    viewer: Key
    name: ShortText = ""
    held: Annotated[int, Field(ge=0, le=10**9)]


class AliasLine(_Line):
    viewer: Key
    into: Key


class CountLine(_Line):
    count: Key
    value: Annotated[int, Field(ge=0, le=10**9)]


class NightLine(_Line):
    first: Wall
    last: Wall
    at: At
    wall: Wall
    ended: At | None
    ended_wall: Wall | None
    category: ShortText = ""
    note: Text = ""
    state: dict[str, Any]
    entries: list[tuple[Wall, At, Any]]


LINES: dict[Kind, type[_Line]] = {
    "ledger": LedgerLine,
    "notes": NoteLine,
    "settlements": SettlementLine,
    "viewers": ViewerLine,
    "paid": PaidLine,
    "winners": WinnerLine,
    "accounts": AccountLine,
    "aliases": AliasLine,
    "counts": CountLine,
    "nights": NightLine,
}
MEMBERS = {f"data/{kind}.jsonl": kind for kind in KINDS}
_OWN_TABLES = (
    "create table accounts (viewer text primary key, name text, held integer)",
    'create table aliases (viewer text primary key, "into" text)',
    "create table counts (count text primary key, value integer)",
    "create table odd (kind text primary key, lines integer)",
)


class TooLarge(Exception):
    """The zip's contents are larger than allowed."""


def gated(zipped: Path, side: Path, most_bytes: int) -> None:
    """Reads the data beside the book from a zip, line by line, into a new database.

    Raises:
        TooLarge.
    """
    side.unlink(missing_ok=True)
    engine = create_engine(f"sqlite:///{side}")
    tables = (LedgerRow, NoteRow, SettlementRow, ViewerRow, PaidRow, WinnerRow, NightRow, NightPartRow)
    Base.metadata.create_all(engine, tables=[Base.metadata.tables[table.__tablename__] for table in tables])
    engine.dispose()
    left = most_bytes
    with closing(sqlite3.connect(side)) as target, zipfile.ZipFile(zipped) as bundle:
        for statement in _OWN_TABLES:
            target.execute(statement)
        for member, kind in MEMBERS.items():
            if member not in bundle.namelist():
                continue
            odd = 0
            with bundle.open(member) as source:
                for line in _read(source, MOST_NIGHT if kind == "nights" else MOST_LINE):
                    left -= len(line or b"")
                    if left < 0:
                        raise TooLarge
                    odd += line is None or not _taken(target, kind, line)
            target.execute("insert into odd values (?, ?)", (kind, odd))
        target.commit()


def _read(source: IO[bytes], most: int) -> Iterator[bytes | None]:
    """Yields the lines of a file; None in place of one that is too long."""
    while line := source.readline(most + 1):
        whole = line.endswith(b"\n") or len(line) <= most
        yield line if whole else None
        while not whole:
            line = source.readline(most + 1)
            whole = not line or line.endswith(b"\n")


def _taken(target: sqlite3.Connection, kind: Kind, line: bytes) -> bool:
    """Returns whether a line is readable, and in the side now."""
    limits = LIMITS.get(kind, (5_000, 16))
    try:
        told = LINES[kind].model_validate(sound_json(json.loads(line), *limits))
        if isinstance(told, NightLine):
            _keep_night(target, told)
            return True
    except (ValueError, ValidationError, RecursionError, BookError, KeyError, TypeError, AttributeError, IndexError):
        return False
    _put(target, kind, told.model_dump())
    return True


def _put(target: sqlite3.Connection, table: str, row: Mapping[str, Any]) -> None:
    values = [json.dumps(one, ensure_ascii=False) if isinstance(one, (list, dict)) else one for one in row.values()]
    names = ", ".join(f'"{name}"' for name in row)
    marks = ", ".join("?" * len(values))
    target.execute(f"insert or ignore into {table} ({names}) values ({marks})", values)


def _keep_night(target: sqlite3.Connection, night: NightLine) -> None:
    """Raises BookError and others: it isn't a night that could be played again."""
    numbers = [number for number, _, _ in night.entries]
    if numbers != sorted(set(numbers)) or not numbers or numbers[0] < night.first or numbers[-1] > night.last:
        raise ValueError("entries are not in order")
    recording = recording_of(night.state, night.entries)
    engine_of(recording)
    if recording.odd:
        raise ValueError("entries can’t be read")
    row = night.model_dump(exclude={"state", "entries"})
    _put(target, "nights", {**row, "state": packed(night.state)})
    for i in range(0, len(night.entries), A_PART):
        piece = [list(one) for one in night.entries[i : i + A_PART]]
        part = {"night": night.first, "first": piece[0][0], "last": piece[-1][0], "entries": len(piece)}
        _put(target, "night_parts", {**part, "packed": packed(piece)})


# Compared with the data here

_HERE: dict[str, str] = {
    "ledger": "select 1 from here.ledger h where h.call = t.call and h.cue = t.cue and h.at = t.at",
    "settlements": "select 1 from here.settlements h where h.redemption = t.redemption",
    "viewers": "select 1 from here.viewers h where h.id = t.id",
    "winners": "select 1 from here.winners h where h.wall = t.wall and h.viewer = t.viewer and h.what = t.what",
    "paid": "select 1 from here.paid h where h.viewer = t.viewer and h.at = t.at and h.what = t.what and h.call = t.call",
    "nights": "select 1 from here.nights h where h.wall = t.wall",
}
"""What is already here, by table."""


def _beside(side: Path, database: Path) -> sqlite3.Connection:
    """Opens the side, with the data folder's database as ``here``, read-only."""
    both = sqlite3.connect(f"file:{side}", uri=True)
    both.execute("attach ? as here", [f"file:{database}?mode=ro"])
    return both


def found(side: Path, database: Path, balances: Balances) -> list[Found]:
    """Returns what is in the side, part by part; empty parts are left out."""
    told: list[Found] = []
    with closing(_beside(side, database)) as both:
        odd = dict(both.execute("select kind, lines from odd").fetchall())
        for part, kinds in PARTS.items():
            table = kinds[0]
            count = both.execute(f"select count(*) from {table}").fetchone()[0]
            if table in _HERE:
                fresh = both.execute(f"select count(*) from {table} t where not exists ({_HERE[table]})").fetchone()[0]
            else:
                fresh = len(_fresh(both, table, balances))
            lost = sum(odd.get(kind, 0) for kind in kinds)
            if count or lost:
                told.append(Found(part, count, fresh, lost))
    return told


def _fresh(side: sqlite3.Connection, table: str, balances: Balances) -> list[tuple[Any, ...]]:
    """Returns the accounts that nobody has here, or the counts that are new or zero here."""
    rows = side.execute(f"select * from {table}").fetchall()
    if table == "accounts":
        return [row for row in rows if row[0] not in balances.accounts and row[0] not in balances.aliases]
    return [row for row in rows if balances.counts.get(row[0], 0) == 0]


def fitted(side: Path, database: Path, mark: str) -> None:
    """Adapts the side to the data here. Repeating it changes nothing.

    Args:
        mark: names its origin, in front of the runs' numbers, so that none of them matches a run here.
    """
    with closing(_beside(side, database)) as both:
        for table, same in _HERE.items():
            if table != "viewers":  # A viewer may have been seen earlier there.
                both.execute(f"delete from {table} as t where exists ({same})")
        both.execute("delete from notes where run not in (select run from ledger)")
        both.execute("delete from night_parts where night not in (select first from nights)")
        for table in ("ledger", "notes", "winners"):
            both.execute(
                f"update {table} set run = substr(? || '.' || run, 1, 20) where run != '' and instr(run, '.') = 0",
                [mark],
            )
        forgotten = [row[0] for row in both.execute("select id from here.viewers where name = ''")]
        for viewer in forgotten:
            both.execute("update ledger set viewer_name = '', text = '' where viewer = ?", [viewer])
            both.execute("delete from viewers where id = ?", [viewer])
            told = "update winners set what = replace(what, name, ''), name = '' where viewer = ? and name != ''"
            both.execute(told, [viewer])
            won = "what = 'won' and json_extract(data, '$.viewer') = ?"
            both.execute(f"update notes set data = '{{}}' where {won}", [viewer])
        _renumber(both, forgotten)
        both.commit()


def _renumber(both: sqlite3.Connection, forgotten: list[str]) -> None:
    """Gives nights and their entries unused numbers."""
    # Parts of a night left over from an interrupted import count too.
    lasts = (both.execute(f"select max(last) from here.{table}").fetchone()[0] for table in ("nights", "night_parts"))
    free = max(FIRST_NIGHT, *((last or 0) + 1 for last in lasts))
    for first, last, state in both.execute("select first, last, state from nights order by wall").fetchall():
        shift, free = free - first, free + last - first + 1
        pieces = both.execute("select first, last, packed from night_parts where night = ?", [first]).fetchall()
        whole = unpacked(state)
        for viewer in forgotten:
            if json.dumps(viewer, ensure_ascii=False) in json.dumps(whole, ensure_ascii=False):
                whole = without_viewer(whole, viewer)
        both.execute("delete from night_parts where night = ?", [first])
        both.execute(
            "update nights set first = ?, last = ?, state = ? where first = ?",
            (first + shift, last + shift, packed(whole), first),
        )
        for begin, end, piece in pieces:
            rows = [[number + shift, at, _forgetting(told, forgotten)] for number, at, told in unpacked(piece)]
            both.execute(
                "insert into night_parts (night, first, last, entries, packed) values (?, ?, ?, ?, ?)",
                (first + shift, begin + shift, end + shift, len(rows), packed(rows)),
            )


def _forgetting(told: Any, forgotten: list[str]) -> Any:
    for viewer in forgotten:
        told = without(told, viewer)
    return told


# Import

_TABLES: dict[Part, tuple[str, ...]] = {
    "calls": ("notes", "settlements", "ledger"),
    "viewers": ("winners", "viewers"),
    "points": ("paid",),
    "nights": ("night_parts", "nights"),
    "counts": (),
}
"""The tables of the side copied for a part. The one that marks an entry as present comes last: after an interruption it
all comes again.
"""
_SEEN = " on conflict (id) do update set first = min(first, excluded.first) where name != ''"


def batches(side: Path, part: Part) -> Iterator[Work[None]]:
    """Yields pieces of work that copy a part, each for a transaction of its own."""
    with closing(sqlite3.connect(f"file:{side}?mode=ro", uri=True, check_same_thread=False)) as source:
        for table in _TABLES[part]:
            columns = [
                row[1] for row in source.execute(f"pragma table_info({table})") if (table, row[1]) != ("ledger", "id")
            ]
            names = ", ".join(f'"{name}"' for name in columns)
            marks = ", ".join("?" * len(columns))
            ending = _SEEN if table == "viewers" else " on conflict do nothing"
            into = f"insert into {table} ({names}) values ({marks}){ending}"
            rows = source.execute(f"select {names} from {table}")
            while batch := rows.fetchmany(20 if table == "night_parts" else BATCH):
                yield lambda connection, into=into, batch=batch: _copy(connection, into, batch)  # type: ignore[misc]


def _copy(connection: Connection, into: str, rows: list[tuple[Any, ...]]) -> None:
    plain(connection).executemany(into, rows)


def balances_in(side: Path, balances: Balances, parts: set[Part]) -> Balances:
    """Returns the side's points, accounts and counts for the show, with the values here."""
    with closing(sqlite3.connect(f"file:{side}?mode=ro", uri=True)) as source:
        accounts, aliases, counts = {}, {}, {}
        if "points" in parts:
            accounts = {who: (name, held) for who, name, held in _fresh(source, "accounts", balances)}
            aliases = {
                who: into
                for who, into in source.execute("select * from aliases")
                if who not in balances.aliases and who not in balances.accounts
            }
        if "counts" in parts:
            counts = dict(_fresh(source, "counts", balances))
    return Balances(accounts, aliases, counts)
