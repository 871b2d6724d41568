"""What stricter, busier or stranger servers answer: read whole, or refused in words."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import ldap
import pytest

from answering import Entry, Search, answering
from directory_drafts import read
from directory_server import BASE, PEOPLE, DirectoryServer, add, modified, policy
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.operations import LinkPolicy, Target
from hornfels.directory import reading
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import DirectoryError, UnreachableError
from hornfels.formats.changes import write_changes
from hornfels.formats.dump import dump_of
from hornfels.formats.ldif import LdifError, Record

PART, MEMBERS = 1500, 50_000
GROUP = f"CN=GS-Everybody,{PEOPLE}"


def test_fifty_thousand_members_come_in_parts() -> None:
    """As published limits have it: at most 1,500 values at a time ([MS-ADTS] 3.1.1.3.4.6)."""
    names = [f"CN=Person {number},{PEOPLE}".encode() for number in range(MEMBERS)]

    def answers(search: Search) -> tuple[list[Entry], int]:
        asked = next((a for a in search[1] if a.startswith("member;range=")), "member;range=0-*")
        first = int(asked.partition("=")[2].partition("-")[0])
        part = names[first : first + PART]
        last = "*" if first + PART >= MEMBERS else str(first + PART - 1)
        values: dict[str, Sequence[bytes]] = {f"member;range={first}-{last}": part}
        if asked == "member;range=0-*":
            values |= {"objectClass": [b"group"], "objectGUID": [bytes(16)], "member": []}
        return [(GROUP, values)], 0

    with answering(answers) as reach, linked(reach) as link:
        (found,) = reading.whole(link, BASE)
    assert found.values["member"] == names


def test_parts_out_of_order_are_refused() -> None:
    def answers(_search: Search) -> tuple[list[Entry], int]:
        return [(GROUP, {"objectGUID": [bytes(16)], "member;range=0-1": [b"CN=a", b"CN=b"]})], 0

    with (
        answering(answers) as reach,
        linked(reach) as link,
        pytest.raises(DirectoryError, match="other parts of member"),
    ):
        list(reading.whole(link, BASE))


@pytest.mark.parametrize(
    ("code", "words"),
    [
        (3, "took longer than it allows"),
        (4, "stopped at a limit of its own"),
        (11, "stopped at a limit of its own"),
        (10, "sends us to another server"),
        (51, "too busy"),
        (52, "too busy"),
        (80, "failed"),
    ],
)
def test_limits_and_referrals_are_said(code: int, words: str) -> None:
    """Nothing of a part is taken for all of it."""
    half: list[Entry] = [(GROUP, {"objectClass": [b"group"], "objectGUID": [bytes(16)]})]
    with (
        answering(lambda _search: (half, code)) as reach,
        linked(reach) as link,
        pytest.raises(DirectoryError, match=words) as told,
    ):
        list(reading.whole(link, BASE))
    assert told.value.code == code


def test_other_servers_that_are_named_beside_an_answer_are_passed_over() -> None:
    entry: Entry = (GROUP, {"objectClass": [b"group"], "objectGUID": [bytes(16)]})
    with answering(lambda _search: ([entry], 0), refer=True) as reach, linked(reach) as link:
        assert [found.dn for found in reading.whole(link, BASE)] == [GROUP]


@pytest.mark.parametrize(
    ("value", "refused"),
    [
        (b"M" * 1_000_000, "1,000,000 characters"),
        (b"\xff\xfe not text", "UTF-8"),
        (b"a\x00b", "NUL"),
        (b"\x01\x1b[2J\x7f", ""),
        (b"x\ndn: CN=evil,DC=tarnholt\nchangetype: delete\n", ""),
        ("\u202etxt.exe".encode(), ""),
    ],
    ids=["a million", "no text", "NUL", "control characters", "a record", "right to left"],
)
def test_values_beyond_measure_are_kept_or_refused_by_name(value: bytes, refused: str) -> None:
    sid = bytes.fromhex("010400000000000515000000010000000200000003000000")
    domain: Entry = (
        BASE,
        {"objectClass": [b"domainDNS"], "objectGUID": [bytes(16)], "objectSid": [sid]},
    )
    who: dict[str, Sequence[bytes]] = {"sAMAccountName": [b"person"], "displayName": [value]}
    there = {"objectClass": [b"user"], "objectGUID": [b"\1" * 16], **who}
    person: Entry = (f"CN=Person,{PEOPLE}", there)
    with answering(lambda _search: ([domain, person], 0)) as reach, linked(reach) as link:
        entries = list(reading.whole(link, BASE))
    assert entries[1].values["displayname"] == [value]
    records = (Record(e.dn, 0, e.values, b"", in_parts=False) for e in entries)
    if refused:
        with pytest.raises(LdifError, match=rf"{refused}.*CN=Person"):
            dump_of(records)
    else:
        assert dump_of(records).estate.accounts.display_name[0] == value.decode()


def test_a_name_that_looks_like_a_change_record_is_only_a_name(
    link: Link, server: DirectoryServer, tmp_path: object
) -> None:
    name = "x\ndn: DC=sky\nchangetype: delete\n\ndn: CN=y"
    dn = f"CN={ldap.dn.escape_dn_chars(name)},{PEOPLE}".replace("\n", r"\0A")
    add(link, dn, objectClass="user", sAMAccountName="odd", displayName=name)
    place = policy(link, "Night", 10)
    base = read(link)
    held = base.accounts.dn[base.find_account("odd") or 0]
    night = base.policies[0]
    operations = (LinkPolicy(policy=night.guid, target=Target(dn=held, kind="account")),)
    assert not apply(base, operations).conflicts
    records = b"".join(write_changes(base, operations, f"Title\n{name}\n\ndn: {BASE}"))
    modified(server, records, tmp_path)  # type: ignore[arg-type]
    assert len(link.entry(place, ["msDS-PSOAppliesTo"])["msds-psoappliesto"]) == 1
    assert link.there(BASE) is not None


def test_a_server_that_stops_in_the_beginning_of_an_answer_is_given_up() -> None:
    found: list[Entry] = [(f"CN={name},{BASE}", {"cn": [b"Half" * 100]}) for name in "ab"]
    with answering(lambda _search: (found, 0), half=True) as reach:
        impatient = replace(reach, patience=1.0)
        with linked(impatient) as link, pytest.raises(UnreachableError, match="did not answer"):
            list(link.search(BASE, "sub", "(objectClass=*)", ["cn"]))
