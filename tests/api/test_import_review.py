"""An import takes nothing away that nobody has confirmed, and what was lost comes back."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any
from uuid import UUID

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, update
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, draft_step, follow, policy
from dumps import Records, guid_of, is_policy, records, replaced, without
from hornfels.store import acceptances, lost_policies
from hornfels.store.models import ConnectionRow, DomainRow, LostPolicyRow, PolicyRow
from imports import confirmed, loaded, stored
from persons import as_user

VISITORS = "Visiting astronomers"


@pytest.fixture
def ruled(client: TestClient) -> TestClient:
    """Visiting astronomers have an additional rule, and no guard."""
    before = policy(client, VISITORS)
    body = {"version": before["version"], "addition": {"password": [{"run": {"max": 3}}]}}
    assert client.put(f"{DRAFT}/additions/{before['guid']}", json=body).is_success
    now = policy(client, VISITORS)
    guard = {"version": now["version"], "guarded": not now["guarded"], "settings": {}}
    assert client.patch(f"{DRAFT}/policies/{now['guid']}", json=guard).is_success
    assert draft_step(client, "publish").is_success
    return client


def kept_here(client: TestClient) -> tuple[Any, bool, int]:
    """Return the rules, the guard and the mark of the policy, which no dump holds."""
    found = policy(client, VISITORS, DOMAIN)
    rules = client.get(f"{DOMAIN}/additions/{found['guid']}").json().get("password")
    return rules, found["guarded"], found["mark"]


def test_a_policy_that_comes_back_has_its_rules_its_guard_and_its_mark(
    ruled: TestClient, demo_ldif: bytes
) -> None:
    whole = records(demo_ldif)
    before = kept_here(ruled)
    assert before[0]
    held = loaded(ruled, without(whole, is_policy(VISITORS)))
    assert held["state"] == "held"
    assert any(f"{VISITORS}: Policy removed" in one for one in held["losses"])
    assert kept_here(ruled) == before, "nothing is stored before it is confirmed"
    assert confirmed(ruled, held)["state"] == "done"
    stored(ruled, whole)
    assert kept_here(ruled) == before
    # Lost once more, by a publish.
    place = f"{DOMAIN}~{ruled.post(f'{DOMAIN}/drafts', json={}).json()['id']}"
    seen = policy(ruled, VISITORS, place)
    gone = ruled.delete(f"{place}/policies/{seen['guid']}", params={"version": seen["version"]})
    assert gone.is_success
    assert draft_step(ruled, "publish", place).is_success
    stored(ruled, whole)
    assert kept_here(ruled) == before


def test_a_policy_that_comes_back_with_another_guid_is_offered_what_was_lost(
    ruled: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    whole = records(demo_ldif)
    before, old = kept_here(ruled), policy(ruled, VISITORS, DOMAIN)["guid"]
    with Session(engine) as session, session.begin():
        domain = session.query(DomainRow).one().id
        until = datetime.now(UTC).date() + timedelta(days=9)
        acceptances.accept(session, domain, f"weak {old}", "agreed", until, "ann")
    stored(ruled, without(whole, is_policy(VISITORS)))
    fresh = b"objectGUID:: AAAAAAAAAAAAAAAAAAAABw=="
    stored(ruled, replaced(whole, is_policy(VISITORS), rb"objectGUID:: [^\n]+", fresh))
    assert kept_here(ruled)[0] is None, "nobody has said that it is the same policy"
    (offered,) = ruled.get(f"{DOMAIN}/lost-policies").json()
    assert (offered["guid"], offered["name"], len(offered["additional_rules"])) == (
        old,
        VISITORS,
        1,
    )
    restoring = f"{DOMAIN}/lost-policies/{old}/restore", {"policy": offered["policy"]}
    with Session(engine) as session, session.begin():
        row = session.query(PolicyRow).filter_by(guid=UUID(offered["policy"])).one()
        row.addition, own = {"password": {"rule": "min 30"}}, row.addition
    refused = ruled.post(restoring[0], json=restoring[1])
    assert refused.status_code == 409, "rules of its own are never replaced"
    assert "Remove" in refused.json()["detail"]
    with Session(engine) as session, session.begin():
        session.query(PolicyRow).filter_by(guid=UUID(offered["policy"])).one().addition = own
    answer = ruled.post(restoring[0], json=restoring[1])
    assert answer.status_code == 204, answer.text
    rules, guarded, _ = kept_here(ruled)
    assert (rules, guarded) == (before[0], True), "restoring takes no guard away"
    assert ruled.get(f"{DOMAIN}/lost-policies").json() == []
    with Session(engine) as session:
        risks = acceptances.accepted(session, domain, datetime.now(UTC).date())
    assert f"weak {offered['policy']}" in risks


def shorter(found: Records) -> Records:
    domain = b"dn: DC=sky,DC=tarnholt,DC=example\n"
    return replaced(
        found, lambda one: one.startswith(domain), rb"minPwdLength: \d+", b"minPwdLength: 0"
    )


def weaker_policy(found: Records) -> Records:
    old = rb"msDS-LockoutThreshold: \d+"
    return replaced(found, is_policy("Night operators"), old, b"msDS-LockoutThreshold: 0")


def unlinked(found: Records) -> Records:
    return replaced(
        found, is_policy("Keyholders"), rb"\nmsDS-PSOAppliesTo: [^\n]+(\n [^\n]+)*", b""
    )


def without_groups(found: Records) -> Records:
    return without(found, lambda one: b"objectClass: group" in one and b"GS-" in one)


def lower_level(found: Records) -> Records:
    old = rb"msDS-Behavior-Version: \d+"
    return replaced(found, lambda _: True, old, b"msDS-Behavior-Version: 2")


def steered(found: Records) -> Records:
    """Kiosk floor's GUID under the name of Systems stewards."""
    kiosk = guid_of(found, "Kiosk floor")
    rest = without(found, is_policy("Kiosk floor"))
    return replaced(rest, is_policy("Systems stewards"), rb"objectGUID:: [^\n]+", kiosk)


@pytest.mark.first_case
@pytest.mark.parametrize(
    ("change", "words"),
    [
        (shorter, "Domain policy: Minimum length"),
        (weaker_policy, "Night operators: Lockout threshold"),
        (unlinked, "Keyholders: No longer linked to GS-Keyholders"),
        (without_groups, "Groups: "),
        (lower_level, "would have a weaker effective policy"),
        (steered, "Systems stewards: Policy removed"),
    ],
)
@pytest.mark.parametrize("required", [False, True], ids=["one person", "two people"])
def test_an_import_that_takes_protection_away_is_held(
    client: TestClient,
    engine: Engine,
    demo_ldif: bytes,
    change: Callable[[Records], Records],
    words: str,
    required: bool,
) -> None:
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(approval_required=required))
    before = client.get(f"{DOMAIN}/strata").json()
    held = loaded(client, change(records(demo_ldif)))
    assert held["state"] == "held"
    assert any(words in one for one in held["losses"]), held["losses"]
    assert client.get(f"{DOMAIN}/strata").json() == before
    after = confirmed(client, held)
    assert (after["state"], after["waits"]) == ("held" if required else "done", required)
    if required:
        as_user(client, "ben")
        (act,) = client.get("/api/acts").json()
        assert act["details"] == held["losses"]
        assert client.post(f"/api/acts/{act['id']}/confirm").status_code == 200
        assert follow(client, held["id"])["state"] == "done"


def test_only_what_was_confirmed_is_taken_away(
    client: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    with Session(engine) as session, session.begin():
        session.execute(update(DomainRow).values(approval_required=True))
    held = loaded(client, weaker_policy(records(demo_ldif)))
    client.post(f"/api/jobs/{held['id']}/confirm", json={"reason": "agreed"})
    with Session(engine) as session, session.begin():
        # Meanwhile live has become stricter, so that the same file takes more away.
        domain = session.query(DomainRow).one()
        domain.settings = {**domain.settings, "min_length": 30}
        domain.version += 1
    as_user(client, "ben")
    (act,) = client.get("/api/acts").json()
    client.post(f"/api/acts/{act['id']}/confirm")
    again = follow(client, held["id"])
    assert again["state"] == "held"
    assert any("Domain policy: Minimum length" in one for one in again["losses"])


def test_a_copy_without_any_policy_is_never_stored(client: TestClient, demo_ldif: bytes) -> None:
    lost = loaded(
        client,
        without(records(demo_ldif), lambda one: b"objectClass: msDS-PasswordSettings" in one),
    )
    assert (lost["state"], "lost the right to see" in lost["error"]) == ("failed", True)
    assert len(client.get(f"{DOMAIN}/strata").json()["layers"]) == 8


def test_dumps_of_a_connected_domain_are_refused_unless_they_are_turned_on(
    client: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    place = "/api/directories/sky.tarnholt.example"
    assert client.post(f"{place}/dumps", json={"reason": "r"}).status_code == 404
    with Session(engine) as session, session.begin():
        settings = {"servers": [{"host": "dc1.sky.tarnholt.example"}]}
        session.add(
            ConnectionRow(dns_name="sky.tarnholt.example", settings=settings, changed_by="ann")
        )
    refused = loaded(client, records(demo_ldif))
    assert (refused["state"], "dumps of the domain are refused" in refused["error"]) == (
        "failed",
        True,
    )
    assert client.post(f"{place}/dumps", json={"reason": ""}).status_code == 422
    assert client.post(f"{place}/dumps", json={"reason": "moving"}).json() == {"waits": False}
    assert client.get(place).json()["dumps_until"]
    assert loaded(client, records(demo_ldif))["state"] == "done"
    with Session(engine) as session, session.begin():
        passed = datetime.now(UTC) - timedelta(seconds=1)
        session.execute(update(ConnectionRow).values(dumps_until=passed))
        session.execute(update(DomainRow).values(approval_required=True))
    assert client.get(place).json()["dumps_until"] is None
    assert loaded(client, records(demo_ldif))["state"] == "failed"
    assert client.post(f"{place}/dumps", json={"reason": "moving"}).json() == {"waits": True}


def test_lost_policies_are_forgotten_after_400_days(
    client: TestClient, engine: Engine, demo_ldif: bytes
) -> None:

    stored(client, without(records(demo_ldif), is_policy(VISITORS)))
    for days, left in ((399, 1), (401, 0)):
        with Session(engine) as session, session.begin():
            at = datetime.now(UTC) - timedelta(days=days)
            session.execute(update(LostPolicyRow).values(lost_at=at))
            lost_policies.sweep(session)
            assert session.query(LostPolicyRow).count() == left


def test_an_import_does_not_choose_which_linked_groups_count(
    client: TestClient, demo_ldif: bytes
) -> None:
    job = client.post("/api/loads?name=x.ldif&linked_groups=any", content=demo_ldif).json()["id"]
    assert follow(client, job)["state"] == "done"
    assert client.get("/api/domains").json()[0]["linked_groups"] == "global"
    assert policy(client, "Phrase pilot", DOMAIN)["governed"] == 0
