"""how a logger's files are meant; probes that send values"""

import sqlalchemy as sa
from alembic import op

revision = '0015'
down_revision = '0014'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'logger_layouts',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('layout', sa.String(length=24), nullable=False),
        sa.Column('name', sa.String(length=60), nullable=False),
        sa.Column('answers', sa.JSON(), nullable=False),
        sa.Column('at', sa.DateTime(), nullable=False),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('layout'),
    )
    op.create_table(
        'probes',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('name', sa.String(length=40), nullable=False),
        sa.Column('key_hash', sa.String(length=64), nullable=False),
        sa.Column('made_at', sa.DateTime(), nullable=False),
        sa.Column('revoked_at', sa.DateTime(), nullable=True),
        sa.Column('battery', sa.Double(), nullable=True),
        sa.Column('signal', sa.Double(), nullable=True),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('key_hash'),
    )
    op.create_table(
        'probe_channels',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('probe_id', sa.Integer(), nullable=False),
        sa.Column('name', sa.String(length=120), nullable=False),
        sa.Column('unit', sa.String(length=16), nullable=False),
        sa.Column('offset', sa.Double(), nullable=False),
        sa.Column('checked_at', sa.DateTime(), nullable=True),
        sa.Column('entry_id', sa.Integer(), nullable=True),
        sa.Column('run_id', sa.Integer(), nullable=True),
        sa.Column('read_key', sa.String(length=32), nullable=False),
        sa.Column('last_at', sa.DateTime(), nullable=True),
        sa.Column('last_value', sa.Double(), nullable=True),
        sa.Column('heard_at', sa.DateTime(), nullable=True),
        sa.Column('prompt', sa.Boolean(), nullable=False),
        sa.ForeignKeyConstraint(['probe_id'], ['probes.id'], ondelete='CASCADE'),
        sa.ForeignKeyConstraint(['entry_id'], ['entries.id'], ondelete='SET NULL'),
        sa.ForeignKeyConstraint(['run_id'], ['runs.id'], ondelete='SET NULL'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('probe_id', 'name'),
    )
    for column in ('probe_id', 'entry_id', 'run_id'):
        op.create_index(op.f(f'ix_probe_channels_{column}'), 'probe_channels', [column])
    op.create_table(
        'probe_values',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('channel_id', sa.Integer(), nullable=False),
        sa.Column('at', sa.DateTime(), nullable=False),
        sa.Column('value', sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(['channel_id'], ['probe_channels.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('channel_id', 'at'),
    )
    op.add_column('entries', sa.Column('probe_checked', sa.Boolean(), nullable=True))
    op.add_column(
        'attempts', sa.Column('machine', sa.String(length=100), nullable=False, server_default='')
    )


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
