"""Drafts that reuse names, find things already so, and stand beside one another; exports that say
what they leave out.
"""

from __future__ import annotations

import io
from dataclasses import replace
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from api_help import DOMAIN, DRAFT, edit, policy
from directory_model import Directory, holds
from hornfels.demo.tarnholt import entries
from hornfels.formats.dump import Dump, load_dump
from hornfels.formats.ldif import write
from hornfels.store.estates import remove_domain, save_dump
from hornfels.store.models import DomainRow
from persons import as_user

from conftest import DEMO_NOW  # isort: skip

WORKSHOP = "CN=GS-Workshop,OU=Groups,DC=sky,DC=tarnholt,DC=example"


def person(client: TestClient) -> str:
    answer: str = client.get(f"{DOMAIN}/accounts/ilse.varga").json()["dn"]
    return answer


def draft(client: TestClient, place: str = DRAFT) -> dict[str, Any]:
    answer: dict[str, Any] = client.get(f"{place}/draft").json()
    return answer


def act(client: TestClient, action: str, place: str = DRAFT) -> Any:
    return client.post(f"{place}/draft/{action}", json={"version": draft(client, place)["version"]})


def added(client: TestClient, name: str, place: str = DRAFT) -> dict[str, Any]:
    made = client.post(
        f"{place}/policies", json={"name": name, "precedence": 80, "links": [WORKSHOP]}
    )
    assert made.status_code == 201, made.json()
    answer: dict[str, Any] = made.json()
    return answer


def names(client: TestClient, place: str = DRAFT) -> set[str]:
    return {layer["name"] for layer in client.get(f"{place}/strata").json()["layers"]}


def exported(client: TestClient, place: str = DRAFT) -> bytes:
    return client.get(f"{place}/draft/changes.ldif").content


def directory() -> Directory:
    return Directory([(dn, list(values)) for dn, values in entries(DEMO_NOW)])


def test_a_name_that_is_freed_taken_and_its_first_holder_removed(client: TestClient) -> None:
    old = edit(client, policy(client, "Night operators"), name="old").json()
    added(client, "Night operators")
    lifted = edit(client, old, guarded=False).json()
    assert (
        client.delete(
            f"{DRAFT}/policies/{old['guid']}", params={"version": lifted["version"]}
        ).status_code
        == 204
    )
    assert (
        draft(client)["conflicts"],
        "old" in names(client),
        "Night operators" in names(client),
    ) == (0, False, True)
    after = directory()
    after.change(exported(client))
    made = next(p for p in after.read().estate.policies if p.name == "Night operators")
    assert made.precedence == 80
    assert act(client, "publish").status_code == 200


def test_a_new_policy_takes_the_name_that_another_gives_up(client: TestClient) -> None:
    made = added(client, "Interim")
    edit(client, policy(client, "Night operators"), name="old")
    assert edit(client, made, name="Night operators").status_code == 200
    assert draft(client)["conflicts"] == 0
    directory().change(exported(client))


def test_two_names_change_places_through_a_third(client: TestClient) -> None:
    for before, after in (
        ("Keyholders", "third"),
        ("Night operators", "Keyholders"),
        ("third", "Night operators"),
    ):
        assert edit(client, policy(client, before), name=after).status_code == 200
    assert [policy(client, name)["precedence"] for name in ("Keyholders", "Night operators")] == [
        30,
        5,
    ]
    changed = directory()
    changed.change(exported(client))
    assert {
        p.name: p.precedence for p in changed.read().estate.policies if p.precedence in (5, 30)
    }["Night operators"] == 5


@pytest.mark.parametrize("name", ["night  operators", "NIGHT OPERATORS"])
def test_a_name_that_a_directory_takes_for_another_is_refused(
    client: TestClient, name: str
) -> None:
    refused = client.post(f"{DRAFT}/policies", json={"name": name, "precedence": 80})
    assert refused.status_code == 422
    assert refused.json()["detail"][0]["message"].startswith(
        "There is already a policy named Night operators."
    )


def test_what_the_export_leaves_out_stands_at_its_top_and_in_the_answer(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), guarded=False, settings={"min_length": 16})
    client.post(
        f"{DRAFT}/draft/memberships",
        json={"member": person(client), "group": WORKSHOP, "join": True},
    )
    second = client.post(f"{DOMAIN}/drafts", json={"title": "Second"}).json()["id"]
    edit(
        client,
        policy(client, "Night operators", f"{DOMAIN}~{second}"),
        f"{DOMAIN}~{second}",
        settings={"min_length": 15},
    )
    assert act(client, "publish", f"{DOMAIN}~{second}").status_code == 200
    left = {one["what"].partition(":")[2].strip(): one["why"] for one in draft(client)["left_out"]}
    assert left["Minimum length, 14 characters → 16 characters"].startswith(
        "It does not fit: Night operators was changed meanwhile"
    )
    assert left["Guard against deletion, guarded → not guarded"].startswith(
        "The guard against deletion is an access rule"
    )
    assert any(what.startswith("What if it were in GS-Workshop?") for what in left)
    head = exported(client).decode().partition("version: 1")[0]
    assert f"NOT IN THIS FILE ({len(left)})" in head
    assert all(
        what.replace("→", "->").encode("ascii", "backslashreplace").decode() in head
        for what in left
    )
    assert "msDS-MinimumPasswordLength" not in exported(client).decode()


def test_what_the_directory_has_taken_up_is_already_so_and_the_draft_closes(
    client: TestClient, engine: Engine, demo_ldif: bytes
) -> None:
    edit(client, policy(client, "Night operators"), name="Late shift", settings={"min_length": 16})
    added(client, "Night operators")
    shown = client.get(f"{DRAFT}/strata").json()["layers"]
    after = directory()
    after.change(exported(client))
    loaded = b"".join(write(after.objects.values()))
    assert holds(load_dump(io.BytesIO(loaded)).estate) == holds(after.read().estate)
    with Session(engine) as session, session.begin():
        save_dump(session, load_dump(io.BytesIO(loaded)), "again.ldif", "tester")
    gone = client.get(f"{DRAFT}/draft")
    assert (
        gone.status_code,
        "closed: the directory holds all of it already" in gone.json()["detail"],
    ) == (404, True)
    kept = [
        {key: la[key] for key in ("name", "precedence", "settings", "governed")}
        for la in client.get(f"{DOMAIN}/strata").json()["layers"]
    ]
    assert kept == [
        {key: la[key] for key in ("name", "precedence", "settings", "governed")} for la in shown
    ]
    assert (
        "was closed: all of it was there already"
        in client.get(f"{DOMAIN}/history").json()[0]["reason"]
    )
    assert load_dump(io.BytesIO(demo_ldif)).estate.policies


def test_what_another_draft_has_published_already_is_left_as_it_is(client: TestClient) -> None:
    edit(client, policy(client, "Night operators"), settings={"min_length": 16})
    second = f"{DOMAIN}~{client.post(f'{DOMAIN}/drafts', json={'title': 'Second'}).json()['id']}"
    edit(
        client,
        policy(client, "Night operators", second),
        second,
        settings={"min_length": 16, "history_length": 12},
    )
    assert act(client, "close").status_code == 409
    assert act(client, "publish").status_code == 200
    seen = draft(client, second)
    assert (seen["conflicts"], seen["already"], seen["all_there"]) == (0, 1, False)
    assert [c["already"] for g in seen["groups"] for c in g["changes"]] == [True, False]
    assert act(client, "publish", second).status_code == 200
    assert policy(client, "Night operators", DOMAIN)["settings"]["history_length"] == 12
    latest = client.get(f"{DOMAIN}/history").json()[0]["id"]
    undone = client.post(f"{DOMAIN}/history/{latest}/undo").json()["id"]
    assert act(client, "publish", f"{DOMAIN}~{undone}").status_code == 200


def test_a_draft_of_which_nothing_is_left_is_closed_by_hand(client: TestClient) -> None:
    second = f"{DOMAIN}~{client.post(f'{DOMAIN}/drafts', json={'title': 'Second'}).json()['id']}"
    for place in (DRAFT, second):
        edit(client, policy(client, "Night operators", place), place, settings={"min_length": 16})
    assert act(client, "publish").status_code == 200
    assert draft(client, second)["all_there"] is True
    assert "Close the draft" in act(client, "publish", second).json()["detail"]
    assert act(client, "close", second).status_code == 204
    assert client.get(f"{second}/draft").status_code == 404


def test_two_tabs_share_one_draft_and_no_two_open_drafts_one_name(client: TestClient) -> None:
    again = client.post(f"{DOMAIN}/drafts", json={"title": ""}).json()
    assert again["id"] == 1
    as_user(client, "ben")
    bens = client.post(f"{DOMAIN}/drafts", json={}).json()
    assert (bens["id"], bens["title"]) == (2, f"{again['title']} (2)")
    assert client.post(f"{DOMAIN}/drafts", json={}).json()["id"] == 2
    refused = client.post(f"{DOMAIN}/drafts", json={"title": again["title"].upper()})
    assert (refused.status_code, refused.json()["detail"]) == (
        409,
        (
            f"ann has an open draft named “{again['title']}” already. Open that one, or choose "
            "another name."
        ),
    )
    taken = client.patch(
        f"{DOMAIN}~2/draft", json={"version": 1, "title": again["title"], "reason": ""}
    )
    assert taken.status_code == 409


def test_a_write_says_from_which_version_to_which_it_took_the_draft(client: TestClient) -> None:
    first = edit(client, policy(client, "Night operators"), settings={"min_length": 16})
    assert first.headers["Draft-Moved"] == "1 2"
    assert edit(client, first.json(), settings={"min_length": 16}).headers["Draft-Moved"] == "2 2"
    assert client.post(f"{DRAFT}/draft/undo", json={"version": 2}).headers["Draft-Moved"] == "2 3"


def test_a_what_if_that_names_a_person_as_the_group_says_so(client: TestClient) -> None:
    refused = client.post(
        f"{DRAFT}/draft/memberships",
        json={"member": WORKSHOP, "group": person(client), "join": True},
    )
    assert (
        refused.json()["detail"][0]["message"]
        == "“Ilse Varga” is an account, and only a group can hold somebody. Choose a group."
    )


def test_policies_without_a_guid_can_be_loaded(
    client: TestClient, engine: Engine, demo: Dump
) -> None:
    bare = [
        (dn, [pair for pair in values if pair[0] != "objectGUID"])
        for dn, values in entries(DEMO_NOW)
    ]
    dump = load_dump(io.BytesIO(b"".join(write(bare))))
    with Session(engine) as session, session.begin():
        save_dump(session, dump, "bare.ldif", "tester")
    info = client.get("/api/domains").json()[0]
    assert info["policies"] == len(demo.estate.policies)
    assert any("has no objectGUID" in notice for notice in info["notices"])


def test_a_domain_that_is_taken_out_and_loaded_anew_is_the_new_one(
    client: TestClient, engine: Engine, demo: Dump
) -> None:
    """Its row counts from the beginning again; nothing that was kept of the old one is shown."""
    assert len(client.get(f"{DOMAIN}/strata").json()["layers"]) == 8
    with Session(engine) as session, session.begin():
        remove_domain(session, session.query(DomainRow).one())
    with Session(engine) as session, session.begin():
        fewer = replace(demo.estate, policies=(), links=())
        save_dump(session, Dump(fewer, (), 0), "anew", "ann")
    assert client.get(f"{DOMAIN}/strata").json()["layers"] == []
