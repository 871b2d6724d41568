"""What guessing costs, and how a lockout trades guessers against people."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from fastapi import APIRouter, Query
from fastapi.responses import Response

from hornfels.api.address import Route
from hornfels.api.deps import Current, Database
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.forecast_schemas import (
    BunchInfo,
    Burden,
    ChanceLine,
    ExpiriesAsked,
    ExpiryForecast,
    FigureInfo,
    GuessingAsked,
    GuessingSheet,
    InputInfo,
    LengthsAsked,
    LengthsInfo,
    LinePoint,
    MarkMoved,
    MarkThere,
    PolicyExpiries,
    PolicyMark,
    Tradeoff,
    TradeoffAsked,
)
from hornfels.api.rights import needs
from hornfels.api.views import iso, now_moment, settings_info
from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.sources import audit_length
from hornfels.core.drafts.edits import GONE
from hornfels.core.lockout.guessing import (
    Assumptions,
    Figure,
    accidental_locks,
    guessing_sheet,
    number,
    share,
)
from hornfels.core.lockout.tradeoff import (
    LONGEST,
    MOST_TRIES,
    SHORTEST,
    Plane,
    grid,
    lines,
    mark,
    moved,
)
from hornfels.core.policy.lockout import limits, lock_sentence
from hornfels.core.policy.model import until_unlocked
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.expiries import Bunch, Expiries, bunch_sentence, expiries
from hornfels.core.values.time import (
    DAY,
    TICKS_PER_SECOND,
    datetime_from_moment,
    seconds,
    span_from_seconds,
)
from hornfels.formats.table import write_table
from hornfels.refusals import NotFoundError
from hornfels.service.forecast import Standing, standings
from hornfels.service.lifetimes import lengths
from hornfels.service.naming import policy_mark, policy_name, policy_number, policy_ref
from hornfels.service.snapshots import Snapshot

router = APIRouter(
    prefix="/api/domains/{domain}",
    tags=["forecast"],
    route_class=Route,
    dependencies=[needs("see")],
)

UNKNOWABLE = (
    "A directory keeps no lengths. The gate has seen the passwords that were set through it; it "
    "knows of a length under policies with length bands (as they are now)."
)


def number_of(current: Snapshot, key: UUID | Literal["domain"]) -> int:
    """The number of a policy that is asked about. Raises `NotFoundError`."""
    policy = policy_number(current, str(key))
    if policy is None:
        raise NotFoundError(GONE)
    return policy


@router.get("/guessing")
def get_guessing(current: Current, asked: Annotated[GuessingAsked, Query()]) -> GuessingSheet:
    """What guessing costs under a policy: every number with its formula and its inputs."""
    policy = number_of(current, asked.policy)
    settings = settings_of(current.estate, policy)
    return GuessingSheet(
        policy=policy_ref(current, policy),
        policy_name=policy_name(current, policy),
        mark=policy_mark(current, policy),
        rule=lock_sentence(settings),
        figures=[figure_info(one) for one in guessing_sheet(settings, asked.assumptions())],
    )


def figure_info(figure: Figure) -> FigureInfo:
    return FigureInfo(
        key=figure.key,
        label=figure.label,
        value=figure.value,
        unit=figure.unit,
        shown=figure.shown,
        note=figure.note,
        formula=figure.formula,
        inputs=[InputInfo(name=name, value=value) for name, value in figure.inputs],
    )


@router.get("/tradeoff")
def get_tradeoff(current: Current, asked: Annotated[TradeoffAsked, Query()]) -> Tradeoff:
    """Lines of equal chance over threshold and time with the other settings of a policy, what
    thresholds cost people, and where every policy and starting point stands.
    """
    policy, assumed = number_of(current, asked.policy), asked.assumptions()
    settings = settings_of(current.estate, policy)
    return Tradeoff(
        plane=asked.plane,
        policy=policy_ref(current, policy),
        policy_name=policy_name(current, policy),
        most_tries=MOST_TRIES,
        shortest=seconds(SHORTEST) or 0,
        longest=seconds(LONGEST) or 0,
        lines=[
            ChanceLine(
                chance=line.chance,
                shown=share(line.chance),
                points=[
                    LinePoint(threshold=threshold, span=span / TICKS_PER_SECOND)
                    for threshold, span in zip(
                        line.thresholds.tolist(), line.spans.tolist(), strict=True
                    )
                ],
            )
            for line in lines(settings, assumed, asked.plane)
        ],
        burdens=[
            Burden(threshold=threshold, locks=locks, shown=number(locks))
            for threshold in (1, 2, 3, 5, 10, 20, 50)
            for locks in [accidental_locks(threshold, assumed.mistakes)]
        ],
        marks=[_mark(standing, assumed, asked.plane) for standing in standings(current)],
    )


def _mark(standing: Standing, assumed: Assumptions, plane: Plane) -> PolicyMark:
    stands = mark(standing.settings, assumed, plane)
    return PolicyMark(
        kind=standing.kind,
        key=standing.key,
        name=standing.name,
        mark=standing.mark,
        version=standing.version,
        threshold=stands.threshold,
        span=None if stands.span is None else seconds(stands.span),
        tries=stands.tries,
        chance=stands.chance,
        chance_shown=chance_shown(stands.chance),
        locks=stands.accidental,
        locks_shown=number(stands.accidental),
        locks_until_unlocked=limits(standing.settings)
        and until_unlocked(standing.settings.lockout_duration),
    )


def chance_shown(chance: float | None) -> str:
    return "no limit" if chance is None else share(chance)


@router.post("/tradeoff/moved", dependencies=[needs("see", proof=False)])
def put_mark(body: MarkMoved, current: Current) -> MarkThere:
    """What a policy's settings are with its mark somewhere else. Nothing is saved."""
    policy = number_of(current, body.policy)
    assumed = body.assumed.assumptions()
    before = settings_of(current.estate, policy)
    there = moved(before, body.plane, body.threshold, span_from_seconds(body.span) or 0)
    stands = mark(there, assumed, body.plane)
    return MarkThere(
        settings=settings_info(there),
        sentence=lock_sentence(there),
        chance_shown=chance_shown(stands.chance),
        locks_shown=number(stands.accidental),
    )


@router.get(
    "/tradeoff.csv",
    dependencies=[exported("a trade-off")],
    response_class=Response,
    responses=sent_as("text/csv", "A CSV file."),
)
def export_tradeoff(current: Current, asked: Annotated[TradeoffAsked, Query()]) -> Response:
    """The plane as comma-separated values: each time with every threshold."""
    policy, assumed = number_of(current, asked.policy), asked.assumptions()
    found = grid(settings_of(current.estate, policy), assumed, asked.plane, columns=MOST_TRIES)
    what = "Lockout duration" if asked.plane == "duration" else "Observation window"
    headings = ("Lockout threshold", f"{what} (s)", "Tries", "Chance", "Locks in 1,000 sign-ins")
    rows = (
        tuple(f"{cell:.6g}" for cell in (threshold, span / TICKS_PER_SECOND, many, hit, locks))
        for span, tries, chances in zip(
            found.spans.tolist(), found.tries.tolist(), found.chance.tolist(), strict=True
        )
        for threshold, many, hit, locks in zip(
            found.thresholds.tolist(), tries, chances, found.accidental.tolist(), strict=True
        )
    )
    name = f"{current.estate.domain.dns_name}-{asked.plane}.csv"
    headers = attached(name)
    return Response(write_table(headings, rows), media_type="text/csv", headers=headers)


@router.get("/expiries")
def get_expiries(current: Current, asked: Annotated[ExpiriesAsked, Query()]) -> ExpiryForecast:
    """On which days passwords end, by policy; beside it as it is live where a draft is shown."""
    now = now_moment()
    found = expiries(current.roster, now, asked.days)
    live = expiries(current.live.roster, now, asked.days) if current.draft else None
    by_day = found.by_day
    return ExpiryForecast(
        begins=iso(found.begins) or "",
        days=asked.days,
        policies=[
            PolicyExpiries(
                policy=policy_ref(current, policy),
                name=policy_name(current, policy),
                mark=policy_mark(current, policy),
                counts=counts.tolist(),
            )
            for policy in (*current.resolution.order, DOMAIN_POLICY)
            if (counts := found.of_policy(policy)).any()
        ],
        live=live.by_day.tolist() if live else None,
        bunches=[_bunch(current, found, one) for one in found.bunches],
        ended=found.ended,
        ended_live=live.ended if live else None,
        unknown=found.unknown,
        never=found.never,
        to_change=found.to_change,
        calls=[
            round(float(by_day[start : start + 7].sum()) * asked.calls / 100, 1)
            for start in range(0, asked.days, 7)
        ],
    )


def _bunch(current: Snapshot, found: Expiries, one: Bunch) -> BunchInfo:
    date = datetime_from_moment(found.begins + one.day * DAY)
    return BunchInfo(
        day=one.day,
        date=date.date().isoformat() if date else "",
        many=one.many,
        told=bunch_sentence(one, policy_name(current, one.policy)),
    )


@router.get("/expiries/lengths")
def get_lengths(
    current: Current, database: Database, asked: Annotated[LengthsAsked, Query()]
) -> LengthsInfo:
    """How many present passwords a minimum length would find too short, as far as it is known."""
    found = lengths(database, current, asked.at_least)
    return LengthsInfo(
        shorter=found.shorter,
        enough=found.enough,
        either=found.either,
        unseen=found.unseen,
        told=f"{UNKNOWABLE} {_audited(audit_length(current.live.estate.domain))}",
    )


def _audited(length: int | None) -> str:
    if length is None:
        return "The length audit, which logs what is set too short, does not run here."
    return f"The length audit runs: servers log what is set with fewer than {length} characters."


@router.get(
    "/expiries.csv",
    dependencies=[exported("expiries by day")],
    response_class=Response,
    responses=sent_as("text/csv", "A CSV file."),
)
def export_expiries(current: Current, asked: Annotated[ExpiriesAsked, Query()]) -> Response:
    """The days as comma-separated values: each with every policy."""
    found = expiries(current.roster, now_moment(), asked.days)
    order = [*current.resolution.order, DOMAIN_POLICY]
    headings = ("Day", *(policy_name(current, policy) for policy in order))
    days = (datetime_from_moment(found.begins + number * DAY) for number in range(asked.days))
    rows = (
        (f"{day:%Y-%m-%d}" if day else "", *(str(found.of_policy(p)[number]) for p in order))
        for number, day in enumerate(days)
    )
    headers = attached(f"{current.estate.domain.dns_name}-expiries.csv")
    return Response(write_table(headings, rows), media_type="text/csv", headers=headers)
