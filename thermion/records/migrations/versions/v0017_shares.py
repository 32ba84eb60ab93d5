"""how much a try varies, as a share, with a lower and a higher floor"""

import sqlalchemy as sa
from alembic import op

revision = '0017'
down_revision = '0016'
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.execute('DELETE FROM repeats')  # in units, until now: learned anew after every migration
    op.add_column('repeats', sa.Column('squares_low', sa.Double(), nullable=True))
    op.add_column('repeats', sa.Column('squares_high', sa.Double(), nullable=True))


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
