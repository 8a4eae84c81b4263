"""Alembic's way into the tables: every step is one transaction, with the write lock from its beginning."""

from alembic import context

from cuejar.store.database import writing_engine
from cuejar.store.models import Base

engine = writing_engine(context.config.get_main_option("sqlalchemy.url"), pooled=False)
with engine.connect() as connection:
    context.configure(
        connection=connection,
        target_metadata=Base.metadata,
        render_as_batch=True,
        transactional_ddl=True,
        transaction_per_migration=True,
    )
    with context.begin_transaction():
        context.run_migrations()
