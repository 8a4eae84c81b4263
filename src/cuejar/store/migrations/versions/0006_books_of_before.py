"""The origin of each revision of the book, and those that were undone.

Revision ID: 0006
Revises: 0005
"""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("revisions", sa.Column("whence", sa.String(20), nullable=False, server_default="page"))
    op.add_column("revisions", sa.Column("aside", sa.Boolean(), nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("revisions", "aside")
    op.drop_column("revisions", "whence")
