"""Alembic's entry: runs the migrations on the connection it is handed, each in a transaction of its own."""

from alembic import context

from sapolin.store.tables import Base

context.configure(
    connection=context.config.attributes["connection"],
    target_metadata=Base.metadata,
    render_as_batch=True,
    # SQLite can take DDL back, once the driver leaves transactions to us.
    transactional_ddl=True,
    transaction_per_migration=True,
)
with context.begin_transaction():
    context.run_migrations()
