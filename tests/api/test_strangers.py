"""What strangers, and too many at once, can do to the server: nothing."""

from __future__ import annotations

import asyncio
import contextlib
import inspect
import socket
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import httpx2
import pytest
from fastapi.dependencies.models import Dependant
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from sqlalchemy import Engine, func, select, update
from sqlalchemy.orm import Session

from api_help import DOMAIN
from hornfels.api import patience
from hornfels.api.app import ROUTERS, create_app
from hornfels.api.deps import get_session
from hornfels.api.turnstile import AT_WORK, FullError, Turnstile
from hornfels.demo.tarnholt import templates
from hornfels.store import attempts
from hornfels.store.models import AttemptRow, UploadRow
from persons import as_user
from served import ends_by_itself, raw, served

WRONG = {"name": "ann", "password": "wrong"}
RIGHT = {"name": "ann", "password": "correct horse"}


@pytest.fixture
def port(demo_stored: None, engine: Engine) -> Iterator[int]:  # noqa: ARG001 - chooses the database
    with served(create_app(engine, frozenset({"127.0.0.1"}))) as port:
        yield port


@contextlib.contextmanager
def visitor(port: int, *, signed_in: bool = True, name: str = "ann") -> Iterator[httpx2.Client]:
    with httpx2.Client(
        base_url=f"http://127.0.0.1:{port}", timeout=60, limits=httpx2.Limits(max_connections=None)
    ) as client:
        if signed_in:
            client.post("/api/session", json={**RIGHT, "name": name}).raise_for_status()
        yield client


def at_once(count: int, ask: Callable[[int], Any]) -> list[Any]:
    with ThreadPoolExecutor(count) as pool:
        return list(pool.map(ask, range(count)))


def uploads_of(engine: Engine) -> int:
    with Session(engine) as session:
        return session.scalar(select(func.count()).select_from(UploadRow)) or 0


def needs(dependant: Dependant) -> set[Any]:
    return {dependant.call}.union(*(needs(inner) for inner in dependant.dependencies))


def test_no_route_on_the_event_loop_may_touch_a_session() -> None:
    routes = [route for router in ROUTERS for route in router.routes if isinstance(route, APIRoute)]
    on_the_loop = [route for route in routes if inspect.iscoroutinefunction(route.endpoint)]
    assert {route.name for route in on_the_loop} >= {"verdicts", "load", "sign_in"}
    assert [route.path for route in on_the_loop if get_session in needs(route.dependant)] == []


def test_the_event_loop_is_refused_the_database(anonymous: TestClient, engine: Engine) -> None:
    async def ask() -> None:
        with pytest.raises(RuntimeError, match="on the event loop"):
            engine.connect()

    assert anonymous.portal
    anonymous.portal.call(ask)
    engine.connect().close()


def test_edits_of_a_domain_beside_templates_of_it_never_lock_each_other_for_good(port: int) -> None:
    gpo, template = next(iter(templates().items()))
    with visitor(port) as client:

        def ask(turn: int) -> int:
            if turn % 2:
                return client.put(
                    f"{DOMAIN}/sources/template", params={"gpo": gpo}, content=template
                ).status_code
            return client.patch(
                DOMAIN, json={"version": turn + 1, "approval_required": False}
            ).status_code

        assert set(at_once(30, ask)) <= {200, 409, 503}
        assert client.patch(DOMAIN, json={"version": -1}).status_code == 422
        assert client.get("/api/domains").status_code == 200


@pytest.mark.parametrize(
    ("head", "status"),
    [
        (
            (
                b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: "
                b"application/json\r\nContent-Length: 200000000\r\n\r\n"
            ),
            b"413",
        ),
        (
            (
                b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: "
                b"application/json\r\nContent-Length: 99999999999999999999\r\n\r\n"
            ),
            b"400",
        ),
        (
            (
                b"POST /api/loads?name=x HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: "
                b"200000000\r\n\r\n"
            ),
            b"401",
        ),
        (
            (
                b"POST /api/adjustments HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: "
                b"application/json\r\nContent-Length: 20\r\n\r\n"
            ),
            b"401",
        ),
        (b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nX: " + b"x" * 40_000, b"431"),
        (b"GET /api/session?" + b"x" * 40_000 + b" HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n", b"431"),
        (b"GET /readyz HTTP/1.1\r\nHost: elsewhere.example\r\n\r\n", b"421"),
    ],
)
def test_what_is_refused_is_refused_before_it_is_read(
    port: int, head: bytes, status: bytes
) -> None:
    """Only the head is sent: an answer cannot have waited for the body."""
    assert raw(port, head).split(b" ")[1] == status


def test_a_body_without_an_end_is_cut_off(port: int) -> None:
    with visitor(port, signed_in=False) as client:
        endless = (b"[" * 4096 for _ in range(1000))
        answer = client.post(
            "/api/session", content=endless, headers={"Content-Type": "application/json"}
        )
        assert (answer.status_code, "at most 8 KB" in answer.json()["detail"]) == (413, True)


@pytest.mark.parametrize(
    "words", [b"", b"\r\n", b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\n"]
)
def test_half_open_connections_are_ended(
    port: int, words: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(patience, "HEAD_SECONDS", 0.2)
    assert ends_by_itself(port, words)


def test_half_open_connections_make_room_for_whoever_asks(
    port: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(patience, "MOST_CONNECTIONS", 20)
    with contextlib.ExitStack() as open_ones:
        idle = [
            open_ones.enter_context(socket.create_connection(("127.0.0.1", port), timeout=30))
            for _ in range(60)
        ]
        assert raw(port, b"GET /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n").startswith(
            b"HTTP/1.1 200"
        )
        assert idle[0].recv(1) == b"", "the oldest had to go"


def test_a_body_that_stops_coming_is_given_up(port: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("hornfels.api.bodies.SECONDS", 0.2)
    half = (
        b"POST /api/session HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: "
        b'application/json\r\nContent-Length: 50\r\n\r\n{"name":'
    )
    assert raw(port, half).split(b" ")[1] == b"408"


@pytest.mark.thorough
def test_after_ten_wrong_tries_the_right_one_has_to_wait(port: int, engine: Engine) -> None:
    with visitor(port, signed_in=False) as client:
        assert [client.post("/api/session", json=WRONG).status_code for _ in range(10)] == [
            403
        ] * 10
        refused = client.post("/api/session", json=RIGHT)
        assert (refused.status_code, 880 < int(refused.headers["retry-after"]) <= 900) == (
            429,
            True,
        )
        assert "Wait 15 minutes" in refused.json()["detail"]
        # Somebody else at the same address is not shut out, nor does trying on make it longer.
        assert client.post("/api/session", json={**RIGHT, "name": "ben"}).status_code == 200
        with Session(engine) as session, session.begin():
            session.execute(
                update(AttemptRow).values(
                    lockout_time=AttemptRow.lockout_time - 15 * 60 * 10_000_000
                )
            )
        assert client.post("/api/session", json=RIGHT).status_code == 200
        assert [client.post("/api/session", json=WRONG).status_code for _ in range(9)] == [403] * 9
        assert client.post("/api/session", json=RIGHT).status_code == 200, (
            "a good one starts the count anew"
        )


@pytest.mark.thorough
def test_many_wrong_tries_at_once_are_counted_too(port: int) -> None:
    with visitor(port, signed_in=False) as client:
        with visitor(port, name="ben") as other, ThreadPoolExecutor(40) as pool:
            asked = [
                pool.submit(lambda: client.post("/api/session", json=WRONG).status_code)
                for _ in range(40)
            ]
            assert {other.get("/api/domains").status_code for _ in range(20)} == {200}, (
                "others are served meanwhile"
            )
            found = [one.result() for one in asked]
        assert set(found) <= {403, 429, 503}
        assert found.count(403) <= 10
        assert client.post("/api/session", json=WRONG).status_code in (403, 429)


def test_a_hundred_wrong_tries_shut_an_address_out_whatever_the_names(engine: Engine) -> None:
    for number in range(100):
        with Session(engine) as session, session.begin():
            assert attempts.begin(session, f"name {number}", "10.0.0.1") == (0, number == 99)
    with Session(engine) as session, session.begin():
        assert attempts.begin(session, "ann", "10.0.0.1")[0] > 0
        assert attempts.begin(session, "ann", "10.0.0.2") == (0, False)


def test_more_requests_than_there_is_room_for_are_told_to_come_back(port: int) -> None:
    with visitor(port) as client:
        answers = at_once(120, lambda _: client.get(f"{DOMAIN}/accounts"))
    assert {a.status_code for a in answers} <= {200, 503}
    assert any(a.status_code == 200 for a in answers)
    assert all(a.headers["retry-after"] for a in answers if a.status_code == 503)


@pytest.mark.thorough
def test_slow_uploads_leave_room_for_others(port: int, engine: Engine) -> None:
    """Four may come in slowly; more are told to come back; everybody else is served meanwhile, and
    nothing of theirs stays.
    """
    go_on = threading.Event()

    def slowly() -> Iterator[bytes]:
        yield b"dn: DC=x\n"
        go_on.wait(30)
        raise ConnectionAbortedError

    def upload(_: int) -> str:
        try:
            return str(client.post("/api/loads", content=slowly()).status_code)
        except (ConnectionAbortedError, httpx2.HTTPError) as error:
            return type(error).__name__

    with (
        visitor(port) as client,
        ThreadPoolExecutor(4) as pool,
        contextlib.ExitStack() as at_the_end,
    ):
        at_the_end.callback(go_on.set)
        slow = [pool.submit(upload, n) for n in range(4)]
        while uploads_of(engine) < 4:
            pass  # not all of the four are there yet
        assert client.post("/api/loads", content=b"x").status_code == 503
        assert set(at_once(12, lambda _: client.get("/api/domains").status_code)) == {200}
        go_on.set()
        assert all(one.result() != "202" for one in slow)
        while uploads_of(engine):
            pass  # what had come in is dropped
        assert client.get("/api/loads").json() == []


@pytest.mark.thorough
def test_whoever_reads_slowly_keeps_nobody_waiting(port: int) -> None:
    """More of them than there are places at work ask for much and read nothing of it."""
    with visitor(port) as client, contextlib.ExitStack() as open_ones:
        cookie = f"hornfels_session={client.cookies['hornfels_session']}"
        ask = (
            f"GET {DOMAIN}/strata HTTP/1.1\r\nHost: 127.0.0.1\r\nCookie: {cookie}\r\n\r\n".encode()
            * 20
        )
        for _ in range(2 * AT_WORK):
            lazy = socket.socket()
            lazy.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 4096)
            open_ones.enter_context(lazy)
            lazy.connect(("127.0.0.1", port))
            lazy.sendall(ask)
        answers = [client.get("/api/domains").status_code for _ in range(20)]
        assert answers[-1] == 200


def test_foreign_pages_and_a_changed_scheme_are_refused(port: int) -> None:
    with visitor(port) as client:
        for origin in (
            f"https://127.0.0.1:{port}",
            "http://127.0.0.1:1",
            "null",
            "http://elsewhere.example",
        ):
            assert (
                client.post(f"{DOMAIN}/drafts", json={}, headers={"Origin": origin}).status_code
                == 403
            )
        assert (
            client.post(
                f"{DOMAIN}/drafts", json={}, headers={"Origin": f"http://127.0.0.1:{port}"}
            ).status_code
            == 201
        )


def test_every_answer_carries_its_headers_and_a_fault_says_nothing_more(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    def fault(*_: object) -> None:
        raise RuntimeError("a secret")

    monkeypatch.setattr("hornfels.api.routes.groups.policy_name", fault)
    answer = client.get(f"{DOMAIN}/groups/gs-visiting-astronomers")
    assert answer.status_code == 500
    assert answer.headers["request-id"] in answer.json()["detail"]
    assert "secret" not in answer.text
    for path in ("/", "/assets/none", "/api/none", "/api/domains", "/readyz"):
        assert {"content-security-policy", "x-content-type-options", "request-id"} <= client.get(
            path
        ).headers.keys()


def test_a_session_ends_at_once_where_it_is_ended(client: TestClient) -> None:
    assert client.get("/api/domains").status_code == 200
    assert client.delete("/api/session").status_code == 204
    assert client.get("/api/domains").status_code == 401
    as_user(client, "ann")
    assert client.get("/api/domains").status_code == 200


def test_a_queue_is_short_and_patience_limited() -> None:
    async def scenario() -> list[str]:
        turnstile = Turnstile(at_work=1, waiting=1, patience=0.05)
        told: list[str] = []
        async with turnstile.place():
            waiting = asyncio.create_task(anext_place(turnstile, told))
            await asyncio.sleep(0)
            with pytest.raises(FullError):
                async with turnstile.place():
                    pass
            await waiting
        async with turnstile.place():
            told.append("free again")
        return told

    async def anext_place(turnstile: Turnstile, told: list[str]) -> None:
        with pytest.raises(FullError):
            async with turnstile.place():
                pass
        told.append("waited too long")

    assert asyncio.run(scenario()) == ["waited too long", "free again"]
