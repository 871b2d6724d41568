"""The tables that the migrations make are those that the models describe."""

from __future__ import annotations

from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine

from hornfels.store.database import MIGRATIONS
from hornfels.store.models import Base


def _ours(_object: object, name: str | None, kind: str, *_: object) -> bool:
    """The queue's own tables have no models."""
    return kind != "table" or not str(name).startswith(("procrastinate", "alembic"))


def test_the_migrated_tables_are_the_models(migrated: Engine) -> None:
    options = {"include_object": _ours, "compare_type": True, "compare_server_default": True}
    with migrated.connect() as connection:
        context = MigrationContext.configure(connection, opts=options)
        assert compare_metadata(context, Base.metadata) == []


def test_migrations_stand_in_one_line_and_the_database_is_at_its_end(migrated: Engine) -> None:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    script = ScriptDirectory.from_config(config)
    with migrated.connect() as connection:
        at = MigrationContext.configure(connection).get_current_heads()
    assert list(at) == script.get_heads()
    assert len(list(script.walk_revisions())) == len(list(MIGRATIONS.glob("versions/0*.py")))
