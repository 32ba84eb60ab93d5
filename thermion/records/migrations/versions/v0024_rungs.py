"""easier and harder rungs of a challenge, and the teams on them"""

import sqlalchemy as sa
from alembic import op

revision = '0024'
down_revision = '0023'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'rungs',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('challenge_id', sa.Integer(), nullable=False),
        sa.Column('key', sa.String(8), nullable=False),
        sa.Column('share', sa.Double(), nullable=False),
        sa.Column('words', sa.String(8), nullable=False),
        sa.Column('aim', sa.String(200), nullable=False),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('challenge_id', 'key'),
    )
    op.create_table(
        'team_rungs',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('challenge_id', sa.Integer(), nullable=False),
        sa.Column('team_id', sa.Integer(), nullable=False),
        sa.Column('key', sa.String(8), nullable=False),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['team_id'], ['teams.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('challenge_id', 'team_id'),
    )
    op.create_index('ix_team_rungs_team_id', 'team_rungs', ['team_id'])


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
