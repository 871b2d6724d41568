"""How a policy stands: whom it reaches, whom it governs, what takes the rest, and why it may reach
nobody (domain rules §3, §8).
"""

from __future__ import annotations

from dataclasses import dataclass

from hornfels.core.domain.estate import Estate, Link
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution, Stack, policies_in


@dataclass(frozen=True, slots=True)
class Tie:
    """Another policy with the same number. ``contested`` accounts are reached by both on equal
    terms; the GUID decides.
    """

    other: int
    contested: int
    wins: bool


@dataclass(frozen=True, slots=True)
class Reach:
    """Accounts a policy reaches and governs, what takes the rest (policy → accounts), ties, and why
    it is idle if it is.
    """

    reached: int
    governed: int
    taken_by: dict[int, int]
    ties: tuple[Tie, ...]
    idle: str


def reach_of(estate: Estate, resolution: Resolution, policy: int) -> Reach:
    """How one policy stands in the whole estate."""
    reached, governed = resolution.reached(policy), resolution.governed(policy)
    taken = resolution.taken_by(policy)
    return Reach(
        reached,
        governed,
        taken,
        tuple(_ties(estate, resolution, policy)),
        _idle(estate, policy, reached, governed, taken),
    )


def _ties(estate: Estate, resolution: Resolution, policy: int) -> list[Tie]:
    number = estate.policies[policy].precedence
    place = resolution.order.index(policy)
    found = []
    for other_place, other in enumerate(resolution.order):
        if other == policy or estate.policies[other].precedence != number:
            continue
        contested = int(
            resolution.counts[resolution.contests(policy) & resolution.contests(other)].sum()
        )
        found.append(Tie(other, contested, place < other_place))
    return found


def _idle(estate: Estate, policy: int, reached: int, governed: int, taken: dict[int, int]) -> str:
    if governed:
        return ""
    if reached:
        takers = [_name(estate, p) for p in sorted(taken, key=lambda p: -taken[p])]
        return (
            f"Governs nobody: {_listed(takers)} {'takes' if len(takers) == 1 else 'take'} all "
            f"{reached:,} accounts it reaches."
        )
    links = [link for link in estate.links if link.policy == policy]
    if not links:
        return "Reaches nobody: it is linked to nothing."
    reasons = [_why_nobody(estate, link) for link in links]
    if len(reasons) == 1:
        return f"Reaches nobody: linked only to {reasons[0]}."
    return (
        "Reaches nobody: linked to "
        f"{_listed(reasons[:3])}{f' and {len(reasons) - 3} more' if len(reasons) > 3 else ''}."
    )


def link_name(estate: Estate, link: Link) -> str:
    """The name people know a link's target by."""
    if link.kind == "group":
        return estate.groups.name[link.target]
    if link.kind == "account":
        return estate.accounts.name[link.target]
    return link.dn.partition(",")[0].partition("=")[2] or link.dn


_KINDS = {
    "ou": "an organisational unit",
    "contact": "a contact",
    "domain": "the domain object",
    "other": "an object that is no account or group",
    "outside": "an object that was not read",
}


def link_trouble(estate: Estate, link: Link) -> str:
    """Why a link reaches nobody by its kind, "" if it counts."""
    if link.kind == "account":
        return "the account is exempt" if estate.exempt[link.target] else ""
    if link.kind != "group":
        return _KINDS[link.kind]
    if estate.groups.stops(link.target):
        return estate.groups.stops(link.target)
    if not estate.groups.counts_when_linked(estate.linked_groups)[link.target]:
        scope = estate.groups.scope(link.target)
        return f"a {scope} group"
    return ""


def _why_nobody(estate: Estate, link: Link) -> str:
    return f"{link_name(estate, link)}, {link_trouble(estate, link) or 'an empty group'}"


def _name(estate: Estate, policy: int) -> str:
    return estate.policies[policy].name if policy != DOMAIN_POLICY else "the domain policy"


def _listed(words: list[str]) -> str:
    return (
        words[0]
        if len(words) == 1
        else f"{'; '.join(words[:-1])} and {words[-1]}"
        if any("," in w for w in words)
        else (f"{', '.join(words[:-1])} and {words[-1]}")
    )


def cell_reason(estate: Estate, stack: Stack, winner: int, policy: int, count: int) -> str:
    """What one policy does to one population, in a sentence."""
    who = f"{count:,} account{'s' * (count != 1)}"
    mine = estate.policies[policy]
    if stack.exempt:
        return f"{who}: {mine.name} reaches them, but they are exempt from fine-grained policies."
    if policy == winner:
        how = (
            "linked to each account itself"
            if stack.direct >> policy & 1
            else "through their groups"
        )
        others = [estate.policies[p].name for p in policies_in(stack.reaching) if p != policy]
        beaten = f" before {_listed(others)}" if others else ""
        return f"{who}: {mine.name} holds here at {mine.precedence}, {how}{beaten}."
    best = estate.policies[winner]
    if stack.direct and not stack.direct >> policy & 1:
        return (
            f"{who}: {best.name} is linked to the accounts themselves, so {mine.name} at "
            f"{mine.precedence} does not count."
        )
    if best.precedence == mine.precedence:
        return (
            f"{who}: reached by both at {mine.precedence}; {best.name} wins by the smaller "
            "object GUID."
        )
    return (
        f"{who}: reached by both; {best.name} wins at {best.precedence} before {mine.name} at "
        f"{mine.precedence}."
    )
