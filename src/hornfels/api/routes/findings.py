"""What is worth raising in a domain, and what somebody has accepted of it."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from fastapi import APIRouter, Query, Request

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, User
from hornfels.api.rights import needs
from hornfels.api.schemas import (
    Acceptance,
    AcceptanceInfo,
    FindingInfo,
    Findings,
    MendInfo,
    PolicyEdit,
    SettingsEdit,
)
from hornfels.core.drafts.edits import fingerprint
from hornfels.core.findings.finding import Finding, Mend
from hornfels.core.policy.plain import plain
from hornfels.service import accepting
from hornfels.service.long_answers import findings_of
from hornfels.service.naming import policy_mark, policy_ref
from hornfels.service.snapshots import Snapshot
from hornfels.store import acceptances
from hornfels.store.models import AcceptedFindingRow

router = APIRouter(
    prefix="/api/domains/{domain}/findings",
    tags=["findings"],
    route_class=Route,
    dependencies=[needs("see")],
)


# What a mend leaves alone is left out: null would mean "never" to the policy it is sent to.
@router.get("", response_model_exclude_unset=True)
def list_findings(current: Current, database: Database, user: User, request: Request) -> Findings:
    """Gravest first; accepted ones say by whom, why and until when. None while they are still being
    looked for: ask again.
    """
    found = findings_of(request.app.state.engine, current, user)
    if found is None:
        return Findings(findings=None)
    held = acceptances.accepted(database, current.domain_id, datetime.now(UTC).date())
    return Findings(findings=[_finding(current, f, held.get(f.key)) for f in found])


@router.post("/accepted", status_code=204, dependencies=[needs("draft", proof=False)])
def accept(
    body: Acceptance, current: Current, database: Database, user: User, request: Request
) -> None:
    """Accept a finding with a reason, until the end of a day."""
    engine = request.app.state.engine
    accepting.accept(database, engine, current, user, body.key, body.reason, body.until)


@router.delete("/accepted", status_code=204, dependencies=[needs("draft", proof=False)])
def withdraw(
    key: Annotated[str, Query(max_length=500)], current: Current, database: Database
) -> None:
    accepting.withdraw(database, current, key)


def _finding(current: Snapshot, f: Finding, held: AcceptedFindingRow | None) -> FindingInfo:
    return FindingInfo(
        key=f.key,
        kind=f.kind,
        severity=f.severity,
        title=f.title,
        why=f.why,
        policy=None if f.policy is None else policy_ref(current, f.policy),
        mark=policy_mark(current, f.policy) if f.policy is not None else None,
        accounts=f.accounts,
        setting=f.setting,
        account=f.account,
        mend=_mend(current, f.mend) if f.mend else None,
        accepted=AcceptanceInfo(reason=held.reason, until=held.until, by=held.user_name)
        if held
        else None,
    )


def _mend(current: Snapshot, mend: Mend) -> MendInfo:
    guid = current.estate.policies[mend.policy].guid
    values = {key: plain(key, value) for key, value in mend.settings.items()}
    edit = PolicyEdit(
        version=fingerprint(current.estate, guid),
        precedence=mend.precedence,
        guarded=True if mend.guard else None,
        settings=SettingsEdit.model_validate(values),
    )
    return MendInfo(label=mend.label, guid=str(guid), edit=edit)
