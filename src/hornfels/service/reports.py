"""Reports of a domain as it is shown, and of what was published."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import replace
from datetime import UTC, date, datetime, time
from uuid import UUID

from sqlalchemy.orm import Session

from hornfels.core.baselines.baseline import Baseline
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import link_to
from hornfels.core.drafts.impact import impact
from hornfels.core.drafts.operations import Target, inverse
from hornfels.core.drafts.sentences import Sentence, sentences
from hornfels.core.findings.finding import Finding
from hornfels.core.mailing.due import KIND_WORDS, KINDS
from hornfels.core.policy.model import PolicyRef
from hornfels.core.reports.forecast import forecast_part
from hornfels.core.reports.policies import policy_parts
from hornfels.core.reports.report import (
    Accepted,
    BaselinePart,
    ChangePart,
    ChangeReport,
    DomainReport,
    ExposureLine,
    ExposurePart,
    FindingPart,
    Head,
    Mark,
    NoticesPart,
    ServerPart,
    Transferred,
)
from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve
from hornfels.core.resolution.section import Section, section
from hornfels.core.values.dn import loose_key
from hornfels.core.values.time import moment_from_datetime
from hornfels.formats.reports.html import change_html
from hornfels.formats.reports.section_svg import section_svg
from hornfels.refusals import NotFoundError
from hornfels.service import baselines, exposure, mailing, servers
from hornfels.service.naming import policy_mark, policy_name
from hornfels.service.snapshots import Snapshot
from hornfels.store import acceptances, drafts, history, letters, locks
from hornfels.store import exposure as kept_exposure
from hornfels.store import servers as kept_servers
from hornfels.store.estates import successors_in
from hornfels.store.models import AcceptedFindingRow, PointRow
from hornfels.store.operations import UnreadableOperationsError

MOST_CHANGES = 500
"""Points of the history in one report, the newest."""


def drawing(current: Snapshot) -> str:
    """The section of what is shown, as SVG."""
    read = datetime.fromisoformat(current.loaded_at).astimezone(UTC)
    domain, count = current.estate.domain.dns_name, len(current.estate.accounts)
    foot = f"{domain}, read from {current.source} on {read:%Y-%m-%d}, {count:,} accounts."
    return section_svg(current.estate, _section(current), mark_of(current), foot)


def domain_report(
    database: Session,
    current: Snapshot,
    found: Iterable[Finding],
    chosen: Iterable[Baseline],
    since: date | None,
) -> DomainReport:
    """The report of a domain as it is shown, with what was `found` in it, held against the `chosen`
    baselines, and with the changes from a day on.
    """
    held = acceptances.accepted(database, current.domain_id, datetime.now(UTC).date())
    drawn, mark = _section(current), mark_of(current)
    return DomainReport(
        head=_head(database, current),
        estate=current.estate,
        section=drawn,
        policies=policy_parts(current.estate, current.resolution, drawn, mark),
        findings=tuple(FindingPart(one, _accepted(held.get(one.key))) for one in found),
        baselines=tuple(_baseline(current, one, held) for one in chosen),
        changes=tuple(_changes(database, current, since)),
        since=since,
        forecast=forecast_part(
            current.roster,
            moment_from_datetime(datetime.now(UTC)),
            mark,
            lambda policy: policy_name(current, policy),
        ),
        exposure=_exposure(database, current, mark),
        notices=_notices(database, current, since),
        servers=tuple(
            ServerPart(row.name, servers.found(database, row).agreement.coverage)
            for row in kept_servers.sets(database, current.domain_id)
        ),
    )


def mark_of(current: Snapshot) -> Mark:
    """The number of each policy's look as the domain is shown."""
    return lambda policy: policy_mark(current, policy)


def change_report(database: Session, current: Snapshot, number: int) -> str:
    """The report of a publish, as HTML. Raises `NotFoundError` for a point that is none."""
    point = history.find(database, current.domain_id, number)
    if point.kind != "published":
        raise NotFoundError("Nothing was published at this point of the history.")
    successors = successors_in(database, current.domain_id)
    live = current.live
    head = replace(_head(database, live), draft="")
    part = _change(point, live.estate, successors)
    after = _standing(history.estate_at(point, live.estate, successors))
    undone = apply(after, inverse(history.operations_of(point, successors)))
    if undone.conflicts:
        return change_html(ChangeReport(head, part, None))
    before = undone.estate
    told = impact(before, resolve(before), after, resolve(after), moment_from_datetime(point.at))
    names: dict[PolicyRef, str] = {p.guid: p.name for p in (*before.policies, *after.policies)}
    names["domain"] = "Domain policy"
    transfers = (Transferred(names[t.before], names[t.after], t.accounts) for t in told.transfers)
    return change_html(ChangeReport(head, part, told, tuple(transfers)))


def _standing(estate: Estate) -> Estate:
    """A past state with its links leading to the accounts and groups of today."""
    found = (
        link_to(estate, Target(kind=link.kind, dn=link.dn))._replace(policy=link.policy)
        for link in estate.links
    )
    return estate.with_policies(estate.policies, tuple(found))


def _head(database: Session, current: Snapshot) -> Head:
    title = ""
    if current.draft:
        title = drafts.find(database, current.domain_id, current.draft.id).title
    return Head(
        current.estate.domain.dns_name,
        current.source,
        datetime.fromisoformat(current.loaded_at),
        datetime.now(UTC),
        title,
    )


def _section(current: Snapshot) -> Section:
    return section(
        current.estate,
        current.resolution,
        current.roster,
        current.shared_groups,
        current.moved,
        None,
    )


def _exposure(database: Session, current: Snapshot, mark: Mark) -> ExposurePart | None:
    """None where accounts were never compared."""
    last = next(iter(kept_exposure.runs(database, current.domain_id, 1)), None)
    if last is None:
        return None
    parts = exposure.known(database, current).by(current.resolution.winner_of_account)
    counts = {policy: part.counts() for policy, part in parts.items()}
    lines = (
        ExposureLine(
            name=policy_name(current, policy),
            mark=mark(policy),
            accounts=current.resolution.governed(policy),
            exposed=counts[policy]["exposed"],
            listed=counts[policy]["list"],
            blank=counts[policy]["blank"],
            own_name=counts[policy]["own name"],
            house_term=counts[policy]["house term"],
            shared=counts[policy]["shared"],
        )
        for policy in (*current.resolution.order, DOMAIN_POLICY)
        if policy in counts
    )
    return ExposurePart(last.at, last.compared, tuple(lines))


def _notices(database: Session, current: Snapshot, since: date | None) -> NoticesPart | None:
    """None where nobody is written to, nor was."""
    now = datetime.now(UTC)
    day = max(since or date.min, (now - letters.KEPT).date())
    begins = datetime.combine(day, time.min, UTC)
    states = letters.counted(database, current.domain_id, begins)
    if not states and not mailing.held(database, current).mailing.on:
        return None
    about = letters.sent_about(database, current.domain_id, begins)
    return NoticesPart(
        since=day,
        sent=states.get("sent", 0),
        about=tuple((KIND_WORDS[kind], about[kind]) for kind in KINDS if about.get(kind)),
        refused=states.get("refused", 0),
        uncertain=states.get("uncertain", 0),
        waiting=states.get("waiting", 0) + states.get("sending", 0),
    )


def _baseline(
    current: Snapshot, baseline: Baseline, held: Mapping[str, AcceptedFindingRow]
) -> BaselinePart:
    accepted = {
        one.key: told
        for one in baseline.recommendations
        if (told := _accepted(held.get(baselines.exception_key(baseline, one.key))))
    }
    return BaselinePart(baseline, tuple(baselines.assessed(current, baseline)), accepted)


def _accepted(row: AcceptedFindingRow | None) -> Accepted | None:
    return Accepted(row.reason, row.until, row.user_name) if row else None


def _changes(database: Session, current: Snapshot, since: date | None) -> Iterator[ChangePart]:
    successors = successors_in(database, current.domain_id)
    for point in history.points(database, current.domain_id)[:MOST_CHANGES]:
        if since is None or point.at.astimezone(UTC).date() >= since:
            yield _change(point, current.live.estate, successors)


def _change(point: PointRow, estate: Estate, successors: Mapping[UUID, UUID]) -> ChangePart:
    return ChangePart(
        at=point.at,
        kind=point.kind,
        title=point.title,
        # A report goes to people of whom nothing is known.
        reason=point.reason if history.may_be_named(point, ()) else "",
        author=point.author,
        approver=point.approver or "",
        sentences=tuple(_sentences(point, estate, successors)),
        accounts=len(locks.unlocked_at(point)),
    )


def _sentences(point: PointRow, estate: Estate, successors: Mapping[UUID, UUID]) -> list[Sentence]:
    try:
        operations = history.operations_of(point, successors)
    except UnreadableOperationsError as error:
        return [Sentence(0, point.title, str(error), "", "", "")]
    then = history.estate_at(point, estate, successors)
    names = {policy.guid: policy.name for policy in then.policies}
    sources = {loose_key(link.gpo): link.name for link in then.domain.gpo_links}
    return sentences(operations, names, sources)
