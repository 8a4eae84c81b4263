"""Alembic's way into the tables."""

from alembic import context
from sqlalchemy import engine_from_config, pool

from cuejar.store.models import Base

engine = engine_from_config(
    {"sqlalchemy.url": context.config.get_main_option("sqlalchemy.url")}, poolclass=pool.NullPool
)
with engine.connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
    with context.begin_transaction():
        context.run_migrations()
