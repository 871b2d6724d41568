"""Accounts: the table of everyone, and one account's core."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from uuid import UUID

import numpy as np
from fastapi import APIRouter, HTTPException, Query

from hornfels.api.address import Route
from hornfels.api.deps import Current
from hornfels.api.schemas import AccountCore, AccountPage, AccountRow, CoreLayer, FlagInfo, ForceSetting, Step
from hornfels.api.snapshot import Snapshot
from hornfels.api.views import iso, now_moment, policy_guid, policy_mark, policy_name, population_key
from hornfels.core.account_state import effective_settings, expiry, flag_effects, lock_state, settings_of
from hornfels.core.explain import Path, explain
from hornfels.core.resolution import DOMAIN_POLICY

router = APIRouter(prefix="/api/domains/{domain}/accounts", tags=["accounts"], route_class=Route)


@router.get("")
def list_accounts(
    current: Current,
    q: Annotated[str, Query(max_length=200)] = "",
    policy: Annotated[UUID | Literal["domain"] | None, Query()] = None,
    population: Annotated[str | None, Query(max_length=40)] = None,
    group: Annotated[str | None, Query(max_length=300)] = None,
    offset: Annotated[int, Query(ge=0)] = 0,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
) -> AccountPage:
    """Accounts by name, filtered by words in their names, by the policy or population they have, and by a group."""
    chosen = _chosen(current, q, policy, population, group)
    now = now_moment()
    rows = chosen[offset : offset + limit].tolist()
    return AccountPage(total=len(chosen), offset=offset, rows=[_row(current, row, now) for row in rows])


def _chosen(current: Snapshot, q: str, policy: UUID | str | None, population: str | None, group: str | None) -> Any:
    estate, resolution = current.estate, current.resolution
    keep = np.ones(len(estate.accounts), dtype=np.bool_)
    for word in q.split():
        hit = np.zeros(len(keep), dtype=np.bool_)
        hit[estate.accounts.name.containing(word)] = True
        hit[estate.accounts.display_name.containing(word)] = True
        keep &= hit
    if policy is not None:
        number = DOMAIN_POLICY if policy == "domain" else current.index.get(UUID(str(policy)))
        if number is None:
            raise HTTPException(404, "The policy to filter by no longer exists. Clear the filter.")
        keep &= resolution.winner_of_account == number
    if population is not None:
        numbers = [n for n, stack in enumerate(resolution.stacks) if population_key(estate, stack) == population]
        keep &= np.isin(resolution.population, numbers)
    if group is not None:
        found = estate.groups.name.find(group)
        if not len(found):
            raise HTTPException(404, f"There is no group '{group}' in this domain. Clear the filter.")
        inside = np.zeros(len(keep), dtype=np.bool_)
        inside[estate.memberships.accounts_below(int(found[0]))] = True
        keep &= inside
    order = estate.accounts.name.order
    return order[keep[order]]


def _row(current: Snapshot, row: int, now: int) -> AccountRow:
    accounts = current.estate.accounts
    population = int(current.resolution.population[row])
    policy = int(current.resolution.winners[population])
    settings = settings_of(current.estate, policy)
    control, password_set = int(accounts.control[row]), int(accounts.password_set[row])
    end = expiry(control, password_set, settings.max_age)
    kind = "now" if end.kind == "at" and end.at <= now else end.kind
    return AccountRow(
        row=row,
        name=accounts.name[row],
        display_name=accounts.display_name[row],
        policy=policy_guid(current, policy),
        policy_name=policy_name(current, policy),
        was=_was(current, row),
        mark=policy_mark(current, policy),
        source=current.resolution.stack(population).source,
        expiry=kind,
        expires_at=iso(end.at),
        locked=lock_state(settings, int(accounts.lockout_time[row]), now).locked,
        flags=[f.flag for f in flag_effects(control, password_set)],
    )


def _was(current: Snapshot, row: int) -> str | None:
    """The account's live policy where the draft that is shown gives it another one."""
    if current.draft is None or current.live_winners[row] == current.resolution.winner_of_account[row]:
        return None
    live = current.draft.live
    return policy_name(live, int(live.resolution.winner_of_account[row]))


@router.get("/{name}")
def get_account(name: str, current: Current) -> AccountCore:
    """Everything about why one account gets what it gets."""
    row = current.estate.find_account(name)
    if row is None:
        raise HTTPException(404, f"There is no account '{name}' in this domain.")
    return _core(current, row)


def _core(current: Snapshot, row: int) -> AccountCore:
    estate, resolution = current.estate, current.resolution
    accounts, now = estate.accounts, now_moment()
    why = explain(estate, resolution, row)
    settings = settings_of(estate, why.winner)
    control, password_set = int(accounts.control[row]), int(accounts.password_set[row])
    end = expiry(control, password_set, settings.max_age)
    lock = lock_state(settings, int(accounts.lockout_time[row]), now)
    effects = flag_effects(control, password_set)
    in_force, by_policy = effective_settings(settings, control).plain(), settings.plain()
    bent = {e.setting: e.flag for e in effects if e.setting}
    return AccountCore(
        name=accounts.name[row],
        dn=accounts.dn[row],
        display_name=accounts.display_name[row],
        source=why.source,
        policy=policy_guid(current, why.winner),
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
                other_ways=[[estate.groups.name[g] for g in way] for way in r.path.others] if r.path else [],
            )
            for r in why.layers
        ],
        settings=[
            ForceSetting(key=key, value=value, policy_value=by_policy[key], bent_by=bent.get(key, ""))
            for key, value in in_force.items()
        ],
        flags=[FlagInfo(flag=e.flag, setting=e.setting, effect=e.effect) for e in effects],
        password_set=iso(password_set),
        expiry="now" if end.kind == "at" and end.at <= now else end.kind,
        expires_at=iso(end.at),
        expiry_reason=end.reason,
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
            name=groups.name[g], dn=groups.dn[g], primary=path.by_primary_group and n == 0,
            scope=groups.scope(g) if groups.security[g] else "distribution",
        )
        for n, g in enumerate(path.groups)
    ]  # fmt: skip
