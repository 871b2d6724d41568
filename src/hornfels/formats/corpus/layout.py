"""How a corpus lies in its file: header, sorted records, and per bucket where its records begin and
their checksum. Everything is little-endian; digests are bytes as they are.
"""

from __future__ import annotations

import struct
import zlib
from dataclasses import dataclass
from typing import Literal, get_args

from hornfels.core.passwords.digests import NT_BYTES, SHA1_BYTES

Kind = Literal["sha1", "nt"]
"""Which digests a corpus holds."""
KINDS: tuple[Kind, ...] = get_args(Kind)
DIGEST_BYTES: dict[Kind, int] = {"sha1": SHA1_BYTES, "nt": NT_BYTES}

MARK, VERSION = b"HFCORPUS", 1
HEADER_BYTES, COUNT_BYTES = 128, 4
MOST_COUNTED = 2**32 - 1
"""A count stands still here."""

_HEADER = struct.Struct("<8sHBBBBBBQQQQQQI")
_CHECKSUM = struct.Struct("<I")
_FOLDED = 1
_RECORDS_A_BUCKET = 48
_FEWEST_BITS, _MOST_BITS = 8, 28


class CorpusError(ValueError):
    """A file is no corpus, or a damaged one; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Layout:
    """What the header of a corpus says. ``bits`` of a digest, its first ones, name its bucket;
    whole bytes of them are left out of the records. ``entries`` are records; ``seen`` adds their
    counts.
    """

    kind: Kind
    folded: bool
    bits: int
    entries: int
    seen: int

    @property
    def left_out(self) -> int:
        """Bytes of a digest that the number of its bucket stands for."""
        return self.bits // 8

    @property
    def record_bytes(self) -> int:
        return DIGEST_BYTES[self.kind] - self.left_out + COUNT_BYTES

    @property
    def buckets(self) -> int:
        return 1 << self.bits

    @property
    def offsets_at(self) -> int:
        """Where the offsets begin, which are records: as many as buckets, and one for the end."""
        return -(-(HEADER_BYTES + self.entries * self.record_bytes) // 8) * 8

    @property
    def checksums_at(self) -> int:
        return self.offsets_at + 8 * (self.buckets + 1)

    @property
    def file_bytes(self) -> int:
        return self.checksums_at + 4 * self.buckets

    def header(self, tables: int) -> bytes:
        """The header, with the checksum of both tables."""
        head = _HEADER.pack(
            MARK,
            VERSION,
            KINDS.index(self.kind) + 1,
            _FOLDED if self.folded else 0,
            DIGEST_BYTES[self.kind],
            self.bits,
            self.left_out,
            self.record_bytes,
            self.entries,
            self.seen,
            HEADER_BYTES,
            self.offsets_at,
            self.checksums_at,
            self.file_bytes,
            tables,
        ).ljust(HEADER_BYTES - _CHECKSUM.size, b"\0")
        return head + _CHECKSUM.pack(zlib.crc32(head))


def bits_for(entries: int) -> int:
    """How many bits name a bucket, so that it holds some dozens of records."""
    return min(max((entries // _RECORDS_A_BUCKET).bit_length(), _FEWEST_BITS), _MOST_BITS)


def layout_of(header: bytes, file_bytes: int) -> tuple[Layout, int]:
    """What a header says, and the checksum of the tables. Raises `CorpusError`."""
    if header[: len(MARK)] != MARK:
        raise CorpusError("it is no corpus; compile one with hornfels corpus build")
    if len(header) < HEADER_BYTES:
        raise CorpusError(_again("it is cut off"))
    (expected,) = _CHECKSUM.unpack_from(header, HEADER_BYTES - _CHECKSUM.size)
    if int.from_bytes(header[8:10], "little") != VERSION:
        raise CorpusError("it is of another version; compile it with this version of Hornfels")
    if zlib.crc32(header[: HEADER_BYTES - _CHECKSUM.size]) != expected:
        raise CorpusError(_again("its header is damaged"))
    _, _, kind, flags, _, bits, _, _, entries, seen, *_, tables = _HEADER.unpack_from(header)
    try:
        found = Layout(KINDS[kind - 1], bool(flags & _FOLDED), bits, entries, seen)
        whole = found.header(tables) == header
    except (IndexError, struct.error):
        whole = False
    if not whole:
        raise CorpusError(_again("its header is damaged"))
    if found.file_bytes != file_bytes:
        raise CorpusError(
            _again(f"it has {file_bytes:,} bytes where its header says {found.file_bytes:,}")
        )
    return found, tables


def _again(what: str) -> str:
    return f"{what}; compile it again, or fetch it again"
