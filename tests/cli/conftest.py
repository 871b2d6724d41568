"""The command in the process of the tests, for whatever needs no process of its own: starting one
takes seconds.
"""

from __future__ import annotations

import functools
import io
import logging
import sys
from pathlib import Path

import pytest
import typer.main

from command import Command, Ran
from hornfels.cli import main

built = functools.cache(typer.main.get_command)
"""The command with all its options, which a process builds once."""


@pytest.fixture(scope="session")
def dump(tmp_path_factory: pytest.TempPathFactory, demo_ldif: bytes) -> Path:
    """The dump of the demo domain."""
    file = tmp_path_factory.mktemp("dump") / "tarnholt.ldif"
    file.write_bytes(demo_ldif)
    return file


@pytest.fixture
def command(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Command:
    def run(*arguments: object, stdin: str | bytes = b"", **environment: str) -> Ran:
        with monkeypatch.context() as patched:
            for name, value in environment.items():
                patched.setenv(name, value)
            patched.setattr(sys, "argv", ["hornfels", *map(str, arguments)])
            given = stdin.encode() if isinstance(stdin, str) else stdin
            patched.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(given)))
            patched.setattr(typer.main, "get_command", built)
            logging.getLogger("alembic").setLevel(logging.WARNING)
            capsys.readouterr()
            try:
                main.run()
            except SystemExit as ended:
                status = ended.code if isinstance(ended.code, int) else bool(ended.code)
            else:
                status = 0
        said = capsys.readouterr()
        return Ran(int(status), said.out, said.err)

    return run
