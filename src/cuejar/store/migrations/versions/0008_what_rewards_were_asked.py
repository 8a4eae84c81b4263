"""Unconfirmed requests about rewards: after a crash they are recognised as ours.

Revision ID: 0008
Revises: 0007
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("rewards_there", sa.Column("asked", sa.JSON(), nullable=True))


def downgrade() -> None:
    op.drop_column("rewards_there", "asked")
