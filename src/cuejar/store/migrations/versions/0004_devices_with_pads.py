"""Devices with pads"""

import sqlalchemy as sa
from alembic import op

revision = '0004'
down_revision = '0003'


def upgrade() -> None:
    op.create_table('devices',
    sa.Column('id', sa.String(length=40), nullable=False),
    sa.Column('name', sa.String(length=60), nullable=False),
    sa.Column('made', sa.Integer(), nullable=False),
    sa.Column('seen', sa.Integer(), nullable=False),
    sa.Column('cues', sa.JSON(), nullable=True),
    sa.Column('locked', sa.Boolean(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )


def downgrade() -> None:
    op.drop_table('devices')
