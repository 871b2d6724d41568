"""Guessers and people together: what each policy leaves the ones and costs the others."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import Response

from hornfels.api.address import Route
from hornfels.api.burden_schemas import (
    BurdenAsked,
    BurdenCourse,
    BurdenForecast,
    BurdenMark,
    CoursePoint,
)
from hornfels.api.deps import Current
from hornfels.api.exporting import attached, exported, sent_as
from hornfels.api.rights import needs
from hornfels.api.routes.forecast import chance_shown, figure_info, number_of
from hornfels.core.domain.account_state import settings_of
from hornfels.core.lockout.burden import Varied, burden_sheet, course, stand
from hornfels.core.lockout.guessing import number
from hornfels.formats.table import write_table
from hornfels.service.forecast import Standing, by_baselines, standings
from hornfels.service.naming import policy_mark, policy_name, policy_ref
from hornfels.service.snapshots import Snapshot
from hornfels.settings import read_settings

router = APIRouter(
    prefix="/api/domains/{domain}",
    tags=["forecast"],
    route_class=Route,
    dependencies=[needs("see")],
)

_VARIED: tuple[Varied, ...] = ("age", "threshold")


@router.get("/burden")
def get_burden(current: Current, asked: Annotated[BurdenAsked, Query()]) -> BurdenForecast:
    """What policies leave a guesser within the life of a password, against what they cost one
    person in a year: here, as it is live, and as baselines want the one that is asked about.
    """
    policy, assumed, habits = number_of(current, asked.policy), asked.assumptions(), asked.habits()
    settings = settings_of(current.estate, policy)
    marks, met = _marks(current, policy, asked)
    return BurdenForecast(
        plane=asked.plane,
        policy=policy_ref(current, policy),
        policy_name=policy_name(current, policy),
        mark=policy_mark(current, policy),
        marks=marks,
        courses=[
            BurdenCourse(
                varied=varied,
                points=[
                    CoursePoint(
                        label=f"{value} d" if varied == "age" else str(value),
                        minutes=at.burden.minutes,
                        tries=at.tries,
                    )
                    for value, at in course(settings, varied, assumed, habits, asked.plane)
                ],
            )
            for varied in _VARIED
        ],
        met=met,
        figures=[figure_info(one) for one in burden_sheet(settings, habits, assumed.mistakes)],
    )


def _marks(
    current: Snapshot, policy: int, asked: BurdenAsked
) -> tuple[list[BurdenMark], list[str]]:
    """The marks, and the titles of baselines that want nothing else of the policy."""
    wanted = list(by_baselines(current, policy, read_settings()))
    there = settings_of(current.estate, policy)
    met = [one.name for one in wanted if one.settings == there]
    shown = [one for one in standings(current) if one.kind != "start"]
    shown += [one for one in wanted if one.settings != there]
    return [_mark(one, asked) for one in shown], met


def _mark(standing: Standing, asked: BurdenAsked) -> BurdenMark:
    at = stand(standing.settings, asked.assumptions(), asked.habits(), asked.plane)
    return BurdenMark(
        kind=standing.kind,
        key=standing.key,
        name=standing.name,
        mark=standing.mark,
        minutes=at.burden.minutes,
        tries=at.tries,
        tries_shown="no limit" if at.tries is None else number(at.tries),
        chance_shown=chance_shown(at.chance),
        minutes_shown=number(at.burden.minutes),
        changes_shown=number(at.burden.changes),
        characters_shown=number(at.burden.characters),
        locks_shown=number(at.burden.locks),
    )


_AS = {"policy": "here", "live": "live", "baseline": "as a baseline wants it"}


@router.get(
    "/burden.csv",
    dependencies=[exported("guess and burden")],
    response_class=Response,
    responses=sent_as("text/csv", "A CSV file."),
)
def export_burden(current: Current, asked: Annotated[BurdenAsked, Query()]) -> Response:
    """The marks as comma-separated values; tries are empty where nothing limits them."""
    policy, assumed, habits = number_of(current, asked.policy), asked.assumptions(), asked.habits()
    headings = (
        "Policy",
        "As",
        "Tries",
        "Chance",
        "Changes a year",
        "Characters a year",
        "Locks a year",
        "Minutes changing",
        "Minutes typing",
        "Minutes locked",
        "Minutes a year",
    )
    wanted = by_baselines(current, policy, read_settings())
    shown = [one for one in standings(current) if one.kind != "start"]
    name = policy_name(current, policy)

    def row(one: Standing) -> tuple[str, ...]:
        at = stand(one.settings, assumed, habits, asked.plane)
        told = at.burden
        costs = (
            *(told.changes, told.characters, told.locks),
            *(told.changing, told.typing, told.locked, told.minutes),
        )
        policy_of = f"{name}, {one.name}" if one.kind == "baseline" else one.name
        hit = "" if at.chance is None else f"{at.chance:.6g}"
        tries = "" if at.tries is None else str(at.tries)
        return (policy_of, _AS[one.kind], tries, hit, *(f"{cost:.6g}" for cost in costs))

    headers = attached(f"{current.estate.domain.dns_name}-burden.csv")
    rows = (row(one) for one in (*shown, *wanted))
    return Response(write_table(headings, rows), media_type="text/csv", headers=headers)
