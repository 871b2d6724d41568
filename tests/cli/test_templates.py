"""Security templates compared and corrected by scripts."""

from __future__ import annotations

import json
import subprocess
import zipfile
from pathlib import Path

import pytest

from command import COMMAND, Command

TEXT = """[Unicode]
Unicode=yes
[System Access]
MinimumPasswordLength = {length}
MaximumPasswordAge = {age} ; as agreed
[Event Audit]
AuditSystemEvents = 3
[Registry Values]
MACHINE\\System\\CurrentControlSet\\Control\\SAM\\MinimumPasswordLengthAudit=4,{audit}
"""


@pytest.fixture
def domes(tmp_path: Path) -> list[Path]:
    """Three machines: UTF-16, UTF-8 and ANSI; the last one says otherwise and other things."""
    files = [tmp_path / f"dome-{n}.inf" for n in (1, 2, 3)]
    files[0].write_bytes(TEXT.format(length=14, age=-1, audit=16).encode("utf-16"))
    files[1].write_text(TEXT.format(length=14, age=-1, audit=16))
    odd = TEXT.format(length=0, age=42, audit=16).replace("\n", "\r\n") + "; Mühe\r\n"
    files[2].write_bytes(odd.encode("cp1252"))
    return files


def test_where_they_agree_and_where_not(command: Command, domes: list[Path]) -> None:
    done = command("templates", "compare", *domes, "--json")
    assert (done.returncode, done.stderr) == (1, "")
    rows = {
        row["key"].rpartition("\\")[2]: row for row in map(json.loads, done.stdout.splitlines())
    }
    one, two, three = map(str, domes)
    assert rows["MinimumPasswordLength"] == {
        "section": "System Access",
        "key": "MinimumPasswordLength",
        "values": {one: 14, two: 14, three: 0},
        "agree": False,
    }
    assert rows["MaximumPasswordAge"]["values"] == {one: -1, two: -1, three: 42}
    assert rows["MinimumPasswordLengthAudit"]["agree"] is True
    assert rows.keys() == {
        "MinimumPasswordLength",
        "MaximumPasswordAge",
        "MinimumPasswordLengthAudit",
    }
    done = command("templates", "compare", *domes)
    assert done.stdout.splitlines() == [
        f"✕ Minimum length: 14 characters in 2 of 3; {three} 0 characters",
        f"✕ Maximum age: never expires in 2 of 3; {three} 42 d",
        "✓ Minimum length audit: 16 characters",
    ]
    assert command("templates", "compare", *domes[:2]).returncode == 0


def test_against_a_reference(command: Command, domes: list[Path], tmp_path: Path) -> None:
    reference = tmp_path / "reference.inf"
    reference.write_text("[System Access]\nMinimumPasswordLength = 0\nPasswordComplexity = 1\n")
    done = command("templates", "compare", *domes, "--reference", reference, "--json")
    rows = {row["key"]: row for row in map(json.loads, done.stdout.splitlines())}
    assert (rows["MinimumPasswordLength"]["agree"], done.returncode) == (False, 1)
    assert set(rows["PasswordComplexity"]["values"].values()) == {None}
    assert rows["MaximumPasswordAge"]["agree"] is False, "the reference says nothing of it"


def test_a_corrected_one_differs_in_account_settings_alone(
    command: Command, domes: list[Path]
) -> None:
    before = domes[2].read_bytes()
    call = [COMMAND, "templates", "correct", str(domes[2]), "--like", str(domes[0])]
    done = subprocess.run(call, capture_output=True, check=True)
    wanted = before.replace(b"Length = 0\r", b"Length = 14\r").replace(b"= 42 ;", b"= -1 ;")
    assert done.stdout == wanted
    domes[2].write_bytes(done.stdout)
    assert command("templates", "compare", *domes).returncode == 0


def test_what_cannot_be_read_is_told_with_its_line(
    command: Command, domes: list[Path], tmp_path: Path
) -> None:
    bad = tmp_path / "bad.inf"
    bad.write_text("[System Access]\nMinimumPasswordLength = many\n")
    for arguments in (["compare", domes[0], bad], ["correct", bad, "--like", domes[0]]):
        done = command("templates", *arguments)
        assert (done.returncode, done.stdout) == (2, "")
        assert f"{bad}: line 2: MinimumPasswordLength is 'many'" in done.stderr
    assert command("templates", "compare", domes[0], domes[0]).returncode == 2
    assert command("templates", "compare", tmp_path / "none.inf").returncode == 2


def test_all_that_differ_are_corrected_at_once(
    command: Command, domes: list[Path], tmp_path: Path
) -> None:
    archive = tmp_path / "corrected.zip"
    done = command("templates", "correct-all", *domes, "-o", archive)
    assert (done.returncode, done.stdout) == (0, f"{archive}: 1 of 3 corrected\n")
    with zipfile.ZipFile(archive) as made:
        assert made.namelist() == ["dome-3.inf", "import.cmd"]
        made.extract("dome-3.inf", domes[2].parent)
    assert command("templates", "compare", *domes).returncode == 0
    archive.unlink()
    assert command("templates", "correct-all", *domes, "-o", archive).returncode == 1
    assert not archive.exists()
    # Of two that differ none is what most say.
    domes[1].write_text("[System Access]\nMinimumPasswordLength = 9\n")
    done = command("templates", "correct-all", *domes[:2], "-o", archive)
    assert (done.returncode, "name a --reference" in done.stderr) == (2, True)
    again = domes[0].parent / "more" / "DOME-1.inf"
    again.parent.mkdir()
    again.write_bytes(domes[0].read_bytes())
    done = command("templates", "correct-all", domes[0], again, "-o", archive)
    assert (done.returncode, "another file for DOME-1" in done.stderr) == (2, True)
    place = tmp_path / "none" / "x.zip"
    like = ("--reference", domes[2])
    assert command("templates", "correct-all", domes[1], "-o", place, *like).returncode == 2
