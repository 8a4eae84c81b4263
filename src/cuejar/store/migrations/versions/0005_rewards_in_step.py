"""What channels confirmed of rewards.

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


def downgrade() -> None:
    op.drop_table("rewards_there")
