"""Connections to a real server, and everything that keeps one from being made."""

from __future__ import annotations

import contextlib
import hashlib
import socket
import ssl
import subprocess
import threading
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import ldap
import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import rsa

from directory_server import (
    BASE,
    HOST,
    PASSWORD,
    PEOPLE,
    REALM,
    DirectoryServer,
    account,
    change,
    policy,
)
from hornfels.directory import reading
from hornfels.directory.link import bound, linked
from hornfels.directory.reach import DirectoryError, Reach, RefusedError, Server, UnreachableError
from hornfels.directory.testing import steps


def given_password(link: object, dn: str, word: str = "Quiet-Harbour-19") -> None:
    written = f'"{word}"'.encode("utf-16-le")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [written]))  # type: ignore[arg-type]
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))  # type: ignore[arg-type]


@pytest.mark.parametrize("security", ["ldaps", "starttls"])
def test_a_server_is_reached_with_its_certificate_checked(
    server: DirectoryServer, security: str
) -> None:
    reach = server.reach(security=security)
    with linked(reach) as link:
        assert link.there(PEOPLE) is not None
        assert link.there(f"CN=nobody,{PEOPLE}") is None
    certificate = ssl.PEM_cert_to_DER_cert(
        (server.folder / "private" / "tls" / "cert.pem").read_text()
    )
    pin = hashlib.sha256(certificate).digest()
    with linked(replace(reach, authorities=None, pinned=pin)):
        pass
    with pytest.raises(DirectoryError, match="nobody who is trusted"):
        linked(replace(reach, authorities=None))
    with pytest.raises(DirectoryError, match="not the pinned one"):
        linked(replace(reach, pinned=bytes(32)))
    other = Server("dc2.sky.tarnholt.example", address=server.address)
    with pytest.raises(DirectoryError, match="for another name"):
        linked(replace(reach, servers=(other,)))


def expired(name: str) -> tuple[str, str]:
    """A certificate of yesterday and its key, as PEM."""
    key = rsa.generate_private_key(65537, 2048)
    who = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, name)])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(who)
        .issuer_name(who)
        .public_key(key.public_key())
        .serial_number(1)
        .not_valid_before(now - timedelta(days=9))
        .not_valid_after(now - timedelta(days=1))
        .add_extension(x509.BasicConstraints(ca=True, path_length=None), critical=True)
        .sign(key, hashes.SHA256())
    )
    form = serialization.PrivateFormat.TraditionalOpenSSL
    plain = serialization.NoEncryption()
    secret = key.private_bytes(serialization.Encoding.PEM, form, plain).decode()
    return made.public_bytes(serialization.Encoding.PEM).decode(), secret


def test_an_expired_certificate_is_said(server: DirectoryServer) -> None:
    certificate, key = expired(HOST)
    tls = server.folder / "private" / "tls"
    server.stop()
    (tls / "cert.pem").write_text(certificate)
    (tls / "key.pem").write_text(key)
    (tls / "key.pem").chmod(0o600)
    server.start()
    with pytest.raises(DirectoryError, match="has expired"):
        linked(replace(server.reach(), authorities=certificate))


@pytest.mark.parametrize("security", ["ldaps", "starttls", "none"])
def test_a_server_that_keeps_silent_is_given_up(server: DirectoryServer, security: str) -> None:
    with socket.create_server(("127.0.0.1", 0)) as silent:
        place = Server(HOST, silent.getsockname()[1], "127.0.0.1")
        reach = replace(server.reach(security=security), servers=(place,), patience=0.5)
        with pytest.raises(UnreachableError):
            linked(reach)
        # The next one is tried.
        own = replace(server.reach(security=security).servers[0])
        if security != "none":  # in clear it takes no password, as it should
            with linked(replace(reach, servers=(place, own), patience=3.0)):
                pass


def test_what_is_no_directory_server_is_said(server: DirectoryServer) -> None:
    reach = server.reach()
    for host, address, port, words in (
        ("no.such.host.invalid", None, None, "no address is known"),
        (HOST, server.address, 9, "cannot be reached"),
        (HOST, server.address, 389, "speaks no TLS there"),
    ):
        with pytest.raises(UnreachableError, match=words):
            linked(replace(reach, servers=(Server(host, port, address),)))
    with pytest.raises(UnreachableError, match="no directory server answers"):
        linked(replace(reach, security="starttls", servers=(Server(HOST, 636, server.address),)))
    with pytest.raises(DirectoryError, match="paste them as PEM"):
        linked(replace(reach, authorities="-----BEGIN CERTIFICATE-----\nno\n"))
    with pytest.raises(DirectoryError, match="No directory server is named"):
        linked(replace(reach, servers=()))


def test_why_somebody_may_not_bind_is_said(server: DirectoryServer) -> None:
    with server.administrator() as link:
        dn = account(link, "reader")
        given_password(link, dn)
    name = f"reader@{REALM}"

    def tried(secret: str, who: str = name) -> None:
        bound(server.reach().servers[0], server.reach(who, secret)).close()

    tried("Quiet-Harbour-19")
    with pytest.raises(RefusedError, match="name or password is wrong"):
        tried("wrong")
    with pytest.raises(RefusedError, match=r"name or password is wrong|nobody of that name"):
        tried("wrong", f"nobody@{REALM}")
    with pytest.raises(DirectoryError, match="no password"):
        tried("")
    for control, words in ((b"514", "is disabled"),):
        with server.administrator() as link:
            change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [control]))
        with pytest.raises(RefusedError, match=words):
            tried("Quiet-Harbour-19")
    with server.administrator() as link:
        change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
        change(link, dn, (ldap.MOD_REPLACE, "accountExpires", [b"1000"]))
    with pytest.raises(RefusedError, match="has expired"):
        tried("Quiet-Harbour-19")
    with server.administrator() as link:
        change(link, dn, (ldap.MOD_REPLACE, "accountExpires", [b"0"]))
        change(link, dn, (ldap.MOD_REPLACE, "pwdLastSet", [b"0"]))
    with pytest.raises(RefusedError, match=r"change its password first|password has expired"):
        tried("Quiet-Harbour-19")


def test_a_locked_service_account_is_said(server: DirectoryServer) -> None:
    with server.administrator() as link:
        dn = account(link, "reader")
        given_password(link, dn)
        change(link, BASE, (ldap.MOD_REPLACE, "lockoutThreshold", [b"2"]))
    reach = server.reach(f"reader@{REALM}", "wrong")
    for _ in range(2):
        with pytest.raises(RefusedError):
            linked(reach)
    with pytest.raises(RefusedError, match="is locked; unlock it"):
        linked(replace(reach, secret="Quiet-Harbour-19"))


def test_a_password_in_clear_is_refused_by_the_server(server: DirectoryServer) -> None:
    with pytest.raises(RefusedError, match="Use LDAPS or StartTLS"):
        linked(server.reach(security="none"))


@pytest.fixture
def ticket(server: DirectoryServer, monkeypatch: pytest.MonkeyPatch) -> None:
    """The machine has a ticket of the administrator's."""
    server.stop()
    server.start("ldap kdc")
    with server.administrator() as link:
        names = [f"{service}/{HOST}".encode() for service in ("ldap", "HOST")]
        computer = f"CN=DC1,OU=Domain Controllers,{BASE}"
        change(link, computer, (ldap.MOD_REPLACE, "servicePrincipalName", names))
    realm, config = REALM.upper(), server.folder / "krb5.conf"
    config.write_text(
        f"[libdefaults]\n default_realm = {realm}\n dns_lookup_kdc = false\n rdns = false\n"
        " dns_canonicalize_hostname = false\n"
        f"[realms]\n {realm} = {{\n  kdc = {server.address}\n }}\n"
        f"[domain_realm]\n .{REALM} = {realm}\n"
    )
    monkeypatch.setenv("KRB5_CONFIG", str(config))
    monkeypatch.setenv("KRB5CCNAME", f"FILE:{server.folder}/ticket")
    subprocess.run(
        ["kinit", f"Administrator@{realm}"],
        input=f"{PASSWORD}\n",
        text=True,
        check=True,
        capture_output=True,
    )


@pytest.mark.usefixtures("ticket")
def test_a_ticket_signs_in_and_encrypts(
    server: DirectoryServer, monkeypatch: pytest.MonkeyPatch
) -> None:
    reach = server.reach(security="none", bind="gssapi", name="", secret="")
    with linked(reach) as link:
        assert link.there(PEOPLE) is not None
    with pytest.raises(DirectoryError, match="leave TLS out"):
        linked(replace(reach, security="ldaps"))
    monkeypatch.setenv("KRB5CCNAME", f"FILE:{server.folder}/none")
    with pytest.raises(DirectoryError, match="No Kerberos credentials"):
        linked(reach)


def told(reach: Reach, writer: Reach | None = None) -> dict[str, str]:
    return {step.title: step.state for step in steps(reach, writer, REALM, datetime.now(UTC))}


def test_what_works_is_told_step_by_step(server: DirectoryServer) -> None:
    with server.administrator() as link:
        dn = account(link, "reader")
        given_password(link, dn)
        policy(link, "Night", 10, [dn])
    everything = told(server.reach(), server.reach())
    assert set(everything.values()) == {"works"}
    assert {"Write the domain policy", "Add fine-grained policies", "Unlock accounts"} <= set(
        everything
    )
    poor = server.reach(f"reader@{REALM}", "Quiet-Harbour-19")
    held = told(poor, poor)
    assert held["Read accounts"] == "works"
    for title in ("Read fine-grained policies", "Write the domain policy", "Unlock accounts"):
        assert held[title] == "fails", title
    assert told(poor)["Write"] == "note"
    wrong = told(replace(poor, secret="wrong"))
    assert wrong == {f"Reach {HOST}": "works", "Sign in there": "fails"}
    away = [*steps(poor, None, "other.example", datetime.now(UTC) + timedelta(minutes=3))]
    said = {step.title: step for step in away}
    assert said["Find the domain"].state == "fails"
    assert "behind ours" in said["Compare clocks"].told


def test_a_connection_that_breaks_says_so(server: DirectoryServer) -> None:
    with server.administrator() as link:
        server.stop()
        with pytest.raises(UnreachableError, match="broke"):
            list(link.search(BASE, "sub", "(objectClass=*)", ["cn"]))


@contextlib.contextmanager
def stalling(server: DirectoryServer, after: int) -> Iterator[Server]:
    """The server behind something that lets no more than so many bytes of its answers through."""
    over = threading.Event()

    def carry(source: socket.socket, sink: socket.socket, most: int) -> None:
        passed = 0
        with contextlib.suppress(OSError):
            while data := source.recv(4096):
                if passed + len(data) > most:
                    over.wait()
                    return
                passed += len(data)
                sink.sendall(data)

    def serve() -> None:
        with contextlib.suppress(OSError):
            while True:
                near, _ = listening.accept()
                far = socket.create_connection((server.address, 636))
                ends.extend((near, far))
                for source, sink, most in ((near, far, 1 << 40), (far, near, after)):
                    threads.append(threading.Thread(target=carry, args=(source, sink, most)))
                    threads[-1].start()

    ends: list[socket.socket] = []
    with socket.create_server(("127.0.0.1", 0)) as listening:
        threads = [threading.Thread(target=serve)]
        threads[0].start()
        try:
            yield Server(HOST, listening.getsockname()[1], "127.0.0.1")
        finally:
            over.set()
            listening.shutdown(socket.SHUT_RDWR)
            threads[0].join()
            for end in ends:
                with contextlib.suppress(OSError):
                    end.shutdown(socket.SHUT_RDWR)
                end.close()
            for thread in threads:
                thread.join()


def test_a_server_that_stops_in_the_middle_is_given_up(server: DirectoryServer) -> None:
    with stalling(server, 20_000) as place:
        reach = replace(server.reach(), servers=(place,), patience=1.0)
        with linked(reach) as link, pytest.raises(UnreachableError, match="did not answer within"):
            list(reading.whole(link, BASE))


def test_whoever_waits_can_give_up(server: DirectoryServer) -> None:
    class NoLongerWantedError(Exception):
        pass

    wanted = True

    def tick() -> None:
        if not wanted:
            raise NoLongerWantedError

    with stalling(server, 20_000) as place:
        reach = replace(server.reach(), servers=(place,), patience=60.0)
        with linked(reach, tick) as link:
            wanted = False
            with pytest.raises(NoLongerWantedError):
                list(reading.whole(link, BASE))


def test_nothing_of_a_secret_is_shown() -> None:
    reach = Reach((Server(HOST),), name="reader", secret=PASSWORD)
    assert PASSWORD not in repr(reach)
