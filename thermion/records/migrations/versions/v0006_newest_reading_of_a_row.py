"""the newest reading of a row is found at once, however many a logger left there"""

from alembic import op

revision = '0006'
down_revision = '0005'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_index('ix_readings_entry_id', 'readings', ['entry_id'])


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
