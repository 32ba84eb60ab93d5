"""briefs on a shelf, and which briefs are copies of one another"""

import sqlalchemy as sa
from alembic import op

revision = '0012'
down_revision = '0011'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'shelf',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('title', sa.String(length=80), nullable=False),
        sa.Column('kind', sa.String(length=32), nullable=False),
        sa.Column('lineage', sa.String(length=16), nullable=False),
        sa.Column('content', sa.String(), nullable=False),
        sa.Column('kept_at', sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('lineage'),
    )
    op.add_column('challenges', sa.Column('lineage', sa.String(length=16), nullable=False, server_default=''))
    op.execute("UPDATE challenges SET lineage = lower(hex(randomblob(8)))")


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
