"""A file of accounts and the NT hashes of their passwords, one ``account,hash`` on each line: read
once, and wiped out of memory by whoever asked for it.
"""

from __future__ import annotations

import binascii
import os
import re
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hornfels.core.passwords.digests import NT_BYTES
from hornfels.refusals import RefusalError

_LINE = re.compile(rb"^[ \t]*(?:([^\n]*?)[ \t]*,[ \t]*([0-9A-Fa-f]{32})|[ \t]*)[ \t]*\r?$", re.M)
MOST_BYTES = 1 << 30
_CLOSED = 0o077


class HashesError(RefusalError):
    """The file cannot be taken; the message says why and what to do. Never tells what is in it."""


class AccountHashes(NamedTuple):
    """Names of accounts with their NT hashes; ``digests`` has the shape (names, 16)."""

    names: list[str]
    digests: NDArray[np.uint8]


def read_account_hashes(path: Path) -> AccountHashes:
    """Read a file that nobody but its owner may read, and which is ours. Raises `HashesError` and
    OSError.
    """
    handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NOFOLLOW)
    try:
        told = os.fstat(handle)
        _refuse(path, told)
        buffer = bytearray(told.st_size)
        view = memoryview(buffer)
        try:
            read = 0
            while read < len(buffer) and (more := os.readv(handle, [view[read:]])):
                read += more
            return _parsed(path, buffer)
        finally:
            view[:] = bytes(len(buffer))
    finally:
        os.close(handle)


def _refuse(path: Path, told: os.stat_result) -> None:
    if not stat.S_ISREG(told.st_mode):
        raise HashesError(f"{path} is no plain file. Put the accounts and hashes into one.")
    if told.st_mode & _CLOSED:
        raise HashesError(f"{path} can be read by others. Take that away (chmod 600).")
    if told.st_uid != os.geteuid():
        raise HashesError(f"{path} belongs to somebody else. Give it to the one who works here.")
    if told.st_size > MOST_BYTES:
        raise HashesError(f"{path} is larger than {MOST_BYTES:,} bytes. Is it the right one?")


def _parsed(path: Path, buffer: bytearray) -> AccountHashes:
    digests = np.empty((buffer.count(b"\n") + 1, NT_BYTES), np.uint8)
    try:
        names = list(_names(path, buffer, digests))
    except BaseException:
        digests.fill(0)
        raise
    return AccountHashes(names, digests[: len(names)])


def _names(path: Path, buffer: bytearray, digests: NDArray[np.uint8]) -> Iterator[str]:
    """The names, and the digests into their places: no text is ever made of a hash."""
    view = memoryview(buffer)
    seen: dict[str, int] = {}
    expected, number = 0, 1
    for found in _LINE.finditer(buffer):
        if found.start() != expected:
            break
        start, end = found.span(2)
        if start >= 0:
            try:
                name = found[1].decode("utf-8")
            except UnicodeDecodeError:
                raise HashesError(f"{path}, line {number:,}: not UTF-8 text.") from None
            key = name.casefold()
            if not name or key in seen:
                what = f"the account of line {seen[key]:,} once more" if name else "no account"
                raise HashesError(f"{path}, line {number:,}: {what}. Each line has one of its own.")
            digests[len(seen)] = np.frombuffer(binascii.unhexlify(view[start:end]), np.uint8)
            seen[key] = number
            yield name
        expected, number = found.end() + 1, number + 1
    if expected <= len(buffer):
        raise HashesError(
            f"{path}, line {number:,}: an account, a comma and 32 hexadecimal digits are wanted."
        )
