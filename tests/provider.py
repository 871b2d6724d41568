"""A small provider of OpenID Connect on loopback, which signs in whoever says a name, and lies
where a test wants it to.
"""

from __future__ import annotations

import base64
import contextlib
import hashlib
import secrets
import socket
import time
from collections.abc import Callable, Iterator
from typing import Any
from urllib.parse import parse_qsl

from fastapi import FastAPI, HTTPException
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from joserfc import jwt
from joserfc.jwk import KeySet, OctKey, RSAKey
from starlette.requests import Request

from hornfels.openid import Provider
from served import served

CLIENT, SECRET, TITLE = "hornfels", "between-us", "Observatory accounts"


def half(text: str) -> str:
    """The left half of a text's digest (OpenID Connect Core 1.0, section 3.1.3.6)."""
    return base64.urlsafe_b64encode(hashlib.sha256(text.encode()).digest()[:16]).decode().strip("=")


class StandIn:
    """What the provider knows. ``subjects`` tells who a name is; ``lie`` changes the claims of the
    next ID tokens; ``signed`` makes one of them.
    """

    def __init__(self) -> None:
        self.issuer = ""
        self.subjects: dict[str, str] = {}
        self.key = RSAKey.generate_key(2048, {"kid": "one", "use": "sig"}, private=True)
        self.lie: Callable[[dict[str, Any]], None] = lambda _: None
        self.signed: Callable[[dict[str, Any]], str] = self.honestly
        self.calls_itself: str | None = None
        self._open: dict[str, dict[str, str]] = {}

    def honestly(self, claims: dict[str, Any]) -> str:
        return jwt.encode({"alg": "RS256", "kid": "one"}, claims, self.key)

    def by_the_secret(self, claims: dict[str, Any]) -> str:
        key = OctKey.import_key(SECRET.ljust(32, "."), {"kid": "one"})
        return jwt.encode({"alg": "HS256", "kid": "one"}, claims, key)

    def by_another_key(self, claims: dict[str, Any]) -> str:
        key = RSAKey.generate_key(2048, {"kid": "one"}, private=True)
        return jwt.encode({"alg": "RS256", "kid": "one"}, claims, key)

    def by_nobody(self, claims: dict[str, Any]) -> str:
        _, body, _ = self.honestly(claims).split(".")
        none = base64.urlsafe_b64encode(b'{"alg":"none","kid":"one"}').decode().strip("=")
        return f"{none}.{body}."

    def description(self) -> dict[str, Any]:
        return {
            "issuer": self.calls_itself or self.issuer,
            "authorization_endpoint": f"{self.issuer}/authorize",
            "token_endpoint": f"{self.issuer}/token",
            "jwks_uri": f"{self.issuer}/keys",
            "response_types_supported": ["code"],
        }

    def agreed(self, name: str, asked: dict[str, str]) -> str:
        """Where somebody goes on who has said their name."""
        code = secrets.token_urlsafe(8)
        self._open[code] = {**asked, "name": name}
        back = asked["redirect_uri"]
        return f"{back}?code={code}&state={asked['state']}&iss={self.issuer}"

    def token(self, code: str, verifier: str, back: str) -> dict[str, Any]:
        asked = self._open.pop(code, None)
        digest = base64.urlsafe_b64encode(hashlib.sha256(verifier.encode()).digest())
        if (
            asked is None
            or asked["code_challenge"] != digest.decode().strip("=")
            or asked["redirect_uri"] != back
        ):
            raise HTTPException(400, {"error": "invalid_grant"})
        now, access = int(time.time()), secrets.token_urlsafe(8)
        claims = {
            "iss": self.issuer,
            "sub": self.subjects.get(asked["name"], f"number {asked['name']}"),
            "aud": CLIENT,
            "iat": now,
            "exp": now + 300,
            "auth_time": now if asked.get("prompt") == "login" else now - 3600,
            "nonce": asked["nonce"],
            "at_hash": half(access),
            "preferred_username": asked["name"],
        }
        self.lie(claims)
        return {"access_token": access, "token_type": "Bearer", "id_token": self.signed(claims)}

    def app(self) -> FastAPI:
        app = FastAPI()
        app.add_api_route("/.well-known/openid-configuration", self.description)
        keys = KeySet([self.key])
        app.add_api_route("/keys", lambda: keys.as_dict(private=False))

        @app.get("/authorize")
        def authorize(request: Request) -> HTMLResponse:
            asked = dict(request.query_params)
            hidden = '<input type=hidden name="{}" value="{}">'
            fields = "".join(hidden.format(key, value) for key, value in asked.items())
            return HTMLResponse(
                f"<title>{TITLE}</title><form action=/agreed>{fields}"
                "<label>Who are you? <input name=name></label><button>That is me</button></form>"
            )

        @app.get("/agreed")
        def agreed(name: str, request: Request) -> RedirectResponse:
            return RedirectResponse(self.agreed(name, dict(request.query_params)), 302)

        @app.post("/token")
        async def token(request: Request) -> dict[str, Any]:
            shown = base64.b64encode(f"{CLIENT}:{SECRET}".encode()).decode()
            if request.headers["authorization"] != f"Basic {shown}":
                raise HTTPException(401, {"error": "invalid_client"})
            given = dict(parse_qsl((await request.body()).decode()))
            return self.token(given["code"], given["code_verifier"], given["redirect_uri"])

        @app.exception_handler(HTTPException)
        def refused(_request: Request, error: Exception) -> JSONResponse:
            assert isinstance(error, HTTPException)
            return JSONResponse(error.detail, status_code=error.status_code)

        return app


@contextlib.contextmanager
def standing_in() -> Iterator[tuple[StandIn, Provider]]:
    """The provider for as long as the block runs, and how Hornfels knows it."""
    stand_in = StandIn()
    with socket.create_server(("127.0.0.1", 0)) as listener:
        stand_in.issuer = f"http://127.0.0.1:{listener.getsockname()[1]}"
        with served(stand_in.app(), listener.dup()):
            yield stand_in, Provider(stand_in.issuer, CLIENT, SECRET, title=TITLE)
