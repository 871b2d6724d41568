"""The page of people under a policy, before a real directory."""

from __future__ import annotations

import logging
from datetime import UTC, datetime, timedelta
from typing import Any

import ldap
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import delete
from sqlalchemy.orm import Session

from directory_server import REALM, SETTINGS, DirectoryServer, change, group, policy, with_password
from hornfels.api.app import create_app
from hornfels.core.values.time import DAY, moment_from_datetime
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import RefusedError
from hornfels.store.models import BindAttemptRow
from installation import PLACE, Installation

FIRST, SECOND, THIRD = "Quiet-Harbour-19", "Slow-Eclipse-2031", "Amber-Meridian-77"
WRONG = "Not-The-One-404"


@pytest.fixture
def ilse(installation: Installation, link: Link) -> str:
    """Under a policy that locks after four bad tries, remembers five passwords and has no minimum
    age, at an installation whose people have a page.
    """
    dn = with_password(link, "Ilse", FIRST, displayName="Ilse Varga")
    policy(
        link,
        "Crew",
        10,
        [group(link, "GS-Crew", [dn])],
        msDS_LockoutThreshold="4",
        msDS_MinimumPasswordAge="0",
        msDS_MaximumPasswordAge=str(-42 * DAY),
    )
    installation.connect(own_page=True)
    installation.read()
    return dn


@pytest.fixture
def browser(installation: Installation) -> TestClient:
    return TestClient(create_app(installation.engine))


def signs_in(browser: TestClient, secret: str = FIRST, name: str = "ilse") -> Any:
    return browser.post("/api/you/session", json={"name": name, "password": secret})


def page(browser: TestClient) -> Any:
    found = browser.get("/api/you")
    assert found.status_code == 200, found.text
    return found.json()["person"]


def changes(browser: TestClient, present: str, fresh: str) -> Any:
    return browser.post("/api/you/password", json={"present": present, "fresh": fresh})


def refused(answer: Any) -> tuple[str, str]:
    assert answer.status_code == 422, answer.text
    (one,) = answer.json()["detail"]
    return one["field"], one["message"]


def bad_tries(link: Link, dn: str) -> int:
    return int(link.entry(dn, ["badPwdCount"]).get("badpwdcount", [b"0"])[0])


def a_window_later(installation: Installation) -> None:
    """As if the window in which failed attempts are counted had passed here."""
    with Session(installation.engine) as session, session.begin():
        session.execute(delete(BindAttemptRow))


def opens(server: DirectoryServer, dn: str, secret: str) -> bool:
    try:
        linked(server.reach(dn, secret)).close()
    except RefusedError:
        return False
    return True


def test_somebody_sees_what_holds_for_them_and_nothing_else(
    installation: Installation, ilse: str, browser: TestClient
) -> None:
    assert ilse
    assert browser.get("/api/you").json() == {"person": None, "domains": [REALM]}
    for name in ("ilse", "ILSE", f"ilse@{REALM}", "SKY\\ilse"):
        assert signs_in(browser, name=name).status_code == 204, name
    found = page(browser)
    assert (found["name"], found["display_name"], found["must_change"]) == (
        "Ilse",
        "Ilse Varga",
        False,
    )
    assert "at least 12 characters" in found["must"][0]["text"]
    assert found["set_at"]
    assert found["ends_at"] > found["set_at"]
    assert "lasts 42 days" in found["ends_why"]
    assert (found["lock"], found["changes_from"]) == (None, None)
    assert browser.get("/api/domains").status_code == 401
    assert browser.get(f"/api/domains/{REALM}/accounts").status_code == 401
    # Whoever administers Hornfels is nobody there.
    assert installation.client.get("/api/you").json()["person"] is None
    asked = {"candidate": SECOND}
    assert installation.client.post("/api/you/verdicts", json=asked).status_code == 401
    browser.delete("/api/you/session")
    assert page(browser) is None
    assert changes(browser, FIRST, SECOND).status_code == 401


def test_a_stranger_cannot_lock_an_account_at_the_self_service_page(
    installation: Installation, link: Link, ilse: str, browser: TestClient
) -> None:
    told = set()
    for name in ("ilse", f"ilse@{REALM}", "SKY\\ilse", "x0\\ilse", "x1\\ILSE", f"x\\Ilse@{REALM}"):
        refused = signs_in(browser, WRONG, name=name)
        told.add((refused.status_code, refused.text))
        nobody = signs_in(browser, WRONG, name=name.replace("ilse", "nobody"))
        told.add((nobody.status_code, nobody.text))
    assert len(told) == 1, "an account that exists sounds like a name that no account has"
    assert bad_tries(link, ilse) == 2, "the policy locks after four failed attempts"
    # The right password is not shown to the directory either, until the window has passed.
    assert signs_in(browser).status_code == 403
    a_window_later(installation)
    assert signs_in(browser).status_code == 204
    assert bad_tries(link, ilse) == 0


def test_a_change_with_a_wrong_current_password_counts_the_same(
    installation: Installation, link: Link, ilse: str, browser: TestClient
) -> None:
    assert signs_in(browser).status_code == 204
    for _ in range(2):
        assert refused(changes(browser, WRONG, SECOND))[0] == "present"
    waits = changes(browser, FIRST, SECOND)
    assert waits.status_code == 429
    assert int(waits.headers["retry-after"]) > 0
    assert bad_tries(link, ilse) == 2
    a_window_later(installation)
    assert changes(browser, FIRST, SECOND).status_code == 204


@pytest.mark.parametrize("threshold", [1, 2])
def test_accounts_that_lock_at_once_are_never_tried(
    link: Link, ilse: str, browser: TestClient, threshold: int
) -> None:
    crew = f"CN=Crew,{SETTINGS}"
    change(link, crew, (ldap.MOD_REPLACE, "msDS-LockoutThreshold", [b"%d" % threshold]))
    assert signs_in(browser, WRONG).status_code == 403
    assert signs_in(browser).status_code == 403
    assert bad_tries(link, ilse) == 0


def test_what_others_mistyped_counts_too(
    server: DirectoryServer, link: Link, ilse: str, browser: TestClient
) -> None:
    for _ in range(3):
        assert not opens(server, ilse, WRONG)
    assert signs_in(browser, WRONG).status_code == 403
    assert bad_tries(link, ilse) == 3, "one more would have locked the account"


def test_what_is_typed_is_judged_with_what_the_directory_alone_knows_left_open(
    ilse: str, browser: TestClient
) -> None:
    assert ilse
    signs_in(browser)

    def ticks(candidate: str, present: str = "") -> dict[str, str]:
        given = {"candidate": candidate, "present": present}
        said = browser.post("/api/you/verdicts", json=given).json()
        assert candidate not in str(said)
        return {one["rule"]: one["status"] for one in said["ticks"]}

    assert ticks("Zwölf")["length"] == "failed"
    assert ticks(SECOND)["length"] == "passed"
    assert ticks(SECOND)["history"] == "not checkable"
    assert ticks(SECOND, FIRST)["history"] == "not checkable"
    assert ticks(FIRST, FIRST)["history"] == "failed"
    proposed = browser.post("/api/you/suggestions").json()
    assert proposed
    assert all(ticks(one["text"])["length"] == "passed" for one in proposed)


def test_somebody_changes_their_password(
    installation: Installation,
    server: DirectoryServer,
    ilse: str,
    browser: TestClient,
    caplog: pytest.LogCaptureFixture,
) -> None:
    caplog.set_level(logging.DEBUG)
    elsewhere = TestClient(create_app(installation.engine))
    assert signs_in(elsewhere).status_code == 204
    assert signs_in(browser).status_code == 204
    before = page(browser)["set_at"]
    field, told = refused(changes(browser, FIRST, "short"))
    assert (field, "at least 12" in told) == ("fresh", True)
    assert changes(browser, FIRST, SECOND).status_code == 204
    assert opens(server, ilse, SECOND)
    assert not opens(server, ilse, FIRST)
    assert page(browser)["set_at"] >= before
    assert page(elsewhere) is None
    # The directory remembers, and says so.
    field, told = refused(changes(browser, SECOND, FIRST))
    assert (field, "you had it before" in told) == ("fresh", True)
    assert changes(browser, SECOND, THIRD).status_code == 204
    trail = installation.client.get("/api/trail").text
    assert "own password changed" in trail
    with installation.engine.connect() as connection:
        kept = str(connection.exec_driver_sql("SELECT * FROM own_sessions").all())
    for secret in (FIRST, SECOND, THIRD):
        assert secret not in trail + caplog.text + kept


@pytest.mark.parametrize("why", ["told to", "expired"])
def test_whom_the_directory_lets_in_no_more_comes_in_to_change(
    installation: Installation, link: Link, ilse: str, browser: TestClient, why: str
) -> None:
    if why == "told to":
        change(link, ilse, (ldap.MOD_REPLACE, "pwdLastSet", [b"0"]))
    else:
        long_ago = moment_from_datetime(datetime.now(UTC) - timedelta(days=43))
        installation.server.stop()
        installation.server.tell([("Ilse", [("pwdLastSet", str(long_ago))])])
        installation.server.start()
    assert not opens(installation.server, ilse, FIRST)
    assert signs_in(browser, WRONG).status_code == 403
    a_window_later(installation)
    assert signs_in(browser).status_code == 204
    found = page(browser)
    assert found["must_change"]
    assert found["ends_at"] is None
    assert changes(browser, FIRST, SECOND).status_code == 204
    assert not page(browser)["must_change"]


def test_a_lock_is_told_to_nobody_without_the_right_password(
    installation: Installation, server: DirectoryServer, ilse: str, browser: TestClient
) -> None:
    assert signs_in(browser).status_code == 204
    for _ in range(4):
        assert not opens(server, ilse, WRONG)
    found = page(browser)
    assert found["lock"]["until"], "whoever had signed in before sees the lock"
    another = TestClient(create_app(installation.engine))
    told = {
        signs_in(another, secret, name).text
        for secret, name in ((FIRST, "ilse"), (WRONG, "ilse"), (WRONG, "nobody"))
    }
    assert len(told) == 1
    assert refused(changes(browser, FIRST, SECOND))[0] == "present"


def test_what_is_switched_off_is_told(
    installation: Installation, link: Link, ilse: str, browser: TestClient
) -> None:
    assert signs_in(browser).status_code == 204
    change(link, ilse, (ldap.MOD_REPLACE, "userAccountControl", [b"514"]))
    told = signs_in(TestClient(create_app(installation.engine)))
    assert (told.status_code, "disabled" in told.text) == (403, True)
    assert "disabled" not in signs_in(browser, WRONG).text
    installation.connect(own_page=False)
    assert TestClient(create_app(installation.engine)).get("/api/you").json()["domains"] == []
    again = TestClient(create_app(installation.engine), cookies=dict(browser.cookies))
    assert page(again) is None
    off = signs_in(again)
    assert (off.status_code, "switched off" in off.text) == (404, True)


def test_a_directory_that_is_away_loses_nothing(
    installation: Installation, server: DirectoryServer, ilse: str, browser: TestClient
) -> None:
    assert ilse
    assert signs_in(browser).status_code == 204
    server.stop()
    away = browser.get("/api/you")
    assert (away.status_code, "does not answer" in away.text) == (409, True)
    assert "dc1" not in away.text
    gone = changes(browser, FIRST, SECOND)
    assert (gone.status_code, "nothing is known to be changed" in gone.text) == (409, True)
    server.start()
    # Nor is it told where this machine keeps what.
    kept = installation.secrets / "tarnholt"
    kept.chmod(0o644)
    unread = browser.get("/api/you")
    assert (unread.status_code, str(kept) in unread.text) == (409, False)
    kept.chmod(0o600)
    assert changes(browser, FIRST, SECOND).status_code == 204
    assert installation.client.get(PLACE).json()["connected"]
