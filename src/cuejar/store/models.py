"""The tables: journal, snapshots, the book's revisions, ledger, settlements, media, links.

The journal is the truth about what happened; ledger and settlements can be rewritten from it and are keyed so that
writing them twice changes nothing.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy import JSON, Boolean, Float, Index, Integer, LargeBinary, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


class Base(DeclarativeBase):
    type_annotation_map = {dict[str, Any]: JSON, list[Any]: JSON}


class JournalRow(Base):
    """A happening that reached the engine, with its instant by the show's clock and by the wall clock (ms since 1970)."""

    __tablename__ = "journal"
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    at: Mapped[int] = mapped_column(Integer)
    wall: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    happening: Mapped[dict[str, Any]] = mapped_column(JSON)
    __table_args__ = {"sqlite_autoincrement": True}


class SnapshotRow(Base):
    """The engine's whole state after the journal entry ``journal_id``."""

    __tablename__ = "snapshots"
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    journal_id: Mapped[int] = mapped_column(Integer)
    at: Mapped[int] = mapped_column(Integer)
    state: Mapped[str] = mapped_column(Text)


class NightRow(Base):
    """A stream. ``first`` and ``last`` are its first and last entries in the journal (``last`` is None while it goes
    on), ``at`` and ``ended`` their instants by the show's clock, ``wall`` and ``ended_wall`` by the wall clock;
    ``state`` is the engine's state right before it began, packed (`store.nights`).
    """

    __tablename__ = "nights"
    first: Mapped[int] = mapped_column(Integer, primary_key=True)
    last: Mapped[int | None] = mapped_column(Integer, default=None)
    at: Mapped[int] = mapped_column(Integer)
    wall: Mapped[int] = mapped_column(Integer)
    ended: Mapped[int | None] = mapped_column(Integer, default=None)
    ended_wall: Mapped[int | None] = mapped_column(Integer, default=None)
    category: Mapped[str] = mapped_column(String(200), default="", server_default="")
    note: Mapped[str] = mapped_column(Text, default="", server_default="")
    state: Mapped[bytes] = mapped_column(LargeBinary)


class NightPartRow(Base):
    """Journal entries of a night that were moved here: from ``first`` to ``last``, packed."""

    __tablename__ = "night_parts"
    night: Mapped[int] = mapped_column(Integer, primary_key=True)
    first: Mapped[int] = mapped_column(Integer, primary_key=True)
    last: Mapped[int] = mapped_column(Integer)
    entries: Mapped[int] = mapped_column(Integer)
    packed: Mapped[bytes] = mapped_column(LargeBinary)


class RevisionRow(Base):
    """The book after an edit. Undo and redo move ``place`` in `MetaRow` along these; undone ones that another edit
    replaced are ``aside``: they can be viewed and restored, but no step leads to them. ``origin``: where they come from.
    """

    __tablename__ = "revisions"
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    what: Mapped[str] = mapped_column(String(200))
    at: Mapped[int] = mapped_column(Integer)
    origin: Mapped[str] = mapped_column("whence", String(20), default="page", server_default="page")
    aside: Mapped[bool] = mapped_column(Boolean, default=False, server_default="0")
    book: Mapped[dict[str, Any]] = mapped_column(JSON)


class MetaRow(Base):
    __tablename__ = "meta"
    key: Mapped[str] = mapped_column(String(60), primary_key=True)
    value: Mapped[str] = mapped_column(Text)


class LedgerRow(Base):
    """A call at one cue's door, or one that called no cue (``cue`` is empty then).

    ``at`` is by the show's clock, which orders lines; ``wall`` is what people read. ``trace`` is compact
    (`core.traces`).
    """

    __tablename__ = "ledger"
    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    at: Mapped[int] = mapped_column(Integer)
    wall: Mapped[int] = mapped_column(Integer, default=0, server_default="0")
    call: Mapped[str] = mapped_column(String(200))
    kind: Mapped[str] = mapped_column(String(20))
    viewer: Mapped[str] = mapped_column(String(200), default="")
    viewer_name: Mapped[str] = mapped_column(String(200), default="")
    text: Mapped[str] = mapped_column(Text, default="")
    reward: Mapped[str] = mapped_column(String(80), default="")
    cost: Mapped[int] = mapped_column(Integer, default=0)
    cue: Mapped[str] = mapped_column(String(80), default="")
    verdict: Mapped[str] = mapped_column(String(20))
    reason: Mapped[str] = mapped_column(String(40), default="")
    detail: Mapped[str] = mapped_column(Text, default="")
    run: Mapped[str] = mapped_column(String(20), default="")
    outcome: Mapped[str] = mapped_column(String(20), default="")
    trace: Mapped[list[Any]] = mapped_column(JSON, default=list)
    __table_args__ = (
        Index("ledger_once", "call", "cue", "at", unique=True),
        Index("ledger_run", "run"),
        Index("ledger_wall", "wall"),
        Index("ledger_viewer", "viewer"),
        Index("ledger_cue", "cue"),
        Index("ledger_reason", "reason"),
    )


class NoteRow(Base):
    """An event of a run after its verdict: it started, drew, rolled, failed, somebody won, it was dropped, finished."""

    __tablename__ = "notes"
    run: Mapped[str] = mapped_column(String(20), primary_key=True)
    at: Mapped[int] = mapped_column(Integer, primary_key=True)
    what: Mapped[str] = mapped_column(String(20), primary_key=True)
    beat: Mapped[str] = mapped_column(String(80), primary_key=True, default="")
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
    __table_args__ = {"sqlite_with_rowid": False}


class SettlementRow(Base):
    """The outcome of a redemption, and whether the channel confirmed it. Its id is remembered for ever."""

    __tablename__ = "settlements"
    redemption: Mapped[str] = mapped_column(String(200), primary_key=True)
    outcome: Mapped[str] = mapped_column(String(20), default="")
    confirmed: Mapped[bool] = mapped_column(Boolean, default=False)
    at: Mapped[int] = mapped_column(Integer, default=0)
    problem: Mapped[str] = mapped_column(Text, default="")
    __table_args__ = {"sqlite_with_rowid": False}


class StrikeRow(Base):
    """A strike at gear or channel, written before it is sent: `owed` until it is `done`, `failed` or `late`."""

    __tablename__ = "strikes"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    at: Mapped[int] = mapped_column(Integer)
    run: Mapped[str] = mapped_column(String(20))
    beat: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(20))
    value: Mapped[Any] = mapped_column(JSON)
    state: Mapped[str] = mapped_column(String(10), default="owed")
    problem: Mapped[str] = mapped_column(Text, default="")
    __table_args__ = (Index("strikes_state", "state"),)


class HeardRow(Base):
    """An event of a wire that was received, by a number made from its identity."""

    __tablename__ = "heard"
    event: Mapped[int] = mapped_column(Integer, primary_key=True)
    at: Mapped[int] = mapped_column(Integer)


class LatchRow(Base):
    """The last state of a latched key, and its number of taps. ``asked`` names the memory that was asked for one more
    tap, not confirmed yet; empty if there is none.
    """

    __tablename__ = "latches"
    path: Mapped[str] = mapped_column(String(200), primary_key=True)
    value: Mapped[str] = mapped_column(String(10))
    taps: Mapped[int] = mapped_column(Integer, default=0)
    asked: Mapped[str] = mapped_column(String(80), default="")


class MediaRow(Base):
    """A file of the library: what is in it. The streamer's settings for it (name, trim) are in the book."""

    __tablename__ = "media"
    hash: Mapped[str] = mapped_column(String(64), primary_key=True)
    kind: Mapped[str] = mapped_column(String(10))
    format: Mapped[str] = mapped_column(String(20))
    mime: Mapped[str] = mapped_column(String(60))
    size: Mapped[int] = mapped_column(Integer)
    length_s: Mapped[float] = mapped_column(Float, default=0)
    loops: Mapped[int] = mapped_column(Integer, default=0)
    width: Mapped[int] = mapped_column(Integer, default=0)
    height: Mapped[int] = mapped_column(Integer, default=0)
    has_sound: Mapped[bool] = mapped_column(Boolean, default=False)
    notes: Mapped[list[Any]] = mapped_column(JSON, default=list)
    wave: Mapped[list[Any]] = mapped_column(JSON, default=list)
    codecs: Mapped[list[Any]] = mapped_column(JSON, default=list, server_default="[]")
    alpha: Mapped[bool] = mapped_column(Boolean, default=False, server_default="0")
    lufs: Mapped[float | None] = mapped_column(Float, default=None)
    peak_dbtp: Mapped[float | None] = mapped_column(Float, default=None)
    flashes: Mapped[list[Any]] = mapped_column(JSON, default=list, server_default="[]")
    probed: Mapped[int] = mapped_column(Integer, default=0, server_default="1")
    at: Mapped[int] = mapped_column(Integer, default=0)


class LinkRow(Base):
    """A secret or an outside id that belongs to something in the book: an overlay's link, a reward's id at the channel."""

    __tablename__ = "links"
    kind: Mapped[str] = mapped_column(String(20), primary_key=True)
    thing: Mapped[str] = mapped_column(String(80), primary_key=True)
    value: Mapped[str] = mapped_column(String(200))


class RewardThereRow(Base):
    """What a channel last confirmed of a reward of the book; ``gone``: it was removed by hand there, and the streamer
    is to decide; ``asked``: unconfirmed values, field by field.
    """

    __tablename__ = "rewards_there"
    thing: Mapped[str] = mapped_column(String(300), primary_key=True)
    told: Mapped[dict[str, Any]] = mapped_column(JSON)
    gone: Mapped[bool] = mapped_column(Boolean, default=False)
    asked: Mapped[dict[str, list[Any]] | None] = mapped_column(JSON, nullable=True)
    __table_args__ = {"sqlite_with_rowid": False}


class ViewerRow(Base):
    """A viewer as last seen: their name, roles and tier; ``first`` and ``last`` are ms since 1970. A forgotten one has
    no name.
    """

    __tablename__ = "viewers"
    id: Mapped[str] = mapped_column(String(200), primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    roles: Mapped[list[Any]] = mapped_column(JSON)
    tier: Mapped[int] = mapped_column(Integer)
    first: Mapped[int] = mapped_column(Integer)
    last: Mapped[int] = mapped_column(Integer)
    __table_args__ = (Index("viewers_last", "last"), {"sqlite_with_rowid": False})


class PaidRow(Base):
    """Points of our own that were spent, refunded, given, or earned by an action; minutes of presence aren't listed."""

    __tablename__ = "paid"
    viewer: Mapped[str] = mapped_column(String(200), primary_key=True)
    at: Mapped[int] = mapped_column(Integer, primary_key=True)
    what: Mapped[str] = mapped_column(String(20), primary_key=True)
    call: Mapped[str] = mapped_column(String(200), primary_key=True)
    wall: Mapped[int] = mapped_column(Integer)
    amount: Mapped[float] = mapped_column(Float)
    held: Mapped[int] = mapped_column(Integer)
    why: Mapped[str] = mapped_column(String(200), default="")
    __table_args__ = {"sqlite_with_rowid": False}


class WinnerRow(Base):
    """Somebody who won something; ``given`` is when they got it (ms since 1970), 0 until then. One that was removed
    stays, so that it doesn't come back.
    """

    __tablename__ = "winners"
    run: Mapped[str] = mapped_column(String(20), primary_key=True)
    beat: Mapped[str] = mapped_column(String(80), primary_key=True)
    wall: Mapped[int] = mapped_column(Integer)
    viewer: Mapped[str] = mapped_column(String(200))
    name: Mapped[str] = mapped_column(String(200))
    what: Mapped[str] = mapped_column(String(500))
    given: Mapped[int] = mapped_column(Integer, default=0)
    removed: Mapped[int] = mapped_column(Integer, default=0)
    __table_args__ = {"sqlite_with_rowid": False}


class DeviceRow(Base):
    """A phone or second screen that may press pads (all of them, or those of some cues), or a computer whose keys are
    pressed. Its key is among the secrets.
    """

    __tablename__ = "devices"
    id: Mapped[str] = mapped_column(String(40), primary_key=True)
    name: Mapped[str] = mapped_column(String(60))
    made: Mapped[int] = mapped_column(Integer)
    seen: Mapped[int] = mapped_column(Integer, default=0)
    cues: Mapped[list[Any] | None] = mapped_column(JSON(none_as_null=True), default=None)
    locked: Mapped[bool] = mapped_column(Boolean, default=False)
    does: Mapped[str] = mapped_column(String(10), default="pads", server_default="pads")
