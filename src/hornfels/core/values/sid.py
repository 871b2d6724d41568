"""Security identifiers in their stored and printed forms ([MS-DTYP] 2.4.2)."""

from __future__ import annotations

import struct
from functools import lru_cache


def sid_text(raw: bytes) -> str:
    """The printed form of a stored SID. Raises ValueError for bytes that are none."""
    if len(raw) < 8 or raw[0] != 1 or len(raw) != 8 + 4 * raw[1]:
        raise ValueError("not a security identifier")
    if raw[1] == 0:
        return _domain_text(raw)
    return f"{_domain_text(raw[:-4])}-{int.from_bytes(raw[-4:], 'little')}"


@lru_cache(maxsize=1024)
def _domain_text(raw: bytes) -> str:
    """The printed form without the last part, which nearly all of a domain's SIDs share."""
    authority = int.from_bytes(raw[2:8], "big")
    parts = struct.unpack(f"<{(len(raw) - 8) // 4}I", raw[8:])
    return "-".join(map(str, ("S", 1, authority, *parts)))


def split_sid(sid: str) -> tuple[str, int]:
    """A printed SID as the domain part and the relative identifier (RID)."""
    domain, _, rid = sid.rpartition("-")
    return domain, int(rid)
