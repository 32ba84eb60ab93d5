"""where the dial of a challenge's difficulty stands"""

import sqlalchemy as sa
from alembic import op

revision = '0009'
down_revision = '0008'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('challenges', sa.Column('dial', sa.String(length=8), nullable=False, server_default=''))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
