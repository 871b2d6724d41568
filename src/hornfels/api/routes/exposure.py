"""Accounts whose passwords others know: how many under which policy, who, and what becomes of
them.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from itertools import islice
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database, Renewal, Rights, User
from hornfels.api.exposure_schemas import (
    MOST_LISTED,
    CorpusInfo,
    ExposedAccount,
    ExposedAccounts,
    ExposureCounts,
    ExposureDeed,
    ExposureInfo,
    ExposureOrder,
    ExposureReason,
    ExposureRun,
    OrderEdit,
    PlanConfirmed,
    PlanDone,
    PolicyExposure,
    PopulationExposure,
    SharedGroup,
)
from hornfels.api.rights import needs, origin_of
from hornfels.api.schemas import JobInfo
from hornfels.api.turnstile import Turnstile
from hornfels.api.views import job_info
from hornfels.core.domain.account_state import addition_of
from hornfels.core.domain.estate import Int64
from hornfels.core.domain.must_change import may_be_told
from hornfels.core.domain.wording import ref_of
from hornfels.core.exposure.known import KINDS, Kind, Known
from hornfels.core.policy.addition_words import counted
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.section import who
from hornfels.core.values.time import datetime_from_moment
from hornfels.formats.corpus.shelf import Part
from hornfels.refusals import NotFoundError
from hornfels.service import acts, exposure, exposure_orders, lifetimes
from hornfels.service.exposure_orders import Due, Order
from hornfels.service.naming import (
    policy_mark,
    policy_name,
    policy_number,
    policy_ref,
    population_key,
)
from hornfels.service.places import snapshot_at
from hornfels.service.snapshots import Snapshot
from hornfels.settings import read_settings
from hornfels.store import exposure as kept
from hornfels.store import jobs
from hornfels.store.models import DomainRow, ExposureDeedRow, ExposureRunRow

router = APIRouter(prefix="/api/domains/{domain}/exposure", tags=["exposure"], route_class=Route)

_RUNS, _DEEDS, _GROUPS, _MEMBERS, _POPULATIONS = 60, 500, 200, 50, 20


@router.get("", dependencies=[needs("see")])
def get_exposure(current: Current, database: Database, rights: Rights) -> ExposureInfo:
    """How far others know the passwords of a domain, policy by policy. Names only for those who may
    see them.
    """
    row = database.get_one(DomainRow, current.domain_id)
    found = exposure.known(database, current)
    due = exposure_orders.due(database, current, found)
    job = jobs.active(database, "exposure", row.dns_name)
    names = "exposed" in rights
    return ExposureInfo(
        file=str(exposure.hash_file(row.dns_name, read_settings())) if "load" in rights else "",
        trouble=_trouble(row.exposure_told, told="load" in rights),
        job=job_info(job) if job else None,
        runs=[_run(one) for one in kept.runs(database, row.id, _RUNS)],
        now=_counts(found.counts()),
        policies=list(_policies(current, found, due, exposure_orders.orders(database, current))),
        groups=_groups(current, found, named=names),
        corpora=_corpora(current),
        deeds=[_deed(current, one) for one in kept.deeds(database, row.id, _DEEDS if names else 0)],
        possible=lifetimes.standing(database, current).possible,
        waits=acts.waits(database, "exposure order", row.dns_name),
        spared=list(row.lifetimes_spared) if names else [],
    )


@router.get("/accounts", dependencies=[needs("exposed")])
def list_accounts(
    current: Current,
    database: Database,
    policy: Annotated[str, Query(max_length=100)] = "",
    kind: Annotated[Kind | None, Query()] = None,
    account: Annotated[str, Query(max_length=256)] = "",
) -> ExposedAccounts:
    """Whose password others know or share, the newest first: all, or those under one policy, of one
    kind, or one account.
    """
    found = exposure.known(database, current)
    due = {one.row: one for one in exposure_orders.due(database, current, found)}
    wanted = _chosen(current, found, policy, kind, account)
    rows = wanted[:MOST_LISTED]
    told = may_be_told(current.estate, rows, lifetimes.never_these(database, current))
    of_row = found.where(np.isin(found.rows, rows)).by(np.arange(len(current.estate.accounts)))
    return ExposedAccounts(
        total=len(wanted),
        accounts=[
            _account(current, row, of_row[row], due.get(row), spared=not may)
            for row, may in zip(rows.tolist(), told.tolist(), strict=True)
        ],
    )


@router.post("/look", status_code=202, dependencies=[needs("load", proof=False)])
def look(current: Current, database: Database, user: User) -> JobInfo:
    """Compare accounts now."""
    name = current.estate.domain.dns_name
    job = jobs.active(database, "exposure", name) or jobs.start(
        database, "exposure", user, domain=name
    )
    database.commit()
    database.refresh(job)
    return job_info(job)


@router.put("/orders/{policy}", dependencies=[needs("settings", proof=True)])
def set_order(
    policy: str, body: OrderEdit, current: Current, database: Database, user: User
) -> ExposureOrder:
    """Say what becomes of exposed accounts under a policy."""
    number = policy_number(current, policy)
    if number is None:
        raise NotFoundError("There is no such policy any more.")
    order = Order(body.consequence, body.days, body.standing)
    ref = ref_of(current.estate, number)
    exposure_orders.choose(database, current, ref, order, body.reason, user)
    return _order(exposure_orders.orders(database, current).get(policy, order))


@router.post("/plan", status_code=201, dependencies=[needs("settings", proof=True)])
async def confirm_plan(
    body: PlanConfirmed, domain: str, request: Request, user: User, snapshots: Renewal
) -> PlanDone:
    """Have accounts that are due choose another password at the next sign-in."""
    asking: Turnstile = request.app.state.asking
    engine, origin = request.app.state.engine, origin_of(request)

    def confirmed() -> PlanDone:
        live = snapshot_at(domain, snapshots).live
        now = datetime.now(UTC)
        done = exposure_orders.confirm(
            engine, live, body.accounts, user, body.reason, now, read_settings(), origin
        )
        refused = len(set(body.accounts)) - done.done - done.pending
        return PlanDone(required=done.done, pending=done.pending, refused=refused, point=done.point)

    # It may take a while: whoever waits for a server takes no place from anybody else.
    async with asking.place():
        return await asking.run(confirmed)


def _trouble(words: str, *, told: bool) -> str:
    """Return the reason why accounts cannot be compared; only the full reason names files."""
    if not words or told:
        return words
    return "Accounts could not be compared. An administrator sees why."


def _counts(found: dict[str, int]) -> ExposureCounts:
    return ExposureCounts(**_numbers(found))


def _numbers(found: dict[str, int]) -> dict[str, int]:
    return {
        "exposed": found["exposed"],
        "listed": found["list"],
        "blank": found["blank"],
        "own_name": found["own name"],
        "house_term": found["house term"],
        "shared": found["shared"],
    }


def _run(row: ExposureRunRow) -> ExposureRun:
    return ExposureRun(
        at=row.at,
        whole=row.whole,
        compared=row.compared,
        unknown=row.unknown,
        groups=row.found["groups"],
        **_numbers(row.found),
    )


def _policies(
    current: Snapshot, found: Known, due: Iterable[Due], orders: dict[str, Order]
) -> Iterable[PolicyExposure]:
    under = found.by(current.resolution.winner_of_account)
    nothing = found.where(np.zeros(0, np.int64))
    now = datetime.now(UTC)
    coming: dict[str, int] = defaultdict(int)
    for owed in due:
        coming[owed.policy] += owed.at <= now
    for policy in (*current.resolution.order, DOMAIN_POLICY):
        ref, here = policy_ref(current, policy), under.get(policy, nothing)
        yield PolicyExposure(
            policy=ref,
            policy_name=policy_name(current, policy),
            mark=policy_mark(current, policy),
            accounts=current.resolution.governed(policy),
            due=coming[ref],
            order=_order(orders.get(ref, Order())),
            populations=_populations(current, policy, here),
            **_numbers(here.counts()),
        )


def _populations(current: Snapshot, policy: int, found: Known) -> list[PopulationExposure]:
    resolution, estate = current.resolution, current.estate
    if (resolution.winners == policy).sum() < 2:
        return []
    places = resolution.population[np.unique(found.exposed.rows)]
    numbers, counts = np.unique(places, return_counts=True)
    exposed = dict(zip(numbers.tolist(), counts.tolist(), strict=True))
    share = {one: count / int(resolution.counts[one]) for one, count in exposed.items()}
    return [
        PopulationExposure(
            key=population_key(estate, resolution.stack(one)),
            who=who(estate, resolution, current.roster, current.shared_groups, one),
            accounts=int(resolution.counts[one]),
            exposed=exposed[one],
        )
        for one in sorted(share, key=lambda one: (-share[one], one))[:_POPULATIONS]
    ]


def _order(order: Order) -> ExposureOrder:
    return ExposureOrder(consequence=order.consequence, days=order.days, standing=order.standing)


def _groups(current: Snapshot, found: Known, *, named: bool) -> list[SharedGroup]:
    names = current.estate.accounts.name
    return [
        SharedGroup(
            group=number,
            size=len(rows),
            members=[names[row] for row in rows[:_MEMBERS].tolist()] if named else None,
        )
        for number, rows in islice(found.sharing(), _GROUPS)
    ]


def _corpora(current: Snapshot) -> list[CorpusInfo]:
    """Those at hand, and those that policies ask for and are not."""
    at_hand = current.corpora.parts()
    asked = Counter(
        name
        for policy in (*range(len(current.estate.policies)), DOMAIN_POLICY)
        if (addition := addition_of(current.estate, policy))
        for name in addition.corpora
    )
    held = [_corpus(name, parts) for name, parts in at_hand.items()]
    for name, count in sorted(asked.items()):
        if name not in at_hand:
            who_asks = counted(count, "policy asks", "policies ask")
            held.append(_corpus(name, [Part("", None, f"not at hand, though {who_asks} for it")]))
    return held


def _corpus(name: str, parts: Sequence[Part]) -> CorpusInfo:
    held = [part.corpus.layout for part in parts if part.corpus]
    first = held[0] if held else None
    return CorpusInfo(
        name=name,
        kind=first.kind if first else None,
        folded=bool(first and first.folded),
        entries=sum(one.entries for one in held),
        seen=sum(one.seen for one in held),
        bytes=sum(one.file_bytes for one in held),
        files=len(parts),
        compares=any(one.kind == "nt" and not one.folded for one in held),
        problem=" ".join(
            f"{part.file}: {part.problem}.".removeprefix(": ") for part in parts if part.problem
        ),
    )


def _deed(current: Snapshot, row: ExposureDeedRow) -> ExposureDeed:
    number = policy_number(current, row.policy)
    name = "a policy that is gone" if number is None else policy_name(current, number)
    return ExposureDeed(at=row.at, by=row.by, account=row.account, policy_name=name, told=row.told)


def _chosen(current: Snapshot, found: Known, policy: str, kind: Kind | None, account: str) -> Int64:
    """The rows of accounts, each once, those of whom something was found last first."""
    chosen = np.ones(len(found), np.bool_) if kind is None else found.of_kind(kind)
    if policy:
        number = policy_number(current, policy)
        if number is None:
            raise NotFoundError("There is no such policy any more.")
        chosen &= current.resolution.winner_of_account[found.rows] == number
    if account:
        only = current.estate.find_account(account)
        chosen &= found.rows == (-1 if only is None else only)
    rows = found.rows[chosen]
    return rows[np.sort(np.unique(rows, return_index=True)[1])]


def _account(
    current: Snapshot, row: int, found: Known, due: Due | None, *, spared: bool
) -> ExposedAccount:
    accounts = current.estate.accounts
    policy = int(current.resolution.winner_of_account[row])
    columns = zip(found.kinds.tolist(), found.lists.tolist(), found.since.tolist(), strict=True)
    return ExposedAccount(
        name=accounts.name[row],
        display_name=accounts.display_name[row],
        policy=policy_ref(current, policy),
        policy_name=policy_name(current, policy),
        mark=policy_mark(current, policy),
        reasons=[
            ExposureReason(
                kind=KINDS[kind], list=found.names[number], since=datetime_from_moment(since)
            )
            for kind, number, since in columns
        ],
        since=datetime_from_moment(int(found.since.max())),
        group=int(found.groups.max()),
        due_at=due.at if due else None,
        spared=spared,
    )
