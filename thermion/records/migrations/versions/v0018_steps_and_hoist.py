"""steps bear the words of the places they lead to, and the wind hoist its name"""

from alembic import op

revision = '0018'
down_revision = '0017'
branch_labels = None
depends_on = None

STEPS = {
    'ask': 'task',
    'imagine': 'ideas',
    'create': 'build',
    'look': 'findings',
    'improve': 'change',
    'share': 'show',
}


def upgrade() -> None:
    for table in ('steps', 'conducted'):
        for was, now in STEPS.items():
            op.execute(f"UPDATE {table} SET phase = '{now}' WHERE phase = '{was}'")
    for table in ('challenges', 'shelf', 'own_words'):
        op.execute(f"UPDATE {table} SET kind = 'wind_hoist' WHERE kind = 'wind_lift'")


def downgrade() -> None:
    raise NotImplementedError("restore a backup to go back")
