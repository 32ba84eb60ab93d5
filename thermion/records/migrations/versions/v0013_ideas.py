"""silent ideas, what is taken from other teams, what worked and what did not"""

import sqlalchemy as sa
from alembic import op

revision = '0013'
down_revision = '0012'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'ideas',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('challenge_id', sa.Integer(), nullable=False),
        sa.Column('team_id', sa.Integer(), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('strokes', sa.JSON(), nullable=False),
        sa.Column('picks', sa.JSON(), nullable=False),
        sa.Column('why', sa.String(length=200), nullable=False),
        sa.Column('width', sa.Integer(), nullable=False),
        sa.Column('height', sa.Integer(), nullable=False),
        sa.Column('data', sa.LargeBinary(), nullable=True),
        sa.Column('client_id', sa.String(length=64), nullable=False),
        sa.Column('at', sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['team_id'], ['teams.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('challenge_id', 'team_id', 'number'),
        sa.UniqueConstraint('client_id'),
    )
    op.create_index('ix_ideas_team_id', 'ideas', ['team_id'])
    op.create_table(
        'taken',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('challenge_id', sa.Integer(), nullable=False),
        sa.Column('team_id', sa.Integer(), nullable=False),
        sa.Column('from_id', sa.Integer(), nullable=False),
        sa.Column('what', sa.String(length=160), nullable=False),
        sa.Column('at', sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['team_id'], ['teams.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['from_id'], ['teams.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('challenge_id', 'team_id', 'from_id', 'what'),
    )
    for column in ('team_id', 'from_id'):
        op.create_index(op.f(f'ix_taken_{column}'), 'taken', [column])
    op.add_column('parts', sa.Column('idea', sa.Integer(), nullable=False, server_default='0'))
    for column in ('worked', 'failed'):
        added = sa.Column(column, sa.String(length=300), nullable=False, server_default='')
        op.add_column('versions', added)


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
