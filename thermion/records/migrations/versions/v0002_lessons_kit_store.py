"""lessons, kit, store, rig checks"""

import sqlalchemy as sa
from alembic import op

revision = '0002'
down_revision = '0001'
branch_labels = None
depends_on = None


def upgrade() -> None:

    op.create_table('kit_items',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('class_id', sa.Integer(), nullable=False),
    sa.Column('item', sa.String(length=80), nullable=False),
    sa.Column('pack', sa.Double(), nullable=False),
    sa.Column('pack_cost', sa.Double(), nullable=False),
    sa.Column('have_at', sa.DateTime(), nullable=True),
    sa.ForeignKeyConstraint(['class_id'], ['classes.id'], name=op.f('fk_kit_items_class_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_kit_items')),
    sa.UniqueConstraint('class_id', 'item', name=op.f('uq_kit_items_class_id'))
    )
    op.create_table('lessons',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('class_id', sa.Integer(), nullable=False),
    sa.Column('starts_at', sa.DateTime(), nullable=False),
    sa.Column('length_s', sa.Double(), nullable=False),
    sa.Column('pack_up_s', sa.Double(), nullable=False),
    sa.ForeignKeyConstraint(['class_id'], ['classes.id'], name=op.f('fk_lessons_class_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_lessons'))
    )
    with op.batch_alter_table('lessons', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_lessons_class_id'), ['class_id'], unique=False)

    op.create_table('rig_readings',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('challenge_id', sa.Integer(), nullable=False),
    sa.Column('check_key', sa.String(length=16), nullable=False),
    sa.Column('spot', sa.String(length=40), nullable=False),
    sa.Column('value', sa.Double(), nullable=True),
    sa.Column('at', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], name=op.f('fk_rig_readings_challenge_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_rig_readings')),
    sa.UniqueConstraint('challenge_id', 'check_key', 'spot', name=op.f('uq_rig_readings_challenge_id'))
    )
    op.create_table('steps',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('challenge_id', sa.Integer(), nullable=False),
    sa.Column('phase', sa.String(length=16), nullable=False),
    sa.Column('length_s', sa.Double(), nullable=False),
    sa.Column('not_before', sa.Integer(), nullable=False),
    sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], name=op.f('fk_steps_challenge_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_steps')),
    sa.UniqueConstraint('challenge_id', 'phase', name=op.f('uq_steps_challenge_id'))
    )
    op.create_table('timings',
    sa.Column('challenge_id', sa.Integer(), nullable=False),
    sa.Column('attempts', sa.Integer(), nullable=False),
    sa.Column('stations', sa.Integer(), nullable=False),
    sa.Column('readers', sa.Integer(), nullable=False),
    sa.Column('read_s', sa.Double(), nullable=False),
    sa.Column('set_up_s', sa.Double(), nullable=False),
    sa.Column('fit_s', sa.Double(), nullable=False),
    sa.Column('run_s', sa.Double(), nullable=False),
    sa.Column('reset_s', sa.Double(), nullable=False),
    sa.Column('stagger', sa.Boolean(), nullable=False),
    sa.ForeignKeyConstraint(['challenge_id'], ['challenges.id'], name=op.f('fk_timings_challenge_id'), ondelete='CASCADE'),
    sa.PrimaryKeyConstraint('challenge_id', name=op.f('pk_timings'))
    )
    op.create_table('stock_moves',
    sa.Column('id', sa.Integer(), nullable=False),
    sa.Column('class_id', sa.Integer(), nullable=False),
    sa.Column('material', sa.String(length=32), nullable=False),
    sa.Column('units', sa.Double(), nullable=False),
    sa.Column('reason', sa.String(length=8), nullable=False),
    sa.Column('version_id', sa.Integer(), nullable=True),
    sa.Column('at', sa.DateTime(), nullable=False),
    sa.ForeignKeyConstraint(['class_id'], ['classes.id'], name=op.f('fk_stock_moves_class_id'), ondelete='CASCADE'),
    sa.ForeignKeyConstraint(['version_id'], ['versions.id'], name=op.f('fk_stock_moves_version_id'), ondelete='SET NULL'),
    sa.PrimaryKeyConstraint('id', name=op.f('pk_stock_moves'))
    )
    with op.batch_alter_table('stock_moves', schema=None) as batch_op:
        batch_op.create_index(batch_op.f('ix_stock_moves_class_id'), ['class_id'], unique=False)
        batch_op.create_index(batch_op.f('ix_stock_moves_version_id'), ['version_id'], unique=False)

    with op.batch_alter_table('challenges', schema=None) as batch_op:
        batch_op.add_column(sa.Column('tools', sa.String(length=200), nullable=False, server_default='scissors'))

    with op.batch_alter_table('classes', schema=None) as batch_op:
        batch_op.add_column(sa.Column('learners', sa.Integer(), nullable=False, server_default='24'))
        batch_op.add_column(sa.Column('latitude_deg', sa.Double(), nullable=True))
        batch_op.add_column(sa.Column('longitude_deg', sa.Double(), nullable=True))
        batch_op.add_column(sa.Column('altitude_m', sa.Double(), nullable=False, server_default='0'))

    with op.batch_alter_table('entries', schema=None) as batch_op:
        batch_op.add_column(sa.Column('offset_s', sa.Double(), nullable=False, server_default='0'))




def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
