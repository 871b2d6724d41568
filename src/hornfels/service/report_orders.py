"""A domain's report that is mailed by itself: on a schedule, to each address once, whatever happens
in between.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime, time
from email.message import EmailMessage
from typing import Any, Literal
from uuid import uuid4
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from hornfels.core.reports.schedule import LAST_DAY, Every, Schedule
from hornfels.formats.reports.html import cover, domain_html
from hornfels.mail.smtp import (
    Mailer,
    MailError,
    RefusedAddressError,
    Relay,
    is_address,
    mailing,
    message,
)
from hornfels.refusals import ConflictError, FieldsError, NotFoundError
from hornfels.service import acts, baselines, reports
from hornfels.service.editing import refuse_other_version
from hornfels.service.mailing import AGAIN, CLOCK, MOST_TRIES, needed
from hornfels.service.reading import BY_ITSELF
from hornfels.service.snapshots import Snapshot, Snapshots
from hornfels.settings import Settings
from hornfels.store import jobs
from hornfels.store.jobs import Progress
from hornfels.store.models import DomainRow, ReportOrderRow
from hornfels.store.trail import note

MOST_ADDRESSES, MOST_BASELINES = 50, 20

State = Literal["waiting", "sending", "sent", "refused", "uncertain"]
"""It is to be handed over; is just being; was; is not taken by the server; may have been, for we
were cut off in the middle.
"""


class ReportOrder(BaseModel):
    """When a domain's report comes by itself, to whom, and held against which baselines."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    on: bool = False
    to: tuple[str, ...] = Field((), description="addresses")
    every: Every = "week"
    day: int = Field(1, description="of the week, 1 for Monday, or of the month, up to 28")
    at: str = "07:00"
    zone: str = Field("UTC", max_length=64, description="whose hour that is (IANA)")
    baselines: tuple[str, ...] = ()

    @property
    def schedule(self) -> Schedule:
        return Schedule(self.every, self.day, time.fromisoformat(self.at), ZoneInfo(self.zone))


@dataclass(frozen=True, slots=True)
class Copy:
    """The last report to one address, and how far it is; what the mail server said."""

    to: str
    state: State = "waiting"
    tries: int = 0
    told: str = ""


@dataclass(frozen=True, slots=True)
class Held:
    """What is ordered in a domain, which version that is (0 for nothing yet), when the last report
    was due (None for none), its copies, what came of it, and when the next is due.
    """

    order: ReportOrder
    version: int = 0
    due: datetime | None = None
    copies: tuple[Copy, ...] = ()
    told: str = ""
    next: datetime | None = None


def refuse(given: ReportOrder, where: Settings) -> None:
    """Raises `FieldsError` for what cannot be ordered."""
    problems = []
    if wrong := [one for one in given.to if not is_address(one)]:
        problems.append(("to", f"“{wrong[0][:100]}” is no address such as chief@example.com."))
    if len(given.to) > MOST_ADDRESSES:
        problems.append(("to", f"Give at most {MOST_ADDRESSES} addresses."))
    if given.on and not given.to:
        problems.append(("to", "Give at least one address."))
    if len({one.lower() for one in given.to}) < len(given.to):
        problems.append(("to", "An address stands there twice."))
    if not 1 <= given.day <= LAST_DAY[given.every]:
        problems.append(("day", f"Give a day from 1 to {LAST_DAY[given.every]}."))
    if CLOCK.fullmatch(given.at) is None:
        problems.append(("at", "Give an hour as 07:00."))
    try:
        ZoneInfo(given.zone)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        problems.append(("zone", "Give the name of a time zone, such as Europe/Berlin or UTC."))
    known = {one.baseline.name for one in baselines.every(where) if one.baseline}
    if unknown := [name for name in given.baselines if name not in known]:
        problems.append(("baselines", f"There is no baseline “{unknown[0][:60]}”."))
    if len(given.baselines) > MOST_BASELINES:
        problems.append(("baselines", f"Choose at most {MOST_BASELINES}."))
    if problems:
        raise FieldsError(*problems)


def held(session: Session, current: Snapshot, now: datetime) -> Held:
    """What is ordered, as it stands at a moment."""
    row = session.get(ReportOrderRow, current.domain_id)
    if row is None:
        return Held(ReportOrder())
    order = ReportOrder.model_validate(row.settings)
    return Held(
        order,
        row.version,
        row.due if row.copies else None,
        tuple(_copies(row)),
        row.told,
        order.schedule.next(now) if order.on else None,
    )


def _copies(row: ReportOrderRow) -> Iterator[Copy]:
    return (Copy(**written) for written in row.copies)


def choose(
    session: Session,
    current: Snapshot,
    given: ReportOrder,
    version: int,
    reason: str,
    where: Settings,
    person: str,
) -> bool:
    """Order reports from the next time on at which one is due, or none any more; False if a second
    person has to agree. Raises `FieldsError`, `ConflictError`.
    """
    refuse(given, where)
    if given.on:
        needed(where)
    refuse_other_version(
        session.get(ReportOrderRow, current.domain_id, with_for_update=True), version
    )
    done = acts.ask(
        session,
        person,
        "report order",
        current.estate.domain.dns_name,
        reason,
        order=given.model_dump(mode="json"),
        version=version,
        said=f"Scheduled report {'on' if given.on else 'off'}",
        effect=f"Goes to {', '.join(given.to)}" if given.on else "",
    )
    return isinstance(done, acts.Done)


def apply_setting(
    session: Session, domain: DomainRow, arguments: Mapping[str, Any], _person: str
) -> acts.Done:
    """Order the reports of a domain, which is held for writing."""
    given = ReportOrder.model_validate(arguments["order"])
    row = session.get(ReportOrderRow, domain.id, with_for_update=True)
    refuse_other_version(row, arguments["version"])
    before, due = row.settings if row else {}, given.schedule.last(datetime.now(UTC))
    if row is None:
        row = ReportOrderRow(domain_id=domain.id, version=0, settings={}, due=due)
        session.add(row)
    # What was due before it was ordered is not made up for.
    row.due = max(row.due, due)
    row.settings, row.version = given.model_dump(mode="json"), row.version + 1
    what = "report ordered" if given.on else "report no longer ordered"
    note(session, what, domain=domain.dns_name, before=before, after=row.settings)
    return acts.Done()


def begin_due(session: Session, now: datetime, where: Settings) -> None:
    """Begin to send the reports that are due by now, and go on with those that wait."""
    if not where.smtp_host:
        return
    asked = select(ReportOrderRow, DomainRow.dns_name).join(
        DomainRow, DomainRow.id == ReportOrderRow.domain_id
    )
    for row, dns_name in session.execute(asked).all():
        order = ReportOrder.model_validate(row.settings)
        if not order.on:
            continue
        due = max(row.due, order.schedule.last(now))
        waits = any(one.state in ("waiting", "sending") for one in _copies(row))
        if due == row.due and not waits:
            continue
        last = jobs.last_of(session, ("report",), dns_name)
        if last and last.state in jobs.ACTIVE:
            continue
        again = due == row.due or (last is not None and last.state == "failed")
        if last and again and now - last.changed_at < AGAIN:
            continue
        arguments = {"due": due.isoformat()}
        jobs.start(session, "report", BY_ITSELF, domain=dns_name, arguments=arguments)


def begin_now(session: Session, current: Snapshot, person: str, now: datetime) -> None:
    """Send a report at once, to those to whom it goes. Raises `ConflictError`."""
    order = held(session, current, now).order
    if not order.to:
        raise ConflictError("It goes to nobody: name an address first.")
    domain = current.estate.domain.dns_name
    if jobs.active(session, "report", domain) is not None:
        raise ConflictError("A report is on its way already.")
    note(session, "report at once", domain=domain, to=list(order.to))
    arguments = {"due": now.isoformat(), "asked": True}
    jobs.start(session, "report", person, domain=domain, arguments=arguments)
    session.commit()


def send(
    engine: Engine,
    dns_name: str,
    due: datetime,
    where: Settings,
    progress: Progress,
    *,
    asked: bool = False,
) -> str:
    """Make the report that was due at a moment, or that somebody has `asked` for then, and hand
    over what waits of it; what came of it in a sentence. Raises `ConflictError`; then nothing is
    lost, and what is not handed over waits.
    """
    current = Snapshots(engine).of(dns_name)
    if current is None:
        raise NotFoundError(f"There is no domain {dns_name} any more.")
    server = needed(where)
    with _order(engine, current.domain_id) as row:
        order = ReportOrder.model_validate(row.settings)
        if not order.on and not asked:
            return "No report is ordered any more."
        if row.due != due or not row.copies:
            row.due, row.copies = due, [asdict(Copy(to)) for to in order.to]
        # Whoever was cut off in the middle sends it to nobody twice.
        row.copies = [
            asdict(replace(one, state="uncertain") if one.state == "sending" else one)
            for one in _copies(row)
        ]
        copies = list(_copies(row))
    progress("Writing the report")
    letter = _letter(engine, current, order, due, where)
    progress("Handing it over")
    try:
        with mailing(server) as mailer:
            for one in copies:
                if one.state == "waiting":
                    _hand_over(engine, current, server, mailer, letter, one)
    except MailError as error:
        raise ConflictError(str(error)) from None
    with _order(engine, current.domain_id) as row:
        row.told = _told(list(_copies(row)))
        return row.told


@contextmanager
def _order(engine: Engine, domain_id: int) -> Iterator[ReportOrderRow]:
    """A domain's order, to be changed. Raises `NotFoundError` where there is none."""
    with Session(engine) as session, session.begin():
        row = session.get(ReportOrderRow, domain_id, with_for_update=True)
        if row is None:
            raise NotFoundError("No report is ordered here any more.")
        yield row


@dataclass(frozen=True, slots=True)
class _Letter:
    subject: str
    text: str
    file: str
    report: str


def _letter(
    engine: Engine, current: Snapshot, order: ReportOrder, due: datetime, where: Settings
) -> _Letter:
    # A baseline whose file is gone since does not keep the rest from coming.
    known = {one.baseline.name: one.baseline for one in baselines.every(where) if one.baseline}
    chosen = [known[name] for name in order.baselines if name in known]
    gone = [name for name in order.baselines if name not in known]
    since = order.schedule.previous(due).date()
    with Session(engine) as session:
        told = reports.domain_report(session, current, current.findings, chosen, since)
    name = current.estate.domain.dns_name
    return _Letter(
        f"{name}: report of {due.astimezone(ZoneInfo(order.zone)):%Y-%m-%d}",
        cover(told, order.every, gone),
        f"{name}-{due:%Y-%m-%d}.html",
        domain_html(told, reports.mark_of(current)),
    )


def _hand_over(
    engine: Engine,
    current: Snapshot,
    server: Relay,
    mailer: Mailer,
    letter: _Letter,
    copy: Copy,
) -> None:
    """One copy. That it is being handed over is written down first."""
    copy = replace(copy, state="sending", tries=copy.tries + 1)
    _settle(engine, current.domain_id, copy)
    try:
        mailer.hand_over(_message(server, copy.to, letter))
    except RefusedAddressError as error:
        later = error.later and copy.tries < MOST_TRIES
        told = f"The mail server said: {error}"
        copy = replace(copy, state="waiting" if later else "refused", told=told)
    except MailError as error:
        lost = replace(copy, state="uncertain", told=f"{error} It may have gone.")
        _settle(engine, current.domain_id, lost)
        raise
    else:
        copy = replace(copy, state="sent", told="")
    _settle(engine, current.domain_id, copy)


def _message(server: Relay, to: str, letter: _Letter) -> EmailMessage:
    made = message(server, to, uuid4(), "en", letter.subject, letter.text)
    made.add_attachment(letter.report, subtype="html", filename=letter.file, cte="base64")
    return made


def _settle(engine: Engine, domain_id: int, copy: Copy) -> None:
    with _order(engine, domain_id) as row:
        row.copies = [asdict(copy if one.to == copy.to else one) for one in _copies(row)]


_WORDS: Mapping[State, str] = {
    "sent": "handed over",
    "refused": "refused",
    "uncertain": "may have gone",
    "waiting": "tried again later",
    "sending": "on its way",
}


def _told(copies: list[Copy]) -> str:
    parts = []
    for state, words in _WORDS.items():
        many = sum(one.state == state for one in copies)
        if many:
            parts.append(f"{many:,} {words}")
    return f"{', '.join(parts)}."


def failed(session: Session, dns_name: str, error: str) -> None:
    """A report could not be sent."""
    asked = select(ReportOrderRow).join(DomainRow, DomainRow.id == ReportOrderRow.domain_id)
    for row in session.scalars(asked.where(DomainRow.dns_name == dns_name)):
        row.told = error
