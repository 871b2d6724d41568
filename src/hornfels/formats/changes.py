"""Operations as LDIF change records (RFC 2849), for a directory that is changed by other means than
Hornfels.
"""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Literal, assert_never

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import Conflict, apply
from hornfels.core.drafts.operations import WHAT_IF, Operations, published, readdressed
from hornfels.core.drafts.sentences import sentences
from hornfels.core.policy.catalogue import LINKS_ATTRIBUTE
from hornfels.core.values.dn import loose_key, rdn_of
from hornfels.formats.descriptor import LIST_ALONE, RULES_ATTRIBUTE, RULES_CONTROL
from hornfels.formats.ldif import attribute_line, comment_lines
from hornfels.formats.writes import (
    Add,
    Delete,
    Edit,
    Guard,
    Modify,
    Rename,
    Rules,
    Write,
    planned,
)

Lines = list[tuple[str, str | bytes] | None]
"""Attribute lines of a record; None stands for the ``-`` that ends a part of a modification."""


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


_HERE = "No directory holds it: Hornfels judges by it."


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
        (
            s,
            " → ".join(value for value in (s.before, s.after) if value),
            reasons[s.index] or (_HERE if s.here else ""),
        )
        for s in sentences(operations, names, sources)
    ]
    return [
        LeftOut(f"{s.subject}: {s.text}{f', {values}' if values else ''}", why)
        for s, values, why in said
        if why
    ]


def write_changes(estate: Estate, operations: Operations, title: str) -> Iterator[bytes]:
    """The operations as change records for the directory `estate` was read from: all that becomes
    of one object together, in an order that is safe after every record (see
    `hornfels.formats.writes.planned`).

    Those that do not fit and what-ifs are left out, and said at the top. What no attribute of the
    directory holds stands as a comment: the guard against deletion, which is an access rule, and
    security templates, which are files.
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
    weighed = {c.index for c in applied.conflicts}
    fitting = tuple(op for n, op in enumerate(operations) if n not in weighed)
    plan = planned(estate, apply(estate, published(readdressed(fitting, applied.alias))).estate)
    for step in plan.steps:
        yield record_of(step.write)
    sources = {loose_key(link.gpo): link.name for link in estate.domain.gpo_links}
    for s in sentences(plan.templates, {}, sources):
        yield b"\n" + comment_lines(f"{s.subject}: {s.text}, {s.before} -> {s.after}")


def record_of(write: Write) -> bytes:
    """A write as a change record; the guard against deletion as a comment. Single values are
    replaced, whatever they were.
    """
    match write:
        case Modify():
            return _modified(write, lambda edit: edit.attribute == LINKS_ATTRIBUTE)
        case Guard():
            words = (
                "Guard this object against deletion"
                if write.on
                else "Lift the guard against deletion of this object"
            )
            return b"\n" + comment_lines(f"{words} in the directory's access rules: {write.dn}")
        case _:
            return exact_record_of(write)


def exact_record_of(write: Add | Delete | Modify | Rename | Rules) -> bytes:
    """What is sent, as a change record: values go only if they are still there."""
    match write:
        case Add():
            listed = [(name, one) for name, ones in write.values.items() for one in ones]
            return _record(write.dn, [("changetype", "add"), *listed])
        case Delete():
            return _record(write.dn, [("changetype", "delete")])
        case Rename():
            name = ("newrdn", rdn_of(write.fresh))
            return _record(write.dn, [("changetype", "modrdn"), name, ("deleteoldrdn", "1")])
        case Modify():
            return _modified(write, lambda _: True)
        case Rules():
            # The control says that the list of rules alone is written ([MS-ADTS] 3.1.1.3.4.1.11).
            kind = ("changetype", "modify")
            rules = [("replace", RULES_ATTRIBUTE), (RULES_ATTRIBUTE, write.descriptor), None]
            control = b"control: " + RULES_CONTROL.encode() + b" true:: "
            head = attribute_line("dn", write.dn) + control + b64encode(LIST_ALONE) + b"\n"
            return b"\n" + head + _lines([kind, *rules])
        case _:
            assert_never(write)


def _modified(write: Modify, checked: Callable[[Edit], bool]) -> bytes:
    """Edits that are not `checked` put their values in place of whatever is there."""
    lines: Lines = [("changetype", "modify")]
    for edit in write.edits:
        if checked(edit):
            parts = (("delete", edit.gone), ("add", edit.come))
            for how, values in parts:
                lines += _part(how, edit.attribute, values) if values else []
        else:
            lines += _part("replace", edit.attribute, edit.come)
    return _record(write.dn, lines)


def _part(how: str, attribute: str, values: Iterable[str]) -> Lines:
    return [(how, attribute), *((attribute, value) for value in values), None]


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
        lines: Lines = [("changetype", "modify"), *_part("replace", ZEROED[deed], ("0",))]
        yield _record(dn, lines)


def _record(dn: str, lines: Lines) -> bytes:
    return b"\n" + attribute_line("dn", dn) + _lines(lines)


def _lines(lines: Lines) -> bytes:
    return b"".join(b"-\n" if line is None else attribute_line(*line) for line in lines)
