"""Alembic's entry: runs the migrations on the connection it is handed."""

from alembic import context

from sapolin.store.tables import Base

context.configure(
    connection=context.config.attributes["connection"], target_metadata=Base.metadata, render_as_batch=True
)
with context.begin_transaction():
    context.run_migrations()
