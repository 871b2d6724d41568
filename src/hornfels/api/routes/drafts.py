"""Drafts: the changes of one as sentences, its impact, review and publishing."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated
from urllib.parse import quote
from uuid import UUID

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import PlainTextResponse, Response
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Edit, Renewal, User
from hornfels.api.schemas import (
    DraftDetail,
    DraftEdit,
    DraftInfo,
    DraftNew,
    DraftVersion,
    ImpactInfo,
    LeftOutInfo,
    SettingImpactInfo,
    TransferInfo,
    Version,
    WhatIfFlag,
    WhatIfMembership,
)
from hornfels.api.views import change_groups, draft_info, now_moment
from hornfels.core.domain.estate import Control, Estate
from hornfels.core.drafts.applying import Applied, all_there, apply, left_to_do
from hornfels.core.drafts.edits import renumber
from hornfels.core.drafts.impact import impact
from hornfels.core.drafts.operations import (
    WHAT_IF,
    JoinGroup,
    LeaveGroup,
    Operation,
    Operations,
    SetFlag,
    published,
)
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.formats.changes import left_out, write_changes
from hornfels.refusals import ChangedMeanwhileError, ConflictError, NotFoundError
from hornfels.service.editing import Editing, domain_for_writing, shown_draft
from hornfels.service.long_answers import outcomes_once_published
from hornfels.service.naming import policy_mark, policy_name
from hornfels.service.snapshots import Snapshot, Told, tallied
from hornfels.store import drafts, trials
from hornfels.store.models import DraftRow

router = APIRouter(prefix="/api/domains/{domain}", tags=["drafts"], route_class=Route)

MOST_NAMES = 12


@router.get("/drafts")
def list_drafts(current: Current, database: Database, snapshots: Renewal) -> list[DraftInfo]:
    """The open drafts of a domain, the latest changed first."""
    return [draft_info(state, tally) for state, tally in snapshots.in_short(database, current.live)]


@router.post("/drafts", status_code=201)
def open_draft(body: DraftNew, current: Current, database: Database, user: User) -> DraftInfo:
    """Open a draft. Without a title it is the person's own of today, a new one if there is none
    yet.
    """
    estate, title = current.live.estate, body.title.strip()
    drafts.hold_titles(database, current.domain_id)
    row = None
    if title:
        drafts.refuse_taken(database, current.domain_id, title)
    else:
        title = f"Draft of {datetime.now(UTC):%-d %B}"
        row = drafts.own(database, current.domain_id, title, user)
        title = drafts.free_title(database, current.domain_id, title)
    row = row or drafts.create(database, current.domain_id, title, user)
    database.commit()
    database.refresh(row)
    operations = drafts.operations_of(row)
    return draft_info(drafts.state_of(row), tallied(estate, operations, apply(estate, operations)))


@router.get("/draft")
def get_draft(current: Current, database: Database) -> DraftDetail:
    """The draft that is shown, as sentences by object."""
    return _detail(current, database)


@router.patch("/draft")
def describe_draft(body: DraftEdit, edit: Edit) -> DraftDetail:
    drafts.hold_titles(edit.database, edit.current.domain_id)
    row = edit.row(body.version)
    title = body.title.strip() or row.title
    drafts.refuse_taken(edit.database, row.domain_id, title, but=row.id)
    drafts.describe(edit.database, row, title, body.reason.strip(), edit.user)
    return _saved(edit, row, body.version)


@router.delete("/draft", status_code=204)
def drop_draft(version: Annotated[Version, Query()], edit: Edit) -> None:
    drafts.discard(edit.database, edit.row(version))
    edit.database.commit()


@router.post("/draft/close", status_code=204)
def close_draft(body: DraftVersion, edit: Edit) -> None:
    """End a draft of which nothing is left to do: all of it is so already."""
    row = edit.row(body.version)
    estate = edit.current.live.estate
    if not all_there(estate, apply(estate, drafts.operations_of(row))):
        raise ConflictError(
            "Something of this draft is still to be done. Publish it, or drop the draft."
        )
    drafts.close(edit.database, row)
    edit.database.commit()


@router.post("/draft/undo")
def undo(body: DraftVersion, edit: Edit) -> DraftDetail:
    row = edit.row(body.version)
    drafts.undo(edit.database, row, edit.user)
    return _saved(edit, row, body.version)


@router.post("/draft/redo")
def redo(body: DraftVersion, edit: Edit) -> DraftDetail:
    row = edit.row(body.version)
    drafts.redo(edit.database, row, edit.user)
    return _saved(edit, row, body.version)


@router.delete("/draft/operations/{number}")
def drop_operation(
    number: Annotated[int, Path(ge=0, lt=2**31)], version: Annotated[Version, Query()], edit: Edit
) -> DraftDetail:
    """Take one operation out of the draft. What depended on it shows as not fitting."""
    row = edit.row(version)
    operations = drafts.operations_of(row)
    _in_range(operations, number)
    drafts.record(edit.database, row, (*operations[:number], *operations[number + 1 :]), edit.user)
    return _saved(edit, row, version)


@router.post("/draft/operations/{number}/keep")
def keep_operation(
    number: Annotated[int, Path(ge=0, lt=2**31)], body: DraftVersion, edit: Edit
) -> DraftDetail:
    """Resolve a conflict in the draft's favour: what is live now becomes what the operation
    changes.
    """
    row = edit.row(body.version)
    operations = drafts.operations_of(row)
    _in_range(operations, number)
    found = next(
        (c for c in apply(edit.current.live.estate, operations).conflicts if c.index == number),
        None,
    )
    if found is None or found.rebased is None:
        raise ConflictError(
            "There is no conflict to resolve here; the only way is to drop the change."
        )
    drafts.record(
        edit.database,
        row,
        (*operations[:number], found.rebased, *operations[number + 1 :]),
        edit.user,
    )
    return _saved(edit, row, body.version)


def _in_range(operations: Operations, number: int) -> None:
    if not 0 <= number < len(operations):
        raise NotFoundError("The draft has no such change any more.")


@router.post("/draft/renumber")
def renumber_policies(edit: Edit) -> DraftDetail:
    """Give every policy a number with gaps, in the same order."""
    return _detail(edit.change(lambda estate: [renumber(estate)]), edit.database)


@router.post("/draft/memberships")
def weigh_membership(body: WhatIfMembership, edit: Edit) -> DraftDetail:
    """What if this account or group were in that group, or were not? Never published."""
    kind = JoinGroup if body.join else LeaveGroup
    operation: Operation = kind(member=body.member, group=body.group)
    return _detail(edit.change(lambda _estate: [operation]), edit.database)


@router.post("/draft/flags")
def weigh_flag(body: WhatIfFlag, edit: Edit) -> DraftDetail:
    """What if this account had this flag, or had it not? Never published."""

    def flag(estate: Estate) -> list[Operation]:
        row = estate.find_account(body.account)
        if row is None:
            raise NotFoundError(f"There is no account '{body.account}' in this domain.")
        held = bool(int(estate.accounts.control[row]) & Control[body.flag])
        return (
            [SetFlag(account=estate.accounts.name[row], flag=body.flag, before=held, after=body.on)]
            if held != body.on
            else []
        )

    return _detail(edit.change(flag), edit.database)


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
            TransferInfo(
                before=before[0],
                before_mark=before[1],
                after=after[0],
                after_mark=after[1],
                accounts=accounts,
            )
            for before, after, accounts in ends
        ],
        settings=[
            SettingImpactInfo(
                key=s.key,
                stronger=s.stronger,
                weaker=s.weaker,
                weaker_privileged=s.weaker_privileged,
                bites=s.bites,
            )
            for s in told.settings
        ],
        expire_at_once=told.expire_at_once,
        expiring=list(told.expiring),
        expiring_before=list(told.expiring_before),
        newly_lockable=told.newly_lockable,
        no_longer_lockable=told.no_longer_lockable,
        weaker_privileged=len(told.weaker_privileged),
        weaker_privileged_names=[
            live.estate.accounts.name[row] for row in told.weaker_privileged[:MOST_NAMES]
        ],
    )


@router.post("/draft/approve")
def approve(body: DraftVersion, edit: Edit) -> DraftDetail:
    """Approve the draft as it stands. A later change ends the approval."""
    row = edit.row(body.version)
    drafts.approve(edit.database, row, edit.user)
    return _saved(edit, row, body.version)


@router.post("/draft/publish", status_code=204)
def publish(body: DraftVersion, edit: Edit, request: Request) -> None:
    """Make the draft live: all of it or, if anything does not fit, nothing. What is so already is
    left as it is.
    """
    database = edit.database
    # Before anything is held: on many accounts a worker runs them.
    told = _trials_told(edit, request) if edit.current.trials_required else {}
    domain = domain_for_writing(database, edit.current)
    live = edit.snapshots.of(domain.dns_name, database)
    row = edit.row(body.version)
    operations = published(drafts.operations_of(row))
    if live is None or not operations:
        raise ConflictError("The draft holds nothing to publish.")
    applied = apply(live.estate, operations)
    unfit = [c for c in applied.conflicts if not c.already]
    if unfit:
        raise ConflictError(
            f"Nothing was published: {unfit[0].reason} Resolve or drop the changes that do not fit."
        )
    operations = left_to_do(operations, applied.conflicts)
    if not operations:
        raise ConflictError("Nothing is left to publish: all of it is so already. Close the draft.")
    if domain.trials_required:
        as_told = (live.estate_id, live.version) == (edit.current.estate_id, edit.current.version)
        if not as_told or {row.id for row, _ in trials.kept(database, domain.id)} != told.keys():
            raise ChangedMeanwhileError(
                "Nothing was published: the domain or its trials have changed meanwhile. "
                "Publish again."
            )
    drafts.publish(database, domain, row, live.estate, applied.estate, operations, edit.user)
    database.commit()


def _trials_told(edit: Editing, request: Request) -> dict[int, Told]:
    """What comes of every trial once the draft is published. Refused unless all of them are met."""
    shown_draft(edit.current)
    kept = trials.kept(edit.database, edit.current.domain_id)
    edit.database.close()
    told = outcomes_once_published(request.app.state.engine, edit.current, kept, edit.user)
    if told is None:
        raise ConflictError(
            "Nothing was published: the trials are still being run on all accounts. Publish "
            "again in a moment."
        )
    unmet = [row for row, _ in kept if not told[row.id].met]
    if unmet:
        raise ConflictError(
            f"Nothing was published: {len(unmet)} of {len(kept)} trials "
            f"{'is' if len(unmet) == 1 else 'are'} not met. "
            f"“{unmet[0].title}”: {told[unmet[0].id].said}"
        )
    return told


@router.get(
    "/draft/changes.ldif",
    response_class=Response,
    responses={
        200: {
            "content": {"text/plain": {"schema": {"type": "string"}}},
            "description": "An LDIF file.",
        }
    },
)
def export(current: Current, database: Database) -> PlainTextResponse:
    """The draft as LDIF change records. What they leave out stands at the top of the file."""
    draft = shown_draft(current)
    row = drafts.find(database, current.domain_id, draft.id)
    title = f"{row.title}\n{row.reason}" if row.reason else row.title
    text = b"".join(write_changes(draft.live.estate, draft.operations, title))
    name = quote(f"{current.estate.domain.dns_name}-draft-{draft.id}.ldif", safe="")
    return PlainTextResponse(
        text, headers={"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    )


def _saved(edit: Editing, row: DraftRow, before: int) -> DraftDetail:
    return _detail(edit.saved(row, before), edit.database)


def _detail(current: Snapshot, database: Session) -> DraftDetail:
    draft = shown_draft(current)
    state = drafts.state_of(drafts.find(database, current.domain_id, draft.id, whole=False))
    estate = draft.live.estate
    tally = tallied(estate, draft.operations, Applied(current.estate, draft.conflicts))
    return DraftDetail(
        **draft_info(state, tally).model_dump(),
        groups=change_groups(draft.operations, estate, draft.conflicts),
        approval_required=current.approval_required,
        what_ifs=sum(isinstance(op, WHAT_IF) for op in draft.operations),
        left_out=[
            LeftOutInfo(what=left.what, why=left.why)
            for left in left_out(estate, draft.operations, draft.conflicts)
        ],
    )
