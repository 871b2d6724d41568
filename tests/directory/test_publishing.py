"""A draft goes live through the directory: all of it, step by step, whatever happens on the way."""

from __future__ import annotations

import signal
from uuid import UUID, uuid4

import ldap
import pytest
from sqlalchemy.orm import Session

from api_help import work_off
from directory_drafts import read, shown
from directory_publishing import (
    MOMENTS,
    STEPS,
    WRITER,
    drafted,
    gone_on,
    guid_of,
    published,
    published_whole,
    state_of,
    under_way,
)
from directory_server import BASE, account, change, group, policy
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.approval import draft_text
from hornfels.core.drafts.edits import removal
from hornfels.core.drafts.operations import (
    AddPolicy,
    Change,
    EditSettings,
    Operations,
    RenamePolicy,
    SetPrecedence,
    Target,
)
from hornfels.core.policy.model import DEFAULTS
from hornfels.directory import writing
from hornfels.directory.link import Link
from hornfels.formats.writes import Rename
from hornfels.store import drafts
from hornfels.store.models import DraftRow, JobRow
from installation import DOMAIN, PLACE, Installation
from killed import killed_at


@pytest.fixture
def crew(installation: Installation, link: Link) -> str:
    """Some accounts, a group of them and two policies, read into Hornfels, which may write too."""
    names = [account(link, f"p{number}") for number in range(10)]
    found = group(link, "GS-Crew", names)
    policy(link, "Night", 30, [found])
    policy(link, "Old", 40, [names[0]])
    installation.connect(writer=WRITER)
    assert installation.read()["job"]["state"] == "done"
    return found


def some_of_everything(estate: Estate, crew: str) -> Operations:
    """A draft with every kind of write."""
    night = guid_of(estate, "Night")
    length = Change(before=12, after=16)
    late = AddPolicy(
        policy=uuid4(), name="Late", precedence=5, settings=DEFAULTS, links=(Target(dn=crew),)
    )
    return (
        removal(estate, guid_of(estate, "Old")),
        late,
        RenamePolicy(policy=night, before="Night", after="Night watch"),
        SetPrecedence(policy=night, before=30, after=33),
        EditSettings(policy=night, changes={"min_length": length}),
        EditSettings(policy="domain", changes={"lockout_threshold": Change(before=0, after=9)}),
    )


def draft_of_everything(installation: Installation, crew: str) -> tuple[Estate, int]:
    """Begin a draft with every kind of write, and return the estate as it was."""
    estate = installation.estate()
    return estate, drafted(installation, some_of_everything(estate, crew))


def approved(installation: Installation, draft: int) -> None:
    """Approve a draft as a second person would."""
    live = installation.estate()
    with Session(installation.engine) as session, session.begin():
        row = session.get_one(DraftRow, draft)
        drafts.approve(session, row, "ben", draft_text(live, drafts.operations_of(row)))


def test_a_draft_is_written_and_then_live_here_too(
    installation: Installation, link: Link, crew: str
) -> None:
    estate = installation.estate()
    operations = some_of_everything(estate, crew)
    wanted = apply(estate, operations).estate
    draft = drafted(installation, operations)
    preview = installation.client.get(f"{DOMAIN}~{draft}/draft/preview").json()
    assert (preview["problem"], preview["astray"]) == ("", 0)
    assert preview["server"].startswith("dc1.")
    assert not any(step["problem"] or step["done"] for step in preview["steps"])
    assert preview["steps"][-1]["ldif"][2:4] == ["delete: lockoutThreshold", "lockoutThreshold: 0"]
    assert shown(read(link)) == shown(estate)
    assert published(installation, draft)["state"] == "queued"
    assert under_way(installation)["state"] == "going"
    # Meanwhile the draft is nobody's to change, and nothing else is written or read.
    assert installation.client.get(f"{DOMAIN}~{draft}/draft").status_code == 404
    assert installation.client.post(f"{PLACE}/read", json={"whole": False}).status_code == 409
    work_off(installation.engine)
    assert under_way(installation) is None
    assert shown(read(link), guards=True) == shown(wanted, guards=True)
    assert shown(installation.estate(), guards=True) == shown(wanted, guards=True)
    held = {p.name: p.guid for p in installation.estate().policies}
    assert held == {p.name: p.guid for p in read(link).policies}
    assert state_of(installation, draft) == "published"
    history = installation.client.get(f"{DOMAIN}/history").json()
    assert [point["kind"] for point in history] == ["loaded", "published", "loaded"]
    assert installation.client.get(PLACE).json()["reading"]["news"] == []


@pytest.mark.usefixtures("crew")
def test_a_preview_knows_what_was_renamed_in_the_directory_already(
    installation: Installation, link: Link
) -> None:
    estate = installation.estate()
    night = next(p for p in estate.policies if p.name == "Night")
    operations = (
        RenamePolicy(policy=night.guid, before="Night", after="Night watch"),
        SetPrecedence(policy=night.guid, before=30, after=33),
    )
    draft = drafted(installation, operations)
    fresh = night.dn.replace("CN=Night,", "CN=Night watch,")
    writing.carry_out(link, Rename(night.dn, fresh))
    preview = installation.client.get(f"{DOMAIN}~{draft}/draft/preview").json()
    assert [(step["done"], step["problem"]) for step in preview["steps"]] == [
        (True, ""),
        (False, ""),
    ]


def test_where_publishing_gives_files_nothing_is_written(
    installation: Installation, link: Link, crew: str
) -> None:
    estate, draft = draft_of_everything(installation, crew)
    # Whoever writes may only unlock, say.
    assert installation.connect(writer=WRITER, publishes=False).status_code == 200
    assert installation.client.get(f"{DOMAIN}~{draft}/draft/preview").json()["server"] == ""
    answer = installation.client.post(f"{DOMAIN}~{draft}/draft/publish", json={"version": 1})
    assert answer.json()["job"] is None
    assert state_of(installation, draft) == "published"
    assert shown(read(link)) == shown(estate) != shown(installation.estate())


def test_what_history_takes_back_is_taken_back_in_the_directory(
    installation: Installation, link: Link, crew: str
) -> None:
    estate, draft = draft_of_everything(installation, crew)
    published_whole(installation, draft)
    point = next(
        one
        for one in installation.client.get(f"{DOMAIN}/history").json()
        if one["kind"] == "published"
    )
    made = installation.client.post(f"{DOMAIN}/history/{point['id']}/undo").json()
    published_whole(installation, made["id"])
    assert under_way(installation) is None
    assert shown(read(link), guards=True) == shown(estate, guards=True)


def test_a_change_behind_our_back_stops_it_and_it_is_finished_or_taken_back(
    installation: Installation, link: Link, crew: str
) -> None:
    estate, draft = draft_of_everything(installation, crew)
    approved(installation, draft)
    change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"4"]))
    preview = installation.client.get(f"{DOMAIN}~{draft}/draft/preview").json()
    differs = "lockout threshold is 4 bad tries, and not never locks"
    assert differs in preview["steps"][-1]["problem"]
    job = published(installation, draft)
    work_off(installation.engine)
    assert installation.client.get(f"/api/jobs/{job['id']}").json()["state"] == "failed"
    found = under_way(installation)
    assert (found["state"], found["title"]) == ("stopped", "Autumn")
    assert differs in found["told"]
    assert [step["state"] for step in found["steps"]][-2:] == ["done", "waiting"]
    assert installation.estate().policies == estate.policies, "nothing is live here before all is"
    other = drafted(installation, ())
    refused = installation.client.post(f"{DOMAIN}~{other}/draft/publish", json={"version": 1})
    assert refused.status_code == 409
    assert gone_on(installation, back=True) == 202
    work_off(installation.engine)
    assert under_way(installation) is None
    change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"0"]))
    assert shown(read(link), guards=True) == shown(estate, guards=True)
    assert state_of(installation, draft) == "open"
    ended = installation.client.get(f"{DOMAIN}~{draft}/draft").json()
    assert (ended["approved_by"], "rolled back" in ended["approval_ended"]) == (None, True)
    # The one that was removed has come back, and the draft that removes it still fits.
    installation.read(losing=True)
    published_whole(installation, draft)
    assert state_of(installation, draft) == "published"


def test_a_server_that_is_away_is_waited_for(installation: Installation, crew: str) -> None:
    estate = installation.estate()
    operations = some_of_everything(estate, crew)
    draft = drafted(installation, operations)
    installation.server.stop()
    preview = installation.client.get(f"{DOMAIN}~{draft}/draft/preview").json()
    assert "dc1." in preview["problem"]
    published_whole(installation, draft)
    found = under_way(installation)
    assert found["state"] == "stopped"
    assert {step["state"] for step in found["steps"]} == {"waiting"}
    installation.server.start()
    assert (
        installation.client.post(f"{DOMAIN}/publication", json={"back": False}).status_code == 202
    )
    work_off(installation.engine)
    with installation.server.administrator() as again:
        assert shown(read(again)) == shown(apply(estate, operations).estate)


def test_what_was_stopped_before_it_began_waits_to_be_gone_on_with(
    installation: Installation, crew: str
) -> None:
    draft = drafted(installation, some_of_everything(installation.estate(), crew))
    job = published(installation, draft)
    assert installation.client.post(f"/api/jobs/{job['id']}/cancel").status_code == 200
    assert under_way(installation)["state"] == "stopped"
    assert gone_on(installation, back=True) == 202
    assert gone_on(installation, back=True) == 409
    work_off(installation.engine)
    assert (under_way(installation), state_of(installation, draft)) == (None, "open")
    assert gone_on(installation, back=True) == 404


@pytest.mark.parametrize("back", [False, True], ids=["forward", "back"])
def test_whoever_is_killed_at_any_step_is_gone_on_with(
    installation: Installation, link: Link, crew: str, back: bool
) -> None:
    estate = installation.estate()
    operations = some_of_everything(estate, crew)
    wanted = apply(estate, operations).estate
    draft = drafted(installation, operations)
    if back:
        change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"4"]))
    job = published(installation, draft)["id"]
    if back:
        work_off(installation.engine)
        change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"0"]))
        answer = installation.client.post(f"{DOMAIN}/publication", json={"back": True})
        job, wanted = answer.json()["id"], estate
    killed = 0
    while True:
        for name in ("begun", "sent", "done"):
            ended = killed_at(installation.engine, UUID(job), MOMENTS[name], STEPS)
            killed += ended == -signal.SIGKILL
        if ended == 0:
            break
        with Session(installation.engine) as session, session.begin():
            # Whoever is killed that often would be given up.
            session.get_one(JobRow, UUID(job)).taken = 0
    assert killed >= 15
    work_off(installation.engine)
    assert under_way(installation) is None
    assert state_of(installation, draft) == ("open" if back else "published")
    assert shown(read(link), guards=True) == shown(wanted, guards=True)
    assert shown(installation.estate(), guards=True) == shown(wanted, guards=True)
