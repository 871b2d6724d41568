"""Distinguished names compared as names, not as strings (RFC 4514, RFC 4518)."""

from __future__ import annotations

import re
from functools import lru_cache

_EDGE, _INNER = r"A-Za-z0-9\x80-\U0010ffff", r"_.$(){}@'&/!-"
_PART = f"[A-Za-z0-9]+=[{_EDGE}](?:[{_EDGE} {_INNER}]*[{_EDGE}{_INNER}])?"
_SIMPLE = re.compile(f"{_PART}(?:,{_PART})*")
_FIRST = re.compile(r'(?:[^\\,;"]|\\.)+(?=,.)', re.DOTALL)
_SPECIAL = set(' "#+,;<=>\\')
_HEX = "0123456789abcdefABCDEF"


class DnError(ValueError):
    """Text that is not a distinguished name; the message says why."""


def fold(text: str) -> str:
    """Text for comparison without regard to case, by the simple upper-case mapping of each
    character.
    """
    if text.isascii():
        return text.upper()
    return "".join(up if len(up := c.upper()) == 1 else c for c in text)


def name_key(name: str) -> str:
    """A key equal for two names of objects that a directory takes for one.

    Case, final sigma, and spaces around or doubled inside make no difference (domain rules §3).
    """
    return fold(re.sub(" +", " ", name).strip(" "))


def likely_key(dn: str) -> str:
    """A quick guess at `dn_key`: if it is the key of any name, it is this one's too. "" for names
    that need a look.
    """
    plain = dn.isascii() and "\\" not in dn and '"' not in dn and ";" not in dn
    return dn.upper() if plain else ""


def dn_key(dn: str) -> str:
    """A key equal for two spellings of one name: escapes, case, and spaces around and inside the
    parts do not matter.

    Raises `DnError` for text that is not a distinguished name.
    """
    # Almost every name of a real directory is without escapes: those need no parsing.
    if _SIMPLE.fullmatch(dn) and "  " not in dn:
        return fold(dn)
    first = _FIRST.match(dn)
    if first and not first[0].isspace() and not dn[first.end() + 1 :].isspace():
        try:
            return f"{_parsed_key(first[0])},{_container_key(dn[first.end() + 1 :])}"
        except DnError:
            pass  # told of the whole name below
    return _parsed_key(dn)


@lru_cache(maxsize=1 << 16)
def loose_key(dn: str) -> str:
    """`dn_key` where text that is no name may stand for itself."""
    try:
        return dn_key(dn)
    except DnError:
        return dn


@lru_cache(maxsize=4096)
def _container_key(dn: str) -> str:
    """`dn_key` of what many objects lie in."""
    return dn_key(dn)


def _parsed_key(dn: str) -> str:
    return ",".join(
        "+".join(sorted(f"{kind}={_escape(value)}" for kind, value in rdn)) for rdn in _parse(dn)
    )


def dns_name(dn: str) -> str:
    """The DNS name of a domain by its DN (RFC 2247); the DN itself where it has no such parts."""
    parts = re.findall(r"(?:^|,)\s*DC\s*=\s*([^,]+)", dn, re.IGNORECASE)
    return ".".join(parts).lower() or dn


def parent_of(dn: str) -> str:
    """What an object lies in, as its own name spells it; "" at the top."""
    at = dn.find(",")
    while at > 0 and (at - len(dn[:at].rstrip("\\"))) % 2:
        at = dn.find(",", at + 1)
    return dn[at + 1 :] if at >= 0 else ""


def rdn_of(dn: str) -> str:
    """A name's first part, by which the object goes in what it lies in."""
    above = parent_of(dn)
    return dn[: len(dn) - len(above) - 1] if above else dn


@lru_cache(maxsize=4096)
def first_value(dn: str) -> str:
    """The value of the first part of a name: the object's own common name."""
    try:
        return _parse(dn, fold_case=False)[0][0][1]
    except (DnError, IndexError):
        return dn


def _escape(value: str) -> str:
    return "".join("\\" + c if c in ',+\\"' else c for c in value)


def _parse(dn: str, *, fold_case: bool = True) -> list[list[tuple[str, str]]]:
    """The parts of a name from the object up, each a list of (attribute type, value)."""
    rdns: list[list[tuple[str, str]]] = []
    position, length = 0, len(dn)
    if not dn.strip():
        return rdns
    rdn: list[tuple[str, str]] = []
    while True:
        equals = dn.find("=", position)
        if equals < 0:
            raise DnError(f"'{dn}' is not a distinguished name: no '=' after position {position}")
        kind = dn[position:equals].strip()
        if not kind or not all(c.isalnum() or c in ".-" for c in kind):
            raise DnError(f"'{dn}' is not a distinguished name: '{kind}' is no attribute type")
        value, position = _value(dn, equals + 1)
        rdn.append((kind.upper(), name_key(value)) if fold_case else (kind, value))
        if position >= length:
            rdns.append(rdn)
            return rdns
        if dn[position] != "+":
            rdns.append(rdn)
            rdn = []
        position += 1


def _value(dn: str, start: int) -> tuple[str, int]:
    """The unescaped value from `start` and the position of the separator behind it."""
    length = len(dn)
    while start < length and dn[start] == " ":
        start += 1
    quoted = start < length and dn[start] == '"'
    out = bytearray()
    position = start + 1 if quoted else start
    kept = 0
    while position < length:
        c = dn[position]
        if c == "\\":
            if position + 1 >= length:
                raise DnError(f"'{dn}' is not a distinguished name: it ends in a backslash")
            following = dn[position + 1]
            if following in _HEX and position + 2 < length and dn[position + 2] in _HEX:
                out.append(int(dn[position + 1 : position + 3], 16))
                position += 3
            elif following in _SPECIAL or not following.isalnum():
                out += following.encode("utf-8", "surrogatepass")
                position += 2
            else:
                raise DnError(f"'{dn}' is not a distinguished name: '\\{following}' is no escape")
            kept = len(out)
            continue
        if quoted and c == '"':
            position += 1
            while position < length and dn[position] == " ":
                position += 1
            if position < length and dn[position] not in ",;+":
                raise DnError(f"'{dn}' is not a distinguished name: text after a closing quote")
            return _text(out, dn), position
        if not quoted and c in ",;+":
            break
        out += c.encode("utf-8", "surrogatepass")
        if c != " ":
            kept = len(out)
        position += 1
    else:
        if quoted:
            raise DnError(f"'{dn}' is not a distinguished name: a quote is not closed")
    return _text(out[:kept], dn), position


def _text(raw: bytes | bytearray, dn: str) -> str:
    if 0 in raw:
        raise DnError(f"'{dn}' is not a distinguished name: it holds a NUL character")
    try:
        return raw.decode("utf-8")
    except UnicodeDecodeError:
        raise DnError(f"'{dn}' is not a distinguished name: its escapes are not UTF-8") from None
