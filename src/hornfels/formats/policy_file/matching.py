"""Which policy of a domain each one in a policy file is."""

from __future__ import annotations

from collections.abc import Container, Iterable, Sequence
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
    """Return which policy each part of a file is: by GUID where the part gives one, else by the
    name that the policy had (``was``), else by the name, unless another part says that this policy
    was named so. Names that are exchanged, or passed on, are renames by that.
    """
    by_guid = {policy.guid: policy for policy in policies}
    by_name: dict[str, list[Policy]] = {}
    for policy in by_guid.values():
        by_name.setdefault(name_key(policy.name), []).append(policy)
    renamed = {name_key(part.was) for part in parts if part.was is not None and part.guid is None}
    found = Matched()
    taken: set[UUID] = set()
    for number, part in enumerate(parts):
        held = _match(part, by_guid, by_name, renamed)
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
    part: PolicyPart,
    by_guid: dict[UUID, Policy],
    by_name: dict[str, list[Policy]],
    renamed: Container[str],
) -> Policy | tuple[str, str] | None:
    """Return the policy, or the key that names it wrongly and what is wrong."""
    if part.guid is not None:
        return by_guid.get(part.guid) or (
            "guid",
            "no policy has this GUID; leave it out to go by the name",
        )
    for key, name in (("was", part.was), ("name", part.name)):
        if name is None or (key == "name" and name_key(name) in renamed):
            continue
        named = by_name.get(name_key(name), [])
        if len(named) > 1:
            return key, f"{len(named)} policies are named so; say which by “guid”"
        if named:
            return named[0]
    if part.was is not None:
        return "was", "no policy was named so; leave it out to make a new policy"
    return None
