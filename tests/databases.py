"""Databases of the tests: each test that stores something gets a copy of a template."""

from __future__ import annotations

from typing import Literal

import psycopg
from psycopg import sql
from sqlalchemy import text
from sqlalchemy.engine import make_url
from sqlalchemy.orm import Session

from hornfels.formats.dump import Dump
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.estates import save_dump
from persons import let_in

Template = Literal["empty", "demo"]
"""A database with the present schema: with nothing in it, or with the demo domain and the
administrators ann and ben.
"""


def loaded_now(session: Session) -> None:
    """Date the import of the domain to this moment, as if the template were made just now."""
    session.execute(text("UPDATE domains SET loaded_at = now()"))


class Databases:
    """The databases of a cluster. The one that `Cluster.url` names is made anew for each test."""

    def __init__(self, cluster: Cluster, demo: Dump) -> None:
        self._cluster = cluster
        cluster.migrate()
        url = make_url(cluster.url)
        self._application, self._own = url.username or "", url.database or ""
        self._copy(self._own, "empty")
        engine = connect(cluster.url)
        with Session(engine) as session, session.begin():
            save_dump(session, demo, "tarnholt.ldif", "tester")
            let_in(session, "ann", "ben")
        engine.dispose()
        self._copy(self._own, "demo")

    def renew(self, template: Template) -> None:
        """Make the cluster's own database anew, as a copy of a template."""
        self._copy(template, self._own)

    def shared(self, template: Template) -> str:
        """Return the address of a copy of a template that no test makes anew."""
        name = f"shared_{template}"
        self._copy(template, name)
        url = make_url(self._cluster.url).set(database=name)
        return url.render_as_string(hide_password=False)

    def close(self, template: Template) -> None:
        """Refuse writes to the shared copy of a template from the next connection on."""
        with self._keeper() as keeper:
            keeper.execute(
                sql.SQL("ALTER DATABASE {} SET default_transaction_read_only = on").format(
                    sql.Identifier(f"shared_{template}")
                )
            )

    def _copy(self, template: str, name: str) -> None:
        database, role = sql.Identifier(name), sql.Identifier(self._application)
        with self._keeper() as keeper:
            keeper.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(database))
            keeper.execute(
                sql.SQL("CREATE DATABASE {} TEMPLATE {} STRATEGY FILE_COPY").format(
                    database, sql.Identifier(template)
                )
            )
            # Rights on a database are not copied with the database (`hornfels.store.seal`).
            keeper.execute(sql.SQL("REVOKE ALL ON DATABASE {} FROM PUBLIC").format(database))
            keeper.execute(
                sql.SQL("GRANT CONNECT, TEMPORARY ON DATABASE {} TO {}").format(database, role)
            )

    def _keeper(self) -> psycopg.Connection:
        url = make_url(self._cluster.owner_url).set(drivername="postgresql", database="template1")
        return psycopg.connect(url.render_as_string(hide_password=False), autocommit=True)
