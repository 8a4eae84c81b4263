"""Nights: every stream with the show's state before it, and its part of the journal; an index of the ledger's words.

Revision ID: 0007
Revises: 0006
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

from cuejar.store.search import FILLED, MADE, TABLE

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "nights",
        sa.Column("first", sa.Integer(), primary_key=True),
        sa.Column("last", sa.Integer(), nullable=True),
        sa.Column("at", sa.Integer(), nullable=False),
        sa.Column("wall", sa.Integer(), nullable=False),
        sa.Column("ended", sa.Integer(), nullable=True),
        sa.Column("ended_wall", sa.Integer(), nullable=True),
        sa.Column("category", sa.String(200), nullable=False, server_default=""),
        sa.Column("note", sa.Text(), nullable=False, server_default=""),
        sa.Column("state", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "night_parts",
        sa.Column("night", sa.Integer(), primary_key=True),
        sa.Column("first", sa.Integer(), primary_key=True),
        sa.Column("last", sa.Integer(), nullable=False),
        sa.Column("entries", sa.Integer(), nullable=False),
        sa.Column("packed", sa.LargeBinary(), nullable=False),
    )
    op.create_index("ledger_cue", "ledger", ["cue"])
    op.create_index("ledger_reason", "ledger", ["reason"])
    for statement in (*MADE, FILLED):
        op.execute(statement)


def downgrade() -> None:
    for trigger in ("in", "out", "anew"):
        op.execute(f"drop trigger {TABLE}_{trigger}")
    op.execute(f"drop table {TABLE}")
    op.drop_index("ledger_reason", "ledger")
    op.drop_index("ledger_cue", "ledger")
    op.drop_table("night_parts")
    op.drop_table("nights")
