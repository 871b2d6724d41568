"""Every operation of the API, called with what its description allows and does not allow, answers
as the description says.

`make fuzz` runs it for longer (``HORNFELS_FUZZ``: calls for each operation).
"""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import Any

import pytest
import schemathesis
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from schemathesis import Case
from schemathesis.checks import CHECKS, load_all_checks
from sqlalchemy import Engine, delete, select
from sqlalchemy.orm import Session

from api_help import description
from hornfels.api.app import create_app
from hornfels.api.guard import COOKIE
from hornfels.core.rights.roles import EVERYWHERE, ROLES
from hornfels.formats.dump import Dump
from hornfels.store import drafts, gate, people, sessions
from hornfels.store.estates import save_dump
from hornfels.store.models import DomainRow, DraftRow, GateCallerRow
from persons import let_in
from served import served

NAME = "sky.tarnholt.example"
CALLS = int(os.environ.get("HORNFELS_FUZZ", "8"))


@pytest.fixture(scope="module")
def address(migrated: Engine) -> Iterator[str]:
    with served(create_app(migrated)) as port:
        yield f"http://127.0.0.1:{port}"


@pytest.fixture
def signed_in(migrated: Engine, demo: Dump) -> tuple[dict[str, str], int]:
    """A session's token of somebody in each role, and of a caller at the gate, and the number of an
    open draft, whatever the operation before has done away with.
    """
    with Session(migrated) as session, session.begin():
        domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == NAME)).one_or_none()
        domain = domain or save_dump(session, demo, "tarnholt.ldif", "tester")
        draft = session.scalars(
            select(DraftRow).where(DraftRow.domain_id == domain.id, DraftRow.state == "open")
        ).first()
        draft = draft or drafts.create(session, domain.id, "Fuzzed", "ann")
        tokens = {"": ""}
        for role in ROLES:
            person = people.find(session, role)
            if person is None:
                let_in(session, role, role=role)
            else:
                person.shut, person.one_time_until = False, None
                people.grant(session, role, EVERYWHERE, role)
            session.flush()
            hashed = people.stored_hash(session, role) or ""
            tokens[role] = sessions.open_session(session, role, hashed) or ""
        session.execute(delete(GateCallerRow))
        _, tokens["gate"] = gate.make_caller(session, domain.id, "dc1", "hook", "ann")
        return tokens, draft.id


# What it says needs no database: the engine never connects.
schema = schemathesis.openapi.from_dict(description())
load_all_checks()
checks = CHECKS.get_by_names(
    [
        "not_a_server_error",
        "status_code_conformance",
        "content_type_conformance",
        "response_schema_conformance",
        "response_headers_conformance",
        "allow_header_conformance",
        "unsupported_method",
    ]
)


@schema.given(
    place=st.sampled_from([NAME, "draft", ""]),
    # Mostly those who come furthest; nobody and everybody else too.
    role=st.sampled_from([ROLES[-1]] * 3 + [*ROLES[:-1], ""]),
)
@schema.parametrize()
@settings(max_examples=CALLS, deadline=None, suppress_health_check=list(HealthCheck))
def test_an_operation_answers_as_described(
    case: Case[Any], place: str, role: str, address: str, signed_in: tuple[dict[str, str], int]
) -> None:
    tokens, draft = signed_in
    if place and "domain" in (case.path_parameters or {}):
        case.path_parameters["domain"] = f"{NAME}~{draft}" if place == "draft" else NAME
    cookies = {COOKIE: tokens[role]}
    if case.path.startswith("/api/gate/") and role:
        case.headers["Authorization"] = f"Bearer {tokens['gate']}"
    case.call_and_validate(base_url=address, cookies=cookies, checks=checks, timeout=30)  # type: ignore[arg-type]
