"""The core's answers in the API's words."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import asdict
from datetime import UTC, datetime
from typing import Literal
from uuid import UUID

from sqlalchemy.orm import object_session

from hornfels.api.schemas import (
    Bedrock,
    Cell,
    ChangeGroup,
    ChangeInfo,
    CourseInfo,
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
    RemainderInfo,
    SettingsInfo,
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
from hornfels.core.policy.course import course, summary
from hornfels.core.policy.lockout import guess_budget, reuse_sentence
from hornfels.core.policy.model import Settings, problems
from hornfels.core.policy.plain import plain
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.reach import Reach, link_name, link_trouble, reach_of
from hornfels.core.resolution.section import Population as DrawnPopulation
from hornfels.core.resolution.section import Remainder, remainders, section
from hornfels.core.rights.roles import RIGHTS, Right
from hornfels.core.values.dn import dn_key, loose_key
from hornfels.core.values.time import datetime_from_moment, moment_from_datetime, seconds
from hornfels.service.acts import waits_for_job
from hornfels.service.import_review import in_words
from hornfels.service.naming import (
    policy_name,
    policy_ref,
    population_key,
)
from hornfels.service.snapshots import Snapshot, Tally
from hornfels.store.drafts import State
from hornfels.store.jobs import can_retry
from hornfels.store.models import JobRow


def now_moment() -> int:
    return moment_from_datetime(datetime.now(UTC))


def iso(moment: int) -> str | None:
    """A moment for the browser; None for "not set" and for what lies outside the calendar."""
    at = datetime_from_moment(moment) if moment > 0 else None
    return at.isoformat() if at else None


_NOT_COMPARED = "Accounts could not be compared. Compromised passwords (Exposure) says why."
"""In place of words that name files of the machine: that screen tells them to administrators."""


def job_info(row: JobRow) -> JobInfo:
    """Describe a job; the row of a held job is still in its session."""
    session = object_session(row)
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
        error=_NOT_COMPARED if row.kind == "exposure" and row.error else row.error,
        losses=in_words(row.result.get("losses", [])) if row.state == "held" else [],
        waits=row.state == "held" and session is not None and waits_for_job(session, row.id),
        domain=row.result.get("domain"),
        user=row.user_name,
        at=row.created_at.isoformat(),
        can_retry=can_retry(row),
    )


def domain_info(current: Snapshot, rights: Collection[Right]) -> DomainInfo:
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
        enforced=current.enforced,
        pending=current.pending,
        draft=current.draft.id if current.draft else None,
        rights=[right for right in RIGHTS if right in rights],
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


def strata(
    current: Snapshot, rights: Collection[Right], wanted: frozenset[str] = frozenset()
) -> Strata:
    """The section. Populations whose keys are `wanted` are listed even where they are small."""
    estate = current.estate
    drawn = section(
        estate,
        current.resolution,
        current.roster,
        current.shared_groups,
        current.moved,
        (lambda stack: population_key(estate, stack) in wanted) if wanted else None,
    )
    left = remainders(drawn, drawn.populations)
    return Strata(
        domain=domain_info(current, rights),
        layers=[_layer(current, policy, how, left[policy]) for policy, how in drawn.layers],
        bedrock=bedrock(current),
        populations=[_population(current, p) for p in drawn.populations],
        removed=_removed(current),
        unlisted=Unlisted(
            populations=drawn.unlisted,
            accounts=drawn.unlisted_accounts,
            under_domain_policy=drawn.unlisted_under_domain_policy,
        ),
    )


def _layer(current: Snapshot, policy: int, how: Reach, left: Remainder) -> Layer:
    mine = current.estate.policies[policy]
    return Layer(
        guid=str(mine.guid),
        name=mine.name,
        precedence=mine.precedence,
        mark=current.meta[mine.guid].mark,
        version=fingerprint(current.estate, mine.guid),
        change=change_of(current, mine.guid),
        settings=settings_info(mine.settings),
        summary=summary(mine.settings),
        reached=how.reached,
        governed=how.governed,
        unlisted=RemainderInfo(governed=left.governed, reached=left.reached),
        idle=how.idle,
        ties=_ties(current, how),
    )


def _population(current: Snapshot, p: DrawnPopulation) -> Population:
    return Population(
        key=population_key(current.estate, p.stack),
        label=p.label,
        who=p.who,
        count=p.count,
        moved=p.moved,
        winner=policy_ref(current, p.winner),
        source=p.source,
        sample=current.estate.accounts.name[p.sample],
        cells=[
            Cell(
                guid=str(current.estate.policies[cell.policy].guid),
                direct=cell.direct,
                holds=cell.holds,
                reason=cell.reason,
            )
            for cell in p.cells
        ],
    )


def settings_info(settings: Settings) -> SettingsInfo:
    return SettingsInfo(**settings.plain())


def course_info(settings: Settings) -> CourseInfo:
    run = course(settings)
    return CourseInfo(
        changeable_after=seconds(run.changeable_after) or 0,
        expires_after=seconds(run.expires_after),
        locks_at=run.locks_at,
        lock_lasts=seconds(run.lock_lasts),
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
        version=fingerprint(current.estate, "domain"),
        settings=settings_info(domain.settings),
        summary=summary(domain.settings),
        course=course_info(domain.settings),
        live=settings_info(live) if live != domain.settings else None,
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
        settings=settings_info(policy.settings),
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
        settings=settings_info(mine.settings),
        bedrock=settings_info(estate.domain.settings),
        problems=[ProblemInfo(**asdict(p)) for p in problems(mine.settings, mine.precedence)],
        reached=how.reached,
        governed=how.governed,
        taken_by=[
            TakenInfo(guid=policy_ref(current, p), name=policy_name(current, p), accounts=n)
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
        course=course_info(mine.settings),
    )
