"""Change records that a real server takes as they are: what the draft showed is what it holds."""

from __future__ import annotations

import os
import subprocess
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import ldap
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from directory_server import (
    ADMINISTRATOR,
    BASE,
    PASSWORD,
    PEOPLE,
    REALM,
    SETTINGS,
    DirectoryServer,
    account,
    change,
    group,
    policy,
)
from drafting import operation
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.operations import EditSource, Operations, published
from hornfels.core.policy.catalogue import CATALOGUE
from hornfels.core.values.dn import loose_key
from hornfels.directory import reading
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import RefusedError
from hornfels.formats.changes import write_account_changes, write_changes
from hornfels.formats.dump import dump_of
from hornfels.formats.ldif import Record

SECOND = f"CN={{6AC1786C-016F-11D2-945F-00C04FB984F9}},CN=Policies,CN=System,{BASE}"


def read(link: Link) -> Estate:
    entries = reading.whole(link, BASE)
    return dump_of(Record(e.dn, 0, e.values, b"", in_parts=False) for e in entries).estate


def shown(estate: Estate) -> object:
    """All that change records can change, whatever GUIDs the directory gave."""
    links: dict[int, Counter[str]] = {}
    for link in estate.links:
        links.setdefault(link.policy, Counter())[loose_key(link.dn)] += 1
    return (
        {
            loose_key(p.dn): (p.name, p.precedence, p.settings, links.get(n, Counter()))
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


def modified(server: DirectoryServer, records: bytes, folder: Path) -> None:
    file = folder / "changes.ldif"
    file.write_bytes(records)
    done = subprocess.run(
        [
            *("ldapmodify", "-x", "-H", f"ldaps://{server.address}", "-f", str(file)),
            *("-D", ADMINISTRATOR, "-w", PASSWORD),
        ],
        env={**os.environ, "LDAPTLS_REQCERT": "never"},
        capture_output=True,
        text=True,
    )
    assert done.returncode == 0, f"{done.stderr}\n{records.decode()}"


@pytest.fixture
def link(server: DirectoryServer) -> Iterator[Link]:
    """With accounts, groups and policies whose names need escapes, and two group policies at the
    root.
    """
    with server.administrator() as found:
        names = [account(found, f"p{number}") for number in range(3)]
        odd = account(found, "odd", displayName="Odd")
        found.do("", lambda library: library.rename_s(odd, r"CN=O\"dd\, one\+two \\ \#3"))
        group(found, "GS-Crew", names)
        held = found.entry(BASE, ["gPLink"])["gplink"][0]
        second = f"[LDAP://{SECOND};0]".encode()
        change(found, BASE, (ldap.MOD_REPLACE, "gPLink", [held + second]))
        yield found


@pytest.fixture
def at_first(link: Link) -> dict[str, list[bytes]]:
    """What drafts change of the domain object, as it was."""
    return link.entry(BASE, ["gPLink", *dict.fromkeys(s.domain_attribute for s in CATALOGUE)])


def begun_anew(link: Link, domain: dict[str, list[bytes]]) -> None:
    """The domain's policies as at the beginning of every example."""
    for dn, _ in list(link.search(SETTINGS, "one", "(objectClass=*)", ["cn"])):
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


@settings(max_examples=12, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_the_server_holds_what_the_draft_showed(
    data: st.DataObject,
    link: Link,
    at_first: dict[str, list[bytes]],
    server: DirectoryServer,
    tmp_path: Path,
) -> None:
    begun_anew(link, at_first)
    base = read(link)
    wanted, operations = drawn(data, base)
    if not operations:
        return
    modified(server, b"".join(write_changes(base, operations, "Random")), tmp_path)
    assert shown(read(link)) == shown(wanted)


def test_an_unlocking_that_was_asked_for_unlocks(
    link: Link, server: DirectoryServer, tmp_path: Path
) -> None:
    change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"1"]))
    dn = account(link, "keeper")
    secret = '"Quiet-Harbour-19"'.encode("utf-16-le")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [secret]))
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    reach = server.reach(f"keeper@{REALM}", "wrong")
    with pytest.raises(RefusedError):
        linked(reach)
    assert int(link.entry(dn, ["lockoutTime"])["lockouttime"][0]) > 0
    modified(server, b"".join(write_account_changes([dn], "unlocking", "Called in")), tmp_path)
    held = link.entry(dn, ["lockoutTime", "badPwdCount"])
    assert (held["lockouttime"], held["badpwdcount"]) == ([b"0"], [b"0"])
