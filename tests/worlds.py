"""Small random domains as plain data, written out as LDIF, and a deliberately naive answer to who
gets which policy.

The oracle follows the words of the rules account by account. It shares no code with the product.
"""

from __future__ import annotations

import io
import struct
import uuid
from dataclasses import dataclass, field

from hypothesis import strategies as st

from hornfels.core.domain.estate import LinkedGroups
from hornfels.formats.dump import Dump, load_dump
from hornfels.formats.ldif import write

ROOT = "DC=stone,DC=example"
USERS = f"CN=Users,{ROOT}"

GLOBAL, LOCAL, UNIVERSAL, BUILT_IN = 0x2, 0x4, 0x8, 0x5


@dataclass
class World:
    level: int | None
    groups: list[tuple[int, bool]]  # scope, security
    accounts: list[tuple[int, int | None, int]]  # control bits, primary group, RID
    listed: set[tuple[str, int]] = field(default_factory=set)  # ("a3" or "g1", group)
    policies: list[tuple[int, bytes, list[str]]] = field(
        default_factory=list
    )  # precedence, GUID bytes, links


def account_dn(n: int) -> str:
    return f"CN=Person {n},{USERS}"


def group_dn(n: int) -> str:
    return f"CN=Group {n},{USERS}"


def policy_dn(n: int) -> str:
    return f"CN=Policy {n},CN=Password Settings Container,CN=System,{ROOT}"


def dn_of(ref: str) -> str:
    kinds = {"a": account_dn, "g": group_dn}
    if ref[0] in kinds:
        return kinds[ref[0]](int(ref[1:]))
    return {
        "ou": f"OU=Place,{ROOT}",
        "contact": f"CN=Contact,{USERS}",
        "domain": ROOT,
        "outside": "CN=Else,DC=other,DC=example",
    }[ref]


@st.composite
def worlds(draw: st.DrawFn) -> World:
    groups = draw(
        st.lists(
            st.tuples(
                st.sampled_from([GLOBAL, GLOBAL, GLOBAL, LOCAL, UNIVERSAL, BUILT_IN]),
                st.sampled_from([True, True, True, False]),
            ),
            max_size=6,
        )
    )
    group = st.integers(0, len(groups) - 1) if groups else st.nothing()
    control = st.sampled_from([0x200, 0x200, 0x200, 0x202, 0x1000, 0x2000, 0x800, 0x10200])
    accounts = [
        (
            draw(control),
            draw(st.one_of(st.none(), group)),
            draw(st.sampled_from([502, None, None, None])) or 2000 + n,
        )
        for n in range(draw(st.integers(1, 5)))
    ]
    world = World(draw(st.sampled_from([None, 2, 3, 7, 7])), groups, accounts)
    members = [f"a{n}" for n in range(len(accounts))] + [f"g{n}" for n in range(len(groups))]
    if groups:
        world.listed = draw(st.sets(st.tuples(st.sampled_from(members), group), max_size=14))
    targets = [*members, "ou", "contact", "domain", "outside"]
    guid = st.binary(min_size=16, max_size=16)
    guids = draw(st.lists(guid, max_size=5, unique=True))
    world.policies = [
        (
            draw(st.integers(1, 3)),
            g,
            draw(st.lists(st.sampled_from(targets), max_size=4, unique=True)),
        )
        for g in guids
    ]
    return world


def _sid(*parts: int) -> bytes:
    return (
        struct.pack("<BB", 1, 4 + len(parts))
        + (5).to_bytes(6, "big")
        + struct.pack(f"<{4 + len(parts)}I", 21, 1, 2, 3, *parts)
    )


Entry = tuple[str, list[tuple[str, str | bytes]]]


def ldif(world: World, *, member_of: bool = False) -> bytes:
    """The world as a dump; memberships stand on the groups, or only on the members
    (`member_of`).
    """
    return b"".join(write(entries(world, member_of=member_of)))


def entries(world: World, *, member_of: bool = False) -> list[Entry]:
    lists: dict[str, list[str]] = {}
    containers: dict[str, list[str]] = {}
    for ref, group in sorted(world.listed):
        lists.setdefault(f"g{group}", []).append(dn_of(ref))
        containers.setdefault(ref, []).append(group_dn(group))
    records: list[Entry] = []
    for n, (control, primary, rid) in enumerate(world.accounts):
        values: list[tuple[str, str | bytes]] = [
            ("objectClass", "user"),
            ("sAMAccountName", f"person{n}"),
            ("objectSid", _sid(rid)),
            ("userAccountControl", str(control)),
        ]
        values.append(("primaryGroupID", str(513 if primary is None else 3000 + primary)))
        if member_of:
            values += [("memberOf", dn) for dn in containers.get(f"a{n}", [])]
        records.append((account_dn(n), values))
    for n, (scope, security) in enumerate(world.groups):
        kind = scope | (0x80000000 if security else 0)
        values = [
            ("objectClass", "group"),
            ("sAMAccountName", f"group{n}"),
            ("objectSid", _sid(3000 + n)),
        ]
        values.append(("groupType", str(kind - (1 << 32) if kind & 0x80000000 else kind)))
        if member_of:
            values += [("memberOf", dn) for dn in containers.get(f"g{n}", [])]
        else:
            values += [("member", dn) for dn in lists.get(f"g{n}", [])]
        records.append((group_dn(n), values))
    for n, (precedence, guid, links) in enumerate(world.policies):
        records.append(
            (
                policy_dn(n),
                policy_values(f"Policy {n}", precedence, guid)
                + [("msDS-PSOAppliesTo", dn_of(ref)) for ref in links],
            )
        )
    records.append((f"OU=Place,{ROOT}", [("objectClass", "organizationalUnit")]))
    records.append((f"CN=Contact,{USERS}", [("objectClass", "contact")]))
    records.append(domain_record(world.level))
    return records


def policy_values(
    name: str, precedence: int, guid: bytes, **settings: object
) -> list[tuple[str, str | bytes]]:
    held = {
        "msDS-PasswordSettingsPrecedence": precedence,
        "msDS-MinimumPasswordLength": 12,
        "msDS-PasswordHistoryLength": 24,
        "msDS-PasswordComplexityEnabled": "TRUE",
        "msDS-PasswordReversibleEncryptionEnabled": "FALSE",
        "msDS-MinimumPasswordAge": -864000000000,
        "msDS-MaximumPasswordAge": -36288000000000,
        "msDS-LockoutThreshold": 5,
        "msDS-LockoutObservationWindow": -18000000000,
        "msDS-LockoutDuration": -18000000000,
        **settings,
    }
    return [
        ("objectClass", "msDS-PasswordSettings"),
        ("cn", name),
        ("objectGUID", guid),
        *((k, str(v)) for k, v in held.items()),
    ]


def domain_record(level: int | None, **more: str) -> tuple[str, list[tuple[str, str | bytes]]]:
    values: list[tuple[str, str | bytes]] = [
        ("objectClass", "domainDNS"),
        ("objectSid", _sid()[:1] + b"\x04" + _sid()[2:]),
    ]
    if level is not None:
        values.append(("msDS-Behavior-Version", str(level)))
    return ROOT, [*values, *more.items()]


def read(world: World, linked_groups: LinkedGroups = "global", *, member_of: bool = False) -> Dump:
    return load_dump(io.BytesIO(ldif(world, member_of=member_of)), linked_groups=linked_groups)


def expected(world: World, account: int, linked_groups: LinkedGroups) -> tuple[int | None, str]:
    """(policy number or None, source) for one account, straight from the rules."""
    control, primary, rid = world.accounts[account]
    if control & 0x3800 or rid == 502 or (world.level is not None and world.level < 3):
        return None, "exempt"

    def best(candidates: list[int]) -> int:
        return sorted(candidates, key=lambda p: (world.policies[p][0], list(world.policies[p][1])))[
            0
        ]

    direct = [p for p, (_, _, links) in enumerate(world.policies) if f"a{account}" in links]
    if direct:
        return best(direct), "account"
    inside: set[int] = set()
    waiting = [g for ref, g in world.listed if ref == f"a{account}"] + (
        [] if primary is None else [primary]
    )
    while waiting:
        group = waiting.pop()
        if group in inside or not world.groups[group][1] or world.groups[group][0] == BUILT_IN:
            continue
        inside.add(group)
        waiting += [g for ref, g in world.listed if ref == f"g{group}"]
    counting = {g for g in inside if linked_groups == "any" or world.groups[g][0] == GLOBAL}
    linked = [
        p
        for p, (_, _, links) in enumerate(world.policies)
        if any(f"g{g}" in links for g in counting)
    ]
    return (best(linked), "group") if linked else (None, "domain")


def guid_of(raw: bytes) -> uuid.UUID:
    return uuid.UUID(bytes_le=raw)
