"""What API tests say to the application again and again."""

from __future__ import annotations

import asyncio
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import replace
from datetime import date, timedelta
from functools import cache
from typing import Any

from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine, create_engine, select
from sqlalchemy.orm import Session

from hornfels.api.app import create_app
from hornfels.demo.tarnholt import templates
from hornfels.formats.dump import Dump
from hornfels.store import spreads
from hornfels.store.database import connect
from hornfels.store.estates import save_dump
from hornfels.store.models import SpreadRow
from hornfels.worker.work import work
from persons import as_user, let_in

DOMAIN = "/api/domains/sky.tarnholt.example"
DRAFT = f"{DOMAIN}~1"


@cache
def description() -> dict[str, Any]:
    """Return the OpenAPI document, which says the same of every application and takes seconds."""
    document: dict[str, Any] = create_app(create_engine("postgresql+psycopg://")).openapi()
    return document


@contextmanager
def holding(engine: Engine, dump: Dump) -> Iterator[TestClient]:
    """Serve an application that holds this domain, to ann, who has signed in."""
    with Session(engine) as session, session.begin():
        save_dump(session, dump, "tarnholt.ldif", "tester")
        let_in(session, "ann")
    with TestClient(create_app(engine)) as client:
        as_user(client, "ann")
        yield client


def read_templates(client: TestClient) -> None:
    """Read in the security templates of the demo domain's group policy objects."""
    for gpo, template in templates().items():
        answer = client.put(f"{DOMAIN}/sources/template", params={"gpo": gpo}, content=template)
        assert answer.status_code == 200, answer.text


def policy(client: TestClient, name: str, place: str = DRAFT) -> dict[str, Any]:
    layers = client.get(f"{place}/strata").json()["layers"]
    guid = next(layer["guid"] for layer in layers if layer["name"] == name)
    answer: dict[str, Any] = client.get(f"{place}/policies/{guid}").json()
    return answer


def edit(client: TestClient, before: dict[str, Any], place: str = DRAFT, **changes: object) -> Any:
    return client.patch(
        f"{place}/policies/{before['guid']}", json={"version": before["version"], **changes}
    )


def draft_step(client: TestClient, step: str, place: str = DRAFT) -> Any:
    """Take a step with the draft as it is shown: undo, redo, approve, publish."""
    seen = client.get(f"{place}/draft").json()
    body = {"version": seen["version"]} | ({"text": seen["text"]} if step == "approve" else {})
    return client.post(f"{place}/draft/{step}", json=body)


def follow(client: TestClient, job: str) -> dict[str, Any]:
    """Let a worker do what waits, and say how the job is then."""
    engine = patient(client)
    work_off(engine)
    engine.dispose()
    answer: dict[str, Any] = client.get(f"/api/jobs/{job}").json()
    return answer


def work_off(engine: Engine, **options: Any) -> None:
    """Do all jobs that wait. In a thread of its own: the browser tests leave an event loop running
    in theirs.
    """
    with ThreadPoolExecutor(1) as pool:
        pool.submit(lambda: asyncio.run(work(engine, once=True, **options))).result()


def days_on(engine: Engine, days: int) -> None:
    """As if everything of the spread that is there were so many days longer ago."""
    with Session(engine) as session, session.begin():
        row = session.scalars(select(SpreadRow)).one()
        ago = timedelta(days=days)
        row.begins -= ago
        for number, wave in enumerate(spreads.waves_of(row)):
            if wave.done_on:
                done_on = (date.fromisoformat(wave.done_on) - ago).isoformat()
                spreads.set_wave(row, number, replace(wave, done_on=done_on))


def patient(client: TestClient) -> Engine:
    """A worker's engine on the database that the application uses."""
    assert isinstance(client.app, FastAPI)
    address = client.app.state.engine.url.render_as_string(hide_password=False)
    return connect(address, patient=True)
