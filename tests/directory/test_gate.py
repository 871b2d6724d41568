"""A real directory server that asks at the gate: what it refuses, what it takes, and what becomes
of passwords when nobody answers.
"""

from __future__ import annotations

import contextlib
import os
import signal
import subprocess
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import ldap
import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from api_help import work_off
from command import COMMAND, run
from directory_server import (
    PEOPLE,
    REALM,
    DirectoryServer,
    account,
    add,
    certified,
    change,
    policy,
)
from hornfels.api.app import create_app
from hornfels.core.values.time import DAY, TICKS_PER_SECOND
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import DirectoryError
from hornfels.service import lifetimes
from hornfels.store.models import DomainRow, GateEndRow
from installation import DOMAIN, Installation
from killed import killed_after_each
from served import served

ADDITION = {
    "password": [{"blocked": {"lists": ["house"]}}, {"run": {"max": 3}}],
    "bands": [{"length": 8, "lifetime": TICKS_PER_SECOND}, {"length": 24, "lifetime": 700 * DAY}],
}
CLIENT = {"title": "dc1", "kind": "hook", "reason": "A new server"}


@dataclass
class Gated:
    """A directory server, the gate on its machine, and Hornfels, which can be away."""

    installation: Installation
    folder: Path
    token: str
    hornfels: contextlib.ExitStack = field(default_factory=contextlib.ExitStack)
    _gate: subprocess.Popen[str] | None = None

    @property
    def socket(self) -> Path:
        return self.folder / "gate.sock"

    def at_hornfels(self) -> int:
        """The port of a Hornfels that can be ended, which speaks TLS."""
        authority, mine = self._certificate("authority"), self._certificate("hornfels")
        if not mine[0].exists():
            certified(*authority, "Observatory authority")
            certified(*mine, "localhost", by=authority)
        app = create_app(self.installation.engine)
        return self.hornfels.enter_context(served(app, tls=mine))

    def _certificate(self, name: str) -> tuple[Path, Path]:
        """The files of a certificate and of its key."""
        return self.folder / f"{name}.pem", self.folder / f"{name}-key.pem"

    def answer(self, port: int) -> None:
        """Start the gate, which gets its rules from this port."""
        file = self.folder / "token"
        file.write_text(self.token)
        file.chmod(0o600)
        self._gate = subprocess.Popen(
            [
                *(COMMAND, "gate", "serve", "--from", f"https://localhost:{port}"),
                *("--token-file", str(file), "--socket", str(self.socket)),
                *("--authorities", str(self._certificate("authority")[0])),
            ],
            env={**os.environ, "HORNFELS_HOME": str(self.folder)},
            stderr=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )
        assert self._gate.stdout
        assert "answers at" in self._gate.stdout.readline()

    def know(self) -> None:
        """Until it has said that it goes by rules from Hornfels."""
        assert self._gate
        assert self._gate.stderr
        while "answers by the rules" not in (line := self._gate.stderr.readline()):
            assert line, "the gate has ended"

    def stop(self) -> None:
        if self._gate:
            self._gate.send_signal(signal.SIGTERM)
            self._gate.communicate(timeout=20)
            self._gate = None

    def ask(self, otherwise: str) -> None:
        """Have the directory server ask at the gate from its next start on, which is now."""
        server = self.installation.server
        line = run("gate", "hook", "--otherwise", otherwise, "--socket", self.socket).stdout
        server.stop()
        server.start("ldap", line.strip().replace(" = ", "=", 1))


@pytest.fixture
def gated(
    installation: Installation, link: Link, engine: Engine, tmp_path: Path
) -> Iterator[Gated]:
    """Some people in a domain whose policy has an addition, as Hornfels has read it."""
    for name in ("mara", "odile", "noor"):
        dn = account(link, name, department="Heliograph", l="Tarnholt")
        set_password(link, dn, "Quiet-Harbour-19")
        change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    root = "DC=sky,DC=tarnholt,DC=example"
    for attribute in ("minPwdAge", "pwdHistoryLength"):
        change(link, root, (ldap.MOD_REPLACE, attribute, [b"0"]))
    writer = {"name": f"Administrator@{REALM}", "secret": "tarnholt"}
    assert installation.connect(writer=writer).status_code == 200
    installation.read()
    client = installation.client
    draft = f"{DOMAIN}~{client.post(f'{DOMAIN}/drafts', json={}).json()['id']}"
    assert client.put(f"{draft}/blocked-terms/house?seen=", content="orbit\n").status_code == 200
    made = client.post(f"{DOMAIN}/gate/callers", json=CLIENT).json()
    with Session(engine) as session, session.begin():
        # As after a publish: what only Hornfels keeps is not the directory's to take.
        row = session.scalars(select(DomainRow)).one()
        row.addition, row.version = ADDITION, row.version + 1
        row.term_lists = {"house": client.get(f"{draft}/blocked-terms").json()["lists"][0]}
        row.term_lists = {"house": {k: row.term_lists["house"][k] for k in ("digest", "count")}}
    found = Gated(installation, tmp_path, made["token"])
    yield found
    found.stop()
    found.hornfels.close()


@pytest.fixture
def knowing(gated: Gated) -> Gated:
    """The gate goes by the rules, and the server asks it; without it nothing is taken."""
    gated.answer(gated.at_hornfels())
    gated.know()
    gated.ask("refuse")
    return gated


def set_password(link: Link, dn: str, secret: str) -> None:
    written = f'"{secret}"'.encode("utf-16-le")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [written]))


def taken(server: DirectoryServer, name: str, secret: str) -> bool:
    """Whether a reset takes it."""
    with server.administrator() as link:
        try:
            set_password(link, f"CN={name},{PEOPLE}", secret)
        except DirectoryError:
            return False
    return True


def changed(server: DirectoryServer, name: str, old: str, new: str) -> bool:
    """Whether their own change takes it."""
    quoted = [f'"{one}"'.encode("utf-16-le") for one in (old, new)]
    with linked(server.reach(f"{name}@{REALM}", old)) as link:
        try:
            change(
                link,
                f"CN={name},{PEOPLE}",
                (ldap.MOD_DELETE, "unicodePwd", quoted[:1]),
                (ldap.MOD_ADD, "unicodePwd", quoted[1:]),
            )
        except DirectoryError:
            return False
    return True


def created(server: DirectoryServer, name: str, secret: str) -> bool:
    """Whether a new account may have it."""
    with server.administrator() as link:
        try:
            add(
                link,
                f"CN={name},{PEOPLE}",
                objectClass="user",
                sAMAccountName=name,
                unicodePwd=f'"{secret}"'.encode("utf-16-le"),
            )
        except DirectoryError:
            return False
    return True


def record(gated: Gated, most: int = 100) -> list[Any]:
    """What Hornfels has been told, once it is as much as `most` or nothing more comes."""
    until = time.monotonic() + 20
    while True:
        found: list[Any] = gated.installation.client.get(f"{DOMAIN}/gate/answers").json()
        if len(found) >= most or time.monotonic() > until:
            return found


def test_what_the_addition_refuses_is_refused_wherever_it_is_set(knowing: Gated) -> None:
    server = knowing.installation.server
    house = knowing.installation.client.get(f"{DOMAIN}/blocked-terms").json()["house"]
    assert {"heliograph", "people"} <= {*house}, "where people are is read too"
    assert not taken(server, "mara", "Orbit-Lantern-742")
    assert taken(server, "mara", "Umbra-Lantern-742")
    assert not changed(server, "mara", "Umbra-Lantern-742", "Umbra-Lantern-1234")
    assert changed(server, "mara", "Umbra-Lantern-742", "Umbra-Lantern-1294")
    assert not created(server, "newcomer", "Orbit-Lantern-742")
    assert created(server, "newcomer", "Umbra-Lantern-742")
    # In place of the server's own check, which would let none of these pass.
    assert not taken(server, "mara", "umbra lantern mosaic")
    assert not taken(server, "mara", "Mara-Lantern-742")
    found = record(knowing, 8)
    assert [one["outcome"] for one in reversed(found)] == [
        *("refused", "accepted", "refused", "accepted", "refused", "accepted", "refused", "refused")
    ]
    assert {one["account"] for one in found} == {"mara", "newcomer"}
    [standing] = knowing.installation.client.get(f"{DOMAIN}/gate/callers").json()
    assert (standing["otherwise"], standing["trouble"]) == ("refuse", "")
    # It is not asked without complexity, nor about what is too short.
    with server.administrator() as here:
        policy(here, "Plain", 10, [f"CN=odile,{PEOPLE}"])
    assert taken(server, "odile", "Orbit-Lantern-742")
    assert not taken(server, "mara", "Orb")
    assert taken(server, "mara", "Umbra-Lantern-742")
    assert [one["account"] for one in record(knowing, 9)].count("odile") == 0


def test_hornfels_may_be_away_and_the_gate_be_started_anew(knowing: Gated) -> None:
    server = knowing.installation.server
    knowing.hornfels.close()
    assert not taken(server, "mara", "Orbit-Lantern-742")
    knowing.stop()
    knowing.answer(1)
    assert not taken(server, "mara", "Orbit-Lantern-742")
    assert taken(server, "mara", "Umbra-Lantern-742")
    knowing.stop()
    knowing.answer(knowing.at_hornfels())
    assert len(record(knowing, 3)) == 3


def test_without_an_answer_in_time_it_goes_as_was_chosen(knowing: Gated) -> None:
    server = knowing.installation.server
    assert knowing._gate
    # One that stands still holds the server for a moment only.
    knowing._gate.send_signal(signal.SIGSTOP)
    assert not taken(server, "mara", "Umbra-Lantern-742")
    knowing._gate.send_signal(signal.SIGCONT)
    assert taken(server, "mara", "Umbra-Lantern-742")
    knowing.stop()
    assert not taken(server, "mara", "Umbra-Lantern-743")
    knowing.ask("accept")
    assert taken(server, "mara", "Orbit-Lantern-742")
    knowing.answer(knowing.at_hornfels())
    assert Counter(one["outcome"] for one in record(knowing, 4)) == {
        "turned away": 2,
        "accepted": 1,
        "let through": 1,
    }


def test_fifty_resets_at_once_are_all_answered(knowing: Gated) -> None:
    server = knowing.installation.server
    with server.administrator() as here:
        names = [f"p{number}" for number in range(50)]
        for name in names:
            account(here, name)
    candidates = [f"{'Orbit' if n % 2 else 'Umbra'}-Lantern-742{n}" for n in range(50)]
    with ThreadPoolExecutor(50) as pool:
        found = list(
            pool.map(lambda both: taken(server, *both), zip(names, candidates, strict=True))
        )
    assert found == [n % 2 == 0 for n in range(50)]
    kept = record(knowing, 50)
    assert {(one["account"], one["outcome"]) for one in kept} == {
        (name, "accepted" if ok else "refused") for name, ok in zip(names, found, strict=True)
    }


def test_a_password_is_changed_on_its_day_and_one_from_the_gate_by_its_length(
    knowing: Gated, engine: Engine
) -> None:
    installation, server = knowing.installation, knowing.installation.server
    assert taken(server, "mara", "Umbra-Lantern-Mosaic-Harbour-742")
    record(knowing, 1)
    with Session(engine) as session, session.begin():
        account_names = session.scalars(select(GateEndRow.account)).all()
    assert account_names == ["MARA"]
    installation.read()
    assert taken(server, "noor", "Umbra-Lantern-742")
    record(knowing, 2)
    body = {"enforced": True, "reason": "Length is rewarded"}
    done = installation.client.put(f"{DOMAIN}/gate/lifetimes", json=body)
    assert (done.status_code, done.json()["possible"]) == (200, True)
    with Session(engine) as session, session.begin():
        lifetimes.begin_due(session, datetime.now(UTC))
    killed_after_each(engine, "lifetimes", ("asked for", "changing", "carried out"))
    work_off(engine)
    with server.administrator() as here:
        must_change = {
            name: here.entry(f"CN={name},{PEOPLE}", ["pwdLastSet"])["pwdlastset"] == [b"0"]
            for name in ("mara", "odile", "noor")
        }
    # Noor's was set anew after it was read.
    assert must_change == {"mara": False, "odile": True, "noor": False}
    found = installation.client.get(f"{DOMAIN}/gate/lifetimes").json()
    assert "1 of 1 passwords" in found["told"], found
    assert (found["from_gate"], found["enforced"]) == (2, True)
    lengths = installation.client.get(f"{DOMAIN}/expiries/lengths?at_least=16").json()
    assert lengths["shorter"] + lengths["enough"] + lengths["either"] == 2, lengths
    core = installation.client.get(f"{DOMAIN}/accounts/mara").json()["band_end"]
    assert core["from_gate"]
    assert core["enforced"]
