"""Tables as SQLAlchemy 2 typed models.

An *estate* is one reading of a domain's directory. A domain points at its present estate; a reload
writes a new one beside it and moves the pointer in the same transaction, so readers see the old or
the new, never a mixture.
"""

from __future__ import annotations

from datetime import date, datetime
from typing import Any
from uuid import UUID

from sqlalchemy import (
    BigInteger,
    DateTime,
    ForeignKey,
    ForeignKeyConstraint,
    Identity,
    Index,
    LargeBinary,
    MetaData,
    UniqueConstraint,
    false,
    func,
)
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from hornfels.store.storable import StorableText


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_name)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {  # noqa: RUF012 - the declarative base reads it from the class
        str: StorableText,
        dict[str, Any]: JSONB,
        list[Any]: JSONB,
        datetime: DateTime(timezone=True),
    }


class DomainRow(Base):
    """A domain, its own policy, and which estate is its present one. ``version`` counts every
    change to what it resolves to.

    ``lifetimes_on`` is the day for which ended passwords were last gone through, ``lifetimes_told``
    what came of that. ``successors`` leads from the GUID that a policy had here to the one the
    directory gave the same object.
    """

    __tablename__ = "domains"

    id: Mapped[int] = mapped_column(primary_key=True)
    dns_name: Mapped[str] = mapped_column(unique=True)
    estate_id: Mapped[int]
    version: Mapped[int] = mapped_column(default=1)
    dn: Mapped[str]
    sid: Mapped[str]
    functional_level: Mapped[int | None]
    linked_groups: Mapped[str]
    settings: Mapped[dict[str, Any]]
    other_properties: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    gpo_links: Mapped[list[Any]]
    templates: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    addition: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    term_lists: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    places: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    notices: Mapped[list[Any]]
    source: Mapped[str]
    loaded_at: Mapped[datetime] = mapped_column(server_default=func.now())
    approval_required: Mapped[bool] = mapped_column(default=False, server_default=false())
    trials_required: Mapped[bool] = mapped_column(default=False, server_default=false())
    lifetimes_enforced: Mapped[bool] = mapped_column(default=False, server_default=false())
    lifetimes_on: Mapped[date | None]
    lifetimes_told: Mapped[str] = mapped_column(default="", server_default="")
    lifetimes_spared: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    exposure_told: Mapped[str] = mapped_column(default="", server_default="")
    successors: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")


class AccountRow(Base):
    __tablename__ = "accounts"

    estate_id: Mapped[int] = mapped_column(primary_key=True)
    row: Mapped[int] = mapped_column(primary_key=True)
    dn: Mapped[str]
    name: Mapped[str]
    display_name: Mapped[str]
    other_names: Mapped[str] = mapped_column(default="", server_default="")
    mail: Mapped[str] = mapped_column(default="", server_default="")
    language: Mapped[str] = mapped_column(default="", server_default="")
    rid: Mapped[int] = mapped_column(BigInteger)
    control: Mapped[int] = mapped_column(BigInteger)
    password_set: Mapped[int] = mapped_column(BigInteger)
    bad_count: Mapped[int]
    bad_time: Mapped[int] = mapped_column(BigInteger)
    lockout_time: Mapped[int] = mapped_column(BigInteger)
    primary_group: Mapped[int]


class GroupRow(Base):
    __tablename__ = "groups"

    estate_id: Mapped[int] = mapped_column(primary_key=True)
    row: Mapped[int] = mapped_column(primary_key=True)
    dn: Mapped[str]
    name: Mapped[str]
    rid: Mapped[int] = mapped_column(BigInteger)
    kind: Mapped[int] = mapped_column(BigInteger)


class _Edge:
    """Edges carry no key of their own: they are only written and read whole, millions at a time."""

    estate_id: Mapped[int]
    member: Mapped[int]
    container: Mapped[int]


class AccountMembershipRow(_Edge, Base):
    __tablename__ = "account_memberships"
    __table_args__ = (Index("ix_account_memberships_estate_id", "estate_id"),)
    __mapper_args__ = {"primary_key": ["estate_id", "member", "container"]}  # noqa: RUF012


class GroupMembershipRow(_Edge, Base):
    __tablename__ = "group_memberships"
    __table_args__ = (Index("ix_group_memberships_estate_id", "estate_id"),)
    __mapper_args__ = {"primary_key": ["estate_id", "member", "container"]}  # noqa: RUF012


class PolicyRow(Base):
    """A fine-grained policy. ``mark`` numbers its hue and texture; while ``guarded`` it cannot be
    deleted.
    """

    __tablename__ = "policies"
    __table_args__ = (UniqueConstraint("domain_id", "name"),)

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    guid: Mapped[UUID] = mapped_column(primary_key=True)
    dn: Mapped[str]
    name: Mapped[str]
    precedence: Mapped[int]
    settings: Mapped[dict[str, Any]]
    mark: Mapped[int]
    guarded: Mapped[bool] = mapped_column(default=True)
    addition: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    changed_by: Mapped[str]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())


class LostPolicyRow(Base):
    """Rules, guard and mark of a policy that is gone (see `hornfels.store.lost_policies`)."""

    __tablename__ = "lost_policies"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    guid: Mapped[UUID] = mapped_column(primary_key=True)
    dn: Mapped[str]
    name: Mapped[str]
    mark: Mapped[int]
    guarded: Mapped[bool]
    addition: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    lost_at: Mapped[datetime] = mapped_column(server_default=func.now())


class TermsRow(Base):
    """Blocked terms that a list of the domain holds or once held, by their digest, one a line (see
    `hornfels.store.terms`). They never change.
    """

    __tablename__ = "terms"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    digest: Mapped[str] = mapped_column(primary_key=True)
    terms: Mapped[str]


class LinkRow(Base):
    """A policy's link. ``target`` is a row of the domain's present estate, −1 for what is no
    account or group.
    """

    __tablename__ = "links"

    id: Mapped[int] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"), index=True)
    guid: Mapped[UUID]
    kind: Mapped[str]
    target: Mapped[int]
    dn: Mapped[str]


class DraftRow(Base):
    """A change set. ``past`` and ``future`` are the steps that undo and redo take, the next one
    last (see `steps`).

    Any change ends an approval. ``approved_text`` is the text that was approved (see
    `hornfels.core.drafts.approval.DraftText`), ``approval_ended`` the reason for which the last
    approval ended. ``contributors`` are all who have ever changed it: none of them can approve it.
    """

    __tablename__ = "drafts"

    id: Mapped[int] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    reason: Mapped[str] = mapped_column(default="")
    author: Mapped[str]
    state: Mapped[str] = mapped_column(default="open")
    operations: Mapped[list[Any]] = mapped_column(default=list)
    past: Mapped[list[Any]] = mapped_column(default=list)
    future: Mapped[list[Any]] = mapped_column(default=list)
    version: Mapped[int] = mapped_column(default=1)
    approved_by: Mapped[str | None]
    approved_text: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    approval_ended: Mapped[str] = mapped_column(default="", server_default="")
    contributors: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    changed_by: Mapped[str]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())


class PointRow(Base):
    """A point in a domain's history: load, publish, unlocking or changed setting, with what
    was published, who was to be unlocked (see `hornfels.store.locks`) and all policies as they
    stood after it. ``effect`` says line by line what a changed setting does to accounts, or what
    the directory holds of a publication that was closed. Where a point is ``confidential``, its
    accounts have compromised passwords: names and reason are for those who may see whose passwords
    these are. ``task`` names the automatic task whose point this is: a task
    has one point, and a task that was killed continues with it. ``in_directory`` says whether the
    directory holds what the point changed, None where that is no question; ``change_records`` are
    those of a publication that is to be carried out by other means.
    """

    __tablename__ = "history"
    __table_args__ = (UniqueConstraint("domain_id", "task"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"), index=True)
    kind: Mapped[str]
    title: Mapped[str]
    reason: Mapped[str] = mapped_column(default="")
    author: Mapped[str]
    approver: Mapped[str | None]
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    operations: Mapped[list[Any]] = mapped_column(default=list)
    accounts: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    confidential: Mapped[bool] = mapped_column(default=False, server_default=false())
    effect: Mapped[str] = mapped_column(default="", server_default="")
    task: Mapped[str | None]
    in_directory: Mapped[bool | None]
    change_records: Mapped[str | None] = mapped_column(deferred=True)
    policies: Mapped[dict[str, Any]]


class LockRow(Base):
    """A lock that a load has found, ``at`` ticks: what is known of an account's earlier ones."""

    __tablename__ = "locks"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    rid: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    at: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    name: Mapped[str]
    tries: Mapped[int]


class TrialRow(Base):
    """An invented candidate or a story that is kept with what must come of it (see
    `hornfels.core.trials.trial`).
    """

    __tablename__ = "trials"

    id: Mapped[int] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    candidate: Mapped[str]
    kind: Mapped[str]
    target: Mapped[str]
    expected: Mapped[str]
    rule: Mapped[str] = mapped_column(default="")
    story: Mapped[str] = mapped_column(default="", server_default="")
    present: Mapped[str] = mapped_column(default="", server_default="")
    author: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class UserRow(Base):
    """Somebody who may sign in, unless ``shut``. A password with ``one_time_until`` opens nothing
    but the way to another one, and not after that moment. Whoever has none signs in at the
    ``directory`` of the domain of that name, or at the provider; there they are known as
    ``subject`` once they have come from there.
    """

    __tablename__ = "users"

    name: Mapped[str] = mapped_column(primary_key=True)
    password_hash: Mapped[str | None]
    subject: Mapped[str | None] = mapped_column(unique=True)
    directory: Mapped[str | None]
    password_set_at: Mapped[datetime] = mapped_column(server_default=func.now())
    one_time_until: Mapped[datetime | None]
    shut: Mapped[bool] = mapped_column(default=False, server_default=false())
    added_at: Mapped[datetime] = mapped_column(server_default=func.now())


class GrantRow(Base):
    """A role that somebody holds in a domain, or in every one (see `core.rights.roles`)."""

    __tablename__ = "grants"

    user_name: Mapped[str] = mapped_column(
        ForeignKey("users.name", ondelete="CASCADE"), primary_key=True
    )
    domain: Mapped[str] = mapped_column(primary_key=True)
    role: Mapped[str] = mapped_column(primary_key=True)


class SessionRow(Base):
    """A signed-in browser. Only a digest of its token is kept. ``proved_at`` is when its person
    last gave the password.
    """

    __tablename__ = "sessions"

    token_digest: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    id: Mapped[UUID] = mapped_column(unique=True)
    user_name: Mapped[str] = mapped_column(ForeignKey("users.name", ondelete="CASCADE"), index=True)
    expires_at: Mapped[datetime]
    opened_at: Mapped[datetime] = mapped_column(server_default=func.now())
    seen_at: Mapped[datetime] = mapped_column(server_default=func.now())
    proved_at: Mapped[datetime] = mapped_column(server_default=func.now())
    address: Mapped[str] = mapped_column(default="", server_default="")
    agent: Mapped[str] = mapped_column(default="", server_default="")


class TokenRow(Base):
    """A token by which a script acts for somebody, within ``rights`` and ``domain``. Only a digest
    of it is kept.
    """

    __tablename__ = "tokens"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    digest: Mapped[bytes] = mapped_column(LargeBinary, unique=True)
    user_name: Mapped[str] = mapped_column(ForeignKey("users.name", ondelete="CASCADE"), index=True)
    title: Mapped[str]
    domain: Mapped[str]
    rights: Mapped[list[Any]]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    ends_at: Mapped[datetime]
    used_at: Mapped[datetime | None]


class ActRow(Base):
    """What somebody has asked for and a second person has to confirm (see
    `hornfels.service.acts`).
    """

    __tablename__ = "acts"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str]
    domain: Mapped[str]
    arguments: Mapped[dict[str, Any]]
    reason: Mapped[str]
    asked_by: Mapped[str]
    asked_at: Mapped[datetime] = mapped_column(server_default=func.now())


class EntryRow(Base):
    """An entry of the trail, chained to the one before it (see `hornfels.store.trail`). The
    database makes number, moment and digests; the application may only add and read.
    """

    __tablename__ = "trail"
    __table_args__ = {"schema": "public"}  # noqa: RUF012 - so that no other table can stand in

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    at: Mapped[datetime]
    person: Mapped[str]
    address: Mapped[str]
    request: Mapped[str]
    domain: Mapped[str]
    what: Mapped[str]
    about: Mapped[str]
    detail: Mapped[str]
    previous: Mapped[bytes] = mapped_column(LargeBinary)
    digest: Mapped[bytes] = mapped_column(LargeBinary)


class StumpRow(Base):
    """What is left of entries that were taken out by command: the last of them, and a signature."""

    __tablename__ = "trail_stumps"
    __table_args__ = {"schema": "public"}  # noqa: RUF012

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True, autoincrement=False)
    digest: Mapped[bytes] = mapped_column(LargeBinary)
    until: Mapped[datetime]
    cut_at: Mapped[datetime]
    cut_by: Mapped[str]
    signature: Mapped[bytes] = mapped_column(LargeBinary)


class AcceptedFindingRow(Base):
    """A finding that somebody has accepted, with the reason, until the end of a day."""

    __tablename__ = "accepted_findings"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    key: Mapped[str] = mapped_column(primary_key=True)
    reason: Mapped[str]
    until: Mapped[date]
    user_name: Mapped[str]
    accepted_at: Mapped[datetime] = mapped_column(server_default=func.now())


class AttemptRow(Base):
    """Bad tries at signing in by one name, one address, or both (see
    `hornfels.core.lockout.machine.Tries`). ``key`` is a digest.
    """

    __tablename__ = "sign_in_attempts"

    key: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    bad_count: Mapped[int] = mapped_column(default=0, server_default="0")
    bad_time: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0", index=True)
    lockout_time: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")


class UploadRow(Base):
    """A file that somebody has sent, in parts, for a worker on any machine. ``size`` is known when
    all of it is there.
    """

    __tablename__ = "uploads"

    id: Mapped[UUID] = mapped_column(primary_key=True)
    name: Mapped[str]
    size: Mapped[int | None] = mapped_column(BigInteger)
    at: Mapped[datetime] = mapped_column(server_default=func.now())


class UploadPartRow(Base):
    """A part of an upload, packed by zlib."""

    __tablename__ = "upload_parts"

    upload_id: Mapped[UUID] = mapped_column(
        ForeignKey("uploads.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True)
    packed: Mapped[bytes] = mapped_column(LargeBinary)


class JobRow(Base):
    """Long work: what it is about, how far it is, and what came of it.

    ``state`` is queued, running, held (it waits to be confirmed), done, failed or cancelled. ``of``
    is how much there is to do in all, 0 where that is not known. ``key`` names the state of things
    that the work is about, so that the same is not done twice. ``taken`` counts how often a worker
    has taken it up.
    """

    __tablename__ = "jobs"
    __table_args__ = (Index("ix_jobs_state", "state"),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    kind: Mapped[str]
    domain: Mapped[str] = mapped_column(default="", server_default="")
    key: Mapped[str] = mapped_column(default="", server_default="")
    state: Mapped[str]
    step: Mapped[str] = mapped_column(default="", server_default="")
    done: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    of: Mapped[int] = mapped_column(BigInteger, default=0, server_default="0")
    error: Mapped[str] = mapped_column(default="")
    arguments: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    result: Mapped[dict[str, Any]] = mapped_column(default=dict)
    upload_id: Mapped[UUID | None] = mapped_column(ForeignKey("uploads.id", ondelete="SET NULL"))
    stopping: Mapped[bool] = mapped_column(default=False, server_default=false())
    taken: Mapped[int] = mapped_column(default=0, server_default="0")
    user_name: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    started_at: Mapped[datetime | None]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ConnectionRow(Base):
    """How a domain's directory is reached (see `hornfels.service.connections`); no secret is in
    it. Until ``dumps_until`` dumps of the domain are taken all the same.
    """

    __tablename__ = "connections"

    dns_name: Mapped[str] = mapped_column(primary_key=True)
    settings: Mapped[dict[str, Any]]
    version: Mapped[int] = mapped_column(default=1)
    changed_by: Mapped[str]
    changed_at: Mapped[datetime] = mapped_column(server_default=func.now(), onupdate=func.now())
    dumps_until: Mapped[datetime | None]


class ReadingRow(Base):
    """How far a domain's directory was read: from which server's copy (``invocation``) up to which
    of its numbers (``usn``). ``told`` is what the last reading brought, or why it failed.
    """

    __tablename__ = "readings"

    dns_name: Mapped[str] = mapped_column(
        ForeignKey("connections.dns_name", ondelete="CASCADE"), primary_key=True
    )
    server: Mapped[str] = mapped_column(default="")
    invocation: Mapped[UUID | None]
    usn: Mapped[int] = mapped_column(BigInteger, default=0)
    read_at: Mapped[datetime | None]
    whole_at: Mapped[datetime | None]
    tried_at: Mapped[datetime | None]
    told: Mapped[dict[str, Any]] = mapped_column(default=dict)


class ReadingEntryRow(Base):
    """An object as it was read last (see `hornfels.store.readings`)."""

    __tablename__ = "reading_entries"

    dns_name: Mapped[str] = mapped_column(
        ForeignKey("readings.dns_name", ondelete="CASCADE"), primary_key=True
    )
    guid: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    entry: Mapped[bytes] = mapped_column(LargeBinary)


class PublicationRow(Base):
    """A draft being written into its domain's directory, or taken ``back`` out of it again (see
    `hornfels.store.publications`). ``state`` is going, stopped, done or taken back; ``told`` says
    why it stopped.
    """

    __tablename__ = "publications"

    id: Mapped[int] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"), index=True)
    draft_id: Mapped[int] = mapped_column(ForeignKey("drafts.id", ondelete="CASCADE"))
    author: Mapped[str]
    state: Mapped[str] = mapped_column(default="going")
    back: Mapped[bool] = mapped_column(default=False)
    told: Mapped[str] = mapped_column(default="")
    job_id: Mapped[UUID | None]
    begun_at: Mapped[datetime] = mapped_column(server_default=func.now())


class PublicationStepRow(Base):
    """One step of it. ``state`` is waiting, begun or done. ``guid`` is the one that the directory
    gave what the step added.
    """

    __tablename__ = "publication_steps"

    publication_id: Mapped[int] = mapped_column(
        ForeignKey("publications.id", ondelete="CASCADE"), primary_key=True
    )
    number: Mapped[int] = mapped_column(primary_key=True)
    step: Mapped[dict[str, Any]]
    state: Mapped[str] = mapped_column(default="waiting")
    guid: Mapped[UUID | None]


class ServerSetRow(Base):
    """Servers that should agree. They are held against ``like_server``, else against what was
    ``agreed``, else against what most of them say. ``key`` is the name in one case.
    """

    __tablename__ = "server_sets"
    __table_args__ = (UniqueConstraint("domain_id", "key"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    key: Mapped[str]
    name: Mapped[str]
    like_server: Mapped[str | None]
    agreed: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    agreed_by: Mapped[str] = mapped_column(default="")
    agreed_at: Mapped[datetime | None]


class ServerRow(Base):
    """A server: what its template said when it was last read, with the file, or why it could not
    be. ``seen`` tells a file of the watched folder from a newer one.
    """

    __tablename__ = "servers"

    set_id: Mapped[int] = mapped_column(
        ForeignKey("server_sets.id", ondelete="CASCADE"), primary_key=True
    )
    key: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    template: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    problem: Mapped[str] = mapped_column(default="")
    file: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    seen: Mapped[str] = mapped_column(default="")
    read_at: Mapped[datetime] = mapped_column(server_default=func.now())


class ServerReadingRow(Base):
    """What a server's template said from a moment on, until the next one."""

    __tablename__ = "server_readings"
    __table_args__ = (
        ForeignKeyConstraint(
            ["set_id", "key"], ["servers.set_id", "servers.key"], ondelete="CASCADE"
        ),
        Index("ix_server_readings_set_id", "set_id", "key"),
    )

    id: Mapped[int] = mapped_column(primary_key=True)
    set_id: Mapped[int]
    key: Mapped[str]
    at: Mapped[datetime] = mapped_column(server_default=func.now())
    template: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    problem: Mapped[str] = mapped_column(default="")


class GateCallerRow(Base):
    """Who may ask at a domain's gate. Only a digest of its token is kept. ``told`` is what it last
    said of itself (see `hornfels.store.gate`).
    """

    __tablename__ = "gate_callers"
    __table_args__ = (UniqueConstraint("domain_id", "title"),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    digest: Mapped[bytes] = mapped_column(LargeBinary, unique=True)
    title: Mapped[str]
    kind: Mapped[str]
    made_by: Mapped[str]
    made_at: Mapped[datetime] = mapped_column(server_default=func.now())
    seen_at: Mapped[datetime | None]
    told: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")


class GateAnswerRow(Base):
    """What came of a question at the gate (see `hornfels.core.gate.record`). ``took`` is in
    microseconds.
    """

    __tablename__ = "gate_answers"
    __table_args__ = (Index("ix_gate_answers_domain_id", "domain_id", "at"),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    caller: Mapped[str]
    at: Mapped[datetime]
    account: Mapped[str]
    operation: Mapped[str]
    outcome: Mapped[str]
    policy: Mapped[str]
    rules: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    took: Mapped[int]


class GateEndRow(Base):
    """The day on which a password ends that came through the gate at a moment, in ticks."""

    __tablename__ = "gate_ends"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    account: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    ends_on: Mapped[date]


class ExposureRunRow(Base):
    """One look at the hashes of a domain's accounts (see `hornfels.service.exposure`). ``whole``
    says that every list was compared with, ``stamp`` which file and which lists it was. ``found``
    counts accounts by what is known of their passwords.
    """

    __tablename__ = "exposure_runs"
    __table_args__ = (Index("ix_exposure_runs_domain_id", "domain_id", "at"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    at: Mapped[datetime]
    whole: Mapped[bool]
    compared: Mapped[int]
    unknown: Mapped[int]
    found: Mapped[dict[str, Any]]
    stamp: Mapped[dict[str, Any]]


class ExposureRow(Base):
    """What is known of an account's password since when, as long as it is the one that was set at a
    moment, in ticks. ``list`` names the corpus, ``group`` those who share one; never the hash, nor
    how often it was seen, by which it could be found.
    """

    __tablename__ = "exposures"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    rid: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    list: Mapped[str] = mapped_column(primary_key=True)
    group: Mapped[int]
    since: Mapped[datetime]
    set_at: Mapped[int] = mapped_column(BigInteger)


class ExposureOrderRow(Base):
    """What becomes of exposed accounts under a policy: by its GUID, or “domain”."""

    __tablename__ = "exposure_orders"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    policy: Mapped[str] = mapped_column(primary_key=True)
    consequence: Mapped[str]
    days: Mapped[int]
    standing: Mapped[bool]


class ExposureDeedRow(Base):
    """What was done with an exposed account, at which point in history; ``told`` is empty where it
    was done.
    """

    __tablename__ = "exposure_deeds"
    __table_args__ = (
        Index("ix_exposure_deeds_domain_id", "domain_id", "at"),
        UniqueConstraint("point", "account"),
    )

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    at: Mapped[datetime]
    by: Mapped[str]
    account: Mapped[str]
    policy: Mapped[str]
    told: Mapped[str]
    point: Mapped[int | None] = mapped_column(ForeignKey("history.id", ondelete="SET NULL"))


class OwnSessionRow(Base):
    """Somebody under a domain's policies at their own page, by their SID. ``must_change``: the
    directory lets them in no more before they have chosen another password. ``password_set`` is the
    moment in ticks as the directory had it last.
    """

    __tablename__ = "own_sessions"

    token_digest: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    sid: Mapped[str]
    name: Mapped[str]
    must_change: Mapped[bool]
    password_set: Mapped[int] = mapped_column(BigInteger)
    seen_at: Mapped[datetime]
    expires_at: Mapped[datetime]


class BindAttemptRow(Base):
    """Binds to a directory that may have failed, by account (see `hornfels.store.bind_attempts`).
    ``last`` and ``until``, after which the row means nothing, are ticks since 1601.
    """

    __tablename__ = "bind_attempts"

    key: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    failed: Mapped[int]
    last: Mapped[int] = mapped_column(BigInteger)
    until: Mapped[int] = mapped_column(BigInteger, index=True)


class RepeatRow(Base):
    """A write by its idempotency key, and its answer (see `hornfels.store.repeats`)."""

    __tablename__ = "repeats"

    key: Mapped[bytes] = mapped_column(LargeBinary, primary_key=True)
    asked: Mapped[bytes] = mapped_column(LargeBinary)
    at: Mapped[datetime] = mapped_column(server_default=func.now(), index=True)
    status: Mapped[int | None]
    headers: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    body: Mapped[bytes | None] = mapped_column(LargeBinary)


class MailingRow(Base):
    """What the people of a domain are written about, when that was last looked at and what came of
    it. ``rules`` are those that held for each account then (see `hornfels.service.mailing`).
    """

    __tablename__ = "mailings"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    version: Mapped[int] = mapped_column(default=1)
    settings: Mapped[dict[str, Any]]
    looked_at: Mapped[datetime | None]
    told: Mapped[str] = mapped_column(default="")
    rules: Mapped[bytes | None] = mapped_column(LargeBinary)


class LetterRow(Base):
    """A letter to somebody, and how far it is. ``about`` lists kind, key and moment of what it is
    about; ``told`` is what the mail server said.
    """

    __tablename__ = "letters"
    __table_args__ = (Index("ix_letters_domain_id", "domain_id", "made_at"),)

    id: Mapped[UUID] = mapped_column(primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    rid: Mapped[int] = mapped_column(BigInteger)
    account: Mapped[str]
    address: Mapped[str]
    language: Mapped[str]
    about: Mapped[list[Any]]
    state: Mapped[str]
    tries: Mapped[int] = mapped_column(default=0)
    told: Mapped[str] = mapped_column(default="")
    made_at: Mapped[datetime]
    changed_at: Mapped[datetime]


class LetterMarkRow(Base):
    """One thing that somebody was written about, or that was so when writing began."""

    __tablename__ = "letter_marks"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    rid: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    kind: Mapped[str] = mapped_column(primary_key=True)
    key: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[datetime]


class ReportOrderRow(Base):
    """A domain's report that is mailed by itself. ``due`` is when the last one was, and ``copies``
    lists for each address how far it is (see `hornfels.service.report_orders`).
    """

    __tablename__ = "report_orders"

    domain_id: Mapped[int] = mapped_column(
        ForeignKey("domains.id", ondelete="CASCADE"), primary_key=True
    )
    version: Mapped[int] = mapped_column(default=1)
    settings: Mapped[dict[str, Any]]
    due: Mapped[datetime]
    copies: Mapped[list[Any]] = mapped_column(default=list)
    told: Mapped[str] = mapped_column(default="")


class SpreadRow(Base):
    """A shorter maximum age that is brought in over weeks. ``begins`` is the day of the first of
    its ``waves``, each written with how far it is; ``accounts`` holds who is told in which (see
    `hornfels.store.spreads`).
    """

    __tablename__ = "spreads"
    __table_args__ = (Index("ix_spreads_domain_id", "domain_id"),)

    id: Mapped[int] = mapped_column(Identity(), primary_key=True)
    domain_id: Mapped[int] = mapped_column(ForeignKey("domains.id", ondelete="CASCADE"))
    draft_id: Mapped[int]
    title: Mapped[str]
    state: Mapped[str]
    begins: Mapped[date]
    waves: Mapped[list[Any]]
    accounts: Mapped[bytes] = mapped_column(LargeBinary)
    by: Mapped[str]
    reason: Mapped[str]
    made_at: Mapped[datetime]
