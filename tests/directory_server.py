"""A real directory server on loopback: the server of each test is a copy of a folder that is
provisioned once a day.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import shutil
import socket
import subprocess
import tempfile
import time
from collections.abc import Iterator, Sequence
from hashlib import sha256
from pathlib import Path
from typing import Any

import ldap

from hornfels.directory.link import Link, bound
from hornfels.directory.reach import Reach, Server

REALM, NETBIOS = "sky.tarnholt.example", "SKY"
BASE = "DC=sky,DC=tarnholt,DC=example"
HOST = "dc1.sky.tarnholt.example"
ADMINISTRATOR = f"Administrator@{REALM}"
PASSWORD = "Dome-Shutter-2031"
PEOPLE = f"OU=People,{BASE}"
TEMPLATE = "directory-template"
DAY = 86_400.0
"""Seconds."""
SETTINGS = f"CN=Password Settings Container,CN=System,{BASE}"


def provisioned(folder: Path) -> Path:
    """Return the folder that copies are made of. The first worker that asks makes the folder; a
    folder of the day before, of other code or of another place is made anew.
    """
    folder.mkdir(exist_ok=True)
    template = folder / TEMPLATE
    ready = template / "ready"
    made_by = sha256(Path(__file__).read_bytes() + bytes(template)).hexdigest()
    with (folder / f"{TEMPLATE}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not (
            ready.exists()
            and ready.read_text() == made_by
            and time.time() - ready.stat().st_mtime < DAY
        ):
            shutil.rmtree(template, ignore_errors=True)
            _provision(template)
            _certify(template)
            ready.write_text(made_by)
    return template


def _provision(folder: Path) -> None:
    options = [
        "interfaces=127.0.0.1/8",
        "bind interfaces only=yes",
        "vfs objects=dfs_samba4 acl_xattr xattr_tdb",
    ]
    subprocess.run(
        [
            *("samba-tool", "domain", "provision", f"--targetdir={folder}", f"--realm={REALM}"),
            *(f"--domain={NETBIOS}", "--server-role=dc", "--dns-backend=SAMBA_INTERNAL"),
            *(f"--adminpass={PASSWORD}", "--host-name=dc1", "--host-ip=127.0.0.1"),
            *(f"--option={option}" for option in options),
        ],
        check=True,
        capture_output=True,
    )


def _certify(folder: Path) -> None:
    """An authority of its own, and the server's certificate by it."""
    tls = folder / "private" / "tls"
    tls.mkdir(exist_ok=True)
    ca, key, cert = tls / "ca.pem", tls / "key.pem", tls / "cert.pem"
    certified(ca, tls / "ca-key.pem", "Observatory authority")
    certified(cert, key, HOST, by=(ca, tls / "ca-key.pem"))
    key.chmod(0o600)


def certified(certificate: Path, key: Path, name: str, by: tuple[Path, Path] | None = None) -> None:
    """A certificate for a DNS name and its key, by itself or by an authority."""
    alternative = [] if by is None else ["-addext", f"subjectAltName=DNS:{name}"]
    issued = [] if by is None else ["-CA", str(by[0]), "-CAkey", str(by[1])]
    subprocess.run(
        [
            *("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"),
            *("-subj", f"/CN={name}", *alternative, *issued),
            *("-out", str(certificate), "-keyout", str(key)),
        ],
        check=True,
        capture_output=True,
    )


_TELLER = """
import json, sys
import ldb, samba, samba.param
held = samba.Ldb(sys.argv[1], lp=samba.param.LoadParm(), options=["modules:"], flags=ldb.FLG_NOSYNC)
held.transaction_start()
for name, values in json.load(sys.stdin):
    asked = "(sAMAccountName=%s)" % ldb.binary_encode(name)
    (found,) = held.search(base=sys.argv[2], expression=asked, attrs=["cn"])
    message = ldb.Message(found.dn)
    for name, value in values:
        message[name] = ldb.MessageElement(value, ldb.FLAG_MOD_REPLACE, name)
    held.modify(message)
held.transaction_commit()
"""
"""For the system's own Python, which has the server's modules."""


class DirectoryServer:
    """A server with a loopback address and a folder of its own, one that is kept if it is named."""

    def __init__(self, template: Path, address: str, folder: Path | None = None) -> None:
        self.address = address
        self.folder = folder or Path(tempfile.mkdtemp(prefix="hornfels-dc-"))
        if not (self.folder / "etc").exists():
            shutil.copytree(template, self.folder, dirs_exist_ok=True, symlinks=True)
        config = self.folder / "etc" / "smb.conf"
        config.write_text(config.read_text().replace(str(template), str(self.folder)))
        self.authorities = (self.folder / "private" / "tls" / "ca.pem").read_text()
        self._process: subprocess.Popen[bytes] | None = None

    @property
    def sysvol(self) -> Path:
        """The domain share, as a machine of the domain sees it."""
        return self.folder / "state" / "sysvol"

    def start(self, services: str = "ldap", *more: str) -> None:
        run = self.folder / "run"
        run.mkdir(exist_ok=True)
        options = [
            f"server services={services}",
            f"interfaces={self.address}/8",
            f"pid directory={run}",
            f"ncalrpc dir={run}",
            f"log file={self.folder}/log",
            # Else the password before the present one is good for another hour.
            "old password allowed period=0",
            *more,
        ]
        with (self.folder / "out").open("wb") as out:
            self._process = subprocess.Popen(
                [
                    *("samba", "-F", "-M", "single", "--no-process-group"),
                    *("-s", str(self.folder / "etc" / "smb.conf")),
                    *(f"--option={option}" for option in options),
                ],
                stdin=subprocess.DEVNULL,
                stdout=out,
                stderr=subprocess.STDOUT,
            )
        until = time.monotonic() + 60
        while not self._answers():
            with contextlib.suppress(subprocess.TimeoutExpired):
                self._process.wait(0.05)
            if self._process.returncode is not None or time.monotonic() > until:
                raise AssertionError((self.folder / "out").read_text())

    def _answers(self) -> bool:
        with contextlib.suppress(OSError), socket.create_connection((self.address, 636), 1):
            return True
        return False

    def stop(self) -> None:
        if self._process:
            self._process.terminate()
            try:
                self._process.wait(10)
            except subprocess.TimeoutExpired:
                self._process.kill()
                self._process.wait()
            self._process = None

    def tell(self, told: Sequence[tuple[str, Sequence[tuple[str, str | bytes]]]]) -> None:
        """Write attributes of accounts by their names into the stopped server's own file, also what
        it takes from nobody.
        """
        file = self.folder / "private" / "sam.ldb.d" / f"{BASE.upper()}.ldb"
        subprocess.run(
            ["/usr/bin/python3", "-c", _TELLER, str(file), BASE],
            input=json.dumps(told),
            text=True,
            check=True,
        )

    def remove(self) -> None:
        self.stop()
        shutil.rmtree(self.folder, ignore_errors=True)

    def reach(self, name: str = ADMINISTRATOR, secret: str = PASSWORD, **how: Any) -> Reach:
        server = Server(HOST, address=self.address)
        given = {"authorities": self.authorities, "name": name, "secret": secret, **how}
        return Reach((server,), **given)

    def administrator(self) -> Link:
        reach = self.reach()
        return bound(reach.servers[0], reach)


@contextlib.contextmanager
def directory_server(template: Path, worker: str) -> Iterator[DirectoryServer]:
    """A started copy. Each worker of the tests has an address of its own."""
    number = 30 + int("".join(c for c in worker if c.isdecimal()) or 0)
    server = DirectoryServer(template, f"127.0.{os.getpid() % 200 + 1}.{number}")
    try:
        server.start()
        yield server
    finally:
        server.remove()


def add(link: Link, dn: str, **values: str | bytes | Sequence[str | bytes]) -> None:
    """Add an object. Attributes are named with _ for -."""
    listed = [
        (
            name.replace("_", "-"),
            [
                one.encode() if isinstance(one, str) else one
                for one in ([given] if isinstance(given, str | bytes) else given)
            ],
        )
        for name, given in values.items()
    ]
    link.do(f"adding {dn}", lambda library: library.add_s(dn, listed))


def change(link: Link, dn: str, *changes: tuple[int, str, list[bytes] | None]) -> None:
    link.do(f"changing {dn}", lambda library: library.modify_s(dn, list(changes)))


def account(link: Link, name: str, *, inside: str = PEOPLE, **values: str) -> str:
    """Add an account without a password, and give its DN."""
    dn = f"CN={name},{inside}"
    add(link, dn, objectClass="user", sAMAccountName=name, **values)
    return dn


def with_password(link: Link, name: str, secret: str, **values: str) -> str:
    """Add an account that may sign in, and give its DN."""
    dn = account(link, name, **values)
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [f'"{secret}"'.encode("utf-16-le")]))
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    return dn


def group(link: Link, name: str, members: Sequence[str] = (), *, inside: str = PEOPLE) -> str:
    """Add a global security group, and give its DN."""
    dn = f"CN={name},{inside}"
    more = {"member": list(members)} if members else {}
    kind = str(-(2**31) + 2)
    add(link, dn, objectClass="group", sAMAccountName=name, groupType=kind, **more)
    return dn


def policy(link: Link, name: str, precedence: int, links: Sequence[str] = (), **given: str) -> str:
    """Add a password settings object, and give its DN."""
    day = str(-864_000_000_000)
    values = {
        "msDS_PasswordSettingsPrecedence": str(precedence),
        "msDS_MinimumPasswordLength": "12",
        "msDS_PasswordHistoryLength": "5",
        "msDS_PasswordComplexityEnabled": "FALSE",
        "msDS_PasswordReversibleEncryptionEnabled": "FALSE",
        "msDS_MinimumPasswordAge": "0",
        "msDS_MaximumPasswordAge": day,
        "msDS_LockoutThreshold": "3",
        "msDS_LockoutObservationWindow": "-18000000000",
        "msDS_LockoutDuration": "-18000000000",
        **given,
    }
    dn = f"CN={name},{SETTINGS}"
    more = {"msDS_PSOAppliesTo": list(links)} if links else {}
    add(link, dn, objectClass="msDS-PasswordSettings", **values, **more)
    return dn


def modified(server: DirectoryServer, records: bytes, folder: Path) -> None:
    """Apply change records by the tool that everybody has."""
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
