"""The core's answers in the API's words."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime
from typing import Literal
from uuid import UUID

import numpy as np

from hornfels.api.schemas import (
    Bedrock,
    Cell,
    ChangeGroup,
    ChangeInfo,
    DomainInfo,
    DraftInfo,
    GpoSource,
    IgnoredInfo,
    JobInfo,
    Layer,
    LinkInfo,
    LivePolicy,
    OriginInfo,
    PolicyDetail,
    Population,
    ProblemInfo,
    Strata,
    TakenInfo,
    TieInfo,
    Unlisted,
)
from hornfels.core.domain.estate import Domain, Estate, Link
from hornfels.core.domain.sources import origins
from hornfels.core.drafts.applying import Conflict
from hornfels.core.drafts.edits import fingerprint
from hornfels.core.drafts.operations import Operations
from hornfels.core.drafts.sentences import said_text, sentences
from hornfels.core.policy.catalogue import BY_KEY, TEMPLATE_SETTINGS, PlainValue, TemplateKey
from hornfels.core.policy.lockout import guess_budget, reuse_sentence
from hornfels.core.policy.model import problems
from hornfels.core.policy.plain import plain
from hornfels.core.resolution.engine import DOMAIN_POLICY, Stack, policies_in
from hornfels.core.resolution.reach import Reach, cell_reason, link_name, link_trouble, reach_of
from hornfels.core.values.dn import dn_key, loose_key
from hornfels.core.values.time import datetime_from_moment, moment_from_datetime
from hornfels.service.naming import (
    policy_guid,
    policy_name,
    population_key,
)
from hornfels.service.snapshots import Snapshot, Tally
from hornfels.store.drafts import State
from hornfels.store.jobs import can_retry
from hornfels.store.models import JobRow

MOST_POPULATIONS = 240
"""Populations that the strata list one by one, the largest; the rest is summed up."""


def now_moment() -> int:
    return moment_from_datetime(datetime.now(UTC))


def iso(moment: int) -> str | None:
    """A moment for the browser; None for "not set" and for what lies outside the calendar."""
    at = datetime_from_moment(moment) if moment > 0 else None
    return at.isoformat() if at else None


def job_info(row: JobRow) -> JobInfo:
    spent = (row.changed_at - row.started_at).total_seconds() if row.started_at else 0.0
    rate = row.done / spent if spent > 0.5 and row.state == "running" else 0.0
    left = (row.of - row.done) / rate if rate and row.of else None
    return JobInfo(
        id=row.id,
        kind=row.kind,
        state=row.state,
        name=str(row.arguments.get("name", "")),
        step=row.step,
        done=row.done,
        of=row.of,
        rate=rate,
        left=left,
        stopping=row.stopping and row.state == "running",
        error=row.error,
        domain=row.result.get("domain"),
        user=row.user_name,
        at=row.created_at.isoformat(),
        can_retry=can_retry(row),
    )


def domain_info(current: Snapshot) -> DomainInfo:
    estate = current.estate
    return DomainInfo(
        dns_name=estate.domain.dns_name,
        dn=estate.domain.dn,
        linked_groups=estate.linked_groups,
        functional_level=estate.domain.functional_level,
        version=current.version,
        source=current.source,
        loaded_at=current.loaded_at,
        accounts=len(estate.accounts),
        groups=len(estate.groups),
        policies=len(estate.policies),
        notices=list(current.notices),
        approval_required=current.approval_required,
        trials_required=current.trials_required,
        draft=current.draft.id if current.draft else None,
    )


def population_label(current: Snapshot, stack: Stack, winner: int) -> str:
    if stack.exempt:
        return "Exempt"
    if winner == DOMAIN_POLICY:
        return "All others"
    others = [p for p in current.resolution.order if stack.reaching >> p & 1 and p != winner]
    first = policy_name(current, winner)
    if not others:
        return first
    second = policy_name(current, others[0])
    return f"{first} + {second}" if len(others) == 1 else f"{first} + {len(others)} more"


def _who(current: Snapshot, population: int, stack: Stack) -> str:
    """Who the accounts of a population are, by what they share."""
    if stack.exempt:
        return "Exempt"
    groups = current.shared_groups.groups(population)
    if groups:
        return " + ".join(current.estate.groups.name[g] for g in groups)
    if not stack.reaching:
        return "All others"
    brought = current.roster.brought_by[current.resolution.population == population]
    linked, counts = np.unique(brought[brought >= 0], return_counts=True)
    names = [
        current.estate.groups.name[g] for g in linked[np.argsort(-counts, kind="stable")].tolist()
    ]
    return (
        " or ".join(names[:2]) + (f" or {len(names) - 2} more" if len(names) > 2 else "")
        if names
        else "Linked one by one"
    )


def _shortened(populations: list[Population]) -> None:
    """The largest population that a policy takes goes by the policy's name alone."""
    largest: dict[str, Population] = {}
    for population in populations:
        if population.winner and population.count > (
            largest[population.winner].count if population.winner in largest else 0
        ):
            largest[population.winner] = population
    for population in largest.values():
        population.label = (
            population.label.partition(" + ")[0] if len(population.cells) > 1 else population.label
        )


def _ties(current: Snapshot, how: Reach) -> list[TieInfo]:
    return [
        TieInfo(
            guid=str(current.estate.policies[t.other].guid),
            name=policy_name(current, t.other),
            contested=t.contested,
            wins=t.wins,
        )
        for t in how.ties
    ]


def strata(current: Snapshot, wanted: frozenset[str] = frozenset()) -> Strata:
    """The section. Populations whose keys are `wanted` are listed even where they are small."""
    estate, resolution = current.estate, current.resolution
    layers = []
    for policy in resolution.order:
        mine, how = estate.policies[policy], reach_of(estate, resolution, policy)
        layers.append(
            Layer(
                guid=str(mine.guid),
                name=mine.name,
                precedence=mine.precedence,
                mark=current.meta[mine.guid].mark,
                version=fingerprint(estate, mine.guid),
                change=change_of(current, mine.guid),
                settings=mine.settings.plain(),
                reached=how.reached,
                governed=how.governed,
                idle=how.idle,
                ties=_ties(current, how),
            )
        )
    place = {policy: number for number, policy in enumerate(resolution.order)}
    moved = (
        np.bincount(resolution.population[current.moved], minlength=len(resolution))
        if current.draft
        else resolution.counts * 0
    )
    by_size = np.argsort(-resolution.counts, kind="stable")
    chosen = np.zeros(len(by_size), dtype=np.bool_)
    chosen[by_size[:MOST_POPULATIONS]] = True
    if wanted and len(by_size) > MOST_POPULATIONS:
        chosen[
            [
                n
                for n in range(len(resolution))
                if population_key(estate, resolution.stack(n)) in wanted
            ]
        ] = True
    listed, unlisted = by_size[chosen[by_size]], by_size[~chosen[by_size]]
    populations = [
        Population(
            key=population_key(estate, stack),
            label=population_label(current, stack, winner),
            who=_who(current, n, stack),
            count=count,
            moved=int(moved[n]),
            winner=policy_guid(current, winner),
            source=stack.source,
            sample=estate.accounts.name[sample],
            cells=[
                Cell(
                    guid=str(estate.policies[p].guid),
                    direct=bool(stack.direct >> p & 1),
                    holds=p == winner,
                    reason=cell_reason(estate, stack, winner, p, count),
                )
                for p in sorted(policies_in(stack.reaching), key=place.__getitem__)
            ],
        )
        for n, stack, winner, count, sample in (
            (
                n,
                resolution.stack(n),
                int(resolution.winners[n]),
                int(resolution.counts[n]),
                int(resolution.samples[n]),
            )
            for n in listed.tolist()
        )
    ]
    _shortened(populations)
    # Columns stand in the order of the layers that take them; bedrock and the exempt come last.
    last = len(place)
    by_guid = {str(estate.policies[p].guid): n for p, n in place.items()}
    populations.sort(
        key=lambda p: (
            last + (p.source == "exempt") if p.winner is None else by_guid[p.winner],
            len(p.cells),
            p.label,
        )
    )
    return Strata(
        domain=domain_info(current),
        layers=layers,
        bedrock=bedrock(current),
        populations=populations,
        removed=_removed(current),
        unlisted=Unlisted(
            populations=len(unlisted), accounts=int(resolution.counts[unlisted].sum())
        ),
    )


def _removed(current: Snapshot) -> list[str]:
    return (
        [p.name for p in current.draft.live.estate.policies if p.guid not in current.index]
        if current.draft
        else []
    )


def _says(domain: Domain, gpo: str) -> dict[TemplateKey, PlainValue] | None:
    template = domain.templates.get(loose_key(gpo))
    if template is None:
        return None
    return {key: plain(key, value) for key, value in template.items()}


def _origins(domain: Domain) -> list[OriginInfo]:
    found = []
    for o in origins(domain):
        held = getattr(domain.settings, o.key) if o.key in BY_KEY else None
        odd = o.link is not None and o.key in BY_KEY and held != o.value
        found.append(
            OriginInfo(
                key=o.key,
                label=TEMPLATE_SETTINGS[o.key].label,
                said=said_text(o.key, (o.value,)) if o.link else "",
                source=o.link.name if o.link else "",
                gpo=o.link.gpo if o.link else "",
                ignored=[
                    IgnoredInfo(source=i.link.name, said=said_text(o.key, (i.value,)), why=i.why)
                    for i in o.ignored
                ],
                warning=(
                    f"The domain object holds {said_text(o.key, (held,))}; the next refresh "
                    "writes this."
                )
                if odd
                else "",
            )
        )
    return found


def bedrock(current: Snapshot) -> Bedrock:
    """The domain policy and what writes it."""
    domain = current.estate.domain
    root = dn_key(domain.dn)
    live = current.draft.live.estate.domain.settings if current.draft else domain.settings
    return Bedrock(
        settings=domain.settings.plain(),
        live=live.plain() if live != domain.settings else None,
        problems=[ProblemInfo(**asdict(p)) for p in problems(domain.settings)],
        origins=_origins(domain) if domain.templates else [],
        governed=current.resolution.governed(DOMAIN_POLICY),
        sources=[
            GpoSource(
                gpo=link.gpo,
                says=_says(domain, link.gpo),
                name=link.name,
                container=link.container,
                at_root=dn_key(link.container) == root,
                order=link.order,
                enforced=link.enforced,
                disabled=link.disabled or link.computer_part_disabled,
                link_off=link.disabled,
            )
            for link in sorted(
                domain.gpo_links,
                key=lambda ln: (dn_key(ln.container) != root, not ln.enforced, ln.order),
            )
        ],
    )


def _link(estate: Estate, link: Link) -> LinkInfo:
    group = link.target if link.kind == "group" else -1
    members = estate.memberships.members.of(group) if group >= 0 else None
    return LinkInfo(
        dn=link.dn,
        name=link_name(estate, link),
        kind=link.kind,
        scope=estate.groups.scope(group) if group >= 0 else "",
        direct_members=len(members) if members is not None else int(link.kind == "account"),
        trouble=link_trouble(estate, link),
        nested=[estate.groups.name[g] for g in estate.memberships.nested.of(group).tolist()]
        if group >= 0
        else [],
    )


def draft_info(state: State, tally: Tally) -> DraftInfo:
    """A draft in short."""
    return DraftInfo(**asdict(state), **asdict(tally))


def change_groups(
    operations: Operations, estate: Estate, conflicts: tuple[Conflict, ...] = ()
) -> list[ChangeGroup]:
    """Operations as sentences, by object. `estate` names the policies that they are about."""
    unfit = {c.index: c for c in conflicts}
    groups: dict[str, list[ChangeInfo]] = {}
    for s in sentences(
        operations,
        {p.guid: p.name for p in estate.policies},
        {loose_key(link.gpo): link.name for link in estate.domain.gpo_links},
    ):
        conflict = unfit.get(s.index)
        groups.setdefault(s.subject, []).append(
            ChangeInfo(
                operation=s.index,
                text=s.text,
                before=s.before,
                after=s.after,
                bites=s.bites,
                conflict=conflict.reason if conflict else "",
                already=bool(conflict and conflict.already),
                can_keep=bool(conflict and conflict.rebased and not conflict.already),
            )
        )
    return [ChangeGroup(subject=subject, changes=changes) for subject, changes in groups.items()]


def change_of(current: Snapshot, guid: UUID) -> Literal["", "new", "changed"]:
    """What the draft that is shown does to a policy."""
    if current.draft is None:
        return ""
    live = current.draft.live
    if guid not in live.index:
        return "new"
    return "changed" if fingerprint(live.estate, guid) != fingerprint(current.estate, guid) else ""


def _live(current: Snapshot, guid: UUID) -> LivePolicy | None:
    """How the policy stands live, where a draft is shown that changes it."""
    if change_of(current, guid) != "changed" or current.draft is None:
        return None
    live = current.draft.live.estate
    index = current.draft.live.index[guid]
    policy = live.policies[index]
    return LivePolicy(
        name=policy.name,
        precedence=policy.precedence,
        settings=policy.settings.plain(),
        links=[link.dn for link in live.links if link.policy == index],
    )


def policy_detail(current: Snapshot, policy: int) -> PolicyDetail:
    estate = current.estate
    mine = estate.policies[policy]
    meta = current.meta[mine.guid]
    how = reach_of(estate, current.resolution, policy)
    return PolicyDetail(
        guid=str(mine.guid),
        dn=mine.dn,
        name=mine.name,
        precedence=mine.precedence,
        mark=meta.mark,
        guarded=mine.guarded,
        version=fingerprint(estate, mine.guid),
        live=_live(current, mine.guid),
        changed_by=meta.changed_by,
        changed_at=meta.changed_at,
        settings=mine.settings.plain(),
        bedrock=estate.domain.settings.plain(),
        problems=[ProblemInfo(**asdict(p)) for p in problems(mine.settings, mine.precedence)],
        reached=how.reached,
        governed=how.governed,
        taken_by=[
            TakenInfo(guid=policy_guid(current, p), name=policy_name(current, p), accounts=n)
            for p, n in sorted(how.taken_by.items(), key=lambda item: -item[1])
        ],
        idle=how.idle,
        ties=_ties(current, how),
        links=sorted(
            (_link(estate, link) for link in estate.links if link.policy == policy),
            key=lambda ln: (ln.kind != "group", ln.name.lower()),
        ),
        guess_budget=guess_budget(mine.settings),
        reuse=reuse_sentence(mine.settings),
    )
