"""How domains' directories are reached: set, and turned into what the link needs."""

from __future__ import annotations

import re
from datetime import UTC, datetime
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.lockout.bind_budget import BindBudget, LockoutRule, bind_budget
from hornfels.core.rights.roles import Role
from hornfels.core.values.dn import DnError, dn_key
from hornfels.core.values.time import MINUTE
from hornfels.directory.reach import Reach, Server
from hornfels.directory.testing import SIGN_IN_TO_READ, SIGN_IN_TO_WRITE, Step, steps
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.secrets_kept import NAME, kept
from hornfels.service import acts
from hornfels.service.directory_binds import synced_rule
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import bind_attempts
from hornfels.store.models import ConnectionRow

_HOST = re.compile(r"[A-Za-z0-9_](?:[A-Za-z0-9._-]{0,253}[A-Za-z0-9_])?")
_PIN = re.compile(r"[0-9a-f]{64}")


class _Kept(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class ServerName(_Kept):
    """A directory server by the name that stands in its certificate."""

    host: str = Field(max_length=255)
    port: int | None = Field(None, ge=1, le=65535)
    address: str = Field("", max_length=255, description="where that name cannot be looked up")


class Signer(_Kept):
    """An account of the directory that Hornfels signs in with, and what its secret is called."""

    name: str = Field("", max_length=1024)
    secret: str = Field("", max_length=64)


class Door(_Kept):
    """Whoever is in a group, at any depth, signs in with what they have in the directory, in a
    role.
    """

    group: str = Field(max_length=4096, description="its DN")
    role: Role


class Connection(_Kept):
    """How a domain's directory is reached, by whom it is read, and by whom it is written."""

    servers: tuple[ServerName, ...] = Field(min_length=1, max_length=20)
    security: Literal["ldaps", "starttls", "none"] = "ldaps"
    authorities: str = Field(
        "", max_length=200_000, description="certificates (PEM) that the servers' are trusted by"
    )
    pinned: str = Field(
        "", max_length=128, description="SHA-256 of the one certificate that is taken, in hex"
    )
    bind: Literal["simple", "gssapi"] = "simple"
    reader: Signer = Signer()
    writer: Signer | None = None
    publishes: bool = Field(
        True, description="whether publishing writes too, or gives files to be applied by hand"
    )
    every: int | None = Field(
        None, ge=1, le=10_080, description="minutes after which it is read again by itself"
    )
    doors: tuple[Door, ...] = Field((), max_length=50)
    stage: str = Field(
        "", max_length=4096, description="DN of the container in which accounts rehearse"
    )
    own_page: bool = Field(
        False, description="whether the people of the domain have a page of their own, /you"
    )


def find(session: Session, dns_name: str) -> tuple[ConnectionRow, Connection]:
    """Raises `NotFoundError` where no directory is connected."""
    row = session.get(ConnectionRow, dns_name)
    if row is None:
        raise NotFoundError(f"No directory is connected for {dns_name[:200]}.")
    return row, Connection.model_validate(row.settings)


def refuse(given: Connection, where: Settings) -> None:
    """Raises `FieldsError` for what cannot be a connection."""
    problems: list[tuple[str, str]] = []
    for number, server in enumerate(given.servers):
        if _HOST.fullmatch(server.host) is None:
            problems.append((f"servers.{number}.host", "Give the DNS name of a server."))
        if server.address and re.fullmatch(r"[0-9A-Fa-f:.]+", server.address) is None:
            problems.append((f"servers.{number}.address", "Give an IP address, or nothing."))
    if given.bind == "gssapi" and given.security != "none":
        problems.append(
            ("security", "With a ticket Kerberos itself encrypts: choose “by Kerberos”.")
        )
    elif given.security == "none" and given.bind != "gssapi" and not where.directory_plain:
        problems.append(
            (
                "security",
                "Without TLS whoever is on the way reads the password along. It is refused unless "
                "HORNFELS_DIRECTORY_PLAIN is set on the machine, which is for tests.",
            )
        )
    if given.pinned and _PIN.fullmatch(_pin(given.pinned)) is None:
        problems.append(("pinned", "Give the 64 hexadecimal digits of a SHA-256."))
    if given.authorities and "-----BEGIN CERTIFICATE-----" not in given.authorities:
        problems.append(("authorities", "Paste certificates as PEM (-----BEGIN CERTIFICATE-----)."))
    for number, door in enumerate(given.doors):
        if not _is_dn(door.group):
            problems.append((f"doors.{number}.group", "Give the DN of a group (CN=…,DC=…)."))
    if given.stage and not _is_dn(given.stage):
        problems.append(("stage", "Give the DN of a container (OU=…,DC=…), or nothing."))
    if given.stage and not given.writer:
        problems.append(("stage", "Rehearsing takes an account that writes."))
    signers = [("reader", given.reader)] + ([("writer", given.writer)] if given.writer else [])
    for field, signer in signers:
        if given.bind == "gssapi":
            continue
        if not signer.name.strip():
            problems.append((f"{field}.name", "Name the account, as name@domain or by its DN."))
        if NAME.fullmatch(signer.secret) is None:
            problems.append(
                (f"{field}.secret", "Say what its secret is called: small letters, digits, . and -")
            )
    if problems:
        raise FieldsError(*problems)


def _is_dn(text: str) -> bool:
    try:
        return "=" in text and bool(dn_key(text))
    except DnError:
        return False


def _pin(written: str) -> str:
    return re.sub("[ :]", "", written).lower()


def propose(
    session: Session,
    person: str,
    dns_name: str,
    given: Connection,
    version: int,
    reason: str,
    where: Settings,
) -> bool:
    """Connect a directory, or reach it otherwise, if it is the version that was seen (0 for none).
    It is an act with a reason; False if it waits for a second person.
    """
    if re.fullmatch(r"[a-z0-9](?:[a-z0-9._-]{0,252}[a-z0-9])?", dns_name) is None:
        raise FieldsError(("dns_name", "Give the DNS name of the domain in small letters."))
    refuse(given, where)
    row = session.get(ConnectionRow, dns_name, with_for_update=True)
    if (row.version if row else 0) != version:
        raise ConflictError("Somebody changed the connection meanwhile. Look at it again.")
    settings = given.model_dump(mode="json")
    done = acts.ask(session, person, "connect", dns_name, reason, settings=settings, by=person)
    return isinstance(done, acts.Done)


def refuse_elsewhere(session: Session, dns_name: str, given: Connection) -> None:
    """Where a second person has to agree on a connection, a password is sent to no server that
    nobody has agreed on: raises `ConflictError`.
    """
    row = session.get(ConnectionRow, dns_name)
    asked = given.model_dump(mode="json")
    held = row.settings if row else {}
    where = ("servers", "security", "authorities", "pinned")
    same = all(asked[key] == held.get(key) for key in where)
    if not same and acts.second_needed(session, dns_name):
        raise ConflictError(
            "Where approval is required, only a connection that is saved can be tried: it sends "
            "passwords to these servers. Save it; when a second person has confirmed it, try it."
        )


def drop(session: Session, dns_name: str, reason: str, person: str) -> bool:
    """Forget how a directory is reached; what was read stays. False if a second person has to
    agree.
    """
    find(session, dns_name)
    return isinstance(acts.ask(session, person, "disconnect", dns_name, reason), acts.Done)


def reader(given: Connection, where: Settings) -> Reach:
    return _reach(given, given.reader, where)


def writer(given: Connection, where: Settings) -> Reach:
    """Raises `ConflictError` where nobody is set to write."""
    if given.writer is None:
        raise ConflictError("No account to write with is set in the connection (Sources).")
    return _reach(given, given.writer, where)


def _reach(given: Connection, signer: Signer, where: Settings) -> Reach:
    simple = given.bind == "simple"
    return Reach(
        servers=tuple(Server(s.host, s.port, s.address or None) for s in given.servers),
        security=given.security,
        authorities=given.authorities or None,
        pinned=bytes.fromhex(_pin(given.pinned)) if given.pinned else None,
        bind=given.bind,
        name=signer.name,
        secret=kept(signer.secret, secrets_folder(where)) if simple else "",
    )


def secrets_folder(where: Settings) -> Path:
    return where.home / "secrets"


def tried(
    engine: Engine, current: Snapshot | None, given: Connection, dns_name: str, where: Settings
) -> list[Step]:
    """Return what works of a connection, step by step. A test with a wrong password is a failed
    attempt at the account, and counts like every other attempt.
    """
    refuse(given, where)
    try:
        reach = reader(given, where)
        other = writer(given, where) if given.writer else None
    except ConflictError as error:
        return [Step("Find the secrets", "fails", str(error))]
    titles = {SIGN_IN_TO_READ: reach} | ({SIGN_IN_TO_WRITE: other} if other else {})
    accounts: dict[bytes, set[str]] = {}
    for title, one in titles.items():
        key, budget = _account(current, dns_name, one.name)
        if one.bind == "simple" and not accounts.setdefault(key, set()):
            with Session(engine) as session, session.begin():
                wait = bind_attempts.begin(session, key, budget)
            if wait:
                words = (
                    f"Wrong passwords of {one.name} were tried a moment ago. Try again in {wait} "
                    "seconds, so that the account does not lock."
                )
                return [Step(title, "fails", words)]
        accounts.get(key, set()).add(title)
    groups = [door.group for door in given.doors]
    now = datetime.now(UTC)
    found = list(steps(reach, other, dns_name, now, groups=groups, stage=given.stage))
    failed = {step.title for step in found if step.state == "fails"}
    with Session(engine) as session, session.begin():
        for key, where_it_signs_in in accounts.items():
            if not where_it_signs_in & failed:
                bind_attempts.give_back(session, key)
    return found


_OF_AN_ACCOUNT_THAT_WAS_NOT_SYNCED = LockoutRule(5, 30 * MINUTE)
"""By which an account is spared that Hornfels knows nothing of yet."""


def _account(current: Snapshot | None, dns_name: str, name: str) -> tuple[bytes, BindBudget]:
    """Return the key and the budget of the account of a connection."""
    sid = rule = None
    row = current.estate.find_account(bind_attempts.local_name(name)) if current else None
    if current is not None and row is not None:
        sid = f"{current.estate.domain.sid}-{current.estate.accounts.rid[row]}"
        rule = synced_rule(current, sid)
    key = bind_attempts.key_of(dns_name, sid, name)
    return key, bind_budget(rule or _OF_AN_ACCOUNT_THAT_WAS_NOT_SYNCED)
