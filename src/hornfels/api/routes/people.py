"""Who may do what, and what waits for a second person."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path

from hornfels.api.address import Route
from hornfels.api.deps import Database
from hornfels.api.people_schemas import (
    ActAnswer,
    ActInfo,
    Held,
    PeopleAnswer,
    PersonChange,
    PersonInfo,
    PersonNew,
    RoleChange,
    RoleInfo,
)
from hornfels.api.rights import IN_PERSON, Person, allowed, domains_where, needs, prove, signed_in
from hornfels.api.schemas import Number
from hornfels.core.rights.roles import (
    ALLOWED,
    EVERYWHERE,
    RIGHTS,
    ROLES,
    SAID,
    Right,
)
from hornfels.refusals import ForbiddenError
from hornfels.service import acts, domains
from hornfels.service import people as service
from hornfels.store import people, sessions
from hornfels.store.models import ActRow
from hornfels.store.sessions import Visitor

router = APIRouter(prefix="/api", tags=["people"], route_class=Route)

Name = Annotated[str, Path(max_length=200)]


@router.get("/people", dependencies=[needs("people")])
def list_people(visitor: Person, database: Database) -> PeopleAnswer:
    """Everybody who may sign in, with the roles in the domains that one may give roles in."""
    mine = domains_where(visitor, "people")
    grants = people.all_grants(database)
    where = [EVERYWHERE, *domains.names(database)] if EVERYWHERE in mine else sorted(mine)
    seen = sessions.last_seen(database)
    return PeopleAnswer(
        people=[
            PersonInfo(
                name=row.name,
                grants=[
                    Held(domain=domain, role=role)
                    for domain, roles in sorted(grants.get(row.name, {}).items())
                    if EVERYWHERE in mine or domain in mine
                    for role in ROLES
                    if role in roles
                ],
                shut=row.shut,
                one_time=row.one_time_until is not None,
                elsewhere=row.password_hash is None and row.directory is None,
                directory=row.directory,
                added_at=row.added_at.isoformat(),
                seen_at=seen[row.name].isoformat() if row.name in seen else None,
            )
            for row in people.everybody(database)
        ],
        roles=[
            RoleInfo(role=role, allows=[SAID[right] for right in RIGHTS if right in ALLOWED[role]])
            for role in ROLES
        ],
        domains=where,
    )


@router.post("/people", status_code=201, dependencies=[needs("people", proof=True)])
def add_person(body: PersonNew, visitor: Person, database: Database) -> ActAnswer:
    """Let somebody sign in, with a password to be used once or at the provider. They hold no role
    yet.
    """
    _everywhere(visitor, "people")
    given = service.add(database, body.name, elsewhere=body.elsewhere)
    database.commit()
    return ActAnswer(waits=False, one_time=given)


@router.post("/people/{name}/roles", dependencies=[needs("people", proof=True)])
def change_role(name: Name, body: RoleChange, visitor: Person, database: Database) -> ActAnswer:
    """Give or take a role. Where approval is required, giving waits for a second person."""
    _in(visitor, "people", body.domain)
    if body.held:
        service.refuse_domain(database, body.domain)
        service.find(database, name)
        asked = {"name": name, "role": body.role}
        return _answer(acts.ask(database, visitor.name, "grant", body.domain, body.reason, **asked))
    service.revoke(database, name, body.domain, body.role, acts.reasoned(body.reason))
    database.commit()
    return ActAnswer(waits=False)


@router.post("/people/{name}/sign-in", dependencies=[needs("people", proof=True)])
def change_sign_in(
    name: Name, body: PersonChange, visitor: Person, database: Database
) -> ActAnswer:
    """Shut somebody out, let them in again, give them a password to be used once, or send them to
    the provider. What gives waits for a second person where approval is required anywhere.
    """
    _everywhere(visitor, "people")
    if body.what == "shut":
        service.shut(database, name, acts.reasoned(body.reason))
        database.commit()
        return ActAnswer(waits=False)
    service.find(database, name)
    return _answer(acts.ask(database, visitor.name, body.what, EVERYWHERE, body.reason, name=name))


@router.get("/acts", dependencies=[IN_PERSON])
def list_acts(visitor: Person, database: Database) -> list[ActInfo]:
    """What waits for a second person and concerns one: one's own, and what one may confirm."""
    return [
        ActInfo(
            id=row.id,
            sentence=acts.sentence(row),
            details=acts.details(row),
            reason=row.reason,
            asked_by=row.asked_by,
            asked_at=row.asked_at.isoformat(),
            mine=row.asked_by == visitor.name,
        )
        for row in acts.waiting(database)
        if row.asked_by == visitor.name or _may(visitor, row)
    ]


@router.post("/acts/{act}/confirm", dependencies=[signed_in(proof=True, in_person=True)])
def confirm_act(act: Number, visitor: Person, database: Database) -> ActAnswer:
    """Let it happen, as the second person."""
    if not _may(visitor, acts.find(database, act)):
        raise ForbiddenError("This is for somebody to confirm who could have asked for it.")
    prove(visitor)
    return _answer(acts.confirm(database, act, visitor.name))


@router.delete(
    "/acts/{act}", status_code=204, dependencies=[signed_in(proof=False, in_person=True)]
)
def withdraw_act(act: Number, visitor: Person, database: Database) -> None:
    """It does not happen: for whoever asked for it, and for whoever could confirm it."""
    row = acts.find(database, act)
    if row.asked_by != visitor.name and not _may(visitor, row):
        raise ForbiddenError("This is for whoever asked for it, or could confirm it.")
    acts.withdraw(database, act)


def _may(visitor: Visitor, row: ActRow) -> bool:
    return acts.right_for(row) in allowed(visitor, row.domain)


def _in(visitor: Visitor, right: Right, domain: str) -> None:
    if right not in allowed(visitor, domain):
        where = "everywhere" if domain == EVERYWHERE else f"in {domain}"
        raise ForbiddenError(f"You may not {SAID[right]} {where}.")


def _everywhere(visitor: Visitor, right: Right) -> None:
    _in(visitor, right, EVERYWHERE)


def _answer(done: acts.Done | ActRow) -> ActAnswer:
    if isinstance(done, ActRow):
        return ActAnswer(waits=True)
    return ActAnswer(waits=False, one_time=done.one_time)
