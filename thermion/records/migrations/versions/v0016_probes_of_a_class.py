"""a probe's key belongs to a class"""

import sqlalchemy as sa
from alembic import op

revision = '0016'
down_revision = '0015'
branch_labels = None
depends_on = None


def upgrade() -> None:
    # where a class is deleted, its probes stay, of no class, until they are put into a run again
    op.add_column('probes', sa.Column('class_id', sa.Integer(), nullable=True))
    op.execute(
        """UPDATE probes SET class_id = (
          SELECT challenges.class_id FROM probe_channels
          LEFT JOIN entries ON entries.id = probe_channels.entry_id
          JOIN runs ON runs.id = coalesce(probe_channels.run_id, entries.run_id)
          JOIN challenges ON challenges.id = runs.challenge_id
          WHERE probe_channels.probe_id = probes.id LIMIT 1)"""
    )
    op.execute(
        """UPDATE probes SET class_id = (SELECT id FROM classes)
          WHERE class_id IS NULL AND (SELECT count(*) FROM classes) = 1"""
    )


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
