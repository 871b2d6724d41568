"""Rehearsing a live policy in the domain's own directory: its word beside ours."""

from __future__ import annotations

import secrets
import string
import time
from dataclasses import dataclass, field
from random import SystemRandom

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.account_state import settings_of
from hornfels.core.lockout.machine import Outcome
from hornfels.core.lockout.story import Event, Story, play
from hornfels.core.passwords.boundaries import boundaries
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.differences import explained
from hornfels.core.passwords.judge import Judge, Verdict
from hornfels.core.passwords.rules.rule import Occasion, Subject
from hornfels.core.values.time import TICKS_PER_SECOND
from hornfels.directory.link import linked
from hornfels.directory.reach import DirectoryError
from hornfels.directory.rehearsing import StandIn, fresh_name, standing_in, swept
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service import connections
from hornfels.service.connections import Connection
from hornfels.service.naming import policy_name, policy_number
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import stages
from hornfels.store.trail import Origin, act_for, note

LONGEST_STORY = 60
"""Events of a story that is played: every one signs in."""


@dataclass(frozen=True, slots=True)
class Wanted:
    """What is to be rehearsed under a policy ("domain", or its GUID): a candidate, an invented set
    on both sides of every rule, a story.
    """

    policy: str
    candidate: str | None = field(repr=False)
    boundary_set: bool
    story: Story | None


@dataclass(frozen=True, slots=True)
class Tried:
    """A password that was set, or refused. ``text`` is "" for a candidate of somebody's; ``why`` is
    what explains a difference.
    """

    about: str
    text: str = field(repr=False)
    accepted: bool
    ours: bool
    refused_by: tuple[str, ...]
    why: str


@dataclass(frozen=True, slots=True)
class Played:
    """One event of the story, at so many ticks after the first, as it was played."""

    event: Event
    outcome: Outcome
    ours: Outcome


@dataclass(frozen=True, slots=True)
class Rehearsed:
    server: str
    tries: list[Tried]
    played: list[Played]


def stage_of(session: Session, dns_name: str) -> str:
    """The container in which accounts rehearse; "" where nobody does."""
    try:
        _, given = connections.find(session, dns_name)
    except NotFoundError:
        return ""
    return given.stage


def rehearse(
    engine: Engine, current: Snapshot, wanted: Wanted, where: Settings, origin: Origin
) -> Rehearsed:
    """Make an account, try all that is wanted on it, and delete it. Raises `ConflictError`."""
    if current.draft:
        raise ConflictError("A draft is nowhere in the directory yet. Rehearse live.")
    number = policy_number(current, wanted.policy)
    if number is None:
        raise FieldsError(("policy", "There is no such policy any more."))
    if wanted.story and len(wanted.story) > LONGEST_STORY:
        raise FieldsError(("story", f"At most {LONGEST_STORY} events are played. Shorten it."))
    dns_name = current.estate.domain.dns_name
    with Session(engine) as session, session.begin():
        given = _connection(session, dns_name, story=wanted.story is not None)
        act_for(session, origin)
        # Said before it is begun: an account comes and goes by it.
        note(
            session,
            "rehearsed",
            policy_name(current, number),
            domain=dns_name,
            candidate=wanted.candidate is not None,
            boundary_set=wanted.boundary_set,
            events=len(wanted.story or ()),
        )
    name = fresh_name()
    reach = connections.writer(given, where)
    dn = current.estate.policies[number].dn if number >= 0 else ""
    try:
        with stages.holding(engine, name), linked(reach) as link:
            swept(link, given.stage, lambda left: stages.is_held(engine, left))
            with standing_in(link, reach, given.stage, name, dn) as one:
                tries = _tries(current, number, wanted, one, Subject(name, ""))
                played = _play(current, number, wanted.story, one) if wanted.story else []
            return Rehearsed(str(link.server), tries, played)
    except DirectoryError as error:
        raise ConflictError(str(error)) from None


def sweep(engine: Engine, dns_name: str, where: Settings) -> list[str]:
    """Delete the accounts that a crash has left behind; their names. Raises `DirectoryError`."""
    with Session(engine) as session:
        _, given = connections.find(session, dns_name)
    if not given.stage or not given.writer:
        return []
    with linked(connections.writer(given, where)) as link:
        return swept(link, given.stage, lambda left: stages.is_held(engine, left))


def _connection(session: Session, dns_name: str, *, story: bool) -> Connection:
    if not stage_of(session, dns_name):
        raise ConflictError(
            "No container to rehearse in is set in the connection (Sources), so no account is made."
        )
    _, given = connections.find(session, dns_name)
    if story and given.security == "none":
        raise ConflictError(
            "A story signs in by passwords, and this connection has no TLS: set one that has."
        )
    return given


def _tries(
    current: Snapshot, number: int, wanted: Wanted, one: StandIn, subject: Subject
) -> list[Tried]:
    judge = Judge(current.rules[number], subject, Occasion("reset", 0, 0), _whole)

    def tried(about: str, text: str, *, invented: bool) -> Tried:
        candidate = Candidate(text)
        verdict, accepted = judge(candidate), not one.set_password(text)
        return Tried(
            about,
            text if invented else "",
            accepted,
            verdict.accepted,
            verdict.refused_by,
            explained(verdict, candidate, accepted=accepted),
        )

    found = []
    if wanted.candidate is not None:
        found.append(tried("The candidate", wanted.candidate, invented=False))
    if wanted.boundary_set:
        settings = settings_of(current.estate, number)
        for boundary in boundaries(settings, subject, "reset", SystemRandom()).candidates:
            found.append(tried(boundary.about, boundary.text, invented=True))
    return found


def _whole(verdict: Verdict) -> Verdict:
    return verdict


def _play(current: Snapshot, number: int, story: Story, one: StandIn) -> list[Played]:
    """The events one after another without the time between them, beside what the rules say of them
    as they were played.
    """
    settings = settings_of(current.estate, number)
    old, now = _secret(settings.min_length), _secret(settings.min_length)
    one.begin(old, now)
    began = time.monotonic()
    events, outcomes = [], []
    for event in story:
        at = int((time.monotonic() - began) * TICKS_PER_SECOND)
        events.append(Event(at, event.kind))
        outcomes.append(one.happen(event.kind, old, now))
    steps = play(tuple(events), settings).steps
    return [
        Played(event, outcome, step.outcome)
        for event, outcome, step in zip(events, outcomes, steps, strict=True)
    ]


def _secret(shortest: int) -> str:
    """A password of every kind of character, long enough, kept nowhere."""
    letters = string.ascii_letters + string.digits
    rest = max(shortest, 24) - 4
    return "aZ7-" + "".join(secrets.choice(letters) for _ in range(rest))
