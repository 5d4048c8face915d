"""The environment of Alembic: the tables and the address of the database."""

from alembic import context
from sqlalchemy import NullPool, create_engine

from idle_shimmer.store.tables import Base

_engine = create_engine(context.config.get_main_option("sqlalchemy.url") or "", poolclass=NullPool)
with _engine.connect() as connection:
    context.configure(
        connection=connection, target_metadata=Base.metadata, transaction_per_migration=True
    )
    with context.begin_transaction():
        context.run_migrations()
