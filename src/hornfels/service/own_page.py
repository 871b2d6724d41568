"""A page of their own for the people under a domain's policies: what holds for them, and another
password, by the name and password they have in the directory. They see and do nothing else here.
"""

from __future__ import annotations

import logging
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, time

from sqlalchemy import Engine
from sqlalchemy.orm import Session

from hornfels.core.domain.account_state import LockState, addition_of, lock_state, settings_of
from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.gate.lifetimes import day_of
from hornfels.core.gate.record import Record
from hornfels.core.passwords.card import Card, card
from hornfels.core.passwords.characters import length
from hornfels.core.passwords.judge import Verdict, judge
from hornfels.core.passwords.own_change import (
    as_far_as_known,
    own_change,
    refused_by,
    refused_by_some,
    why_by_length,
    why_then,
)
from hornfels.core.passwords.rules.rule import subject_of
from hornfels.core.passwords.suggestions import Suggestion
from hornfels.core.policy.addition import Band
from hornfels.core.policy.model import Settings as PolicySettings
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.values.dn import name_key
from hornfels.core.values.time import Span, moment_from_datetime
from hornfels.directory.link import Link, linked
from hornfels.directory.person import (
    ChangeRefused,
    Standing,
    changed,
    looked_up,
    named,
)
from hornfels.directory.reach import DirectoryError, Reach
from hornfels.refusals import (
    ConflictError,
    FieldsError,
    ForbiddenError,
    NotFoundError,
)
from hornfels.service import access, connections, lifetimes
from hornfels.service.directory_binds import TURNED_AWAY, base_of, counted, sign_in_as
from hornfels.service.naming import policy_name
from hornfels.service.snapshots import Snapshot
from hornfels.service.suggesting import suggested
from hornfels.settings import Settings
from hornfels.store import attempts, gate, own_page
from hornfels.store.bind_attempts import local_name
from hornfels.store.own_page import Person
from hornfels.store.trail import Origin, act_for, note

_log = logging.getLogger(__name__)

AT_OWN_PAGE = "own page"
"""Who asked, in the gate's record."""


@dataclass(frozen=True, slots=True)
class OwnPage:
    """What somebody sees. Moments are ticks since 1601: ``password_set`` is 0 if the password has
    to be changed; ``ends`` is when it ends, by its age or its length, whichever comes first, None
    where that is no moment to come, and ``why`` says why then; ``changes_from`` is when the present
    one is old enough to be changed, None if it is.
    """

    person: Person
    display_name: str
    card: Card
    password_set: int
    ends: int | None
    why: str
    changes_from: int | None
    lock: LockState
    bands: tuple[Band, ...]


def domain_for(engine: Engine, name: str, chosen: str | None) -> str:
    """The domain of whoever signs in by this name: the one they have chosen, the only one whose
    people have a page, or the one behind the @. Raises `NotFoundError`, or `FieldsError` where it
    has to be chosen.
    """
    with Session(engine) as session:
        held = own_page.domains_open(session)
    if not held:
        raise NotFoundError("This page is switched off. Ask the help desk.")
    wanted = chosen or name.rpartition("@")[2].lower()
    if len(held) == 1 and not chosen:
        return held[0]
    if wanted in held:
        return wanted
    raise FieldsError(("domain", "Choose the domain that your account is in."))


def sign_in(
    engine: Engine,
    current: Snapshot,
    name: str,
    secret: str,
    origin: Origin,
    where: Settings,
    *,
    earlier: str | None,
) -> str:
    """The token by which somebody is known at their page who gives the name and password that they
    have in the directory. Raises `TooManyTriesError`, `ForbiddenError` and `ConflictError`.
    """
    domain = current.estate.domain.dns_name
    spelling = f"{AT_OWN_PAGE} {domain} {name_key(local_name(name))}"
    access.begin(engine, spelling, origin)
    with _asked(engine, domain, where) as (link, reader):
        account = named(link, base_of(domain), name)
        standing = sign_in_as(engine, current, domain, link, reader, account, name, secret)
    token, person = None, f"{account.name}@{domain}" if account else "nobody"
    with Session(engine) as session, session.begin():
        act_for(session, origin._replace(person=person))
        if account is None or standing not in ("in", "must change"):
            note(session, "sign-in to own page failed", domain=domain, standing=standing)
        else:
            must_change = standing == "must change"
            person_there = Person(
                current.domain_id,
                domain,
                account.sid,
                account.name,
                must_change,
                account.password_set,
            )
            attempts.clear(session, spelling, origin.address)
            if earlier:
                own_page.end(session, earlier)
            token = own_page.open_session(session, person_there)
            note(session, "sign-in to own page", domain=domain)
    if token is None:
        raise ForbiddenError(_STANDINGS.get(standing, TURNED_AWAY))
    return token


_STANDINGS: dict[Standing, str] = {
    "disabled": "Your account is disabled. Ask the help desk.",
    "ended": "Your account has expired. Ask the help desk.",
    "not now": "Your account may not sign in at this hour, or from here. Ask the help desk.",
}
"""Answers that a directory gives only to the right password. A lock is no such answer: a
directory says of a locked account that the account is locked, whatever the password.
"""


def _row(current: Snapshot, person: Person) -> int:
    row = current.estate.account_with_sid(person.sid)
    if row is None:
        raise ConflictError(
            "Hornfels does not know your account yet: it comes with the next reading of the "
            "directory. Try again later."
        )
    return row


def page_of(
    engine: Engine, current: Snapshot, person: Person, token: str, where: Settings
) -> OwnPage | None:
    """What somebody sees at their page, as the directory has them now; None where they have to sign
    in once more, since their password was set by somebody else. Raises `ConflictError`.
    """
    row = _row(current, person)
    with _asked(engine, person.domain, where) as (link, _):
        there = looked_up(link, f"<SID={person.sid}>")
    with Session(engine) as session, session.begin():
        # Not as it was remembered: another process may have changed the password a moment ago.
        known = own_page.person_of(session, token)
        if known is None:
            return None
        if there is None or there.password_set not in (0, known.password_set):
            own_page.end(session, token)
            return None
    now = _now()
    policy = int(current.resolution.winner_of_account[row])
    settings, addition = settings_of(current.estate, policy), addition_of(current.estate, policy)
    subject = subject_of(current.estate, row)
    from_then_on = there.password_set + settings.min_age if there.password_set > 0 else 0
    told = card(settings, subject, there.control, there.password_set, now, addition)
    ends = told.expiry.at if told.expiry.kind == "at" else None
    why = why_then(told.expiry, settings.max_age)
    with Session(engine) as session:
        band = lifetimes.of_account(session, current, row, there.password_set)
    if band and band.enforced and told.expiry.kind in ("at", "never"):
        day = moment_from_datetime(datetime.combine(band.day, time(), UTC))
        if ends is None or day < ends:
            ends, why = day, why_by_length(known=band.from_gate)
    return OwnPage(
        known,
        there.display_name,
        told,
        there.password_set,
        ends,
        why,
        from_then_on if from_then_on > now else None,
        lock_state(settings, there.lockout_time, now),
        addition.bands if addition else (),
    )


@dataclass(frozen=True, slots=True)
class Tried:
    """What is said to a candidate, which of its policy's bands it reaches, from 0, and how long it
    would live by that, in ticks; None for none.
    """

    verdict: Verdict
    band: int | None
    lifetime: Span


def tried(
    current: Snapshot, person: Person, candidate: str, present: str, password_set: int | None = None
) -> Tried:
    """What the rules say to a candidate for somebody's own change, whose present password is known
    or "". Raises `ConflictError`.
    """
    row = _row(current, person)
    policy = int(current.resolution.winner_of_account[row])
    addition = addition_of(current.estate, policy)
    set_at = person.password_set if password_set is None else password_set
    said = judge(
        current.rules[policy],
        candidate,
        subject_of(current.estate, row),
        own_change(_now(), set_at, present),
    )
    reached = [
        number
        for number, band in enumerate(addition.bands if addition else ())
        if length(candidate) >= band.length
    ]
    return Tried(
        as_far_as_known(said, settings_of(current.estate, policy)),
        reached[-1] if reached else None,
        addition.lifetime(length(candidate)) if addition else None,
    )


def suggestions(current: Snapshot, person: Person) -> list[Suggestion]:
    """Passwords that somebody could choose. Raises `ConflictError`."""
    row = _row(current, person)
    policy = int(current.resolution.winner_of_account[row])
    return suggested(current, policy, subject_of(current.estate, row))


def change(
    engine: Engine,
    current: Snapshot,
    person: Person,
    token: str,
    present: str,
    fresh: str,
    origin: Origin,
    where: Settings,
) -> None:
    """Change somebody's own password in the directory. Raises `FieldsError` where it is refused,
    with why, `TooManyTriesError` and `ConflictError`.
    """
    with _asked(engine, person.domain, where) as (link, _):
        there = looked_up(link, f"<SID={person.sid}>")
        if there is None:
            raise ConflictError("Your account is not there any more. Ask the help desk.")
        found = tried(current, person, fresh, present, there.password_set)
        if not found.verdict.accepted:
            raise FieldsError(("fresh", found.verdict.told))
        if lock_state(_policy_settings(current, person), there.lockout_time, _now()).locked:
            raise FieldsError(_refused(current, person, "locked"))
        with counted(engine, current, person.domain, link, there, person.name) as attempt:
            refused = changed(link, there.dn, present, fresh)
            attempt.standing = "wrong" if refused == "present" else "in"
        now = there if refused else looked_up(link, there.dn)
    with Session(engine) as session, session.begin():
        act_for(session, origin)
        if refused:
            note(session, "own password not changed", domain=person.domain, refused_for=refused)
        else:
            note(session, "own password changed", domain=person.domain)
            own_page.changed(session, person, token, now.password_set if now else UNKNOWN_TIME)
            _keep(session, current, person, found)
    if refused:
        raise FieldsError(_refused(current, person, refused))


def _policy_settings(current: Snapshot, person: Person) -> PolicySettings:
    policy = int(current.resolution.winner_of_account[_row(current, person)])
    return settings_of(current.estate, policy)


def _refused(current: Snapshot, person: Person, refused: ChangeRefused) -> tuple[str, str]:
    settings = _policy_settings(current, person)
    match refused:
        case "present":
            return "present", (
                "This is not your current password. The directory has counted a failed attempt."
            )
        case "locked":
            return "present", "Your account is locked: nothing can be changed before it opens."
        case "not allowed":
            return "fresh", "Your account may not change its own password. Ask the help desk."
        case "rules":
            return "fresh", refused_by_some(settings)
        case rule:
            return "fresh", refused_by(rule, settings)


def _keep(session: Session, current: Snapshot, person: Person, found: Tried) -> None:
    """Where no directory asks at the gate, this is where it is known how long a password is."""
    if current.enforced != "here":
        return
    policy = int(current.resolution.winner_of_account[_row(current, person)])
    now = _now()
    name = "" if policy == DOMAIN_POLICY else policy_name(current, policy)
    ends = None if found.lifetime is None else day_of(now + found.lifetime)
    record = Record(uuid.uuid4(), now, person.name, "change", "accepted", name, ends=ends)
    gate.keep(session, person.domain_id, AT_OWN_PAGE, [record])


@contextmanager
def _asked(engine: Engine, domain: str, where: Settings) -> Iterator[tuple[Link, Reach]]:
    """A link to the domain's directory, by which Hornfels reads it."""
    with Session(engine) as session:
        _, given = connections.find(session, domain)
    if not given.own_page:
        raise NotFoundError("This page is switched off. Ask the help desk.")
    try:
        reader = connections.reader(given, where)
    except ConflictError as error:
        raise _away(domain, error) from None
    try:
        with linked(reader) as link:
            yield link, reader
    except DirectoryError as error:
        raise _away(domain, error) from None


def _away(domain: str, error: Exception) -> ConflictError:
    """What is told in place of names of servers, accounts and files, which are no matter of whoever
    comes here.
    """
    _log.warning("The directory of %s fails at the own page: %s", domain, error)
    return ConflictError(
        "The directory does not answer as it should just now, and nothing is known to be changed. "
        "Try again in a few minutes, or ask the help desk."
    )


def _now() -> int:
    return moment_from_datetime(datetime.now(UTC))
