"""Paired computers whose keys are pressed, beside devices with pads.

Revision ID: 0009
Revises: 0008
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("devices", sa.Column("does", sa.String(10), nullable=False, server_default="pads"))


def downgrade() -> None:
    op.drop_column("devices", "does")
