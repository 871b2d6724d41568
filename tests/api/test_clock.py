"""A clock that is set a day back or forward locks nobody out and lets nobody in."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, draft_step
from hornfels.core.values.time import DAY, MINUTE, moment_from_datetime
from hornfels.store import attempts
from hornfels.store.models import AttemptRow, SessionRow


@pytest.mark.parametrize("moved", [-DAY, DAY])
def test_a_wait_after_wrong_passwords_is_never_longer_than_it_was(
    engine: Engine, moved: int
) -> None:
    with Session(engine) as session, session.begin():
        for _ in range(10):
            attempts.begin(session, "ann", "10.0.0.1")
        session.execute(
            update(AttemptRow).values(
                bad_time=AttemptRow.bad_time - moved,
                lockout_time=AttemptRow.lockout_time - moved,
            )
        )
        wait, _ = attempts.begin(session, "ann", "10.0.0.1")
    assert wait <= 15 * 60 + 1
    assert moment_from_datetime(datetime.now(UTC)) > MINUTE


@pytest.mark.parametrize("moved", [timedelta(days=-1), timedelta(days=1)])
def test_a_password_that_was_given_at_another_time_proves_nothing(
    client: TestClient, engine: Engine, moved: timedelta
) -> None:
    with Session(engine) as session, session.begin():
        session.execute(update(SessionRow).values(proved_at=SessionRow.proved_at - moved))
    client.app.state.visitors.forget()  # type: ignore[attr-defined]
    answer = draft_step(client, "publish")
    assert (answer.status_code, answer.headers["needs"]) == (403, "password")
    assert client.get(f"{DOMAIN}/drafts").status_code == 200
