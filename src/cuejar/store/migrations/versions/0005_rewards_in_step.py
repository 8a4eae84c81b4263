"""What channels confirmed of rewards; viewers, and what became of points of our own.

Revision ID: 0005
Revises: 0004
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "rewards_there",
        sa.Column("thing", sa.String(300), primary_key=True),
        sa.Column("told", sa.JSON(), nullable=False),
        sa.Column("gone", sa.Boolean(), nullable=False),
        sqlite_with_rowid=False,
    )
    op.create_table(
        "viewers",
        sa.Column("id", sa.String(200), primary_key=True),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("roles", sa.JSON(), nullable=False),
        sa.Column("tier", sa.Integer(), nullable=False),
        sa.Column("first", sa.Integer(), nullable=False),
        sa.Column("last", sa.Integer(), nullable=False),
        sqlite_with_rowid=False,
    )
    op.create_index("viewers_last", "viewers", ["last"])
    op.create_table(
        "paid",
        sa.Column("viewer", sa.String(200), primary_key=True),
        sa.Column("at", sa.Integer(), primary_key=True),
        sa.Column("what", sa.String(20), primary_key=True),
        sa.Column("call", sa.String(200), primary_key=True),
        sa.Column("wall", sa.Integer(), nullable=False),
        sa.Column("amount", sa.Float(), nullable=False),
        sa.Column("held", sa.Integer(), nullable=False),
        sa.Column("why", sa.String(200), nullable=False),
        sqlite_with_rowid=False,
    )
    op.create_index("ledger_viewer", "ledger", ["viewer"])
    # Earlier viewers are known from the ledger.
    op.execute(
        "insert into viewers (id, name, roles, tier, first, last) select viewer, "
        "(select n.viewer_name from ledger n where n.viewer = l.viewer order by n.id desc limit 1), '[]', 1, min(wall), max(wall) "
        "from ledger l where viewer != '' group by viewer"
    )


def downgrade() -> None:
    op.drop_index("ledger_viewer", "ledger")
    op.drop_table("paid")
    op.drop_table("viewers")
    op.drop_table("rewards_there")
