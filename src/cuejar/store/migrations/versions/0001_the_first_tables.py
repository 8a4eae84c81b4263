"""The first tables"""

import sqlalchemy as sa
from alembic import op

revision = '0001'
down_revision = None


def upgrade() -> None:
    op.create_table('journal',
    sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('happening', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('id'),
    sqlite_autoincrement=True
    )
    op.create_table('ledger',
    sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('call', sa.String(length=200), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('viewer', sa.String(length=200), nullable=False),
    sa.Column('viewer_name', sa.String(length=200), nullable=False),
    sa.Column('text', sa.Text(), nullable=False),
    sa.Column('reward', sa.String(length=80), nullable=False),
    sa.Column('cost', sa.Integer(), nullable=False),
    sa.Column('cue', sa.String(length=80), nullable=False),
    sa.Column('verdict', sa.String(length=20), nullable=False),
    sa.Column('reason', sa.String(length=40), nullable=False),
    sa.Column('detail', sa.Text(), nullable=False),
    sa.Column('run', sa.String(length=20), nullable=False),
    sa.Column('outcome', sa.String(length=20), nullable=False),
    sa.Column('trace', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('ledger', schema=None) as batch_op:
        batch_op.create_index('ledger_at', ['at'], unique=False)
        batch_op.create_index('ledger_once', ['call', 'cue', 'at'], unique=True)
        batch_op.create_index('ledger_run', ['run'], unique=False)
        batch_op.create_index('ledger_viewer', ['viewer'], unique=False)

    op.create_table('links',
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('thing', sa.String(length=80), nullable=False),
    sa.Column('value', sa.String(length=200), nullable=False),
    sa.PrimaryKeyConstraint('kind', 'thing')
    )
    op.create_table('media',
    sa.Column('hash', sa.String(length=64), nullable=False),
    sa.Column('kind', sa.String(length=10), nullable=False),
    sa.Column('format', sa.String(length=20), nullable=False),
    sa.Column('mime', sa.String(length=60), nullable=False),
    sa.Column('size', sa.Integer(), nullable=False),
    sa.Column('length_s', sa.Float(), nullable=False),
    sa.Column('loops', sa.Integer(), nullable=False),
    sa.Column('width', sa.Integer(), nullable=False),
    sa.Column('height', sa.Integer(), nullable=False),
    sa.Column('has_sound', sa.Boolean(), nullable=False),
    sa.Column('notes', sa.JSON(), nullable=False),
    sa.Column('wave', sa.JSON(), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.PrimaryKeyConstraint('hash')
    )
    op.create_table('meta',
    sa.Column('key', sa.String(length=60), nullable=False),
    sa.Column('value', sa.Text(), nullable=False),
    sa.PrimaryKeyConstraint('key')
    )
    op.create_table('notes',
    sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
    sa.Column('run', sa.String(length=20), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('what', sa.String(length=20), nullable=False),
    sa.Column('beat', sa.String(length=80), nullable=False),
    sa.Column('data', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    with op.batch_alter_table('notes', schema=None) as batch_op:
        batch_op.create_index('note_once', ['run', 'at', 'what', 'beat'], unique=True)

    op.create_table('revisions',
    sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
    sa.Column('what', sa.String(length=200), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('book', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_table('settlements',
    sa.Column('redemption', sa.String(length=200), nullable=False),
    sa.Column('outcome', sa.String(length=20), nullable=False),
    sa.Column('confirmed', sa.Boolean(), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('problem', sa.Text(), nullable=False),
    sa.PrimaryKeyConstraint('redemption')
    )
    op.create_table('snapshots',
    sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
    sa.Column('journal_id', sa.Integer(), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('state', sa.Text(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )


def downgrade() -> None:
    op.drop_table('snapshots')
    op.drop_table('settlements')
    op.drop_table('revisions')
    with op.batch_alter_table('notes', schema=None) as batch_op:
        batch_op.drop_index('note_once')

    op.drop_table('notes')
    op.drop_table('meta')
    op.drop_table('media')
    op.drop_table('links')
    with op.batch_alter_table('ledger', schema=None) as batch_op:
        batch_op.drop_index('ledger_viewer')
        batch_op.drop_index('ledger_run')
        batch_op.drop_index('ledger_once')
        batch_op.drop_index('ledger_at')

    op.drop_table('ledger')
    op.drop_table('journal')
