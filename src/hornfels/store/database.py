"""The database engine and its schema."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import psycopg
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.engine import make_url

from hornfels.store.storable import json_text

CONNECTIONS = 28
"""The most that one process holds. Fewer requests than this are at work at a time, so none waits
for another's connection.
"""

MIGRATIONS = Path(__file__).parent / "migrations"

SEARCH_PATH = "-c search_path=public,pg_temp"
"""As a server option of every connection: names lead to our own tables, and never to tables of the
same name in a schema that is called like the role, or to temporary ones.
"""

_LIMITS = {
    "lock_timeout": "5s",
    "statement_timeout": "30s",
    "idle_in_transaction_session_timeout": "60s",
}
"""What a statement of somebody who waits for an answer may take."""
_PATIENCE = {"lock_timeout": "0", "statement_timeout": "0"}
"""The same for work that nobody waits for."""


def connect(where: str | Callable[[], str], *, patient: bool = False) -> Engine:
    """An engine for a database by its address; a lost connection is found out and replaced before
    use.

    Where the address is a function, it is asked at each new connection: a database that was started
    again has another port. Statements end after a time unless the engine is `patient`.
    """
    address = where() if callable(where) else where
    limits = " ".join(
        f"-c {name}={value}" for name, value in (_PATIENCE if patient else _LIMITS).items()
    )
    limits = f"{SEARCH_PATH} {limits}"
    engine = create_engine(
        address,
        pool_pre_ping=True,
        pool_size=CONNECTIONS,
        max_overflow=0,
        pool_timeout=2,
        hide_parameters=True,
        json_serializer=json_text,
        connect_args={
            "connect_timeout": 3,
            "options": limits,
            "keepalives_idle": 10,
            "keepalives_interval": 3,
        },
    )
    if callable(where):

        @event.listens_for(engine, "do_connect")
        def follow(
            _dialect: object, _record: object, _arguments: object, parameters: dict[str, Any]
        ) -> None:
            try:
                parameters["port"] = make_url(where()).port
            except RuntimeError as error:
                raise psycopg.OperationalError(str(error)) from None

    return engine


def libpq(engine: Engine) -> dict[str, Any]:
    """What reaches the same database without SQLAlchemy, at its present port."""
    arguments, parameters = engine.dialect.create_connect_args(engine.url)
    engine.dialect.dispatch.do_connect(engine.dialect, None, arguments, parameters)
    return {**parameters, "options": SEARCH_PATH}


def schema_of(engine: Engine) -> str:
    """The number of the schema that a database has."""
    with engine.connect() as connection:
        return str(connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar())


def migrate(engine: Engine, to: str = "head") -> None:
    """Bring the schema up to date, or up `to` an earlier one."""
    # Most processes never do this, and it takes a tenth of their start.
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        # However much there is to change, and whoever else is just changing it.
        connection.exec_driver_sql("SET LOCAL statement_timeout = 0")
        connection.exec_driver_sql("SET LOCAL lock_timeout = 0")
        config.attributes["connection"] = connection
        command.upgrade(config, to)
