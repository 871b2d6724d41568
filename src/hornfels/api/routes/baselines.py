"""Baselines held against a domain, and their gaps closed in the draft that is shown."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path

from hornfels.api.address import Route
from hornfels.api.baseline_schemas import (
    BaselineAnswer,
    BaselineColumn,
    BaselineGap,
    BaselineInfo,
    BaselineRow,
    GapClosing,
)
from hornfels.api.deps import Current, Edit
from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.rights import SIGNED_IN, needs
from hornfels.core.baselines.assessing import STATES, Assessment
from hornfels.core.baselines.baseline import WHO, Baseline
from hornfels.core.domain.account_state import settings_of
from hornfels.core.drafts.sentences import value_text
from hornfels.core.policy.catalogue import BY_KEY
from hornfels.core.policy.model import PolicyRef
from hornfels.core.resolution.section import Population, section
from hornfels.refusals import NotFoundError
from hornfels.service import baselines
from hornfels.service.baselines import Gap
from hornfels.service.naming import policy_mark, policy_name, policy_ref, population_key
from hornfels.service.snapshots import Snapshot

router = APIRouter(prefix="/api", tags=["baselines"], route_class=Route)

Name = Annotated[str, Path(max_length=60)]


@router.get("/baselines", dependencies=[SIGNED_IN])
def list_baselines() -> list[BaselineInfo]:
    """The baselines that there are."""
    return [_info(one) for one in baselines.every()]


@router.get("/domains/{domain}/baselines/{name}", dependencies=[needs("see")])
def get_baseline(name: Name, current: Current) -> BaselineAnswer:
    """What comes of a baseline: recommendations as rows against populations as columns."""
    baseline = baselines.find(name)
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
    return BaselineAnswer(
        baseline=_info(baseline),
        columns=[_column(current, one) for one in drawn.populations],
        unlisted=drawn.unlisted,
        rows=[
            _row(current, one, before, drawn.populations)
            for one, before in zip(found, live, strict=True)
        ],
    )


@router.post("/domains/{domain}/baselines/{name}/gaps", dependencies=[needs("draft")])
def close_gap(name: Name, body: GapClosing, edit: Edit) -> BaselineAnswer:
    """Change a policy in the draft so that it meets a recommendation."""
    return get_baseline(name, baselines.close(edit, name, body.recommendation, _ref(body.policy)))


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
    current: Snapshot, found: Assessment, live: Assessment, columns: tuple[Population, ...]
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
