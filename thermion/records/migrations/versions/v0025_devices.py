"""the door for other devices, and by which of them a row was brought"""

import sqlalchemy as sa
from alembic import op

revision = '0025'
down_revision = '0024'
branch_labels = None
depends_on = None

BROUGHT = (
    'run_phases', 'set_aparts', 'readings', 'attempts', 'ideas', 'taken', 'judged', 'attachments',
    'stock_moves', 'conducted', 'rig_readings', 'understood',
)


def upgrade() -> None:
    op.create_table(
        'doorway',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('open_until', sa.DateTime(), nullable=True),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_table(
        'join_codes',
        sa.Column('code', sa.String(16), nullable=False),
        sa.Column('role', sa.String(12), nullable=False),
        sa.Column('class_id', sa.Integer(), nullable=True),
        sa.Column('team_id', sa.Integer(), nullable=True),
        sa.Column('challenge_id', sa.Integer(), nullable=True),
        sa.Column('station', sa.Integer(), nullable=False),
        sa.Column('until', sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(['class_id'], ['classes.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['team_id'], ['teams.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('code'),
    )
    op.create_index('ix_join_codes_class_id', 'join_codes', ['class_id'])
    op.create_table(
        'devices',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('role', sa.String(12), nullable=False),
        sa.Column('number', sa.Integer(), nullable=False),
        sa.Column('class_id', sa.Integer(), nullable=True),
        sa.Column('team_id', sa.Integer(), nullable=True),
        sa.Column('challenge_id', sa.Integer(), nullable=True),
        sa.Column('station', sa.Integer(), nullable=False),
        sa.Column('secret_hash', sa.String(64), nullable=False),
        sa.Column('joined_at', sa.DateTime(), nullable=False),
        sa.Column('until', sa.DateTime(), nullable=False),
        sa.Column('ended_at', sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(['class_id'], ['classes.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['team_id'], ['teams.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sqlite_autoincrement=True,
    )
    op.create_index('ix_devices_class_id', 'devices', ['class_id'])
    for table in BROUGHT:
        op.add_column(table, sa.Column('by', sa.String(20), server_default='', nullable=False))
    for column in ('waiting_by', 'signed_by', 'issued_by'):
        op.add_column('versions', sa.Column(column, sa.String(20), server_default='', nullable=False))
    op.add_column('versions', sa.Column('answer', sa.String(500), server_default='', nullable=False))
    op.add_column('runs', sa.Column('pads', sa.String(8), server_default='', nullable=False))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
