"""A shorter maximum age brought in over weeks in a real directory."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import ldap
import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from api_help import days_on, work_off
from directory_server import PEOPLE, REALM, change, group, policy, with_password
from hornfels.core.values.time import moment_from_datetime
from hornfels.directory.link import Link
from hornfels.service import spreading
from hornfels.service.unlocking import CHANGED_SINCE
from hornfels.store.locks import unlocked_at
from hornfels.store.models import PointRow
from installation import DOMAIN, Installation
from killed import killed_after_each

AGES = {"mara": 200, "odile": 150, "noor": 100, "ivo": 5}
"""Days since each has set the password."""
YEAR = str(-365 * 864_000_000_000)


def must_change(installation: Installation) -> set[str]:
    with installation.server.administrator() as link:
        found = link.search(PEOPLE, "one", "(pwdLastSet=0)", ["sAMAccountName"])
        return {values["samaccountname"][0].decode() for _, values in found}


def gone_on(engine: Engine) -> None:
    """What a worker does by itself."""
    with Session(engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC))
    work_off(engine)


def begun(installation: Installation, link: Link) -> Any:
    """Four people under a policy of a year, and a draft that makes it 90 days, spread over two
    weeks; what is under way.
    """
    names = [with_password(link, name, "Quiet-Harbour-19") for name in AGES]
    policy(link, "Harbour", 10, [group(link, "Harbour", names)], msDS_MaximumPasswordAge=YEAR)
    installation.server.stop()
    now = datetime.now(UTC)
    ago = {n: str(moment_from_datetime(now - timedelta(days=d))) for n, d in AGES.items()}
    installation.server.tell([(name, [("pwdLastSet", set_at)]) for name, set_at in ago.items()])
    installation.server.start()
    writer = {"name": f"Administrator@{REALM}", "secret": "tarnholt"}
    assert installation.connect(writer=writer).status_code == 200
    installation.read()
    client = installation.client
    assert client.post(f"{DOMAIN}/drafts", json={}).status_code == 201
    place = f"{DOMAIN}~1"
    (layer,) = client.get(f"{place}/strata").json()["layers"]
    held = client.get(f"{place}/policies/{layer['guid']}").json()
    shorter = {"version": held["version"], "settings": {"max_age": 90 * 86_400}}
    assert client.patch(f"{place}/policies/{layer['guid']}", json=shorter).status_code == 200
    today = datetime.now(UTC).date().isoformat()
    plan = client.get(f"{place}/spreads/plan", params={"weeks": 2, "begins": today}).json()
    assert (plan["told"], plan["at_once"]) == (3, 3)
    body = {"weeks": 2, "begins": today, "seen": plan["seen"], "reason": "Agreed in November"}
    answer = client.post(f"{place}/spreads", json=body)
    assert answer.status_code == 201, answer.text
    assert client.post(f"{place}/spreads", json=body).status_code == 409, "one at a time"
    return answer.json()


def killed_wave(installation: Installation, link: Link, *happenings: str) -> None:
    """Kill the worker of the first batch after each of these happenings."""
    begun(installation, link)
    with Session(installation.engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC))
    killed_after_each(installation.engine, "spread", happenings)


@pytest.mark.thorough
def test_the_oldest_are_told_first_and_who_has_changed_is_left_alone(
    installation: Installation, engine: Engine, link: Link
) -> None:
    assert [sum(one["told"].values()) for one in begun(installation, link)["waves"]] == [
        2,
        1,
    ]
    # Set by somebody meanwhile, which was not read yet.
    with installation.server.administrator() as now:
        change(now, f"CN=odile,{PEOPLE}", (ldap.MOD_REPLACE, "unicodePwd", [_new()]))
    gone_on(engine)
    assert must_change(installation) == {"mara"}, "the oldest; odile has another one by now"
    (spread,) = installation.client.get(f"{DOMAIN}/spreads").json()
    assert spread["directory"] == "told"
    assert [one["state"] for one in spread["waves"]] == ["done", "waiting"]
    assert (
        spread["waves"][0]["said"]
        == "1 of 2 accounts must change their password. 1 had another password by then."
    )
    gone_on(engine)
    assert must_change(installation) == {"mara"}, "the next is not due"
    days_on(engine, 7)
    gone_on(engine)
    assert must_change(installation) == {"mara", "noor"}
    (spread,) = installation.client.get(f"{DOMAIN}/spreads").json()
    assert spread["state"] == "done"
    said = [entry["what"] for entry in installation.client.get("/api/trail").json()["entries"]]
    assert {"spread begun", "wave carried out", "must change in the directory"} <= set(said)


def test_a_killed_wave_requires_each_password_change_once(
    installation: Installation, engine: Engine, link: Link
) -> None:
    killed_wave(installation, link, "asked for", "changing", "changing", "carried out")
    work_off(engine)
    assert must_change(installation) == {"mara", "odile"}
    (spread,) = installation.client.get(f"{DOMAIN}/spreads").json()
    assert spread["waves"][0]["said"] == "2 of 2 accounts must change their password."
    with Session(engine) as session:
        (point,) = session.scalars(select(PointRow).where(PointRow.kind == "must change"))
        assert {one.name: one.told for one in unlocked_at(point)} == {"mara": "", "odile": ""}


def test_a_killed_wave_spares_a_password_that_was_changed_meanwhile(
    installation: Installation, engine: Engine, link: Link
) -> None:
    killed_wave(installation, link, "changing")
    with installation.server.administrator() as now:
        for name in ("mara", "odile"):
            change(now, f"CN={name},{PEOPLE}", (ldap.MOD_REPLACE, "unicodePwd", [_new()]))
    installation.read()
    work_off(engine)
    assert must_change(installation) == set()
    (spread,) = installation.client.get(f"{DOMAIN}/spreads").json()
    assert spread["waves"][0]["said"].startswith("0 of 2 accounts must change")
    assert spread["waves"][0]["said"].count(CHANGED_SINCE) == 2


def test_a_directory_that_is_away_keeps_the_wave_waiting(
    installation: Installation, engine: Engine, link: Link
) -> None:
    begun(installation, link)
    installation.server.stop()
    gone_on(engine)
    (spread,) = installation.client.get(f"{DOMAIN}/spreads").json()
    assert spread["waves"][0]["state"] == "begun"
    assert spread["waves"][0]["said"]
    installation.server.start()
    with Session(engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC))
    work_off(engine)
    assert must_change(installation) == set(), "it is tried again after a while, not at once"
    with Session(engine) as session, session.begin():
        spreading.begin_due(session, datetime.now(UTC) + spreading.TRY_AGAIN)
    work_off(engine)
    assert must_change(installation) == {"mara", "odile"}


def _new() -> bytes:
    return '"Another-Harbour-31"'.encode("utf-16-le")
