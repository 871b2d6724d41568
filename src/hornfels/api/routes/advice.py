"""What helps people choose: boundary candidates, suggestions, and the policy in plain words."""

from __future__ import annotations

from collections.abc import Iterable
from secrets import SystemRandom
from typing import Annotated

from fastapi import APIRouter, Query

from hornfels.api.address import Route
from hornfels.api.bench_schemas import (
    BoundariesAnswer,
    BoundariesAsked,
    BoundaryInfo,
    CardAnswer,
    CardLine,
    CardWay,
    OnePolicy,
    SuggestionAsked,
    SuggestionInfo,
)
from hornfels.api.deps import Current
from hornfels.api.rights import needs
from hornfels.api.views import iso, now_moment
from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.passwords.boundaries import boundaries
from hornfels.core.passwords.card import Line, card
from hornfels.core.passwords.rules.rule import ANYBODY, Subject, subject_of
from hornfels.core.values.time import seconds
from hornfels.refusals import FieldsError, NotFoundError
from hornfels.service.naming import policy_mark, policy_name, policy_number, policy_ref
from hornfels.service.snapshots import Snapshot
from hornfels.service.suggesting import suggested

router = APIRouter(
    prefix="/api/domains/{domain}", tags=["bench"], route_class=Route, dependencies=[needs("bench")]
)


def card_lines(lines: Iterable[Line]) -> list[CardLine]:
    return [CardLine(rule=line.rule, text=line.text) for line in lines]


def _row(current: Snapshot, account: str) -> int:
    row = current.estate.find_account(account)
    if row is None:
        raise NotFoundError(f"There is no account '{account[:100]}' in this domain.")
    return row


def _policy(current: Snapshot, key: str) -> int:
    policy = policy_number(current, key)
    if policy is None:
        raise NotFoundError("There is no such policy any more.")
    return policy


def _asked(current: Snapshot, asked: OnePolicy) -> tuple[int, Subject]:
    """Whose rules are asked for, and for whom."""
    if asked.account is not None:
        row = _row(current, asked.account)
        return int(current.resolution.winner_of_account[row]), subject_of(current.estate, row)
    return _policy(current, asked.policy or ""), ANYBODY


@router.post("/suggestions", dependencies=[needs("bench", proof=False)])
def suggestions(body: SuggestionAsked, current: Current) -> list[SuggestionInfo]:
    """One password of each kind that the policy accepts."""
    policy, subject = _asked(current, body)
    previous = [None if p is None else p.get_secret_value() for p in body.previous]
    return [
        SuggestionInfo(kind=made.kind, text=made.text, bits=made.bits)
        for made in suggested(current, policy, subject, previous)
    ]


@router.post("/boundaries", dependencies=[needs("bench", proof=False)])
def get_boundaries(body: BoundariesAsked, current: Current) -> BoundariesAnswer:
    """Invented candidates on both sides of every rule."""
    policy, subject = _asked(current, body)
    found = boundaries(
        settings_of(current.estate, policy),
        subject,
        body.operation,
        SystemRandom(),
        addition_of(current.estate, policy),
        current.rules.beyond(policy),
    )
    labels = {rule.key: rule.label for rule in current.rules[policy]}
    return BoundariesAnswer(
        candidates=[
            BoundaryInfo(
                about=b.about,
                rule=b.refused_by,
                rule_label=labels[b.refused_by] if b.refused_by else "",
                text=b.text,
                set_ago=seconds(b.set_ago) or 0,
                back=b.back,
                path=b.path,
                present=b.present,
            )
            for b in found.candidates
        ],
        without=list(found.without),
    )


@router.get("/card")
def get_card(
    current: Current,
    account: Annotated[str | None, Query(max_length=1000)] = None,
    policy: Annotated[str | None, Query(max_length=100)] = None,
) -> CardAnswer:
    """The policy of an account, or a policy as for anybody, in plain words."""
    if (account is None) == (policy is None):
        raise FieldsError(("account", "Name an account or a policy, one of them."))
    if account is not None:
        row = _row(current, account)
        number = int(current.resolution.winner_of_account[row])
        accounts = current.estate.accounts
        subject = subject_of(current.estate, row)
        control, password_set = int(accounts.control[row]), int(accounts.password_set[row])
        made = card(
            settings_of(current.estate, number),
            subject,
            control,
            password_set,
            now_moment(),
            addition_of(current.estate, number),
        )
    else:
        number, subject = _policy(current, policy or ""), ANYBODY
        addition = addition_of(current.estate, number)
        made = card(settings_of(current.estate, number), subject, addition=addition)
    return CardAnswer(
        account=subject.name or None,
        display_name=subject.display_name,
        policy=policy_ref(current, number),
        policy_name=policy_name(current, number),
        mark=policy_mark(current, number),
        must=card_lines(made.must),
        ways=[CardWay(path=way.path, lines=card_lines(way.lines)) for way in made.ways],
        refusals=list(made.refusals),
        later=list(made.later),
        expires_at=iso(made.expiry.at) if made.expiry.kind == "at" else None,
    )
