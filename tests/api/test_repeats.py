"""A write that comes twice with one idempotency key is done once."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import Any

from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import Engine, func, select, update
from sqlalchemy.orm import Session

from api_help import DOMAIN
from hornfels.api.app import ROUTERS
from hornfels.api.repeats import HEADER, keeps_answers, shows_once
from hornfels.store import repeats
from hornfels.store.models import DraftRow, PointRow, RepeatRow

KEY = {HEADER: "c0ffee"}
REQUIRED = {"accounts": ["ilse.varga"], "reason": "left the badge"}


def required(client: TestClient, headers: dict[str, str], **more: Any) -> Any:
    return client.post(f"{DOMAIN}/locks/must-change", json=REQUIRED | more, headers=headers)


def points(engine: Engine) -> int:
    with Session(engine) as session:
        asked = select(func.count()).where(PointRow.kind == "must change")
        return session.scalar(asked) or 0


def test_a_repeat_gets_the_first_answer_and_writes_nothing(
    client: TestClient, engine: Engine
) -> None:
    first = required(client, KEY)
    assert first.status_code == 201
    again = required(client, KEY)
    assert (again.status_code, again.json()) == (201, first.json())
    assert points(engine) == 1
    assert required(client, {HEADER: "another"}).json() != first.json()
    assert required(client, {}).status_code == 201, "scripts may send none"
    assert points(engine) == 3


def test_repeats_at_the_same_moment_write_once(client: TestClient, engine: Engine) -> None:
    with ThreadPoolExecutor(8) as pool:
        answers = list(pool.map(lambda _: required(client, KEY), range(8)))
    assert points(engine) == 1
    assert {answer.status_code for answer in answers} <= {201, 409}
    assert 201 in {answer.status_code for answer in answers}


def test_one_draft_is_begun_by_two_presses(client: TestClient, engine: Engine) -> None:
    made = [client.post(f"{DOMAIN}/drafts", json={}, headers=KEY) for _ in range(2)]
    assert made[0].json() == made[1].json()
    with Session(engine) as session:
        assert session.scalar(select(func.count()).select_from(DraftRow)) == 1


def test_a_refused_write_is_tried_anew(client: TestClient, engine: Engine) -> None:
    assert required(client, KEY, accounts=["nobody.at.all"]).status_code == 422
    assert required(client, KEY).status_code == 201
    assert points(engine) == 1


def test_a_key_belongs_to_one_request(client: TestClient) -> None:
    assert required(client, KEY).status_code == 201
    other = required(client, KEY, reason="another one")
    assert (other.status_code, "another request" in other.text) == (409, True)
    assert required(client, {HEADER: "k" * 101}).status_code == 409


def test_a_secret_is_never_kept(client: TestClient, engine: Engine) -> None:
    body = {"name": "dora"}
    made = client.post("/api/people", json=body, headers=KEY)
    assert made.status_code == 201, made.text
    again = client.post("/api/people", json=body, headers=KEY)
    assert (again.status_code, "shown once" in again.text) == (409, True)
    with Session(engine) as session:
        assert session.scalars(select(RepeatRow.body)).all() == [None]


def test_two_who_add_one_name_at_once_are_told(client: TestClient) -> None:
    def added(number: int) -> int:
        body = {"name": "dora" if number % 2 else "Dora"}
        return int(client.post("/api/people", json=body).status_code)

    with ThreadPoolExecutor(6) as pool:
        found = sorted(pool.map(added, range(6)))
    assert found == [201, 422, 422, 422, 422, 422]


def test_a_body_cannot_be_guessed_from_what_is_kept(client: TestClient, engine: Engine) -> None:
    """Two keys keep two digests of one body: none of them is a digest of the body alone."""
    for key in ("one", "two"):
        assert required(client, {HEADER: key}).status_code == 201
    with Session(engine) as session:
        digests = session.scalars(select(RepeatRow.asked)).all()
    assert len(set(digests)) == 2


def test_a_killed_write_gives_its_key_back_and_old_answers_go(
    client: TestClient, engine: Engine
) -> None:
    assert required(client, KEY).status_code == 201
    with Session(engine) as session, session.begin():
        session.execute(update(RepeatRow).values(status=None))
    assert "under way" in required(client, KEY).text
    with Session(engine) as session, session.begin():
        past = func.now() - repeats.GIVEN_UP_AFTER - timedelta(seconds=1)
        session.execute(update(RepeatRow).values(at=past))
    assert required(client, KEY).status_code == 201
    with Session(engine) as session, session.begin():
        past = func.now() - repeats.KEPT_FOR - timedelta(seconds=1)
        session.execute(update(RepeatRow).values(at=past))
        repeats.sweep(session)
        assert session.scalars(select(RepeatRow)).all() == []


def test_answers_with_secrets_are_known_by_their_fields() -> None:
    for route in (r for router in ROUTERS for r in router.routes if isinstance(r, APIRoute)):
        fields = getattr(route.response_model, "model_fields", {})
        if keeps_answers(route) and {"token", "one_time"} & fields.keys():
            assert shows_once(route), route.path
