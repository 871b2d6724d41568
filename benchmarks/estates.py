"""Seeded estates of any size: heavy-tailed groups, nesting to depth 8, policies on few groups and
fewer accounts.
"""

from __future__ import annotations

import uuid

import numpy as np

from hornfels.core.domain.estate import (
    UNKNOWN_TIME,
    Accounts,
    Domain,
    Estate,
    Groups,
    Link,
    Memberships,
)
from hornfels.core.policy.model import DEFAULTS, Policy
from hornfels.core.values.text import TextColumn

GLOBAL_SECURITY = 0x80000002
DEPTH = 8


def make(
    accounts: int,
    *,
    seed: int = 7,
    policies: int = 200,
    linked_groups: int = 400,
    memberships: int = 6,
) -> Estate:
    """An estate with about `memberships` explicit memberships an account and a group for every 20
    accounts.
    """
    rng = np.random.default_rng(seed)
    groups = max(linked_groups, accounts // 20)
    # Sizes fall off as a power law: a few groups hold nearly everybody, most hold a handful.
    weight = 1.0 / np.arange(1, groups + 1) ** 0.9
    rng.shuffle(weight)
    container = rng.choice(groups, size=accounts * memberships, p=weight / weight.sum()).astype(
        np.int32
    )
    member = np.repeat(np.arange(accounts, dtype=np.int32), memberships)
    pairs = np.unique(member.astype(np.int64) * groups + container)
    level = rng.integers(0, DEPTH, groups)
    order = np.argsort(level, kind="stable")
    above = np.searchsorted(level[order], level, side="left")
    nests = np.flatnonzero((above > 0) & (rng.random(groups) < 0.5))
    parents = order[(rng.random(len(nests)) * above[nests]).astype(np.int64)].astype(np.int32)

    table = Accounts(
        dn=TextColumn.of(f"CN=Person {n},OU=People,DC=big,DC=example" for n in range(accounts)),
        name=TextColumn.of(f"person{n}" for n in range(accounts)),
        display_name=TextColumn.of(f"Person {n}" for n in range(accounts)),
        other_names=TextColumn.of(f"Person\n{n}" for n in range(accounts)),
        mail=TextColumn.of(f"person{n}@big.example" for n in range(accounts)),
        language=TextColumn.of("" for _ in range(accounts)),
        rid=np.arange(5000, 5000 + accounts),
        control=np.where(rng.random(accounts) < 0.01, 0x1000, 0x200).astype(np.uint32),
        password_set=np.full(accounts, UNKNOWN_TIME),
        bad_count=np.zeros(accounts, np.int32),
        bad_time=np.zeros(accounts, np.int64),
        lockout_time=np.zeros(accounts, np.int64),
        primary_group=np.full(accounts, -1, np.int32),
    )
    group_table = Groups(
        dn=TextColumn.of(f"CN=Group {n},OU=Groups,DC=big,DC=example" for n in range(groups)),
        name=TextColumn.of(f"group{n}" for n in range(groups)),
        rid=np.arange(2_000_000_000, 2_000_000_000 + groups),
        kind=np.full(groups, GLOBAL_SECURITY, np.uint32),
    )
    made = tuple(
        Policy(
            guid=uuid.UUID(bytes=rng.bytes(16)),
            dn=f"CN=Policy {n}",
            name=f"Policy {n}",
            precedence=10 * (n // 2 + 1),
            settings=DEFAULTS,
        )
        for n in range(policies)
    )
    links = [
        Link(n % policies, "group", int(g), group_table.dn[int(g)])
        for n, g in enumerate(rng.choice(groups, size=linked_groups, replace=False))
    ]
    direct = rng.choice(accounts, size=max(1, accounts // 2000), replace=False)
    links += [
        Link(int(rng.integers(policies)), "account", int(a), table.dn[int(a)]) for a in direct
    ]
    domain = Domain(
        dn="DC=big,DC=example",
        dns_name="big.example",
        sid="S-1-5-21-1-2-3",
        functional_level=7,
        settings=DEFAULTS,
    )
    edges = Memberships(
        (pairs // groups).astype(np.int32),
        (pairs % groups).astype(np.int32),
        nests.astype(np.int32),
        parents,
        table,
        group_table,
    )
    return Estate(domain, table, group_table, edges, made, tuple(links))
