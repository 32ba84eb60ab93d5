"""a prediction that could not be read yet is kept as it was typed"""

import sqlalchemy as sa
from alembic import op

revision = '0005'
down_revision = '0004'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('versions', sa.Column('prediction_typed', sa.String(length=40), nullable=False, server_default=''))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
