"""What the wheel asks for has been tested: every bound has an end, and the constraints are what the
tests run on.
"""

from __future__ import annotations

import re
import tomllib
from importlib.metadata import version
from pathlib import Path

from packaging.markers import Marker
from packaging.requirements import Requirement

ROOT = Path(__file__).parents[1]
PROJECT = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]


def pinned(file: str) -> dict[str, set[str]]:
    """The versions that a requirements file names for this Python, by package."""
    found: dict[str, set[str]] = {}
    for line in (ROOT / "requirements" / file).read_text().splitlines():
        match = re.match(r"([a-z0-9-]+)==([^\s;\\]+)(?:\s*;\s*([^\\]+))?", line)
        if match and (not match[3] or Marker(match[3].strip()).evaluate()):
            found.setdefault(match[1], set()).add(match[2])
    return found


def test_every_dependency_of_the_wheel_has_bounds_that_hold_what_is_tested() -> None:
    for written in PROJECT["dependencies"]:
        requirement = Requirement(written)
        assert any(bound.operator == "<" for bound in requirement.specifier), (
            f"{requirement.name} has no upper bound"
        )
        assert version(requirement.name) in requirement.specifier


def test_the_constraints_are_what_the_tests_run_on() -> None:
    constraints, locked = pinned("constraints.txt"), pinned("dev.txt")
    assert {Requirement(written).name for written in PROJECT["dependencies"]} <= constraints.keys()
    assert {name: locked[name] for name in constraints} == constraints
    assert all({version(name)} == versions for name, versions in constraints.items())
