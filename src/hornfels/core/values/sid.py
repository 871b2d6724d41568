"""Security identifiers in their stored and printed forms ([MS-DTYP] 2.4.2)."""

from __future__ import annotations

import struct


def sid_text(raw: bytes) -> str:
    """The printed form of a stored SID. Raises ValueError for bytes that are none."""
    if len(raw) < 8 or raw[0] != 1 or len(raw) != 8 + 4 * raw[1]:
        raise ValueError("not a security identifier")
    authority = int.from_bytes(raw[2:8], "big")
    return "-".join(map(str, ("S", 1, authority, *struct.unpack(f"<{raw[1]}I", raw[8:]))))


def split_sid(sid: str) -> tuple[str, int]:
    """A printed SID as the domain part and the relative identifier (RID)."""
    domain, _, rid = sid.rpartition("-")
    return domain, int(rid)
