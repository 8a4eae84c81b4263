"""Winners: who won what, and whether they have it.

Revision ID: 0010
Revises: 0009
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "winners",
        sa.Column("run", sa.String(20), primary_key=True),
        sa.Column("beat", sa.String(80), primary_key=True),
        sa.Column("wall", sa.Integer, nullable=False),
        sa.Column("viewer", sa.String(200), nullable=False),
        sa.Column("name", sa.String(200), nullable=False),
        sa.Column("what", sa.String(500), nullable=False),
        sa.Column("given", sa.Integer, nullable=False, server_default="0"),
        sa.Column("removed", sa.Integer, nullable=False, server_default="0"),
        sqlite_with_rowid=False,
    )


def downgrade() -> None:
    op.drop_table("winners")
