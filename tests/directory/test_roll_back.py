"""A publication that stopped after a removal is rolled back, finished after all, or closed."""

from __future__ import annotations

import signal
from itertools import cycle, islice
from uuid import UUID

import pytest
from sqlalchemy.orm import Session

from api_help import work_off
from directory_drafts import read, shown
from directory_publishing import (
    LONGER,
    MOMENTS,
    STEPS,
    drafted,
    gone_on,
    guarded_removal,
    name_taken_over,
    published,
    published_whole,
    set_length,
    state_of,
    stopped,
    under_way,
)
from directory_server import policy
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.directory.link import Link
from hornfels.store.models import JobRow
from installation import DOMAIN, Installation
from killed import killed_at

CASES = pytest.mark.parametrize("case", [guarded_removal, name_taken_over])


@CASES
@pytest.mark.parametrize("wavers", [False, True], ids=["back", "back, forth and back"])
def test_a_removal_is_rolled_back_whole(
    installation: Installation, link: Link, three: Estate, case: object, wavers: bool
) -> None:
    assert callable(case)
    draft = stopped(installation, link, case(three))
    for back in (True, False, True) if wavers else (True,):
        # Stopped at the domain policy once more, or rolled back as far as that goes.
        assert gone_on(installation, back=back) == 202
        work_off(installation.engine)
        if under_way(installation) is None:
            break
    assert under_way(installation) is None
    assert state_of(installation, draft) == "open"
    set_length(link, 7)
    assert shown(read(link), guards=True) == shown(three, guards=True)
    # The domain goes on: the policy that was made anew is the policy that was there.
    installation.read(losing=True)
    assert shown(installation.estate(), guards=True) == shown(three, guards=True)
    published_whole(installation, draft)
    assert state_of(installation, draft) == "published"
    wanted = apply(three, case(three)).estate
    assert shown(read(link)) == shown(wanted)


@CASES
def test_a_killed_roll_back_goes_either_way(
    installation: Installation, link: Link, three: Estate, case: object
) -> None:
    assert callable(case)
    stopped(installation, link, case(three))
    assert gone_on(installation, back=True) == 202
    for name in islice(cycle(MOMENTS), 30):
        job = UUID(under_way(installation)["job"]["id"])
        ended = killed_at(installation.engine, job, MOMENTS[name], STEPS)
        if ended == 0:
            break
        assert ended == -signal.SIGKILL
        with Session(installation.engine) as session, session.begin():
            session.get_one(JobRow, job).taken = 0
    assert under_way(installation) is None
    set_length(link, 7)
    assert shown(read(link), guards=True) == shown(three, guards=True)


@pytest.mark.parametrize("moment", ["begun", "sent", "done"])
@pytest.mark.parametrize("step", range(1, 4))
def test_a_roll_back_that_was_killed_is_finished_forward(
    installation: Installation, link: Link, three: Estate, moment: str, step: int
) -> None:
    draft = stopped(installation, link, name_taken_over(three))
    assert gone_on(installation, back=True) == 202
    job = UUID(under_way(installation)["job"]["id"])
    times = iter(range(1, step + 1))

    def at(seen: list[str]) -> bool:
        return MOMENTS[moment](seen) and next(times, 0) == step

    ended = killed_at(installation.engine, job, at, STEPS)
    assert ended == -signal.SIGKILL
    installation.client.post(f"/api/jobs/{job}/cancel")
    with Session(installation.engine) as session, session.begin():
        row = session.get_one(JobRow, job)
        row.state, row.error = "failed", "killed"
    set_length(link, 7)
    assert gone_on(installation, back=False) == 202
    work_off(installation.engine)
    assert under_way(installation) is None
    assert state_of(installation, draft) == "published"
    assert shown(read(link)) == shown(apply(three, name_taken_over(three)).estate)


def test_what_can_go_neither_way_is_closed_as_it_is(
    installation: Installation, link: Link, three: Estate
) -> None:
    draft = stopped(installation, link, guarded_removal(three))
    # Somebody makes another policy of that name.
    policy(link, "P1", 77)
    assert gone_on(installation, back=True) == 202
    work_off(installation.engine)
    assert "is not this one" in under_way(installation)["told"]
    client = installation.client
    assert client.post(f"{DOMAIN}/publication/close", json={"reason": " "}).status_code == 422
    answer = client.post(f"{DOMAIN}/publication/close", json={"reason": "P1 is another one"})
    assert answer.status_code == 200, answer.text
    assert under_way(installation) is None
    assert state_of(installation, draft) == "open"
    assert client.post(f"{DOMAIN}/publication/close", json={"reason": "again"}).status_code == 404
    (point,) = [p for p in client.get(f"{DOMAIN}/history").json() if p["kind"] == "closed"]
    assert (point["author"], point["reason"]) == ("ann", "P1 is another one")
    lifted, removed, length = point["effect"]
    assert lifted.endswith("guarded → not guarded: the policy was deleted.")
    assert removed.startswith("P1: Policy removed")
    assert removed.endswith("the directory holds the change.")
    assert "minimum length is 9 characters" in length
    work_off(installation.engine)
    # The sync that follows asks about what is weaker, and blocks nothing.
    assert client.get(f"/api/jobs/{answer.json()['job']['id']}").json()["state"] == "held"
    set_length(link, 7)
    installation.read(losing=True)
    assert shown(installation.estate()) == shown(read(link))
    other = drafted(installation, (LONGER,))
    published_whole(installation, other)
    assert state_of(installation, other) == "published"


def test_closing_says_what_the_directory_holds_of_a_policy_that_is_deleted(
    installation: Installation, link: Link, three: Estate
) -> None:
    stopped(installation, link, name_taken_over(three))
    answer = installation.client.post(f"{DOMAIN}/publication/close", json={"reason": "enough"})
    assert answer.status_code == 200, answer.text
    history = installation.client.get(f"{DOMAIN}/history").json()
    aside, renamed, removed, length = next(p["effect"] for p in history if p["kind"] == "closed")
    assert aside.endswith("the policy was deleted.")
    assert renamed.endswith("the directory holds the change.")
    assert removed.endswith("the directory holds the change.")
    assert "minimum length is 9 characters" in length


def test_closing_waits_for_no_directory(
    installation: Installation, link: Link, three: Estate
) -> None:
    draft = drafted(installation, guarded_removal(three))
    set_length(link, 9)
    published(installation, draft)
    refused = installation.client.post(f"{DOMAIN}/publication/close", json={"reason": "hurry"})
    assert refused.status_code == 409, "it goes on"
    work_off(installation.engine)
    installation.server.stop()
    answer = installation.client.post(f"{DOMAIN}/publication/close", json={"reason": "gone"})
    assert answer.status_code == 200, answer.text
    history = installation.client.get(f"{DOMAIN}/history").json()
    effect = next(p["effect"] for p in history if p["kind"] == "closed")
    assert all(": not known. " in line for line in effect)
    assert state_of(installation, draft) == "open"


def test_a_killed_and_then_stopped_publication_says_how_far_it_is(
    installation: Installation, three: Estate
) -> None:
    job = published(installation, drafted(installation, name_taken_over(three)))
    killed = killed_at(
        installation.engine, UUID(job["id"]), lambda seen: seen.count("done") == 2, STEPS
    )
    assert killed == -signal.SIGKILL
    with Session(installation.engine) as session, session.begin():
        # As the supervisor does when a worker is gone.
        session.get_one(JobRow, UUID(job["id"])).state = "queued"
    assert installation.client.post(f"/api/jobs/{job['id']}/cancel").status_code == 200
    found = under_way(installation)
    assert found["state"] == "stopped"
    assert found["told"] == "The publication was stopped when 2 of 4 steps were done."
