"""The invented domain in the database."""

from __future__ import annotations

import io
import secrets
from datetime import UTC, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.demo.locks import earlier_locks
from hornfels.demo.tarnholt import DNS_NAME, entries, templates
from hornfels.demo.trials import demo_trials
from hornfels.formats.dump import load_dump
from hornfels.formats.ldif import write
from hornfels.formats.template import read_template
from hornfels.store import locks, trials
from hornfels.store.estates import save_dump, save_template
from hornfels.store.models import DomainRow
from hornfels.store.people import set_password

DEMO_USER = "demo"


def store_demo(session: Session) -> None:
    """Store the invented domain the way a real one comes in: its dump first, then its templates."""
    source = io.BytesIO(b"".join(write(entries(datetime.now(UTC)))))
    dump = load_dump(source)
    domain = save_dump(session, dump, "tarnholt.ldif", DEMO_USER)
    for gpo, template in templates().items():
        save_template(session, domain, gpo, read_template(template), DEMO_USER)
    locks.add(session, domain.id, earlier_locks(dump.estate.accounts))
    for title, trial in demo_trials():
        trials.add(session, domain.id, title, trial, DEMO_USER)


def load_demo(session: Session) -> str:
    """Store the invented domain if it is not there, and make a fresh sign-in for it."""
    if session.scalar(select(DomainRow.id).where(DomainRow.dns_name == DNS_NAME)) is None:
        store_demo(session)
    password = "-".join(secrets.token_hex(2) for _ in range(3))
    set_password(session, DEMO_USER, password)
    return password
