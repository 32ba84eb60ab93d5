"""a class's own materials, words and cautions; keys of materials long enough for them"""

import sqlalchemy as sa
from alembic import op

revision = '0011'
down_revision = '0010'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        'own_materials',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('class_id', sa.Integer(), nullable=False),
        sa.Column('key', sa.String(length=320), nullable=False),
        sa.Column('limit_units', sa.Double(), nullable=True),
        sa.Column('points', sa.Double(), nullable=False),
        sa.ForeignKeyConstraint(['class_id'], ['classes.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
        sa.UniqueConstraint('class_id', 'key'),
    )
    op.create_table(
        'own_words',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('class_id', sa.Integer(), nullable=False),
        sa.Column('kind', sa.String(length=32), nullable=False),
        sa.Column('seen', sa.String(length=60), nullable=False),
        sa.Column('ask', sa.String(length=160), nullable=False),
        sa.Column('gone_at', sa.DateTime(), nullable=True),
        sa.ForeignKeyConstraint(['class_id'], ['classes.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
    )
    op.create_table(
        'own_cautions',
        sa.Column('id', sa.Integer(), nullable=False),
        sa.Column('class_id', sa.Integer(), nullable=False),
        sa.Column('text', sa.String(length=200), nullable=False),
        sa.ForeignKeyConstraint(['class_id'], ['classes.id'], ondelete='CASCADE'),
        sa.PrimaryKeyConstraint('id'),
    )
    for table in ('own_materials', 'own_words', 'own_cautions'):
        op.create_index(op.f(f'ix_{table}_class_id'), table, ['class_id'])
    for table in ('offers', 'parts', 'stock_moves'):
        with op.batch_alter_table(table) as changed:
            changed.alter_column('material', type_=sa.String(length=320), existing_nullable=False)


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
