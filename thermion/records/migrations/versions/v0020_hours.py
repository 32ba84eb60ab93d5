"""the hours and holidays of a class"""

import sqlalchemy as sa
from alembic import op

revision = '0020'
down_revision = '0019'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('classes', sa.Column('hours', sa.JSON(), nullable=False, server_default='[]'))
    op.add_column('classes', sa.Column('holidays', sa.JSON(), nullable=False, server_default='[]'))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
