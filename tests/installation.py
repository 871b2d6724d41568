"""Hornfels with its database, connected to a real directory."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import work_off
from directory_server import ADMINISTRATOR, HOST, PEOPLE, REALM, DirectoryServer
from hornfels.core.domain.estate import Estate
from hornfels.service import reading
from hornfels.service.connections import Connection, ServerName, Signer
from hornfels.service.snapshots import Snapshots
from hornfels.store.estates import remove_domain
from hornfels.store.models import ConnectionRow, DomainRow

PLACE = f"/api/directories/{REALM}"
DOMAIN = f"/api/domains/{REALM}"


class Installation:
    """Hornfels with its database, connected to the server."""

    def __init__(
        self, client: TestClient, engine: Engine, server: DirectoryServer, secrets: Path
    ) -> None:
        self.client, self.engine, self.server, self.secrets = client, engine, server, secrets

    def connection(self, **given: Any) -> dict[str, Any]:
        return {
            "servers": [{"host": "dc1.sky.tarnholt.example", "address": self.server.address}],
            "authorities": self.server.authorities,
            "reader": {"name": f"Administrator@{REALM}", "secret": "tarnholt"},
            **given,
        }

    def connect(self, **given: Any) -> Any:
        version = self.client.get(PLACE).json()["version"]
        body = {"connection": self.connection(**given), "version": version, "reason": "At last"}
        return self.client.put(PLACE, json=body)

    def read(self, *, whole: bool = False, losing: bool = False) -> dict[str, Any]:
        """Sync with the directory, also where the domain is `losing` protection by that."""
        begun = self.client.post(f"{PLACE}/read", json={"whole": whole})
        assert begun.status_code == 202, begun.text
        work_off(self.engine)
        if losing:
            confirm = f"/api/jobs/{begun.json()['id']}/confirm"
            assert self.client.post(confirm, json={"reason": "agreed"}).status_code == 200
            work_off(self.engine)
        found: dict[str, Any] = self.client.get(PLACE).json()
        return found

    def estate(self) -> Estate:
        snapshot = Snapshots(self.engine).of(REALM)
        assert snapshot
        return snapshot.estate


def connected(engine: Engine, server: DirectoryServer, person: str = "ann", **more: Any) -> None:
    """As if this person had connected the directory in place of the demo's domain, and read it."""
    signer = Signer(name=ADMINISTRATOR, secret="tarnholt")
    given = Connection(
        servers=(ServerName(host=HOST, address=server.address),),
        authorities=server.authorities,
        reader=signer,
        writer=signer,
        stage=PEOPLE,
        **more,
    )
    with Session(engine) as session, session.begin():
        remove_domain(session, session.query(DomainRow).one())
        settings = given.model_dump(mode="json")
        session.add(ConnectionRow(dns_name=REALM, settings=settings, changed_by=person))
    with Session(engine) as session:
        reading.begin(session, REALM, person, whole=False)
    work_off(engine)
