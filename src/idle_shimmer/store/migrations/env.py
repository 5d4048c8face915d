"""The environment of Alembic: the tables and the address of the database."""

from alembic import context
from sqlalchemy import create_engine

from idle_shimmer.store.tables import Base

with create_engine(context.config.get_main_option("sqlalchemy.url") or "").connect() as connection:
    context.configure(
        connection=connection, target_metadata=Base.metadata, transaction_per_migration=True
    )
    with context.begin_transaction():
        context.run_migrations()
