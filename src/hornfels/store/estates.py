"""Estates in and out of the database."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, replace
from typing import Any
from uuid import UUID

import numpy as np
from psycopg import Connection, sql
from sqlalchemy import delete, func, select, text
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import (
    Accounts,
    Domain,
    Estate,
    GpoLink,
    Groups,
    Link,
    LinkedGroups,
    Memberships,
)
from hornfels.core.drafts.applying import all_there, apply, shown_by
from hornfels.core.drafts.import_review import successors
from hornfels.core.drafts.written_additions import addition_read, addition_written
from hornfels.core.policy.catalogue import Template
from hornfels.core.policy.model import Policy, Settings
from hornfels.core.policy.term_lists import TermList
from hornfels.core.values.dn import loose_key
from hornfels.core.values.text import TextColumn
from hornfels.formats.dump import Dump, DumpError
from hornfels.refusals import NotFoundError
from hornfels.store import drafts, history, locks, lost_policies, people
from hornfels.store.bulk import copy_in, copy_out, driver, pairs_out
from hornfels.store.models import (
    AccountMembershipRow,
    AccountRow,
    DomainRow,
    GroupMembershipRow,
    GroupRow,
    LinkRow,
    LostPolicyRow,
    PolicyRow,
)
from hornfels.store.operations import UnreadableOperationsError
from hornfels.store.trail import note

_ESTATE_TABLES = (AccountRow, GroupRow, AccountMembershipRow, GroupMembershipRow)
_LOAD_LOCK = 7181


def hold_imports(session: Session) -> None:
    """Let nobody else store an import until the transaction ends."""
    session.execute(text("SELECT pg_advisory_xact_lock(:key)"), {"key": _LOAD_LOCK})


def save_dump(
    session: Session,
    dump: Dump,
    source: str,
    user: str,
    progress: Callable[[int], None] | None = None,
    templates: Mapping[str, Template] | None = None,
) -> DomainRow:
    """Store a dump as its domain's present estate, in place of the one before; all or nothing
    within the session's transaction.

    Policies keep their mark, their additional rules, and whether they are guarded unless the dump
    tells, where the domain had them before: by their GUID, or by their name where the directory
    gave a policy made here a GUID of its own. What is known of policies that are gone is kept, and
    comes back with them (`lost_policies`). Anything else edited in Hornfels since the last load is
    replaced. Open drafts of which nothing is left to do are closed; the point in history says so.
    `progress` is told the number of accounts and groups written so far. `templates` take the place
    of what was known of those group policy objects, by `loose_key`.
    """
    hold_imports(session)
    estate = dump.estate
    if "~" in estate.domain.dns_name:
        # It stands between a domain and a draft in an address, and is in no DNS name.
        raise DumpError(f"the domain is named '{estate.domain.dns_name}', which no domain can be")
    domain = session.scalars(
        select(DomainRow).where(DomainRow.dns_name == estate.domain.dns_name).with_for_update()
    ).one_or_none()
    estate_id = (session.scalar(select(func.max(DomainRow.estate_id))) or 0) + 1
    held: dict[UUID, PolicyRow] = {}
    lost: dict[UUID, LostPolicyRow] = {}
    if domain is None:
        domain = DomainRow(dns_name=estate.domain.dns_name)
        session.add(domain)
    else:
        # Which linked groups count is a choice of its own, which no import makes in passing.
        estate = replace(estate, linked_groups=linked_groups_of(domain))
        rows = session.scalars(select(PolicyRow).where(PolicyRow.domain_id == domain.id))
        held = {row.guid: row for row in rows}
        lost = lost_policies.of_domain(session, domain.id)
        _drop_estate(session, domain.estate_id)
        session.execute(delete(LinkRow).where(LinkRow.domain_id == domain.id))
        for row in held.values():
            session.delete(row)
        domain.version += 1
    domain.estate_id = estate_id
    domain.dn, domain.sid = estate.domain.dn, estate.domain.sid
    domain.functional_level = estate.domain.functional_level
    domain.linked_groups = estate.linked_groups
    domain.settings = asdict(estate.domain.settings)
    domain.other_properties = estate.domain.other_properties
    domain.gpo_links = [asdict(link) for link in estate.domain.gpo_links]
    domain.places = list(estate.domain.places)
    domain.notices = list(dump.notices)
    domain.source, domain.loaded_at = source, func.now()
    if templates:
        fresh = {key: dict(template) for key, template in templates.items()}
        domain.templates = {**(domain.templates or {}), **fresh}
    session.flush()
    _copy_rows(driver(session), estate, estate_id, progress or (lambda _rows: None))
    there = {policy.guid: policy.dn for policy in estate.policies}
    fresh_guids = successors({g: row.dn for g, row in held.items()}, there, lost)
    _keep_successors(domain, fresh_guids)
    lost_policies.rename(session, domain.id, fresh_guids)
    gone = (row for g, row in held.items() if g not in there and g not in fresh_guids)
    lost_policies.keep(session, domain.id, gone)
    lost_policies.take_back(session, domain.id, there)
    known: dict[UUID, PolicyRow | LostPolicyRow] = {**lost, **held}
    known |= {new: held[old] for old, new in fresh_guids.items()}
    guards = {guid: row.guarded for guid, row in known.items()} | dict(dump.guards)
    ours = (
        replace(
            p,
            guarded=guards.get(p.guid, p.guarded),
            addition=addition_read(known[p.guid].addition) if p.guid in known else None,
        )
        for p in estate.policies
    )
    estate = replace(estate, domain=load_domain(domain), policies=tuple(ours))
    marks = {guid: row.mark for guid, row in known.items()}
    _add_policies(session, domain.id, estate, marks, user)
    locks.remember(session, domain.id, estate.accounts)
    closed = _close_what_is_there(session, domain, estate, fresh_guids)
    _mark_what_is_shown(session, domain, estate, successors_of(domain))
    locks.settle(session, domain.id, estate.accounts)
    drafts.end_outdated_approvals(session, domain.id, estate)
    history.add(
        session,
        domain,
        estate.policies,
        estate.links,
        estate.domain,
        kind="loaded",
        title=f"Loaded from {source}",
        reason="".join(
            f"The draft “{title}” was closed: all of it was there already. " for title in closed
        ).strip(),
        author=user,
    )
    note(
        session,
        "directory loaded",
        source,
        domain=domain.dns_name,
        accounts=len(estate.accounts),
        policies=len(estate.policies),
    )
    return domain


def remove_domain(session: Session, domain: DomainRow) -> None:
    """Delete a domain, held for writing, with everything that is kept of it."""
    note(session, "domain taken out", domain.dns_name, domain=domain.dns_name)
    people.forget_domain(session, domain.dns_name)
    _drop_estate(session, domain.estate_id)
    session.delete(domain)
    session.flush()


def _drop_estate(session: Session, estate_id: int) -> None:
    for table in _ESTATE_TABLES:
        session.execute(delete(table).where(table.estate_id == estate_id))


def _keep_successors(domain: DomainRow, fresh: dict[UUID, UUID]) -> None:
    """Add to what is known of policies' GUIDs; older ones lead to the latest."""
    known = {old: str(fresh.get(UUID(new), new)) for old, new in (domain.successors or {}).items()}
    domain.successors = known | {str(old): str(new) for old, new in fresh.items()}


def successors_of(domain: DomainRow) -> dict[UUID, UUID]:
    """From the GUID that a policy once had to the one it has now."""
    return {UUID(old): UUID(new) for old, new in domain.successors.items()}


def successors_in(session: Session, domain_id: int) -> dict[UUID, UUID]:
    """The same of a domain by its row, empty for one that is gone."""
    domain = session.get(DomainRow, domain_id)
    return successors_of(domain) if domain else {}


def _close_what_is_there(
    session: Session, domain: DomainRow, estate: Estate, successors: dict[UUID, UUID]
) -> list[str]:
    """Close the open drafts of which nothing is left to do, and give their titles."""
    closed = []
    for row in drafts.open_drafts(session, domain.id, for_writing=True):
        try:
            if successors:
                drafts.readdress(session, row, successors)
            over = all_there(estate, apply(estate, drafts.operations_of(row)))
        except UnreadableOperationsError:
            continue  # whoever opens it is told
        if over:
            drafts.close(session, row)
            closed.append(row.title)
    return closed


def _mark_what_is_shown(
    session: Session, domain: DomainRow, estate: Estate, successors: Mapping[UUID, UUID]
) -> None:
    """Keep of publications that others carry out whether the directory shows them by now."""
    points = history.pending(session, domain.id)
    if not points:
        return
    stood = history.estate_at(points[-1], estate, successors)
    for point in points:
        try:
            operations = history.operations_of(point, successors)
        except UnreadableOperationsError:
            continue
        if shown_by(estate, stood, operations):
            point.in_directory = True


def _copy_rows(
    connection: Connection, estate: Estate, estate_id: int, progress: Callable[[int], None]
) -> None:
    accounts, groups, memberships = estate.accounts, estate.groups, estate.memberships
    _copy_table(
        connection,
        "accounts",
        (
            "dn",
            "name",
            "display_name",
            "other_names",
            "mail",
            "language",
            "rid",
            "control",
            "password_set",
            "bad_count",
            "bad_time",
            "lockout_time",
            "primary_group",
        ),
        accounts,
        estate_id,
        progress,
    )
    past = len(accounts)
    _copy_table(
        connection,
        "groups",
        ("dn", "name", "rid", "kind"),
        groups,
        estate_id,
        lambda rows: progress(past + rows),
    )
    for table, members, containers in (
        ("account_memberships", memberships.account, memberships.account_group),
        ("group_memberships", memberships.child, memberships.child_group),
    ):
        ids = np.full(len(members), estate_id, dtype=np.int32)
        copy_in(connection, table, ("estate_id", "member", "container"), (ids, members, containers))


def _copy_table(
    connection: Connection,
    table: str,
    columns: tuple[str, ...],
    source: Accounts | Groups,
    estate_id: int,
    progress: Callable[[int], None],
) -> None:
    values: list[Iterable[Any]] = []
    for column in columns:
        held = getattr(source, column)
        values.append(held if isinstance(held, TextColumn) else held.tolist())
    statement = sql.SQL("COPY {} ({}) FROM STDIN").format(
        sql.Identifier(table),
        sql.SQL(", ").join(map(sql.Identifier, ("estate_id", "row", *columns))),
    )
    with connection.cursor() as cursor, cursor.copy(statement) as copy:
        for row, cells in enumerate(zip(*values, strict=True)):
            copy.write_row((estate_id, row, *cells))
            if row % 10_000 == 0:
                progress(row)


def _add_policies(
    session: Session, domain_id: int, estate: Estate, marks: dict[UUID, int], user: str
) -> None:
    given = drafts.marks_of(estate, marks)
    names: set[str] = set()
    for index, policy in enumerate(estate.policies):
        session.add(
            PolicyRow(
                domain_id=domain_id,
                guid=policy.guid,
                dn=policy.dn,
                name=_unused(policy.name, names),
                precedence=policy.precedence,
                settings=asdict(policy.settings),
                mark=given[policy.guid],
                guarded=policy.guarded,
                addition=addition_written(policy.addition),
                changed_by=user,
            )
        )
        session.add_all(
            LinkRow(domain_id=domain_id, guid=policy.guid, kind=ln.kind, target=ln.target, dn=ln.dn)
            for ln in estate.links
            if ln.policy == index
        )
    session.flush()


def _unused(name: str, names: set[str]) -> str:
    """Two policies can only share a name in a damaged directory; the second is told apart by a
    number.
    """
    shown, number = name, 1
    while shown in names:
        number += 1
        shown = f"{name} ({number})"
    names.add(shown)
    return shown


def load_estate(session: Session, domain: DomainRow) -> Estate:
    """The domain's present estate with its policies."""
    connection = driver(session)
    accounts = _accounts(connection, domain.estate_id)
    groups = _groups(connection, domain.estate_id)
    this = sql.SQL("estate_id = {}").format(sql.Literal(domain.estate_id))
    edges = [
        pairs_out(connection, table, "member", "container", this)
        for table in ("account_memberships", "group_memberships")
    ]
    policies, links = load_policies(session, domain)
    return Estate(
        domain=load_domain(domain),
        accounts=accounts,
        groups=groups,
        memberships=Memberships(*edges[0], *edges[1], accounts, groups),
        policies=policies,
        links=links,
        linked_groups=linked_groups_of(domain),
    )


def linked_groups_of(row: DomainRow) -> LinkedGroups:
    return "any" if row.linked_groups == "any" else "global"


def load_domain(row: DomainRow) -> Domain:
    """The domain object with its own policy and what writes it."""
    return Domain(
        dn=row.dn,
        dns_name=row.dns_name,
        sid=row.sid,
        functional_level=row.functional_level,
        settings=Settings(**row.settings),
        other_properties=row.other_properties,
        gpo_links=tuple(GpoLink(**link) for link in row.gpo_links),
        templates=row.templates,
        addition=addition_read(row.addition),
        term_lists={name: TermList(**held) for name, held in row.term_lists.items()},
        places=tuple(row.places),
    )


def save_template(
    session: Session, domain: DomainRow, gpo: str, template: Template, user: str
) -> None:
    """Keep what a group policy object's security template says; `domain` is held for writing.

    The domain policy stays as the directory has it. Raises NotFoundError if no such object is
    linked in the domain.
    """
    key = loose_key(gpo)
    link = next(
        (link for link in load_domain(domain).gpo_links if loose_key(link.gpo) == key), None
    )
    if link is None:
        raise NotFoundError("No group policy object of that name is linked in this domain.")
    note(
        session,
        "template read",
        link.name,
        domain=domain.dns_name,
        before=domain.templates.get(key),
        after=dict(template),
    )
    domain.templates = {**domain.templates, key: dict(template)}
    domain.version += 1
    policies, links = load_policies(session, domain)
    history.add(
        session,
        domain,
        policies,
        links,
        load_domain(domain),
        kind="loaded",
        title=f"Template of {link.name}",
        author=user,
    )


def load_policies(
    session: Session, domain: DomainRow
) -> tuple[tuple[Policy, ...], tuple[Link, ...]]:
    """A domain's policies, best first, and their links."""
    rows = session.scalars(select(PolicyRow).where(PolicyRow.domain_id == domain.id)).all()
    policies = sorted(
        (
            Policy(
                r.guid,
                r.dn,
                r.name,
                r.precedence,
                Settings(**r.settings),
                r.guarded,
                addition_read(r.addition),
            )
            for r in rows
        ),
        key=lambda p: p.rank,
    )
    index = {policy.guid: number for number, policy in enumerate(policies)}
    links = session.scalars(
        select(LinkRow).where(LinkRow.domain_id == domain.id).order_by(LinkRow.id)
    ).all()
    return tuple(policies), tuple(Link(index[r.guid], r.kind, r.target, r.dn) for r in links)  # type: ignore[arg-type]


def _text(connection: Connection, table: str, column: str, estate_id: int) -> TextColumn:
    # Joined on the server: one value to fetch instead of a million.
    statement = sql.SQL(
        "SELECT coalesce(string_agg(convert_to({c}, 'UTF8') || '\\x00'::bytea, ''::bytea "
        "ORDER BY row), '') "
        "FROM {t} WHERE estate_id = %s"
    ).format(c=sql.Identifier(column), t=sql.Identifier(table))
    found = connection.execute(statement, (estate_id,), binary=True).fetchone()
    return TextColumn.joined(bytes(found[0]) if found else b"")


def _numbers(
    connection: Connection, table: str, columns: dict[str, str], estate_id: int
) -> list[Any]:
    query = sql.SQL("SELECT {} FROM {} WHERE estate_id = {} ORDER BY row").format(
        sql.SQL(", ").join(map(sql.Identifier, columns)),
        sql.Identifier(table),
        sql.Literal(estate_id),
    )
    return copy_out(connection, query, list(columns.values()))


def _accounts(connection: Connection, estate_id: int) -> Accounts:
    dn, name, display, others, mail, language = (
        _text(connection, "accounts", c, estate_id)
        for c in ("dn", "name", "display_name", "other_names", "mail", "language")
    )
    rid, control, password_set, bad_count, bad_time, lockout_time, primary = _numbers(
        connection,
        "accounts",
        {
            "rid": "i8",
            "control": "i8",
            "password_set": "i8",
            "bad_count": "i4",
            "bad_time": "i8",
            "lockout_time": "i8",
            "primary_group": "i4",
        },
        estate_id,
    )
    return Accounts(
        dn,
        name,
        display,
        others,
        mail,
        language,
        rid,
        control.astype(np.uint32),
        password_set,
        bad_count,
        bad_time,
        lockout_time,
        primary,
    )


def _groups(connection: Connection, estate_id: int) -> Groups:
    dn, name = (_text(connection, "groups", c, estate_id) for c in ("dn", "name"))
    rid, kind = _numbers(connection, "groups", {"rid": "i8", "kind": "i8"}, estate_id)
    return Groups(dn, name, rid, kind.astype(np.uint32))
