"""What is measured of a file"""

import sqlalchemy as sa
from alembic import op

revision = '0002'
down_revision = '0001'


def upgrade() -> None:
    with op.batch_alter_table('media', schema=None) as batch_op:
        batch_op.add_column(sa.Column('codecs', sa.JSON(), server_default='[]', nullable=False))
        batch_op.add_column(sa.Column('alpha', sa.Boolean(), server_default='0', nullable=False))
        batch_op.add_column(sa.Column('lufs', sa.Float(), nullable=True))
        batch_op.add_column(sa.Column('peak_dbtp', sa.Float(), nullable=True))
        batch_op.add_column(sa.Column('flashes', sa.JSON(), server_default='[]', nullable=False))
        batch_op.add_column(sa.Column('probed', sa.Integer(), server_default='1', nullable=False))



def downgrade() -> None:
    with op.batch_alter_table('media', schema=None) as batch_op:
        batch_op.drop_column('probed')
        batch_op.drop_column('flashes')
        batch_op.drop_column('peak_dbtp')
        batch_op.drop_column('lufs')
        batch_op.drop_column('alpha')
        batch_op.drop_column('codecs')

