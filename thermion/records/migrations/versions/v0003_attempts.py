"""attempts at a station"""

import sqlalchemy as sa
from alembic import op

revision = '0003'
down_revision = '0002'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('attempts',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('entry_id', sa.Integer(), nullable=False),
    sa.Column('values', sa.JSON(), nullable=False),
    sa.Column('seen', sa.String(length=200), nullable=False),
    sa.Column('adjusted', sa.String(length=1), nullable=False),
    sa.Column('note', sa.String(length=200), nullable=False),
    sa.Column('free', sa.Boolean(), nullable=False),
    sa.Column('withdrawn', sa.Boolean(), nullable=False),
    sa.Column('client_id', sa.String(length=64), nullable=False),
    sa.Column('at', sa.DateTime(), nullable=False),
    sa.Column('supersedes_id', sa.Integer(), nullable=True),
    sa.ForeignKeyConstraint(['entry_id'], ['entries.id'], name=op.f('fk_attempts_entry_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['supersedes_id'], ['attempts.id'], name=op.f('fk_attempts_supersedes_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_attempts')),
    sa.UniqueConstraint('client_id', name=op.f('uq_attempts_client_id')),
    sa.UniqueConstraint('supersedes_id', name=op.f('uq_attempts_supersedes_id'))
    )
    with op.batch_alter_table('attempts', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_attempts_entry_id'), ['entry_id'], unique=False)
    with op.batch_alter_table('entries', schema=None) as batch_op:
        batch_op.add_column(sa.Column('left', sa.String(length=8), nullable=False, server_default=''))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
