"""A real directory server for each test."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import pytest

from directory_server import PEOPLE, DirectoryServer, add, directory_server, provisioned


@pytest.fixture(scope="session")
def template(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What every server is a copy of: the workers of a run share it."""
    return provisioned(tmp_path_factory.getbasetemp().parent)


@pytest.fixture
def server(template: Path) -> Iterator[DirectoryServer]:
    """A started server with nobody in it but those of every domain, and a place for people."""
    with directory_server(template, os.environ.get("PYTEST_XDIST_WORKER", "")) as started:
        with started.administrator() as link:
            add(link, PEOPLE, objectClass="organizationalUnit")
        yield started
