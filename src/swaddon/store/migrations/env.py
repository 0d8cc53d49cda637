"""Runs migrations on the connection that ``store.migrate`` hands over."""

from alembic import context

connection = context.config.attributes["connection"]
context.configure(connection=connection, transactional_ddl=True, transaction_per_migration=False)
with context.begin_transaction():
    context.run_migrations()
