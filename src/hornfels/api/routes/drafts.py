"""Drafts: the changes of one as sentences, its impact, review and publishing."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, HTTPException, Query, Request
from fastapi.responses import JSONResponse, Response
from sqlalchemy.orm import Session

from hornfels.api.deps import Current, Database, Renewal, User, domain_for_writing
from hornfels.api.editing import change, draft_for_writing, shown_draft
from hornfels.api.schemas import (
    DraftDetail,
    DraftEdit,
    DraftInfo,
    DraftNew,
    DraftVersion,
    ImpactInfo,
    SettingImpactInfo,
    TransferInfo,
    WhatIfFlag,
    WhatIfMembership,
)
from hornfels.api.snapshot import Snapshot, Snapshots
from hornfels.api.views import change_groups, draft_info, now_moment, policy_mark, policy_name
from hornfels.core.draft import apply, renumber
from hornfels.core.estate import Control, Estate
from hornfels.core.impact import impact
from hornfels.core.operations import WHAT_IF, JoinGroup, LeaveGroup, Operation, Operations, SetFlag, published
from hornfels.core.resolution import DOMAIN_POLICY, resolve
from hornfels.core.trials import run_all, sentence
from hornfels.formats.changes import write_changes
from hornfels.store import drafts, trials
from hornfels.store.models import DomainRow

router = APIRouter(prefix="/api/domains/{domain}", tags=["drafts"])

MOST_NAMES = 12


async def answer_refusal(_request: Request, error: Exception) -> JSONResponse:
    return JSONResponse({"detail": str(error)}, status_code=409)


@router.get("/drafts")
def list_drafts(current: Current, database: Database) -> list[DraftInfo]:
    """The open drafts of a domain, the latest changed first."""
    live = current.draft.live if current.draft else current
    return [draft_info(row, len(apply(live.estate, drafts.operations_of(row)).conflicts))
            for row in drafts.open_drafts(database, current.domain_id)]  # fmt: skip


@router.post("/drafts", status_code=201)
def open_draft(body: DraftNew, current: Current, database: Database, user: User) -> DraftInfo:
    title = body.title.strip() or f"Draft of {datetime.now(UTC):%-d %B}"
    row = drafts.create(database, current.domain_id, title, user)
    database.commit()
    return draft_info(row, 0)


@router.get("/draft")
def get_draft(current: Current, database: Database) -> DraftDetail:
    """The draft that is shown, as sentences by object."""
    return _detail(current, database)


@router.patch("/draft")
def describe_draft(body: DraftEdit, current: Current, database: Database, user: User, snapshots: Renewal) -> DraftDetail:
    row = draft_for_writing(database, current)
    drafts.expect(row, body.version)
    drafts.describe(database, row, body.title.strip() or row.title, body.reason.strip(), user)
    return _committed(current, database, snapshots)


@router.delete("/draft", status_code=204)
def drop_draft(version: Annotated[int, Query()], current: Current, database: Database, _user: User) -> None:
    row = draft_for_writing(database, current)
    drafts.expect(row, version)
    drafts.discard(database, row)
    database.commit()


@router.post("/draft/undo")
def undo(body: DraftVersion, current: Current, database: Database, user: User, snapshots: Renewal) -> DraftDetail:
    row = draft_for_writing(database, current)
    drafts.expect(row, body.version)
    drafts.undo(database, row, user)
    return _committed(current, database, snapshots)


@router.post("/draft/redo")
def redo(body: DraftVersion, current: Current, database: Database, user: User, snapshots: Renewal) -> DraftDetail:
    row = draft_for_writing(database, current)
    drafts.expect(row, body.version)
    drafts.redo(database, row, user)
    return _committed(current, database, snapshots)


@router.delete("/draft/operations/{number}")
def drop_operation(
    number: int, version: Annotated[int, Query()], current: Current, database: Database, user: User, snapshots: Renewal
) -> DraftDetail:
    """Take one operation out of the draft. What depended on it shows as not fitting."""
    row = draft_for_writing(database, current)
    drafts.expect(row, version)
    operations = drafts.operations_of(row)
    _in_range(operations, number)
    drafts.record(database, row, (*operations[:number], *operations[number + 1 :]), user)
    return _committed(current, database, snapshots)


@router.post("/draft/operations/{number}/keep")
def keep_operation(
    number: int, body: DraftVersion, current: Current, database: Database, user: User, snapshots: Renewal
) -> DraftDetail:
    """Resolve a conflict in the draft's favour: what is live now becomes what the operation changes."""
    row = draft_for_writing(database, current)
    drafts.expect(row, body.version)
    operations = drafts.operations_of(row)
    _in_range(operations, number)
    found = next((c for c in apply(shown_draft(current).live.estate, operations).conflicts if c.index == number), None)
    if found is None or found.rebased is None:
        raise HTTPException(409, "There is no conflict to resolve here; the only way is to drop the change.")
    drafts.record(database, row, (*operations[:number], found.rebased, *operations[number + 1 :]), user)
    return _committed(current, database, snapshots)


def _in_range(operations: Operations, number: int) -> None:
    if not 0 <= number < len(operations):
        raise HTTPException(404, "The draft has no such change any more.")


@router.post("/draft/renumber")
def renumber_policies(current: Current, database: Database, user: User, snapshots: Renewal) -> DraftDetail:
    """Give every policy a number with gaps, in the same order."""
    return _detail(change(database, snapshots, current, user, lambda estate: [renumber(estate)]), database)


@router.post("/draft/memberships")
def weigh_membership(body: WhatIfMembership, current: Current, database: Database, user: User, snapshots: Renewal) -> DraftDetail:
    """What if this account or group were in that group, or were not? Never published."""
    kind = JoinGroup if body.join else LeaveGroup
    operation: Operation = kind(member=body.member, group=body.group)
    return _detail(change(database, snapshots, current, user, lambda _estate: [operation]), database)


@router.post("/draft/flags")
def weigh_flag(body: WhatIfFlag, current: Current, database: Database, user: User, snapshots: Renewal) -> DraftDetail:
    """What if this account had this flag, or had it not? Never published."""

    def flag(estate: Estate) -> list[Operation]:
        row = estate.find_account(body.account)
        if row is None:
            raise HTTPException(404, f"There is no account '{body.account}' in this domain.")
        held = bool(int(estate.accounts.control[row]) & Control[body.flag])
        return [SetFlag(account=estate.accounts.name[row], flag=body.flag, before=held, after=body.on)] if held != body.on else []

    return _detail(change(database, snapshots, current, user, flag), database)


@router.get("/draft/impact")
def get_impact(current: Current) -> ImpactInfo:
    """What the draft does to people."""
    live = shown_draft(current).live
    told = impact(live.estate, live.resolution, current.estate, current.resolution, now_moment())

    def side(snapshot: Snapshot, guid: UUID | None) -> tuple[str, int | None]:
        policy = DOMAIN_POLICY if guid is None else snapshot.index[guid]
        return policy_name(snapshot, policy), policy_mark(snapshot, policy)

    ends = [(side(live, t.before), side(current, t.after), t.accounts) for t in told.transfers]
    return ImpactInfo(
        accounts=told.accounts,
        transfers=[
            TransferInfo(before=before[0], before_mark=before[1], after=after[0], after_mark=after[1], accounts=accounts)
            for before, after, accounts in ends
        ],
        settings=[
            SettingImpactInfo(key=s.key, stronger=s.stronger, weaker=s.weaker, weaker_privileged=s.weaker_privileged, bites=s.bites)
            for s in told.settings
        ],
        expire_at_once=told.expire_at_once,
        expiring=list(told.expiring),
        expiring_before=list(told.expiring_before),
        newly_lockable=told.newly_lockable,
        no_longer_lockable=told.no_longer_lockable,
        weaker_privileged=len(told.weaker_privileged),
        weaker_privileged_names=[live.estate.accounts.name[row] for row in told.weaker_privileged[:MOST_NAMES]],
    )  # fmt: skip


@router.post("/draft/approve")
def approve(body: DraftVersion, current: Current, database: Database, user: User, snapshots: Renewal) -> DraftDetail:
    """Approve the draft as it stands. A later change ends the approval."""
    row = draft_for_writing(database, current)
    drafts.expect(row, body.version)
    drafts.approve(database, row, user)
    return _committed(current, database, snapshots)


@router.post("/draft/publish", status_code=204)
def publish(body: DraftVersion, current: Current, database: Database, user: User, snapshots: Renewal) -> None:
    """Make the draft live: all of it or, if anything does not fit, nothing."""
    domain = domain_for_writing(database, current)
    live = snapshots.of(database, domain.dns_name)
    row = draft_for_writing(database, current)
    drafts.expect(row, body.version)
    operations = published(drafts.operations_of(row))
    if live is None or not operations:
        raise HTTPException(409, "The draft holds nothing to publish.")
    applied = apply(live.estate, operations)
    if applied.conflicts:
        reason = applied.conflicts[0].reason
        raise HTTPException(409, f"Nothing was published: {reason} Resolve or drop the changes that do not fit.")
    if domain.trials_required:
        _expect_trials_met(database, domain, live, applied.estate)
    drafts.publish(database, domain, row, live.estate, applied.estate, operations, user)
    database.commit()


def _expect_trials_met(database: Session, domain: DomainRow, live: Snapshot, after: Estate) -> None:
    kept = trials.kept(database, domain.id)
    outcomes = run_all([trial for _, trial in kept], after, resolve(after), live.estate, live.resolution)
    unmet = [(row, outcome) for (row, _), outcome in zip(kept, outcomes, strict=True) if not outcome.met]
    if unmet:
        row, outcome = unmet[0]
        raise HTTPException(
            409,
            f"Nothing was published: {len(unmet)} of {len(kept)} trials {'is' if len(unmet) == 1 else 'are'} not met. "
            f"“{row.title}”: {sentence(outcome, after)}",
        )


@router.get("/draft/changes.ldif")
def export(current: Current, database: Database) -> Response:
    """The draft as LDIF change records."""
    draft = shown_draft(current)
    row = drafts.find(database, current.domain_id, draft.id)
    title = f"{row.title}\n{row.reason}" if row.reason else row.title
    unfit = {c.index for c in draft.conflicts}
    fitting = tuple(op for n, op in enumerate(draft.operations) if n not in unfit)
    text = b"".join(write_changes(draft.live.estate, fitting, title))
    name = f"{current.estate.domain.dns_name}-draft-{draft.id}.ldif"
    return Response(text, media_type="text/plain; charset=utf-8", headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _committed(current: Snapshot, database: Session, snapshots: Snapshots) -> DraftDetail:
    database.commit()
    draft = shown_draft(current)
    return _detail(snapshots.with_draft(database, draft.live, draft.id), database)


def _detail(current: Snapshot, database: Session) -> DraftDetail:
    draft = shown_draft(current)
    row = drafts.find(database, current.domain_id, draft.id)
    return DraftDetail(
        **draft_info(row, len(draft.conflicts)).model_dump(),
        groups=change_groups(draft.operations, draft.live.estate, draft.conflicts),
        approval_required=current.approval_required,
        what_ifs=sum(isinstance(op, WHAT_IF) for op in draft.operations),
    )
