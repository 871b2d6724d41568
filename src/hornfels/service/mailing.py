"""What people under the policies are written: chosen, seen beforehand, and handed to a mail server
once, whatever happens in between.
"""

from __future__ import annotations

import json
import re
import zlib
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from email.utils import parseaddr
from typing import Any
from urllib.parse import urlsplit
from uuid import UUID, uuid4
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

import numpy as np
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.domain.estate import Estate, Int64, UInt32
from hornfels.core.drafts.written_additions import addition_written
from hornfels.core.mailing.due import (
    DAYS,
    MUST_CHANGE,
    Kind,
    Notice,
    Wanted,
    due,
    long_so,
)
from hornfels.core.mailing.quiet import is_quiet
from hornfels.core.policy.model import expires
from hornfels.core.resolution.engine import DOMAIN_POLICY, resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY, datetime_from_moment, moment_from_datetime
from hornfels.formats.letters import rendering
from hornfels.formats.letters.rendering import Letter, LetterError, Person, Texts
from hornfels.mail.smtp import (
    PORTS,
    Mailer,
    MailError,
    RefusedAddressError,
    Relay,
    is_address,
    mailing,
    message,
)
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service import acts
from hornfels.service.editing import refuse_other_version
from hornfels.service.naming import policy_ref
from hornfels.service.reading import BY_ITSELF
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.settings import Settings
from hornfels.store import exposure, jobs, letters
from hornfels.store.estates import load_estate
from hornfels.store.jobs import Progress
from hornfels.store.letters import About, Draft
from hornfels.store.models import DomainRow, LetterRow, MailingRow
from hornfels.store.trail import note

EVERY = timedelta(minutes=15)
"""Between two looks for what to write about."""
AGAIN = timedelta(minutes=10)
"""After which a mail server that took nothing is tried again."""
MOST_TRIES = 5
"""After which a letter that the server would take another time is taken for refused."""
MOST_DAYS, LONGEST_BEFORE = 6, 90
NOBODY = "There was nobody to write to."
CLOCK = re.compile(r"([01][0-9]|2[0-3]):[0-5][0-9]")
_USUAL: tuple[Kind, ...] = ("expiring", "expired", "must change", "locked", "exposed")
_FORM = 1
"""Of the rules that are kept for each account: those in another form are no news."""


class Mailing(BaseModel):
    """What the people of a domain are written about, and when nobody is."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    on: bool = False
    kinds: tuple[Kind, ...] = _USUAL
    days: tuple[int, ...] = Field(DAYS, description="days before a password ends")
    by_policy: dict[str, tuple[int, ...]] = Field(
        {}, description="other days, by the policy’s GUID or “domain”; none for never"
    )
    quiet_from: str = Field("20:00", description="from when on nobody is written to")
    quiet_until: str = "07:00"
    zone: str = Field("UTC", max_length=64, description="whose hours these are (IANA)")
    page: str = Field("", max_length=300, description="the address that letters name, if any")

    @property
    def wanted(self) -> Wanted:
        return Wanted(frozenset(self.kinds), self.days, self.by_policy)

    def is_quiet(self, now: datetime) -> bool:
        begins, ends = time.fromisoformat(self.quiet_from), time.fromisoformat(self.quiet_until)
        return is_quiet(now, begins, ends, ZoneInfo(self.zone))


def refuse(given: Mailing, current: Snapshot) -> None:
    """Raises `FieldsError` for what cannot be chosen."""
    problems = []
    by_policy = ((f"by_policy.{ref}", days) for ref, days in given.by_policy.items())
    for field, days in (("days", given.days), *by_policy):
        if len(days) > MOST_DAYS or any(not 1 <= day <= LONGEST_BEFORE for day in days):
            words = f"Give at most {MOST_DAYS} numbers of days, each from 1 to {LONGEST_BEFORE}."
            problems.append((field, words))
    known = {policy_ref(current, p) for p in (*range(len(current.estate.policies)), DOMAIN_POLICY)}
    if unknown := [ref for ref in given.by_policy if ref not in known]:
        problems.append((f"by_policy.{unknown[0]}", "There is no such policy any more."))
    for field, clock in (("quiet_from", given.quiet_from), ("quiet_until", given.quiet_until)):
        if CLOCK.fullmatch(clock) is None:
            problems.append((field, "Give an hour as 20:00."))
    try:
        ZoneInfo(given.zone)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        problems.append(("zone", "Give the name of a time zone, such as Europe/Berlin or UTC."))
    if given.page and not re.fullmatch(r"https://[^\s<>\"@]+", given.page):
        problems.append(("page", "Give an address that begins with https://, or nothing."))
    if problems:
        raise FieldsError(*problems)


def needed(where: Settings) -> Relay:
    """The mail server that is set. Raises `ConflictError` for none, or half a one."""
    if not where.smtp_host:
        raise ConflictError("No mail server is set: HORNFELS_SMTP_HOST names one.")
    if not is_address(parseaddr(where.smtp_sender)[1]):
        raise ConflictError(
            "HORNFELS_SMTP_SENDER has to name the address that letters are from, such as "
            "passwords@example.com."
        )
    return Relay(
        where.smtp_host,
        where.smtp_port or PORTS[where.smtp_security],
        where.smtp_security,
        where.smtp_sender,
        where.smtp_name,
        where.smtp_secret.get_secret_value() if where.smtp_secret else "",
        where.smtp_authorities,
    )


def texts(where: Settings) -> Texts:
    return Texts(where.letters)


@dataclass(frozen=True, slots=True)
class Held:
    """What is chosen in a domain, which version that is (0 for none yet), when that was last looked
    at and what came of it.
    """

    mailing: Mailing
    version: int
    looked_at: datetime | None
    told: str


def held(session: Session, current: Snapshot) -> Held:
    row = letters.mailing_of(session, current.domain_id)
    return _held(row) if row else Held(Mailing(), 0, None, "")


def _chosen(row: MailingRow) -> dict[str, Any]:
    """Return the chosen settings, without the confirmed host."""
    return {key: value for key, value in row.settings.items() if key != "page_host"}


def _held(row: MailingRow) -> Held:
    return Held(Mailing.model_validate(_chosen(row)), row.version, row.looked_at, row.told)


def choose(
    session: Session,
    current: Snapshot,
    given: Mailing,
    version: int,
    reason: str,
    where: Settings,
    person: str,
    *,
    confirmed_host: str = "",
) -> bool:
    """Choose what people are written about; False if a second person has to agree. A host that
    letters name has to be the one that was confirmed before, or is now. Raises `FieldsError`,
    `ConflictError`.
    """
    refuse(given, current)
    if given.on:
        needed(where)
        _checked(where)
    row = letters.mailing_of(session, current.domain_id, for_writing=True)
    refuse_other_version(row, version)
    host = urlsplit(given.page).hostname or ""
    if host and host not in (confirmed_host, row.settings.get("page_host", "") if row else ""):
        raise FieldsError(
            (
                "confirmed_host",
                f"Letters would send people to {host[:200]}. Confirm that this host is yours.",
            )
        )
    done = acts.ask(
        session,
        person,
        "notifications",
        current.estate.domain.dns_name,
        reason,
        mailing=given.model_dump(mode="json"),
        version=version,
        host=host,
        said=f"Notifications {'on' if given.on else 'off'}",
        effect=f"Emails name {given.page}" if given.page else "",
    )
    return isinstance(done, acts.Done)


def apply_setting(
    session: Session, domain: DomainRow, arguments: Mapping[str, Any], _person: str
) -> acts.Done:
    """Change what people are written about. When writing begins, what may have been so for long is
    no news to anybody.
    """
    given = Mailing.model_validate(arguments["mailing"])
    row = letters.mailing_of(session, domain.id, for_writing=True)
    refuse_other_version(row, arguments["version"])
    before = row.settings if row else {}
    if row is None:
        row = MailingRow(domain_id=domain.id, version=0, settings={})
        session.add(row)
    if given.on and not before.get("on"):
        now = datetime.now(UTC)
        live = Roster(estate := load_estate(session, domain), resolve(estate))
        marks = _marks(estate, long_so(live, moment_from_datetime(now)))
        letters.mark(session, domain.id, marks, now)
        row.rules, row.looked_at = None, None
    row.settings = given.model_dump(mode="json") | {"page_host": arguments["host"]}
    row.version += 1
    what = "mailing changed" if given.on else "mailing off"
    note(session, what, domain=domain.dns_name, before=before, after=row.settings)
    return acts.Done()


def _checked(where: Settings) -> Texts:
    """The texts, each of which can be used. Raises `ConflictError`."""
    found = texts(where)
    try:
        found.check()
    except LetterError as error:
        raise ConflictError(f"A text cannot be used: {error}") from None
    return found


def _marks(estate: Estate, notices: Iterable[Notice]) -> Iterator[letters.Mark]:
    rid = estate.accounts.rid
    return ((int(rid[one.row]), one.kind, one.key) for one in notices)


@dataclass(frozen=True, slots=True)
class Plan:
    """What is to be written to whom: notices by the account's row; the rows of those who have no
    address.
    """

    to: Mapping[int, list[Notice]]
    unreachable: tuple[int, ...]

    @property
    def by_kind(self) -> Counter[Kind]:
        return Counter(one.kind for notices in self.to.values() for one in notices)


def planned(session: Session, current: Snapshot, given: Mailing, now: datetime) -> Plan:
    """What would be written at a moment, by what is chosen or would be."""
    row = letters.mailing_of(session, current.domain_id)
    begun = bool(row and row.settings.get("on"))
    exposed = {one.rid: one.set_at for one in exposure.of_domain(session, current.domain_id)}
    told = letters.marks(session, current.domain_id)
    moment = moment_from_datetime(now)
    notices = [*due(current.roster, given.wanted, moment, exposed, told, first=not begun)]
    if row and begun and "policy changed" in given.kinds:
        notices += _changed(current, row.rules, now)
    to: defaultdict[int, list[Notice]] = defaultdict(list)
    for one in notices:
        to[one.row].append(one)
    mail = current.estate.accounts.mail
    reached = {row: is_address(mail[row]) for row in sorted(to)}
    return Plan(
        {row: to[row] for row, there in reached.items() if there},
        tuple(row for row, there in reached.items() if not there),
    )


def _rules_now(current: Snapshot) -> UInt32:
    """For each account a number that differs where what is asked of its next password differs."""
    estate = current.estate
    digests = []
    for policy in (*range(len(estate.policies)), DOMAIN_POLICY):
        held = settings_of(estate, policy)
        asked = [held.min_length, held.complexity, held.history_length, held.max_age]
        written = json.dumps([asked, addition_written(addition_of(estate, policy))], sort_keys=True)
        digests.append(zlib.crc32(written.encode()))
    found: UInt32 = np.array(digests, np.uint32)[current.resolution.winner_of_account]
    return found


def _packed(current: Snapshot) -> bytes:
    """The rules that hold for each account, to be compared with later."""
    order = np.argsort(current.estate.accounts.rid)
    rid = np.ascontiguousarray(current.estate.accounts.rid[order], "<i8")
    rules = np.ascontiguousarray(_rules_now(current)[order], "<u4")
    return bytes([_FORM]) + zlib.compress(rid.tobytes() + rules.tobytes(), 1)


def _changed(current: Snapshot, before: bytes | None, now: datetime) -> list[Notice]:
    """Whose next password is asked something else than when it was last looked."""
    if not before or before[0] != _FORM:
        return []
    raw = zlib.decompress(before[1:])
    many = len(raw) // 12
    if not many:
        return []
    rid: Int64 = np.frombuffer(raw, "<i8", many)
    rules: UInt32 = np.frombuffer(raw, "<u4", many, 8 * many)
    accounts, ends = current.estate.accounts, current.roster.expires
    at = np.minimum(np.searchsorted(rid, accounts.rid), many - 1)
    otherwise = (rid[at] == accounts.rid) & (rules[at] != _rules_now(current))
    rows = np.flatnonzero(otherwise & current.roster.people)
    return [
        Notice(row, "policy changed", now.isoformat(), max(0, int(ends[row])))
        for row in rows.tolist()
    ]


def would_be_told(session: Session, current: Snapshot) -> int | None:
    """How many people would be written to that other rules hold once the draft that is shown is
    published; None where that is not written about.
    """
    given = held(session, current.live).mailing
    if not given.on or "policy changed" not in given.kinds:
        return None
    live = current.live
    otherwise = _rules_now(live) != _rules_now(current.published)
    rows = np.flatnonzero(otherwise & live.roster.people).tolist()
    return sum(is_address(live.estate.accounts.mail[row]) for row in rows)


def begin_due(session: Session, now: datetime, where: Settings) -> None:
    """Begin to write in the domains where somebody may be written to just now."""
    if not where.smtp_host:
        return
    asked = select(MailingRow, DomainRow.dns_name).join(
        DomainRow, DomainRow.id == MailingRow.domain_id
    )
    for row, dns_name in session.execute(asked).all():
        given = Mailing.model_validate(_chosen(row))
        if not given.on or given.is_quiet(now):
            continue
        if row.looked_at and now - row.looked_at < EVERY:
            continue
        last = jobs.last_of(session, ("mailing",), dns_name)
        if last and (
            last.state in jobs.ACTIVE or (last.state == "failed" and now - last.changed_at < AGAIN)
        ):
            continue
        jobs.start(session, "mailing", BY_ITSELF, domain=dns_name)


def write_due(
    engine: Engine, dns_name: str, where: Settings, now: datetime, progress: Progress
) -> str:
    """Make the letters that are due, and hand over what waits; what came of it in a sentence.
    Raises `ConflictError`; then nothing is lost, and what is not handed over waits.
    """
    current = Snapshots(engine).of(dns_name)
    if current is None:
        raise NotFoundError(f"There is no domain {dns_name} any more.")
    server, written = needed(where), _checked(where)
    progress("Looking whom to write to")
    with Session(engine) as session, session.begin():
        row = letters.mailing_of(session, current.domain_id, for_writing=True)
        if row is None or not row.settings.get("on"):
            return "Nobody is written to any more."
        given = Mailing.model_validate(_chosen(row))
        plan = planned(session, current, given, now)
        drafts = [_draft(current, number, notices, written) for number, notices in plan.to.items()]
        letters.make(session, current.domain_id, drafts, now)
        _forget_past(session, current)
        letters.cut_off(session, current.domain_id, now)
        letters.sweep(session, current.domain_id, now)
        row.looked_at, row.rules = now, _packed(current)
    told = _handed_over(engine, current, given, server, written, progress)
    if plan.unreachable:
        told += f" {len(plan.unreachable):,} could not be written to: they have no address."
    keep_told(engine, current.domain_id, told)
    return told


def keep_told(engine: Engine, domain_id: int, told: str) -> None:
    with Session(engine) as session, session.begin():
        row = letters.mailing_of(session, domain_id, for_writing=True)
        if row:
            row.told = told


def failed(session: Session, dns_name: str, error: str) -> None:
    """Letters could not be handed over."""
    domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == dns_name)).one_or_none()
    row = letters.mailing_of(session, domain.id, for_writing=True) if domain else None
    if row:
        row.told = error


def _draft(current: Snapshot, row: int, notices: list[Notice], written: Texts) -> Draft:
    accounts = current.estate.accounts
    return Draft(
        int(accounts.rid[row]),
        accounts.name[row],
        accounts.mail[row],
        written.language_for(accounts.language[row]),
        tuple(About(one.kind, one.key, one.at) for one in notices),
    )


def _forget_past(session: Session, current: Snapshot) -> None:
    """Whoever has chosen another password is told once more when that has to be changed, too."""
    accounts = current.estate.accounts
    set_since = set(accounts.rid[accounts.password_set != MUST_CHANGE].tolist())
    past = [
        (rid, kind, key)
        for rid, kind, key in letters.marks(session, current.domain_id)
        if kind == "must change" and rid in set_since
    ]
    letters.unmark(session, current.domain_id, past)


def _handed_over(
    engine: Engine,
    current: Snapshot,
    given: Mailing,
    server: Relay,
    written: Texts,
    progress: Progress,
) -> str:
    with Session(engine) as session:
        waiting = letters.waiting(session, current.domain_id)
    if not waiting:
        return NOBODY
    outcomes: Counter[str] = Counter()
    try:
        with mailing(server) as mailer:
            for done, number in enumerate(waiting):
                progress("Handing letters over", done, len(waiting))
                outcomes[_hand_over(engine, current, given, server, mailer, written, number)] += 1
    except MailError as error:
        left = len(waiting) - sum(outcomes.values())
        raise ConflictError(f"{error} {left:,} of {len(waiting):,} letters wait.") from None
    said = {
        "sent": "handed over",
        "refused": "refused by the mail server",
        "waiting": "to be tried again",
        "dropped": "about nothing that is still so",
    }
    return f"{', '.join(f'{many:,} {said[one]}' for one, many in sorted(outcomes.items()))}."


def _hand_over(
    engine: Engine,
    current: Snapshot,
    given: Mailing,
    server: Relay,
    mailer: Mailer,
    written: Texts,
    number: UUID,
) -> letters.State:
    """One letter. That it is being handed over is written down first: who is cut off in the middle
    sends it to nobody twice.
    """
    now = datetime.now(UTC)
    with Session(engine) as session, session.begin():
        row = session.get_one(LetterRow, number, with_for_update=True)
        about = _still_so(current, row)
        if row.state != "waiting":
            return "dropped"
        letter = _letter(current, row.rid, about, row.language, given, written) if about else None
        letters.become(row, "sending" if letter else "dropped", now)
        row.tries += 1
        to, tries = row.address, row.tries
    if letter is None:
        return "dropped"
    state: letters.State = "sent"
    told = ""
    try:
        sent = message(
            server, to, number, letter.language, letter.subject, letter.text, letter.html
        )
        mailer.hand_over(sent)
    except RefusedAddressError as error:
        state = "waiting" if error.later and tries < MOST_TRIES else "refused"
        told = f"The mail server said: {error}"
    except MailError as error:
        _settle(engine, number, "uncertain", f"{error} It may have gone.")
        raise
    _settle(engine, number, state, told)
    return state


def _settle(engine: Engine, number: UUID, state: letters.State, told: str) -> None:
    with Session(engine) as session, session.begin():
        row = session.get_one(LetterRow, number, with_for_update=True)
        letters.become(row, state, datetime.now(UTC), told)


def _row_of(current: Snapshot, rid: int) -> int | None:
    found = np.flatnonzero(current.estate.accounts.rid == rid)
    return int(found[0]) if len(found) else None


def _still_so(current: Snapshot, letter: LetterRow) -> list[About]:
    """What of a letter that has waited is still so."""
    number = _row_of(current, letter.rid)
    if number is None:
        return []
    accounts = current.estate.accounts
    set_at, locked_at = int(accounts.password_set[number]), int(accounts.lockout_time[number])

    def so(one: About) -> bool:
        match one.kind:
            case "expiring" | "expired":
                return one.key.partition(":")[0] == str(set_at)
            case "must change":
                return set_at == MUST_CHANGE
            case "exposed":
                return set_at in (MUST_CHANGE, int(one.key))
            case "locked":
                return one.key == str(locked_at)
            case _:
                return True

    return [one for one in letters.about_of(letter) if so(one)]


def _letter(
    current: Snapshot,
    rid: int,
    about: Iterable[About],
    language: str,
    given: Mailing,
    written: Texts,
) -> Letter | None:
    row = _row_of(current, rid)
    return None if row is None else letter_for(current, row, about, language, given, written)


def letter_for(
    current: Snapshot,
    row: int,
    about: Iterable[About],
    language: str,
    given: Mailing,
    written: Texts,
) -> Letter:
    """The letter to the account in a row. Raises `ConflictError` where a text cannot be used."""
    accounts = current.estate.accounts
    policy = int(current.resolution.winner_of_account[row])
    settings = settings_of(current.estate, policy)
    now = moment_from_datetime(datetime.now(UTC))
    parts = [
        rendering.About(
            one.kind,
            datetime_from_moment(one.at) if one.at else None,
            max(1, -(-(one.at - now) // DAY)) if one.at else 0,
            settings.min_length,
            settings.complexity,
            settings.history_length,
            (settings.max_age or 0) // DAY if expires(settings.max_age) else None,
            0 < one.at <= now,
        )
        for one in about
    ]
    person = Person(
        accounts.display_name[row] or accounts.name[row],
        accounts.name[row],
        current.estate.domain.dns_name,
    )
    try:
        return written.letter(person, parts, language, given.page, ZoneInfo(given.zone))
    except LetterError as error:
        raise ConflictError(f"A text cannot be used: {error}") from None


def sample(
    current: Snapshot, account: str, kind: Kind, language: str, given: Mailing, where: Settings
) -> tuple[Letter, str]:
    """What an account would be written about something, whether or not it is so, and to which
    address; in the language it prefers, or another.
    """
    row = current.estate.find_account(account)
    if row is None:
        raise FieldsError(("account", f"There is no account “{account[:100]}” in this domain."))
    accounts = current.estate.accounts
    now = moment_from_datetime(datetime.now(UTC))
    ends = int(current.roster.expires[row])
    soon = now + max(given.days or DAYS) * DAY
    at = {
        "expiring": ends if now < ends < soon else soon,
        "expired": ends if 0 < ends <= now else now - DAY,
        "policy changed": ends if now < ends < now + 10_000 * DAY else 0,
        "locked": now + DAY // 48,
    }.get(kind, 0)
    written = texts(where)
    chosen = language or written.language_for(accounts.language[row])
    if chosen not in written.languages:
        raise FieldsError(("language", "There are no texts in this language."))
    about = [About(kind, "", at)]
    return letter_for(current, row, about, chosen, given, written), accounts.mail[row]


def send_test(
    current: Snapshot, address: str, given: Mailing, person: str, where: Settings
) -> None:
    """Hand over one letter that says it is a test. Raises `ConflictError` with what went wrong."""
    if not is_address(address):
        raise FieldsError(("address", "Give an address, such as help@example.com."))
    server = needed(where)
    about = [rendering.About("expiring", datetime.now(UTC) + timedelta(days=7), 7, 14, False, 24)]
    someone = Person(person, person, current.estate.domain.dns_name)
    try:
        zone = ZoneInfo(given.zone)
        letter = texts(where).letter(someone, about, rendering.USUAL, given.page, zone)
        title = f"Test: {letter.subject}"
        made = message(server, address, uuid4(), letter.language, title, letter.text, letter.html)
        with mailing(server) as mailer:
            mailer.hand_over(made)
    except LetterError as error:
        raise ConflictError(f"A text cannot be used: {error}") from None
    except MailError as error:
        raise ConflictError(str(error)) from None
    except RefusedAddressError as error:
        raise ConflictError(f"The mail server does not take it: {error}") from None


def again(session: Session, current: Snapshot, number: UUID) -> None:
    """Have a letter handed over that was refused, or of which nobody knows whether it went."""
    row = session.get(LetterRow, number, with_for_update=True)
    if row is None or row.domain_id != current.domain_id:
        raise NotFoundError("There is no such letter any more.")
    if row.state not in ("refused", "uncertain"):
        raise ConflictError("It is on its way, or has gone already.")
    number_of = _row_of(current, row.rid)
    if number_of is not None and is_address(current.estate.accounts.mail[number_of]):
        row.address = current.estate.accounts.mail[number_of]
    letters.become(row, "waiting", datetime.now(UTC))
    row.tries = 0
    note(session, "letter again", row.account, domain=current.estate.domain.dns_name)
    begin_now(session, current)
    session.commit()


def begin_now(session: Session, current: Snapshot, person: str = BY_ITSELF) -> None:
    """Begin to write at once, also in quiet hours: somebody wants it."""
    domain = current.estate.domain.dns_name
    if jobs.active(session, "mailing", domain) is None:
        jobs.start(session, "mailing", person, domain=domain)
