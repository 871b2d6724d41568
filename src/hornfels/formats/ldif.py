"""LDIF content records as `ldapsearch` and other tools print them (RFC 2849), read as a stream.

The reader keeps only the attributes asked for and costs about as much as splitting the file into lines.
"""

from __future__ import annotations

import base64
import binascii
import io
from collections.abc import Iterable, Iterator
from typing import BinaryIO

BLOCK = 1 << 20
LONGEST_RECORD = 1 << 28


class LdifError(ValueError):
    """Something in the file that cannot be read, with the line it stands on and what would mend it."""

    def __init__(self, line: int, reason: str) -> None:
        super().__init__(f"line {line}: {reason}")
        self.line = line
        self.reason = reason


class Record:
    """One entry: its name, the line it begins on, and its values by lower-cased attribute name."""

    __slots__ = ("_lines", "dn", "line", "values")

    def __init__(self, dn: str, line: int, values: dict[str, list[bytes]], lines: bytes) -> None:
        self.dn = dn
        self.line = line
        self.values = values
        self._lines = lines

    def error(self, attribute: str, reason: str) -> LdifError:
        """An error about one attribute of this record, placed on the attribute's own line."""
        line = self.line
        for offset, text in enumerate(self._lines.split(b"\n")):
            if text.partition(b":")[0].partition(b";")[0].strip().lower() == attribute.encode():
                line = self.line + offset
                break
        return LdifError(line, f"{reason} (attribute {attribute} of {self.dn})")

    def text(self, attribute: str) -> str | None:
        """The first value of an attribute as text, None if it has none."""
        values = self.values.get(attribute)
        return self.decode(attribute, values[0]) if values else None

    def texts(self, attribute: str) -> list[str]:
        return [self.decode(attribute, value) for value in self.values.get(attribute, ())]

    def decode(self, attribute: str, value: bytes) -> str:
        try:
            text = value.decode("utf-8")
        except UnicodeDecodeError:
            raise self.error(attribute, "the value is not UTF-8 text") from None
        if "\0" in text:
            raise self.error(attribute, "the value holds a NUL character")
        return text

    def integer(self, attribute: str) -> int | None:
        """The first value of an attribute as a signed 64-bit number, None if it has none."""
        values = self.values.get(attribute)
        if not values:
            return None
        try:
            number = int(values[0])
        except ValueError:
            raise self.error(attribute, f"{values[0][:40]!r} is not a whole number".replace("b'", "'")) from None
        if not -(2**63) <= number < 2**63:
            raise self.error(attribute, f"{number} does not fit a 64-bit number")
        return number

    def flag(self, attribute: str) -> bool | None:
        """The first value of an attribute as TRUE or FALSE, None if it has none."""
        text = self.text(attribute)
        if text is None:
            return None
        if text.upper() not in ("TRUE", "FALSE"):
            raise self.error(attribute, f"'{text[:40]}' is neither TRUE nor FALSE")
        return text.upper() == "TRUE"


_NOT_ENTRIES = frozenset({b"search", b"result", b"ref", b"version", b"control", b"pagedresults"})
"""What opens a block that is no entry: the version line, and the closing words of a search."""


_MISPLACED = frozenset({b"dn", b"changetype"})


def read(source: BinaryIO, wanted: Iterable[str]) -> Iterator[Record]:
    """The entries of an LDIF stream with the `wanted` attributes (lower case), in file order.

    Attribute options are cut off where they do not change the meaning (``range=``, ``binary``); an attribute with other options,
    such as a language, is another attribute and is skipped. Raises `LdifError` with the line for anything malformed.
    """
    attributes: dict[bytes, str | None] = {name.encode(): name for name in wanted}
    names = dict(attributes)
    for line, lines in _blocks(source):
        record = _record(line, lines, names, attributes)
        if record is not None:
            yield record


def _blocks(source: BinaryIO) -> Iterator[tuple[int, bytes]]:
    """Runs of lines between blank lines, each with the number of its first line, line ends made plain."""
    line = 1
    rest = b""
    while True:
        data = source.read(BLOCK)
        final = not data
        data = rest + data
        if not final and data.endswith(b"\r"):
            data, rest = data[:-1], b"\r"
        else:
            rest = b""
        if b"\r" in data:
            data = data.replace(b"\r\n", b"\n")
        if line == 1 and data.startswith(b"\xef\xbb\xbf"):
            data = data[3:]
        if not final:
            cut = data.rfind(b"\n\n")
            if cut < 0:
                rest = data + rest
                if len(rest) > LONGEST_RECORD:
                    raise LdifError(line, "no blank line for 256 MB: this does not look like LDIF")
                continue
            data, rest = data[: cut + 2], data[cut + 2 :] + rest
        for lines in data.split(b"\n\n"):
            stripped = lines.lstrip(b"\n")
            if stripped:
                yield line + len(lines) - len(stripped), stripped
            line += lines.count(b"\n") + 2
        # The last piece of a split has no separator behind it.
        line -= 2
        if final:
            return


def _record(line: int, lines: bytes, names: dict[bytes, str | None], attributes: dict[bytes, str | None]) -> Record | None:
    unfolded = lines.replace(b"\n ", b"") if b"\n " in lines else lines
    if lines.startswith(b" "):
        raise LdifError(line, "a continuation line with nothing before it; join it to its line or remove the leading space")
    dn: str | None = None
    values: dict[str, list[bytes]] = {}
    for text in unfolded.split(b"\n"):
        name, colon, value = text.partition(b":")
        try:
            attribute = names[name]
        except KeyError:
            if not text or text.startswith(b"#"):
                continue
            if not colon:
                at = _line_of(line, lines, text)
                raise LdifError(at, f"no ':' in {_shown(text)}; expected 'attribute: value'") from None
            attribute = names[name] = _canonical(name, attributes)
            if attribute is None and not _is_name(name):
                del names[name]
                raise LdifError(_line_of(line, lines, text), f"{_shown(name)} is not an attribute name") from None
        if dn is None:
            lowered = name.lower()
            if lowered == b"dn":
                dn = _dn(line, lines, text, value)
                continue
            if lowered == b"version":
                if value.strip() != b"1":
                    raise LdifError(_line_of(line, lines, text), f"LDIF version {_shown(value.strip())} is unknown; version 1 is")
                continue
            if lowered == b"result" or b"\nresult: " in lines:
                _check_result(line, lines)
            if lowered in _NOT_ENTRIES:
                return None
            raise LdifError(_line_of(line, lines, text), f"an entry begins with {_shown(name)} instead of 'dn'; is a line missing?")
        if attribute is None:
            if name in _MISPLACED:
                _refuse(line, lines, text, name, value)
            continue
        if value.startswith(b":"):
            try:
                decoded = base64.b64decode(value[1:].strip(b" "), validate=True)
            except (binascii.Error, ValueError):
                raise LdifError(_line_of(line, lines, text), f"the value of {attribute} is not base64") from None
        elif value.startswith(b"<"):
            raise LdifError(
                _line_of(line, lines, text),
                f"the value of {attribute} is kept in another file or address; dump it inline",
            )
        else:
            decoded = value.lstrip(b" ")
        values.setdefault(attribute, []).append(decoded)
    return None if dn is None else Record(dn, line, values, lines)


def _refuse(line: int, lines: bytes, text: bytes, name: bytes, value: bytes) -> None:
    """Lines that mean the block is not one entry: a second dn, or a change other than adding an entry."""
    if name == b"dn":
        at = line + lines.count(b"\n", 0, lines.find(b"\ndn:") + 1)
        raise LdifError(at, "a second 'dn' in one entry; put a blank line before it")
    if value.strip().lower() != b"add":
        raise LdifError(
            _line_of(line, lines, text),
            f"this is a change record ({_shown(value.strip())}); load a dump of entries, as ldapsearch prints it",
        )


def _check_result(line: int, lines: bytes) -> None:
    """The closing words of a search say whether the server sent everything."""
    for offset, text in enumerate(lines.split(b"\n")):
        if text.startswith(b"result:") and text.split(b":")[1].strip().split(b" ")[0] != b"0":
            raise LdifError(
                line + offset,
                f"the search ended early ({_shown(text)}), so entries are missing; dump again, in pages "
                "(ldapsearch -E pr=1000/noprompt)",
            )


def _canonical(name: bytes, attributes: dict[bytes, str | None]) -> str | None:
    base, *options = name.lower().split(b";")
    if any(option != b"binary" and not option.startswith(b"range=") for option in options):
        return None
    return attributes.get(base)


def _is_name(name: bytes) -> bool:
    return bool(name) and all(chr(c).isalnum() or c in b"-.;=*_" for c in name) and name.isascii()


def _dn(line: int, lines: bytes, text: bytes, value: bytes) -> str:
    at = _line_of(line, lines, text)
    try:
        raw = base64.b64decode(value[1:].strip(b" "), validate=True) if value.startswith(b":") else value.strip(b" ")
        return raw.decode("utf-8")
    except (binascii.Error, ValueError):
        raise LdifError(at, "the entry's dn is neither UTF-8 text nor base64 of it") from None


def _line_of(line: int, lines: bytes, text: bytes) -> int:
    """The number of the first physical line of an unfolded one."""
    for offset, physical in enumerate(lines.split(b"\n")):
        if physical and not physical.startswith(b" ") and text.startswith(physical):
            return line + offset
    return line


def _shown(text: bytes) -> str:
    return "'" + text[:60].decode("utf-8", "replace") + ("…'" if len(text) > 60 else "'")


def write(records: Iterable[tuple[str, Iterable[tuple[str, str | bytes]]]]) -> Iterator[bytes]:
    """LDIF for records of (dn, attributes), wrapped at 76 columns, base64 where RFC 2849 asks for it."""
    yield b"version: 1\n"
    for dn, pairs in records:
        out = io.BytesIO()
        out.write(b"\n")
        for name, value in (("dn", dn), *pairs):
            out.write(_attribute(name, value))
        yield out.getvalue()


def _attribute(name: str, value: str | bytes) -> bytes:
    raw = value.encode("utf-8") if isinstance(value, str) else value
    safe = not raw or (raw[0] not in b" :<" and raw[-1] != 0x20 and all(0x20 <= c < 0x7F for c in raw))
    line = f"{name}: ".encode() + raw if safe else f"{name}:: ".encode() + base64.b64encode(raw)
    first, rest = line[:76], line[76:]
    return b"\n ".join([first, *(rest[i : i + 75] for i in range(0, len(rest), 75))]) + b"\n"
