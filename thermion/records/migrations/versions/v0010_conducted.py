"""lessons as they are held, and what stands on the board"""

import sqlalchemy as sa
from alembic import op

revision = '0010'
down_revision = '0009'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'conducted',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('class_id', sa.Integer(), nullable=False),
        sa.Column('challenge_id', sa.Integer(), nullable=True),
        sa.Column('lesson_id', sa.Integer(), nullable=True),
        sa.Column('phase', sa.String(length=16), nullable=False),
        sa.Column('act', sa.String(length=16), nullable=False),
        sa.Column('says', sa.String(length=200), nullable=False),
        sa.Column('planned_s', sa.Double(), nullable=False),
        sa.Column('allowed_s', sa.Double(), nullable=False),
        sa.Column('started_at', sa.DateTime(), nullable=False),
        sa.Column('stood_s', sa.Double(), nullable=False),
        sa.Column('paused_at', sa.DateTime(), nullable=True),
        sa.Column('turn', sa.Integer(), nullable=False),
        sa.Column('turn_from_s', sa.Double(), nullable=False),
        sa.Column('ended_at', sa.DateTime(), nullable=True),
        sa.Column('cut', sa.Boolean(), nullable=False),
        sa.Column('changes', sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(['class_id'], ['classes.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['lesson_id'], ['lessons.id'], ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id'),
    )
    for column in ('class_id', 'challenge_id', 'lesson_id'):
        op.create_index(op.f(f'ix_conducted_{column}'), 'conducted', [column])
    op.create_table(
        'boards',
        sa.Column('class_id', sa.Integer(), nullable=False),
        sa.Column('shows', sa.String(length=16), nullable=False),
        sa.Column('challenge_id', sa.Integer(), nullable=True),
        sa.Column('run_id', sa.Integer(), nullable=True),
        sa.Column('step', sa.Integer(), nullable=False),
        sa.ForeignKeyConstraint(['class_id'], ['classes.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['run_id'], ['runs.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('class_id'),
    )
    for column in ('challenge_id', 'run_id'):
        op.create_index(op.f(f'ix_boards_{column}'), 'boards', [column])
    op.add_column('challenges', sa.Column('beside', sa.Boolean(), nullable=False, server_default='0'))
    op.add_column('runs', sa.Column('bell_at', sa.DateTime(), nullable=True))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
