"""Operations as LDIF change records (RFC 2849), for a directory that is changed by other means than
Hornfels.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Literal, assert_never
from uuid import UUID

from hornfels.core.domain.estate import LINK_DISABLED, LINK_ENFORCED, Domain, Estate
from hornfels.core.domain.sources import root_links
from hornfels.core.drafts.applying import Conflict, apply
from hornfels.core.drafts.edits import policy_dn
from hornfels.core.drafts.operations import (
    WHAT_IF,
    AddPolicy,
    EditSettings,
    EditSource,
    GuardPolicy,
    JoinGroup,
    LeaveGroup,
    LinkPolicy,
    Operation,
    Operations,
    OrderSources,
    RemovePolicy,
    RenamePolicy,
    Renumber,
    SetFlag,
    SetPrecedence,
    SwitchSource,
    UnlinkPolicy,
    published,
    readdressed,
)
from hornfels.core.drafts.sentences import sentences
from hornfels.core.policy.catalogue import BY_KEY, LINKS_ATTRIBUTE, PRECEDENCE_ATTRIBUTE, SettingKey
from hornfels.core.policy.model import Settings
from hornfels.core.values.dn import loose_key
from hornfels.formats.attributes import property_bits, setting_text
from hornfels.formats.ldif import attribute_line, comment_lines

Lines = list[tuple[str, str] | None]
"""Attribute lines of a record; None stands for the ``-`` that ends a part of a modification."""


@dataclass
class _Ledger:
    """How far the records have come: names of policies, the domain policy's values, the domain with
    its links.
    """

    names: dict[UUID, str]
    settings: Settings
    domain: Domain


@dataclass(frozen=True, slots=True)
class LeftOut:
    """Something an operation does that change records do not do: what, and why not."""

    what: str
    why: str


_BY_HAND = {
    "guard_policy": (
        "The guard against deletion is an access rule; it stands as a comment, to be set by hand."
    ),
    "edit_source": (
        "A security template is a file; it stands as a comment, to be changed in the group "
        "policy object."
    ),
    **dict.fromkeys(
        (kind.model_fields["kind"].default for kind in WHAT_IF),
        "It is only weighed, never written.",
    ),
}


def left_out(
    estate: Estate, operations: Operations, conflicts: tuple[Conflict, ...] = ()
) -> list[LeftOut]:
    """What the change records of these operations do not do. `conflicts` are those of the
    operations that do not fit.
    """
    unfit = {
        c.index: f"It is so already: {c.reason}" if c.already else f"It does not fit: {c.reason}"
        for c in conflicts
    }
    names = {p.guid: p.name for p in estate.policies}
    sources = {loose_key(link.gpo): link.name for link in estate.domain.gpo_links}
    reasons = {n: unfit.get(n) or _BY_HAND.get(op.kind, "") for n, op in enumerate(operations)}
    said = [
        (s, " → ".join(value for value in (s.before, s.after) if value))
        for s in sentences(operations, names, sources)
    ]
    return [
        LeftOut(f"{s.subject}: {s.text}{f', {values}' if values else ''}", reasons[s.index])
        for s, values in said
        if reasons[s.index]
    ]


def write_changes(estate: Estate, operations: Operations, title: str) -> Iterator[bytes]:
    """The operations as change records for the directory `estate` was read from.

    Those that do not fit and what-ifs are left out, and said at the top. What no attribute of the
    directory holds stands as a comment in its place too: the guard against deletion, which is an
    access rule, and security templates, which are files. ``pwdProperties`` holds complexity,
    reversible encryption and what Hornfels does not know together, and is written whole, from the
    estate's own values.
    """
    yield comment_lines(title)
    applied = apply(estate, operations)
    without = left_out(estate, operations, applied.conflicts)
    if without:
        yield b"#\n" + comment_lines(f"NOT IN THIS FILE ({len(without)}):")
        yield from (
            comment_lines(f"- {left.what}. {left.why}".replace("→", "->")) for left in without
        )
    yield b"version: 1\n"
    ledger = _Ledger({p.guid: p.dn for p in estate.policies}, estate.domain.settings, estate.domain)
    unfit = {c.index for c in applied.conflicts}
    fitting = tuple(op for n, op in enumerate(operations) if n not in unfit)
    for op in _joined(published(readdressed(fitting, applied.alias))):
        yield from _records(op, estate, ledger)


AccountDeed = Literal["unlocking", "must change"]
"""What is done to accounts one by one."""
ZEROED: dict[AccountDeed, str] = {"unlocking": "lockoutTime", "must change": "pwdLastSet"}
"""The attribute that is set to 0 by it: a directory then forgets the bad tries too ([MS-SAMR]
3.1.1.8.1), or takes the password to be changed at the next sign-in ([MS-SAMR] 3.1.1.8.10).
"""


def write_account_changes(dns: Iterable[str], deed: AccountDeed, title: str) -> Iterator[bytes]:
    """Change records that unlock accounts, or have their passwords changed."""
    yield comment_lines(title)
    yield b"version: 1\n"
    for dn in dns:
        yield _modify(dn, "replace", {ZEROED[deed]: "0"})


def _joined(operations: Operations) -> Iterator[Operation]:
    """Settings of one policy edited one after another as one modification: a directory may check
    them together.
    """
    held: EditSettings | None = None
    for op in operations:
        if (
            held
            and isinstance(op, EditSettings)
            and op.policy == held.policy
            and not op.changes.keys() & held.changes.keys()
        ):
            held = EditSettings(policy=held.policy, changes={**held.changes, **op.changes})
            continue
        if held:
            yield held
        held = op if isinstance(op, EditSettings) else None
        if held is None:
            yield op
    if held:
        yield held


def _records(op: Operation, estate: Estate, ledger: _Ledger) -> Iterator[bytes]:
    names = ledger.names
    match op:
        case AddPolicy():
            names[op.policy] = policy_dn(op.name, estate.domain.dn)
            lines: Lines = [("changetype", "add"), ("objectClass", "msDS-PasswordSettings")]
            lines.append((PRECEDENCE_ATTRIBUTE, str(op.precedence)))
            lines += [
                (BY_KEY[key].pso_attribute, setting_text(BY_KEY[key], value))
                for key, value in op.settings.values().items()
            ]
            lines += [(LINKS_ATTRIBUTE, target.dn) for target in op.links]
            yield _record(names[op.policy], lines)
            if op.guarded:
                yield _guard_comment(names[op.policy], guarded=True)
        case RemovePolicy():
            if op.guarded:
                yield _guard_comment(names[op.policy], guarded=False)
            yield _record(names.pop(op.policy), [("changetype", "delete")])
        case RenamePolicy():
            fresh = policy_dn(op.after, estate.domain.dn)
            lines = [
                ("changetype", "modrdn"),
                ("newrdn", fresh.removesuffix(_parent(estate))),
                ("deleteoldrdn", "1"),
            ]
            yield _record(names[op.policy], lines)
            names[op.policy] = fresh
        case SetPrecedence():
            yield _modify(names[op.policy], "replace", {PRECEDENCE_ATTRIBUTE: str(op.after)})
        case Renumber():
            for number in op.numbers:
                if number.before != number.after:
                    yield _modify(
                        names[number.policy], "replace", {PRECEDENCE_ATTRIBUTE: str(number.after)}
                    )
        case EditSettings(policy="domain"):
            after = {key: change.after for key, change in op.changes.items()}
            ledger.settings = ledger.settings.changed(after)
            yield _modify(
                estate.domain.dn,
                "replace",
                _domain_attributes(op.changes, ledger.settings, estate.domain.other_properties),
            )
        case EditSettings():
            assert op.policy != "domain"  # noqa: S101 - the case above takes it
            written = {
                BY_KEY[key].pso_attribute: setting_text(BY_KEY[key], change.after)
                for key, change in op.changes.items()
            }
            yield _modify(names[op.policy], "replace", written)
        case LinkPolicy():
            yield _modify(names[op.policy], "add", {LINKS_ATTRIBUTE: op.target.dn})
        case UnlinkPolicy():
            yield _modify(names[op.policy], "delete", {LINKS_ATTRIBUTE: op.target.dn})
        case EditSource():
            for s in sentences(
                (op,), {}, {loose_key(link.gpo): link.name for link in estate.domain.gpo_links}
            ):
                yield b"\n" + comment_lines(f"{s.subject}: {s.text}, {s.before} -> {s.after}")
        case OrderSources() | SwitchSource():
            ledger.domain = apply(replace(estate, domain=ledger.domain), (op,)).estate.domain
            yield _modify(estate.domain.dn, "replace", {"gPLink": _gp_link(ledger.domain)})
        case GuardPolicy():
            yield _guard_comment(names[op.policy], guarded=op.after)
        case JoinGroup() | LeaveGroup() | SetFlag():
            pass  # only weighed: see `left_out`
        case _:
            assert_never(op)


def _gp_link(domain: Domain) -> str:
    """The attribute lists links in the order they are applied: link order 1 comes last ([MS-GPOL]
    2.2.2).
    """
    links = sorted(root_links(domain), key=lambda link: -link.order)
    return "".join(
        f"[LDAP://{link.gpo};{link.disabled * LINK_DISABLED + link.enforced * LINK_ENFORCED}]"
        for link in links
    )


def _parent(estate: Estate) -> str:
    return policy_dn("", estate.domain.dn).removeprefix("CN=")


def _domain_attributes(
    keys: Iterable[SettingKey], settings: Settings, others: int
) -> dict[str, str]:
    values = settings.values()
    found: dict[str, str] = {}
    for key in keys:
        setting = BY_KEY[key]
        if setting.domain_mask:
            found[setting.domain_attribute] = str(property_bits(values, others))
        else:
            found[setting.domain_attribute] = setting_text(setting, values[key])
    return found


def _modify(dn: str, how: str, attributes: dict[str, str]) -> bytes:
    lines: Lines = [("changetype", "modify")]
    for name, value in attributes.items():
        lines += [(how, name), (name, value), None]
    return _record(dn, lines)


def _record(dn: str, lines: Lines) -> bytes:
    written = (b"-\n" if line is None else attribute_line(*line) for line in [("dn", dn), *lines])
    return b"\n" + b"".join(written)


def _guard_comment(dn: str, *, guarded: bool) -> bytes:
    words = (
        "Guard this object against deletion"
        if guarded
        else "Lift the guard against deletion of this object"
    )
    return b"\n" + comment_lines(f"{words} in the directory's access rules: {dn}")
