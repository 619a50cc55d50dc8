"""Alembic's entry: migrations run on the connection that `texallon.store.migrate` hands over."""

from alembic import context
from sqlmodel import SQLModel

from texallon.store import tables  # noqa: F401  (fills the metadata)

connection = context.config.attributes["connection"]
context.configure(connection=connection, target_metadata=SQLModel.metadata, compare_type=True)
with context.begin_transaction():
    context.run_migrations()
