"""On random estates a real server says of everybody what we say."""

from __future__ import annotations

import itertools
from dataclasses import replace

import ldap
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from directory_drafts import read
from directory_server import PEOPLE, SETTINGS, account, add, change, policy
from hornfels.core.domain.estate import GROUP_DOMAIN_LOCAL, GROUP_GLOBAL, GROUP_UNIVERSAL
from hornfels.core.resolution.agreement import disagreements
from hornfels.core.resolution.engine import resolve
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import DAY
from hornfels.directory.asking import words_of
from hornfels.directory.link import Link

SCOPES = [GROUP_GLOBAL, GROUP_GLOBAL, GROUP_UNIVERSAL, GROUP_DOMAIN_LOCAL]
NESTS = {
    (GROUP_GLOBAL, GROUP_GLOBAL),
    (GROUP_GLOBAL, GROUP_UNIVERSAL),
    (GROUP_UNIVERSAL, GROUP_UNIVERSAL),
    *((scope, GROUP_DOMAIN_LOCAL) for scope in SCOPES),
}
"""Which scope may be in which ([MS-ADTS] 3.1.1.3.1.5)."""
FLAGS = [546, 514, 66048, 66082]
"""Disabled or not, with a password that expires or never does."""
numbers = itertools.count()


@settings(max_examples=12, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_the_server_says_the_same_of_everybody(data: st.DataObject, link: Link) -> None:
    for dn, _ in list(link.search(SETTINGS, "one", "(objectClass=*)", ["cn"])):
        link.do("", lambda library, dn=dn: library.delete_s(dn))  # type: ignore[misc]
    example = f"e{next(numbers)}"
    scopes = data.draw(st.lists(st.sampled_from(SCOPES), min_size=1, max_size=5))
    groups = []
    for number, scope in enumerate(scopes):
        dn = f"CN={example}-g{number},{PEOPLE}"
        secure = data.draw(st.sampled_from([-(2**31), -(2**31), 0]))
        add(
            link,
            dn,
            objectClass="group",
            sAMAccountName=f"{example}-g{number}",
            groupType=str(secure + scope),
        )
        groups.append(dn)
    accounts = []
    for number in range(data.draw(st.integers(1, 4))):
        flags = str(data.draw(st.sampled_from(FLAGS)))
        accounts.append(account(link, f"{example}-p{number}", userAccountControl=flags))
    places = st.integers(0, len(groups) - 1)
    for member in accounts:
        for place in data.draw(st.sets(places, max_size=3)):
            change(link, groups[place], (ldap.MOD_ADD, "member", [member.encode()]))
    for inner, outer in data.draw(st.sets(st.tuples(places, places), max_size=6)):
        if inner != outer and (scopes[inner], scopes[outer]) in NESTS:
            change(link, groups[outer], (ldap.MOD_ADD, "member", [groups[inner].encode()]))
    for number in range(data.draw(st.integers(0, 4))):
        targets = data.draw(st.sets(st.sampled_from([*accounts, *groups]), max_size=3))
        age = str(-data.draw(st.integers(1, 60)) * DAY)
        precedence = data.draw(st.integers(1, 2))
        given = {"msDS_MaximumPasswordAge": age}
        policy(link, f"{example}-{number}", precedence, sorted(targets), **given)
    # This server counts links to any security group.
    estate = replace(read(link), linked_groups="any")
    roster = Roster(estate, resolve(estate))
    names = {row: dn for row, dn in enumerate(estate.accounts.dn) if example in dn}
    words = dict(words_of(link, names))
    assert len(words) == len(accounts)
    assert disagreements(roster, words) == []
