"""Baselines held against a domain, and their gaps closed in the draft that is shown."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path, Query
from sqlalchemy.orm import Session

from hornfels.api.address import Route
from hornfels.api.baseline_schemas import (
    BaselineAnswer,
    BaselineAsked,
    BaselineColumn,
    BaselineFile,
    BaselineGap,
    BaselineInfo,
    BaselineOfPolicy,
    BaselineRow,
    Baselines,
    BaselinesBeside,
    BesideRecommendation,
    BesideRow,
    ExceptionNew,
    GapClosing,
)
from hornfels.api.deps import Current, Database, Edit, User
from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.rights import SIGNED_IN, needs
from hornfels.api.schemas import AcceptanceInfo
from hornfels.core.baselines.assessing import STATES, Assessment
from hornfels.core.baselines.baseline import WHO, Baseline, Recommendation
from hornfels.core.baselines.beside import beside
from hornfels.core.baselines.conditions import limits
from hornfels.core.domain.account_state import settings_of
from hornfels.core.drafts.edits import index_of
from hornfels.core.drafts.sentences import value_text
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.policy.model import PolicyRef
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.section import Population, section
from hornfels.refusals import NotFoundError
from hornfels.service import baselines
from hornfels.service.baselines import Gap
from hornfels.service.naming import policy_mark, policy_name, policy_ref, population_key
from hornfels.service.snapshots import Snapshot
from hornfels.settings import read_settings
from hornfels.store import acceptances
from hornfels.store.models import AcceptedFindingRow

router = APIRouter(prefix="/api", tags=["baselines"], route_class=Route)

Name = Annotated[str, Path(max_length=60)]


@router.get("/baselines", dependencies=[SIGNED_IN])
def list_baselines() -> Baselines:
    """The baselines that there are: those that come along, and those of one's own."""
    offered = baselines.every(read_settings())
    return Baselines(
        baselines=[_info(one.baseline) for one in offered if one.baseline],
        files=[
            BaselineFile(file=one.file, problem=one.problem)
            for one in offered
            if one.baseline is None
        ],
    )


@router.get("/baselines/{name}/beside/{other}", dependencies=[SIGNED_IN])
def get_beside(name: Name, other: Name) -> BaselinesBeside:
    """Two baselines side by side: what each asks of one thing, and which asks for more."""
    first, second = (baselines.find(one, read_settings()) for one in (name, other))
    return BaselinesBeside(
        first=_info(first),
        second=_info(second),
        rows=[
            BesideRow(
                topic=BY_KEY[pair.topic].label if pair.topic in BY_KEY else pair.topic.capitalize(),
                first=[_beside(one) for one in pair.first],
                second=[_beside(one) for one in pair.second],
                relation=pair.relation,
            )
            for pair in beside(first, second)
        ],
    )


def _beside(one: Recommendation) -> BesideRecommendation:
    return BesideRecommendation(text=one.text, who=WHO[one.who], wanted=one.wants.text())


@router.get("/domains/{domain}/baselines/{name}/policies/{policy}", dependencies=[needs("see")])
def get_asked(
    name: Name, policy: Annotated[str, Path(max_length=64)], current: Current
) -> BaselineOfPolicy:
    """What a baseline asks of one policy (GUID, or “domain”) for the accounts under it."""
    baseline, ref = baselines.find(name, read_settings()), _ref(policy)
    number = DOMAIN_POLICY if ref == "domain" else index_of(current.estate, ref)
    return BaselineOfPolicy(
        asked=[
            BaselineAsked(
                key=one.recommendation.key,
                who=WHO[one.recommendation.who],
                limits=dict(limits(one.recommendation.wants)),
                wanted=one.recommendation.wants.text(),
                rationale=one.recommendation.rationale.strip(),
                effect=one.recommendation.effect.strip(),
                source=one.recommendation.source,
                accounts=one.accounts,
                not_met=one.not_met,
            )
            for one in baselines.asked_of(current, baseline, number)
        ]
    )


@router.get("/domains/{domain}/baselines/{name}", dependencies=[needs("see")])
def get_baseline(name: Name, current: Current, database: Database) -> BaselineAnswer:
    """What comes of a baseline: recommendations as rows against populations as columns."""
    return _answer(baselines.find(name, read_settings()), current, database)


@router.post("/domains/{domain}/baselines/{name}/gaps", dependencies=[needs("draft", proof=False)])
def close_gap(name: Name, body: GapClosing, edit: Edit) -> BaselineAnswer:
    """Change a policy in the draft so that it meets a recommendation."""
    baseline = baselines.find(name, read_settings())
    closed = baselines.close(edit, baseline, body.recommendation, _ref(body.policy))
    return _answer(baseline, closed, edit.database)


@router.post(
    "/domains/{domain}/baselines/{name}/exceptions",
    status_code=204,
    dependencies=[needs("draft", proof=False)],
)
def accept(
    name: Name, body: ExceptionNew, current: Current, database: Database, user: User
) -> None:
    """Accept that a recommendation is not followed, with a reason, until the end of a day."""
    baseline = baselines.find(name, read_settings())
    given = (body.recommendation, body.reason, body.until)
    baselines.accept(database, current, user, baseline, *given)


@router.delete(
    "/domains/{domain}/baselines/{name}/exceptions",
    status_code=204,
    dependencies=[needs("draft", proof=False)],
)
def withdraw(
    name: Name,
    recommendation: Annotated[str, Query(max_length=60)],
    current: Current,
    database: Database,
) -> None:
    baselines.withdraw(database, current, baselines.find(name, read_settings()), recommendation)


def _answer(baseline: Baseline, current: Snapshot, database: Session) -> BaselineAnswer:
    drawn = section(
        current.estate,
        current.resolution,
        current.roster,
        current.shared_groups,
        current.moved,
        None,
    )
    found = baselines.assessed(current, baseline)
    live = baselines.assessed(current.live, baseline) if current.draft else found
    held = acceptances.accepted(database, current.domain_id, datetime.now(UTC).date())
    return BaselineAnswer(
        baseline=_info(baseline),
        columns=[_column(current, one) for one in drawn.populations],
        unlisted=drawn.unlisted,
        rows=[
            _row(
                current,
                one,
                before,
                drawn.populations,
                held.get(baselines.exception_key(baseline, one.recommendation.key)),
            )
            for one, before in zip(found, live, strict=True)
        ],
    )


def _ref(written: str) -> PolicyRef:
    if written == "domain":
        return "domain"
    try:
        return UUID(written)
    except ValueError:
        raise NotFoundError("There is no such policy.") from None


def _info(baseline: Baseline) -> BaselineInfo:
    return BaselineInfo(name=baseline.name, title=baseline.title, about=baseline.about)


def _column(current: Snapshot, one: Population) -> BaselineColumn:
    return BaselineColumn(
        key=population_key(current.estate, one.stack),
        who=one.who,
        count=one.count,
        policy=policy_ref(current, one.winner),
        policy_name=policy_name(current, one.winner),
        mark=policy_mark(current, one.winner),
    )


def _row(
    current: Snapshot,
    found: Assessment,
    live: Assessment,
    columns: tuple[Population, ...],
    held: AcceptedFindingRow | None,
) -> BaselineRow:
    one, counts = found.recommendation, found.accounts
    turned = live.state != found.state or live.accounts != counts
    return BaselineRow(
        key=one.key,
        text=one.text,
        who=WHO[one.who],
        state=found.state,
        state_live=live.state if turned else None,
        not_met_live=live.accounts["not met"] if turned else None,
        met=counts["met"],
        not_met=counts["not met"],
        cannot_tell=counts["cannot tell"],
        not_applicable=counts["not applicable"],
        cells=[
            next(
                (s for s, n in zip(STATES, found.by_population[c.number], strict=True) if n),
                "not applicable",
            )
            for c in columns
        ],
        measured=found.measured,
        wanted=one.wants.text(),
        rationale=one.rationale.strip(),
        effect=one.effect.strip(),
        source=one.source,
        gaps=[_gap(current, gap) for gap in baselines.gaps(current, found)],
        accepted=AcceptanceInfo(reason=held.reason, until=held.until, by=held.user_name)
        if held
        else None,
    )


def _gap(current: Snapshot, gap: Gap) -> BaselineGap:
    before = settings_of(current.estate, gap.policy).values()
    name = policy_name(current, gap.policy)
    return BaselineGap(
        policy=policy_ref(current, gap.policy),
        name=name,
        mark=policy_mark(current, gap.policy),
        accounts=gap.accounts,
        changes=[
            SaidInfo(
                subject=name,
                text=BY_KEY[key].label,
                before=value_text(BY_KEY[key], before[key]),
                after=value_text(BY_KEY[key], value),
            )
            for key, value in gap.changes.items()
        ],
    )
