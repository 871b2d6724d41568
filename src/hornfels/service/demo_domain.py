"""The invented domain in the database."""

from __future__ import annotations

import io
import secrets
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import addition_edits, term_edits
from hornfels.core.drafts.operations import Operations
from hornfels.core.rights.roles import EVERYWHERE, Role
from hornfels.demo import dome_machines, house
from hornfels.demo.exposed import ENTRIES, make_corpus, put_hashes
from hornfels.demo.locks import earlier_locks
from hornfels.demo.tarnholt import DNS_NAME, entries, templates
from hornfels.demo.trials import demo_trials
from hornfels.formats.dump import load_dump
from hornfels.formats.ldif import write
from hornfels.formats.template import read_template
from hornfels.service.servers import read
from hornfels.store import drafts, locks, people, servers, terms, trials
from hornfels.store.estates import load_estate, save_dump, save_template
from hornfels.store.models import DomainRow, UserRow

DEMO_USER = "demo"
"""May do everything, and alone approves nothing of its own."""
DEMO_PEOPLE: dict[str, Role] = {
    DEMO_USER: "administrator",
    "demo-viewer": "viewer",
    "demo-help-desk": "help desk",
    "demo-author": "author",
    "demo-approver": "approver",
}
"""One for each role, all with one password."""


def store_demo(session: Session) -> None:
    """Store the invented domain the way a real one comes in: its dump first, then its templates."""
    source = io.BytesIO(b"".join(write(entries(datetime.now(UTC)))))
    dump = load_dump(source, other_names=True)
    domain = save_dump(session, dump, "tarnholt.ldif", DEMO_USER)
    for gpo, template in templates().items():
        save_template(session, domain, gpo, read_template(template), DEMO_USER)
    locks.add(session, domain.id, earlier_locks(dump.estate.accounts))
    for title, trial in demo_trials():
        trials.add(session, domain.id, title, trial, DEMO_USER)
    _store_servers(session, domain.id)
    _store_additions(session, domain)


def _store_additions(session: Session, domain: DomainRow) -> None:
    """Publish what the policies ask beyond the directory's own rules."""
    live = load_estate(session, domain)
    lists = {name: terms.keep(session, domain.id, held) for name, held in house.TERMS.items()}
    guids = {policy.name: policy.guid for policy in live.policies}
    operations: Operations = (
        *term_edits(live, lists),
        *(
            operation
            for name, addition in house.ADDITIONS.items()
            for operation in addition_edits(live, guids[name], addition)
        ),
    )
    draft = drafts.create(session, domain.id, house.TITLE, DEMO_USER, operations)
    after = apply(live, operations).estate
    drafts.publish(session, domain, draft, live, after, operations, DEMO_USER)


def expose_demo(session: Session, corpora: Path, hashes: Path, entries: int = ENTRIES) -> None:
    """Put what others know of the invented domain's passwords where it is looked for."""
    estate = load_estate(session, session.scalars(_DEMO_DOMAIN).one())
    make_corpus(corpora, entries)
    put_hashes(hashes, DNS_NAME, list(estate.accounts.name))


_DEMO_DOMAIN = select(DomainRow).where(DomainRow.dns_name == DNS_NAME)


def _store_servers(session: Session, domain_id: int) -> None:
    group = servers.make(session, domain_id, dome_machines.SET)
    now = datetime.now(UTC)
    for days_ago, name, file in dome_machines.readings():
        template, problem = read(file)
        at = now - timedelta(days=days_ago)
        servers.keep(session, group, name, template, problem, file if template else None, at=at)


def load_demo(session: Session) -> str:
    """Store the invented domain if it is not there, and make a fresh sign-in for it."""
    if session.scalar(select(DomainRow.id).where(DomainRow.dns_name == DNS_NAME)) is None:
        store_demo(session)
    password = "-".join(secrets.token_hex(2) for _ in range(3))
    let_demo_in(session, password)
    return password


def let_demo_in(session: Session, password: str) -> None:
    """Let the invented domain's people sign in with this password."""
    value = people.hashed(password)
    for name, role in DEMO_PEOPLE.items():
        row = people.find(session, name) or UserRow(name=name)
        session.add(row)
        people.set_password(session, row, value)
        people.grant(session, name, EVERYWHERE, role)
