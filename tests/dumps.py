"""Dumps of the demo domain that were changed, record by record."""

from __future__ import annotations

import io
import re
from collections.abc import Callable

from hornfels.formats.dump import Dump, load_dump

Records = list[bytes]
"""The records of an LDIF file, as text."""


def records(ldif: bytes) -> Records:
    """Split a dump at its blank lines."""
    return [record for record in ldif.split(b"\n\n") if record.strip()]


def is_policy(name: str) -> Callable[[bytes], bool]:
    """Return a test for the record of the policy of this name."""
    start = f"dn: CN={name},CN=Password Settings Container".encode()
    return lambda record: record.startswith(start)


def without(found: Records, is_gone: Callable[[bytes], bool]) -> Records:
    """Return the records of which `is_gone` is false."""
    return [record for record in found if not is_gone(record)]


def replaced(found: Records, wanted: Callable[[bytes], bool], old: bytes, new: bytes) -> Records:
    """Return the records with `old`, a regular expression, replaced in those that are wanted."""
    return [re.sub(old, new, record) if wanted(record) else record for record in found]


def renamed(found: Records, old: str, new: str) -> Records:
    """Return the records with the policy `old` under the name `new`."""
    names = rf"(?m)^(cn|name): {old}|^dn: CN={old}".encode()
    return [
        re.sub(names, lambda match: match.group().replace(old.encode(), new.encode()), record)
        if is_policy(old)(record)
        else record
        for record in found
    ]


def guid_of(found: Records, name: str) -> bytes:
    """Return the line that gives the policy of this name its GUID."""
    (record,) = filter(is_policy(name), found)
    return next(line for line in record.split(b"\n") if line.startswith(b"objectGUID"))


def dump(found: Records) -> Dump:
    """Return the records as a dump that was read."""
    return load_dump(io.BytesIO(ldif(found)), other_names=True)


def ldif(found: Records) -> bytes:
    """Return the records as a file."""
    return b"\n\n".join(found) + b"\n"
