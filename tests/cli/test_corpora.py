"""Corpora by the command: made, looked at, asked, and tried against as an addition wants it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from command import Command
from hornfels.core.passwords.digests import nt_hash, sha1

WORDS = "Summer-2026\nsummer\nSummer-2026\nmüller\n"


@pytest.fixture
def known(command: Command, tmp_path: Path) -> Path:
    (tmp_path / "words").write_text(WORDS)
    file = tmp_path / "known.hfc"
    done = command("corpus", "build", "-o", file, "--kind", "plain", tmp_path / "words")
    assert done.returncode == 0
    assert done.stdout.startswith(f"{file}: 3 NT hashes, seen 4 times")
    return file


def found(output: str) -> list[tuple[bool, int]]:
    return [(one["found"], one["count"]) for one in map(json.loads, output.splitlines())]


def test_passwords_and_hashes_are_looked_up_line_by_line(command: Command, known: Path) -> None:
    asked = command("corpus", "find", known, "--json", stdin="Summer-2026\r\nSummer\n\nmüller")
    assert found(asked.stdout) == [(True, 2), (False, 0), (False, 0), (True, 1)]
    hashes = f"{nt_hash('summer').hex().upper()}\n\n{nt_hash('x').hex()}\n"
    asked = command("corpus", "find", known, "--kind", "nt", "--json", stdin=hashes)
    assert found(asked.stdout) == [(True, 1), (False, 0)]
    asked = command("corpus", "find", known, stdin="summer\nwinter\n")
    assert asked.stdout == "seen 1 time\nnot seen\n"


def test_what_cannot_be_looked_up_is_told_after_the_answers_before_it(
    command: Command, known: Path
) -> None:
    good = nt_hash("summer").hex()
    asked = command("corpus", "find", known, "--kind", "nt", "--json", stdin=f"{good}\n{good}0\n")
    assert (asked.returncode, found(asked.stdout)) == (2, [(True, 1)])
    assert "standard input, line 2: 32 hexadecimal digits are wanted" in asked.stderr
    asked = command("corpus", "find", known, "--kind", "sha1", stdin=sha1("summer").hex())
    assert asked.returncode == 2
    assert "it holds nt hashes; ask with --kind nt or plain" in asked.stderr


def test_a_corpus_tells_what_it_holds_and_is_refused_when_it_is_damaged(
    command: Command, known: Path
) -> None:
    told = json.loads(command("corpus", "info", known, "--json").stdout)
    assert (told["kind"], told["entries"], told["seen"], told["folded"]) == ("nt", 3, 4, False)
    assert told["bytes"] == known.stat().st_size
    merged = known.with_name("both.hfc")
    done = command("corpus", "merge", "-o", merged, known, known)
    assert "3 NT hashes, seen 8 times" in done.stdout
    content = bytearray(known.read_bytes())
    content[130] ^= 1
    known.write_bytes(content)
    for given in (("info", known), ("merge", "-o", merged, known)):
        done = command("corpus", *given)
        assert done.returncode == 2
        assert f"hornfels: {known}: the records of bucket" in done.stderr
    assert "seen 8 times" in command("corpus", "info", merged).stdout
    for file, said in ((known.with_name("none"), "No such file"), (Path(__file__), "no corpus")):
        done = command("corpus", "info", file)
        assert (done.returncode, said in done.stderr) == (2, True)


POLICIES = """\
hornfels: 1
domain: sky.tarnholt.example
policies:
  - name: Night operators
    precedence: 30
    min_length: 5
    complexity: off
    addition:
      password:
        - exposed: {lists: [known], max: 1}
"""


def test_a_candidate_is_tried_against_the_corpora_that_are_given(
    command: Command, known: Path, demo_ldif: bytes
) -> None:
    policies = known.with_name("policies.yaml")
    policies.write_text(POLICIES)
    dump = known.with_name("demo.ldif")
    dump.write_bytes(demo_ldif)
    who = ("--account", "ilse.varga", "--operation", "reset")
    given = ("try", dump, *who, "--json", "--policies", policies)
    candidates = "Summer-2026\nsummer\nWinter-2026\n"

    def exposed(*more: object) -> list[object]:
        done = command(*given, *more, stdin=candidates)
        assert done.returncode == 0, done.stderr
        return [
            (rule["passed"], rule["by"])
            for line in map(json.loads, done.stdout.splitlines())
            for rule in line["rules"]
            if rule["rule"] == "exposed"
        ]

    by = "hornfels"
    assert exposed("--corpus", f"known={known}") == [(False, by), (True, by), (True, by)]
    assert exposed() == [(None, by)] * 3
    for wrong, said in (
        (f"{known}", "give a name and a file"),
        ("known=none.hfc", "none.hfc: No such file"),
        (f"known={policies}", "it is no corpus"),
    ):
        done = command(*given, "--corpus", wrong, stdin=candidates)
        assert (done.returncode, said in done.stderr) == (2, True), done.stderr
