"""Drafts: the changes of one as sentences, its impact, review and publishing."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path, Query, Request
from fastapi.responses import PlainTextResponse, Response
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Edit, Renewal, Rights, User
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.publication_schemas import PublishedInfo
from hornfels.api.rights import needs
from hornfels.api.schemas import (
    DraftApproval,
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
from hornfels.api.views import change_groups, draft_info, job_info, now_moment
from hornfels.core.drafts.applying import Applied
from hornfels.core.drafts.approval import draft_text
from hornfels.core.drafts.impact import impact
from hornfels.core.drafts.operations import (
    WHAT_IF,
)
from hornfels.core.policy.model import PolicyRef
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.formats.changes import left_out, write_changes
from hornfels.service import drafts as service
from hornfels.service import publishing
from hornfels.service.editing import shown_draft
from hornfels.service.naming import policy_mark, policy_name
from hornfels.service.places import live_at
from hornfels.service.snapshots import Snapshot, tallied
from hornfels.store import drafts

router = APIRouter(
    prefix="/api/domains/{domain}", tags=["drafts"], route_class=Route, dependencies=[needs("see")]
)

MOST_NAMES = 12


@router.get("/drafts")
def list_drafts(current: Current, database: Database, snapshots: Renewal) -> list[DraftInfo]:
    """The open drafts of a domain, the latest changed first."""
    return [draft_info(state, tally) for state, tally in snapshots.in_short(database, current.live)]


@router.post("/drafts", status_code=201, dependencies=[needs("draft", proof=False)])
def open_draft(body: DraftNew, current: Current, database: Database, user: User) -> DraftInfo:
    """Open a draft. Without a title it is the person's own of today, a new one if there is none
    yet.
    """
    row = service.open_draft(database, current, user, body.title.strip())
    return draft_info(*service.in_short(current, row))


@router.get("/draft")
def get_draft(current: Current, database: Database) -> DraftDetail:
    """The draft that is shown, as sentences by object."""
    return _detail(current, database)


@router.patch("/draft", dependencies=[needs("draft", proof=False)])
def describe_draft(body: DraftEdit, edit: Edit) -> DraftDetail:
    title, reason = body.title.strip(), body.reason.strip()
    return _detail(service.describe(edit, body.version, title, reason), edit.database)


@router.delete("/draft", status_code=204, dependencies=[needs("draft", proof=False)])
def drop_draft(
    domain: str,
    version: Annotated[Version, Query()],
    database: Database,
    user: User,
    rights: Rights,
    snapshots: Renewal,
) -> None:
    place = live_at(domain, snapshots)
    service.discard(database, *place, version, user, of_others="settings" in rights)


@router.post("/draft/close", status_code=204, dependencies=[needs("draft", proof=False)])
def close_draft(body: DraftVersion, edit: Edit) -> None:
    """End a draft of which nothing is left to do: all of it is so already."""
    service.close(edit, body.version)


@router.post("/draft/undo", dependencies=[needs("draft", proof=False)])
def undo(body: DraftVersion, edit: Edit) -> DraftDetail:
    return _detail(service.undo(edit, body.version), edit.database)


@router.post("/draft/redo", dependencies=[needs("draft", proof=False)])
def redo(body: DraftVersion, edit: Edit) -> DraftDetail:
    return _detail(service.redo(edit, body.version), edit.database)


@router.delete("/draft/operations/{number}", dependencies=[needs("draft", proof=False)])
def drop_operation(
    number: Annotated[int, Path(ge=0, lt=2**31)], version: Annotated[Version, Query()], edit: Edit
) -> DraftDetail:
    """Take one operation out of the draft. What depended on it shows as not fitting."""
    return _detail(service.drop_operation(edit, number, version), edit.database)


@router.post("/draft/operations/{number}/keep", dependencies=[needs("draft", proof=False)])
def keep_operation(
    number: Annotated[int, Path(ge=0, lt=2**31)], body: DraftVersion, edit: Edit
) -> DraftDetail:
    """Resolve a conflict in the draft's favour: what is live now becomes what the operation
    changes.
    """
    return _detail(service.keep_operation(edit, number, body.version), edit.database)


@router.post("/draft/renumber", dependencies=[needs("draft", proof=False)])
def renumber_policies(edit: Edit) -> DraftDetail:
    """Give every policy a number with gaps, in the same order."""
    return _detail(service.renumber_policies(edit), edit.database)


@router.post("/draft/memberships", dependencies=[needs("draft", proof=False)])
def weigh_membership(body: WhatIfMembership, edit: Edit) -> DraftDetail:
    """What if this account or group were in that group, or were not? Never published."""
    current = service.weigh_membership(edit, body.member, body.group, join=body.join)
    return _detail(current, edit.database)


@router.post("/draft/flags", dependencies=[needs("draft", proof=False)])
def weigh_flag(body: WhatIfFlag, edit: Edit) -> DraftDetail:
    """What if this account had this flag, or had it not? Never published."""
    current = service.weigh_flag(edit, body.account, body.flag, on=body.on)
    return _detail(current, edit.database)


@router.get("/draft/impact")
def get_impact(current: Current) -> ImpactInfo:
    """What the draft does to people."""
    live = shown_draft(current).live
    told = impact(live.estate, live.resolution, current.estate, current.resolution, now_moment())

    def side(snapshot: Snapshot, guid: PolicyRef) -> tuple[str, int | None]:
        policy = DOMAIN_POLICY if guid == "domain" else snapshot.index[guid]
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
        under_addition_before=told.besides.before,
        under_addition=told.besides.after,
        asked_otherwise=told.besides.changes,
        weaker_privileged=len(told.weaker_privileged),
        weaker_privileged_names=[
            live.estate.accounts.name[row] for row in told.weaker_privileged[:MOST_NAMES]
        ],
    )


@router.post("/draft/approve", dependencies=[needs("approve", proof=True)])
def approve(body: DraftApproval, edit: Edit) -> DraftDetail:
    """Approve the draft as it was read. A later change of its text ends the approval."""
    return _detail(service.approve(edit, body.version, body.text), edit.database)


@router.post("/draft/publish", dependencies=[needs("publish", proof=True)])
def publish(body: DraftVersion, edit: Edit, request: Request) -> PublishedInfo:
    """Make the draft live: all of it or, if anything does not fit, nothing. What is so already is
    left as it is. Where somebody is set to write into the directory, a job does so first.
    """
    job = publishing.publish(edit, request.app.state.engine, body.version)
    return PublishedInfo(job=job_info(job) if job else None)


@router.get(
    "/draft/changes.ldif",
    dependencies=[exported("a draft as change records")],
    response_class=Response,
    responses=sent_as("text/plain", "An LDIF file."),
)
def export(current: Current, database: Database) -> PlainTextResponse:
    """The draft as LDIF change records. What they leave out stands at the top of the file."""
    draft = shown_draft(current)
    row = drafts.find(database, current.domain_id, draft.id)
    title = f"{row.title}\n{row.reason}" if row.reason else row.title
    text = b"".join(write_changes(draft.live.estate, draft.operations, title))
    name = f"{current.estate.domain.dns_name}-draft-{draft.id}.ldif"
    return PlainTextResponse(text, headers=attached(name))


def _detail(current: Snapshot, database: Session) -> DraftDetail:
    draft = shown_draft(current)
    state = drafts.state_of(drafts.find(database, current.domain_id, draft.id, whole=False))
    estate = draft.live.estate
    tally = tallied(estate, draft.operations, Applied(current.estate, draft.conflicts))
    return DraftDetail(
        **draft_info(state, tally).model_dump(),
        groups=change_groups(draft.operations, estate, draft.conflicts),
        text=draft_text(estate, draft.operations).digest,
        approval_required=current.approval_required,
        what_ifs=sum(isinstance(op, WHAT_IF) for op in draft.operations),
        left_out=[
            LeftOutInfo(what=left.what, why=left.why)
            for left in left_out(estate, draft.operations, draft.conflicts)
        ],
    )
