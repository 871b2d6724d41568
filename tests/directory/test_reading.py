"""Reading a real server: all of it, what has changed, and what it brings into Hornfels."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import ldap
import pytest
from sqlalchemy.orm import Session

from api_help import work_off
from directory_server import (
    ADMINISTRATOR,
    BASE,
    HOST,
    PASSWORD,
    PEOPLE,
    REALM,
    DirectoryServer,
    account,
    add,
    change,
    group,
    policy,
)
from hornfels.directory import reading
from hornfels.directory.link import Link, bound, linked
from hornfels.directory.reach import RefusedError
from hornfels.directory.reading import Entry
from hornfels.formats.dump import Dump
from hornfels.service import reading as service
from hornfels.store.estates import save_dump
from installation import PLACE, Installation


def held(link: Link) -> dict[bytes, Entry]:
    return {entry.guid: entry for entry in reading.whole(link, BASE)}


def plain(entries: dict[bytes, Entry]) -> dict[str, Any]:
    """Entries to be compared: values of a list have no order."""
    return {
        entry.dn: {name: sorted(values) for name, values in entry.values.items() if values}
        for entry in entries.values()
    }


Deed = Callable[[Link, dict[str, str]], None]


def _rename(link: Link, names: dict[str, str]) -> None:
    link.do("", lambda library: library.rename_s(names["p1"], r"CN=a\, new \\ name"))


def _take_over(link: Link, names: dict[str, str]) -> None:
    """One goes and another comes by its name; a third takes the first's name too."""
    link.do("", lambda library: library.delete_s(names["p2"]))
    account(link, "p2")
    link.do("", lambda library: library.rename_s(names["p3"], "CN=p33"))
    link.do("", lambda library: library.rename_s(names["p4"], "CN=p3"))


def _move_all(link: Link, _names: dict[str, str]) -> None:
    link.do("", lambda library: library.rename_s(PEOPLE, "OU=Folk"))


def _swap_members(link: Link, names: dict[str, str]) -> None:
    change(link, names["g"], (ldap.MOD_DELETE, "member", [names["p5"].encode()]))
    change(link, names["g"], (ldap.MOD_ADD, "member", [names["p6"].encode()]))


def _policies(link: Link, names: dict[str, str]) -> None:
    change(link, names["policy"], (ldap.MOD_REPLACE, "msDS-MinimumPasswordLength", [b"20"]))
    policy(link, "Another", 20, [names["p7"]])


def _delete_group(link: Link, names: dict[str, str]) -> None:
    link.do("", lambda library: library.delete_s(names["inner"]))


DEEDS: dict[str, tuple[Deed, ...]] = {
    "another name": (_rename,),
    "a name that is used again": (_take_over,),
    "everything elsewhere": (_move_all,),
    "members": (_swap_members,),
    "policies": (_policies,),
    "a group gone": (_delete_group,),
    "all at once": (_rename, _take_over, _swap_members, _policies, _delete_group, _move_all),
}


@pytest.mark.parametrize("what", DEEDS)
def test_changes_lead_to_what_reading_everything_shows(link: Link, what: str) -> None:
    names = {f"p{n}": account(link, f"p{n}") for n in range(1, 8)}
    names["inner"] = group(link, "GS-Inner", [names["p1"], names["p2"], names["p4"]])
    names["g"] = group(link, "GS-Outer", [names["p3"], names["p5"], names["inner"]])
    names["policy"] = policy(link, "Night", 10, [names["p2"], names["p3"], names["g"]])
    before, mark = held(link), reading.place(link).mark
    for deed in DEEDS[what]:
        deed(link, names)
    fresh = list(reading.since(link, BASE, mark.usn))
    assert fresh
    assert len(fresh) < len(before) / 2
    there = reading.merged(before, fresh, reading.counts(link, BASE))
    assert plain(there) == plain(held(link))


def test_bad_tries_are_seen_though_they_change_no_number(
    link: Link, server: DirectoryServer
) -> None:
    change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"5"]))
    dn = account(link, "p1")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", ['"Quiet-Harbour-19"'.encode("utf-16-le")]))
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    before, mark = held(link), reading.place(link).mark
    name = f"p1@{REALM}"
    with pytest.raises(RefusedError):
        bound(server.reach().servers[0], server.reach(name, "wrong"))
    fresh = list(reading.since(link, BASE, mark.usn))
    assert fresh == []
    there = reading.merged(before, fresh, reading.counts(link, BASE))
    assert plain(there) == plain(held(link)) != plain(before)
    bound(server.reach().servers[0], server.reach(name, "Quiet-Harbour-19")).close()
    assert plain(
        reading.merged(there, reading.since(link, BASE, mark.usn), reading.counts(link, BASE))
    ) == plain(held(link))


def test_long_lists_are_read_whole(link: Link) -> None:
    names = [account(link, f"p{n}") for n in range(25)]
    dn = group(link, "GS-Many", names)
    for most in (None, 1, 7, 25, 26):
        link.most_values = most
        found = next(e for e in reading.whole(link, BASE) if e.dn == dn)
        assert sorted(found.values["member"]) == sorted(name.encode() for name in names), most


ODD = [
    'quote " and comma, plus + less < more > semi ; equal =',
    "back \\ slash",
    "#begins with a hash",
    "two  blanks inside",
    "naïve façade ßtraße",
    "נכתב מימין לשמאל",
    "🔭" * 20,
    "*(asterisk)*",
    "a/b & 'c'",
]


def test_names_with_every_special_character_come_as_they_are(link: Link) -> None:
    made = []
    for number, name in enumerate(ODD):
        dn = f"CN={ldap.dn.escape_dn_chars(name)},{PEOPLE}"
        add(link, dn, objectClass="user", sAMAccountName=f"odd{number}", displayName=name)
        made.append(dn)
    group(link, "GS-Odd", made)
    policy(link, "Odd", 10, made)
    entries = held(link)
    by_name = {e.values.get("samaccountname", [b""])[0]: e for e in entries.values()}
    for number, name in enumerate(ODD):
        found = by_name[f"odd{number}".encode()]
        assert found.values["displayname"] == [name.encode()]
        assert found.values["cn"] == [name.encode()]
    members = by_name[b"GS-Odd"].values["member"]
    assert sorted(members) == sorted(
        by_name[f"odd{number}".encode()].dn.encode() for number in range(len(ODD))
    )


DEFAULT_POLICY = "{31B2F340-016D-11D2-945F-00C04FB984F9}"


TEMPLATE = "MACHINE/Microsoft/Windows NT/SecEdit/GptTmpl.inf"


def policies_of(server: DirectoryServer) -> Path:
    return server.sysvol / REALM / "Policies"


def write_template(server: DirectoryServer, line: str) -> None:
    """Let the default policy's template say this of accounts."""
    place = policies_of(server) / DEFAULT_POLICY / TEMPLATE
    place.parent.mkdir(parents=True, exist_ok=True)
    text = f"[Unicode]\r\nUnicode=yes\r\n[System Access]\r\n{line}\r\n"
    place.write_bytes(text.encode("utf-16"))


def test_a_domain_comes_from_its_directory_and_stays_as_it_is_there(
    installation: Installation, link: Link
) -> None:
    assert installation.client.get(PLACE).json()["connected"] is False
    assert installation.connect().json() == {"waits": False}
    kept = installation.client.get(PLACE).json()["connection"]
    assert {key: kept[key] for key in ("servers", "authorities")} == {
        "servers": [{"host": HOST, "port": None, "address": installation.server.address}],
        "authorities": installation.server.authorities,
    }, "what is shown can be saved again"
    tried = installation.client.post(
        f"{PLACE}/test", json={"connection": installation.connection()}
    ).json()
    assert {step["state"] for step in tried} <= {"works", "note"}
    one, two = account(link, "ilse.varga"), account(link, "tobin.hale")
    for number in range(10):
        account(link, f"p{number}")
    crew = group(link, "GS-Night", [one])
    policy(link, "Night operators", 30, [crew])
    write_template(installation.server, "MinimumPasswordLength = 9")
    first = installation.read()
    assert (first["job"]["state"], first["reading"]["first"]) == ("done", True)
    assert first["reading"]["agreement"]["disagree"] == 0
    assert {t["name"]: t["read"] for t in first["reading"]["templates"]} == {
        "Default Domain Policy": True,
        "Default Domain Controllers Policy": False,
    }
    estate = installation.estate()
    assert estate.policies[0].name == "Night operators"
    assert estate.find_account("ilse.varga") is not None
    change(link, crew, (ldap.MOD_ADD, "member", [two.encode()]))
    change(link, BASE, (ldap.MOD_REPLACE, "minPwdLength", [b"11"]))
    link.do("", lambda library: library.delete_s(one))
    second = installation.read()
    assert second["reading"]["whole"] is False
    said = {(n["subject"], n["text"]) for n in second["reading"]["news"]}
    assert ("accounts", "1 account is gone") in said
    assert ("memberships", "1 membership began") in said
    length = next(n for n in second["reading"]["news"] if n["text"].startswith("Minimum length"))
    # Since when, and at which server: who it was no directory keeps.
    assert abs(datetime.fromisoformat(length["at"]) - datetime.now(UTC)) < timedelta(minutes=5)
    assert length["where"] == "DC1"
    assert installation.estate().domain.settings.min_length == 11
    third = installation.read()
    assert third["reading"]["news"] == []
    assert third["reading"]["read_at"] > second["reading"]["read_at"]
    assert installation.read(whole=True)["reading"]["whole"] is True
    history = installation.client.get(f"/api/domains/{REALM}/history").json()
    assert len(history) == 3, "nothing new makes no point of it"


@pytest.mark.parametrize(
    ("line", "words"),
    [("MinimumPasswordLength = nine", "MinimumPasswordLength"), (None, "lost its files")],
)
def test_a_template_that_cannot_be_read_is_said_and_the_rest_is_read(
    installation: Installation, line: str | None, words: str
) -> None:
    if line:
        write_template(installation.server, line)
    else:
        shutil.rmtree(policies_of(installation.server) / DEFAULT_POLICY)
    installation.connect()
    found = installation.read()
    assert found["job"]["state"] == "done"
    told = {t["name"]: t["problem"] for t in found["reading"]["templates"]}
    assert words in told["Default Domain Policy"]
    assert told["Default Domain Controllers Policy"] == ""


def test_a_template_alone_is_read_too(installation: Installation) -> None:
    installation.connect()
    installation.read()
    write_template(installation.server, "MinimumPasswordLength = 13")
    installation.read()
    said = installation.estate().domain.templates.values()
    assert [dict(t) for t in said if t] == [{"min_length": 13}]


def test_a_template_that_is_gone_says_nothing(installation: Installation) -> None:
    installation.connect()
    write_template(installation.server, "MinimumPasswordLength = 13")
    installation.read()
    (policies_of(installation.server) / DEFAULT_POLICY / TEMPLATE).unlink()
    installation.read()
    assert not any(dict(t) for t in installation.estate().domain.templates.values())


def test_what_was_changed_here_alone_is_as_in_the_directory_again(
    installation: Installation, link: Link
) -> None:
    for number in range(10):
        account(link, f"p{number}")
    policy(link, "Night", 10)
    installation.connect()
    installation.read()
    place = f"/api/domains/{REALM}"
    dump = installation.estate()
    with Session(installation.engine) as session, session.begin():
        fewer = replace(dump, policies=(), links=())
        save_dump(session, Dump(fewer, (), 0), "an old dump", "ann")
    assert installation.client.get(f"{place}/strata").json()["layers"] == []
    news = installation.read()["reading"]["news"]
    assert any("Night" in one["subject"] + one["text"] for one in news)
    assert [p.name for p in installation.estate().policies] == ["Night"]


def test_where_the_directory_says_otherwise_both_reasons_are_kept(
    installation: Installation, link: Link
) -> None:
    """The server counts links to any security group; the specification global ones only."""
    dn = account(link, "ilse.varga")
    add(
        link,
        f"CN=GU-Pilot,{PEOPLE}",
        objectClass="group",
        sAMAccountName="GU-Pilot",
        groupType=str(-(2**31) + 8),
        member=[dn],
    )
    policy(link, "Pilot", 70, [f"CN=GU-Pilot,{PEOPLE}"])
    installation.connect()
    agreement = installation.read()["reading"]["agreement"]
    (found,) = agreement["found"]
    assert (found["account"], found["ours"], found["theirs"]) == (
        "ilse.varga",
        "Domain policy",
        "Pilot",
    )
    assert found["reason"]
    choice = {"version": 1, "linked_groups": "any", "reason": "A Samba domain"}
    assert installation.client.patch(f"/api/domains/{REALM}", json=choice).status_code == 200
    assert installation.client.post(f"{PLACE}/compare").status_code == 202
    work_off(installation.engine)
    agreement = installation.client.get(PLACE).json()["reading"]["agreement"]
    assert (agreement["everybody"], agreement["disagree"]) == (True, 0)
    assert agreement["asked"] == len(installation.estate().accounts)


def test_a_server_that_goes_away_leaves_what_was_read_before(
    installation: Installation, link: Link
) -> None:
    account(link, "ilse.varga")
    installation.connect()
    installation.read()
    before = installation.estate()
    installation.server.stop()
    failed = installation.read()
    assert failed["job"]["state"] == "failed"
    assert "dc1.sky.tarnholt.example" in failed["reading"]["error"]
    assert len(installation.estate().accounts) == len(before.accounts)


def test_a_domain_that_loses_many_accounts_waits_to_be_confirmed(
    installation: Installation, link: Link
) -> None:
    names = [account(link, f"p{n}") for n in range(8)]
    installation.connect()
    installation.read()
    for dn in names:
        link.do("", lambda library, dn=dn: library.delete_s(dn))  # type: ignore[misc]
    waiting = installation.read()
    assert waiting["job"]["state"] == "held"
    assert installation.estate().find_account("p0") is not None
    job = waiting["job"]["id"]
    body = {"reason": "They have left"}
    assert installation.client.post(f"/api/jobs/{job}/confirm", json=body).status_code == 200
    work_off(installation.engine)
    assert installation.estate().find_account("p0") is None


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"security": "none"}, "security"),
        ({"servers": [{"host": "no host"}]}, "servers.0.host"),
        ({"servers": [{"host": "a.b", "address": "x"}]}, "servers.0.address"),
        ({"pinned": "12"}, "pinned"),
        ({"authorities": "no certificate"}, "authorities"),
        ({"reader": {"name": "", "secret": "s"}}, "reader.name"),
        ({"reader": {"name": "n", "secret": "../../etc/shadow"}}, "reader.secret"),
        ({"writer": {"name": "n", "secret": ""}}, "writer.secret"),
    ],
)
def test_what_cannot_be_a_connection_is_refused_by_its_field(
    installation: Installation, given: dict[str, Any], field: str
) -> None:
    refused = installation.connect(**given)
    assert refused.status_code == 422
    assert [one["field"] for one in refused.json()["detail"]] == [field]


def test_a_secret_is_kept_on_the_machine_and_shown_nowhere(
    installation: Installation, tmp_path: Path
) -> None:
    secrets = tmp_path / "secrets"
    installation.connect()
    installation.read()
    assert PASSWORD not in installation.client.get(PLACE).text
    assert PASSWORD not in installation.client.get("/api/trail").text
    installation.connect(reader={"name": f"Administrator@{REALM}", "secret": "unknown"})
    assert "is not kept here" in installation.read()["reading"]["error"]
    installation.connect()
    (secrets / "tarnholt").chmod(0o640)
    assert "Give it mode 0600" in installation.read()["reading"]["error"]


def test_where_approval_is_required_a_second_person_agrees_where_passwords_are_sent(
    installation: Installation,
) -> None:
    client = installation.client
    installation.connect()
    installation.read()
    on = {"version": 1, "approval_required": True, "reason": "r"}
    assert client.patch(f"/api/domains/{REALM}", json=on).status_code == 200
    elsewhere = {"servers": [{"host": "evil.example"}]}
    body = {"connection": installation.connection(**elsewhere)}
    refused = client.post(f"{PLACE}/test", json=body)
    assert (refused.status_code, "second person" in refused.json()["detail"]) == (409, True)
    assert installation.connect(**elsewhere).json() == {"waits": True}
    shown = client.get(PLACE).json()["connection"]["servers"]
    assert [one["host"] for one in shown] == ["dc1.sky.tarnholt.example"]
    assert client.get("/api/acts").json()[0]["sentence"].endswith("is read at evil.example")


def test_accounts_are_unlocked_in_the_directory(installation: Installation, link: Link) -> None:
    change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"1"]))
    names = ["ilse.varga", "tobin.hale"]
    for name in names:
        dn = account(link, name)
        secret = '"Quiet-Harbour-19"'.encode("utf-16-le")
        change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [secret]))
        change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
        with pytest.raises(RefusedError):
            linked(installation.server.reach(f"{name}@{REALM}", "wrong"))
    installation.connect()
    installation.read()
    place, body = f"/api/domains/{REALM}/locks", {"accounts": names, "reason": "Called in"}
    by_hand = installation.client.post(f"{place}/unlockings", json=body).json()
    assert (by_hand["told"], by_hand["job"]) == (None, None), "nobody is set to write"
    installation.connect(writer={"name": ADMINISTRATOR, "secret": "tarnholt"})
    # One of them is gone meanwhile.
    link.do("", lambda library: library.delete_s(f"CN=tobin.hale,{PEOPLE}"))
    found = installation.client.post(f"{place}/unlockings", json=body).json()
    assert found["told"].startswith("tobin.hale: ")
    assert "no such object" in found["told"]
    assert link.entry(f"CN=ilse.varga,{PEOPLE}", ["lockoutTime"])["lockouttime"] == [b"0"]
    assert found["job"]["kind"] == "read"
    one = {"accounts": ["ilse.varga"], "reason": "It was on a note at the dome"}
    renewed = installation.client.post(f"{place}/must-change", json=one).json()
    assert renewed["told"] == ""
    assert link.entry(f"CN=ilse.varga,{PEOPLE}", ["pwdLastSet"])["pwdlastset"] == [b"0"]
    work_off(installation.engine)
    trail = installation.client.get("/api/trail", params={"what": "unlocking in"}).json()[
        "entries"
    ][0]
    assert trail["detail"]["accounts"] == ["ilse.varga"]
    assert list(trail["detail"]["refused"]) == ["tobin.hale"]


def test_readings_come_by_themselves(installation: Installation, link: Link) -> None:
    account(link, "ilse.varga")
    installation.connect(every=15)
    now = datetime.now(UTC)
    for later, job in ((0, True), (1, False), (16, True)):
        with Session(installation.engine) as session, session.begin():
            service.begin_due(session, now + timedelta(minutes=later))
        before = installation.client.get(PLACE).json()["reading"]
        work_off(installation.engine)
        found = installation.client.get(PLACE).json()
        assert found["job"]["user"] == "Hornfels"
        assert (found["reading"] != before) == job
