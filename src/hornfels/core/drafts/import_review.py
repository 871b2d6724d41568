"""The losses of an import or a sync: policies, links, strict settings, accounts and groups. An
import or a sync with losses waits until a person has confirmed the losses.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from typing import Literal, NamedTuple
from uuid import UUID

import numpy as np

from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Accounts, Estate, Groups, Link
from hornfels.core.domain.privileged import privileged
from hornfels.core.drafts.edits import removal, target_of
from hornfels.core.drafts.operations import (
    Change,
    EditSettings,
    Operation,
    RemovePolicy,
    UnlinkPolicy,
)
from hornfels.core.drafts.sentences import sentences
from hornfels.core.policy.model import PolicyRef, Settings
from hornfels.core.policy.strength import compare
from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve
from hornfels.core.values.dn import loose_key

KEPT_SHARE = 0.9
"""The share of accounts, and of groups, that has to be there still."""


LossKind = Literal["policy", "accounts", "groups", "weaker accounts", "weaker administrators"]


class Loss(NamedTuple):
    """One thing that would be lost, in words. ``left`` counts what would be left of accounts or
    groups, 0 where nothing is counted.
    """

    kind: LossKind
    subject: str
    text: str
    left: int = 0

    def is_covered_by(self, confirmed: Iterable[Loss]) -> bool:
        """Return whether a person has confirmed as much already."""
        return any(
            self == other
            or (self.kind == other.kind and self.kind != "policy" and other.left <= self.left)
            for other in confirmed
        )


def successors(
    before: Mapping[UUID, str], after: Mapping[UUID, str], others: Iterable[UUID] = ()
) -> dict[UUID, UUID]:
    """Return the new GUID of each policy that is there under its old name with a GUID that no
    policy ever had: the directory gives a policy made in Hornfels a GUID of its own. Both sides are
    distinguished names by GUID; `others` are GUIDs of policies that were there once.
    """
    known = {*before, *others}
    fresh = {loose_key(dn): guid for guid, dn in after.items() if guid not in known}
    gone = {guid: loose_key(dn) for guid, dn in before.items() if guid not in after}
    return {guid: fresh[key] for guid, key in gone.items() if key in fresh}


def losses(before: Estate, after: Estate, others: Iterable[UUID] = ()) -> tuple[Loss, ...]:
    """Return what a domain that is as `before` would lose by becoming `after`. `others` are GUIDs
    of policies that were there once.
    """
    old, new = ({p.guid: p.dn for p in side.policies} for side in (before, after))
    now = successors(old, new, others)
    found = [*_policies(before, after, now), *_counts(before, after)]
    return tuple(dict.fromkeys(found))


def shows_no_policies(before: Estate, after: Estate) -> bool:
    """Return whether all fine-grained policies are gone at once, as after a loss of the right to
    see the policies.
    """
    return bool(before.policies) and not after.policies


def _policies(before: Estate, after: Estate, now: Mapping[UUID, UUID]) -> Iterator[Loss]:
    there = {policy.guid: number for number, policy in enumerate(after.policies)}
    operations: list[Operation] = []
    for number, policy in enumerate(before.policies):
        other = there.get(now.get(policy.guid, policy.guid))
        if other is None:
            operations.append(removal(before, policy.guid))
            continue
        operations += _weaker(policy.guid, policy.settings, after.policies[other].settings)
        operations += _unlinked(before, number, after, other)
    operations += _weaker("domain", before.domain.settings, after.domain.settings)
    names = {policy.guid: policy.name for policy in before.policies}
    for said in sentences(tuple(operations), names):
        removed = isinstance(operations[said.index], RemovePolicy | UnlinkPolicy)
        change = "" if removed else f": {said.before} → {said.after}"
        yield Loss("policy", said.subject, said.text + change)


def _weaker(policy: PolicyRef, before: Settings, after: Settings) -> Iterator[EditSettings]:
    old, new = before.values(), after.values()
    # A lock that is gone makes its window and duration weaker too, which stay as they were.
    worse = [key for key, how in compare(before, after).items() if how == "weaker"]
    changes = {
        key: Change(before=old[key], after=new[key]) for key in worse if old[key] != new[key]
    }
    if changes:
        yield EditSettings(policy=policy, changes=changes)


def _unlinked(before: Estate, number: int, after: Estate, other: int) -> Iterator[UnlinkPolicy]:
    held = {_identity(after, link) for link in after.links if link.policy == other}
    for link in before.links:
        identity = _identity(before, link)
        if link.policy != number or identity in held:
            continue
        if link.kind == "account" and link.target >= 0 and identity[1] not in after.accounts.rid:
            # The link applies to no account any more.
            continue
        yield UnlinkPolicy(policy=before.policies[number].guid, target=target_of(link))


def _identity(estate: Estate, link: Link) -> tuple[str, int | str]:
    """Return what stays the same of a link's target when the target is renamed or moved."""
    if link.target < 0:
        return "other", loose_key(link.dn)
    side = estate.accounts if link.kind == "account" else estate.groups
    return link.kind, int(side.rid[link.target])


def _counts(before: Estate, after: Estate) -> Iterator[Loss]:
    same_domain = before.domain.sid == after.domain.sid
    sides: tuple[tuple[LossKind, Accounts | Groups, Accounts | Groups], ...] = (
        ("accounts", before.accounts, after.accounts),
        ("groups", before.groups, after.groups),
    )
    for kind, old, new in sides:
        # By RID: as many others in their place are a loss too.
        stay = int(np.isin(old.rid, new.rid).sum()) if same_domain else 0
        if stay < KEPT_SHARE * len(old):
            words = f"{len(old):,} in Hornfels, {stay:,} of them in the new copy"
            yield Loss(kind, kind.capitalize(), words, stay)
    if same_domain:
        yield from _effective(before, after)


def _effective(before: Estate, after: Estate) -> Iterator[Loss]:
    """Accounts for which the effective policy would become weaker: whatever the reason, such as
    lost memberships, another scope of a group or a lower functional level.
    """
    _, was, now = np.intersect1d(before.accounts.rid, after.accounts.rid, return_indices=True)
    old, new = (
        resolve(side).winner_of_account[rows] - DOMAIN_POLICY
        for side, rows in ((before, was), (after, now))
    )
    # One number for each pair of policies: sorting pairs takes eight times as long.
    width = len(after.policies) + 1
    pair = old.astype(np.int64) * width + new
    weaker = np.zeros((len(before.policies) + 1) * width, dtype=np.bool_)
    for one in np.flatnonzero(np.bincount(pair)).tolist():
        a, b = divmod(one, width)
        weaker[one] = _is_weaker(before, a + DOMAIN_POLICY, after, b + DOMAIN_POLICY)
    hit = weaker[pair]
    administrators = privileged(before)[was] & privileged(after)[now]
    for kind, subject, rows, most in (
        ("weaker administrators", "Privileged accounts", hit & administrators, 0.0),
        ("weaker accounts", "Accounts", hit, (1 - KEPT_SHARE) * len(before.accounts)),
    ):
        count = int(np.count_nonzero(rows))
        if count > most:
            rest = len(before.accounts) - count
            words = f"{count:,} would have a weaker effective policy"
            yield Loss(kind, subject, words, rest)  # type: ignore[arg-type]


def _is_weaker(before: Estate, old: int, after: Estate, new: int) -> bool:
    return "weaker" in compare(settings_of(before, old), settings_of(after, new)).values()
