"""runs and parts of them set apart, and how a run's conditions were obtained"""

import sqlalchemy as sa
from alembic import op

revision = '0007'
down_revision = '0006'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column('run_conditions', sa.Column('how', sa.String(length=10), nullable=False, server_default=''))
    op.create_table(
        'set_aparts',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('run_id', sa.Integer(), nullable=False),
        sa.Column('entry_id', sa.Integer(), nullable=True),
        sa.Column('phase', sa.String(length=16), nullable=False),
        sa.Column('after_s', sa.Double(), nullable=True),
        sa.Column('why', sa.String(length=200), nullable=False),
        sa.Column('at', sa.DateTime(), nullable=False),
        sa.Column('undone_at', sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(['entry_id'], ['entries.id'], name='fk_set_aparts_entry_id', ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['run_id'], ['runs.id'], name='fk_set_aparts_run_id', ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id', name='pk_set_aparts'),
    )
    op.create_table(
        'repeats',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('challenge_id', sa.Integer(), nullable=False),
        sa.Column('metric', sa.String(length=32), nullable=False),
        sa.Column('squares', sa.Double(), nullable=False),
        sa.Column('dof', sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(
            ['challenge_id'], ['challenges.id'], name='fk_repeats_challenge_id', ondelete='CASCADE'
        ),
        sa.PrimaryKeyConstraint('id', name='pk_repeats'),
        sa.UniqueConstraint('challenge_id', 'metric', name='uq_repeats_challenge_id'),
    )
    op.create_index('ix_set_aparts_run_id', 'set_aparts', ['run_id'])


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
