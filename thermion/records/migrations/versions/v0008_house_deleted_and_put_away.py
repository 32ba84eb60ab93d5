"""which installation these data are, what was deleted and can come back, classes put away"""

import secrets

import sqlalchemy as sa
from alembic import op

revision = '0008'
down_revision = '0007'
branch_labels = None
depends_on = None


def upgrade() -> None:
    house = op.create_table(
        'house',
        sa.Column('key', sa.String(length=32), nullable=False),
        sa.PrimaryKeyConstraint('key', name='pk_house'),
    )
    op.bulk_insert(house, [{'key': secrets.token_hex(8)}])
    op.create_table(
        'deleted',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('what', sa.String(length=16), nullable=False),
        sa.Column('title', sa.String(length=200), nullable=False),
        sa.Column('at', sa.DateTime(), nullable=False),
        sa.Column('rows', sa.LargeBinary(), nullable=False),
        sa.PrimaryKeyConstraint('id', name='pk_deleted'),
        sqlite_autoincrement=True,
    )
    op.add_column('classes', sa.Column('put_away_at', sa.DateTime(), nullable=True))
    op.create_index('ix_receipts_at', 'receipts', ['at'])


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
