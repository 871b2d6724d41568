"""Dumps packed by gzip or in UTF-16 read as the same dump; what is damaged is called by its
name.
"""

from __future__ import annotations

import gzip
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.formats import ldif
from hornfels.formats.ldif import LdifError, read
from hornfels.formats.packing import plain

TEXT = "dn: CN=é\ncn: Ж 😀\n\ndn: CN=b\ncn: two\n"


def entries(data: bytes) -> list[tuple[str, dict[str, list[bytes]]]]:
    return [(r.dn, r.values) for r in read(io.BytesIO(data), {"cn"})]


PLAIN = entries(TEXT.encode())


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16", "utf-16-le", "utf-16-be"])
@pytest.mark.parametrize("packed", [False, True])
@pytest.mark.parametrize("block", [1, 3, 1 << 20])
def test_a_dump_reads_alike_however_it_is_kept(
    encoding: str, packed: bool, block: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(ldif, "BLOCK", block)
    data = TEXT.encode(encoding)
    assert len(PLAIN) == 2
    assert entries(gzip.compress(data[:20]) + gzip.compress(data[20:]) if packed else data) == PLAIN


@given(st.binary(max_size=4000), st.integers(1, 50))
def test_gzip_gives_back_what_was_packed_a_little_at_a_time(data: bytes, size: int) -> None:
    data = b"dn: " + data  # not to be taken for UTF-16 inside
    take = plain(io.BytesIO(gzip.compress(data)))
    pieces = []
    while piece := take(size):
        assert len(piece) <= max(size, 4)
        pieces.append(piece)
    assert b"".join(pieces) == data


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (gzip.compress(f"{TEXT}\n".encode() * 99)[:-9], "gzip and cut off"),
        (gzip.compress(TEXT.encode())[:-8] + b"12345678", "gzip and damaged"),
        (b"\x1f\x8b rubbish", "gzip and damaged"),
        (TEXT.encode("utf-16")[:-1], "UTF-16 text and broken"),
    ],
    ids=["cut", "checksum", "rubbish", "half a character"],
)
def test_damage_is_called_by_its_name(data: bytes, words: str) -> None:
    with pytest.raises(LdifError, match=words):
        entries(data)
