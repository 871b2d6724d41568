"""Change records that a real server takes as they are: what the draft showed is what it holds."""

from __future__ import annotations

from pathlib import Path

import ldap
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from directory_drafts import begun_anew, drawn, prepared, read, shown
from directory_server import BASE, REALM, DirectoryServer, account, change, modified
from hornfels.directory.link import Link, Values, linked
from hornfels.directory.reach import RefusedError
from hornfels.formats.changes import write_account_changes, write_changes


@pytest.fixture
def at_first(link: Link) -> Values:
    return prepared(link)


@pytest.mark.thorough
@settings(max_examples=12, suppress_health_check=list(HealthCheck))
@given(data=st.data())
def test_the_server_holds_what_the_draft_showed(
    data: st.DataObject,
    link: Link,
    at_first: Values,
    server: DirectoryServer,
    tmp_path: Path,
) -> None:
    begun_anew(link, at_first)
    base = read(link)
    wanted, operations = drawn(data, base)
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
