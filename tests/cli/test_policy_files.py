"""Policies as text for scripts: written from a dump, held against one, tried."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from command import Command


@pytest.fixture
def policies(command: Command, dump: Path, tmp_path: Path) -> Path:
    file = tmp_path / "policies.yaml"
    file.write_text(command("export", dump).stdout)
    return file


def changed(file: Path, *changes: tuple[str, str]) -> Path:
    text = file.read_text()
    for before, after in changes:
        assert before in text
        text = text.replace(before, after, 1)
    file.write_text(text)
    return file


def test_an_export_changes_nothing(command: Command, dump: Path, policies: Path) -> None:
    for how in ([], ["--json"], ["--ldif"]):
        done = command("plan", policies, "--against", dump, *how)
        assert (done.returncode, done.stdout, done.stderr) == (0, "", "")


def test_a_plan_in_sentences_objects_and_change_records(
    command: Command, dump: Path, policies: Path
) -> None:
    changed(
        policies,
        ("precedence: 5\n", "precedence: 6\n"),
        ("      - GS-Keyholders\n", "      - gs-workshop\n"),
        ("lockout_duration: until unlocked\n", "lockout_duration: 1 h 30 min\n"),
    )
    done = command("plan", policies, "--against", dump)
    assert done.returncode == 1
    group = "OU=Groups,DC=sky,DC=tarnholt,DC=example"
    assert done.stdout.splitlines() == [
        "Keyholders: Precedence: 5 → 6",
        "Keyholders: Lockout duration: until unlocked → 1 h 30 min",
        f"Keyholders: No longer linked to GS-Keyholders: CN=GS-Keyholders,{group}",
        f"Keyholders: Linked to GS-Workshop: CN=GS-Workshop,{group}",
    ]
    done = command("plan", policies, "--against", dump, "--json")
    objects = [json.loads(line) for line in done.stdout.splitlines()]
    assert objects[1] == {
        "operation": "edit_settings",
        "object": "Keyholders",
        "setting": "lockout_duration",
        "before": None,
        "after": 5400,
        "text": "Keyholders: Lockout duration: until unlocked → 1 h 30 min",
    }
    assert [(one["setting"], one["before"], one["after"]) for one in objects[2:]] == [
        ("applies_to", f"CN=GS-Keyholders,{group}", None),
        ("applies_to", None, f"CN=GS-Workshop,{group}"),
    ]
    done = command("plan", policies, "--against", dump, "--ldif")
    assert done.returncode == 1
    assert "replace: msDS-LockoutDuration\nmsDS-LockoutDuration: -54000000000\n" in done.stdout


def test_policies_that_come_and_go_are_told_whole(
    command: Command, dump: Path, policies: Path
) -> None:
    text = policies.read_text()
    start, rest = text.split("policies:\n")
    first = rest[: rest.index("\n\n")]
    policies.write_text(f"{start}policies:\n{first.replace('Keyholders', 'Vault', 1)}\n")
    done = command("plan", policies, "--against", dump, "--json")
    objects = [json.loads(line) for line in done.stdout.splitlines()]
    assert {(one["operation"], one["after"] is None) for one in objects} == {
        ("remove_policy", True),
        ("add_policy", False),
    }
    (added,) = (one for one in objects if one["operation"] == "add_policy")
    assert (added["object"], added["before"]) == ("Vault", None)
    assert (added["after"]["precedence"], added["after"]["max_age"]) == (5, 7776000)


def test_what_is_wrong_is_told_line_by_line(command: Command, dump: Path, policies: Path) -> None:
    changed(policies, ("precedence: 5\n", "precedense: 5\n"), ("min_age: 1 d", "min_age: 1"))
    done = command("plan", policies, "--against", dump)
    assert (done.returncode, done.stdout) == (2, "")
    lines = done.stderr.splitlines()
    assert [line.split(": ", 2)[2].split(":")[0] for line in lines] == [
        "line 9, column 12",
        "line 16, column 5",
        "line 17, column 5",
    ]
    assert lines[1].startswith(f"hornfels: {policies}: line 16, column 5: “precedence” is missing")
    missing = command("plan", policies.parent / "none.yaml", "--against", dump)
    assert (missing.returncode, "none.yaml" in missing.stderr) == (2, True)


def test_trials_in_the_file_are_run_under_its_policies(
    command: Command, dump: Path, policies: Path
) -> None:
    with policies.open("a") as out:
        out.write("""
trials:
  - title: Nineteen are too few
    candidate: Orbit-Lens-17-Under
    group: GS-Keyholders
    expect: refused
    refused_by: length
  - story: 4 bad in 10 min
    account: ilse.varga
    expect: stays open
""")
    done = command("trials", policies, "--against", dump)
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.splitlines() == [
        "✓ Nineteen are too few. As expected for all 9 accounts.",
        "✓ account ilse.varga: stays open. As expected.",
    ]
    changed(policies, ("min_length: 20\n", "min_length: 19\n"))
    done = command("trials", policies, "--against", dump, "--json")
    assert done.returncode == 1
    first, second = map(json.loads, done.stdout.splitlines())
    assert (first["met"], second["met"], first["accounts"]) == (False, True, 9)
    assert "Orbit" not in done.stdout + done.stderr


@pytest.mark.thorough
def test_the_schema_is_printed_and_files_come_from_standard_input(
    command: Command, dump: Path
) -> None:
    schema = json.loads(command("schema").stdout)
    assert schema["properties"]["hornfels"] == {
        "const": 1,
        "description": "the version of this form",
        "title": "Hornfels",
        "type": "integer",
    }
    exported = command("export", "-", stdin=dump.read_text())
    done = command("plan", "-", "--against", dump, stdin=exported.stdout)
    assert (done.returncode, done.stdout, done.stderr) == (0, "", "")
    both = command("plan", "-", "--against", "-", stdin=exported.stdout)
    assert (both.returncode, "only one of the two" in both.stderr) == (2, True)
