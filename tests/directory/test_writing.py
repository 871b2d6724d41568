"""Writing into a real server: only what is as the change was made on, and read back."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from uuid import UUID, uuid4

import ldap
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from directory_drafts import begun_anew, drawn, prepared, read, shown
from directory_server import (
    DirectoryServer,
    change,
    group,
    modified,
    policy,
)
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import edits, removal
from hornfels.core.drafts.operations import (
    AddPolicy,
    Operation,
)
from hornfels.core.policy.model import DEFAULTS
from hornfels.directory.link import Link, Values
from hornfels.directory.reach import DirectoryError, RefusedError
from hornfels.directory.told import NO_SUCH_ATTRIBUTE
from hornfels.directory.writing import ChangedError, carry_out, look, look_ahead
from hornfels.formats.changes import exact_record_of
from hornfels.formats.writes import Add, Delete, Guard, Modify, Write, planned, with_successor


@pytest.fixture
def at_first(link: Link) -> Values:
    return prepared(link)


def writes(link: Link, *operations: Operation) -> list[Write]:
    base = read(link)
    applied = apply(base, operations)
    assert not applied.conflicts
    return [step.write for step in planned(base, applied.estate).steps]


@settings(max_examples=12, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_a_draft_is_written_and_taken_back_whole(
    data: st.DataObject, link: Link, at_first: Values
) -> None:
    begun_anew(link, at_first)
    base = read(link)
    wanted, _ = drawn(data, base)
    steps = [step.write for step in planned(base, wanted).steps]
    for write in steps:
        assert look(link, write).state == "before"
        carry_out(link, write)
        # Whoever was stopped before it was written down that it is done finds it done.
        assert look(link, write).state == "after"
    assert shown(read(link), guards=True) == shown(wanted, guards=True)
    anew: dict[UUID, UUID] = {}
    for write in reversed(steps):
        made = carry_out(link, with_successor(write.inverse, anew))
        if isinstance(write, Delete) and write.guid and made:
            anew[write.guid] = made
    assert shown(read(link), guards=True) == shown(base, guards=True)


@settings(max_examples=8, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_what_is_shown_beforehand_is_what_the_server_takes(
    data: st.DataObject, link: Link, at_first: Values, server: DirectoryServer, tmp_path: Path
) -> None:
    begun_anew(link, at_first)
    base = read(link)
    wanted, _ = drawn(data, base)
    steps = [step.write for step in planned(base, wanted).steps]
    before = read(link)
    ahead = list(look_ahead(link, steps))
    assert not any(one.problem or one.done for one in ahead)
    assert shown(read(link)) == shown(before)
    records = [exact_record_of(request) for one in ahead for request in one.requests]
    modified(server, b"version: 1\n" + b"".join(records), tmp_path)
    left = [one.write for one in ahead if not one.requests]
    assert all(isinstance(write, Guard) for write in left)
    for write in left:
        carry_out(link, write)
    assert shown(read(link), guards=True) == shown(wanted, guards=True)


def test_what_was_changed_meanwhile_is_refused_and_left_alone(link: Link) -> None:
    crew = group(link, "GS-Crew")
    dn = policy(link, "Night", 30, [crew])
    night = next(p for p in read(link).policies if p.name == "Night")
    edit = edits(read(link), night.guid, settings=replace(night.settings, min_length=16))
    (written,) = writes(link, *edit)
    (removed,) = writes(link, removal(read(link), night.guid))
    change(link, dn, (ldap.MOD_REPLACE, "msDS-MinimumPasswordLength", [b"14"]))
    with pytest.raises(ChangedError, match="minimum length is 14 characters, and not 12"):
        carry_out(link, written)
    with pytest.raises(ChangedError, match="Night was changed in the directory meanwhile"):
        carry_out(link, removed)
    assert [one.problem[:17] for one in look_ahead(link, [written])] == ["Night was changed"]
    assert link.entry(dn, ["msDS-MinimumPasswordLength"])["msds-minimumpasswordlength"] == [b"14"]
    link.do("", lambda library: library.delete_s(dn))
    with pytest.raises(ChangedError, match="not in the directory any more"):
        carry_out(link, written)
    assert carry_out(link, removed) is None
    policy(link, "Night", 30, [crew])
    with pytest.raises(ChangedError, match="somebody made it anew"):
        carry_out(link, written)


def test_between_looking_and_writing_nobody_comes(link: Link) -> None:
    """The request itself names the values that were read."""
    dn = policy(link, "Night", 30)
    night = next(p for p in read(link).policies if p.name == "Night")
    edit = edits(read(link), night.guid, settings=replace(night.settings, min_length=16))
    (written,) = writes(link, *edit)
    (request,) = look(link, written).requests
    assert isinstance(request, Modify)
    change(link, dn, (ldap.MOD_REPLACE, "msDS-MinimumPasswordLength", [b"14"]))
    parts = [
        (ldap.MOD_DELETE, "msDS-MinimumPasswordLength", [request.edits[0].gone[0].encode()]),
        (ldap.MOD_ADD, "msDS-MinimumPasswordLength", [request.edits[0].come[0].encode()]),
    ]
    with pytest.raises(DirectoryError) as refused:
        change(link, dn, *parts)
    assert refused.value.code == NO_SUCH_ATTRIBUTE
    assert link.entry(dn, ["msDS-MinimumPasswordLength"])["msds-minimumpasswordlength"] == [b"14"]


def test_a_name_that_somebody_took_meanwhile_is_refused(link: Link) -> None:
    new = AddPolicy(policy=uuid4(), name="Late", precedence=7, settings=DEFAULTS, guarded=False)
    (add,) = writes(link, new)
    assert isinstance(add, Add)
    policy(link, "Late", 7)
    with pytest.raises(ChangedError, match="choose another name"):
        carry_out(link, add)


def test_a_guard_keeps_from_deleting_until_it_is_lifted(link: Link) -> None:
    dn = policy(link, "Night", 30)
    guid = next(p.guid for p in read(link).policies if p.name == "Night")
    assert not next(p.guarded for p in read(link).policies if p.name == "Night")
    carry_out(link, Guard(dn, on=True, guid=guid))
    assert next(p.guarded for p in read(link).policies if p.name == "Night")
    with pytest.raises(RefusedError):
        link.do("", lambda library: library.delete_s(dn))
    other = policy(link, "Other", 31)
    link.do("", lambda library: library.delete_s(other))
    for write in writes(link, removal(read(link), guid)):
        carry_out(link, write)
    assert link.there(dn) is None
