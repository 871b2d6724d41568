"""Files of accounts and hashes: what is read of them, what is refused, and that nothing of a hash
is told.
"""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from hornfels.core.passwords.digests import nt_hash
from hornfels.formats.account_hashes import HashesError, read_account_hashes

ONE, OTHER = nt_hash("one").hex(), nt_hash("other").hex()


def file_of(folder: Path, text: str | bytes, mode: int = 0o600) -> Path:
    path = folder / "example.com.hashes"
    path.write_bytes(text.encode() if isinstance(text, str) else text)
    path.chmod(mode)
    return path


@pytest.mark.parametrize(
    "text",
    [
        f"ilse.varga,{ONE}\nsvc-dome$,{OTHER}\n",
        f"\r\nilse.varga , {ONE.upper()}\r\n\r\n  svc-dome$,{OTHER}",
    ],
)
def test_accounts_are_read_with_their_hashes(tmp_path: Path, text: str) -> None:
    found = read_account_hashes(file_of(tmp_path, text))
    assert found.names == ["ilse.varga", "svc-dome$"]
    assert [row.tobytes().hex() for row in found.digests] == [ONE, OTHER]
    assert read_account_hashes(file_of(tmp_path, "")).names == []


@pytest.mark.parametrize(
    ("text", "line", "said"),
    [
        (f"a,{ONE}\nb;{OTHER}\n", 2, "32 hexadecimal digits are wanted"),
        (f"a,{ONE}\nb,{OTHER[1:]}\nc,{ONE}", 2, "32 hexadecimal digits are wanted"),
        (f"a,{ONE}0\n", 1, "32 hexadecimal digits are wanted"),
        (f"a,{ONE}\n\nA,{OTHER}\n", 3, "the account of line 1 once more"),
        (f",{ONE}\n", 1, "no account"),
        (b"\xff," + ONE.encode(), 1, "not UTF-8 text"),
        (f"a,{ONE}\nb", 2, "32 hexadecimal digits are wanted"),
    ],
)
def test_a_line_that_cannot_be_read_is_named_without_what_stands_there(
    tmp_path: Path, text: str | bytes, line: int, said: str
) -> None:
    path = file_of(tmp_path, text)
    with pytest.raises(HashesError) as told:
        read_account_hashes(path)
    assert str(told.value).startswith(f"{path}, line {line}: ")
    assert said in str(told.value)
    assert ONE[:8] not in str(told.value)
    assert OTHER[:8] not in str(told.value)


def test_a_file_that_others_can_read_or_that_is_none_is_refused(tmp_path: Path) -> None:
    for mode in (0o640, 0o604, 0o660):
        with pytest.raises(HashesError, match="can be read by others"):
            read_account_hashes(file_of(tmp_path, f"a,{ONE}\n", mode))
    with pytest.raises(HashesError, match="no plain file"):
        read_account_hashes(tmp_path)
    link = tmp_path / "link"
    link.symlink_to(file_of(tmp_path, f"a,{ONE}\n"))
    with pytest.raises(OSError, match="symbolic"):
        read_account_hashes(link)
    with pytest.raises(FileNotFoundError):
        read_account_hashes(tmp_path / "none")


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can give a file away")
def test_somebody_elses_file_is_refused(tmp_path: Path) -> None:
    path = file_of(tmp_path, f"a,{ONE}\n")
    os.chown(path, 12_345, -1)
    with pytest.raises(HashesError, match="belongs to somebody else"):
        read_account_hashes(path)
