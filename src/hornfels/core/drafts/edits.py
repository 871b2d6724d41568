"""What to put into a draft: the operations that bring a policy to what somebody wants of it."""

from __future__ import annotations

import zlib
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any
from uuid import UUID

from hornfels.core.domain.account_state import addition_of
from hornfels.core.domain.estate import Estate, Link
from hornfels.core.drafts.operations import (
    Change,
    EditSettings,
    GuardPolicy,
    Number,
    Operation,
    RemovePolicy,
    RenamePolicy,
    Renumber,
    SetAddition,
    SetPrecedence,
    SetTerms,
    Target,
)
from hornfels.core.policy.addition import Addition
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.policy.model import Policy, PolicyRef, Settings
from hornfels.core.policy.term_lists import TermList
from hornfels.core.values.dn import loose_key
from hornfels.refusals import NotFoundError

GONE = "This policy no longer exists; somebody deleted it. Reload to see what is there now."


SETTINGS_CONTAINER = "CN=Password Settings Container,CN=System"
"""What policies lie in, below the domain."""


def policy_dn(name: str, domain_dn: str) -> str:
    """The name of a policy's object in the directory."""
    escaped = "".join("\\" + c if c in ',+"\\<>;=#' else c for c in name)
    if escaped.endswith(" "):
        escaped = escaped[:-1] + "\\ "
    if escaped.startswith(" "):
        escaped = "\\" + escaped
    return f"CN={escaped},{SETTINGS_CONTAINER},{domain_dn}"


def find_target(estate: Estate, dn: str) -> Target | None:
    """The account or group of this name, None if the estate has none."""
    for kind, column in (("group", estate.groups.dn), ("account", estate.accounts.dn)):
        rows = column.find(dn)
        if len(rows):
            return Target(dn=column[int(rows[0])], kind=kind)
    return None


def link_to(estate: Estate, target: Target) -> Link:
    """A target as a link of no policy yet."""
    for kind, column in (("group", estate.groups.dn), ("account", estate.accounts.dn)):
        rows = column.find(target.dn)
        if len(rows):
            return Link(-1, kind, int(rows[0]), column[int(rows[0])])  # type: ignore[arg-type]
    gone = target.kind in ("group", "account")
    return Link(-1, "outside" if gone else target.kind, -1, target.dn)


def links_apart(whole: RemovePolicy) -> tuple[RemovePolicy, set[str]]:
    """For comparison: links are the same by their names."""
    return whole.model_copy(update={"links": ()}), {loose_key(t.dn) for t in whole.links}


def whole(policy: Policy, links: Any) -> RemovePolicy:
    return RemovePolicy(
        policy=policy.guid,
        name=policy.name,
        precedence=policy.precedence,
        settings=policy.settings,
        guarded=policy.guarded,
        addition=policy.addition,
        links=tuple(sorted((target_of(link) for link in links), key=lambda t: t.dn)),
    )


def target_of(link: Link) -> Target:
    return Target(dn=link.dn, kind=link.kind)


def removal(estate: Estate, guid: UUID) -> RemovePolicy:
    """The operation that takes a policy away. Raises `NotFoundError` if there is none."""
    index = index_of(estate, guid)
    return whole(estate.policies[index], estate.links_by_policy[index])


def index_of(estate: Estate, guid: UUID) -> int:
    index = estate.policy_numbers.get(guid)
    if index is None:
        raise NotFoundError(GONE)
    return index


def fingerprint(estate: Estate, policy: PolicyRef) -> int:
    """A number that differs between two states of one policy: what a write names to say which state
    it was made for. Raises `NotFoundError` if there is no such policy.
    """
    if policy == "domain":
        return zlib.crc32(repr((estate.domain.settings, estate.domain.addition)).encode())
    return zlib.crc32(removal(estate, policy).model_dump_json().encode())


def edits(
    estate: Estate,
    guid: PolicyRef,
    *,
    name: str | None = None,
    precedence: int | None = None,
    guarded: bool | None = None,
    settings: Settings | None = None,
) -> Iterator[Operation]:
    """The operations that bring a policy to these values; none for what
    it has already.
    """
    policy = None if guid == "domain" else estate.policies[index_of(estate, guid)]
    now = policy.settings if policy else estate.domain.settings
    if policy and name is not None and name != policy.name:
        yield RenamePolicy(policy=policy.guid, before=policy.name, after=name)
    if policy and precedence is not None and precedence != policy.precedence:
        yield SetPrecedence(policy=policy.guid, before=policy.precedence, after=precedence)
    if policy and guarded is not None and guarded != policy.guarded:
        yield GuardPolicy(policy=policy.guid, before=policy.guarded, after=guarded)
    # One operation a setting, so that each can be taken out by itself.
    for key in BY_KEY:
        before, after = getattr(now, key), getattr(settings or now, key)
        if after != before:
            yield EditSettings(policy=guid, changes={key: Change(before=before, after=after)})


def addition_edits(
    estate: Estate, policy: PolicyRef, wanted: Addition | None
) -> Iterator[SetAddition]:
    """The operation that gives a policy this addition, or none; nothing where it is so already."""
    held = addition_of(estate, -1 if policy == "domain" else index_of(estate, policy))
    if held != wanted:
        yield SetAddition(policy=policy, before=held, after=wanted)


def term_edits(estate: Estate, wanted: Mapping[str, TermList | None]) -> Iterator[SetTerms]:
    """The operations that make lists of blocked terms hold this; None takes a list away."""
    for name, terms in wanted.items():
        held = estate.domain.term_lists.get(name)
        if held != terms:
            yield SetTerms(list=name, before=held, after=terms)


def has_additions(estate: Estate) -> bool:
    """Whether anything is asked beyond the directory's own rules, or kept for that."""
    domain = estate.domain
    return bool(domain.addition or domain.term_lists or any(p.addition for p in estate.policies))


def without_additions(estate: Estate) -> Estate:
    """The estate as a directory holds it: nothing is asked beyond its own rules."""
    domain = replace(estate.domain, addition=None, term_lists={})
    policies = (replace(p, addition=None) if p.addition else p for p in estate.policies)
    return replace(estate, domain=domain, policies=tuple(policies))


def renumber(estate: Estate, step: int = 10) -> Renumber:
    """Numbers with gaps for every policy, in the order they are evaluated now: nobody's policy
    changes.
    """
    ordered = sorted(estate.policies, key=lambda p: p.rank)
    return Renumber(
        numbers=tuple(
            Number(policy=policy.guid, before=policy.precedence, after=place * step)
            for place, policy in enumerate(ordered, 1)
        )
    )
