"""What is worth raising in an estate (domain rules §8): each finding with whom it concerns, why it matters and what mends it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise
from typing import Literal

import numpy as np

from hornfels.core.dn import dn_key
from hornfels.core.estate import TRUST_BITS, Bools, Control, Estate
from hornfels.core.policy import expires, until_unlocked
from hornfels.core.resolution import DOMAIN_POLICY, Resolution, evaluation_order, policies_in
from hornfels.core.sentences import said_text
from hornfels.core.settings import BY_KEY
from hornfels.core.sources import EXTENDED_BY_KEY, Origin, origins
from hornfels.core.standing import link_name, standing
from hornfels.core.strength import compare
from hornfels.core.time import DAY
from hornfels.core.whatif import precedence_for_place

Severity = Literal["high", "medium", "low"]
SEVERITIES: tuple[Severity, ...] = ("high", "medium", "low")

LONG_ENOUGH_FOR_EVER = 15
"""Characters below which a password that never expires is worth a word; our own choice."""

_PRIVILEGED_RIDS = {512, 518, 519, 544}
_EVERYONE_RID = 513
_SERVICE = re.compile(r"^(svc|sa|srv|bot)[-_.]", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Mend:
    """An edit of one policy that mends a finding: new values in ticks, a number, or the guard."""

    policy: int
    label: str
    settings: dict[str, int | bool | None] = field(default_factory=dict)
    precedence: int | None = None
    guard: bool = False


@dataclass(frozen=True, slots=True)
class Finding:
    """One finding. ``key`` stays the same while its cause does; ``policy`` is None where none is to blame, −1 the domain policy.

    ``account`` names one of the accounts concerned where it is about accounts.
    """

    key: str
    kind: str
    severity: Severity
    title: str
    why: str
    policy: int | None
    accounts: int
    setting: str = ""
    account: str = ""
    mend: Mend | None = None


def findings(estate: Estate, resolution: Resolution) -> list[Finding]:
    """All findings, gravest first."""
    privileged_accounts = privileged(estate)
    found = [
        *_ties(estate, resolution),
        *_idle(estate, resolution),
        *_everyone(estate, resolution),
        *_direct_beats_stricter(estate, resolution),
        *_weaker_than_domain(estate, resolution, privileged_accounts),
        *_settings(estate, resolution),
        *_crowded(estate),
        *_flags(estate, resolution, privileged_accounts),
        *_services(estate, resolution),
        *_group_policy_objects(estate),
        *_unguarded(estate),
    ]
    return sorted(found, key=lambda f: (SEVERITIES.index(f.severity), -f.accounts, f.key))


def privileged(estate: Estate) -> Bools:
    """Accounts in the administrators' groups, at any depth."""
    inside = np.zeros(len(estate.accounts), dtype=np.bool_)
    for group in np.flatnonzero(np.isin(estate.groups.rid, list(_PRIVILEGED_RIDS)) & estate.groups.security).tolist():
        inside[estate.memberships.accounts_below(group)] = True
    return inside


def _id(estate: Estate, policy: int) -> str:
    return str(estate.policies[policy].guid) if policy >= 0 else "domain"


def _name(estate: Estate, policy: int) -> str:
    return estate.policies[policy].name if policy >= 0 else "The domain policy"


def _ties(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for place, policy in enumerate(resolution.order):
        for tie in standing(estate, resolution, policy).ties:
            if tie.wins:
                continue
            number = precedence_for_place(estate, policy, place)
            loser, winner = _name(estate, policy), _name(estate, tie.other)
            mend = None if number is None else Mend(policy, f"Give {loser} the number {number}", precedence=number)
            yield Finding(
                f"tie:{_id(estate, tie.other)}:{_id(estate, policy)}", "tie", "medium" if tie.contested else "low",
                f"{winner} and {loser} share precedence {estate.policies[policy].precedence}",
                f"Where both reach an account, the smaller object GUID decides, and {winner} wins. "
                "Nobody chose that; it would turn over if one of them were made anew.",
                policy, tie.contested, "precedence", mend=mend,
            )  # fmt: skip


def _idle(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for policy in resolution.order:
        idle = standing(estate, resolution, policy).idle
        if idle:
            yield Finding(
                f"idle:{_id(estate, policy)}", "idle", "medium", f"{_name(estate, policy)} governs nobody",
                f"{idle} Whoever relies on it is mistaken about what holds.", policy, 0,
            )  # fmt: skip


def _everyone(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for link in estate.links:
        if link.kind == "group" and int(estate.groups.rid[link.target]) == _EVERYONE_RID:
            yield Finding(
                f"everyone:{_id(estate, link.policy)}", "everyone", "medium",
                f"{_name(estate, link.policy)} is linked to {link_name(estate, link)}",
                "Every ordinary account is in that group, so the domain policy is out of reach for them. "
                "Changes to the domain policy will seem to do nothing.",
                link.policy, resolution.governed(link.policy),
            )  # fmt: skip


def _direct_beats_stricter(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    position = {policy: place for place, policy in enumerate(resolution.order)}
    told: dict[tuple[int, int], tuple[int, str, list[str]]] = {}
    for number, stack in enumerate(resolution.stacks):
        if stack.exempt or not stack.direct or not stack.group:
            continue
        wins = int(resolution.winners[number])
        loses = min(policies_in(stack.group), key=position.__getitem__)
        differs = compare(estate.policies[loses].settings, estate.policies[wins].settings)
        weaker = [BY_KEY[key].label.lower() for key, how in differs.items() if how == "weaker"]
        if loses != wins and weaker:
            count, sample, _ = told.get((wins, loses), (0, "", []))
            sample = sample or estate.accounts.name[int(resolution.samples[number])]
            told[wins, loses] = (count + int(resolution.counts[number]), sample, weaker)
    for (wins, loses), (count, sample, weaker) in told.items():
        yield Finding(
            f"direct:{_id(estate, wins)}:{_id(estate, loses)}", "direct", "high",
            f"{_name(estate, wins)}, linked to accounts directly, beats the stricter {_name(estate, loses)}",
            f"A direct link wins whatever its number. It is weaker in {', '.join(weaker)}.",
            wins, count, account=sample,
        )  # fmt: skip


def _weaker_than_domain(estate: Estate, resolution: Resolution, privileged: Bools) -> Iterator[Finding]:
    bedrock = estate.domain.settings
    for policy in resolution.order:
        governed = resolution.governed(policy)
        differs = compare(bedrock, estate.policies[policy].settings)
        weaker = [BY_KEY[key].label.lower() for key, how in differs.items() if how == "weaker"]
        if not governed or not weaker:
            continue
        admins = int(np.count_nonzero(privileged & (resolution.winner_of_account == policy)))
        whom = f" {admins:,} of its accounts are administrators'." if admins else ""
        yield Finding(
            f"weaker:{_id(estate, policy)}", "weaker", "high" if admins else "medium",
            f"{_name(estate, policy)} is weaker than the domain policy",
            f"It is weaker in {', '.join(weaker)}. A fine-grained policy takes the domain policy's place whole.{whom}",
            policy, governed,
        )  # fmt: skip


def _settings(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    for policy in (*resolution.order, DOMAIN_POLICY):
        s = estate.policies[policy].settings if policy >= 0 else estate.domain.settings
        count, name, identity = resolution.governed(policy), _name(estate, policy), _id(estate, policy)
        if not count:
            continue

        def mend(label: str, policy: int = policy, **values: int | bool | None) -> Mend | None:
            return Mend(policy, label, values) if policy >= 0 else None

        if s.reversible_encryption:
            yield Finding(
                f"reversible:{identity}", "reversible", "high", f"{name} stores passwords readably",
                "Reversible encryption is almost as weak as plain text: whoever copies the directory reads the passwords.",
                policy, count, "reversible_encryption", mend=mend("Turn reversible encryption off", reversible_encryption=False),
            )  # fmt: skip
        if 0 < s.lockout_threshold <= 2:
            yield Finding(
                f"threshold:{identity}", "threshold", "medium", f"{name} locks after {s.lockout_threshold} bad tries",
                "One or two typing mistakes lock a person out. It also lets anyone lock everybody out with little effort.",
                policy, count, "lockout_threshold",
            )  # fmt: skip
        if s.lockout_threshold == 0:
            yield Finding(
                f"lockout:{identity}", "lockout", "low", f"{name} never locks",
                "Nothing limits how often passwords can be guessed. That can be right for services; for people it seldom is.",
                policy, count, "lockout_threshold",
            )  # fmt: skip
        if s.lockout_threshold > 0 and not until_unlocked(s.lockout_duration) and s.lockout_window > (s.lockout_duration or 0):
            longer = mend("Shorten the window to the duration", lockout_window=s.lockout_duration)
            yield Finding(
                f"window:{identity}", "window", "medium", f"{name} has a window longer than its lock",
                "The specification forbids it: a lock would end before the bad tries that made it are forgotten.",
                policy, count, "lockout_window", mend=longer,
            )  # fmt: skip
        if s.history_length > 0 and s.min_age <= 0:
            fits = not expires(s.max_age) or (s.max_age or 0) > DAY
            yield Finding(
                f"history:{identity}", "history", "medium", f"{name} remembers passwords but lets them be changed at once",
                f"With a minimum age of 0, {s.history_length} quick changes bring a favourite back within minutes. "
                "The history does nothing.",
                policy, count, "min_age", mend=mend("Set the minimum age to 1 d", min_age=DAY) if fits else None,
            )  # fmt: skip
        if not expires(s.max_age) and s.min_length < LONG_ENOUGH_FOR_EVER:
            yield Finding(
                f"forever:{identity}", "forever", "medium", f"{name} never expires passwords of {s.min_length} characters",
                "A password that lasts for ever has to be long enough to outlast the guessing. "
                f"Below {LONG_ENOUGH_FOR_EVER} characters it is not.",
                policy, count, "max_age",
            )  # fmt: skip


def _crowded(estate: Estate) -> Iterator[Finding]:
    numbers = [estate.policies[p].precedence for p in evaluation_order(estate)]
    crowded = [(a, b) for a, b in pairwise(numbers) if b == a + 1]
    if crowded:
        listed = ", ".join(f"{a} and {b}" for a, b in crowded[:4])
        yield Finding(
            "crowded", "crowded", "low", "No number is free between some policies",
            f"Between {listed} nothing fits any more. The next policy that belongs there will need its neighbours renumbered.",
            None, 0, "precedence",
        )  # fmt: skip


def _flags(estate: Estate, resolution: Resolution, privileged: Bools) -> Iterator[Finding]:
    control = estate.accounts.control
    enabled = np.equal(control & (Control.DISABLED | TRUST_BITS), 0)
    policies = [*(p.settings for p in estate.policies), estate.domain.settings]
    expiring = np.array([expires(s.max_age) for s in policies])[resolution.winner_of_account]
    cases = (
        ("never", Control.NEVER_EXPIRES, expiring, "have passwords set never to expire",
         "The account's own flag undoes the maximum age. Such passwords are the ones that are found years later."),
        ("blank", Control.NO_PASSWORD_REQUIRED, enabled, "may have a blank password",
         "The flag 'no password required' lets an operator set no password at all. The policy's length does not stop it."),
        ("readable", Control.REVERSIBLE_ENCRYPTION, enabled, "have their password stored readably",
         "The account's own flag asks for reversible encryption whatever the policy says."),
    )  # fmt: skip
    for key, bit, where, title, why in cases:
        rows = np.flatnonzero(np.not_equal(control & bit, 0) & enabled & where)
        if not len(rows):
            continue
        admins = int(np.count_nonzero(privileged[rows]))
        whom = (
            ""
            if not admins
            else f" {admins:,} of them {'belongs to an administrator' if admins == 1 else 'belong to administrators'}."
        )
        first = rows[np.argmax(privileged[rows])]
        yield Finding(
            f"flag:{key}", f"flag-{key}", "high" if admins or key == "readable" else "medium",
            f"{len(rows):,} account{'s' * (len(rows) != 1)} {title if len(rows) != 1 else _of_one(title)}",
            why + whom, None, len(rows), account=estate.accounts.name[int(first)],
        )  # fmt: skip


def _of_one(title: str) -> str:
    return title.replace("have passwords", "has a password").replace("have their", "has its")


def _services(estate: Estate, resolution: Resolution) -> Iterator[Finding]:
    """Accounts named like services whose policy locks or expires them; a name is all that a directory tells."""
    names = estate.accounts.name
    policies = [*(p.settings for p in estate.policies), estate.domain.settings]
    bites = np.array([s.lockout_threshold > 0 or expires(s.max_age) for s in policies])[resolution.winner_of_account]
    candidates = np.flatnonzero(bites & np.equal(estate.accounts.control & TRUST_BITS, 0))
    rows = [row for row in candidates.tolist() if _SERVICE.match(names[row])]
    if rows:
        one = len(rows) == 1
        yield Finding(
            "services", "services", "medium",
            f"{len(rows):,} service account{'' if one else 's'} can lock or expire",
            f"Going by {'its name' if one else 'their names'}, {names[rows[0]]}{'' if one else ' and others'} "
            f"{'is a service' if one else 'are services'} under a policy for people. A guesser or the calendar can stop "
            f"{'it' if one else 'them'}.",
            None, len(rows), account=names[rows[0]],
        )  # fmt: skip


def _group_policy_objects(estate: Estate) -> Iterator[Finding]:
    root = dn_key(estate.domain.dn)
    live = [g for g in estate.domain.gpo_links if g.security_settings and not g.disabled and not g.computer_part_disabled]
    at_root = sorted((g for g in live if dn_key(g.container) == root), key=lambda g: (not g.enforced, g.order))
    apart = [o for o in origins(estate.domain) if any(i.value != o.value for i in o.ignored)]
    for o in apart[:1]:
        first, second = o.link, next(i for i in o.ignored if i.value != o.value)
        told = [said_text(o.key, (value,)) for value in (o.value, second.value)]
        yield Finding(
            "root-objects", "root-objects", "low", f"Sources of the domain policy disagree about {_listed(apart)}",
            f"{first.name if first else 'Nobody'} says {told[0]} and {second.link.name} {told[1]}; the first one heard wins, "
            "setting by setting. Whoever edits the later one changes nothing and may not notice.",
            DOMAIN_POLICY, 0,
        )  # fmt: skip
    if len(at_root) > 1 and not estate.domain.templates:
        yield Finding(
            "root-objects", "root-objects", "low", f"{len(at_root)} group policy objects at the domain root hold security settings",
            f"Setting by setting, the first that says something wins: {', then '.join(g.name for g in at_root)}. "
            "What the later ones say may be overruled without anybody noticing.",
            DOMAIN_POLICY, 0,
        )  # fmt: skip
    for g in live:
        if dn_key(g.container) != root:
            yield Finding(
                f"ou-object:{dn_key(g.gpo)}:{dn_key(g.container)}", "ou-object", "low",
                f"{g.name} is linked to {g.container.split(',')[0]} and holds security settings",
                "Account settings in it govern only the local accounts of computers there. "
                "They never change what a domain account gets.",
                DOMAIN_POLICY, 0,
            )  # fmt: skip


def _listed(apart: list[Origin]) -> str:
    labels = [(BY_KEY.get(o.key) or EXTENDED_BY_KEY[o.key]).label.lower() for o in apart]
    return labels[0] if len(labels) == 1 else f"{', '.join(labels[:-1])} and {labels[-1]}"


def _unguarded(estate: Estate) -> Iterator[Finding]:
    for policy in (n for n, p in enumerate(estate.policies) if not p.guarded):
        yield Finding(
            f"unguarded:{_id(estate, policy)}", "unguarded", "low", f"{_name(estate, policy)} is not guarded against deletion",
            "A slip can delete it, and its accounts fall to the next policy at once. The guard costs one more step on purpose.",
            policy, 0, mend=Mend(policy, "Guard it", guard=True),
        )  # fmt: skip
