"""`hornfels report`: a domain, or a publish, as one HTML file."""

from __future__ import annotations

import getpass
import sys
from datetime import UTC, date, datetime
from pathlib import Path

import numpy as np
from sqlalchemy.orm import Session

from hornfels.cli.baseline import baseline_of
from hornfels.cli.database import database
from hornfels.cli.errors import fail
from hornfels.cli.people import COMMAND
from hornfels.cli.resolve import read_estate
from hornfels.core.baselines.assessing import assess
from hornfels.core.baselines.baseline import Baseline
from hornfels.core.domain.estate import LinkedGroups
from hornfels.core.findings.survey import findings
from hornfels.core.reports.forecast import forecast_part
from hornfels.core.reports.policies import policy_parts
from hornfels.core.reports.report import BaselinePart, DomainReport, FindingPart, Head
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.resolution.section import section
from hornfels.core.resolution.shared_groups import SharedGroups
from hornfels.core.values.time import moment_from_datetime
from hornfels.formats.reports.html import domain_html
from hornfels.refusals import NotFoundError, RefusalError
from hornfels.service import baselines, reports
from hornfels.service.snapshots import Snapshots
from hornfels.settings import read_settings
from hornfels.store.trail import Origin, act_for, note


def of_dump(file: Path, names: list[str], linked_groups: LinkedGroups, output: Path | None) -> None:
    """The report of a dump: what a history would tell is not in it."""
    chosen = [baseline_of(name) for name in dict.fromkeys(names)]
    estate = read_estate(file, linked_groups)
    resolution = resolve(estate)
    roster, shared = Roster(estate, resolution), SharedGroups(estate, resolution)
    drawn = section(estate, resolution, roster, shared, np.empty(0, dtype=np.int64), None)

    def mark(policy: int) -> int | None:
        return None if policy < 0 else resolution.order.index(policy)

    head = Head(estate.domain.dns_name, file.name, None, datetime.now(UTC))
    report = DomainReport(
        head,
        estate,
        drawn,
        policy_parts(estate, resolution, drawn, mark),
        tuple(FindingPart(one) for one in findings(estate, resolution)),
        tuple(BaselinePart(one, tuple(assess(one, estate, resolution)), {}) for one in chosen),
        forecast=forecast_part(
            roster,
            moment_from_datetime(head.made_at),
            mark,
            lambda policy: "Domain policy" if policy < 0 else estate.policies[policy].name,
        ),
    )
    _write(domain_html(report, mark), output)


def of_domain(
    name: str, names: list[str], since: date | None, publish: int | None, output: Path | None
) -> None:
    """The report of a domain that Hornfels keeps, with its changes, or of one publish."""
    person = f"{getpass.getuser()} ({COMMAND})"
    with database() as engine, Session(engine) as session:
        act_for(session, Origin(person))
        live = Snapshots(engine).of(name)
        if live is None:
            fail(f"Hornfels has no domain {name}; load it, or connect its directory first")
        note(session, "exported", "a report", domain=name)
        session.commit()
        try:
            if publish is not None:
                text = reports.change_report(session, live, publish)
            else:
                chosen = [_known(one) for one in dict.fromkeys(names)]
                told = reports.domain_report(session, live, live.findings, chosen, since)
                text = domain_html(told, reports.mark_of(live))
        except RefusalError as error:
            fail(str(error))
    _write(text, output)


def _known(name: str) -> Baseline:
    """A baseline that this installation knows, or one from a file."""
    try:
        return baselines.find(name, read_settings())
    except NotFoundError:
        return baseline_of(name)


def _write(text: str, output: Path | None) -> None:
    if output is None:
        sys.stdout.write(text)
        return
    try:
        output.write_text(text)
    except OSError as error:
        fail(f"{output}: {error.strerror}")
