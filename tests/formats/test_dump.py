"""Dumps as estates."""

from __future__ import annotations

import base64
import io

import pytest
from hypothesis import given

from hornfels.core.domain.estate import UNKNOWN_TIME
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.resolution.engine import resolve, winners
from hornfels.core.values.time import NEVER, span_to_ldap
from hornfels.formats.dump import Dump, DumpError, LdifError, load_dump
from hornfels.formats.ldif import write
from worlds import ROOT, USERS, World, domain_record, policy_values, read, worlds

CONTAINER = f"CN=Password Settings Container,CN=System,{ROOT}"
GROUP: list[tuple[str, str | bytes]] = [("objectClass", "group"), ("groupType", "-2147483646")]
USER: list[tuple[str, str | bytes]] = [("objectClass", "user")]


Entry = tuple[str, list[tuple[str, str | bytes]]]


def load(*records: Entry, domain: bool = True) -> Dump:
    return load_dump(
        io.BytesIO(b"".join(write([*records, *([domain_record(7)] if domain else [])])))
    )


@given(worlds())
def test_memberships_read_alike_from_either_side(world: World) -> None:
    one, other = read(world).estate, read(world, member_of=True).estate
    assert resolve(one).stacks == resolve(other).stacks


def test_a_cut_member_list_is_completed_by_the_members() -> None:
    people: list[Entry] = [
        (
            f"CN=p{n},{USERS}",
            [
                *USER,
                ("sAMAccountName", f"p{n}"),
                *([("memberOf", f"CN=g,{USERS}")] if n > 1 else []),
            ],
        )
        for n in range(4)
    ]
    first: Entry = (
        f"CN=g,{USERS}",
        [*GROUP, ("member;range=0-1", f"CN=p0,{USERS}"), ("member;range=0-1", f"CN=p1,{USERS}")],
    )
    dump = load(first, *people)
    assert dump.estate.memberships.members.of(0).tolist() == [0, 1, 2, 3]
    assert any(
        "only a part of 1 long list of members or links" in notice for notice in dump.notices
    )
    rest: Entry = (f"CN=g,{USERS}", [("member;Range=2-*", f"CN=p{n},{USERS}") for n in (2, 3)])
    assert not any("only a part" in notice for notice in load(first, rest, *people).notices)


def test_links_and_members_are_compared_as_names() -> None:
    estate = load(
        (rf"CN=Va\2Crga\; Zoë,{USERS}", [*USER, ("sAMAccountName", "zoe")]),
        (f"CN=g,{USERS}", [*GROUP, ("member", rf"cn=va\,rga\3B  ZOË , CN=users,{ROOT.lower()}")]),
        (
            f"CN=p,{ROOT}",
            [
                *policy_values("p", 1, bytes(range(16))),
                ("msDS-PSOAppliesTo", f"cn=G, cn=USERS,{ROOT}"),
            ],
        ),
    ).estate
    assert estate.links[0].kind == "group"
    assert resolve(estate).governed(0) == 1


def test_settings_survive_to_the_tick() -> None:
    odd = {
        "msDS-MinimumPasswordAge": -1,
        "msDS-MaximumPasswordAge": -(2**63),
        "msDS-LockoutDuration": 0,
        "msDS-LockoutObservationWindow": 7,
    }
    settings = (
        load((f"CN=p,{ROOT}", policy_values("p", 1, bytes(16), **odd))).estate.policies[0].settings
    )
    assert (
        settings.min_age,
        settings.max_age,
        settings.lockout_duration,
        settings.lockout_window,
    ) == (1, NEVER, 0, -7)
    assert span_to_ldap(settings.lockout_window) == 7


def test_the_domain_object_gives_the_domain_policy() -> None:
    record = domain_record(
        4,
        pwdProperties="17",
        minPwdLength="9",
        maxPwdAge=str(-(2**63)),
        lockoutThreshold="6",
        gPLink=("[LDAP://CN={A},CN=Policies;0][LDAP://cn={B},cn=policies;3]"),
    )
    dump = load(
        (
            "CN={a},CN=Policies",
            [
                ("objectClass", "groupPolicyContainer"),
                ("displayName", "First rules"),
                ("flags", "2"),
            ],
        ),
        record,
        domain=False,
    )
    domain = dump.estate.domain
    assert (
        domain.settings.min_length,
        domain.settings.max_age,
        domain.settings.reversible_encryption,
    ) == (9, NEVER, True)
    assert domain.settings.min_age == DEFAULTS.min_age
    assert "minimum age" in dump.notices[0]
    assert [
        (g.name, g.order, g.enforced, g.disabled, g.computer_part_disabled)
        for g in domain.gpo_links
    ] == [
        ("{B}", 1, True, True, False),
        ("First rules", 2, False, False, True),
    ]
    assert domain.dns_name == "stone.example"


def test_printed_and_stored_identifiers_read_alike() -> None:
    guid = "0a1b2c3d-0000-0000-0000-0000000000ff"
    policy = load(
        (
            f"CN=p,{ROOT}",
            [(a, guid if a == "objectGUID" else v) for a, v in policy_values("p", 1, bytes(16))],
        )
    ).estate.policies[0]
    assert str(policy.guid) == guid
    estate = load((f"CN=u,{USERS}", [*USER, ("objectSid", "S-1-5-21-1-2-3-502")])).estate
    assert estate.exempt.tolist() == [True]


def test_computers_count_contacts_do_not_and_deleted_objects_are_gone() -> None:
    estate = load(
        (f"CN=pc,{USERS}", [("objectClass", "user"), ("objectClass", "computer")]),
        (f"CN=ino,{USERS}", [("objectClass", "inetOrgPerson")]),
        (f"CN=c,{USERS}", [("objectClass", "contact")]),
        (f"CN=gone,{USERS}", [*USER, ("isDeleted", "TRUE")]),
    ).estate
    assert sorted(estate.accounts.name) == ["ino", "pc"]
    assert estate.accounts.password_set.tolist() == [UNKNOWN_TIME] * 2


@pytest.mark.parametrize(
    ("attribute", "value", "reason"),
    [
        ("userAccountControl", "many", "'many' is not a whole number"),
        ("pwdLastSet", str(2**64), "does not fit"),
        ("objectSid", b"\x01\x09", "not a security identifier"),
        ("displayName", b"\xff\xfe", "not UTF-8"),
        ("displayName", b"a\x00b", "NUL"),
        ("memberOf", "nonsense", "is not a distinguished name"),
    ],
)
def test_unreadable_values_name_line_attribute_and_entry(
    attribute: str, value: str | bytes, reason: str
) -> None:
    with pytest.raises(LdifError, match=reason) as caught:
        load((f"CN=u,{USERS}", [*USER, (attribute, value)]))
    assert caught.value.line == 5
    assert attribute.lower() in caught.value.reason


def test_a_policy_without_all_its_settings_is_refused() -> None:
    short = [(a, v) for a, v in policy_values("p", 1, bytes(16)) if a != "msDS-LockoutThreshold"]
    with pytest.raises(LdifError, match="has no msDS-LockoutThreshold"):
        load((f"CN=p,{ROOT}", short))
    with pytest.raises(LdifError, match="neither TRUE nor FALSE"):
        load(
            (
                f"CN=p,{ROOT}",
                policy_values("p", 1, bytes(16), **{"msDS-PasswordComplexityEnabled": "yes"}),
            )
        )


def test_a_dump_without_its_domain_is_refused() -> None:
    for text in (b"", b"dn: CN=x\nobjectClass: user\n"):
        with pytest.raises(DumpError, match="no domain object"):
            load_dump(io.BytesIO(text))


def test_what_is_missing_is_told() -> None:
    dump = load(
        (f"CN=u,{USERS}", [*USER, ("primaryGroupID", "513"), ("objectSid", "S-1-5-21-1-2-3-1000")]),
        (f"CN=g,{USERS}", [*GROUP, ("member", "CN=else,DC=other")]),
    )
    assert any("primary group of 1 account is not in the dump" in n for n in dump.notices)
    assert any(n.startswith("1 membership") for n in dump.notices)


def test_the_demo_is_the_same_for_the_same_day(demo_ldif: bytes) -> None:
    from conftest import DEMO_NOW
    from hornfels.demo.tarnholt import entries

    assert b"".join(write(entries(DEMO_NOW))) == demo_ldif
    assert base64.b64encode(b"Zo\xc3\xab")[:4] in demo_ldif


def test_links_cut_into_ranges_are_collected_and_completed_from_the_other_side() -> None:
    def person(n: int, *more: tuple[str, str | bytes]) -> Entry:
        return f"CN=p{n},{USERS}", [*USER, ("sAMAccountName", f"p{n}"), *more]

    policy = f"CN=Long,{CONTAINER}"
    links = "msDS-PSOAppliesTo;range="
    held: list[tuple[str, str | bytes]] = [(f"{links}0-1", f"CN=p{n},{USERS}") for n in (0, 1)]
    dump = load(
        (policy, [(f"{links}2-3", f"CN=p2,{USERS}"), (f"{links}2-3", f"cn=P3 , {USERS}")]),
        (policy, policy_values("Long", 1, b"1" * 16) + held),
        person(0),
        person(1),
        person(2),
        person(3, ("msDS-PSOApplied", policy)),
        person(4, ("msDS-PSOApplied", policy)),
    )
    assert [link.dn for link in dump.estate.links] == [f"CN=p{n},{USERS}" for n in (2, 3, 0, 1, 4)]
    assert len(dump.estate.policies) == 1


def test_a_policy_in_two_entries_is_one_and_links_of_unread_policies_are_told() -> None:
    whole = policy_values("Two", 4, b"2" * 16)
    here = (f"CN=Two,{CONTAINER}", whole[:4]), (f"CN=Two,{CONTAINER}", [whole[0], *whole[4:]])
    dump = load(*here, (f"CN=p,{USERS}", [*USER, ("msDS-PSOApplied", f"CN=Hidden,{CONTAINER}")]))
    assert [(p.name, p.precedence) for p in dump.estate.policies] == [("Two", 4)]
    assert any("holds 1 link of policies that are not in it" in notice for notice in dump.notices)


def test_policies_without_a_guid_are_told_apart_and_two_with_one_are_refused() -> None:
    values = [pair for pair in policy_values("x", 1, b"") if pair[0] not in ("objectGUID", "cn")]
    dump = load((f"CN=One,{CONTAINER}", values), (f"CN=Two,{CONTAINER}", values))
    assert len({p.guid for p in dump.estate.policies}) == 2
    assert sum("has no objectGUID" in notice for notice in dump.notices) == 2
    same = [
        (f"CN={name},{CONTAINER}", policy_values(name, 1, b"g" * 16)) for name in ("One", "Two")
    ]
    with pytest.raises(LdifError, match="One has the same objectGUID"):
        load(*same)


def test_built_in_groups_bring_no_policy_whichever_linked_groups_count() -> None:
    def group(name: str, kind: int, *members: str) -> Entry:
        values: list[tuple[str, str | bytes]] = [
            ("objectClass", "group"),
            ("groupType", str(kind - (1 << 32))),
            *(("member", f"CN={m},{USERS}") for m in members),
        ]
        return f"CN={name},{USERS}", values

    security, built_in, everywhere = 0x80000000, 0x80000005, 0x80000002
    people = [(f"CN=p{n},{USERS}", [*USER, ("sAMAccountName", f"p{n}")]) for n in range(3)]
    groups = [
        group("Local", security | 4, "p0"),
        group("Built-in", built_in, "p1", "Inner"),
        group("Inner", everywhere, "p2"),
        group("Outer", everywhere, "Built-in"),
    ]

    def got(linked: str) -> list[str]:
        policy = [*policy_values("P", 1, b"p" * 16), ("msDS-PSOAppliesTo", f"CN={linked},{USERS}")]
        text = b"".join(write([*people, *groups, (f"CN=P,{CONTAINER}", policy), domain_record(7)]))
        estate = load_dump(io.BytesIO(text), linked_groups="any").estate
        return [
            name
            for name, won in zip(estate.accounts.name, winners(estate), strict=True)
            if won == 0
        ]

    assert (got("Local"), got("Built-in"), got("Outer"), got("Inner")) == (["p0"], [], [], ["p2"])


def test_bits_of_pwdproperties_that_are_not_ours_are_kept() -> None:
    domain = domain_record(7, pwdProperties="27")[1]
    assert load((ROOT, domain), domain=False).estate.domain.other_properties == 10
