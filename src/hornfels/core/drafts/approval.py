"""The text that an approver approves: the sentences of a draft and the objects that the sentences
name, so that a draft that was led to another object shows.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass
from uuid import UUID

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.operations import ADAPTER, AddPolicy, Operation, Operations, Renumber
from hornfels.core.drafts.sentences import sentences
from hornfels.core.values.dn import loose_key

Objects = dict[str, tuple[str, ...]]
"""The objects of a draft as a person saw the draft: name, distinguished name and, for
an account or a group, RID, by a key that the draft itself holds (GUID or distinguished name).
"""


@dataclass(frozen=True, slots=True)
class DraftText:
    """A draft as a person reads the draft. ``digest`` is the SHA-256 of operations, sentences and
    objects, in hexadecimal digits.
    """

    digest: str
    objects: Objects


def draft_text(live: Estate, operations: Operations) -> DraftText:
    """Return the text of `operations`, which change `live`."""
    names = {policy.guid: policy.name for policy in live.policies}
    sources = {loose_key(link.gpo): link.name for link in live.domain.gpo_links}
    read = [(s.subject, s.text, s.before, s.after) for s in sentences(operations, names, sources)]
    objects = dict(_objects(live, operations))
    written = ADAPTER.dump_python(operations, mode="json")
    whole = json.dumps([written, read, sorted(objects.items())], sort_keys=True)
    return DraftText(hashlib.sha256(whole.encode()).hexdigest(), objects)


def difference(seen: Objects, now: Objects) -> str:
    """Return a sentence that names the first object of `seen` that is another one in `now`."""
    for key in (*seen, *(key for key in now if key not in seen)):
        before, after = seen.get(key, ()), now.get(key, ())
        if before == after:
            continue
        if not after:
            return f"“{before[0]}” is no longer part of the draft."
        if not before:
            return f"“{after[0]}” is new in the draft."
        if before[0] != after[0]:
            return f"“{before[0]}” is “{after[0]}” now."
        return f"“{before[0]}” is another object in the directory now ({after[1]})."
    return "The sentences of the draft read differently now."


def _objects(live: Estate, operations: Operations) -> Iterator[tuple[str, tuple[str, ...]]]:
    policies = {policy.guid: policy for policy in live.policies}
    sources = {loose_key(link.gpo): link.name for link in live.domain.gpo_links}
    targets: dict[str, str] = {}
    for op in operations:
        for guid in _policies_of(op):
            if guid in policies:
                yield str(guid), (policies[guid].name, policies[guid].dn)
            elif isinstance(op, AddPolicy):
                yield str(guid), (op.name, "new")
            else:
                yield str(guid), ("A policy that no longer exists", "")
        targets |= {loose_key(dn): dn for dn in _targets_of(op)}
        for gpo in _sources_of(op):
            yield loose_key(gpo), (sources.get(loose_key(gpo), gpo), gpo)
    yield from zip(targets, _principals(live, list(targets.values())), strict=True)


def _policies_of(op: Operation) -> Iterator[UUID]:
    if isinstance(op, Renumber):
        yield from (number.policy for number in op.numbers)
    policy = getattr(op, "policy", None)
    if isinstance(policy, UUID):
        yield policy


def _targets_of(op: Operation) -> Iterator[str]:
    target = getattr(op, "target", None)
    if target is not None:
        yield target.dn
    yield from (target.dn for target in getattr(op, "links", ()))
    yield from (value for key in ("member", "group") if (value := getattr(op, key, None)))


def _sources_of(op: Operation) -> Iterator[str]:
    if gpo := getattr(op, "gpo", None):
        yield gpo
    if op.kind == "order_sources":
        yield from op.after


def _principals(live: Estate, dns: list[str]) -> Iterator[tuple[str, ...]]:
    """Yield name, distinguished name and RID of each account or group, the distinguished name alone
    for another object.
    """
    in_groups, in_accounts = (side.dn.first_rows(dns) for side in (live.groups, live.accounts))
    for dn, group, account in zip(dns, in_groups.tolist(), in_accounts.tolist(), strict=True):
        if group < 0 and account < 0:
            yield dn, dn
        else:
            side, row = (live.groups, group) if group >= 0 else (live.accounts, account)
            yield side.name[row], side.dn[row], str(side.rid[row])
