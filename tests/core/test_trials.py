"""Trials against a naive run over every account, and the card's words."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Control
from hornfels.core.lockout.notation import read_story
from hornfels.core.lockout.story import play
from hornfels.core.passwords.additions import Lists, terms_in
from hornfels.core.passwords.card import card, in_words
from hornfels.core.passwords.judge import judge
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.passwords.rules.rule import ANYBODY, Occasion, Subject, subject_of
from hornfels.core.policy.addition import Addition, Blocked, Closeness, OwnNames, Words
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.resolution.engine import resolve
from hornfels.core.trials.running import run
from hornfels.core.trials.trial import Expected, Trial, targets
from hornfels.core.values.time import DAY, HOUR, MINUTE, NEVER
from worlds import World, group_dn, read, worlds

ADDITIONS = [
    None,
    Addition(password=(OwnNames(reversed=True),), phrase=(Words(3, 2),)),
    Addition(password=(Blocked(("house",)),)),
    Addition(password=(Closeness(4, no_counting=True),)),
]
CANDIDATES = st.sampled_from(
    ["", "4071", "Person 0-xyz", "Zq7-lantern-orbit", "person0", "a0-Zq7x", "A1-"]
)


@given(
    worlds(),
    CANDIDATES,
    st.sampled_from(["accepted", "refused"]),
    st.sampled_from(["", "length", "complexity", "own_name", "names", "words", "closeness"]),
    st.sampled_from(["", "Zq7-lantern-orbit", "Zq8-lantern-orbit"]),
    st.data(),
)
def test_a_trial_agrees_with_judging_every_account(
    world: World,
    candidate: str,
    expected: Expected,
    rule: str,
    present: str,
    data: st.DataObject,
) -> None:
    estate = read(world).estate
    if data.draw(st.booleans()):
        candidate = f"Zq7-{data.draw(st.sampled_from(list(estate.accounts.name)))}"
    policies = tuple(
        replace(
            p,
            settings=replace(
                p.settings,
                min_length=data.draw(st.integers(0, 9)),
                complexity=data.draw(st.booleans()),
            ),
            addition=data.draw(st.sampled_from(ADDITIONS)),
        )
        for p in estate.policies
    )
    estate = estate.with_policies(policies, estate.links)
    resolution = resolve(estate)
    rule = "" if expected == "accepted" else rule
    trial = Trial(candidate, "group", "", expected, rule, present=present)
    moment = Occasion("change", 1 << 60, 1, (present,)) if present else Occasion("reset", 0, 0)
    rows = np.arange(len(estate.accounts))
    rules = Rulebook(estate, Lists(terms_in({"house": ["lantern"]})))
    outcome = run(trial, estate, resolution, rows, rules)
    met = {}
    for row in rows.tolist():
        subject = subject_of(estate, row)
        policy = int(resolution.winner_of_account[row])
        verdict = judge(rules[policy], candidate, subject, moment)
        wanted = verdict.accepted if expected == "accepted" else not verdict.accepted
        met[row] = wanted and (not trial.rule or trial.rule in verdict.refused_by)
    assert outcome.met is all(met.values())
    assert outcome.accounts == len(rows)
    if not outcome.met:
        assert not met[outcome.account]


@given(worlds())
def test_targets_are_the_account_its_population_or_the_group(world: World) -> None:
    estate = read(world).estate
    resolution = resolve(estate)
    name = estate.accounts.name[0]
    alone = targets(Trial("x", "account", name, "refused"), estate, estate, resolution)
    assert alone.tolist() == [0]
    alike = targets(Trial("x", "population", name, "refused"), estate, estate, resolution)
    assert {int(resolution.population[n]) for n in alike} == {int(resolution.population[0])}
    assert len(alike) == resolution.counts[resolution.population[0]]
    for n in range(len(world.groups)):
        inside = targets(Trial("x", "group", group_dn(n), "refused"), estate, estate, resolution)
        assert inside.tolist() == sorted(estate.memberships.accounts_below(n).tolist())


@pytest.mark.parametrize(
    ("kind", "target"),
    [("account", "none"), ("population", "none"), ("group", "CN=none"), ("group", "no name")],
)
def test_nobody_left_is_neither_met_nor_unmet(kind: str, target: str) -> None:
    estate = read(World(7, [], [(0x200, None, 2000)])).estate
    resolution = resolve(estate)
    trial = Trial("x", kind, target, "refused")  # type: ignore[arg-type]
    assert (
        run(
            trial, estate, resolution, targets(trial, estate, estate, resolution), Rulebook(estate)
        ).met
        is None
    )


@pytest.mark.parametrize(
    ("span", "words"),
    [
        (DAY, "1 day"),
        (42 * DAY, "42 days"),
        (DAY + 12 * HOUR + MINUTE, "1 day and 12 hours"),
        (30 * MINUTE, "30 minutes"),
        (5, "a moment"),
    ],
)
def test_spans_in_words(span: int, words: str) -> None:
    assert in_words(span) == words


def test_the_card_asks_only_what_the_policy_asks() -> None:
    bare = replace(
        DEFAULTS,
        min_length=0,
        complexity=False,
        history_length=0,
        min_age=0,
        max_age=NEVER,
        lockout_threshold=0,
    )
    assert card(bare, ANYBODY).must == ()
    assert card(bare, ANYBODY).later == ("Your password does not expire.",)
    full = card(replace(DEFAULTS, lockout_threshold=5), Subject("ilse.varga", "Varga, Ilse"), 0, 0)
    assert [line.rule for line in full.must] == ["length", "complexity", "own_name", "history"]
    assert full.must[2].text == "Not contain your own name: “ilse.varga”, “Varga”, “Ilse”."
    assert full.later == (
        "You are asked for a new password the next time you sign in.",
        "After 5 wrong tries, each within 30 minutes of the one before, your account locks. "
        "It opens by itself after 30 minutes, and trying meanwhile does not make it longer.",
    )
    over = card(DEFAULTS, ANYBODY, 0, 5 * DAY, now=47 * DAY)
    assert (over.expiry.kind, over.later[0]) == (
        "now",
        "Your present password has expired. You are asked for a new one the next time you sign in.",
    )
    assert card(DEFAULTS, ANYBODY, 0, 5 * DAY, now=47 * DAY - 1).expiry.at == 47 * DAY
    until = card(
        replace(DEFAULTS, lockout_threshold=1, lockout_duration=NEVER),
        ANYBODY,
        int(Control.SMART_CARD_REQUIRED | Control.DISABLED),
    )
    assert "Only the help desk can open it." in until.later[1]
    assert "After 1 wrong try," in until.later[1]
    assert "smart card" in until.refusals[-1]
    assert "switched off" in until.later[-1]


STORY = "2 bad, old, good after 1 h, bad every 5 min for 20 min"


@given(worlds(), st.sampled_from(["locks", "stays_open"]), st.data())
def test_a_story_agrees_with_playing_it_at_every_account(
    world: World, expected: Expected, data: st.DataObject
) -> None:
    estate = read(world).estate
    policies = tuple(
        replace(
            p,
            settings=replace(
                p.settings,
                lockout_threshold=data.draw(st.integers(0, 8)),
                lockout_window=data.draw(st.integers(1, 90)) * MINUTE,
            ),
        )
        for p in estate.policies
    )
    estate = estate.with_policies(policies, estate.links)
    resolution = resolve(estate)
    rows = np.arange(len(estate.accounts))
    trial = Trial("", "group", "", expected, story=STORY)
    outcome = run(trial, estate, resolution, rows, Rulebook(estate))
    locks = {
        row: bool(
            play(
                read_story(STORY), settings_of(estate, int(resolution.winner_of_account[row]))
            ).locks
        )
        for row in rows.tolist()
    }
    wanted = expected == "locks"
    assert outcome.met is all(found is wanted for found in locks.values())
    if outcome.met is False:
        assert locks[outcome.account] is not wanted
        assert ("locks at" in outcome.told) is not wanted
