"""A policy rehearsed on an account that is made for it, and goes whatever happens."""

from __future__ import annotations

import os
import signal
from typing import Any

import ldap
import pytest

from api_help import work_off
from directory_server import BASE, PEOPLE, REALM, account, change, group, policy
from hornfels.directory import rehearsing
from hornfels.directory.link import Link
from hornfels.directory.rehearsing import PREFIX, left_behind
from hornfels.store import stages
from hornfels.store.database import connect
from installation import DOMAIN, PLACE, Installation

WRITER = {"name": f"Administrator@{REALM}", "secret": "tarnholt"}
LINKS = "msDS-PSOAppliesTo"


@pytest.fixture
def night(installation: Installation, link: Link) -> str:
    """A policy of 14 characters and three tries, and the directory read: its GUID."""
    crew = group(link, "GS-Crew", [account(link, f"p{number}") for number in range(10)])
    given = {"msDS_MinimumPasswordLength": "14", "msDS_PasswordComplexityEnabled": "TRUE"}
    policy(link, "Night", 30, [crew], **given)
    installation.connect(writer=WRITER, stage=PEOPLE)
    installation.read()
    return str(installation.estate().policies[0].guid)


def rehearse(installation: Installation, policy: str, **wanted: Any) -> Any:
    return installation.client.post(f"{DOMAIN}/rehearsals", json={"policy": policy, **wanted})


def test_the_directory_says_of_candidates_and_stories_what_we_say(
    installation: Installation, link: Link, night: str
) -> None:
    before = {dn for dn, _ in link.search(BASE, "sub", "(objectClass=user)", ["cn"])}
    links = link.entry(f"CN=Night,CN=Password Settings Container,CN=System,{BASE}", [LINKS])
    answer = rehearse(
        installation,
        night,
        candidate="Perigee-2031-Dome",
        boundary_set=True,
        story="2 bad every 30 min; good; 3 bad; good; unlock; old; good",
    )
    assert answer.status_code == 200, answer.text
    found = answer.json()
    assert found["server"].startswith("dc1.")
    own, *drawn = found["tries"]
    assert (own["accepted"], own["ours"], own["text"]) == (True, True, "")
    assert {one["accepted"] for one in drawn} == {True, False}
    for one in drawn:
        # This server checks no own names: docs/rules.md.
        assert (one["accepted"] == one["ours"]) != bool(one["why"])
        assert one["why"] == "" or one["why"].startswith("Own names")
    outcomes = [one["outcome"] for one in found["played"]]
    assert outcomes == [one["ours"] for one in found["played"]]
    assert outcomes[-4:] == ["locked", "unlocked", "refused", "accepted"]
    assert {dn for dn, _ in link.search(BASE, "sub", "(objectClass=user)", ["cn"])} == before
    place = f"CN=Night,CN=Password Settings Container,CN=System,{BASE}"
    assert link.entry(place, [LINKS]) == links
    for wrong in ("Perigee-2031-Dome", "short"):
        trail = installation.client.get("/api/trail?words=rehearsed").text
        assert wrong not in trail
    assert rehearse(installation, night, candidate="short").json()["tries"][0]["accepted"] is False


def test_the_domain_policy_is_rehearsed_too(
    installation: Installation, link: Link, night: str
) -> None:
    assert night
    answer = rehearse(installation, "domain", boundary_set=True, story="12 bad; good").json()
    assert [one["outcome"] for one in answer["played"]] == ["refused"] * 12 + ["accepted"]
    # A policy that everybody has shuts the domain policy out.
    everybody = f"CN=Domain Users,CN=Users,{BASE}"
    policy(link, "All", 50, [everybody])
    refused = rehearse(installation, "domain", boundary_set=True)
    assert (refused.status_code, "instead" in refused.text) == (409, True)
    assert left_behind(link, PEOPLE) == []


def test_what_cannot_be_rehearsed_is_refused_in_words(
    installation: Installation, night: str
) -> None:
    draft = installation.client.post(f"{DOMAIN}/drafts", json={}).json()["id"]
    asked = {"policy": night, "boundary_set": True}
    in_draft = installation.client.post(f"{DOMAIN}~{draft}/rehearsals", json=asked)
    assert (in_draft.status_code, "Rehearse live" in in_draft.text) == (409, True)
    assert rehearse(installation, night).status_code == 422
    assert rehearse(installation, night, story="61 bad").status_code == 422
    assert rehearse(installation, "none", boundary_set=True).status_code == 422
    installation.connect(writer=WRITER, stage="")
    nowhere = rehearse(installation, night, boundary_set=True)
    assert (nowhere.status_code, "No container" in nowhere.text) == (409, True)
    for given, field in (
        ({"stage": "here"}, "stage"),
        ({"stage": PEOPLE, "writer": None}, "stage"),
    ):
        answer = installation.connect(**{"writer": WRITER, **given})
        assert [one["field"] for one in answer.json()["detail"]] == [field]
    installation.connect(writer=WRITER, stage=f"OU=None,{BASE}")
    gone = rehearse(installation, night, boundary_set=True)
    assert (gone.status_code, "no such object" in gone.text) == (409, True)


@pytest.mark.parametrize("way", ["rehearsal", "reading"])
def test_what_a_crash_leaves_behind_goes_with_the_next_one(
    installation: Installation, link: Link, night: str, way: str
) -> None:
    child = os.fork()
    if child == 0:
        try:
            _killed_on_stage(installation, night)
        finally:
            os._exit(1)
    assert os.waitstatus_to_exitcode(os.waitpid(child, 0)[1]) == -signal.SIGKILL
    ((name, dn),) = left_behind(link, PEOPLE)
    assert name.startswith(PREFIX)
    # One that somebody is at stays.
    with stages.holding(installation.engine, name):
        assert rehearse(installation, night, boundary_set=True).status_code == 200
        assert link.there(dn) is not None
    # And so does one that only is called so.
    other = account(link, f"{PREFIX}other")
    if way == "rehearsal":
        assert rehearse(installation, night, boundary_set=True).status_code == 200
    else:
        installation.client.post(f"{PLACE}/read", json={"whole": False})
        work_off(installation.engine)
    assert link.there(dn) is None
    assert link.there(other) is not None


def _killed_on_stage(installation: Installation, night: str) -> None:
    """Another process rehearses, and is killed when its account is there."""

    def killed(*_: object) -> str:
        os.kill(os.getpid(), signal.SIGKILL)
        return ""

    rehearsing.StandIn.set_password = killed  # type: ignore[method-assign,assignment]
    engine = connect(installation.engine.url.render_as_string(hide_password=False))
    from hornfels.service import rehearsing as service
    from hornfels.service.snapshots import Snapshots
    from hornfels.settings import read_settings
    from hornfels.store.trail import Origin

    current = Snapshots(engine).of(REALM)
    assert current
    wanted = service.Wanted(night, "x", boundary_set=False, story=None)
    service.rehearse(engine, current, wanted, read_settings(), Origin("ann"))


def test_a_server_that_goes_away_leaves_it_said(
    installation: Installation, link: Link, night: str
) -> None:
    assert link
    installation.server.stop()
    answer = rehearse(installation, night, boundary_set=True)
    assert (answer.status_code, "dc1." in answer.text) == (409, True)


def test_without_the_right_to_make_accounts_nothing_is_left(
    installation: Installation, link: Link, night: str
) -> None:
    dn = account(link, "writer")
    secret = '"Quiet-Harbour-19"'.encode("utf-16-le")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [secret]))
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    folder = installation.secrets
    (folder / "small").write_text("Quiet-Harbour-19")
    (folder / "small").chmod(0o600)
    installation.connect(writer={"name": f"writer@{REALM}", "secret": "small"}, stage=PEOPLE)
    answer = rehearse(installation, night, boundary_set=True)
    assert (answer.status_code, "may not do this" in answer.text) == (409, True)
    assert left_behind(link, PEOPLE) == []
