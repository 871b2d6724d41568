"""What stands before every route: hosts and origins, who is signed in, the body's size, a place at
work, safe headers.
"""

from __future__ import annotations

import logging
import re
import secrets
import time
import traceback
from collections.abc import Awaitable, Callable
from ipaddress import ip_address

from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from hornfels.api import bodies
from hornfels.api.address import UnreadableAddressError, canonical
from hornfels.api.gatehouse import Gatehouse
from hornfels.api.metrics import Metrics
from hornfels.api.outages import answer_database
from hornfels.api.packed import Packed
from hornfels.api.refusals import invalid, refusal
from hornfels.api.snapshot_cache import CACHED_PATHS, SnapshotCache
from hornfels.api.turnstile import SHARE, FullError, Turnstile
from hornfels.api.visible import Visible
from hornfels.api.visitors import Visitors
from hornfels.logs import REQUEST
from hornfels.store.own_page import Person
from hornfels.store.sessions import Visitor

COOKIE = "hornfels_session"
YOUR_COOKIE = "hornfels_you"
WELL = ("/healthz", "/readyz")
_SAFE = {"GET", "HEAD", "OPTIONS"}
SESSION = "/api/session"
PASSWORD = f"{SESSION}/password"
ELSEWHERE = (f"{SESSION}/elsewhere", f"{SESSION}/elsewhere/back")
_QUEUED_APART = {SESSION, PASSWORD, f"{SESSION}/proof", *ELSEWHERE}
_ABOUT_PEOPLE = (SESSION, "/api/people", "/api/acts")
"""Where it changes who is signed in and what they may do."""
_OPEN = {SESSION, *ELSEWHERE, "/api/openapi.json"}
"""What answers without anybody being signed in."""
_GATE = "/api/gate/"
"""Where no person comes, but callers with tokens of their own."""
YOURS = "/api/you"
"""Where people under a policy come, who are known by what they have in their directory and may do
nothing else.
"""
OWN_AT_WORK = 2
"""Requests of people at their own page at work at a time, besides those that ask a directory."""
_AT_DIRECTORIES = re.compile(
    r"/api/directories/[^/]+/test|/api/domains/[^/]+/locks/(?:unlockings|must-change)|"
    r"/api/domains/[^/]+/mailing/test"
)
_EVENTS = re.compile(r"/api/jobs/[^/]+/events")
"""What stays open for as long as somebody looks on, and needs no place at work."""

_POLICY = (
    "default-src 'self'; style-src 'self' 'nonce-{}'; img-src 'self' data:; font-src 'self'; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
_POLICY_HEADER = b"content-security-policy"
_HEADERS = [
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
]
_FROM_NOW_ON = (b"strict-transport-security", b"max-age=31536000")
"""Never without TLS again, once there was TLS."""
_UNKEPT = [*_HEADERS, (b"cache-control", b"no-store")]
_KEPT = [*_HEADERS, (b"cache-control", b"public, max-age=31536000, immutable")]

_log = logging.getLogger(__name__)


class Guard:
    """An ASGI application in front of another. ``hosts`` are the names that the server answers to,
    None for any.
    """

    def __init__(
        self,
        app: ASGIApp,
        visitors: Visitors[Visitor],
        persons: Visitors[Person],
        gatehouse: Gatehouse,
        cache: SnapshotCache,
        hosts: frozenset[str] | None,
        pages: ASGIApp,
        metrics: Metrics,
    ) -> None:
        self._app, self._visitors, self._cache, self._hosts, self._pages = (
            app,
            visitors,
            cache,
            hosts,
            pages,
        )
        self._gatehouse, self._persons = gatehouse, persons
        self._metrics = metrics
        self._turnstile = Turnstile()
        self._gate = Turnstile(waiting=200, patience=0.3)
        self._own_pages = Turnstile(at_work=OWN_AT_WORK, waiting=200, share=2 * SHARE)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        request_id = secrets.token_hex(8)
        REQUEST.set(request_id)
        nonce = secrets.token_urlsafe(16)
        scope.setdefault("state", {}).update(request_id=request_id, nonce=nonce)
        secure = scope.get("scheme") == "https"
        own = [
            (b"request-id", request_id.encode()),
            *([_FROM_NOW_ON] if secure else []),
        ]
        policy = (_POLICY_HEADER, _POLICY.format(nonce).encode())
        answer = _Answer(send, scope["path"], own, policy, self._forgetting(scope["path"]))
        began = time.monotonic()
        try:
            await self._guarded(scope, receive, answer)
        except Exception as error:
            # Where it happened, never what was in hand: that may hold a candidate password.
            place = "".join(traceback.format_tb(error.__traceback__)[-6:])
            _log.error("Request %s failed with %s at\n%s", request_id, type(error).__name__, place)
            if not answer.started:
                words = (
                    "Something went wrong inside Hornfels. Nothing more is known here; the log "
                    f"has it under {request_id}."
                )
                await refusal(500, words)(scope, receive, answer)
        finally:
            self._metrics.answered(scope["method"], answer.status, began)

    async def _guarded(self, scope: Scope, receive: Receive, send: Send) -> None:
        headers = Headers(scope=scope)
        refused = self._from_elsewhere(scope, headers)
        if refused is None:
            refused = _unreadable(scope)
        if refused is not None:
            await refused(scope, receive, send)
            return
        path: str = scope["path"]
        if not path.startswith("/api/"):
            await (self._app if path in WELL else self._pages)(scope, receive, send)
            return
        try:
            await self._asked(path, headers, scope, receive, send)
        except FullError:
            await refusal(
                503, "Too many ask at once just now. Try again in a moment.", retry_after=1
            )(scope, receive, send)
        except bodies.RefusedBodyError as error:
            await error.answer(scope, receive, send)
        except (DBAPIError, PoolTimeoutError) as error:
            await answer_database(error)(scope, receive, send)

    async def _asked(
        self, path: str, headers: Headers, scope: Scope, receive: Receive, send: Send
    ) -> None:
        if path.startswith(_GATE):
            await self._asked_at_the_gate(path, headers, scope, receive, send)
            return
        if path == YOURS or path.startswith(f"{YOURS}/"):
            await self._asked_by_themselves(path, headers, scope, receive, send)
            return
        visitor = None if path in _OPEN else await self._visitors.of(_token(headers))
        if visitor is None and path not in _OPEN:
            await refusal(401, "Sign in first.")(scope, receive, send)
            return
        if visitor and visitor.one_time and path != PASSWORD:
            words = "This password opens nothing but the way to another one. Choose that first."
            await refusal(403, words, needs="new-password")(scope, receive, send)
            return
        scope["state"]["visitor"] = visitor
        if path == bodies.STREAMED or _EVENTS.fullmatch(path):
            await self._app(scope, receive, send)
            return
        if scope["method"] not in _SAFE:
            body = await bodies.whole(path, headers, receive)
            receive = bodies.replayed(body, receive)
        answer: list[Message] = []

        async def keep(message: Message) -> None:
            answer.append(message)

        apart = path in _QUEUED_APART or _AT_DIRECTORIES.fullmatch(path)
        if apart and scope["method"] == "POST":
            # Comparing passwords, asking the provider and trying a directory have queues of their
            # own: strangers take no place from anybody who is signed in, nor do slow servers.
            await self._app(scope, receive, keep)
        else:
            async with self._turnstile.place():
                await self._app(scope, receive, keep)
        # Sent without a place at work: whoever reads slowly keeps nobody waiting.
        send = Packed(send, headers.get("accept-encoding", ""))
        send = send if path.endswith(bodies.INVENTED_PATHS) else Visible(send)
        for message in answer:
            await send(message)

    async def _asked_at_the_gate(
        self, path: str, headers: Headers, scope: Scope, receive: Receive, send: Send
    ) -> None:
        """With a queue of its own: directories wait for nobody's page, nor people for them."""
        asking = await self._gatehouse.of(_token(headers) or "")
        if asking is None:
            words = "Ask with the token of a caller at the gate."
            await refusal(401, words)(scope, receive, send)
            return
        scope["state"]["at_the_gate"] = asking
        if scope["method"] not in _SAFE:
            receive = bodies.replayed(await bodies.whole(path, headers, receive), receive)
        async with self._gate.place():
            await self._app(scope, receive, Visible(send))

    async def _asked_by_themselves(
        self, path: str, headers: Headers, scope: Scope, receive: Receive, send: Send
    ) -> None:
        """With queues of their own, for there may be many: one in the routes for what asks a
        directory, and this one for the rest.
        """
        token = cookie_parser(headers.get("cookie", "")).get(YOUR_COOKIE)
        scope["state"]["own_person"] = await self._persons.of(token)
        if scope["method"] not in _SAFE:
            receive = bodies.replayed(await bodies.whole(path, headers, receive), receive)
        send = send if path.endswith(bodies.INVENTED_PATHS) else Visible(send)
        if path.endswith(("/verdicts", "/suggestions")):
            async with self._own_pages.share((scope.get("client") or ("",))[0]):
                await self._app(scope, receive, send)
        else:
            await self._app(scope, receive, send)

    def _from_elsewhere(self, scope: Scope, headers: Headers) -> Response | None:
        host = headers.get("host", "")
        if self._hosts is not None and not self._is_ours(_name(host)):
            shown = _name(host)[:60] if host.isprintable() else ""
            return refusal(
                421,
                (
                    f"Hornfels does not answer to “{shown}” here. Name it in HORNFELS_HOSTS when "
                    "starting Hornfels."
                ),
            )
        origin, site = headers.get("origin"), headers.get("sec-fetch-site", "none")
        if scope["method"] not in _SAFE and (
            (origin and origin != f"{scope.get('scheme', 'http')}://{host}")
            or site not in ("none", "same-origin")
        ):
            return refusal(403, "This request came from another site.")
        return None

    def _is_ours(self, name: str) -> bool:
        """Return whether the server answers to a name. An IP address leads nowhere else."""
        assert self._hosts is not None  # noqa: S101
        beyond_loopback = not self._hosts & {"127.0.0.1", "localhost"}
        return name.lower() in self._hosts or (beyond_loopback and _is_address(name))

    def _forgetting(self, path: str) -> Callable[[], None]:
        def forget() -> None:
            if path.startswith(YOURS):
                if not path.endswith(("/verdicts", "/suggestions")):
                    self._persons.forget()
                return
            if not path.endswith(CACHED_PATHS) and not path.startswith(_GATE):
                self._cache.forget()
            if path.startswith(_ABOUT_PEOPLE):
                self._visitors.forget()

        return forget


def _token(headers: Headers) -> str | None:
    """What tells who comes: a script's token before a browser's cookie."""
    scheme, _, given = headers.get("authorization", "").partition(" ")
    if scheme.lower() == "bearer":
        return given.strip()
    return cookie_parser(headers.get("cookie", "")).get(COOKIE)


def _name(host: str) -> str:
    """A Host header without its port."""
    return host.rpartition(":")[0] if re.search(r":\d+$", host) else host


def _is_address(name: str) -> bool:
    try:
        ip_address(name.strip("[]"))
    except ValueError:
        return False
    return True


def _unreadable(scope: Scope) -> Response | None:
    try:
        scope["path"] = canonical(scope)
    except UnreadableAddressError as error:
        return invalid("address", str(error))
    return None


class _Answer:
    """Sends an answer with the headers that every answer has, and a policy for what it may load
    where it has none of its own.
    """

    def __init__(
        self,
        send: Send,
        path: str,
        own: list[tuple[bytes, bytes]],
        policy: tuple[bytes, bytes],
        forget: Callable[[], None],
    ) -> None:
        self._send, self._policy, self._forget = send, policy, forget
        kept = (
            _KEPT
            if path.startswith("/assets/")
            else _UNKEPT
            if path.startswith("/api/")
            else _HEADERS
        )
        self._headers = [*kept, *own]
        self.started = False
        self.status = 0

    def __call__(self, message: Message) -> Awaitable[None]:
        if message["type"] == "http.response.start":
            self.started, self.status = True, message["status"]
            self._forget()
            headers = [*message["headers"], *self._headers]
            if not any(name == _POLICY_HEADER for name, _ in headers):
                headers.append(self._policy)
            message["headers"] = headers
        return self._send(message)
