"""Alembic's entry: migrations run on the connection that `Database.migrate` hands over."""

from alembic import context

from open_lemma.store.models import Base

connection = context.config.attributes.get("connection")
if connection is None:
    raise RuntimeError("migrations are run by the application: Database(url).migrate()")

context.configure(connection=connection, target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
