"""Owed strikes under their ids, latches with their taps; the wall clock beside the show's"""

import secrets
import time

import sqlalchemy as sa
from alembic import op

revision = '0003'
down_revision = '0002'


def upgrade() -> None:
    op.add_column('journal', sa.Column('wall', sa.Integer(), server_default='0', nullable=False))
    op.add_column('ledger', sa.Column('wall', sa.Integer(), server_default='0', nullable=False))
    op.execute('update ledger set wall = at')
    op.drop_index('ledger_at', table_name='ledger')
    op.drop_index('ledger_viewer', table_name='ledger')
    op.create_index('ledger_wall', 'ledger', ['wall'], unique=False)
    # Stored by their keys alone: half the size.
    op.rename_table('notes', 'notes_before')
    op.create_table('notes',
    sa.Column('run', sa.String(length=20), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('what', sa.String(length=20), nullable=False),
    sa.Column('beat', sa.String(length=80), nullable=False),
    sa.Column('data', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('run', 'at', 'what', 'beat'),
    sqlite_with_rowid=False
    )
    op.execute('insert or ignore into notes (run, at, what, beat, data) select run, at, what, beat, data from notes_before')
    op.drop_table('notes_before')
    op.rename_table('settlements', 'settlements_before')
    op.create_table('settlements',
    sa.Column('redemption', sa.String(length=200), nullable=False),
    sa.Column('outcome', sa.String(length=20), nullable=False),
    sa.Column('confirmed', sa.Boolean(), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('problem', sa.Text(), nullable=False),
    sa.PrimaryKeyConstraint('redemption'),
    sqlite_with_rowid=False
    )
    op.execute('insert into settlements (redemption, outcome, confirmed, at, problem) '
               'select redemption, outcome, confirmed, at, problem from settlements_before')
    op.drop_table('settlements_before')
    op.create_table('strikes',
    sa.Column('id', sa.String(length=40), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('run', sa.String(length=20), nullable=False),
    sa.Column('beat', sa.String(length=80), nullable=False),
    sa.Column('kind', sa.String(length=20), nullable=False),
    sa.Column('value', sa.JSON(), nullable=False),
    sa.Column('state', sa.String(length=10), nullable=False),
    sa.Column('problem', sa.Text(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.create_index('strikes_state', 'strikes', ['state'], unique=False)
    op.create_table('heard',
    sa.Column('event', sa.Integer(), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.PrimaryKeyConstraint('event')
    )
    op.create_table('latches',
    sa.Column('path', sa.String(length=200), nullable=False),
    sa.Column('value', sa.String(length=10), nullable=False),
    sa.Column('taps', sa.Integer(), nullable=False),
    sa.Column('asked', sa.String(length=80), nullable=False),
    sa.PrimaryKeyConstraint('path')
    )
    op.execute("insert into latches (path, value, taps, asked) select thing, value, 0, '' from links where kind = 'latch'")
    op.execute("delete from links where kind in ('latch', 'boot')")
    meta = sa.table('meta', sa.column('key'), sa.column('value'))
    op.execute(meta.insert().values(key='installation', value=secrets.token_hex(8)))
    # Earlier strikes were sent, or not, by a version that didn't record them.
    op.execute(meta.insert().values(key='strikes_from', value=str(time.time_ns() // 1_000_000)))


def downgrade() -> None:
    op.rename_table('notes', 'notes_after')
    op.create_table('notes',
    sa.Column('id', sa.Integer(), autoincrement=True, nullable=False),
    sa.Column('run', sa.String(length=20), nullable=False),
    sa.Column('at', sa.Integer(), nullable=False),
    sa.Column('what', sa.String(length=20), nullable=False),
    sa.Column('beat', sa.String(length=80), nullable=False),
    sa.Column('data', sa.JSON(), nullable=False),
    sa.PrimaryKeyConstraint('id')
    )
    op.execute('insert into notes (run, at, what, beat, data) select run, at, what, beat, data from notes_after')
    op.drop_table('notes_after')
    op.create_index('note_once', 'notes', ['run', 'at', 'what', 'beat'], unique=True)
    op.create_index('ledger_viewer', 'ledger', ['viewer'], unique=False)
    op.execute("delete from meta where key in ('installation', 'strikes_from')")
    op.drop_table('latches')
    op.drop_table('heard')
    op.drop_table('strikes')
    op.drop_index('ledger_wall', table_name='ledger')
    op.create_index('ledger_at', 'ledger', ['at'], unique=False)
    with op.batch_alter_table('ledger', schema=None) as batch_op:
        batch_op.drop_column('wall')
    with op.batch_alter_table('journal', schema=None) as batch_op:
        batch_op.drop_column('wall')
