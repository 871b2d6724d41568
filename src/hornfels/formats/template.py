"""Security templates: the account settings of a group policy object ([MS-GPSB] 2.2), read and
written.

Text may be UTF-16 or UTF-8, with or without a byte order mark, or ANSI (code page 1252). What is
written into a file leaves every other section, key, comment and line end as it is, byte for byte.
"""

from __future__ import annotations

import codecs
import re
from collections.abc import Iterator
from dataclasses import dataclass

from hornfels.core.policy.catalogue import (
    ACCESS,
    KERBEROS,
    REGISTRY,
    TEMPLATE_SETTINGS,
    Template,
    TemplateKey,
    Value,
)
from hornfels.core.values.time import DAY, HOUR, MINUTE, TICKS_PER_SECOND
from hornfels.formats.packing import utf16_of

_UNITS = {"days": DAY, "hours": HOUR, "minutes": MINUTE, "seconds": TICKS_PER_SECOND}


@dataclass(frozen=True, slots=True)
class _Key:
    """Where a template keeps one setting: section, spelling, and how its number counts."""

    section: str
    name: str
    setting: TemplateKey
    kind: str


_KEYS = tuple(
    _Key(s.template_section, s.template_key, s.key, s.unit if s.kind == "span" else s.kind)
    for s in TEMPLATE_SETTINGS.values()
)
_BY_SETTING = {key.setting: key for key in _KEYS}
_BY_PLACE = {(key.section.lower(), key.name.lower()): key for key in _KEYS}

MOST_BYTES = 4_000_000

_LINE = re.compile(r"[^\r\n]*(?:\r\n|\r|\n|$)")
"""A line with its end. Other line separators of Unicode may stand inside a value."""
_ENTRY = re.compile(r"(\s*)([^=;]*?)(\s*=\s*)(.*?)(\s*(?:;.*)?)", re.DOTALL)
"""A key's line without its end: indent, name, equals sign, value, and a comment behind it."""

_DWORD = re.compile(r'"?4"?\s*,\s*"?([0-9]+)"?')


class TemplateError(ValueError):
    """Something in the file that cannot be read, with its line."""

    def __init__(self, line: int, reason: str) -> None:
        super().__init__(f"line {line}: {reason}")
        self.line = line


@dataclass(slots=True)
class _Line:
    """One line of a template, the section it stands in, and the setting it is about."""

    number: int
    text: str
    end: str
    section: str
    key: _Key | None = None
    value: str = ""


def read_template(data: bytes) -> Template:
    """The account settings a template holds; all else in it is passed over.

    Raises `TemplateError` with the line for what is no template or no number.
    """
    text = _text(data)[0]
    if "\0" in text:
        raise TemplateError(
            text.count("\n", 0, text.index("\0")) + 1,
            "a NUL character stands here; export the template again",
        )
    return _values(list(_lines(text)))


def _values(lines: list[_Line]) -> Template:
    found: dict[TemplateKey, Value] = {}
    for line in lines:
        if line.key is None:
            continue
        if line.key.setting in found:
            raise TemplateError(line.number, f"{line.key.name} stands here a second time")
        found[line.key.setting] = _value(line, line.key)
    return found


def _lines(text: str) -> Iterator[_Line]:
    section = ""
    for number, match in enumerate(_LINE.finditer(text), 1):
        whole = match[0].rstrip("\r\n")
        line = _Line(number, whole, match[0][len(whole) :], section)
        plain = whole.strip()
        if plain.startswith("["):
            head = plain.partition(";")[0].strip()
            if not head.endswith("]"):
                raise TemplateError(number, f"'{plain[:60]}' opens a section and does not close it")
            line.section = section = head[1:-1].strip().lower()
        elif plain and not plain.startswith(";"):
            if not section:
                raise TemplateError(
                    number,
                    "text before the first [section]: this does not look like a security template",
                )
            _assign(line)
        if match[0]:
            yield line


def _assign(line: _Line) -> None:
    """Find out which setting a line is about, if any that is known here."""
    entry = _ENTRY.fullmatch(line.text)
    name = entry[2] if entry else line.text.partition(";")[0].strip()
    key = _BY_PLACE.get((line.section, name.lower()))
    if key and entry is None:
        raise TemplateError(line.number, f"{name} has no '='")
    if key and entry:
        line.key, line.value = key, entry[4]


_MARKS = (
    (codecs.BOM_UTF16_LE, "utf-16-le"),
    (codecs.BOM_UTF16_BE, "utf-16-be"),
    (codecs.BOM_UTF8, "utf-8"),
)


def _text(data: bytes) -> tuple[str, str, bytes]:
    """The text, its encoding, and the byte order mark it begins with."""
    for mark, encoding in _MARKS:
        if data.startswith(mark):
            return _decoded(data[len(mark) :], encoding), encoding, mark
    encoding = utf16_of(data[:2])
    if encoding:
        return _decoded(data, encoding), encoding, b""
    try:
        return data.decode("utf-8"), "utf-8", b""
    except UnicodeDecodeError:
        return _decoded(data, "cp1252"), "cp1252", b""


_SPOKEN = {
    "cp1252": "ANSI (code page 1252)",
    "utf-8": "UTF-8",
    "utf-16-le": "UTF-16",
    "utf-16-be": "UTF-16",
}


def _decoded(data: bytes, encoding: str) -> str:
    try:
        return data.decode(encoding)
    except UnicodeDecodeError as error:
        line = data[: error.start].decode(encoding, "ignore").count("\n") + 1
        either = "neither UTF-8 nor " if encoding == "cp1252" else "not "
        raise TemplateError(
            line, f"the file is {either}{_SPOKEN[encoding]} text; save it as UTF-8 or UTF-16"
        ) from None


def _value(line: _Line, key: _Key) -> Value:
    written = _unquoted(line.value)
    if key.section == REGISTRY:
        # A registry value carries its type first: 4 is a 32-bit number.
        match = _DWORD.fullmatch(line.value)
        if not match:
            short = key.name.rpartition("\\")[2]
            raise TemplateError(
                line.number, f"{short} is '{line.value[:40]}'; expected '4,' and a number"
            )
        written = match[1]
    if not re.fullmatch(r"-?[0-9]{1,10}", written):
        raise TemplateError(line.number, f"{key.name} is '{line.value[:40]}', not a whole number")
    count = int(written)
    if key.kind == "switch":
        if count not in (0, 1):
            raise TemplateError(line.number, f"{key.name} is {count}; expected 0 or 1")
        return bool(count)
    if key.kind == "count" and count >= 0:
        return count
    if key.kind != "count" and count == -1 and TEMPLATE_SETTINGS[key.setting].endless:
        return None
    if count < 0:
        raise TemplateError(line.number, f"{key.name} is {count}; it cannot be negative")
    return count * _UNITS[key.kind]


def _unquoted(text: str) -> str:
    return text[1:-1].strip() if len(text) > 1 and text[0] == text[-1] == '"' else text


_FRESH = '[Unicode]\r\nUnicode=yes\r\n[Version]\r\nsignature="$CHICAGO$"\r\nRevision=1\r\n'


def write_template(template: Template, into: bytes | None = None) -> bytes:
    """A template file with these account settings and no others.

    `into` is the file they are written into: all else in it stays byte for byte, its encoding and
    line ends too. Without one, a file of its own is made, in UTF-16 with a byte order mark. Raises
    `TemplateError` for a file that cannot be read, ValueError for a span that is no whole number of
    the template's unit.
    """
    text, encoding, mark = (
        (_FRESH, "utf-16-le", codecs.BOM_UTF16_LE) if into is None else _text(into)
    )
    lines = list(_lines(text))
    held = _values(lines)
    kept = []
    for line in lines:
        setting = line.key.setting if line.key else None
        if line.key and setting and setting in template and template[setting] != held[setting]:
            entry = _ENTRY.fullmatch(line.text)
            assert entry  # noqa: S101 - a line with a key is such an entry
            line.text = (
                f"{entry[1]}{entry[2]}{entry[3]}{_written(line.key, template[setting])}{entry[5]}"
            )
        if not line.key or setting in template:
            kept.append(line)
    end = next((line.end for line in lines if line.end), "\r\n")
    for section in (ACCESS, KERBEROS, REGISTRY):
        fresh = [
            key
            for key in _KEYS
            if key.section == section and key.setting in template and key.setting not in held
        ]
        if fresh:
            _insert(kept, section, [_entry(key, template[key.setting]) for key in fresh], end)
    return mark + "".join(line.text + line.end for line in kept).encode(encoding)


def _insert(lines: list[_Line], section: str, entries: list[str], end: str) -> None:
    """Put entries behind the last one of their section; a section that is missing comes before the
    one of the version, or last.
    """
    inside = [
        n for n, line in enumerate(lines) if line.section == section.lower() and line.text.strip()
    ]
    texts = entries
    if inside:
        at = inside[-1] + 1
    else:
        at = next((n for n, line in enumerate(lines) if line.section == "version"), len(lines))
        texts = [f"[{section}]", *entries]
    if at > 0 and not lines[at - 1].end:
        lines[at - 1].end = end
    lines[at:at] = [_Line(0, text, end, section.lower()) for text in texts]


def _entry(key: _Key, value: Value) -> str:
    return f"{key.name}{'=' if key.section == REGISTRY else ' = '}{_written(key, value)}"


def in_units(setting: TemplateKey, value: Value) -> int:
    """The number by which a template says a value: in its own unit, 0 or 1 for a switch, −1 for no
    end. Raises ValueError for a span that is no whole number of the unit.
    """
    kind = _BY_SETTING[setting].kind
    count = -1 if value is None else int(value)
    if value is not None and kind in _UNITS:
        count, rest = divmod(count, _UNITS[kind])
        if rest:
            raise ValueError(
                f"{setting} is no whole number of {kind}, and a template holds nothing finer"
            )
    return count


def _written(key: _Key, value: Value) -> str:
    count = in_units(key.setting, value)
    return f"4,{count}" if key.section == REGISTRY else str(count)
