"""several devices of a version in a run, races with one probe, pictures, conclusions carried on"""

import sqlalchemy as sa
from alembic import op

revision = '0004'
down_revision = '0003'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table('conclusions',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('challenge_id', sa.Integer(), nullable=False),
    sa.Column('text', sa.String(length=300), nullable=False),
    sa.Column('at', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], name=op.f('fk_conclusions_challenge_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_conclusions'))
    )
    op.create_index(op.f('ix_conclusions_challenge_id'), 'conclusions', ['challenge_id'], unique=False)
    op.create_table('carried',
    sa.Column('conclusion_id', sa.Integer(), nullable=False),
    sa.Column('challenge_id', sa.Integer(), nullable=False),
    sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], name=op.f('fk_carried_challenge_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['conclusion_id'], ['conclusions.id'], name=op.f('fk_carried_conclusion_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('conclusion_id', 'challenge_id', name=op.f('pk_carried'))
    )
    op.create_index(op.f('ix_carried_challenge_id'), 'carried', ['challenge_id'], unique=False)
    op.create_table('attachments',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('version_id', sa.Integer(), nullable=False),
    sa.Column('width', sa.Integer(), nullable=False),
    sa.Column('height', sa.Integer(), nullable=False),
    sa.Column('data', sa.LargeBinary(), nullable=False),
    sa.Column('added_at', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['version_id'], ['versions.id'], name=op.f('fk_attachments_version_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_attachments'))
    )
    op.create_index(op.f('ix_attachments_version_id'), 'attachments', ['version_id'], unique=False)
    with op.batch_alter_table('attempts', schema=None) as batch_op:
        batch_op.add_column(sa.Column('race', sa.String(length=16), nullable=False, server_default=''))
    with op.batch_alter_table('entries', schema=None) as batch_op:
        batch_op.add_column(sa.Column('device', sa.String(length=8), nullable=False, server_default=''))
        batch_op.drop_constraint('uq_entries_run_id', type_='unique')
        batch_op.create_unique_constraint('uq_entries_run_id', ['run_id', 'version_id', 'device'])
    with op.batch_alter_table('versions', schema=None) as batch_op:
        batch_op.add_column(sa.Column('idea_team_id', sa.Integer(), nullable=True))
        batch_op.create_foreign_key('fk_versions_idea_team_id', 'teams', ['idea_team_id'], ['id'], ondelete='SET NULL')
        batch_op.create_index(batch_op.f('ix_versions_idea_team_id'), ['idea_team_id'], unique=False)


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
