"""Policies: read, create, edit, delete, link, unlink."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, replace
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Depends, HTTPException, Query, Request
from fastapi.responses import JSONResponse
from sqlalchemy.orm import Session

from hornfels.api.deps import Current, Database, User, domain_for_writing, get_snapshots
from hornfels.api.schemas import Conflict, LinkNew, PolicyDetail, PolicyEdit, PolicyNew, SettingsEdit
from hornfels.api.snapshot import Snapshot, Snapshots
from hornfels.api.views import policy_detail
from hornfels.core.policy import DEFAULTS, Problem, Settings, problems
from hornfels.core.settings import BY_KEY
from hornfels.core.time import span_from_seconds
from hornfels.store import policies as store

router = APIRouter(prefix="/api/domains/{domain}/policies", tags=["policies"])

Renewal = Annotated[Snapshots, Depends(get_snapshots)]


def _detail(current: Snapshot | None, guid: UUID) -> PolicyDetail:
    if current is None or guid not in current.index:
        raise HTTPException(404, "This policy no longer exists; somebody deleted it. Reload to see what is there now.")
    return policy_detail(current, current.index[guid])


def _renewed(database: Session, snapshots: Snapshots, current: Snapshot, guid: UUID) -> PolicyDetail:
    return _detail(snapshots.of(database, current.estate.domain.dns_name), guid)


def _merged(settings: Settings, edit: SettingsEdit) -> Settings:
    changes: dict[str, Any] = {}
    for key in edit.model_fields_set:
        value = getattr(edit, key)
        setting = BY_KEY[key]
        if value is None and not setting.endless:
            raise _invalid([Problem(field=key, severity="error", message=f"{setting.label} needs a value.")])
        changes[key] = span_from_seconds(value) if setting.kind == "span" else value
    return replace(settings, **changes)


def _invalid(found: list[Problem]) -> HTTPException:
    return HTTPException(422, [{"field": p.field, "message": p.message} for p in found])


def _check(settings: Settings, precedence: int, before: list[Problem]) -> None:
    """Refuse errors that this edit would bring in. What a directory already held may stay as it is."""
    fresh = [p for p in problems(settings, precedence) if p.severity == "error" and p not in before]
    if fresh:
        raise _invalid(fresh)


@contextmanager
def _refusals() -> Iterator[None]:
    try:
        yield
    except store.RefusedError as error:
        raise HTTPException(422, [{"field": error.field, "message": str(error)}]) from None
    except LookupError as error:
        raise HTTPException(404, str(error)) from None


async def answer_conflict(request: Request, error: Exception) -> JSONResponse:
    """Both sides of a conflict: the person still has theirs, this is the stored one."""
    assert isinstance(error, store.ConflictError)  # noqa: S101
    guid, dns_name = error.current.guid, request.path_params["domain"]
    with Session(request.app.state.engine) as session:
        current = _detail(request.app.state.snapshots.of(session, dns_name), guid)
    body = Conflict(
        message=f"{current.changed_by} changed {current.name} while you were editing it. Nothing of yours was saved.",
        current=current,
    )
    return JSONResponse(body.model_dump(), status_code=409)


@router.get("/{guid}")
def get_policy(guid: UUID, current: Current) -> PolicyDetail:
    return _detail(current, guid)


@router.post("", status_code=201)
def create_policy(body: PolicyNew, current: Current, database: Database, user: User, snapshots: Renewal) -> PolicyDetail:
    settings = _merged(DEFAULTS, body.settings)
    _check(settings, body.precedence, [])
    with _refusals():
        row = store.create(database, domain_for_writing(database, current), body.name, body.precedence, settings, user)
    guid = row.guid
    database.commit()
    return _renewed(database, snapshots, current, guid)


@router.patch("/{guid}", responses={409: {"model": Conflict}})
def edit_policy(guid: UUID, body: PolicyEdit, current: Current, database: Database, user: User, snapshots: Renewal) -> PolicyDetail:
    with _refusals():
        domain = domain_for_writing(database, current)
        row = store.locked(database, domain, guid, body.version)
        before = Settings(**row.settings)
        settings = _merged(before, body.settings)
        precedence = row.precedence if body.precedence is None else body.precedence
        _check(settings, precedence, problems(before, row.precedence))
        changes = body.model_dump(include={"name", "precedence", "guarded"}, exclude_none=True)
        store.edit(database, domain, row, {**changes, "settings": asdict(settings)}, user)
    database.commit()
    return _renewed(database, snapshots, current, guid)


@router.delete("/{guid}", status_code=204, responses={409: {"model": Conflict}})
def delete_policy(guid: UUID, version: Annotated[int, Query()], current: Current, database: Database, _user: User) -> None:
    with _refusals():
        domain = domain_for_writing(database, current)
        store.remove(database, domain, store.locked(database, domain, guid, version))
    database.commit()


@router.post("/{guid}/links", responses={409: {"model": Conflict}})
def link_policy(guid: UUID, body: LinkNew, current: Current, database: Database, user: User, snapshots: Renewal) -> PolicyDetail:
    """Link a policy to an account or group of the estate, by its DN."""
    kind, target, dn = _target(current, body.dn)
    with _refusals():
        domain = domain_for_writing(database, current)
        store.link(database, domain, store.locked(database, domain, guid, body.version), kind, target, dn, user)
    database.commit()
    return _renewed(database, snapshots, current, guid)


@router.delete("/{guid}/links", responses={409: {"model": Conflict}})
def unlink_policy(
    guid: UUID, dn: Annotated[str, Query()], version: Annotated[int, Query()],
    current: Current, database: Database, user: User, snapshots: Renewal,
) -> PolicyDetail:  # fmt: skip
    with _refusals():
        domain = domain_for_writing(database, current)
        store.unlink(database, domain, store.locked(database, domain, guid, version), dn, user)
    database.commit()
    return _renewed(database, snapshots, current, guid)


def _target(current: Snapshot, dn: str) -> tuple[str, int, str]:
    estate = current.estate
    for kind, column in (("group", estate.groups.dn), ("account", estate.accounts.dn)):
        rows = column.find(dn)
        if len(rows):
            return kind, int(rows[0]), column[int(rows[0])]
    raise HTTPException(422, [{"field": "link", "message": f"There is no account or group '{dn}' in this domain."}])
