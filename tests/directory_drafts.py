"""Random drafts on a real directory: accounts, groups and policies whose names need escapes."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import ldap
from hypothesis import strategies as st

from directory_server import BASE, PEOPLE, SETTINGS, account, change, group, policy
from drafting import operation
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.operations import EditSource, Operations, published
from hornfels.core.policy.catalogue import CATALOGUE
from hornfels.core.values.dn import loose_key
from hornfels.directory import reading
from hornfels.directory.link import Link, Values
from hornfels.directory.writing import carry_out
from hornfels.formats.dump import dump_of
from hornfels.formats.ldif import Record
from hornfels.formats.writes import Guard

SECOND = f"CN={{6AC1786C-016F-11D2-945F-00C04FB984F9}},CN=Policies,CN=System,{BASE}"


def read(link: Link) -> Estate:
    """The domain as it is, with the guards of its policies."""
    entries = {entry.guid: entry for entry in reading.whole(link, BASE)}
    entries = reading.with_rules(entries, reading.access_rules(link, BASE))
    dump = dump_of(Record(e.dn, 0, e.values, b"", in_parts=False) for e in entries.values())
    policies = (replace(p, guarded=dump.guards[p.guid]) for p in dump.estate.policies)
    return replace(dump.estate, policies=tuple(policies))


def shown(estate: Estate, *, guards: bool = False) -> object:
    """All that can be written, whatever GUIDs the directory gave."""
    links: dict[int, Counter[str]] = {}
    for link in estate.links:
        links.setdefault(link.policy, Counter())[loose_key(link.dn)] += 1
    return (
        {
            loose_key(p.dn): (
                p.name,
                p.precedence,
                p.settings,
                links.get(n, Counter()),
                guards and p.guarded,
            )
            for n, p in enumerate(estate.policies)
        },
        estate.domain.settings,
        estate.domain.other_properties,
        [
            (loose_key(ln.gpo), ln.order, ln.enforced, ln.disabled)
            for ln in estate.domain.gpo_links
            if ln.container == BASE
        ],
    )


def prepared(link: Link) -> Values:
    """Make the accounts and groups, and link two group policies at the root; what drafts change of
    the domain object, as it is then.
    """
    names = [account(link, f"p{number}") for number in range(3)]
    odd = account(link, "odd", displayName="Odd")
    link.do("", lambda library: library.rename_s(odd, r"CN=O\"dd\, one\+two \\ \#3"))
    group(link, "GS-Crew", names)
    held = link.entry(BASE, ["gPLink"])["gplink"][0]
    second = f"[LDAP://{SECOND};0]".encode()
    change(link, BASE, (ldap.MOD_REPLACE, "gPLink", [held + second]))
    return link.entry(BASE, ["gPLink", *dict.fromkeys(s.domain_attribute for s in CATALOGUE)])


def begun_anew(link: Link, domain: Values) -> None:
    """The domain's policies as at the beginning of every example."""
    for dn, _ in list(link.search(SETTINGS, "one", "(objectClass=*)", ["cn"])):
        carry_out(link, Guard(dn, on=False))
        link.do("", lambda library, dn=dn: library.delete_s(dn))  # type: ignore[misc]
    policy(link, "Policy 0", 1, [f"CN=GS-Crew,{PEOPLE}"])
    policy(link, "Policy 1", 2, [f"CN=p0,{PEOPLE}"])
    change(link, BASE, *((ldap.MOD_REPLACE, name, held) for name, held in domain.items()))


def drawn(data: st.DataObject, base: Estate) -> tuple[Estate, Operations]:
    """Some operations on the estate, and how it is after them."""
    estate = base
    operations: Operations = ()
    for number in range(data.draw(st.integers(1, 6))):
        for op in data.draw(operation(estate, number)):
            # Templates are files, and what they write comes later.
            if isinstance(op, EditSource):
                continue
            applied = apply(base, published((*operations, op)))
            if not applied.conflicts:
                estate, operations = applied.estate, published((*operations, op))
    return estate, operations
