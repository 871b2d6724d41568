"""Drafts that are published into a real directory: begun, killed, continued, rolled back."""

from __future__ import annotations

from typing import Any
from uuid import UUID

import ldap
from sqlalchemy.orm import Session

from api_help import draft_step, work_off
from directory_server import BASE, REALM, change
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import removal
from hornfels.core.drafts.operations import (
    Change,
    EditSettings,
    GuardPolicy,
    Operations,
    RenamePolicy,
)
from hornfels.directory import writing
from hornfels.directory.link import Link
from hornfels.store import drafts, publications
from hornfels.store.models import DomainRow, DraftRow
from installation import DOMAIN, Installation
from killed import Moment, Watched

WRITER = {"name": f"Administrator@{REALM}", "secret": "tarnholt"}


STEPS: Watched = {
    (publications, "mark"): lambda *given: given[3],
    (writing, "_send"): lambda *_: "sent",
}
MOMENTS: dict[str, Moment] = {
    "begun": lambda seen: seen[-1:] == ["begun"],
    "sent": lambda seen: seen[-1:] == ["sent"],
    "done": lambda seen: seen[-1:] in (["done"], ["waiting"]),
}


def guid_of(estate: Estate, name: str) -> UUID:
    return next(p.guid for p in estate.policies if p.name == name)


def drafted(installation: Installation, operations: Operations) -> int:
    with Session(installation.engine) as session, session.begin():
        domain = session.query(DomainRow).one()
        return drafts.create(session, domain.id, "Autumn", "ann", operations).id


def published(installation: Installation, draft: int) -> dict[str, Any]:
    answer = draft_step(installation.client, "publish", f"{DOMAIN}~{draft}")
    assert answer.status_code == 200, answer.text
    job: dict[str, Any] = answer.json()["job"]
    return job


def published_whole(installation: Installation, draft: int) -> None:
    """Publish a draft, and have a worker write it into the directory."""
    published(installation, draft)
    work_off(installation.engine)


def under_way(installation: Installation) -> Any:
    return installation.client.get(f"{DOMAIN}/publication").json()


def gone_on(installation: Installation, *, back: bool) -> int:
    answer = installation.client.post(f"{DOMAIN}/publication", json={"back": back})
    return int(answer.status_code)


def state_of(installation: Installation, draft: int) -> str:
    with Session(installation.engine) as session:
        return session.get_one(DraftRow, draft).state


LONGER = EditSettings(policy="domain", changes={"min_length": Change(before=7, after=12)})


def guarded_removal(estate: Estate) -> Operations:
    """The guard of P1 goes, and P1 with it."""
    guid = guid_of(estate, "P1")
    lifted = apply(estate, (GuardPolicy(policy=guid, before=True, after=False),)).estate
    return (
        GuardPolicy(policy=guid, before=True, after=False),
        removal(lifted, guid),
        LONGER,
    )


def name_taken_over(estate: Estate) -> Operations:
    """P2 goes, and P3 takes its name."""
    renamed = RenamePolicy(policy=guid_of(estate, "P3"), before="P3", after="P2")
    return removal(estate, guid_of(estate, "P2")), renamed, LONGER


def stopped(installation: Installation, link: Link, operations: Operations) -> int:
    """Publish a draft that stops at its last step, the domain policy; return its number."""
    draft = drafted(installation, operations)
    set_length(link, 9)
    published(installation, draft)
    work_off(installation.engine)
    assert under_way(installation)["state"] == "stopped"
    return draft


def set_length(link: Link, length: int) -> None:
    change(link, BASE, (ldap.MOD_REPLACE, "minPwdLength", [str(length).encode()]))
