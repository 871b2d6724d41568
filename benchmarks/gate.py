"""Answers at the gate over TLS, two hundred a second, and the hook's own way to one."""

from __future__ import annotations

import json
import os
import ssl
import subprocess
import tempfile
import time
from pathlib import Path
from random import Random

from sqlalchemy import Engine, select, update
from sqlalchemy.orm import Session

from benchmarks.beyond import made_up
from benchmarks.load import Request, latencies
from benchmarks.web import worker
from command import COMMAND
from directory_server import certified
from hornfels.core.passwords.typical import typical
from hornfels.core.policy.term_lists import list_of
from hornfels.gate import hook
from hornfels.store import gate, terms
from hornfels.store.models import DomainRow

PATH = "/api/gate/v1/check"
ADDITION = {
    "password": [
        {"blocked": {"lists": ["long"]}},
        {"run": {"max": 3}},
        {"walk": {"max": 3, "layouts": ["us", "de"]}},
        {"names": {"reversed": True}},
        {"pattern": {"expression": "(19|20)[0-9]{2}$", "must": False}},
    ],
    "phrase": [{"words": {"min": 4, "letters": 4}}, {"blocked": {"lists": ["long"]}}],
    "bands": [{"length": 8, "lifetime": 60 * 864_000_000_000}],
}
PER_SECOND = 200
SECONDS = 20


def at_the_gate(engine: Engine) -> None:
    """The demo, whose domain policy has an addition with 100,000 blocked terms."""
    with Session(engine) as session, session.begin():
        domain = session.scalars(select(DomainRow)).one()
        held = made_up(100_000, Random(7))
        terms.keep(session, domain.id, held)
        listed = list_of(held)
        lists = {"long": {"digest": listed.digest, "count": listed.count}}
        values = {"addition": ADDITION, "term_lists": lists, "version": domain.version + 1}
        session.execute(update(DomainRow).values(values))
        _, token = gate.make_caller(session, domain.id, "bench", "hook", "bench")
    random = Random(11)
    names = ["ilse.varga", "tarek.okonjo", "noa.lindqvist", "nobody.yet"]
    asked = [
        {"account": random.choice(names), "candidate": candidate, "complexity_left": True}
        for candidate in typical(PER_SECOND * SECONDS, random)
    ]
    url = engine.url.render_as_string(hide_password=False)
    print(f"\nAt the gate: 100,000 blocked terms, {PER_SECOND} questions a second for {SECONDS} s")
    with tempfile.TemporaryDirectory() as folder:
        certificate, key = Path(folder, "cert.pem"), Path(folder, "key.pem")
        certified(certificate, key, "localhost")
        trusting = ssl.create_default_context()
        trusting.check_hostname, trusting.verify_mode = False, ssl.CERT_NONE
        with worker("application", url, certificate, key) as port:
            requests = [
                Request(port, PATH, json.dumps(one).encode(), bearer=token) for one in asked
            ]
            latencies(requests[:200], PER_SECOND, 4, trusting)
            _told("over TLS, four connections", latencies(requests, PER_SECOND, 4, trusting))
        with worker("application", url) as port:
            _hook(Path(folder), token, port)


def _hook(folder: Path, token: str, port: int) -> None:
    """The program that a directory server runs, from its start to its end."""
    file, socket = folder / "token", folder / "gate.sock"
    file.write_text(token)
    file.chmod(0o600)
    serving = subprocess.Popen(
        [
            *(COMMAND, "gate", "serve", "--from", f"http://127.0.0.1:{port}"),
            *("--token-file", str(file), "--socket", str(socket)),
        ],
        env={**os.environ, "HORNFELS_HOME": str(folder)},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        text=True,
    )
    assert serving.stderr
    while "answers by the rules" not in serving.stderr.readline():
        pass
    try:
        times = []
        for number in range(200):
            begun = time.perf_counter()
            subprocess.run(
                ["/usr/bin/python3", "-I", "-S", str(hook.__file__), str(socket), "refuse"],
                input=f"Umbra-mosaic-{number}".encode(),
                env={"SAMBA_CPS_ACCOUNT_NAME": "ilse.varga"},
                check=True,
            )
            times.append(time.perf_counter() - begun)
        _told("by the hook, from its start to its end", sorted(times))
    finally:
        serving.terminate()
        serving.wait()


def _told(what: str, times: list[float]) -> None:
    p50, p99 = times[len(times) // 2], times[len(times) * 99 // 100]
    print(f"  {what:<58}{p50 * 1000:>12,.2f} ms  99th percentile {p99 * 1000:.1f} ms")
