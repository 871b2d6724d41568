"""A rule set as a file: what a gate that judges by itself is given, and keeps for when nobody gives
it another (see docs/gate.md).

Four bytes ``HFGR``, a byte for the version, the SHA-256 of the rest, then a MessagePack map packed
by zlib. Columns of text are their values in UTF-8, each followed by NUL; numbers are 32-bit
little-endian.
"""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

import msgpack
import numpy as np

from hornfels.core.drafts.written_additions import addition_read, addition_written
from hornfels.core.gate.rule_set import GatePolicy, RuleSet
from hornfels.core.values.text import TextColumn

MARK, VERSION = b"HFGR", 1
_HEAD = len(MARK) + 1 + hashlib.sha256().digest_size


class RuleSetError(ValueError):
    """The file is no rule set, or a damaged one; the message says what to do."""


class Unpacked(NamedTuple):
    """A rule set with the terms of its lists."""

    rules: RuleSet
    terms: Mapping[str, Sequence[str]]


def pack(rules: RuleSet, terms: Mapping[str, Sequence[str]]) -> bytes:
    """The file of a rule set with the terms of its lists by their names."""
    held = {
        "domain": rules.domain,
        "policies": [
            [p.name, p.min_length, p.complexity, addition_written(p.addition)]
            for p in rules.policies
        ],
        "names": rules.names.data,
        "display_names": rules.display_names.data,
        "other_names": rules.other_names.data,
        "winners": rules.winners.astype("<i4").tobytes(),
        "newcomers": rules.newcomers,
        "lists": {name: "\n".join(terms[name]) for name in rules.lists},
    }
    body = zlib.compress(msgpack.packb(held), 1)
    return MARK + bytes([VERSION]) + hashlib.sha256(body).digest() + body


def unpack(file: bytes) -> Unpacked:
    """What `pack` has written. Raises `RuleSetError`."""
    if file[: len(MARK)] != MARK:
        raise RuleSetError("This is no rule set. Fetch it from Hornfels once more.")
    if file[len(MARK) : len(MARK) + 1] != bytes([VERSION]):
        raise RuleSetError(
            "This rule set is of another version. Run the same version of Hornfels on both sides."
        )
    digest, body = file[len(MARK) + 1 : _HEAD], file[_HEAD:]
    if hashlib.sha256(body).digest() != digest:
        raise RuleSetError("This rule set is damaged or cut off. Fetch it from Hornfels once more.")
    return _unpacked(msgpack.unpackb(zlib.decompress(body)))


def _unpacked(held: Mapping[str, Any]) -> Unpacked:
    terms = {name: tuple(text.split("\n")) if text else () for name, text in held["lists"].items()}
    rules = RuleSet(
        held["domain"],
        tuple(
            GatePolicy(name, least, complexity, addition_read(addition))
            for name, least, complexity, addition in held["policies"]
        ),
        TextColumn.joined(held["names"]),
        TextColumn.joined(held["display_names"]),
        TextColumn.joined(held["other_names"]),
        np.frombuffer(held["winners"], dtype="<i4").astype(np.int32),
        held["newcomers"],
        tuple(terms),
    )
    return Unpacked(rules, terms)
