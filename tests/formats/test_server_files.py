"""Templates of servers in folders, and corrected ones in an archive."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.formats.server_files import corrected_files, server_files, server_of
from hornfels.formats.template import read_template, write_template


@pytest.mark.parametrize(
    ("path", "server"),
    [
        ("DOME-01.inf", "DOME-01"),
        ("dome 1.INF", "dome 1"),
        ("DOME-01/secedit.inf", "DOME-01"),
        ("DOME-01\\deep\\secedit.inf", "DOME-01"),
        ("a.b.inf/x.inf", "a.b.inf"),
        ("Kuppel-Ä.inf", "Kuppel-Ä"),
    ],
)
def test_the_file_or_its_folder_bears_the_name(path: str, server: str) -> None:
    assert server_of(path) == server


@pytest.mark.parametrize(
    "path",
    ["", ".inf", "../x.inf", "./..", "a:b.inf", "x" * 65 + ".inf", "a\x07b.inf", "/etc/x.inf"],
)
def test_what_can_be_no_name_is_refused(path: str) -> None:
    with pytest.raises(ValueError, match="called as the server is"):
        server_of(path)


@given(st.text(max_size=80))
def test_a_name_is_safe_as_a_file_wherever_it_comes_from(path: str) -> None:
    try:
        name = server_of(path)
    except ValueError:
        return
    assert 0 < len(name) <= 64
    assert Path(name).name == name
    assert name.isprintable() or not any(c < " " for c in name)


def test_a_folder_has_sets_with_a_file_or_a_folder_for_each_server(tmp_path: Path) -> None:
    def put(place: str) -> None:
        file = tmp_path / place
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_text("[System Access]\n")

    for place in ("Domes/A.inf", "Domes/B/secedit.inf", "Domes/b.inf", "Domes/read me.txt"):
        put(place)
    put("domes/a.inf")
    for place in ("lost.inf", "notes.txt", "Web/x.inf", "Web/a:b.inf", ".git/config.inf"):
        put(place)
    found = list(server_files(tmp_path))
    assert [(one.group, one.server) for one in found if not one.problem] == [
        ("Domes", "A"),
        ("Domes", "B"),
        ("Web", "x"),
    ]
    wrong = {one.file.relative_to(tmp_path).as_posix(): one.problem for one in found if one.problem}
    assert wrong.keys() == {"domes/a.inf", "Domes/b.inf", "lost.inf", "Web/a:b.inf"}
    assert "another file for b" in wrong["Domes/b.inf"]
    assert "lies in no set" in wrong["lost.inf"]
    (gone,) = server_files(tmp_path / "none")
    assert "cannot be read" in gone.problem


def test_corrected_files_say_what_is_wanted_and_keep_all_else() -> None:
    before = "[System Access]\r\nMinimumPasswordLength = 8 ; as ever\r\n[Event Audit]\r\nX = 3\r\n"
    data = before.encode("utf-16")
    made = corrected_files([("DOME-03", data)], {"min_length": 14, "complexity": True})
    with zipfile.ZipFile(io.BytesIO(made)) as archive:
        assert archive.namelist() == ["DOME-03.inf", "import.cmd"]
        file = archive.read("DOME-03.inf")
        script = archive.read("import.cmd").decode().splitlines()
    assert read_template(file) == {"min_length": 14, "complexity": True}
    assert file == write_template({"min_length": 14, "complexity": True}, data)
    assert "; as ever\r\n" in file.decode("utf-16")
    assert len(script) == 2
    assert all("%COMPUTERNAME%" in line for line in script)
