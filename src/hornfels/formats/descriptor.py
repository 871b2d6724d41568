"""Access rules of an object as a directory holds them ([MS-DTYP] 2.4.6): whether they keep it from
being deleted, and the same with and without that.

Whoever may delete what lies in a container needs no right to the object itself ([MS-ADTS]
3.1.1.5.5): a guard is a rule at the object and another at its container.
"""

from __future__ import annotations

import struct
from typing import Literal, NamedTuple

_HEAD = struct.Struct("<BBHIIII")
_LIST = struct.Struct("<BBHHH")
_RULE = struct.Struct("<BBHI")

_SELF_RELATIVE, _LIST_PRESENT = 0x8000, 0x0004
_DENY = 1
_INHERIT_ONLY, _INHERITED = 0x08, 0x10
_EVERYONE = bytes((1, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0))
_DELETE, _DELETE_TREE, _DELETE_CHILD = 0x10000, 0x40, 0x2

RULES_ATTRIBUTE = "nTSecurityDescriptor"
RULES_CONTROL = "1.2.840.113556.1.4.801"
LIST_ALONE = b"0\x03\x02\x01\x04"
"""The control's value for the list of rules without owner, group and what is recorded."""

Where = Literal["object", "container"]
_NEEDED: dict[Where, int] = {"object": _DELETE, "container": _DELETE_CHILD}
_GIVEN: dict[Where, int] = {"object": _DELETE | _DELETE_TREE, "container": _DELETE_CHILD}


class DescriptorError(ValueError):
    """Bytes that are no access rules."""


class _Rules(NamedTuple):
    revision: int
    control: int
    list_revision: int
    entries: tuple[bytes, ...]


def denies_deletion(descriptor: bytes, where: Where) -> bool:
    """Whether a rule keeps everybody from deleting the object, or what lies in the container.
    Raises `DescriptorError`.
    """
    return any(_denies(entry, _NEEDED[where]) for entry in _read(descriptor).entries)


def with_guard(descriptor: bytes, where: Where) -> bytes:
    """The access rules with the guard, first of all as refusals stand; nothing but the list."""
    rules = _read(descriptor)
    if any(_denies(entry, _NEEDED[where]) for entry in rules.entries):
        return descriptor
    body = struct.pack("<I", _GIVEN[where]) + _EVERYONE
    guard = struct.pack("<BBH", _DENY, 0, 4 + len(body)) + body
    return _written(rules, (guard, *rules.entries))


def without_guard(descriptor: bytes) -> bytes:
    """An object's access rules without its guard; a refusal of more than deleting keeps the
    rest.
    """
    rules, kept = _read(descriptor), []
    for entry in rules.entries:
        if not _denies(entry, _DELETE) or entry[1] & _INHERITED:
            kept.append(entry)
            continue
        (mask,) = struct.unpack_from("<I", entry, 4)
        rest = mask & ~_GIVEN["object"]
        if rest:
            kept.append(entry[:4] + struct.pack("<I", rest) + entry[8:])
    return _written(rules, tuple(kept))


def _denies(entry: bytes, right: int) -> bool:
    if len(entry) < _RULE.size:
        return False
    kind, flags, _, mask = _RULE.unpack_from(entry)
    return (
        kind == _DENY
        and not flags & _INHERIT_ONLY
        and bool(mask & right)
        and entry[8:].startswith(_EVERYONE)
    )


def _read(descriptor: bytes) -> _Rules:
    try:
        revision, _, control, _, _, _, at = _HEAD.unpack_from(descriptor)
        if not control & _LIST_PRESENT or not at:
            raise DescriptorError("The access rules hold no list.")
        list_revision, _, size, count, _ = _LIST.unpack_from(descriptor, at)
        entries, place, end = [], at + _LIST.size, at + size
        for _ in range(count):
            _, _, length = struct.unpack_from("<BBH", descriptor, place)
            if length < 4 or place + length > min(end, len(descriptor)):
                raise DescriptorError("The access rules break off.")
            entries.append(descriptor[place : place + length])
            place += length
    except struct.error:
        raise DescriptorError("The access rules break off.") from None
    return _Rules(revision, control, list_revision, tuple(entries))


def _written(rules: _Rules, entries: tuple[bytes, ...]) -> bytes:
    """The list alone: owner, group and what is recorded stay as the directory has them."""
    size = _LIST.size + sum(map(len, entries))
    kept = (rules.control & 0xFF00 & ~0x00F0) | _SELF_RELATIVE | _LIST_PRESENT
    head = _HEAD.pack(rules.revision, 0, kept, 0, 0, 0, _HEAD.size)
    return head + _LIST.pack(rules.list_revision, 0, size, len(entries), 0) + b"".join(entries)
