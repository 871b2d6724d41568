"""Alembic runs migrations on the connection that `hornfels.store.database.migrate` hands it."""

from alembic import context

from hornfels.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    # Two processes that start at once must not both migrate.
    context.get_bind().exec_driver_sql("SELECT pg_advisory_xact_lock(7180)")
    context.run_migrations()
