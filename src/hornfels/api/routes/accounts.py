"""Accounts: the table of everyone, and one account's core."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.rights import needs
from hornfels.api.schemas import (
    AccountCore,
    AccountPage,
    AccountRow,
    AccountsAsked,
    AccountsPageAsked,
    AttributeInfo,
    BandEnd,
    ContainerInfo,
    CoreLayer,
    FlagInfo,
    ForceSetting,
    Step,
)
from hornfels.api.views import iso, now_moment
from hornfels.core.domain.account_state import (
    effective_settings,
    expiry,
    flag_effects,
    lock_state,
    settings_of,
)
from hornfels.core.domain.estate import Int64
from hornfels.core.policy.plain import plain
from hornfels.core.resolution.explanation import Path, explain
from hornfels.core.resolution.listing import Listed, listed
from hornfels.core.resolution.roster import Filter
from hornfels.core.values.time import moment_from_datetime
from hornfels.formats.accounts_table import accounts_table
from hornfels.formats.attributes import account_attributes
from hornfels.refusals import NotFoundError
from hornfels.service import lifetimes
from hornfels.service.naming import (
    policy_mark,
    policy_name,
    policy_number,
    policy_ref,
    population_key,
)
from hornfels.service.snapshots import Snapshot

router = APIRouter(
    prefix="/api/domains/{domain}",
    tags=["accounts"],
    route_class=Route,
    dependencies=[needs("see")],
)


@router.get("/accounts")
def list_accounts(current: Current, asked: Annotated[AccountsPageAsked, Query()]) -> AccountPage:
    """Accounts by what is asked of them, a page at a time."""
    now = now_moment()
    chosen = _chosen(current, asked, now)
    rows = chosen[asked.offset : asked.offset + asked.limit].tolist()
    return AccountPage(
        total=len(chosen),
        offset=asked.offset,
        rows=[_row(current, one) for one in _rows(current, rows, now)],
    )


@router.get("/containers")
def list_containers(current: Current) -> list[ContainerInfo]:
    """What accounts lie directly in, by name from the root down, with how many."""
    return [ContainerInfo(dn=c.dn, accounts=c.accounts) for c in current.live.roster.containers]


@router.get(
    "/accounts.csv",
    dependencies=[exported("accounts")],
    response_class=Response,
    responses=sent_as("text/csv", "A CSV file."),
)
def export(current: Current, asked: Annotated[AccountsAsked, Query()]) -> Response:
    """The accounts that fit as comma-separated values, in the same order, safe to open in a
    spreadsheet.
    """
    now = now_moment()
    chosen = _chosen(current, asked, now).tolist()
    text = accounts_table(current.estate, _rows(current, chosen, now))
    name = f"{current.estate.domain.dns_name}-accounts.csv"
    headers = attached(name)
    return Response(text, media_type="text/csv", headers=headers)


def _chosen(current: Snapshot, asked: AccountsAsked, now: int) -> Int64:
    estate, resolution = current.estate, current.resolution
    policy: int | None = None
    if asked.policy is not None:
        policy = policy_number(current, str(asked.policy))
        if policy is None:
            raise NotFoundError("The policy to filter by no longer exists. Clear the filter.")
    group: int | None = None
    if asked.group is not None:
        found = estate.groups.name.find(asked.group)
        if not len(found):
            raise NotFoundError(
                f"There is no group '{asked.group}' in this domain. Clear the filter."
            )
        group = int(found[0])
    populations = None
    if asked.population is not None:
        stacks = enumerate(resolution.stacks)
        populations = tuple(
            n for n, stack in stacks if population_key(estate, stack) == asked.population
        )
    wanted = Filter(
        words=asked.q,
        policy=policy,
        populations=populations,
        group=group,
        way=asked.way,
        tie=asked.tie,
        locked=asked.locked,
        expiry=asked.expiry,
        within_days=asked.within,
        enabled=asked.enabled,
        privileged=asked.privileged,
        flags=tuple(asked.flag),
        container=asked.container,
        set_before=moment_from_datetime(asked.set_before) if asked.set_before else None,
    )
    return current.roster.rows(wanted, now, asked.order, asked.descending)


def _rows(current: Snapshot, rows: list[int], now: int) -> Iterator[Listed]:
    return listed(current.estate, current.resolution, current.roster, rows, now)


def _row(current: Snapshot, one: Listed) -> AccountRow:
    accounts = current.estate.accounts
    return AccountRow(
        row=one.row,
        name=accounts.name[one.row],
        display_name=accounts.display_name[one.row],
        policy=policy_ref(current, one.policy),
        policy_name=policy_name(current, one.policy),
        was=_was(current, one.row),
        mark=policy_mark(current, one.policy),
        source=one.source,
        through=current.estate.groups.name[one.through] if one.through >= 0 else None,
        tie=one.tie,
        expiry=one.expiry,
        expires_at=iso(one.expires_at),
        set_at=iso(one.set_at),
        bad_tries=one.bad_tries,
        locked=one.locked,
        flags=[effect.flag for effect in one.flags],
        container=one.container,
    )


def _was(current: Snapshot, row: int) -> str | None:
    """The account's live policy where the draft that is shown gives it another one."""
    if (
        current.draft is None
        or current.live_winners[row] == current.resolution.winner_of_account[row]
    ):
        return None
    live = current.draft.live
    return policy_name(live, int(live.resolution.winner_of_account[row]))


@router.get("/accounts/{name}/attributes")
def get_attributes(name: str, current: Current) -> list[AttributeInfo]:
    """An account as the directory holds it, as far as passwords and lockouts go."""
    row = current.estate.find_account(name)
    if row is None:
        raise NotFoundError(f"There is no account '{name}' in this domain.")
    return [
        AttributeInfo(**a._asdict())
        for a in account_attributes(current.estate, current.resolution, row)
    ]


@router.get("/accounts/{name}")
def get_account(name: str, current: Current, database: Database) -> AccountCore:
    """Everything about why one account gets what it gets."""
    row = current.estate.find_account(name)
    if row is None:
        raise NotFoundError(f"There is no account '{name}' in this domain.")
    return _core(current, row, _band_end(database, current, row))


def _band_end(database: Session, current: Snapshot, row: int) -> BandEnd | None:
    found = lifetimes.of_account(database, current, row)
    return (
        BandEnd(day=found.day, from_gate=found.from_gate, enforced=found.enforced)
        if found
        else None
    )


def _core(current: Snapshot, row: int, band_end: BandEnd | None) -> AccountCore:
    estate, resolution = current.estate, current.resolution
    accounts, now = estate.accounts, now_moment()
    why = explain(estate, resolution, row)
    settings = settings_of(estate, why.winner)
    control, password_set = int(accounts.control[row]), int(accounts.password_set[row])
    end = expiry(control, password_set, settings.max_age)
    lock = lock_state(settings, int(accounts.lockout_time[row]), now)
    effects = flag_effects(control, password_set)
    in_force = effective_settings(settings, control).values()
    bent = {e.setting: e.flag for e in effects if e.setting}
    return AccountCore(
        name=accounts.name[row],
        dn=accounts.dn[row],
        display_name=accounts.display_name[row],
        source=why.source,
        policy=policy_ref(current, why.winner),
        policy_name=policy_name(current, why.winner),
        mark=policy_mark(current, why.winner),
        reason=why.reason,
        layers=[
            CoreLayer(
                guid=str(estate.policies[r.policy].guid),
                name=estate.policies[r.policy].name,
                precedence=estate.policies[r.policy].precedence,
                mark=policy_mark(current, r.policy) or 0,
                outcome=r.outcome,
                reason=r.reason,
                direct=r.path is None,
                steps=_steps(current, r.path),
                alternatives=r.path.alternatives if r.path else 1,
                other_ways=[[estate.groups.name[g] for g in way] for way in r.path.others]
                if r.path
                else [],
            )
            for r in why.layers
        ],
        settings=[
            ForceSetting(
                key=key,
                value=plain(key, value),
                policy_value=plain(key, getattr(settings, key)),
                bent_by=bent.get(key, ""),
            )
            for key, value in in_force.items()
        ],
        flags=[FlagInfo(flag=e.flag, setting=e.setting, effect=e.effect) for e in effects],
        password_set=iso(password_set),
        expiry=end.at_moment(now),
        expires_at=iso(end.at),
        expiry_reason=end.reason,
        band_end=band_end,
        locked=lock.locked,
        locked_since=iso(lock.since),
        locked_until=iso(lock.until) if lock.until else None,
        bad_count=int(accounts.bad_count[row]),
        population=population_key(estate, resolution.stack(int(resolution.population[row]))),
    )


def _steps(current: Snapshot, path: Path | None) -> list[Step]:
    if path is None:
        return []
    groups = current.estate.groups
    return [
        Step(
            name=groups.name[g],
            dn=groups.dn[g],
            primary=path.by_primary_group and n == 0,
            scope=groups.scope(g) if groups.security[g] else "distribution",
        )
        for n, g in enumerate(path.groups)
    ]
