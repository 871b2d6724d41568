"""Which policy of a domain each one in a policy file is."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from uuid import UUID

from hornfels.core.policy.model import Policy
from hornfels.core.values.dn import name_key
from hornfels.formats.policy_file.model import PolicyPart
from hornfels.formats.yaml_tree import Path


@dataclass(slots=True)
class Matched:
    """The domain's policy for each of the file, None for one that it has not; and what is wrong in
    naming them, by place.
    """

    policies: list[Policy | None] = field(default_factory=list)
    wrong: list[tuple[Path, str]] = field(default_factory=list)


def matched(parts: Sequence[PolicyPart], policies: Iterable[Policy]) -> Matched:
    """By GUID where the file gives one, else by name, else by the name it had."""
    by_guid = {policy.guid: policy for policy in policies}
    by_name: dict[str, list[Policy]] = {}
    for policy in by_guid.values():
        by_name.setdefault(name_key(policy.name), []).append(policy)
    found = Matched()
    taken: set[UUID] = set()
    for number, part in enumerate(parts):
        held = _match(part, by_guid, by_name)
        if isinstance(held, tuple):
            key, reason = held
            found.wrong.append((("policies", number, key), reason))
            held = None
        if held and held.guid in taken:
            found.wrong.append((("policies", number), f"{held.name} stands here twice; keep one"))
        if held:
            taken.add(held.guid)
        found.policies.append(held)
    return found


def _match(
    part: PolicyPart, by_guid: dict[UUID, Policy], by_name: dict[str, list[Policy]]
) -> Policy | tuple[str, str] | None:
    """The policy, or the key that names it wrongly and what is wrong."""
    if part.guid is not None:
        return by_guid.get(part.guid) or (
            "guid",
            "no policy has this GUID; leave it out to go by the name",
        )
    for key, name in (("name", part.name), ("was", part.was)):
        named = by_name.get(name_key(name), []) if name is not None else []
        if len(named) > 1:
            return key, f"{len(named)} policies are named so; say which by “guid”"
        if named:
            return named[0]
    if part.was is not None:
        return "was", "no policy was named so; leave it out to make a new policy"
    return None
