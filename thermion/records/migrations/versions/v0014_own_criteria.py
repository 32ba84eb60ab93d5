"""a class's own criteria: what judges say of a version; keys of metrics long enough for them"""

import sqlalchemy as sa
from alembic import op

revision = '0014'
down_revision = '0013'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'judged',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('version_id', sa.Integer(), nullable=False),
        sa.Column('criterion', sa.String(length=120), nullable=False),
        sa.Column('judge', sa.Integer(), nullable=False),
        sa.Column('value', sa.Double(), nullable=True),
        sa.Column('at', sa.DateTime(), nullable=False),
        sa.ForeignKeyConstraint(['version_id'], ['versions.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_index('ix_judged_version_id', 'judged', ['version_id'])
    with op.batch_alter_table('rule_terms') as changed:
        changed.alter_column('metric', type_=sa.String(length=120), existing_nullable=False)


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
