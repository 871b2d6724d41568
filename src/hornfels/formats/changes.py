"""Operations as LDIF change records (RFC 2849), for a directory that is changed by other means than Hornfels."""

from __future__ import annotations

from collections.abc import Iterator
from uuid import UUID

from hornfels.core.draft import policy_dn
from hornfels.core.estate import Estate
from hornfels.core.operations import (
    AddPolicy,
    EditSettings,
    GuardPolicy,
    LinkPolicy,
    Operation,
    Operations,
    RemovePolicy,
    RenamePolicy,
    Renumber,
    SetPrecedence,
    UnlinkPolicy,
    Value,
    published,
)
from hornfels.core.settings import BY_KEY, LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE, Setting
from hornfels.core.time import span_to_ldap
from hornfels.formats.ldif import attribute_line, comment_lines

Lines = list[tuple[str, str] | None]
"""Attribute lines of a record; None stands for the ``-`` that ends a part of a modification."""


def write_changes(estate: Estate, operations: Operations, title: str) -> Iterator[bytes]:
    """The operations as change records for the directory `estate` was read from. What-ifs are left out.

    The guard against deletion is an access rule of the directory and stands as a comment. ``pwdProperties`` holds complexity and
    reversible encryption together and is written whole, from the estate's own values.
    """
    yield comment_lines(title) + b"version: 1\n"
    names = {p.guid: p.dn for p in estate.policies}
    domain = dict(vars(estate.domain.settings))
    for op in _joined(published(operations)):
        yield from _records(op, estate, names, domain)


def _joined(operations: Operations) -> Iterator[Operation]:
    """Settings of one policy edited one after another as one modification: a directory may check them together."""
    held: EditSettings | None = None
    for op in operations:
        if held and isinstance(op, EditSettings) and op.policy == held.policy and not op.changes.keys() & held.changes.keys():
            held = EditSettings(policy=held.policy, changes={**held.changes, **op.changes})
            continue
        if held:
            yield held
        held = op if isinstance(op, EditSettings) else None
        if held is None:
            yield op
    if held:
        yield held


def _records(op: Operation, estate: Estate, names: dict[UUID, str], domain: dict[str, Value]) -> Iterator[bytes]:
    match op:
        case AddPolicy():
            names[op.policy] = policy_dn(op.name, estate.domain.dn)
            lines: Lines = [("changetype", "add"), ("objectClass", "msDS-PasswordSettings")]
            lines.append((PRECEDENCE_ATTRIBUTE, str(op.precedence)))
            lines += [(BY_KEY[key].pso_attribute, _written(BY_KEY[key], value)) for key, value in op.settings.items()]
            lines += [(LINKS_ATTRIBUTE, target.dn) for target in op.links]
            yield _record(names[op.policy], lines)
            if op.guarded:
                yield _guard_comment(names[op.policy], guarded=True)
        case RemovePolicy():
            yield _record(names.pop(op.policy), [("changetype", "delete")])
        case RenamePolicy():
            fresh = policy_dn(op.after, estate.domain.dn)
            lines = [("changetype", "modrdn"), ("newrdn", fresh.removesuffix(_parent(estate))), ("deleteoldrdn", "1")]
            yield _record(names[op.policy], lines)
            names[op.policy] = fresh
        case SetPrecedence():
            yield _modify(names[op.policy], "replace", {PRECEDENCE_ATTRIBUTE: str(op.after)})
        case Renumber():
            for number in op.numbers:
                if number.before != number.after:
                    yield _modify(names[number.policy], "replace", {PRECEDENCE_ATTRIBUTE: str(number.after)})
        case EditSettings(policy=None):
            domain.update({key: change.after for key, change in op.changes.items()})
            yield _modify(estate.domain.dn, "replace", _domain_attributes(list(op.changes), domain))
        case EditSettings():
            assert op.policy is not None  # noqa: S101 - the case above takes the domain policy
            after = {BY_KEY[key].pso_attribute: _written(BY_KEY[key], change.after) for key, change in op.changes.items()}
            yield _modify(names[op.policy], "replace", after)
        case LinkPolicy():
            yield _modify(names[op.policy], "add", {LINKS_ATTRIBUTE: op.target.dn})
        case UnlinkPolicy():
            yield _modify(names[op.policy], "delete", {LINKS_ATTRIBUTE: op.target.dn})
        case GuardPolicy():
            yield _guard_comment(names[op.policy], guarded=op.after)
        case _:
            pass


def _parent(estate: Estate) -> str:
    return policy_dn("", estate.domain.dn).removeprefix("CN=")


def _domain_attributes(keys: list[str], values: dict[str, Value]) -> dict[str, str]:
    found: dict[str, str] = {}
    for key in keys:
        setting = BY_KEY[key]
        if setting.domain_mask:
            bits = sum(s.domain_mask for s in BY_KEY.values() if s.domain_mask and values[s.key])
            found[setting.domain_attribute] = str(bits)
        else:
            found[setting.domain_attribute] = _written(setting, values[key])
    return found


def _written(setting: Setting, value: Value) -> str:
    if setting.kind == "switch":
        return "TRUE" if value else "FALSE"
    return str(span_to_ldap(value) if setting.kind == "span" else value)


def _modify(dn: str, how: str, attributes: dict[str, str]) -> bytes:
    lines: Lines = [("changetype", "modify")]
    for name, value in attributes.items():
        lines += [(how, name), (name, value), None]
    return _record(dn, lines)


def _record(dn: str, lines: Lines) -> bytes:
    written = (b"-\n" if line is None else attribute_line(*line) for line in [("dn", dn), *lines])
    return b"\n" + b"".join(written)


def _guard_comment(dn: str, *, guarded: bool) -> bytes:
    words = "Guard this object against deletion" if guarded else "Lift the guard against deletion of this object"
    return b"\n" + comment_lines(f"{words} in the directory's access rules: {dn}")
