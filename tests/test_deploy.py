"""The units in deploy/ are such that systemd takes them."""

from __future__ import annotations

import shutil
import subprocess
from pathlib import Path

import pytest

from command import COMMAND

UNITS = sorted((Path(__file__).parents[1] / "deploy").glob("*.service"))


@pytest.mark.skipif(not shutil.which("systemd-analyze"), reason="systemd is not installed")
@pytest.mark.parametrize("unit", UNITS, ids=lambda unit: unit.name)
def test_a_unit_is_valid(unit: Path, tmp_path: Path) -> None:
    here = tmp_path / unit.name
    here.write_text(unit.read_text().replace("/opt/hornfels/bin/hornfels", COMMAND))
    done = subprocess.run(
        ["systemd-analyze", "verify", "--man=no", here], capture_output=True, text=True, check=False
    )
    said = [line for line in done.stderr.splitlines() if unit.name in line]
    assert (done.returncode, said) == (0, [])


def test_there_are_units_for_the_server_a_worker_and_the_gate() -> None:
    assert [unit.name for unit in UNITS] == [
        "hornfels-gate.service",
        "hornfels-worker.service",
        "hornfels.service",
    ]
