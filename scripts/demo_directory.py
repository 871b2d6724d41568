"""The demo before a real directory server on loopback that holds the invented domain: every feature
that asks or changes a directory is live. The server is provisioned and filled once, and started
again afterwards.
"""

from __future__ import annotations

import asyncio
import os
import secrets
import subprocess
import sys
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))

import ldap
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from directory_server import (
    ADMINISTRATOR,
    BASE,
    HOST,
    PASSWORD,
    TEMPLATE,
    DirectoryServer,
    add,
    change,
    provisioned,
)
from hornfels.cli.database import database
from hornfels.cli.gate import hook_line
from hornfels.cli.serve import serve_web
from hornfels.core.values.dn import first_value
from hornfels.demo.tarnholt import DNS_NAME, Entry, entries, templates
from hornfels.demo.trials import demo_trials
from hornfels.directory.link import Link
from hornfels.directory.writing import carry_out
from hornfels.formats.policies_folder import PLACE
from hornfels.formats.writes import Guard
from hornfels.service import reading
from hornfels.service.connections import Connection, Door, ServerName, Signer
from hornfels.service.demo_domain import DEMO_PEOPLE, DEMO_USER, let_demo_in
from hornfels.settings import read_settings, usual_home
from hornfels.store import gate as callers
from hornfels.store import trials
from hornfels.store.models import ConnectionRow, DomainRow
from hornfels.worker.work import work

ADDRESS = "127.0.0.77"
STAGE = f"OU=Rehearsals,{BASE}"
COMES_IN = "ilse.varga"
"""Is in a group that opens a door, and has a password in the directory."""
_ORDER = ("organizationalunit", "grouppolicycontainer", "group", "user", "msds-passwordsettings")
"""What has to be there before the next."""
_BUILT_IN = f",CN=Builtin,{BASE}"
_GIVEN = {
    "organizationalunit": ("gPLink",),
    "grouppolicycontainer": ("displayName", "flags", "versionNumber", "gPCMachineExtensionNames"),
    "group": ("sAMAccountName", "groupType"),
    "user": ("sAMAccountName", "displayName"),
}
"""What may be said of an object over LDAP."""
_STORY = ("userAccountControl", "pwdLastSet", "badPwdCount", "badPasswordTime", "lockoutTime")
"""What only the server itself writes, and the invented domain tells a story by."""


def main() -> None:
    folder = Path(os.environ.get("HORNFELS_HOME") or f"{usual_home()}-directory")
    os.environ["HORNFELS_HOME"] = str(folder / "hornfels")
    os.environ["HORNFELS_SYSVOL"] = str(folder / "server" / "state" / "sysvol")
    folder.mkdir(parents=True, exist_ok=True)
    server = DirectoryServer(_provisioned(folder), ADDRESS, folder / "server")
    gate: subprocess.Popen[bytes] | None = None
    try:
        if not (folder / "filled").exists():
            _fill(server)
            (folder / "filled").touch()
        socket = folder / "gate.sock"
        # Only from now on: what it was filled with is nobody's to judge.
        server.start("ldap", hook_line(socket, "accept").replace(" = ", "=", 1))
        _keep_secret(folder / "hornfels" / "secrets" / "tarnholt", PASSWORD)
        with database(patient=False) as engine:
            password = _connected(engine, server)
            _let_it_ask(engine, folder / "gate-token")
        gate = _gate(folder, socket)
        print(f"The directory server is at ldaps://{ADDRESS}, as {ADMINISTRATOR}", flush=True)
        print(f"Sign in as {DEMO_USER} with the password {password}", flush=True)
        others = ", ".join(name for name in DEMO_PEOPLE if name != DEMO_USER)
        print(f"{COMES_IN}@{DNS_NAME} comes in by the directory with {PASSWORD}", flush=True)
        print(f"The demo password opens the other roles: {others}", flush=True)
        print("It asks at the gate: add a rule, publish it, set a password", flush=True)
        serve_web(read_settings(), demo=False)
    finally:
        if gate:
            gate.terminate()
            gate.wait()
        server.stop()


def _provisioned(folder: Path) -> Path:
    if (folder / "server" / "etc").exists():
        # The server was copied from the template at an earlier start.
        return folder / TEMPLATE
    print("Making a directory server …", flush=True)
    return provisioned(folder)


def _fill(server: DirectoryServer) -> None:
    print("Filling it with the invented domain …", flush=True)
    listed = list(entries(datetime.now(UTC)))
    server.start()
    try:
        with server.administrator() as link:
            told = _added(link, listed)
            for dn in (entry[0] for entry in listed if _kind(entry) == "msds-passwordsettings"):
                carry_out(link, Guard(dn, on=True))
            add(link, STAGE, objectClass="organizationalUnit")
            secret = f'"{PASSWORD}"'.encode("utf-16-le")
            someone = next(dn for dn, values in listed if ("sAMAccountName", COMES_IN) in values)
            change(link, someone, (ldap.MOD_REPLACE, "unicodePwd", [secret]))
    finally:
        server.stop()
    for gpo, template in templates().items():
        file = server.sysvol.joinpath(DNS_NAME, "Policies", first_value(gpo), *PLACE)
        file.parent.mkdir(parents=True, exist_ok=True)
        file.write_bytes(template)
    server.tell(told)


def _kind(entry: Entry) -> str:
    classes = {str(value).lower() for name, value in entry[1] if name == "objectClass"}
    return next((kind for kind in _ORDER if kind in classes), "")


def _added(link: Link, listed: list[Entry]) -> list[Entry]:
    """Add what is not there yet, then who is in which group, then what the domain says; what is
    left to be told of accounts, by their names.
    """
    outermost = sorted(listed, key=lambda entry: entry[0].count(","))
    added = [entry for kind in _ORDER for entry in outermost if _kind(entry) == kind]
    told = []
    for dn, values in added:
        kind = _kind((dn, values))
        classes = [str(value) for name, value in values if name == "objectClass"]
        wanted = _GIVEN.get(kind)
        given = [("objectClass", [classes[-1].encode()])]
        for name in dict.fromkeys(name for name, _ in values):
            own = name in wanted if wanted else name.startswith("msDS-")
            if own:
                given.append((name, [_bytes(v) for n, v in values if n == name]))
        if dn.endswith(_BUILT_IN) or link.there(dn) is not None:
            continue
        link.do(f"adding {dn}", lambda library, dn=dn, given=given: library.add_s(dn, given))  # type: ignore[misc]
        if kind == "user":
            name = next(str(v) for n, v in values if n == "sAMAccountName")
            told.append((name, [(n, v) for n, v in values if n in _STORY]))
    for dn, values in added:
        for name, value in values:
            if name == "member":
                _quietly(link, dn, [(ldap.MOD_ADD, "member", [_bytes(value)])])
    _, domain = next(entry for entry in listed if entry[0] == BASE)
    said = [
        (ldap.MOD_REPLACE, name, [_bytes(value)])
        for name, value in domain
        if "Pwd" in name or name.startswith("pwd") or "ockout" in name.lower() or name == "gPLink"
    ]
    link.do("", lambda library: library.modify_s(BASE, said))
    return told


def _bytes(value: str | bytes) -> bytes:
    return value.encode() if isinstance(value, str) else value


def _quietly(link: Link, dn: str, changes: list[Any]) -> None:
    """Memberships that are there, and of whom this server has not."""
    try:
        link.do("", lambda library: library.modify_s(dn, changes))
    except Exception as error:
        if getattr(error, "code", None) not in (20, 32, 68, 53):
            raise


def _keep_secret(file: Path, secret: str) -> None:
    file.parent.mkdir(parents=True, exist_ok=True)
    file.touch(mode=0o600)
    file.write_text(secret)


def _let_it_ask(engine: Engine, file: Path) -> None:
    """Give the server a token for the gate, unless it has one."""
    with Session(engine) as session, session.begin():
        domain = session.query(DomainRow).one()
        if file.exists() and callers.callers_of(session, domain.id):
            return
        _, token = callers.make_caller(session, domain.id, "dc1", "hook", DEMO_USER)
        domain.version += 1
    _keep_secret(file, token)


def _gate(folder: Path, socket: Path) -> subprocess.Popen[bytes]:
    """The gate on the server's machine, which gets its rules as soon as Hornfels is there."""
    return subprocess.Popen(
        [
            *(Path(sys.executable).parent / "hornfels", "gate", "serve"),
            *("--from", f"http://127.0.0.1:{read_settings().port}"),
            *("--token-file", folder / "gate-token", "--socket", socket),
        ],
        stdout=subprocess.DEVNULL,
    )


def _connected(engine: Engine, server: DirectoryServer) -> str:
    """Connect the directory and read it, as if somebody had; the password to sign in with."""
    password = "-".join(secrets.token_hex(2) for _ in range(3))
    signer = Signer(name=ADMINISTRATOR, secret="tarnholt")  # noqa: S106 - its name
    connection = Connection(
        servers=(ServerName(host=HOST, address=ADDRESS),),
        authorities=server.authorities,
        reader=signer,
        writer=signer,
        doors=(Door(group=f"CN=GS-Night-Operators,OU=Groups,{BASE}", role="help desk"),),
        stage=STAGE,
        own_page=True,
    )
    with Session(engine) as session, session.begin():
        let_demo_in(session, password)
        row = session.get(ConnectionRow, DNS_NAME) or ConnectionRow(dns_name=DNS_NAME)
        row.settings, row.changed_by = connection.model_dump(mode="json"), DEMO_USER
        session.add(row)
    with Session(engine) as session:
        first = session.query(DomainRow).count() == 0
        reading.begin(session, DNS_NAME, DEMO_USER, whole=False)
    asyncio.run(work(engine, once=True))
    if first:
        with Session(engine) as session, session.begin():
            domain = session.query(DomainRow).one()
            for title, trial in demo_trials():
                trials.add(session, domain.id, title, trial, DEMO_USER)
    return password


if __name__ == "__main__":
    main()
