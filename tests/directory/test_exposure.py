"""Hashes as a real directory replicates them, compared, and what a standing order does there."""

from __future__ import annotations

import subprocess
from pathlib import Path

import ldap
import pytest
from sqlalchemy import Engine

from api_help import work_off
from directory_server import BASE, NETBIOS, PASSWORD, PEOPLE, REALM, account, change
from hornfels.core.passwords.digests import nt_hash
from hornfels.directory.link import Link
from hornfels.formats.corpus.building import build
from installation import DOMAIN, Installation
from killed import killed_after_each

PASSWORDS = {"mara": "Quiet-Harbour-19", "odile": "Quiet-Harbour-19", "noor": "Unheard-Harbour-74"}
PASSWORDS["ivo"] = PASSWORDS["mara"]
SCRIPT = Path(__file__).parents[2] / "deploy" / "account_hashes.py"


def set_password(link: Link, dn: str, secret: str) -> None:
    written = f'"{secret}"'.encode("utf-16-le")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [written]))
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))


@pytest.fixture
def known(installation: Installation, link: Link, tmp_path: Path) -> Path:
    """Three people of whom Hornfels knows, a corpus, and the file that replication gives."""
    for name, secret in PASSWORDS.items():
        set_password(link, account(link, name), secret)
    installation.server.stop()
    installation.server.start("ldap, rpc, drepl")
    writer = {"name": f"Administrator@{REALM}", "secret": "tarnholt"}
    assert installation.connect(writer=writer).status_code == 200
    installation.read()
    for folder in ("corpora", "hashes"):
        (tmp_path / folder).mkdir()
    (tmp_path / "words").write_text("Quiet-Harbour-19\n")
    build(tmp_path / "corpora" / "known.hfc", "plain", [tmp_path / "words"])
    file = tmp_path / "hashes" / f"{REALM}.hashes"
    done = subprocess.run(
        [
            *("/usr/bin/python3", str(SCRIPT), installation.server.address),
            *("--user", "Administrator", "--domain", NETBIOS, "--base", BASE, "-o", str(file)),
        ],
        input=f"{PASSWORD}\n",
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    return file


def must_change(installation: Installation) -> set[str]:
    """Who has to choose another password, as the directory says."""
    with installation.server.administrator() as link:
        found = link.search(PEOPLE, "one", "(pwdLastSet=0)", ["sAMAccountName"])
        return {values["samaccountname"][0].decode() for _, values in found}


@pytest.mark.thorough
def test_who_is_known_to_others_has_to_choose_another_password_by_standing_order(
    installation: Installation, engine: Engine, known: Path
) -> None:
    assert known.stat().st_mode & 0o777 == 0o600
    held = dict(line.split(",") for line in known.read_text().splitlines())
    assert {name: held[name] for name in PASSWORDS} == {
        name: nt_hash(secret).hex() for name, secret in PASSWORDS.items()
    }
    client = installation.client
    spared = {"enforced": False, "spared": ["odile"], "reason": "break glass"}
    assert client.put(f"{DOMAIN}/gate/lifetimes", json=spared).status_code == 200
    # Whoever has another one by now, which was not read yet, is left alone.
    with installation.server.administrator() as link:
        set_password(link, f"CN=ivo,{PEOPLE}", "Another-Harbour-31")
    order = {"consequence": "now", "standing": True, "reason": "agreed"}
    assert client.put(f"{DOMAIN}/exposure/orders/domain", json=order).status_code == 200
    assert must_change(installation) == set()
    assert client.post(f"{DOMAIN}/exposure/look", json={}).status_code == 202
    killed_after_each(engine, "exposure", ("asked for", "changing", "carried out", "kept"))
    work_off(engine)
    found = client.get(f"{DOMAIN}/exposure").json()
    # Until they have chosen another one, it is still the one that others know.
    assert (found["trouble"], found["now"]["exposed"]) == ("", 2), found["now"]
    assert must_change(installation) == {"mara"}
    assert [(one["account"], one["told"]) for one in found["deeds"]] == [("mara", "")]
    assert {one["size"] for one in found["groups"]} <= {2}
