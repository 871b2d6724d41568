"""The database engine and its schema."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine
from sqlalchemy.pool import NullPool


def connect(url: str) -> Engine:
    """An engine for the database at `url`; a lost connection is found out and replaced before use."""
    return create_engine(url, pool_pre_ping=True, pool_size=10, hide_parameters=True)


def beside(engine: Engine) -> Engine:
    """An engine for the same database whose connections come from no pool: for work that others wait for while they hold one."""
    return create_engine(engine.url, poolclass=NullPool, hide_parameters=True)


def migrate(engine: Engine) -> None:
    """Bring the schema up to date."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")
