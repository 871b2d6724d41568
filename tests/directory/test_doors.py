"""Whoever is in a group that opens a door signs in with what they have in the directory."""

from __future__ import annotations

from typing import Any

import ldap
import pytest
from fastapi.testclient import TestClient
from sqlalchemy.orm import Session

from directory_server import BASE, PEOPLE, REALM, account, change, group, with_password
from hornfels.api.app import create_app
from hornfels.directory.link import Link
from hornfels.service.directory_binds import TURNED_AWAY
from hornfels.store import people
from installation import PLACE, Installation

SECRET, OTHER = "Quiet-Harbour-19", "Slow-Eclipse-2031"
NAME = f"ilse@{REALM}"
BOSSES, CREW = f"CN=GS-Bosses,{PEOPLE}", f"CN=GS-Crew,{PEOPLE}"
DOORS = [{"group": BOSSES, "role": "administrator"}, {"group": CREW, "role": "author"}]


@pytest.fixture
def ilse(installation: Installation, link: Link) -> str:
    """Somebody in a group in one that opens a door, and the directory read."""
    dn = with_password(link, "Ilse", SECRET)
    group(link, "GS-Crew", [group(link, "GS-Inner", [dn])])
    group(link, "GS-Bosses")
    for number in range(10):
        account(link, f"p{number}")
    installation.connect(doors=DOORS)
    installation.read()
    return dn


@pytest.fixture
def door(installation: Installation) -> TestClient:
    """Another browser, in which nobody has signed in."""
    return TestClient(create_app(installation.engine))


def signed_in(door: TestClient, name: str = NAME, secret: str = SECRET) -> Any:
    return door.post("/api/session", json={"name": name, "password": secret})


def rights(door: TestClient) -> set[str]:
    found = door.get("/api/domains").json()
    return set(found[0]["rights"]) if found else set()


def test_the_groups_say_what_somebody_may_do(
    installation: Installation, link: Link, ilse: str, door: TestClient
) -> None:
    assert signed_in(door, name=NAME.upper()).json()["name"] == NAME
    assert "draft" in rights(door)
    assert "settings" not in rights(door)
    assert door.get("/api/session").json()["directory"] == REALM
    change(link, BOSSES, (ldap.MOD_ADD, "member", [ilse.encode()]))
    change(link, CREW, (ldap.MOD_REPLACE, "member", []))
    assert "settings" not in rights(door), "what a session may do is what it began with"
    assert signed_in(door).status_code == 200
    assert "settings" in rights(door)
    assert door.post("/api/session/proof", json={"password": SECRET}).status_code == 204
    assert door.post("/api/session/proof", json={"password": OTHER}).status_code == 403
    change(link, BOSSES, (ldap.MOD_REPLACE, "member", []))
    refused = signed_in(door)
    assert refused.status_code == 403
    listed = installation.client.get("/api/people").json()["people"]
    assert {p["name"]: p["directory"] for p in listed} == {"ann": None, NAME: REALM}


def test_a_wrong_password_an_unknown_name_and_an_empty_one_are_answered_alike(
    ilse: str, door: TestClient
) -> None:
    assert ilse
    answers = {
        (answer.status_code, answer.json()["detail"])
        for answer in (
            signed_in(door, secret=OTHER),
            signed_in(door, secret=" "),
            signed_in(door, name=f"nobody@{REALM}"),
            signed_in(door, name=f"*@{REALM}"),
            signed_in(door, name=f"il*)(cn=*@{REALM}"),
        )
    }
    assert answers == {(403, TURNED_AWAY)}
    assert signed_in(door, secret="").status_code in (403, 422)


def test_a_name_that_is_given_again_opens_nothing(
    installation: Installation, link: Link, ilse: str, door: TestClient
) -> None:
    assert signed_in(door).status_code == 200
    link.do("", lambda library: library.delete_s(ilse))
    again = with_password(link, "ilse", OTHER)
    change(link, CREW, (ldap.MOD_ADD, "member", [again.encode()]))
    refused = signed_in(door, secret=OTHER)
    assert (refused.status_code, "another" in refused.json()["detail"]) == (403, True)
    assert installation.client.get("/api/people").status_code == 200


def test_whoever_has_a_password_here_under_such_a_name_uses_that(
    installation: Installation, ilse: str, door: TestClient
) -> None:
    assert ilse
    with Session(installation.engine) as session, session.begin():
        people.add(session, NAME, "correct horse battery")
    assert signed_in(door, secret=SECRET).status_code == 403
    assert signed_in(door, secret="correct horse battery").status_code == 200


def test_whoever_is_shut_out_here_stays_out(
    installation: Installation, ilse: str, door: TestClient
) -> None:
    assert ilse
    assert signed_in(door).status_code == 200
    body = {"what": "shut", "reason": "Left"}
    shut = installation.client.post(f"/api/people/{NAME}/sign-in", json=body)
    assert shut.status_code == 200, shut.text
    assert signed_in(door).status_code == 403


def test_a_directory_that_is_away_says_so_and_lets_others_in(
    installation: Installation, ilse: str, door: TestClient
) -> None:
    assert ilse
    installation.server.stop()
    answer = signed_in(door)
    assert (answer.status_code, "cannot be asked" in answer.text) == (409, True)
    assert signed_in(door, "ann", "correct horse").status_code == 200


def test_a_stranger_cannot_lock_an_account_at_the_sign_in_page(
    installation: Installation, link: Link, ilse: str, door: TestClient
) -> None:
    change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"5"]))
    installation.read()
    names = (NAME, NAME.upper(), f"x0\\{NAME}", f"x1\\{NAME}", f"SKY\\ILSE@{REALM}")
    for name in names * 3:
        assert signed_in(door, name, OTHER).status_code in (403, 429)
    found = link.entry(ilse, ["badPwdCount", "lockoutTime"])
    assert int(found["badpwdcount"][0]) == 3
    assert int(found.get("lockouttime", [b"0"])[0]) == 0


def test_a_password_of_an_account_without_a_group_is_shown_to_no_directory(
    link: Link, ilse: str, door: TestClient
) -> None:
    change(link, CREW, (ldap.MOD_REPLACE, "member", []))
    assert signed_in(door, secret=OTHER).status_code == 403
    assert int(link.entry(ilse, ["badPwdCount"]).get("badpwdcount", [b"0"])[0]) == 0


def test_tests_of_a_connection_cannot_lock_the_account_that_reads(
    installation: Installation, link: Link, ilse: str
) -> None:
    change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"4"]))
    installation.read()
    given = installation.connection(reader={"name": NAME, "secret": "tarnholt"})
    given["servers"] = given["servers"] * 3
    for _ in range(5):
        answer = installation.client.post(f"{PLACE}/test", json={"connection": given})
        assert answer.status_code == 200, answer.text
    assert "was tried" in answer.text or "were tried" in answer.text
    assert int(link.entry(ilse, ["badPwdCount"])["badpwdcount"][0]) == 2


def test_trying_a_connection_says_who_could_sign_in_and_rehearse(
    installation: Installation, ilse: str
) -> None:
    assert ilse
    nobody = f"CN=GS-Nobody,{PEOPLE}"
    doors = [*DOORS, {"group": nobody, "role": "viewer"}]
    writer = {"name": f"Administrator@{REALM}", "secret": "tarnholt"}
    told = []
    for stage in (PEOPLE, f"OU=None,{BASE}"):
        given = installation.connection(doors=doors, stage=stage, writer=writer)
        steps = installation.client.post(f"{PLACE}/test", json={"connection": given}).json()
        told += [(s["title"], s["state"]) for s in steps if s["title"].startswith(("Let", "Make"))]
    groups = [("Let a group sign in", state) for state in ("works", "works", "fails")]
    rehearsing = "Make accounts to rehearse with"
    assert told == [*groups, (rehearsing, "works"), *groups, (rehearsing, "fails")]


def test_a_door_has_to_be_a_group(installation: Installation) -> None:
    answer = installation.connect(doors=[{"group": "the crew", "role": "author"}])
    assert answer.status_code == 422
    assert [one["field"] for one in answer.json()["detail"]] == ["doors.0.group"]
    assert installation.client.get(PLACE).json()["connected"] is False
