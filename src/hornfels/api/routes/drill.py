"""The drill: stories of bad and good tries under the policies of a place."""

from __future__ import annotations

from fastapi import APIRouter

from hornfels.api.address import Route
from hornfels.api.deps import User
from hornfels.api.drill_schemas import (
    DrillAnswer,
    DrillAsked,
    DrillColumn,
    EventAt,
    LockInfo,
    ReadyMadeInfo,
    RunInfo,
    StepInfo,
)
from hornfels.api.rights import SIGNED_IN, needs
from hornfels.api.snapshot_cache import CachedSnapshot
from hornfels.core.domain.account_state import settings_of
from hornfels.core.lockout.notation import write_story
from hornfels.core.lockout.ready_made import READY_MADE
from hornfels.core.lockout.story import Event, Story, reads, runs, sentence
from hornfels.core.policy.lockout import lock_sentence
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.time import seconds, span_from_seconds
from hornfels.service import drilling
from hornfels.service.drilling import Drilled, Subject
from hornfels.service.naming import policy_mark, policy_name, policy_ref
from hornfels.service.snapshots import Snapshot

router = APIRouter(prefix="/api", tags=["drill"], route_class=Route)


@router.get("/stories", dependencies=[SIGNED_IN])
def list_stories(_user: User) -> list[ReadyMadeInfo]:
    """The stories that happen everywhere."""
    return [ReadyMadeInfo(key=ready.key, title=ready.title) for ready in READY_MADE]


@router.post("/domains/{domain}/drill", dependencies=[needs("bench", proof=False)])
def drill(body: DrillAsked, current: CachedSnapshot) -> DrillAnswer:
    """What becomes of a story at each account and under each policy."""
    who, unknown = drilling.subjects(current, body.accounts, body.policies)
    known = body.ready or body.lesson
    ready = drilling.ready_made(known) if known else None
    story = _story(body, current, who)
    return DrillAnswer(
        story=write_story(story),
        events=[EventAt(at=seconds(event.at) or 0, event=event.kind) for event in story],
        columns=[_column(current, one) for one in drilling.drill(current, who, story, ready)],
        unknown=unknown,
    )


def _story(body: DrillAsked, current: Snapshot, who: list[Subject]) -> Story:
    if body.story is not None:
        return drilling.as_written(body.story)
    if body.events is not None:
        return drilling.as_placed(
            Event(span_from_seconds(event.at) or 0, event.event) for event in body.events
        )
    # Some stories go by the policy: by that of the first one that they happen to.
    settings = settings_of(current.estate, who[0].policy) if who else DEFAULTS
    return drilling.as_written(drilling.ready_made(body.ready or "").text(settings))


def _column(current: Snapshot, drilled: Drilled) -> DrillColumn:
    played, policy = drilled.played, drilled.subject.policy
    return DrillColumn(
        account=drilled.subject.account,
        policy=policy_ref(current, policy),
        policy_name=policy_name(current, policy),
        mark=policy_mark(current, policy),
        threshold=played.settings.lockout_threshold,
        rule=lock_sentence(played.settings),
        said=sentence(played),
        lesson=drilled.lesson,
        steps=[
            StepInfo(
                outcome=step.outcome,
                bad_count=step.bad_count,
                locked=step.locked,
                counts_until=seconds(step.counts_until),
            )
            for step in played.steps
        ],
        locks=[
            LockInfo(
                start=seconds(lock.start) or 0,
                tries=lock.tries,
                end=seconds(lock.end),
                by_hand=lock.by_hand,
            )
            for lock in played.locks
        ],
        runs=[
            RunInfo(
                first=run.first,
                count=len(run.steps),
                start=seconds(run.steps[0].event.at) or 0,
                end=seconds(run.steps[-1].event.at) or 0,
                event=run.steps[0].event.kind,
                outcome=run.steps[0].outcome,
                reads=reads(run.steps[0].event.kind, run.steps[0].outcome),
                bad_count=run.steps[-1].bad_count,
                locks=run.locks,
            )
            for run in runs(played)
        ],
    )
