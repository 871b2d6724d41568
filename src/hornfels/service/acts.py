"""Acts that could lead round an approval: settings of approval and of the domain, imports
that take protection away, taking a domain out, roles, passwords of others. Each is asked for with a
reason; where approval is required, it happens when a second person has confirmed it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime
from importlib import import_module
from typing import Any, Literal, NamedTuple, cast
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.rights.roles import EVERYWHERE, Right, Role
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service import import_review, people
from hornfels.store import estates, history, jobs
from hornfels.store.models import ActRow, ConnectionRow, DomainRow
from hornfels.store.trail import note

Kind = Literal[
    "settings",
    "remove",
    "load",
    "grant",
    "let in",
    "reset",
    "elsewhere",
    "connect",
    "dumps",
    "disconnect",
    "linked groups",
    "notifications",
    "report order",
    "exposure order",
    "lifetimes",
    "gate client",
]

SETTINGS: Mapping[str, str] = {
    "linked groups": "hornfels.service.domains",
    "notifications": "hornfels.service.mailing",
    "report order": "hornfels.service.report_orders",
    "exposure order": "hornfels.service.exposure_orders",
    "lifetimes": "hornfels.service.lifetimes",
    "gate client": "hornfels.service.gate",
}
"""Settings of a domain, and the module whose `apply_setting` changes each. What is asked for says
itself in words (``said``) with its ``effect``; once it is done, the history has both.
"""

RIGHT: dict[Kind, Right] = {
    "settings": "settings",
    "remove": "settings",
    "load": "load",
    "grant": "people",
    "let in": "people",
    "reset": "people",
    "elsewhere": "people",
    "connect": "settings",
    "dumps": "settings",
    "disconnect": "settings",
    "linked groups": "settings",
    "notifications": "settings",
    "report order": "settings",
    "exposure order": "settings",
    "lifetimes": "settings",
    "gate client": "settings",
}
"""What whoever asks for it and whoever confirms it has to be allowed, in the act's domain."""


@dataclass(frozen=True, slots=True)
class Done:
    """It has happened. ``one_time`` is the password to be handed over, where it gave one."""

    one_time: str | None = None


def ask(
    session: Session, person: str, kind: Kind, domain: str, reason: str, **arguments: Any
) -> Done | ActRow:
    """Do it, or keep it until a second person confirms it. Commits."""
    reason = reasoned(reason)
    if second_needed(session, domain):
        row = ActRow(kind=kind, domain=domain, arguments=arguments, reason=reason, asked_by=person)
        session.add(row)
        session.flush()
        note(session, "asked for", sentence(row), domain=_shown(domain), act=row.id, reason=reason)
        session.commit()
        session.refresh(row)
        return row
    done = _carry_out(session, kind, domain, arguments, _Asked(person, reason))
    note(session, f"act: {kind}", domain=_shown(domain), **arguments, reason=reason)
    session.commit()
    return done


class _Asked(NamedTuple):
    """The person and the reason of an act, and the second person where there was one."""

    by: str
    reason: str
    approver: str | None = None


def _carry_out(
    session: Session, kind: Kind, domain: str, arguments: dict[str, Any], asked: _Asked
) -> Done:
    if kind in SETTINGS:
        row = _domain(session, domain)
        done: Done = import_module(SETTINGS[kind]).apply_setting(session, row, arguments, asked.by)
        _keep_in_history(session, row, arguments["said"], arguments["effect"], asked)
        return done
    done = _DO[kind](session, domain, arguments)
    here = select(DomainRow).where(DomainRow.dns_name == domain).with_for_update()
    if kind in IN_HISTORY and (row_there := session.scalars(here).one_or_none()):
        said = sentence(ActRow(kind=kind, domain=domain, arguments=arguments))
        _keep_in_history(session, row_there, said, "", asked)
    return done


IN_HISTORY: frozenset[Kind] = frozenset({"settings", "connect", "disconnect"})
"""Other settings of a domain that stand in its history once they are changed."""


def _keep_in_history(
    session: Session, row: DomainRow, said: str, effect: str, asked: _Asked
) -> None:
    policies, links = estates.load_policies(session, row)
    history.add(
        session,
        row,
        policies,
        links,
        estates.load_domain(row),
        kind="setting",
        title=said,
        effect=effect,
        author=asked.by,
        approver=asked.approver,
        reason=asked.reason,
    )


def reasoned(reason: str) -> str:
    """The reason without blanks around it. Raises `FieldsError` where there is none."""
    if not reason.strip():
        raise FieldsError(("reason", "Say why: it stands in the trail, for whoever looks later."))
    return reason.strip()


def second_needed(session: Session, domain: str) -> bool:
    """Whether approval is required there, or anywhere for what holds everywhere."""
    asked = select(DomainRow.id).where(DomainRow.approval_required)
    if domain != EVERYWHERE:
        asked = asked.where(DomainRow.dns_name == domain)
    return session.scalar(asked.limit(1)) is not None


def waiting(session: Session) -> list[ActRow]:
    """Acts that nobody has confirmed yet, the oldest first."""
    return list(session.scalars(select(ActRow).order_by(ActRow.id)))


def waits(session: Session, kind: Kind, domain: str) -> bool:
    """Return whether somebody has asked for an act of this kind that nobody has confirmed yet."""
    asked = select(ActRow.id).where(ActRow.kind == kind, ActRow.domain == domain)
    return session.scalar(asked.limit(1)) is not None


def waits_for_job(session: Session, job: UUID) -> bool:
    """Return whether somebody has asked to confirm the losses of a held job, and the request waits
    for a second person.
    """
    asked = select(ActRow.id).where(
        ActRow.kind == "load", ActRow.arguments["job"].astext == str(job)
    )
    return session.scalar(asked.limit(1)) is not None


def find(session: Session, number: int) -> ActRow:
    """An act, held for writing. Raises `NotFoundError`."""
    row = session.get(ActRow, number, with_for_update=True, populate_existing=True)
    if row is None:
        raise NotFoundError("This was confirmed or withdrawn already.")
    return row


def right_for(row: ActRow) -> Right:
    """What whoever confirms it has to be allowed in its domain."""
    return RIGHT[cast(Kind, row.kind)]


def confirm(session: Session, number: int, person: str) -> Done:
    """Let it happen. Raises `ConflictError` for whoever asked for it."""
    row = find(session, number)
    if row.asked_by == person:
        raise ConflictError("You asked for this yourself: somebody else has to confirm it.")
    kind = cast(Kind, row.kind)
    if RIGHT[kind] == "people" and row.arguments["name"] == person:
        raise ConflictError("This is about yourself: somebody else has to confirm it.")
    asked = _Asked(row.asked_by, row.reason, person)
    done = _carry_out(session, kind, row.domain, row.arguments, asked)
    note(
        session,
        f"act: {kind}",
        domain=_shown(row.domain),
        **row.arguments,
        reason=row.reason,
        asked_by=row.asked_by,
        confirmed_by=person,
    )
    session.delete(row)
    session.commit()
    return done


def withdraw(session: Session, number: int) -> None:
    """It does not happen."""
    row = find(session, number)
    note(session, "not confirmed", sentence(row), domain=_shown(row.domain), act=row.id)
    session.delete(row)
    session.commit()


def sentence(row: ActRow) -> str:
    """What would happen, in words."""
    given, where = row.arguments, "everywhere" if row.domain == EVERYWHERE else f"in {row.domain}"
    if row.kind in SETTINGS:
        return f"{row.domain}: {given['said']}"
    match cast(Kind, row.kind):
        case "settings":
            words = {
                "approval_required": ("approval by a second person", "no approval"),
                "trials_required": ("all trials met", "no trials met"),
            }
            wanted = [words[key][not value] for key, value in sorted(given.items())]
            return f"Publishing {where} wants {' and '.join(wanted)}"
        case "remove":
            return f"{row.domain} is taken out of Hornfels with all that is kept of it"
        case "load":
            return (
                f"{given['name']} is imported into {row.domain} though the domain loses protection"
            )
        case "dumps":
            return (
                f"Dumps of {row.domain} are imported for an hour though its directory is connected"
            )
        case "disconnect":
            return f"The directory of {row.domain} is disconnected"
        case "grant":
            return f"{given['name']} becomes {given['role']} {where}"
        case "let in":
            return f"{given['name']} may sign in again"
        case "reset":
            return f"{given['name']} gets a new password"
        case "elsewhere":
            return f"{given['name']} signs in at the provider from now on"
        case "connect":
            settings = given["settings"]
            servers = ", ".join(server["host"] for server in settings["servers"])
            return f"The directory of {row.domain} is read at {servers}"
        case _:
            raise ValueError(row.kind)


def details(row: ActRow) -> list[str]:
    """Return the effects of a waiting act, a sentence each, where the title does not say all."""
    effect = row.arguments.get("effect", "")
    return [effect] if effect else import_review.in_words(row.arguments.get("losses", []))


def _settings(session: Session, domain: str, arguments: dict[str, Any]) -> Done:
    row = _domain(session, domain)
    for key in ("approval_required", "trials_required"):
        if arguments.get(key) is not None:
            setattr(row, key, bool(arguments[key]))
    row.version += 1
    return Done()


def _remove(session: Session, domain: str, _arguments: dict[str, Any]) -> Done:
    estates.remove_domain(session, _domain(session, domain))
    return Done()


def _load(session: Session, _domain: str, arguments: dict[str, Any]) -> Done:
    job = jobs.find(session, UUID(arguments["job"]), for_writing=True)
    if job.state != "held":
        raise ConflictError("This load no longer waits. Load the file once more.")
    job.arguments = {**job.arguments, "confirmed": arguments["losses"]}
    jobs.retry(session, job)
    return Done()


def _grant(session: Session, domain: str, arguments: dict[str, Any]) -> Done:
    people.grant(session, arguments["name"], domain, cast(Role, arguments["role"]))
    return Done()


def _let_in(session: Session, _domain: str, arguments: dict[str, Any]) -> Done:
    people.let_in_again(session, arguments["name"])
    return Done()


def _reset(session: Session, _domain: str, arguments: dict[str, Any]) -> Done:
    return Done(people.reset(session, arguments["name"]))


def _elsewhere(session: Session, _domain: str, arguments: dict[str, Any]) -> Done:
    people.send_elsewhere(session, arguments["name"])
    return Done()


def _connect(session: Session, domain: str, arguments: dict[str, Any]) -> Done:
    row = session.get(ConnectionRow, domain, with_for_update=True)
    if row is None:
        row = ConnectionRow(dns_name=domain, version=0)
        session.add(row)
    row.settings, row.version = arguments["settings"], row.version + 1
    row.changed_by = arguments["by"]
    return Done()


def _dumps(session: Session, domain: str, _arguments: dict[str, Any]) -> Done:
    import_review.allow_dumps(session, domain, datetime.now(UTC))
    return Done()


def _disconnect(session: Session, domain: str, _arguments: dict[str, Any]) -> Done:
    row = session.get(ConnectionRow, domain, with_for_update=True)
    if row is None:
        raise NotFoundError(f"No directory is connected for {domain[:200]}.")
    session.delete(row)
    return Done()


def _domain(session: Session, domain: str) -> DomainRow:
    row = session.scalars(
        select(DomainRow).where(DomainRow.dns_name == domain).with_for_update()
    ).one_or_none()
    if row is None:
        raise NotFoundError(f"There is no domain '{domain[:200]}' here.")
    return row


def _shown(domain: str) -> str:
    return "" if domain == EVERYWHERE else domain


_DO: dict[str, Callable[[Session, str, dict[str, Any]], Done]] = {
    "settings": _settings,
    "remove": _remove,
    "load": _load,
    "grant": _grant,
    "let in": _let_in,
    "reset": _reset,
    "elsewhere": _elsewhere,
    "connect": _connect,
    "dumps": _dumps,
    "disconnect": _disconnect,
}
