"""Candidates under policies as a file has them, with rules beyond the directory's own."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import pytest

from command import ILSE_CHANGES, ILSE_RESETS, Command, Ran

HEAD = "hornfels: 1\ndomain: sky.tarnholt.example\n"
NIGHT = """policies:
  - name: Night operators
    precedence: 30
    min_length: 10
    complexity: off
    addition:
      password:
        - groups: {min: 3}
        - names: {reversed: on}
        - closeness: {changed: 4, no_counting: on}
        - blocked: {lists: [house]}
      phrase:
        - words: {min: 4, letters: 3, distinct: on}
      lifetime:
        - {from: 8, lives: 60 d}
        - {from: 16, lives: 365 d}
blocked_terms:
  house: [orbit, dome]
"""


@pytest.fixture(scope="module")
def dump(tmp_path_factory: pytest.TempPathFactory, demo_ldif: bytes) -> Path:
    file = tmp_path_factory.mktemp("dump") / "demo.ldif"
    # Names that only additions look at.
    more = b"sAMAccountName: ilse.varga\ngivenName: Ilsebill\nmail: stargazer@sky.example\n"
    without = demo_ldif.replace(b"mail: ilse.varga@tarnholt.example\n", b"")
    file.write_bytes(without.replace(b"sAMAccountName: ilse.varga\n", more))
    return file


def tried(
    command: Command, dump: Path, file: Path, text: str, *more: object
) -> tuple[list[Any], str]:
    arguments = ("try", dump, *ILSE_CHANGES)
    done = command(*arguments, "--policies", file, "--json", *more, stdin=text)
    assert done.returncode == 0, done.stderr
    return [json.loads(line) for line in done.stdout.splitlines()], done.stderr


def refused(command: Command, dump: Path, file: Path) -> Ran:
    arguments = ("try", dump, *ILSE_RESETS)
    return command(*arguments, "--policies", file)


def failed(answer: Any, by: str = "hornfels", path: str = "password") -> set[str]:
    return {
        rule["rule"]
        for rule in answer["rules"]
        if rule["by"] == by and rule.get("path", path) == path and rule["passed"] is False
    }


def test_one_path_has_to_be_open_and_each_rule_says_who_judges(
    command: Command, dump: Path, tmp_path: Path
) -> None:
    file, present = tmp_path / "policies.yaml", tmp_path / "present"
    file.write_text(HEAD + NIGHT)
    present.write_text('"Lantern-Keeper-19"\n')
    words = "\n".join(
        (
            "keep every lamp dim",
            "Lantern-Keeper-20",
            "my0rbit-2031",
            "Stargazer-7",
            "llibeslI-77",
            "Short-1",
            "Rather-Fine-31",
        )
    )
    answers, told = tried(command, dump, file, words, "--present", present)
    assert told == ""
    accepted = [answer["accepted"] for answer in answers]
    assert accepted == [True, False, False, False, False, False, True]
    phrase, counted, term, mail, backwards, short, fine = answers
    assert failed(phrase) == {"groups"}
    assert failed(counted) == {"closeness"}
    assert failed(term) == {"blocked"}
    assert "drop 'orbit'" in next(r["detail"] for r in term["rules"] if r["rule"] == "blocked")
    assert failed(mail) == failed(backwards) == {"names"}
    assert failed(short, by="directory") == {"length"}
    assert failed(fine) == set()
    assert failed(fine, path="phrase") == {"words"}


@pytest.mark.thorough
def test_what_only_the_directory_or_nobody_knows_is_no_failure(
    command: Command, dump: Path, tmp_path: Path
) -> None:
    file = tmp_path / "policies.yaml"
    file.write_text(HEAD + NIGHT)
    ((answer,), _) = tried(command, dump, file, "Rather-Fine-31")
    assert answer["accepted"] is True
    closeness = next(rule for rule in answer["rules"] if rule["rule"] == "closeness")
    assert closeness["passed"] is None
    file.write_text(HEAD)
    ((bare,), _) = tried(command, dump, file, "Rather-Fine-31")
    assert {rule["by"] for rule in bare["rules"]} == {"directory"}


def test_all_that_is_wrong_in_an_addition_is_told_with_its_place(
    command: Command, dump: Path, tmp_path: Path
) -> None:
    file = tmp_path / "policies.yaml"
    text = NIGHT.replace("[house]}", "[hous]}").replace("min: 3}", "min: 7}", 1)
    text = text.replace("lives: 365 d", "lives: 30 d")
    text += "domain_policy:\n  addition:\n    password: [{walk: {max: 3, layouts: [none]}},\n"
    text += "      {pattern: {expression: '(?=x)'}}]\n"
    file.write_text(HEAD + text)
    done = refused(command, dump, file)
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.splitlines() == [
        f"hornfels: {file}: line 10, column 11: there are five groups",
        f"hornfels: {file}: line 13, column 11: there is no list “hous” of blocked terms; known "
        "here: house",
        f"hornfels: {file}: line 17, column 9: a longer password cannot live shorter than one "
        "that is not as long",
        f"hornfels: {file}: line 23, column 16: there is no layout “none”; known are us, uk, de, "
        "fr",
        f"hornfels: {file}: line 24, column 7: it cannot be run: invalid perl operator: (?=",
    ]


def test_a_plan_says_that_additions_are_no_change_of_the_directory(
    command: Command, dump: Path, tmp_path: Path
) -> None:
    file = tmp_path / "policies.yaml"
    file.write_text(f"{HEAD}domain_policy:\n  addition:\n    phrase: [{{words: {{min: 3}}}}]\n")
    done = command("plan", file, "--against", dump)
    assert (done.returncode, done.stdout) == (0, "")
    assert "additions are no change of the directory" in done.stderr
    # Brought up to date, the file keeps them.
    text = file.read_text()
    assert command("export", dump, "--into", file).returncode == 0
    assert "words: {min: 3}" in file.read_text()
    assert text.splitlines()[:4] == file.read_text().splitlines()[:4]


def test_the_present_password_is_one(command: Command, dump: Path, tmp_path: Path) -> None:
    file, present = tmp_path / "policies.yaml", tmp_path / "present"
    file.write_text(HEAD)
    present.write_text('"one"\n"two"\n')
    arguments = ("try", dump, *ILSE_CHANGES)
    done = command(*arguments, "--policies", file, "--present", present)
    assert (done.returncode, "one JSON string is expected" in done.stderr) == (2, True)
