"""LDIF content records as `ldapsearch` and other tools print them (RFC 2849), read as a stream.

The reader keeps only the attributes asked for and costs about as much as splitting the file into
lines.
"""

from __future__ import annotations

import base64
import binascii
import io
import re
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator
from typing import BinaryIO

from hornfels.core.values.text import printable
from hornfels.formats.packing import PackingError, plain

BLOCK = 1 << 20
LONGEST_RECORD = 1 << 28
LONGEST_VALUE = 1 << 20
LONGEST_NAME = 1024
"""Characters; directories allow 256 and fewer."""
LONGEST_FILE = 1 << 36
"""Bytes; a packed file may hold much more than it seems to."""


class LdifError(ValueError):
    """Something in the file that cannot be read, with the line it stands on and what would
    mend it.
    """

    def __init__(self, line: int, reason: str) -> None:
        super().__init__(f"line {line}: {reason}")
        self.line = line
        self.reason = reason


_SURELY_64_BITS = 19
"""A number of fewer digits than this fits 64 bits."""
_NUMBER = re.compile(rb" *[-+]?[0-9]{1,40} *")
_NAME = re.compile(rb"[A-Za-z0-9][A-Za-z0-9.;=*_-]*")
_RANGE = re.compile(rb"^([A-Za-z0-9-]+);range=\d+-(\d+|\*):", re.MULTILINE | re.IGNORECASE)


class Record:
    """One entry: its name, the line it begins on, and its values by lower-cased attribute name."""

    __slots__ = ("_in_parts", "_lines", "dn", "line", "values")

    def __init__(
        self, dn: str, line: int, values: dict[str, list[bytes]], lines: bytes, in_parts: bool
    ) -> None:
        self.dn = dn
        self.line = line
        self.values = values
        self._lines = lines
        self._in_parts = in_parts

    def error(self, attribute: str, reason: str) -> LdifError:
        """An error about one attribute of this record, placed on the attribute's own line."""
        return LdifError(self.line_of(attribute), f"{reason} (attribute {attribute} of {self.dn})")

    def line_of(self, attribute: str) -> int:
        """The line on which an attribute stands first."""
        for offset, text in enumerate(self._lines.split(b"\n")):
            if text.partition(b":")[0].partition(b";")[0].strip().lower() == attribute.encode():
                return self.line + offset
        return self.line

    def ranges(self) -> Iterator[tuple[str, bool]]:
        """The lists that a server sent in parts: each part's attribute, and whether it is the last
        one.
        """
        if self._in_parts:
            for match in _RANGE.finditer(self._lines):
                yield match[1].decode().lower(), match[2] == b"*"

    def text(self, attribute: str) -> str | None:
        """The first value of an attribute as text, None if it has none."""
        values = self.values.get(attribute)
        return self.decode(attribute, values[0]) if values else None

    def name(self, attribute: str) -> str | None:
        """The first value of an attribute as a name, None if it has none."""
        text = self.text(attribute)
        if text and len(text) > LONGEST_NAME:
            raise self.error(
                attribute,
                f"a name of {len(text):,} characters, where at most {LONGEST_NAME:,} are taken",
            )
        return text

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

    def integer(self, attribute: str, bits: int = 64) -> int | None:
        """The first value of an attribute as a signed number of so many bits, None if it
        has none.
        """
        values = self.values.get(attribute)
        if not values:
            return None
        written = values[0]
        if bits == 64 and written.isdigit() and len(written) < _SURELY_64_BITS:
            return int(written)
        if not (written.isdigit() and len(written) < 40) and not _NUMBER.fullmatch(written):
            raise self.error(attribute, f"{_shown(written)} is not a whole number")
        number = int(written)
        if not -(2 ** (bits - 1)) <= number < 2 ** (bits - 1):
            raise self.error(attribute, f"{number} does not fit a {bits}-bit number")
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


_FRAME = frozenset({"dn", "changetype"})


_ENTRY = re.compile(rb"(?:#[^\n]*\n|\n)*(?:version: *1 *\n(?:#[^\n]*\n)*)?dn:(?!<)", re.IGNORECASE)
"""How an entry begins: comments, perhaps the version line, and its name."""

_MOST_NAMES = 10_000


class _Names(dict[bytes, str]):
    """Attribute names as spelt in the file to the attribute wanted by them, "" for the others.
    Learns each spelling once.

    Those that make the frame of an entry are never learnt, so that whatever is known has a value to
    be kept or skipped.
    """

    def __init__(self, wanted: Iterable[str]) -> None:
        self.wanted = frozenset(wanted)
        self.in_parts = False

    def learn(self, spelt: bytes) -> str:
        base, _, options = spelt.partition(b";")
        name = base.decode().lower()
        if name in _FRAME:
            return name
        found = name if name in self.wanted and (not options or _without_meaning(options)) else ""
        self.in_parts |= bool(found and options)
        if len(self) < _MOST_NAMES:
            self[spelt] = found
        return found


def read(
    source: BinaryIO,
    wanted: Iterable[str],
    *,
    most_bytes: int = LONGEST_FILE,
    watch: Callable[[int], None] = lambda _bytes: None,
) -> Iterator[Record]:
    """The entries of an LDIF stream with the `wanted` attributes (lower case), in file order.

    Attribute options are cut off where they do not change the meaning (``range=``, ``binary``); an
    attribute with other options, such as a language, is another attribute and is skipped. `watch`
    is called with the unpacked bytes read so far, at each block, and may raise to stop. Raises
    `LdifError` with the line for anything malformed, and for more than `most_bytes`.
    """
    names = _Names(wanted)
    for line, lines in _blocks(source, most_bytes, watch):
        record = _record(line, lines, names)
        if record is not None:
            yield record


def _blocks(
    source: BinaryIO, most_bytes: int, watch: Callable[[int], None]
) -> Iterator[tuple[int, bytes]]:
    """Runs of lines between blank lines, each with the number of its first line, line ends made
    plain.
    """
    line = 1
    try:
        take = plain(source)
    except PackingError as error:
        raise LdifError(line, str(error)) from None
    # Pieces without a blank line, joined once when there is one: a long record is not looked
    # through again and again.
    held: list[bytes] = []
    size = total = 0
    carry = b""
    while True:
        try:
            data = take(BLOCK)
        except PackingError as error:
            raise LdifError(line + sum(piece.count(b"\n") for piece in held), str(error)) from None
        final = not data
        total += len(data)
        watch(total)
        if total > most_bytes:
            raise LdifError(
                line,
                f"the file goes on for more than {most_bytes / (1 << 30):.3g} GB; dump one domain "
                "alone, or set HORNFELS_UNPACKED_GB",
            )
        data = carry + data
        # What may be half of a line end, or of a blank line, waits for the other half.
        kept = 0 if final else 1 if data.endswith((b"\r", b"\n")) else 0
        data, carry = (data[:-kept], data[-kept:]) if kept else (data, b"")
        if carry == b"\n" and data.endswith(b"\r"):
            data, carry = data[:-1], b"\r\n"
        if b"\r" in data:
            data = data.replace(b"\r\n", b"\n")
        if line == 1 and not held and data.startswith(b"\xef\xbb\xbf"):
            data = data[3:]
        cut = len(data) if final else data.rfind(b"\n\n")
        if cut < 0:
            held.append(data)
            size += len(data)
            if size > LONGEST_RECORD:
                raise LdifError(line, "no blank line for 256 MB: this does not look like LDIF")
            continue
        end = cut if final else cut + 2
        whole, rest = b"".join([*held, data[:end]]), data[end:]
        held, size = ([rest], len(rest)) if rest else ([], 0)
        for lines in whole.split(b"\n\n"):
            stripped = lines.lstrip(b"\n")
            if stripped:
                yield line + len(lines) - len(stripped), stripped
            line += lines.count(b"\n") + 2
        # The last piece of a split has no separator behind it.
        line -= 2
        if final:
            return


def _record(line: int, lines: bytes, names: _Names) -> Record | None:
    text = lines.replace(b"\n ", b"") if b"\n " in lines else lines
    if not _ENTRY.match(text):
        _diagnose(line, lines)
        return None
    dn: str | None = None
    values: defaultdict[str, list[bytes]] = defaultdict(list)
    known = names.get
    for written in text.split(b"\n"):
        name, colon, value = written.partition(b":")
        attribute = known(name)
        if attribute:
            # Nearly every line that is kept: a plain value behind one space.
            if value[:1] == b" ":
                values[attribute].append(value.lstrip(b" "))
                continue
        elif attribute is not None and colon:
            continue
        if not colon or not _is_name(name):
            if not written or written.startswith(b"#"):
                continue
            _diagnose(line, lines)
            return None
        attribute = attribute or names.learn(name)
        if attribute in _FRAME:
            value = value.lstrip(b" ")
            if attribute == "dn" and dn is None:
                dn = _dn(line, lines, value)
            elif attribute == "dn" or value.strip().lower() != b"add":
                _diagnose(line, lines)
        elif attribute:
            values[attribute].append(_value(value, attribute, name, line, lines))
    if len(text) > LONGEST_VALUE:
        _expect_fitting(values, line, lines)
    return None if dn is None else Record(dn, line, values, lines, names.in_parts)


def _value(written: bytes, attribute: str, name: bytes, line: int, lines: bytes) -> bytes:
    """What stands after the first colon as a value: plain, or in base64 after a second one."""
    if written.startswith(b":"):
        return _decoded(written[1:].strip(b" "), attribute, line, lines)
    if written.startswith(b"<"):
        reason = f"the value of {attribute} is kept in another file or address; dump it inline"
        raise LdifError(_line_of(line, lines, name + b":<"), reason)
    return written.lstrip(b" ")


def _expect_fitting(values: dict[str, list[bytes]], line: int, lines: bytes) -> None:
    for attribute, held in values.items():
        if any(len(value) > LONGEST_VALUE for value in held):
            place = Record("", line, values, lines, in_parts=False).line_of(attribute)
            reason = (
                f"a value of {attribute} is longer than {LONGEST_VALUE >> 20} MB; no directory "
                "holds such, the file is damaged"
            )
            raise LdifError(place, reason)


def _without_meaning(options: bytes) -> bool:
    return all(
        option == b"binary" or option.startswith(b"range=")
        for option in options.lower().split(b";")
    )


def _decoded(value: bytes, attribute: str, line: int, lines: bytes) -> bytes:
    try:
        return base64.b64decode(value, validate=True)
    except (binascii.Error, ValueError):
        # Found again by decoding line by line, for the number of the line.
        for number, name, written in _logical(line, lines):
            if name.partition(b";")[0].lower() == attribute.encode() and written.startswith(b":"):
                try:
                    base64.b64decode(written[1:].strip(b" "), validate=True)
                except (binascii.Error, ValueError):
                    raise LdifError(number, f"the value of {attribute} is not base64") from None
        raise


def _logical(line: int, lines: bytes) -> Iterator[tuple[int, bytes, bytes]]:
    """The unfolded lines of a block without comments: number of the first physical line, what is
    before the colon, and after.
    """
    held: list[bytes] = []
    began = line
    for number, physical in enumerate([*lines.split(b"\n"), b"#"], line):
        if physical.startswith(b" ") and held:
            held.append(physical[1:])
            continue
        if held and held[0] and not held[0].startswith(b"#"):
            name, colon, value = b"".join(held).partition(b":")
            yield began, name if colon else b"", value if colon else name
        held, began = [physical], number


def _diagnose(line: int, lines: bytes) -> None:
    """Say what keeps a block of lines from being an entry; return quietly if it rightly is none."""
    inside = False
    for number, name, value in _logical(line, lines):
        lowered = name.lower()
        if name.startswith(b" ") or (value.startswith(b" ") and not name):
            raise LdifError(
                number,
                (
                    "a continuation line with nothing before it; join it to its line or remove "
                    "the leading space"
                ),
            )
        if not name:
            raise LdifError(number, f"no ':' in {_shown(value)}; expected 'attribute: value'")
        if not _is_name(name):
            raise LdifError(number, f"{_shown(name)} is not an attribute name")
        if inside:
            if lowered == b"dn":
                raise LdifError(number, "a second 'dn' in one entry; put a blank line before it")
            if lowered == b"changetype" and value.strip().lower() != b"add":
                raise LdifError(
                    number,
                    (
                        f"this is a change record ({_shown(value.strip())}); load a dump of "
                        "entries, as ldapsearch prints it"
                    ),
                )
        elif lowered == b"version":
            if value.strip() != b"1":
                raise LdifError(
                    number, f"LDIF version {_shown(value.strip())} is unknown; version 1 is"
                )
        elif lowered == b"dn":
            if value.startswith(b"<"):
                raise LdifError(
                    number, "the entry's dn is kept in another file or address; dump it inline"
                )
            inside = True
        elif lowered in _NOT_ENTRIES:
            _check_result(line, lines)
            return
        elif lowered == b"del":
            raise LdifError(
                number,
                (
                    "the name of a deleted object breaks the comment above in two; dump without "
                    "comments (ldapsearch -LLL)"
                ),
            )
        else:
            raise LdifError(
                number, f"an entry begins with {_shown(name)} instead of 'dn'; is a line missing?"
            )


def _check_result(line: int, lines: bytes) -> None:
    """The closing words of a search say whether the server sent everything."""
    for number, name, value in _logical(line, lines):
        if name == b"result" and value.strip().split(b" ")[0] != b"0":
            raise LdifError(
                number,
                f"the search ended early ({_shown(name + b':' + value)}), so entries are "
                "missing; dump again, in pages "
                "(ldapsearch -E pr=1000/noprompt)",
            )


def _is_name(name: bytes) -> bool:
    return _NAME.fullmatch(name) is not None


def _dn(line: int, lines: bytes, value: bytes) -> str:
    try:
        raw = (
            base64.b64decode(value[1:].strip(b" "), validate=True)
            if value[:1] == b":"
            else value.rstrip(b" ")
        )
        return raw.decode("utf-8")
    except (binascii.Error, ValueError):
        at = next((n for n, name, _ in _logical(line, lines) if name.lower() == b"dn"), line)
        raise LdifError(at, "the entry's dn is neither UTF-8 text nor base64 of it") from None


def _line_of(line: int, lines: bytes, start: bytes) -> int:
    """The number of the first line that begins so."""
    return next(
        (number for number, text in enumerate(lines.split(b"\n"), line) if text.startswith(start)),
        line,
    )


def _shown(text: bytes) -> str:
    return "'" + text[:60].decode("utf-8", "replace") + ("…'" if len(text) > 60 else "'")


def write(records: Iterable[tuple[str, Iterable[tuple[str, str | bytes]]]]) -> Iterator[bytes]:
    """LDIF for records of (dn, attributes), wrapped at 76 columns, base64 where RFC 2849 asks for
    it.
    """
    yield b"version: 1\n"
    for dn, pairs in records:
        out = io.BytesIO()
        out.write(b"\n")
        for name, value in (("dn", dn), *pairs):
            out.write(attribute_line(name, value))
        yield out.getvalue()


def comment_lines(text: str) -> bytes:
    """Text as comments; what is not printable ASCII is escaped."""
    return b"".join(
        f"# {printable(line)}\n".encode("ascii", "backslashreplace") for line in text.split("\n")
    )


_SAFE = re.compile(rb"(?![ :<])[ -~]*(?<! )")
"""A value that needs no base64 (RFC 2849, SAFE-STRING; no space at the end, note 8)."""


def attribute_line(name: str, value: str | bytes) -> bytes:
    """One attribute, wrapped and in base64 where it has to be."""
    raw = value.encode("utf-8") if isinstance(value, str) else value
    safe = _SAFE.fullmatch(raw)
    line = f"{name}: ".encode() + raw if safe else f"{name}:: ".encode() + base64.b64encode(raw)
    if len(line) <= 76:
        return line + b"\n"
    first, rest = line[:76], line[76:]
    return b"\n ".join([first, *(rest[i : i + 75] for i in range(0, len(rest), 75))]) + b"\n"
