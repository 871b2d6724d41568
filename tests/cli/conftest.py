"""The command in the process of the tests, for whatever needs no process of its own: starting one
takes seconds.
"""

from __future__ import annotations

import io
import logging
import sys

import pytest

from command import Command, Ran
from hornfels.cli import main


@pytest.fixture
def command(monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Command:
    def run(*arguments: object, stdin: str = "", **environment: str) -> Ran:
        with monkeypatch.context() as patched:
            for name, value in environment.items():
                patched.setenv(name, value)
            patched.setattr(sys, "argv", ["hornfels", *map(str, arguments)])
            patched.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(stdin.encode())))
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
