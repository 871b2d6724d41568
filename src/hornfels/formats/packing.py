"""Files as people have them: packed by gzip, or as UTF-16 text, read as the plain bytes inside."""

from __future__ import annotations

import codecs
import zlib
from collections.abc import Callable
from typing import BinaryIO

Read = Callable[[int], bytes]

_GZIP = b"\x1f\x8b"
_ENOUGH = 4


class PackingError(ValueError):
    """What is packed is damaged; the message says how."""


def plain(source: BinaryIO) -> Read:
    """A function that reads the next bytes of a file, at most about as many as it is asked for, and
    none at its end.

    It unpacks gzip and turns UTF-16, with or without a byte order mark, into UTF-8. Raises
    `PackingError` where that fails.
    """
    start, read = _peeked(source.read)
    if start.startswith(_GZIP):
        start, read = _peeked(_Unpacked(read).read)
    encoding = utf16_of(start)
    return _Decoded(read, encoding).read if encoding else read


def utf16_of(start: bytes) -> str:
    """The encoding of text that begins so if that is UTF-16, else "". Without a mark, the first
    character is taken to be ASCII.
    """
    if start.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16"
    if len(start) >= 2 and (start[0] == 0) != (start[1] == 0):
        return "utf-16-be" if start[0] == 0 else "utf-16-le"
    return ""


def _peeked(read: Read) -> tuple[bytes, Read]:
    """The first bytes, and a function that reads them once more before it goes on."""
    start = b""
    while len(start) < _ENOUGH and (more := read(_ENOUGH - len(start))):
        start += more
    waiting = [start]

    def again(size: int) -> bytes:
        return (waiting.pop() if waiting else b"") or read(size)

    return start, again


MOST_RATIO = 200
"""Largest ratio of unpacked to packed bytes. LDIF packs to a tenth or a thirtieth."""
_RATIO_FROM = 64 << 20
"""Bytes up to which a file may unpack to any times its size."""


class _Unpacked:
    """The bytes inside gzip members, one after another, never many more at a time than
    asked for. Raises `PackingError` for a file that unpacks to far more than text does.
    """

    def __init__(self, read: Read) -> None:
        self._read = read
        self._member = zlib.decompressobj(wbits=31)
        self._rest = b""
        self._taken = self._given = 0

    def _more(self, size: int) -> bytes:
        packed = self._read(size)
        self._taken += len(packed)
        return packed

    def read(self, size: int) -> bytes:
        while True:
            if self._member.eof:
                self._rest = self._member.unused_data or self._more(size)
                if not self._rest.strip(b"\0"):
                    return b""
                self._member = zlib.decompressobj(wbits=31)
            packed = self._rest or self._more(size)
            try:
                out = self._member.decompress(packed, size)
            except zlib.error as error:
                raise PackingError(
                    f"the file is packed by gzip and damaged here ({error}); pack or fetch it again"
                ) from None
            self._rest = self._member.unconsumed_tail
            if out:
                self._given += len(out)
                if self._given > max(_RATIO_FROM, MOST_RATIO * self._taken):
                    raise PackingError(
                        f"the file unpacks to more than {MOST_RATIO} times its size, as no dump "
                        "does; dump the domain again"
                    )
                return out
            if not packed and not self._member.eof:
                raise PackingError(
                    "the file is packed by gzip and cut off here; pack or fetch it again"
                )


class _Decoded:
    """UTF-16 text as UTF-8."""

    def __init__(self, read: Read, encoding: str) -> None:
        self._read = read
        self._decoder = codecs.getincrementaldecoder(encoding)()

    def read(self, size: int) -> bytes:
        while True:
            raw = self._read(size)
            try:
                text = self._decoder.decode(raw, final=not raw)
            except UnicodeDecodeError:
                raise PackingError(
                    "the file is UTF-16 text and broken here; save it again, as UTF-8"
                ) from None
            if text or not raw:
                return text.encode("utf-8")
