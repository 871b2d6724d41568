"""A directory reduced to what change records need: entries by name, and records that are refused
where they do not fit.

Its reader of LDIF is its own, so that a mistake of the product's is not made here a second time.
"""

from __future__ import annotations

import base64
import io
from collections.abc import Iterator

from hornfels.core.domain.estate import Estate
from hornfels.core.values.dn import dn_key, first_value
from hornfels.formats.dump import Dump, load_dump
from hornfels.formats.ldif import write

Values = list[tuple[str, str]]


class RefusedError(Exception):
    """A change record that a directory would refuse."""


class Directory:
    """The objects of a dump, changed by change records."""

    def __init__(self, content: list[tuple[str, list[tuple[str, str | bytes]]]]) -> None:
        self.objects = {dn_key(dn): (dn, list(values)) for dn, values in content}
        self.made = 0

    def change(self, ldif: bytes) -> None:
        for lines in _records(ldif):
            (_, dn), (_, kind), *rest = lines
            key = dn_key(dn)
            if (key in self.objects) == (kind == "add"):
                raise RefusedError(f"{kind} {dn}")
            match kind:
                case "add":
                    self.made += 1
                    guid = b"made" + self.made.to_bytes(12, "big")
                    self.objects[key] = (dn, [("cn", first_value(dn)), ("objectGUID", guid), *rest])
                case "delete":
                    del self.objects[key]
                case "modrdn":
                    self._rename(key, dict(rest)["newrdn"])
                case "modify":
                    self._modify(key, rest)

    def _rename(self, key: str, rdn: str) -> None:
        dn, values = self.objects.pop(key)
        fresh = f"{rdn},{dn.partition(',CN=Password')[1][1:]}{dn.partition(',CN=Password')[2]}"
        if dn_key(fresh) in self.objects:
            raise RefusedError(f"{dn} -> {rdn}")
        kept = [(name, value) for name, value in values if name != "cn"]
        self.objects[dn_key(fresh)] = (fresh, [("cn", first_value(fresh)), *kept])

    def _modify(self, key: str, lines: Values) -> None:
        dn, values = self.objects[key]
        parts = " ".join(f"{how} {name}" for how, name in lines)
        at = 0
        while at < len(lines):
            how, name = lines[at]
            end = lines.index(("-", ""), at)
            given = [value for _, value in lines[at + 1 : end]]
            held = {_same(v) for n, v in values if n == name}
            if how == "replace":
                values = [(n, v) for n, v in values if n != name] + [(name, v) for v in given]
            elif how == "add":
                if held & {_same(v) for v in given}:
                    raise RefusedError(parts)
                values = values + [(name, v) for v in given]
            else:
                if not {_same(v) for v in given} <= held:
                    raise RefusedError(parts)
                values = [
                    (n, v)
                    for n, v in values
                    if n != name or _same(v) not in {_same(g) for g in given}
                ]
            at = end + 1
        self.objects[key] = (dn, values)

    def read(self) -> Dump:
        return load_dump(io.BytesIO(b"".join(write(self.objects.values()))))


def _same(value: str | bytes) -> str | bytes:
    return dn_key(value) if isinstance(value, str) and "=" in value else value


def _records(ldif: bytes) -> Iterator[Values]:
    for block in ldif.decode().replace("\n ", "").split("\n\n"):
        lines = [
            line for line in block.split("\n") if line and not line.startswith(("#", "version:"))
        ]
        pairs = [(name, rest) for name, _, rest in (line.partition(":") for line in lines)]
        values = [
            (n, base64.b64decode(r[1:]).decode() if r.startswith(":") else r.removeprefix(" "))
            for n, r in pairs
        ]
        if values:
            yield values


def holds(estate: Estate) -> object:
    """What a directory holds of an estate's policies, comparable: by name, since GUIDs are
    its own.
    """
    links: dict[int, set[str]] = {}
    for link in estate.links:
        links.setdefault(link.policy, set()).add(dn_key(link.dn))
    policies = {
        p.name: (dn_key(p.dn), p.precedence, p.settings, links.get(n))
        for n, p in enumerate(estate.policies)
    }
    assert len(policies) == len(estate.policies)
    return policies, estate.domain.settings, estate.domain.other_properties
