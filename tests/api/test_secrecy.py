"""A candidate goes through every path of the running application and is found nowhere
afterwards.
"""

from __future__ import annotations

import base64
import json
import os
import socket
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import quote

import httpx2
import pytest
from sqlalchemy import Engine, create_engine, text

from api_help import DOMAIN
from command import COMMAND, ILSE_CHANGES
from hornfels.store.cluster import Cluster

CANARY = "Zq7-canary-Перигей-91"
NEEDLES = [
    b"canary",
    "canary".encode("utf-16-le"),
    quote(CANARY).encode(),
    *(base64.b64encode(b"-" * n + CANARY.encode())[4:20] for n in range(3)),
]


def holds_canary(data: bytes) -> bool:
    return any(needle in data for needle in NEEDLES)


@pytest.mark.parametrize("before", range(6))
def test_the_search_would_find_it(before: int) -> None:
    """However it is written and wherever it stands: a search that finds nothing must be able to
    find something.
    """
    whole = "x" * before + CANARY + "tail"
    written = [
        whole.encode(),
        whole.encode("utf-16-le"),
        quote(whole).encode(),
        json.dumps(whole).encode(),
        base64.b64encode(whole.encode()),
    ]
    assert all(map(holds_canary, written))
    assert not holds_canary(quote("Zq7-other").encode())


@pytest.fixture
def talkative(home: Path) -> Iterator[Cluster]:
    """A database that writes every statement, its parameters and its duration to the log."""
    loud = {
        "log_min_duration_statement": "0",
        "log_statement": "all",
        "log_parameter_max_length_on_error": "-1",
        "fsync": "off",
    }
    own = Cluster(home / "talkative", loud)
    own.start()
    yield own
    own.stop()


class Served:
    """`hornfels demo` as a process of its own, with everything it prints in a file."""

    def __init__(self, cluster: Cluster, log: Path) -> None:
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
        self.log = log
        with log.open("ab") as errors:
            self.process = subprocess.Popen(
                [COMMAND, "demo", "--port", str(port)],
                stdout=subprocess.PIPE,
                stderr=errors,
                text=True,
                env={
                    **os.environ,
                    "HORNFELS_DATABASE_URL": cluster.url,
                    "HORNFELS_DATABASE_OWNER_URL": cluster.owner_url,
                    "PYTHONFAULTHANDLER": "1",
                },
            )
        assert self.process.stdout
        lines = [self.process.stdout.readline() for _ in range(3)]
        self.client = httpx2.Client(base_url=f"http://127.0.0.1:{port}", timeout=30)
        self.client.post(
            "/api/session", json={"name": "demo", "password": lines[1].split()[-1]}
        ).raise_for_status()

    def kill(self) -> None:
        self.client.close()
        self.process.kill()
        self.process.wait()
        assert self.process.stdout
        self.process.stdout.close()


def bodies() -> list[tuple[str, Any]]:
    """Good requests and every way of getting them wrong that comes to mind, with the canary in
    each.
    """
    good = {
        "candidate": CANARY,
        "operation": "change",
        "accounts": ["ilse.varga"],
        "policies": ["domain"],
        "previous": [None, CANARY],
    }
    many = {"candidates": [CANARY, "x"], "operation": "reset", "accounts": ["ilse.varga"]}
    trial = {
        "title": "none",
        "candidate": CANARY,
        "kind": "account",
        "target": "ilse.varga",
        "expected": "refused",
        "invented": False,
    }
    return [
        ("verdicts", good),
        ("verdicts", {**good, "operation": CANARY}),
        ("verdicts", {**good, "accounts": CANARY}),
        ("verdicts", {**good, "surplus": CANARY}),
        ("verdicts", {**good, CANARY: 1}),
        ("verdicts", {**good, "candidate": [CANARY]}),
        ("verdicts", {**good, "candidate": CANARY * 400}),
        ("verdicts", {**good, "now": CANARY}),
        ("verdicts", {**good, "previous": [{"text": CANARY}]}),
        ("verdicts", CANARY),
        ("verdicts/many", many),
        ("verdicts/many", {**many, "accounts": ["nobody"]}),
        ("verdicts/many", {**many, "candidates": CANARY}),
        ("suggestions", {"account": "ilse.varga", "previous": [CANARY]}),
        ("suggestions", {"previous": [CANARY]}),
        ("boundaries", {"account": "ilse.varga", "operation": CANARY}),
        ("trials", trial),
        ("trials", {**trial, "invented": True, "target": "nobody"}),
        ("trials", {**trial, "invented": CANARY}),
        ("trials", {**trial, "invented": True, "candidate": CANARY + "\0"}),
    ]


def send_everything(client: httpx2.Client) -> list[bytes]:
    answers = [client.post(f"{DOMAIN}/{path}", json=body).content for path, body in bodies()]
    raw = json.dumps(bodies()[0][1]).encode()
    # Half a character: nothing can encode it, so whatever tries to tells of it.
    half = [json.dumps(body).replace("Zq7-", "\\ud800Zq7-").encode() for _, body in bodies()]
    for (path, _), content in zip(bodies(), half, strict=True):
        answers.append(
            client.post(
                f"{DOMAIN}/{path}", content=content, headers={"Content-Type": "application/json"}
            ).content
        )
    for content in (
        raw[:-3],
        raw.replace(b'"', b"'"),
        b"\xff" + raw,
        raw.decode().encode("utf-16"),
    ):
        answers.append(
            client.post(
                f"{DOMAIN}/verdicts", content=content, headers={"Content-Type": "application/json"}
            ).content
        )
    answers.append(client.post("/api/domains/none/verdicts", json=bodies()[0][1]).content)
    answers.append(client.post(f"{DOMAIN}~99/verdicts", json=bodies()[0][1]).content)
    answers.append(client.post("/api/session", json={"name": "demo", "password": CANARY}).content)
    answers.append(httpx2.post(f"{client.base_url}{DOMAIN}/verdicts", json=bodies()[0][1]).content)
    return answers


def in_tables(engine: Engine) -> bool:
    with engine.connect() as connection:
        names = connection.scalars(
            text("SELECT table_name FROM information_schema.tables WHERE table_schema = 'public'")
        ).all()
        return any(
            connection.scalar(
                text(f'SELECT count(*) FROM "{name}" AS t WHERE t::text LIKE :needle'),
                {"needle": "%can_ry%"},
            )
            for name in names
        )


@pytest.mark.thorough
def test_a_candidate_is_found_nowhere_afterwards(talkative: Cluster, tmp_path: Path) -> None:
    log = tmp_path / "server.log"
    served = Served(talkative, log)
    engine = create_engine(talkative.owner_url)
    answers = send_everything(served.client)
    # The drill takes stories and repeats the part that it cannot read. It keeps none of them.
    pasted = served.client.post(f"{DOMAIN}/drill", json={"story": CANARY, "accounts": [CANARY]})
    assert pasted.status_code == 422
    # A fault of ours, and one of the database, in the middle of a verdict.
    with engine.begin() as connection:
        connection.execute(text("ALTER TABLE sessions RENAME TO sessions_away"))
    served.client.get("/api/session")
    broken = served.client.post(f"{DOMAIN}/verdicts", json=bodies()[0][1])
    assert broken.status_code == 500
    answers += [broken.content]
    with engine.begin() as connection:
        connection.execute(text("ALTER TABLE sessions_away RENAME TO sessions"))
    # The process dies with requests in its hands.
    with socket.create_connection(("127.0.0.1", served.client.base_url.port)) as halfway:
        head = (
            f"POST {DOMAIN}/verdicts HTTP/1.1\r\nHost: x\r\nContent-Type: "
            "application/json\r\nContent-Length: 9999\r\n\r\n"
        )
        halfway.sendall(head.encode() + json.dumps(bodies()[0][1], ensure_ascii=False).encode())
        served.client.post(f"{DOMAIN}/verdicts", json=bodies()[0][1])
        served.kill()
    assert not any(map(holds_canary, answers))
    assert not in_tables(engine)
    engine.dispose()
    assert log.stat().st_size > 0, "the fault should have been logged"
    found = [
        file
        for folder in (talkative.home, tmp_path)
        for file in folder.rglob("*")
        if file.is_file() and not file.is_symlink() and holds_canary(file.read_bytes())
    ]
    assert found == []
    assert any(
        b"sessions_away" in file.read_bytes()
        for file in talkative.home.rglob("*")
        if file.is_file() and "log" in file.name
    )


@pytest.mark.parametrize(
    ("arguments", "stdin"),
    [
        ([], f"{CANARY}\n".encode()),
        (["--json"], f"{CANARY}\n".encode()),
        (["--json", "--json-input"], json.dumps(CANARY).encode()),
        (["--json-input"], CANARY.encode()),
        (["--json-input"], json.dumps([CANARY]).encode()),
        ([], b"\xff" + CANARY.encode()),
        ([], CANARY.encode() * 50_000),
        (["--now", CANARY], b""),
    ],
)
def test_the_command_repeats_no_candidate(
    arguments: list[str], stdin: bytes, demo_ldif: bytes, tmp_path: Path
) -> None:
    dump, earlier = tmp_path / "dump.ldif", tmp_path / "earlier"
    dump.write_bytes(demo_ldif)
    earlier.write_text(json.dumps(CANARY) + "\n", encoding="utf-8")
    ask: list[str | Path] = [
        COMMAND,
        "try",
        dump,
        *ILSE_CHANGES,
        "--previous",
        earlier,
    ]
    done = subprocess.run([*ask, *arguments], input=stdin, capture_output=True, check=False)
    assert done.stdout or done.stderr
    # What was given on the command line itself may be named in its error.
    assert arguments == ["--now", CANARY] or not holds_canary(done.stdout + done.stderr)
