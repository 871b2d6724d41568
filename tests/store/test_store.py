"""Estates, policies and people in the real database."""

from __future__ import annotations

import contextlib
import os
import signal
from dataclasses import asdict, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import UUID

import numpy as np
import psycopg
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import Engine, func, select, text, update
from sqlalchemy.orm import Session

from drafting import drawn, picture
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.approval import draft_text
from hornfels.core.drafts.edits import edits
from hornfels.core.drafts.operations import (
    AddPolicy,
    GuardPolicy,
    Operations,
    SetPrecedence,
    inverse,
    published,
)
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.resolution.engine import resolve
from hornfels.formats.dump import Dump
from hornfels.refusals import ChangedMeanwhileError, ConflictError, NotFoundError
from hornfels.store import drafts, history, people, sessions
from hornfels.store.bulk import copy_in, copy_out, pairs_out
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.estates import load_estate, save_dump, successors_of
from hornfels.store.models import AccountRow, DomainRow, DraftRow, PolicyRow, SessionRow
from hornfels.store.postgresql import ClusterError
from worlds import World, read, worlds


def stored(engine: Engine, dump: Dump) -> str:
    with Session(engine) as session, session.begin():
        return save_dump(session, dump, "test.ldif", "tester").dns_name


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(world=worlds())
def test_an_estate_comes_back_as_it_was(engine: Engine, world: World) -> None:
    dump = read(world)
    name = stored(engine, dump)
    with Session(engine) as session:
        back = load_estate(
            session, session.scalars(select(DomainRow).where(DomainRow.dns_name == name)).one()
        )
    one, other = resolve(dump.estate), resolve(back)
    assert (one.stacks, one.winners.tolist(), one.population.tolist()) == (
        other.stacks,
        other.winners.tolist(),
        other.population.tolist(),
    )
    assert back.domain == dump.estate.domain
    assert [asdict(p) for p in back.policies] == [asdict(p) for p in dump.estate.policies]
    for column in ("dn", "name", "display_name"):
        assert list(getattr(back.accounts, column)) == list(getattr(dump.estate.accounts, column))
    for column in (
        "rid",
        "control",
        "password_set",
        "bad_count",
        "bad_time",
        "lockout_time",
        "primary_group",
    ):
        assert np.array_equal(getattr(back.accounts, column), getattr(dump.estate.accounts, column))


def test_a_reload_replaces_whole_and_leaves_other_domains_alone(engine: Engine, demo: Dump) -> None:
    stored(engine, demo)
    other = read(World(7, [], [(0x200, None, 2000)]))
    stored(engine, other)
    with Session(engine) as session:
        marks = dict(session.execute(select(PolicyRow.guid, PolicyRow.mark)).all())
    stored(engine, demo)
    with Session(engine) as session:
        assert session.scalar(select(func.count()).select_from(AccountRow)) == 1184 + 1
        assert session.scalar(select(func.count()).select_from(PolicyRow)) == 8
        assert dict(session.execute(select(PolicyRow.guid, PolicyRow.mark)).all()) == marks
        assert sorted(marks.values()) == list(range(8))
        assert session.scalars(select(DomainRow.version).order_by(DomainRow.dns_name)).all() == [
            2,
            1,
        ]


def test_a_load_that_fails_midway_changes_nothing(engine: Engine, demo: Dump) -> None:
    stored(engine, demo)
    broken = Dump(read(World(7, [], [(0x200, None, 2000)])).estate, (), 1)
    object.__setattr__(broken.estate.domain, "dns_name", demo.estate.domain.dns_name)
    # A row that does not fit its column: the server refuses it in the middle of the copy.
    object.__setattr__(broken.estate.accounts, "bad_count", np.array([2**40]))
    with pytest.raises(psycopg.Error), Session(engine) as session, session.begin():
        save_dump(session, broken, "broken.ldif", "tester")
    with Session(engine) as session:
        assert session.scalar(select(func.count()).select_from(AccountRow)) == 1184
        assert session.scalars(select(DomainRow.version)).all() == [1]


def test_millions_of_pairs_go_both_ways(engine: Engine) -> None:
    from psycopg import sql

    with Session(engine) as session:
        connection = session.connection().connection.driver_connection
        assert connection is not None
        size = 300_000
        member, container = np.arange(size, dtype=np.int32), np.arange(size, 0, -1, dtype=np.int32)
        copy_in(
            connection,
            "account_memberships",
            ("estate_id", "member", "container"),
            (np.ones(size, np.int32), member, container),
        )
        query = sql.SQL("SELECT member, container FROM account_memberships")
        packed = pairs_out(
            connection, "account_memberships", "member", "container", sql.SQL("estate_id = 1")
        )
        for back in (copy_out(connection, query, ["i4", "i4"]), packed):
            assert np.array_equal(back[0], member)
            assert np.array_equal(back[1], container)
        assert not len(
            pairs_out(
                connection, "account_memberships", "member", "container", sql.SQL("estate_id = 2")
            )[0]
        )
        empty = copy_out(
            connection, sql.SQL("SELECT member FROM account_memberships WHERE member < 0"), ["i4"]
        )
        assert len(empty[0]) == 0


def opened(session: Session, operations: Operations = ()) -> DraftRow:
    return drafts.create(
        session, session.scalars(select(DomainRow.id)).one(), "Longer", "ann", operations
    )


def renamed(estate: Estate, name: str) -> Operations:
    return tuple(edits(estate, estate.policies[3].guid, name=name))


def test_a_draft_remembers_its_steps_and_loses_its_approval(engine: Engine, demo: Dump) -> None:
    stored(engine, demo)
    steps = [renamed(demo.estate, name) for name in ("One", "Two")]
    with Session(engine) as session, session.begin():
        row = opened(session)
        for step in steps:
            drafts.record(session, row, step, "ann")
        drafts.undo(session, row, "ann")
        assert drafts.operations_of(row) == steps[0]
        drafts.redo(session, row, "ann")
        assert drafts.operations_of(row) == steps[1]
        with pytest.raises(ConflictError, match="nothing to redo"):
            drafts.redo(session, row, "ann")
        drafts.undo(session, row, "ann")
        drafts.record(session, row, (), "ann")
        assert (row.future, row.version) == ([], 7)
        with pytest.raises(ConflictError, match="Somebody else has to approve"):
            drafts.approve(session, row, "ann", draft_text(demo.estate, ()))
        drafts.approve(session, row, "ben", draft_text(demo.estate, ()))
        drafts.describe(session, row, "Longer", "audit", "ann")
        assert row.approved_by is None
        with pytest.raises(ChangedMeanwhileError, match="ann changed it meanwhile"):
            drafts.expect(row, 7, "ben")
        with pytest.raises(ChangedMeanwhileError, match="another window of yours"):
            drafts.expect(row, 7, "ann")
        drafts.discard(session, row)
        with pytest.raises(NotFoundError, match="dropped"):
            drafts.find(session, row.domain_id, row.id)


@settings(max_examples=15, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(world=worlds(), data=st.data())
def test_what_is_published_is_what_the_draft_showed(
    engine: Engine, world: World, data: st.DataObject
) -> None:
    before, after, _, operations = drawn(data, world)
    operations = published(operations)
    after = apply(before, operations).estate
    with Session(engine) as session, session.begin():
        # The guards of the example before would be kept.
        session.execute(
            text(
                "TRUNCATE domains, accounts, groups, account_memberships, group_memberships CASCADE"
            )
        )
    name = stored(engine, Dump(before, (), 1))
    with Session(engine) as session, session.begin():
        domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == name)).one()
        live = load_estate(session, domain)
        row = drafts.create(session, domain.id, "Random", "ann", operations)
        point = drafts.publish(
            session, domain, row, live, apply(live, operations).estate, operations, "ann"
        )
        assert picture(load_estate(session, domain)) == picture(after)
        assert history.estate_at(point, live, {}).policies == load_estate(session, domain).policies
        undone = apply(load_estate(session, domain), inverse(operations))
        assert not undone.conflicts
        assert picture(undone.estate) == picture(before)


def test_loading_again_keeps_guards_and_finds_policies_that_got_another_guid(
    engine: Engine, demo: Dump
) -> None:
    estate = demo.estate
    name, lifted, odd = (
        stored(engine, demo),
        estate.policies[2],
        replace(estate.domain, other_properties=8),
    )
    add = AddPolicy(policy=UUID(int=7), name="Made here", precedence=81, settings=DEFAULTS)
    guard = GuardPolicy(policy=lifted.guid, before=True, after=False)
    with Session(engine) as session, session.begin():
        domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == name)).one()
        live = load_estate(session, domain)
        point = drafts.publish(
            session,
            domain,
            opened(session, (add, guard)),
            live,
            apply(live, (add, guard)).estate,
            (add, guard),
            "ann",
        )
        later = SetPrecedence(policy=add.policy, before=81, after=82)
        waiting, number = opened(session, (later,)).id, point.id
    # The directory takes the change records up and gives the policy a GUID of its own.
    fresh = replace(apply(estate, (add,)).estate.policies[-1], guid=UUID(int=99))
    again = replace(estate, domain=odd, policies=(*estate.policies, fresh))
    stored(engine, Dump(again, (), 1))
    with Session(engine) as session:
        domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == name)).one()
        live = load_estate(session, domain)
        assert {p.guid for p in live.policies if not p.guarded} == {lifted.guid}
        assert live.domain.other_properties == 8
        taken_back = apply(
            live,
            inverse(
                history.operations_of(
                    history.find(session, domain.id, number), successors_of(domain)
                )
            ),
        )
        assert not taken_back.conflicts
        assert taken_back.estate.policies == tuple(
            replace(p, guarded=True) for p in estate.policies
        )
        row = drafts.find(session, domain.id, waiting)
        assert not apply(live, drafts.operations_of(row)).conflicts


def test_a_load_closes_the_drafts_of_which_nothing_is_left_and_says_so(
    engine: Engine, demo: Dump
) -> None:
    name = stored(engine, demo)
    done, other = renamed(demo.estate, "Renamed outside"), renamed(demo.estate, "Renamed otherwise")
    with Session(engine) as session, session.begin():
        rows = [
            opened(session, operations).id
            for operations in (
                done,
                other,
                (*done, *edits(demo.estate, "domain", settings=DEFAULTS)),
            )
        ]
    stored(engine, Dump(apply(demo.estate, done).estate, (), 1))
    with Session(engine) as session:
        domain = session.scalars(select(DomainRow).where(DomainRow.dns_name == name)).one()
        assert [row.id for row in drafts.open_drafts(session, domain.id)] == sorted(
            rows[1:], reverse=True
        )
        with pytest.raises(NotFoundError, match="closed: the directory holds all of it already"):
            drafts.find(session, domain.id, rows[0])
        assert (
            history.points(session, domain.id)[0].reason
            == "The draft “Longer” was closed: all of it was there already."
        )


def test_sign_in_and_out(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        people.add(session, "ann", "a long enough one")
    with Session(engine) as session, session.begin():
        ann = people.find(session, "ann")
        hashed = people.stored_hash(session, "ann")
        assert ann is not None
        assert hashed is not None
        assert not people.matches(hashed, "wrong")
        assert people.stored_hash(session, "bob") is None
        assert not people.matches(None, "a long enough one")
        assert people.matches(hashed, "a long enough one")
        token = sessions.open_session(session, "ann", hashed)
        assert token is not None
        found = sessions.visitor(session, token)
        assert found is not None
        assert (found.name, found.grants) == ("ann", {})
        assert sessions.visitor(session, token + "x") is None
        assert sessions.end(session, token) == "ann"
        assert sessions.visitor(session, token) is None
        second = sessions.open_session(session, "ann", hashed)
        people.set_password(session, ann, people.hashed("another long one"))
        assert sessions.visitor(session, second or "") is None
        assert sessions.open_session(session, "ann", hashed) is None, (
            "the password that was compared is not the one by now"
        )


@pytest.mark.parametrize(
    "change",
    [
        {"seen_at": text("now() - interval '61 minutes'")},
        {"expires_at": text("now() - interval '1 second'")},
    ],
    ids=["idle", "too old"],
)
def test_a_session_ends_when_it_is_idle_or_old(engine: Engine, change: dict[str, Any]) -> None:
    with Session(engine) as session, session.begin():
        people.add(session, "ann", "a long enough one")
        token = sessions.open_session(session, "ann", people.stored_hash(session, "ann") or "")
        assert sessions.visitor(session, token or "")
        assert len(sessions.of_person(session, "ann")) == 1
        session.execute(update(SessionRow).values(change))
        assert sessions.visitor(session, token or "") is None
        assert sessions.of_person(session, "ann") == []


def test_a_one_time_password_runs_out(engine: Engine) -> None:
    with Session(engine) as session, session.begin():
        row = people.add(session, "ann", "handed over", one_time=True)
        assert people.stored_hash(session, "ann")
        row.one_time_until = datetime.now(UTC)
        session.flush()
        assert people.stored_hash(session, "ann") is None


def test_a_cluster_survives_being_killed_and_starts_once(home: Path) -> None:
    own = Cluster(home / "second", {"fsync": "off"})
    assert own.start() is True
    try:
        assert own.start() is False
        process = int((own.data / "postmaster.pid").read_text().splitlines()[0])
        os.kill(process, signal.SIGKILL)
        with contextlib.suppress(FileNotFoundError):
            while Path(f"/proc/{process}/cmdline").read_bytes():
                os.sched_yield()
        assert own.start() is True
        engine = connect(own.url)
        with engine.connect() as connection:
            assert connection.scalar(text("SELECT 1")) == 1
        engine.dispose()
    finally:
        own.stop()
    with pytest.raises(ClusterError, match="does not run"):
        _ = own.url


def test_the_last_one_that_needs_the_cluster_stops_it(home: Path) -> None:
    one, other = (
        Cluster(home / "shared", {"fsync": "off"}),
        Cluster(home / "shared", {"fsync": "off"}),
    )
    assert one.start()  # as if left over from a process that was killed
    with one.running():
        url = one.url
        with other.running():
            assert other.url == url
        assert other.url == url
    with pytest.raises(ClusterError, match="does not run"):
        _ = one.url


def test_a_half_made_cluster_is_made_anew(home: Path) -> None:
    own = Cluster(home / "third", {"fsync": "off"})
    (own.home / "postgresql").mkdir(parents=True)
    (own.home / "postgresql.new").mkdir()
    (own.home / "postgresql" / "stray").touch()
    assert own.start() is True
    own.stop()
