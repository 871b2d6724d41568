"""How far a dump follows a baseline, for scripts."""

from __future__ import annotations

import json
from pathlib import Path

from command import Command


def test_an_object_for_each_recommendation(command: Command, dump: Path) -> None:
    done = command("baseline", dump, "--baseline", "services", "--json")
    assert (done.returncode, done.stderr) == (0, "")
    objects = {one["recommendation"]: one for one in map(json.loads, done.stdout.splitlines())}
    assert objects["length"] == {
        "recommendation": "length",
        "text": "At least 25 characters",
        "for": "service",
        "state": "not met",
        "accounts": {"met": 111, "not_met": 1, "not_applicable": 1072, "cannot_tell": 0},
        "measured": "minimum length 8 characters",
        "wanted": "minimum length at least 25 characters",
    }
    assert objects["no-expiry"]["state"] == "met"


def test_in_words_and_from_a_file(command: Command, dump: Path, tmp_path: Path) -> None:
    file = tmp_path / "ours.yaml"
    file.write_text("""
baseline: 1
name: ours
title: Ours
about: x
recommendations:
  - {key: a, text: Long, for: everybody, wants: {min_length: {at least: 99}}, rationale: x,
     effect: x, source: x}
  - {key: b, text: Listed, for: everybody, wants: {has: exposed passwords}, rationale: x,
     effect: x, source: x}
""")
    done = command("baseline", dump, "--baseline", file)
    assert done.stdout.splitlines() == [
        "✕ Long (everybody): 1,172 not met; wanted minimum length at least 99 characters; found "
        "minimum length 5 to 32 characters",
        "? Listed (everybody): 1,172 cannot tell; wanted a check against exposed passwords",
    ]


def test_what_is_no_baseline_is_told(command: Command, dump: Path, tmp_path: Path) -> None:
    done = command("baseline", dump, "--baseline", "nobody")
    assert (done.returncode, "known are nist-sp-800-63b-4" in done.stderr) == (2, True)
    bad = tmp_path / "bad.yaml"
    bad.write_text("baseline: 1\nname: x\n")
    done = command("baseline", dump, "--baseline", bad)
    assert (done.returncode, f"{bad}: line 1, column 1: “" in done.stderr) == (2, True)
