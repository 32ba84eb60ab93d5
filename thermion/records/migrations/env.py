"""Alembic's entry: runs the migrations on the engine that the application hands over."""

from alembic import context

from thermion.records.models import Base

engine = context.config.attributes["engine"]
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()
