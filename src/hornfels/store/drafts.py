"""Drafts: kept, changed with undo and redo, approved, published. Nothing here decides what an
operation does.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import Select, delete, func, select, text
from sqlalchemy.orm import Session, defer

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.approval import DraftText, difference, draft_text
from hornfels.core.drafts.operations import AddPolicy, Operations, readdressed
from hornfels.core.drafts.sentences import sentences
from hornfels.core.drafts.written_additions import addition_written
from hornfels.core.values.dn import loose_key, name_key
from hornfels.refusals import ChangedMeanwhileError, ConflictError, NotFoundError
from hornfels.store import history, lost_policies, terms
from hornfels.store.models import DomainRow, DraftRow, LinkRow, PointRow, PolicyRow
from hornfels.store.operations import UnreadableOperationsError, Written, read, written
from hornfels.store.steps import step_between, stepped
from hornfels.store.trail import note

MOST_STEPS = 100
"""How far back undo goes."""

MOST_TITLE = 100

DONE = "done"
"""The state of a draft that the directory was found to hold already."""
PUBLISHING = "publishing"
"""The state of a draft that is being written into the directory."""


_NAMES_LOCK = 7182


def hold_titles(session: Session, domain_id: int) -> None:
    """Nobody else names a draft of this domain until the transaction ends. To be called before any
    row is held.
    """
    session.execute(
        text("SELECT pg_advisory_xact_lock(:key, :domain)"),
        {"key": _NAMES_LOCK, "domain": domain_id},
    )


def refuse_taken(session: Session, domain_id: int, title: str, but: int | None = None) -> None:
    """Raises `ConflictError` if another open draft has this title; titles are held."""
    other = next(
        (
            row
            for row in open_drafts(session, domain_id)
            if _same(row.title, title) and row.id != but
        ),
        None,
    )
    if other:
        raise ConflictError(
            f"{other.author} has an open draft named “{other.title}” already. Open that one, "
            "or choose another name."
        )


def free_title(session: Session, domain_id: int, title: str) -> str:
    """The title, or the title with a number if an open draft has it; titles are held."""
    taken = [row.title for row in open_drafts(session, domain_id)]
    numbered = (f"{title[: MOST_TITLE - 5]} ({n})" for n in range(2, len(taken) + 3))
    return next(t for t in (title, *numbered) if not any(_same(t, other) for other in taken))


def _same(one: str, other: str) -> bool:
    return name_key(one) == name_key(other)


def own(session: Session, domain_id: int, title: str, author: str) -> DraftRow | None:
    """The author's open draft of this title, with or without a number behind it; titles are
    held.
    """
    pattern = re.compile(re.escape(title) + r"( \(\d+\))?")
    mine = (
        row
        for row in open_drafts(session, domain_id)
        if row.author == author and pattern.fullmatch(row.title)
    )
    return next(mine, None)


def create(
    session: Session, domain_id: int, title: str, author: str, operations: Operations = ()
) -> DraftRow:
    row = DraftRow(
        domain_id=domain_id,
        title=title,
        author=author,
        changed_by=author,
        contributors=[author],
        operations=written(operations),
    )
    session.add(row)
    session.flush()
    _note(session, row, "draft opened", said=_said(session, row, row.operations))
    return row


def open_drafts(session: Session, domain_id: int, *, for_writing: bool = False) -> list[DraftRow]:
    """Those not yet published, closed or dropped, the latest changed first; held until the
    transaction ends if `for_writing`.
    """
    found = _open(domain_id)
    return list(
        session.scalars(
            found.with_for_update().execution_options(populate_existing=True)
            if for_writing
            else found
        )
    )


def _open(domain_id: int) -> Select[DraftRow]:
    found = select(DraftRow).where(DraftRow.domain_id == domain_id, DraftRow.state == "open")
    return found.order_by(DraftRow.changed_at.desc(), DraftRow.id.desc())


def find(
    session: Session, domain_id: int, draft: int, *, for_writing: bool = False, whole: bool = True
) -> DraftRow:
    """An open draft, held until the transaction ends if it is `for_writing`. Raises NotFoundError
    for any other.

    Without `whole`, its operations are not read until somebody asks for them.
    """
    options = [] if whole else [defer(DraftRow.operations)]
    row = session.get(
        DraftRow, draft, with_for_update=for_writing, populate_existing=for_writing, options=options
    )
    if row is None or row.domain_id != domain_id:
        raise NotFoundError("There is no such draft in this domain.")
    if row.state != "open":
        how = {
            DONE: "is closed: the directory holds all of it already",
            PUBLISHING: "is being written into the directory",
        }.get(row.state, f"is {row.state} by now")
        raise NotFoundError(f"The draft “{row.title}” {how}. Look at live, or open another draft.")
    return row


@dataclass(frozen=True)
class State:
    """A draft without what it does."""

    id: int
    title: str
    reason: str
    author: str
    version: int
    changed_by: str
    changed_at: str
    approved_by: str | None
    approval_ended: str
    contributors: tuple[str, ...]
    can_undo: bool
    can_redo: bool


def state_of(row: DraftRow) -> State:
    return State(
        row.id,
        row.title,
        row.reason,
        row.author,
        row.version,
        row.changed_by,
        row.changed_at.isoformat(),
        row.approved_by,
        row.approval_ended,
        tuple(row.contributors),
        bool(row.past),
        bool(row.future),
    )


def open_states(session: Session, domain_id: int) -> list[State]:
    """The open drafts, the latest changed first, without reading what they do."""
    found = _open(domain_id).options(defer(DraftRow.operations))
    return [state_of(row) for row in session.scalars(found)]


def operations_of(row: DraftRow) -> Operations:
    """What a draft does. Raises `UnreadableOperationsError` where this version cannot tell."""
    return read(row.operations, f"The draft “{row.title}”")


def expect(row: DraftRow, version: int, user: str) -> None:
    """Raises `ChangedMeanwhileError` unless the draft is the version that was seen."""
    if row.version != version:
        who = (
            "it was changed in another window of yours"
            if row.changed_by == user
            else f"{row.changed_by} changed it"
        )
        raise ChangedMeanwhileError(
            f"Nothing was done with the draft “{row.title}”: {who} meanwhile. It is shown as "
            "it is now; look at it before going on."
        )


def record(session: Session, row: DraftRow, operations: Operations, user: str) -> None:
    """Give a draft held for writing other operations. The ones before can be undone to."""
    after = written(operations)
    _note_change(session, row, "draft changed", after)
    row.past = [*row.past, step_between(after, row.operations)][-MOST_STEPS:]
    row.future = []
    row.operations = after
    _touch(session, row, user)


def undo(session: Session, row: DraftRow, user: str) -> None:
    if not row.past:
        raise ConflictError("There is nothing to undo in this draft.")
    before = stepped(row.operations, row.past[-1])
    _note_change(session, row, "draft changed: step back", before)
    row.future = [*row.future, step_between(before, row.operations)]
    row.operations, row.past = before, row.past[:-1]
    _touch(session, row, user)


def redo(session: Session, row: DraftRow, user: str) -> None:
    if not row.future:
        raise ConflictError("There is nothing to redo in this draft.")
    after = stepped(row.operations, row.future[-1])
    _note_change(session, row, "draft changed: step again", after)
    row.past = [*row.past, step_between(after, row.operations)]
    row.operations, row.future = after, row.future[:-1]
    _touch(session, row, user)


def describe(session: Session, row: DraftRow, title: str, reason: str, user: str) -> None:
    before, after = (
        {"title": t, "reason": r} for t, r in ((row.title, row.reason), (title, reason))
    )
    _note(session, row, "draft described", before=before, after=after)
    row.title, row.reason = title, reason
    _touch(session, row, user)


def discard(session: Session, row: DraftRow) -> None:
    row.state = "dropped"
    _note(session, row, "draft dropped", no_longer=_said(session, row, row.operations))
    session.flush()
    terms.forget(session, row.domain_id)


def close(session: Session, row: DraftRow) -> None:
    """End a draft of which nothing is left to do."""
    row.state = DONE
    _note(session, row, "draft closed")
    session.flush()


def readdress(session: Session, row: DraftRow, successors: Mapping[UUID, UUID]) -> None:
    """Let a draft speak of policies by the GUIDs that the directory gave those policies. A draft
    that changes by this gets a new version, and its approval ends.
    """

    def fresh(kept: Written) -> Written:
        return written(readdressed(read(kept, f"The draft “{row.title}”"), successors))

    after = fresh(row.operations)
    row.past, row.future = (
        [{**step, "put": fresh(step["put"])} for step in steps] for steps in (row.past, row.future)
    )
    if after == row.operations:
        return
    row.operations = after
    row.version += 1
    _note(session, row, "draft changed: new GUIDs", version=row.version)
    end_approval(session, row, "The directory gave a policy of the draft a new GUID.")


def _touch(session: Session, row: DraftRow, user: str) -> None:
    row.version += 1
    row.changed_by = user
    if user not in row.contributors:
        row.contributors = [*row.contributors, user]
    row.approval_ended = f"{user} changed the draft." if row.approved_by else ""
    row.approved_by, row.approved_text = None, None
    session.flush()


def end_approval(session: Session, row: DraftRow, reason: str) -> None:
    """End the approval of a draft that is held for writing, if the draft has one."""
    if row.approved_by is None:
        return
    _note(session, row, "approval ended", approver=row.approved_by, reason=reason)
    row.approved_by, row.approved_text, row.approval_ended = None, None, reason
    session.flush()


def end_outdated_approval(session: Session, row: DraftRow, live: Estate) -> bool:
    """End the approval of a draft that is held for writing where its text on `live` is not the text
    that was approved. Return whether the approval ended.
    """
    if row.approved_by is None:
        return False
    approved, now = row.approved_text, draft_text(live, operations_of(row))
    if approved is not None and approved["digest"] == now.digest:
        return False
    seen = {key: tuple(said) for key, said in (approved or {}).get("objects", {}).items()}
    row.version += 1
    end_approval(session, row, difference(seen, now.objects))
    return True


def end_outdated_approvals(session: Session, domain_id: int, live: Estate) -> None:
    """End the approvals of all open drafts of a domain whose text is not the approved text."""
    for row in open_drafts(session, domain_id, for_writing=True):
        try:
            end_outdated_approval(session, row, live)
        except UnreadableOperationsError:
            end_approval(session, row, "This version of Hornfels cannot read the draft.")


def _note(session: Session, row: DraftRow, what: str, **detail: Any) -> None:
    note(session, what, f"“{row.title}” (draft {row.id})", domain=row.domain_id, **detail)


def _note_change(session: Session, row: DraftRow, what: str, after: Written) -> None:
    """The operations that come and go, not those that stay."""
    gone = [one for one in row.operations if one not in after]
    come = [one for one in after if one not in row.operations]
    _note(
        session,
        row,
        what,
        version=row.version + 1,
        no_longer=_said(session, row, gone),
        said=_said(session, row, come),
        before=gone,
        after=come,
    )


def _said(session: Session, row: DraftRow, kept: Written) -> list[str]:
    """Operations in words, as far as this version can read them."""
    try:
        operations = read(kept, row.title)
        others = read(row.operations, row.title)
    except UnreadableOperationsError:
        return []
    domain = session.get_one(DomainRow, row.domain_id)
    columns = select(PolicyRow.guid, PolicyRow.name).where(PolicyRow.domain_id == row.domain_id)
    names = {op.policy: op.name for op in others if isinstance(op, AddPolicy)}
    names |= {held[0]: held[1] for held in session.execute(columns)}
    sources = {loose_key(link["gpo"]): str(link["name"]) for link in domain.gpo_links}
    return [
        f"{one.subject}: {one.text}"
        + (f": {one.before or '–'} → {one.after or '–'}" if one.before or one.after else "")
        for one in sentences(operations, names, sources)
    ]


def approve(session: Session, row: DraftRow, user: str, text: DraftText) -> None:
    """Approve a draft as `user` has read the draft. A later change ends the approval."""
    if user in row.contributors:
        raise ConflictError(
            "Somebody else has to approve: you wrote or changed this draft yourself."
        )
    row.approved_by, row.approved_text, row.approval_ended = user, asdict(text), ""
    _note(session, row, "draft approved", version=row.version, text=text.digest)
    session.flush()


def publish(
    session: Session,
    domain: DomainRow,
    row: DraftRow,
    before: Estate,
    after: Estate,
    operations: Operations,
    user: str,
    *,
    in_directory: bool | None = None,
    change_records: str | None = None,
) -> PointRow:
    """Write the policies of `after` in place of those of `before`, within the session's
    transaction.

    `domain` and `row` are held for writing.
    """
    _write_policies(session, domain, before, after, user)
    domain.settings = asdict(after.domain.settings)
    domain.gpo_links = [asdict(link) for link in after.domain.gpo_links]
    domain.templates = {gpo: dict(template) for gpo, template in after.domain.templates.items()}
    domain.addition = addition_written(after.domain.addition)
    domain.term_lists = {name: asdict(terms) for name, terms in after.domain.term_lists.items()}
    domain.version += 1
    row.state = "published"
    end_outdated_approvals(session, domain.id, after)
    done = written(operations)
    told = _said(session, row, done)
    _note(session, row, "draft published", approver=row.approved_by, said=told, after=done)
    return history.add(
        session,
        domain,
        after.policies,
        after.links,
        after.domain,
        kind="published",
        title=row.title,
        author=user,
        reason=row.reason,
        approver=row.approved_by,
        operations=operations,
        in_directory=in_directory,
        change_records=change_records,
    )


def _write_policies(
    session: Session, domain: DomainRow, before: Estate, after: Estate, user: str
) -> None:
    old, new = {p.guid: p for p in before.policies}, {p.guid: p for p in after.policies}
    rows = {
        r.guid: r
        for r in session.scalars(select(PolicyRow).where(PolicyRow.domain_id == domain.id))
    }
    gone = old.keys() - new.keys()
    lost_policies.keep(session, domain.id, (rows[guid] for guid in gone))
    lost_policies.take_back(session, domain.id, new)
    # Freed names first: another policy may take one of them.
    for guid in gone:
        session.execute(delete(LinkRow).where(LinkRow.domain_id == domain.id, LinkRow.guid == guid))
        session.delete(rows.pop(guid))
    changed = [p for p in after.policies if p != old.get(p.guid)]
    for policy in changed:
        if policy.guid in rows and rows[policy.guid].name != policy.name:
            rows[policy.guid].name = f"~{policy.guid}"
    session.flush()
    marks = marks_of(after, {guid: r.mark for guid, r in rows.items()})
    for policy in changed:
        values = {
            "dn": policy.dn,
            "name": policy.name,
            "precedence": policy.precedence,
            "settings": asdict(policy.settings),
            "guarded": policy.guarded,
            "addition": addition_written(policy.addition),
            "changed_by": user,
            "changed_at": func.now(),
        }
        if policy.guid in rows:
            for column, value in values.items():
                setattr(rows[policy.guid], column, value)
        else:
            session.add(
                PolicyRow(domain_id=domain.id, guid=policy.guid, mark=marks[policy.guid], **values)
            )
    held, wanted = _links(before), _links(after)
    for guid, dn in held.keys() - wanted.keys():
        session.execute(
            delete(LinkRow).where(
                LinkRow.domain_id == domain.id, LinkRow.guid == guid, LinkRow.dn == dn
            )
        )
    session.add_all(
        LinkRow(domain_id=domain.id, guid=guid, kind=kind, target=target, dn=dn)
        for (guid, dn), (kind, target) in wanted.items()
        if (guid, dn) not in held
    )
    session.flush()


def _links(estate: Estate) -> dict[tuple[UUID, str], tuple[str, int]]:
    return {(estate.policies[ln.policy].guid, ln.dn): (ln.kind, ln.target) for ln in estate.links}


def marks_of(estate: Estate, known: dict[UUID, int]) -> dict[UUID, int]:
    """A mark for every policy: the one it has, or the smallest that is free."""
    used = {known[p.guid] for p in estate.policies if p.guid in known}
    free = (n for n in range(len(estate.policies) + len(used)) if n not in used)
    return {p.guid: known[p.guid] if p.guid in known else next(free) for p in estate.policies}
