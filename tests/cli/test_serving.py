"""Commands that keep a database: load, user add, demo-dump, and how they end when something is
missing.
"""

from __future__ import annotations

import contextlib
import os
import signal
import socket
import ssl
import subprocess
from pathlib import Path

import httpx2
import pytest
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from command import COMMAND, Command, run
from hornfels.api import app
from hornfels.cli.serve import serve_web
from hornfels.settings import read_settings
from hornfels.store.cluster import Cluster
from hornfels.store.models import AccountRow, DomainRow
from hornfels.store.people import matches, stored_hash


def accounts(engine: Engine) -> int:
    with Session(engine) as session:
        return session.scalar(select(func.count()).select_from(AccountRow)) or 0


def test_load_stores_a_domain_and_says_what_it_found(
    command: Command, engine: Engine, cluster: Cluster, demo_ldif: bytes, tmp_path: Path
) -> None:
    file = tmp_path / "tarnholt.ldif"
    file.write_bytes(demo_ldif)
    done = command("load", file, "--linked-groups", "any", HORNFELS_DATABASE_URL=cluster.url)
    assert done.returncode == 0
    assert done.stdout.startswith("sky.tarnholt.example: 1,184 accounts, 80 groups,")
    with Session(engine) as session:
        domain = session.scalars(select(DomainRow)).one()
        assert (domain.source, domain.linked_groups) == ("tarnholt.ldif", "any")


def test_a_broken_file_stores_nothing(
    command: Command, engine: Engine, cluster: Cluster, demo_ldif: bytes, tmp_path: Path
) -> None:
    file = tmp_path / "cut.ldif"
    file.write_bytes(demo_ldif[: len(demo_ldif) // 2] + b"\nbroken\n")
    done = command("load", file, HORNFELS_DATABASE_URL=cluster.url)
    assert done.returncode == 2
    assert "nothing was stored" in done.stderr
    assert accounts(engine) == 0


def test_people_are_added_with_a_password_of_some_length(
    command: Command, engine: Engine, cluster: Cluster
) -> None:
    short = command("user", "add", "ann", stdin="short\n", HORNFELS_DATABASE_URL=cluster.url)
    assert (short.returncode, "at least 15" in short.stderr) == (2, True)
    assert (
        command(
            "user", "add", "ann", stdin="Long-enough-1-here\n", HORNFELS_DATABASE_URL=cluster.url
        ).returncode
        == 0
    )
    with Session(engine) as session:
        assert matches(stored_hash(session, "ann"), "Long-enough-1-here")
        assert not matches(stored_hash(session, "ann"), "short")


@pytest.mark.thorough
def test_a_database_that_does_not_answer_is_one_clear_line(
    command: Command, demo_ldif: bytes, tmp_path: Path
) -> None:
    file = tmp_path / "tarnholt.ldif"
    file.write_bytes(demo_ldif)
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
    done = command("load", file, HORNFELS_DATABASE_URL=f"postgresql+psycopg://x@127.0.0.1:{port}/x")
    assert done.returncode == 2
    assert "the database does not answer as it should" in done.stderr
    assert "Traceback" not in done.stderr


def test_the_demo_dump_is_readable(command: Command, tmp_path: Path) -> None:
    file = tmp_path / "demo.ldif"
    assert command("demo-dump", file).returncode == 0
    assert command("resolve", file, "--account", "kiosk-north").stdout.splitlines()[1].split()[
        1:3
    ] == [
        "Kiosk",
        "floor",
    ]
    assert command("demo-dump", tmp_path / "no" / "such").returncode == 2


@pytest.mark.thorough
def test_a_busy_port_is_one_clear_line(home: Path) -> None:
    with socket.create_server(("127.0.0.1", 0)) as taken:
        done = run("demo", "--port", taken.getsockname()[1], HORNFELS_HOME=str(home / "busy"))
    assert done.returncode == 2
    assert done.stderr.count("\n") == 1
    assert "choose another with HORNFELS_PORT" in done.stderr
    assert not (home / "busy").exists()


@pytest.mark.thorough
def test_the_demo_starts_prints_its_sign_in_and_ends_what_it_started(home: Path) -> None:
    own = Cluster(home / "demo", {})
    # The second time in the same folder, as after a restart of the machine.
    for end in (signal.SIGINT, signal.SIGTERM):
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
        process = subprocess.Popen(
            [COMMAND, "demo", "--port", str(port)],
            stdout=subprocess.PIPE,
            text=True,
            env={**os.environ, "HORNFELS_HOME": str(own.home)},
        )
        assert process.stdout
        lines = [process.stdout.readline() for _ in range(3)]
        assert lines[0] == f"Hornfels is at http://127.0.0.1:{port}\n"
        assert lines[1].startswith("Sign in as demo with the password ")
        assert own.url
        process.send_signal(end)
        try:
            process.communicate(timeout=60)
        finally:
            process.kill()
            process.wait()
            process.stdout.close()
        assert process.returncode == 0
        assert own._port_in_use() is None


def test_an_installation_without_pages_says_how_to_get_them(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str], tmp_path: Path
) -> None:
    monkeypatch.setattr(app, "STATIC", tmp_path)
    with pytest.raises(SystemExit) as ended:
        serve_web(read_settings(host="127.0.0.1", port=0), demo=False)
    assert ended.value.code == 2
    assert "Install the wheel that 'make wheel' makes" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        ([], "others could read along at ::"),
        (["--certificate", "none.pem"], "TLS takes both"),
        (["--certificate", "none.pem", "--key", "none.pem"], "none.pem: cannot be read"),
    ],
)
def test_listening_beyond_loopback_without_tls_is_refused(
    command: Command, home: Path, arguments: list[str], words: str
) -> None:
    done = command("serve", "--host", "::", *arguments, HORNFELS_HOME=str(home / "open"))
    assert done.returncode == 2
    assert words in done.stderr
    assert not (home / "open").exists()


@pytest.mark.parametrize(
    ("settings", "words"),
    [
        ({"ISSUER": "https://p.example"}, "HORNFELS_OPENID_CLIENT: give what"),
        ({"ISSUER": "http://p.example", "CLIENT": "h"}, "has to begin with https"),
        (
            {"ISSUER": "https://p.example", "CLIENT": "h", "AUTHORITIES": "none.pem"},
            "none.pem cannot be read",
        ),
    ],
)
def test_a_provider_that_is_half_set_is_refused(
    command: Command, home: Path, settings: dict[str, str], words: str
) -> None:
    given = {f"HORNFELS_OPENID_{name}": value for name, value in settings.items()}
    done = command("serve", HORNFELS_HOME=str(home / "half"), **given)
    assert done.returncode == 2
    assert words in done.stderr
    assert not (home / "half").exists()


@pytest.fixture
def nobody(engine: Engine) -> None:
    """A database in which nobody may sign in yet."""
    assert accounts(engine) == 0


@pytest.mark.thorough
@pytest.mark.usefixtures("nobody")
def test_it_speaks_tls_itself_and_says_so_to_browsers(cluster: Cluster, tmp_path: Path) -> None:
    certificate, key = tmp_path / "certificate.pem", tmp_path / "key.pem"
    subprocess.run(
        [
            *("openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"),
            *("-subj", "/CN=localhost", "-addext", "subjectAltName=DNS:localhost"),
            *("-out", certificate, "-keyout", key),
        ],
        check=True,
        capture_output=True,
    )
    with socket.create_server(("127.0.0.1", 0)) as taken:
        port = taken.getsockname()[1]
    given = ["--port", str(port), "--certificate", str(certificate), "--key", str(key)]
    process = subprocess.Popen(
        [COMMAND, "serve", *given],
        stdout=subprocess.PIPE,
        text=True,
        env={
            **os.environ,
            "HORNFELS_DATABASE_URL": cluster.url,
            "HORNFELS_HOME": str(tmp_path),
        },
    )
    try:
        assert process.stdout
        assert process.stdout.readline() == f"Hornfels is at https://127.0.0.1:{port}\n"
        first = process.stdout.readline()
        assert first.startswith("Sign in as administrator with the one-time password ")
        process.stdout.readline()
        body = {"name": "administrator", "password": first.split()[-1]}
        trusted = ssl.create_default_context(cafile=certificate)
        with httpx2.Client(base_url=f"https://localhost:{port}", verify=trusted) as client:
            answer = _answered(client, body)
        assert answer.json()["one_time"] is True
        assert answer.headers["strict-transport-security"].startswith("max-age=")
        assert "Secure" in answer.headers["set-cookie"]
    finally:
        process.terminate()
        process.communicate(timeout=60)


def _answered(client: httpx2.Client, body: dict[str, str]) -> httpx2.Response:
    """The answer to a sign-in as soon as the server listens."""
    for _ in range(200):
        with contextlib.suppress(httpx2.TransportError):
            return client.post("/api/session", json=body)
    raise AssertionError("nobody answers")


def test_settings_come_from_the_environment_a_file_or_are_as_usual(
    command: Command, tmp_path: Path
) -> None:
    file = tmp_path / "settings.toml"
    file.write_text('port = 9000\nhosts = "a.example, b.example"\n')
    named = {"HORNFELS_SETTINGS": str(file)}
    told = command(
        "settings", HORNFELS_DATABASE_URL="postgresql+psycopg://u:quiet-word@h/d", **named
    )
    assert told.returncode == 0
    assert "HORNFELS_PORT = 9000" in told.stdout
    assert "HORNFELS_DATABASE_URL = (set)" in told.stdout
    assert "quiet-word" not in told.stdout
    assert "HORNFELS_PORT = 9001" in command("settings", HORNFELS_PORT="9001", **named).stdout


@pytest.mark.parametrize(
    ("content", "environment", "words"),
    [
        ("prot = 1", {}, "prot (HORNFELS_PROT): no setting has this name"),
        ("port = 'x'", {}, "port (HORNFELS_PORT): Input should be a valid integer"),
        ("port = ", {}, "settings.toml"),
        ("", {"HORNFELS_LOG": "loud"}, "log (HORNFELS_LOG): Input should be 'text' or 'json'"),
    ],
)
def test_a_setting_that_cannot_be_read_is_one_clear_line(
    command: Command, tmp_path: Path, content: str, environment: dict[str, str], words: str
) -> None:
    file = tmp_path / "settings.toml"
    file.write_text(content)
    done = command("settings", HORNFELS_SETTINGS=str(file), **environment)
    assert done.returncode == 2
    assert words in done.stderr
    assert done.stderr.count("\n") == 1


def test_a_file_of_settings_that_is_not_there_is_said(command: Command) -> None:
    done = command("settings", HORNFELS_SETTINGS="/nowhere.toml")
    assert (done.returncode, "there is no such file" in done.stderr) == (2, True)
