"""What a learner wrote can be put out of sight."""

import sqlalchemy as sa
from alembic import op

revision = "0026"
down_revision = "0025"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for table in ("versions", "ideas"):
        op.add_column(table, sa.Column("hidden", sa.JSON(), server_default="{}", nullable=False))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
