"""Alembic's entry: runs the migrations on the engine that the application hands over.

Foreign keys are off meanwhile: a table whose constraints change is copied and dropped, and a
drop would take the rows that point at it along. They are checked before anything is committed.
"""

from alembic import context

from thermion.records.tables import Base

engine = context.config.attributes["engine"]
with engine.connect() as connection:
    raw = connection.connection.driver_connection
    raw.execute("PRAGMA foreign_keys=OFF")
    try:
        context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
        with context.begin_transaction():
            context.run_migrations()
            astray = connection.exec_driver_sql("PRAGMA foreign_key_check").fetchall()
            if astray:
                raise RuntimeError(f"rows point at nothing after the migration: {astray[:5]}")
        connection.commit()
    finally:
        raw.execute("PRAGMA foreign_keys=ON")
