"""What tests on a real directory begin with."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from directory_publishing import WRITER
from directory_server import PASSWORD, DirectoryServer, account, group, policy
from hornfels.api.app import create_app
from hornfels.core.domain.estate import Estate
from hornfels.directory import writing
from hornfels.directory.link import Link
from hornfels.formats.writes import Guard
from installation import Installation
from persons import as_user, let_in


@pytest.fixture
def link(server: DirectoryServer) -> Iterator[Link]:
    with server.administrator() as found:
        yield found


@pytest.fixture
def installation(
    engine: Engine, server: DirectoryServer, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> Iterator[Installation]:
    secrets = tmp_path / "secrets"
    secrets.mkdir()
    (secrets / "tarnholt").write_text(f"{PASSWORD}\n")
    (secrets / "tarnholt").chmod(0o600)
    monkeypatch.setenv("HORNFELS_HOME", str(tmp_path))
    monkeypatch.setenv("HORNFELS_SYSVOL", str(server.sysvol))
    with Session(engine) as session, session.begin():
        let_in(session, "ann")
    with TestClient(create_app(engine)) as client:
        as_user(client, "ann")
        yield Installation(client, engine, server, secrets)


@pytest.fixture
def three(installation: Installation, link: Link) -> Estate:
    """Three policies with links, the first guarded, read into Hornfels, which may write."""
    names = [account(link, f"p{number}") for number in range(3)]
    crew = group(link, "GS-Crew", names)
    for number in (1, 2, 3):
        dn = policy(link, f"P{number}", number * 10, [crew] if number == 1 else [names[number - 1]])
        if number == 1:
            writing.carry_out(link, Guard(dn, on=True))
    installation.connect(writer=WRITER)
    assert installation.read()["job"]["state"] == "done"
    found = installation.estate()
    assert found.policies[0].guarded
    return found
