"""The rights that docs/directory.md writes out are enough for an account that has no others."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path
from uuid import uuid4

import ldap

from directory_drafts import read
from directory_server import (
    BASE,
    REALM,
    SETTINGS,
    DirectoryServer,
    account,
    add,
    change,
    policy,
)
from hornfels.core.drafts.applying import apply
from hornfels.core.drafts.edits import edits, removal
from hornfels.core.drafts.operations import AddPolicy, RenamePolicy, Target
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.values.sid import sid_text
from hornfels.directory.accounts import carried_out
from hornfels.directory.link import Link, linked
from hornfels.directory.rehearsing import fresh_name, standing_in
from hornfels.directory.writing import carry_out
from hornfels.formats.writes import planned

DOCS = Path(__file__).parents[2] / "docs" / "directory.md"
STAGE = f"OU=Stage,{BASE}"
SECRET = "Quiet-Harbour-19"


def written_out() -> list[tuple[str, str]]:
    """Where each rule of the docs is set, and the rule."""
    text = DOCS.read_text()
    places = {"`DC=…`": BASE, "the container above": SETTINGS, "the same": SETTINGS}
    found = [(SETTINGS, re.findall(r"^  `(\(A;CI;LCRPLORC;;;SID\))`", text, re.MULTILINE)[0])]
    for row in re.findall(r"^\| [^|]+ \| ([^|]+) \| `([^`]+)`", text, re.MULTILINE):
        place = next((dn for words, dn in places.items() if row[0].startswith(words)), STAGE)
        found.append((place, row[1]))
    return found


def test_whoever_has_the_rights_of_the_docs_can_do_it_all(
    link: Link, server: DirectoryServer
) -> None:
    add(link, STAGE, objectClass="organizationalUnit")
    dn = account(link, "writer")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [f'"{SECRET}"'.encode("utf-16-le")]))
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    sid = sid_text(link.entry(dn, ["objectSid"])["objectsid"][0])
    rules = written_out()
    assert len(rules) == 7
    database = server.folder / "private" / "sam.ldb"
    for place, rule in rules:
        subprocess.run(
            [
                *("samba-tool", "dsacl", "set", f"--objectdn={place}", "-H", str(database)),
                f"--sddl={rule.replace('SID', sid)}",
            ],
            check=True,
            capture_output=True,
        )
    someone = account(link, "someone")
    policy(link, "Night", 10, [someone])
    policy(link, "Old", 20)
    base = read(link)
    night, old = (next(p for p in base.policies if p.name == name) for name in ("Night", "Old"))
    late = AddPolicy(
        policy=uuid4(), name="Late", precedence=5, settings=DEFAULTS, links=(Target(dn=someone),)
    )
    rename = RenamePolicy(policy=night.guid, before="Night", after="Night watch")
    length = edits(base, "domain", settings=DEFAULTS.changed({"min_length": 9}))
    wanted = apply(base, (removal(base, old.guid), late, rename, *length)).estate
    with linked(server.reach(f"writer@{REALM}", SECRET)) as writer:
        for step in planned(base, wanted).steps:
            carry_out(writer, step.write)
        held = next(p for p in read(link).policies if p.name == "Late")
        for step in planned(
            read(link), apply(read(link), (removal(read(link), held.guid),)).estate
        ).steps:
            carry_out(writer, step.write)
        assert list(carried_out(writer, "unlocking", [someone])) == [""]
        place = f"CN=Night watch,{SETTINGS}"
        with standing_in(writer, server.reach(), STAGE, fresh_name(), place) as one:
            one.begin("Slow-Eclipse-2031", SECRET)
            assert one.happen("bad", "", SECRET) == "refused"
            assert one.happen("unlock", "", SECRET) == "unlocked"
    assert [p.name for p in read(link).policies] == ["Night watch"]
