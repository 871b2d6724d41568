"""A roll-back during which the database, two workers or a right of the writer go away."""

from __future__ import annotations

import signal
from collections.abc import Iterator
from pathlib import Path
from uuid import UUID

import ldap
import pytest
from sqlalchemy import Engine

from api_help import work_off
from directory_drafts import read, shown
from directory_publishing import (
    MOMENTS,
    STEPS,
    drafted,
    gone_on,
    name_taken_over,
    published,
    set_length,
    state_of,
    stopped,
    under_way,
)
from directory_server import BASE, PASSWORD, change, with_password
from hornfels.core.domain.estate import Estate
from hornfels.directory.link import Link
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from installation import DOMAIN, Installation
from killed import ended, killed_at, until


class TestDatabase:
    @pytest.fixture
    def own(self, home: Path) -> Iterator[Cluster]:
        cluster = Cluster(home / "mortal", {"fsync": "off"})
        with cluster.running():
            cluster.migrate()
            yield cluster

    @pytest.fixture
    def engine(self, own: Cluster) -> Iterator[Engine]:
        engine = connect(lambda: own.url)
        yield engine
        engine.dispose()

    @pytest.mark.thorough
    def test_a_database_killed_during_a_roll_back_changes_nothing_that_is_rolled_back(
        self, own: Cluster, installation: Installation, link: Link, three: Estate
    ) -> None:
        draft = stopped(installation, link, name_taken_over(three))
        assert gone_on(installation, back=True) == 202
        job = UUID(under_way(installation)["job"]["id"])
        for name in MOMENTS:
            postmaster = int((own.data / "postmaster.pid").read_text().split()[0])
            # The engine of the child is made for the port of now.
            here = connect(own.url)
            assert killed_at(here, job, MOMENTS[name], STEPS, victim=postmaster) == 1
            here.dispose()
            own.start()
        work_off(installation.engine)
        assert under_way(installation) is None
        assert state_of(installation, draft) == "open"
        set_length(link, 7)
        assert shown(read(link), guards=True) == shown(three, guards=True)


@pytest.mark.parametrize("back", [True, False], ids=["back", "forth"])
def test_two_workers_of_one_publication_are_killed_at_once(
    installation: Installation, link: Link, three: Estate, *, back: bool
) -> None:
    draft = stopped(installation, link, name_taken_over(three))
    set_length(link, 7)
    assert gone_on(installation, back=back) == 202
    job = UUID(under_way(installation)["job"]["id"])
    kills = 0
    for names in (("begun", "sent"), ("sent", "sent"), ("done", "begun")):
        pair = [until(installation.engine, job, MOMENTS[name], STEPS) for name in names]
        kills += [ended(child) for child in pair].count(-signal.SIGKILL)
    assert kills >= 2
    work_off(installation.engine)
    assert under_way(installation) is None
    assert state_of(installation, draft) == ("open" if back else "published")
    if back:
        assert shown(read(link), guards=True) == shown(three, guards=True)


@pytest.mark.parametrize("ends", ["rolled back", "closed"])
def test_a_writer_that_loses_a_right_on_the_way_is_named(
    installation: Installation, link: Link, three: Estate, ends: str
) -> None:
    """What the writer cannot see any more is neither deleted nor changed."""
    writer = with_password(link, "writer", PASSWORD)
    admins = f"CN=Domain Admins,CN=Users,{BASE}"
    member = [writer.encode()]
    change(link, admins, (ldap.MOD_ADD, "member", member))
    installation.connect(writer={"name": "writer@SKY.TARNHOLT.EXAMPLE", "secret": "tarnholt"})
    draft = drafted(installation, name_taken_over(three))
    job = UUID(published(installation, draft)["id"])
    halfway = killed_at(installation.engine, job, lambda seen: seen.count("done") == 2, STEPS)
    assert halfway == -signal.SIGKILL
    change(link, admins, (ldap.MOD_DELETE, "member", member))
    work_off(installation.engine)
    for back in (True, False):
        found = under_way(installation)
        assert found["state"] == "stopped"
        assert "or the account has lost the right to read" in found["told"]
        assert gone_on(installation, back=back) == 202
        work_off(installation.engine)
    if ends == "closed":
        # The account that reads looks, for the account that writes cannot.
        client = installation.client
        answer = client.post(f"{DOMAIN}/publication/close", json={"reason": "The writer left"})
        assert answer.status_code == 200, answer.text
        effect = next(p["effect"] for p in client.get(f"{DOMAIN}/history").json() if p["effect"])
        assert [line.rpartition(": ")[2] for line in effect] == [
            "the directory holds the change.",
            "the directory holds the change.",
            "the directory does not hold the change.",
            "the directory does not hold the change.",
        ]
        assert under_way(installation) is None
        return
    change(link, admins, (ldap.MOD_ADD, "member", member))
    assert gone_on(installation, back=True) == 202
    work_off(installation.engine)
    assert under_way(installation) is None
    assert state_of(installation, draft) == "open"
    assert shown(read(link), guards=True) == shown(three, guards=True)
    assert installation.client.get(f"{DOMAIN}/strata").status_code == 200
