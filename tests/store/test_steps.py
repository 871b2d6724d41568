"""Undo and redo: what each step changed is enough to take it, and no more is kept."""

from __future__ import annotations

import json
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import text
from sqlalchemy.orm import Session

from hornfels.core.drafts.operations import (
    ADAPTER,
    GuardPolicy,
    LinkPolicy,
    Operations,
    SetPrecedence,
    Target,
)
from hornfels.formats.dump import Dump
from hornfels.store import drafts
from hornfels.store.cluster import Cluster
from hornfels.store.database import connect
from hornfels.store.models import DraftRow
from hornfels.store.steps import step_between, stepped

lists = st.lists(st.integers(0, 3), max_size=12)


@given(lists, lists)
def test_a_step_leads_from_one_list_to_the_other_and_is_no_longer_than_what_differs(
    before: list[int], after: list[int]
) -> None:
    step = step_between(before, after)
    assert stepped(before, step) == after
    assert len(step["put"]) <= len(after)


@given(lists, st.integers(0, 3), st.integers(0, 12))
def test_one_more_operation_is_a_step_of_one(before: list[int], new: int, at: int) -> None:
    step = step_between(before, [*before[:at], new, *before[at:]])
    assert (step["count"], step["put"]) == (0, [new])


def test_drafts_of_the_version_before_can_still_be_undone_and_redone(
    home: Path, demo: Dump
) -> None:
    own = Cluster(home / "older", {"fsync": "off"})
    own.start()
    engine = connect(own.url)
    own.migrate("0005")
    policy, other = (p.guid for p in demo.estate.policies[:2])
    one, two = (
        SetPrecedence(policy=policy, before=10, after=11),
        GuardPolicy(policy=policy, before=True, after=False),
    )
    three = LinkPolicy(policy=other, target=Target(dn="CN=none"))
    states: list[Operations] = [(), (one,), (one, two), (three,), (three, two)]
    written = [ADAPTER.dump_python(state, mode="json") for state in states]
    with engine.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO domains (id, dns_name, estate_id, version, dn, sid, "
                "linked_groups, settings, gpo_links, notices, source) "
                "VALUES (1, 'x', 1, 1, 'DC=x', '', 'global', '{}', '[]', '[]', '')"
            )
        )
        connection.execute(
            text(
                "INSERT INTO drafts (id, domain_id, title, reason, author, state, "
                "operations, past, future, version, changed_by) "
                "VALUES (1, 1, 'T', '', 'ann', 'open', :now, :past, :future, 1, 'ann')"
            ),
            {
                "now": json.dumps(written[2]),
                "past": json.dumps(written[:2]),
                "future": json.dumps([written[4], written[3]]),
            },
        )
    own.migrate()
    with Session(engine) as session, session.begin():
        row = session.get_one(DraftRow, 1)
        for expected in (1, 0):
            drafts.undo(session, row, "ann")
            assert row.operations == written[expected]
        for expected in (1, 2, 3, 4):
            drafts.redo(session, row, "ann")
            assert row.operations == written[expected]
        assert row.future == []
    engine.dispose()
    own.stop()
