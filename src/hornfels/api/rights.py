"""What a route asks of whoever calls it. Every route says one thing; one that says nothing cannot
be served.
"""

from __future__ import annotations

from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from typing import Annotated, Literal

from anyio.to_thread import run_sync
from fastapi import Depends, HTTPException, Request
from fastapi.params import Depends as Dependency
from fastapi.routing import APIRoute
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import (
    EVERYWHERE,
    SAID,
    Right,
    domains_with,
    rights_anywhere,
    rights_in,
    roles_with,
)
from hornfels.refusals import ForbiddenError, ProofNeededError
from hornfels.service.places import domain_of
from hornfels.store import people
from hornfels.store.sessions import PROOF, Visitor
from hornfels.store.trail import Origin, act_for, note


async def get_visitor(request: Request) -> Visitor:
    """Who stands behind the request, as whoever guards the routes found it."""
    found = getattr(request.state, "visitor", None)
    if not isinstance(found, Visitor):
        raise HTTPException(401, "Sign in first.")
    return found


Person = Annotated[Visitor, Depends(get_visitor)]


def address_of(request: Request) -> str:
    """The address that a request comes from, "" where it is not known."""
    return request.client.host if request.client else ""


def origin_of(request: Request) -> Origin:
    """Who acts, from where, in which request."""
    found = getattr(request.state, "visitor", None)
    address = address_of(request)
    if found and found.token:
        address = f"{address} by token “{found.token}”"
    return Origin(
        found.name if found else "nobody", address, getattr(request.state, "request_id", "")
    )


def allowed(visitor: Visitor, domain: str | None) -> frozenset[Right]:
    """What somebody may do in a domain, or in one domain at least."""
    if domain is None:
        rights = rights_anywhere(visitor.grants)
    else:
        rights = rights_in(visitor.grants, domain)
    if visitor.only is None:
        return rights
    where, narrowed = visitor.only
    return rights & narrowed if where in (EVERYWHERE, domain) or domain is None else frozenset()


def domains_where(visitor: Visitor, right: Right) -> frozenset[str]:
    """The domains in which somebody may do it; `EVERYWHERE` among them for all."""
    held = domains_with(visitor.grants, right)
    if visitor.only is None:
        return held
    # A token is for one domain, or for all of its person's.
    where, narrowed = visitor.only
    if right not in narrowed:
        return frozenset()
    return held if where == EVERYWHERE else frozenset({where} if held & {where, EVERYWHERE} else ())


def prove(visitor: Visitor) -> None:
    """Raises `ProofNeededError` unless the person gave the password a moment ago. A token was made
    by somebody who had.
    """
    # A moment in the future was stored before the clock was set back.
    if not visitor.token and not timedelta(0) <= datetime.now(UTC) - visitor.proved_at <= PROOF:
        raise ProofNeededError("Give your password once more before this is done.")


class Needs:
    """A route's dependency: the right that it takes in the domain of its address, or anywhere where
    that names none; "" for anybody who is signed in, None for everybody. No script with a token
    comes in where the person has to be there (`in_person`). Every route that writes says whether it
    takes the password once more (`proof`).
    """

    def __init__(
        self,
        right: Right | Literal[""] | None,
        *,
        proof: bool | None = None,
        in_person: bool = False,
    ) -> None:
        self.right, self.proof, self.in_person = right, proof, in_person

    async def __call__(self, request: Request) -> None:
        if self.right is None:
            return
        visitor = await get_visitor(request)
        if self.in_person and visitor.token:
            raise ForbiddenError("A token may not do this: sign in yourself.")
        place = request.path_params.get("domain")
        domain = None if place is None else domain_of(place)
        if self.right and self.right not in allowed(visitor, domain):
            engine: Engine = request.app.state.engine
            words = await run_sync(_refuse, engine, self.right, domain, origin_of(request), request)
            raise ForbiddenError(words)
        if self.proof:
            prove(visitor)


def _refuse(
    engine: Engine, right: Right, domain: str | None, origin: Origin, request: Request
) -> str:
    """Leave it in the trail, and say what it takes and who can give that."""
    route = request.scope.get("route")
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        what = f"{request.method} {route.path if isinstance(route, APIRoute) else ''}"
        note(session, "refused", what, domain=domain or "", needs=right)
        who = people.with_role(session, "administrator", {EVERYWHERE, domain or EVERYWHERE})
    where = f" in {domain[:200]}" if domain else ""
    roles = " or ".join(roles_with(right))
    ask = f" {', '.join(who[:3])} can give it." if who else ""
    return f"You may not {SAID[right]}{where}: that takes the role {roles}.{ask}"


def needs(right: Right, *, proof: bool | None = None) -> Dependency:
    """The route takes this right, and with `proof` the password once more."""
    found: Dependency = Depends(Needs(right, proof=proof))
    return found


SIGNED_IN: Dependency = Depends(Needs(""))
"""The route is for anybody who is signed in, and for their scripts."""

IN_PERSON: Dependency = Depends(Needs("", in_person=True))
"""The route is for anybody who is signed in, and for no script."""


def signed_in(*, proof: bool, in_person: bool = False) -> Dependency:
    """The route writes, and is for anybody who is signed in."""
    found: Dependency = Depends(Needs("", proof=proof, in_person=in_person))
    return found


OPEN: Dependency = Depends(Needs(None, proof=False))
"""The route is for everybody."""


class _NeedsPerson(Needs):
    """A route's dependency: it is for somebody at their own page, whom the guard has found."""

    def __init__(self) -> None:
        super().__init__(None, proof=False)

    async def __call__(self, request: Request) -> None:
        if getattr(request.state, "own_person", None) is None:
            raise HTTPException(401, "Sign in first.")


UNDER_POLICY: Dependency = Depends(_NeedsPerson())
"""The route is for people under a policy, at their own page."""


class _NeedsCaller(Needs):
    """A route's dependency: it is for callers at the gate alone, and whoever guards the routes has
    found which one asks.
    """

    def __init__(self) -> None:
        super().__init__(None, proof=False)

    async def __call__(self, request: Request) -> None:
        if getattr(request.state, "at_the_gate", None) is None:
            raise HTTPException(401, "Ask with the token of a caller at the gate.")


CALLER: Dependency = Depends(_NeedsCaller())
"""The route is for callers at the gate."""


def refuse_undeclared(routes: Iterable[object]) -> None:
    """Raises `RuntimeError` for the first route that does not say whom it is for, or that writes
    and does not say whether it takes the password once more.
    """
    for route in routes:
        if not isinstance(route, APIRoute):
            continue
        if not _needed(route):
            raise RuntimeError(f"{route.path} does not say what right it takes")
        writes = not (route.methods or set()) <= {"GET", "HEAD"}
        if writes and all(one.proof is None for one in _needed(route)):
            raise RuntimeError(
                f"{route.path} writes and does not say whether it takes the password once more"
            )


def _needed(route: APIRoute) -> list[Needs]:
    return [d.dependency for d in route.dependencies if isinstance(d.dependency, Needs)]
