"""when a team came and left"""

import sqlalchemy as sa
from alembic import op

revision = '0022'
down_revision = '0021'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('teams', sa.Column('joined_at', sa.DateTime(), nullable=True))
    op.add_column('teams', sa.Column('left_at', sa.DateTime(), nullable=True))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
