"""Change records say exactly what the operations do, in the directory's own terms."""

from __future__ import annotations

from dataclasses import replace
from uuid import UUID

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from directory_model import Directory, holds
from drafting import drawn, picture
from hornfels.core.drafts.applying import all_there, apply
from hornfels.core.drafts.edits import edits, removal, renumber
from hornfels.core.drafts.operations import (
    KEPT_HERE,
    AddPolicy,
    JoinGroup,
    LinkPolicy,
    Operation,
    Operations,
    Renumber,
    SetFlag,
    Target,
    UnlinkPolicy,
    published,
)
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.time import LDAP_NEVER, NEVER, span_from_ldap
from hornfels.formats.changes import write_changes
from hornfels.formats.dump import Dump
from worlds import World, entries, worlds

CONTAINER = "CN=Password Settings Container,CN=System,DC=sky,DC=tarnholt,DC=example"
KIOSKS = "CN=GS-Dome-Kiosks,OU=Groups,DC=sky,DC=tarnholt,DC=example"


def told(demo: Dump, *operations: Operation) -> list[list[str]]:
    """The records, unwrapped, without comments and empty ones."""
    text = b"".join(write_changes(demo.estate, operations, "Title")).decode().replace("\n ", "")
    records = [
        [line for line in block.split("\n") if line and not line.startswith("#")]
        for block in text.split("\n\n")
    ]
    return [record for record in records if record and record != ["version: 1"]]


def test_a_new_policy_is_an_object_with_every_setting(demo: Dump) -> None:
    changed = replace(DEFAULTS, max_age=NEVER, complexity=False)
    op = AddPolicy(
        policy=UUID(int=1),
        name="Night, late",
        precedence=35,
        settings=changed,
        links=(Target(dn=KIOSKS),),
    )
    assert told(demo, op) == [
        [
            rf"dn: CN=Night\, late,{CONTAINER}",
            "changetype: add",
            "objectClass: msDS-PasswordSettings",
            "msDS-PasswordSettingsPrecedence: 35",
            "msDS-MinimumPasswordLength: 7",
            "msDS-PasswordComplexityEnabled: FALSE",
            "msDS-PasswordHistoryLength: 24",
            "msDS-PasswordReversibleEncryptionEnabled: FALSE",
            "msDS-MinimumPasswordAge: -864000000000",
            f"msDS-MaximumPasswordAge: {LDAP_NEVER}",
            "msDS-LockoutThreshold: 0",
            "msDS-LockoutObservationWindow: -18000000000",
            "msDS-LockoutDuration: -18000000000",
            f"msDS-PSOAppliesTo: {KIOSKS}",
        ]
    ]


def test_all_that_becomes_of_an_object_is_one_modification_after_its_name(demo: Dump) -> None:
    night = next(p for p in demo.estate.policies if p.name == "Night operators")
    edit = list(
        edits(
            demo.estate,
            night.guid,
            name="Night watch",
            precedence=33,
            settings=replace(night.settings, min_length=16),
        )
    )
    held = next(
        ln.dn for ln in demo.estate.links if demo.estate.policies[ln.policy].guid == night.guid
    )
    more = (
        LinkPolicy(policy=night.guid, target=Target(dn=KIOSKS)),
        UnlinkPolicy(policy=night.guid, target=Target(dn=held)),
    )
    dn = f"dn: CN=Night watch,{CONTAINER}"
    assert told(demo, *edit, *more) == [
        [
            f"dn: CN=Night operators,{CONTAINER}",
            "changetype: modrdn",
            "newrdn: CN=Night watch",
            "deleteoldrdn: 1",
        ],
        [
            dn,
            "changetype: modify",
            "replace: msDS-PasswordSettingsPrecedence",
            "msDS-PasswordSettingsPrecedence: 33",
            "-",
            "replace: msDS-MinimumPasswordLength",
            "msDS-MinimumPasswordLength: 16",
            "-",
            "delete: msDS-PSOAppliesTo",
            f"msDS-PSOAppliesTo: {held}",
            "-",
            "add: msDS-PSOAppliesTo",
            f"msDS-PSOAppliesTo: {KIOSKS}",
            "-",
        ],
    ]
    assert told(demo, removal(demo.estate, night.guid)) == [
        [f"dn: CN=Night operators,{CONTAINER}", "changetype: delete"]
    ]


def test_the_domain_policy_is_written_on_the_domain_object(demo: Dump) -> None:
    changed = replace(demo.estate.domain.settings, reversible_encryption=True, max_age=NEVER)
    assert told(demo, *edits(demo.estate, "domain", settings=changed)) == [
        [
            "dn: DC=sky,DC=tarnholt,DC=example",
            "changetype: modify",
            "replace: pwdProperties",
            "pwdProperties: 17",
            "-",
            "replace: maxPwdAge",
            f"maxPwdAge: {LDAP_NEVER}",
            "-",
        ]
    ]


def test_bits_of_pwdproperties_that_are_not_ours_are_written_as_they_were_read(demo: Dump) -> None:
    domain = replace(demo.estate.domain, other_properties=8)
    switched = edits(
        demo.estate, "domain", settings=replace(domain.settings, reversible_encryption=True)
    )
    text = b"".join(
        write_changes(replace(demo.estate, domain=domain), tuple(switched), "Title")
    ).decode()
    assert "pwdProperties: 25\n" in text


def test_what_ifs_are_left_out_and_numbering_writes_only_what_moves(demo: Dump) -> None:
    person = demo.estate.accounts.dn[0]
    what_if = (
        JoinGroup(member=person, group=KIOSKS),
        SetFlag(account=person, flag="DISABLED", before=False, after=True),
    )
    assert told(demo, *what_if) == []
    op = renumber(demo.estate)
    assert len(told(demo, op)) == sum(n.before != n.after for n in op.numbers)


@given(ticks=st.integers(0, 2**62))
def test_any_span_comes_back_exactly(demo: Dump, ticks: int) -> None:
    night = demo.estate.policies[3]
    changed = replace(night.settings, lockout_duration=ticks)
    lines = [
        line
        for record in told(demo, *edits(demo.estate, night.guid, settings=changed))
        for line in record
    ]
    value = [
        int(line.partition(": ")[2]) for line in lines if line.startswith("msDS-LockoutDuration: ")
    ]
    assert [span_from_ldap(v, endless=True) for v in value] == (
        [ticks] if ticks != night.settings.lockout_duration else []
    )


def _is_ours(operations: Operations) -> bool:
    return bool(operations) and all(isinstance(op, KEPT_HERE) for op in operations)


@given(worlds(), st.data())
@settings(max_examples=100)
def test_what_a_draft_shows_is_what_a_directory_holds_after_its_change_records(
    world: World, data: st.DataObject
) -> None:
    base, _, raw, short = drawn(data, world)
    wanted = holds(apply(base, published(raw)).estate)
    for operations in (raw, short):
        directory = Directory(entries(world))
        directory.change(b"".join(write_changes(base, operations, "Title")))
        assert holds(directory.read().estate) == wanted


@given(worlds(), st.data())
@settings(max_examples=100)
def test_a_draft_that_the_directory_has_taken_up_has_nothing_left_to_do(
    world: World, data: st.DataObject
) -> None:
    base, _, _, short = drawn(data, world)
    draft = tuple(op for op in published(short) if not isinstance(op, KEPT_HERE))
    # A number that comes back by numbering anew fits by accident; what is left then is said to be a
    # conflict.
    assume(not any(isinstance(op, Renumber) for op in draft[1:]))
    directory = Directory(entries(world))
    directory.change(b"".join(write_changes(base, draft, "Title")))
    read = directory.read().estate
    found = apply(read, draft)
    # What only Hornfels keeps is not read from the directory.
    ours = [
        c
        for c in found.conflicts
        if c.rebased and all(isinstance(op, KEPT_HERE) for op in c.rebased)
    ]
    assert all(c.already or c in ours for c in found.conflicts)
    assert picture(found.estate) == picture(read)
    assert all_there(read, found) == (bool(found.conflicts) and not ours)
