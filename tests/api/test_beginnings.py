"""New policies begin with something, and what another version has written is told apart."""

from __future__ import annotations

from importlib import import_module
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, edit, policy
from hornfels.core.policy.starting_points import STARTING_POINTS
from hornfels.store.models import DraftRow, PointRow


def made(client: TestClient, **body: Any) -> dict[str, Any]:
    answer = client.post(f"{DRAFT}/policies", json={"name": "Late", "precedence": 77, **body})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json()
    return found


@pytest.fixture
def drafted(client: TestClient) -> TestClient:
    client.post(f"{DOMAIN}/drafts", json={"title": ""})
    return client


@pytest.mark.parametrize("point", STARTING_POINTS, ids=lambda point: point.key)
def test_a_policy_begins_with_a_starting_point(drafted: TestClient, point: Any) -> None:
    assert made(drafted, start=point.key)["settings"] == point.settings.plain()
    named = made(drafted, name="Later", start=point.key, settings={"min_length": 99})
    assert named["settings"] == point.settings.plain() | {"min_length": 99}


def test_a_copy_is_of_the_policy_as_the_draft_has_it(drafted: TestClient) -> None:
    night = policy(drafted, "Night operators")
    edit(drafted, night, settings={"min_length": 33})
    copied = made(drafted, copy_of=night["guid"])
    assert (copied["settings"]["min_length"], copied["links"]) == (33, [])
    linked = made(drafted, name="Later", copy_of=night["guid"], same_links=True)
    assert [link["dn"] for link in linked["links"]] == [link["dn"] for link in night["links"]]
    gone = {"name": "No", "precedence": 9, "copy_of": "00000000-0000-0000-0000-000000000009"}
    assert drafted.post(f"{DRAFT}/policies", json=gone).status_code == 404
    too_long = {"name": "No", "precedence": 9, "settings": {"min_length": 999}}
    for wrong in (too_long, {**too_long, "copy_of": night["guid"]}):
        refused = drafted.post(f"{DRAFT}/policies", json=wrong)
        assert (refused.status_code, refused.json()["detail"][0]["field"]) == (422, "min_length")
    odd = {"name": "No", "precedence": 9, "start": "nowhere"}
    assert drafted.post(f"{DRAFT}/policies", json=odd).status_code == 422


def test_a_draft_of_another_version_is_told_apart_and_can_be_dropped(
    drafted: TestClient, engine: Engine
) -> None:
    night = policy(drafted, "Night operators")
    edit(drafted, night, settings={"min_length": 33})
    with Session(engine) as session, session.begin():
        row = session.get_one(DraftRow, 1)
        change = row.operations[0]
        row.operations = [{**change, "changes": {"shortest_word": {"before": 1, "after": 2}}}]
        row.version += 1
    (listed,) = drafted.get(f"{DOMAIN}/drafts").json()
    assert (listed["changes"], listed["conflicts"], listed["all_there"]) == (1, 1, False)
    refused = drafted.get(f"{DRAFT}/draft")
    assert refused.status_code == 409
    assert (
        "does not know: change 1, edit_settings.changes.shortest_word" in refused.json()["detail"]
    )
    assert edit(drafted, night, settings={"min_length": 34}).status_code == 409
    assert drafted.delete(f"{DRAFT}/draft?version=1").status_code == 409
    assert drafted.delete(f"{DRAFT}/draft?version={listed['version']}").status_code == 204
    assert drafted.get(f"{DOMAIN}/drafts").json() == []


def test_history_of_another_version_is_shown_as_far_as_it_can_be(
    drafted: TestClient, engine: Engine
) -> None:
    edit(drafted, policy(drafted, "Night operators"), settings={"min_length": 33})
    version = drafted.get(f"{DRAFT}/draft").json()["version"]
    assert drafted.post(f"{DRAFT}/draft/publish", json={"version": version}).status_code == 200
    with Session(engine) as session, session.begin():
        row = session.query(PointRow).filter_by(kind="published").one()
        row.operations = [{**row.operations[0], "kind": "rhyme_policy"}]
    latest = drafted.get(f"{DOMAIN}/history").json()[0]
    assert "does not know: change 1, kind" in latest["groups"][0]["subject"]
    assert latest["can_undo"] is False


def test_operations_written_before_give_the_domain_policy_its_name() -> None:
    migration = import_module("hornfels.store.migrations.versions.0007_the_domain_policy_by_name")
    old: dict[str, Any] = {"kind": "edit_settings", "policy": None, "changes": {}}
    other = {"kind": "set_precedence", "policy": "a", "before": 1, "after": 2}
    step = {"at": 0, "count": 1, "put": [old]}
    new = {**old, "policy": "domain"}
    assert migration.with_name([old, other]) == [new, other]
    assert migration.with_name([step]) == [{**step, "put": [new]}]
