"""What a fresh reading of a domain has brought, beside the one before it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import datetime
from typing import NamedTuple

import numpy as np

from hornfels.core.domain.estate import Accounts, Control, Estate, Groups, Int32, Int64
from hornfels.core.drafts.comparison import differences
from hornfels.core.drafts.operations import Operation
from hornfels.core.drafts.sentences import sentences
from hornfels.core.values.dn import loose_key

MOST_NAMED = 5


class News(NamedTuple):
    """One thing that is otherwise: of what, in words, and the first of those it is about. ``at`` is
    the moment it was changed, ``where`` the server, "" where that is not known.
    """

    subject: str
    text: str
    names: tuple[str, ...] = ()
    at: str = ""
    where: str = ""


Since = Callable[[Operation], tuple[datetime, str] | None]
"""When and where an operation was done; None if that is not known."""


def news(before: Estate, after: Estate, since: Since = lambda _: None) -> tuple[News, ...]:
    """All that is otherwise, policies first. Accounts and groups are the same ones by their RID."""
    return (*_policies(before, after, since), *_accounts(before, after), *_groups(before, after))


def _policies(before: Estate, after: Estate, since: Since) -> Iterator[News]:
    names = {policy.guid: policy.name for policy in (*after.policies, *before.policies)}
    links = (*after.domain.gpo_links, *before.domain.gpo_links)
    sources = {loose_key(link.gpo): link.name for link in links}
    operations = differences(before, after)
    for said in sentences(operations, names, sources):
        changed = f": {said.before} → {said.after}" if said.before or said.after else ""
        at, where = since(operations[said.index]) or (None, "")
        yield News(
            said.subject,
            f"{said.text}{changed}",
            at=at.isoformat() if at else "",
            where=where,
        )


def _accounts(before: Estate, after: Estate) -> Iterator[News]:
    old, new = before.accounts, after.accounts
    common, was, now = np.intersect1d(old.rid, new.rid, return_indices=True)
    moved: list[int] = []
    renamed: list[int] = []
    named_alike = old.dn.same_as(new.dn) and old.name.same_as(new.name)
    in_place = named_alike and np.array_equal(old.rid, new.rid)
    pairs = [] if in_place else zip(was.tolist(), now.tolist(), strict=True)
    for one, other in pairs:
        if old.name[one] != new.name[other]:
            renamed.append(other)
        elif old.dn[one] != new.dn[other]:
            moved.append(other)
    locks, by_now = old.lockout_time[was], new.lockout_time[now]
    bits = old.control[was] ^ new.control[now]
    off = np.uint32(Control.DISABLED)
    flipped, disabled = (bits & off) != 0, (new.control[now] & off) != 0
    there, gone = ~np.isin(new.rid, common), ~np.isin(old.rid, common)
    yield from _said("accounts", "is new", "are new", new, np.flatnonzero(there))
    yield from _said("accounts", "is gone", "are gone", old, np.flatnonzero(gone))
    for one_has, many_have, rows in (
        ("has another name", "have another name", np.array(renamed, dtype=np.int64)),
        ("has moved", "have moved", np.array(moved, dtype=np.int64)),
        (
            "has another password",
            "have another password",
            now[old.password_set[was] != new.password_set[now]],
        ),
        ("was locked", "were locked", now[(by_now > 0) & (by_now != locks)]),
        ("was unlocked", "were unlocked", now[(locks > 0) & (by_now == 0)]),
        ("was disabled", "were disabled", now[flipped & disabled]),
        ("was enabled", "were enabled", now[flipped & ~disabled]),
        ("has other flags", "have other flags", now[(bits & ~off) != 0]),
    ):
        yield from _said("accounts", one_has, many_have, new, rows)


def _groups(before: Estate, after: Estate) -> Iterator[News]:
    old, new = before.groups, after.groups
    there, gone = ~np.isin(new.rid, old.rid), ~np.isin(old.rid, new.rid)
    yield from _said("groups", "is new", "are new", new, np.flatnonzero(there))
    yield from _said("groups", "is gone", "are gone", old, np.flatnonzero(gone))
    held, holds = _edges(before), _edges(after)
    for what, edges, groups in (
        ("began", np.setdiff1d(holds, held), new),
        ("ended", np.setdiff1d(held, holds), old),
    ):
        rows = np.flatnonzero(np.isin(groups.rid, np.unique(edges & 0xFFFFFFFF)))
        if len(edges):
            names = tuple(groups.name[int(row)] for row in rows[:MOST_NAMED])
            plural = "s" * (len(edges) != 1)
            yield News("memberships", f"{len(edges):,} membership{plural} {what}", names)


def _edges(estate: Estate) -> Int64:
    """Each membership as one number: the member's RID and the group's."""
    held, rid = estate.memberships, estate.groups.rid
    sides = (
        (estate.accounts.rid[held.account], rid[held.account_group]),
        (rid[held.child], rid[held.child_group]),
    )
    return np.unique(np.concatenate([(member << 32) | group for member, group in sides]))


def _said(
    subject: str, one: str, many: str, among: Accounts | Groups, rows: Int64 | Int32
) -> Iterator[News]:
    if not len(rows):
        return
    words = f"{len(rows):,} {subject} {many}" if len(rows) > 1 else f"1 {subject[:-1]} {one}"
    yield News(subject, words, tuple(among.name[int(row)] for row in rows[:MOST_NAMED]))
