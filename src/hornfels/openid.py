"""Sign-in at somebody else's door: OpenID Connect Core 1.0, authorization code flow (section 3.1)
with PKCE (RFC 7636).
"""

from __future__ import annotations

import hmac
import secrets
import time
from dataclasses import astuple, dataclass
from datetime import UTC, datetime
from typing import Any
from urllib.parse import urlsplit

import requests
from authlib.integrations.requests_client import OAuth2Session
from authlib.integrations.requests_client import OAuthError as AnswerError
from authlib.oidc.core import CodeIDToken
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet

from hornfels.refusals import ConflictError, ForbiddenError

_SECONDS = (5.0, 10.0)
"""To connect to the provider, and to wait for its answer."""
_DESCRIBED_FOR = 600.0
"""Seconds for which what the provider says of itself is believed."""
_SIGNATURES = ["RS256", "RS384", "RS512", "PS256", "PS384", "PS512", "ES256", "ES384", "ES512"]
"""How an ID token may be signed: by keys that only the provider has."""
_CLOCKS_APART = 60
_LOOPBACK = frozenset({"127.0.0.1", "::1", "localhost"})


class ProviderError(ConflictError):
    """The provider cannot be asked, or answers what cannot be believed."""


@dataclass(frozen=True, slots=True)
class Way:
    """What a browser keeps while its person is with the provider: nobody else can come back in
    their place. ``again`` stands for somebody who is signed in and shows that they are there.
    """

    state: str
    nonce: str
    verifier: str
    again: bool

    def text(self) -> str:
        return ".".join(map(str, astuple(self)))

    @classmethod
    def of(cls, text: str) -> Way | None:
        """The way that `text` was made from, None if it is none."""
        parts = text.split(".")
        if len(parts) != 4 or not all(parts):
            return None
        state, nonce, verifier, again = parts
        return cls(state, nonce, verifier, again == "True")


@dataclass(frozen=True, slots=True)
class Claimed:
    """Who somebody is, by the provider's word: ``subject`` never changes and belongs to nobody
    else, ``name`` may. ``seen_at`` is when they last showed the provider who they are, if it says.
    """

    subject: str
    name: str
    seen_at: datetime | None


def refuse_issuer(issuer: str) -> None:
    """Raises `ValueError` unless nobody on the way could speak in the provider's place."""
    parts = urlsplit(issuer)
    if parts.scheme not in ("https", "http") or not parts.hostname or parts.query or parts.fragment:
        raise ValueError("give the address of the provider, as https://…, as it names itself")
    if parts.scheme == "http" and parts.hostname not in _LOOPBACK:
        raise ValueError("others could read along: the provider's address has to begin with https")


class Provider:
    """The provider that is set. ``title`` is what people call it; ``claim`` names what of an ID
    token is the name that somebody was added by; ``authorities`` is a file of certificates (PEM)
    in place of the usual ones.
    """

    def __init__(
        self,
        issuer: str,
        client: str,
        secret: str,
        *,
        title: str = "your organisation",
        claim: str = "preferred_username",
        authorities: str | None = None,
    ) -> None:
        self.title = title
        self._issuer, self._client, self._secret = issuer, client, secret
        self._claim, self._authorities = claim, authorities
        self._described: tuple[float, dict[str, Any]] | None = None

    def begin(self, back: str, *, again: bool) -> tuple[str, Way]:
        """Where somebody goes to sign in, who then comes to the address `back` (section 3.1.2.1).
        With `again` the provider has to ask them, whatever it knows.
        """
        way = Way(
            secrets.token_urlsafe(24),
            secrets.token_urlsafe(24),
            secrets.token_urlsafe(48),
            again,
        )
        with self._client_at(back) as client:
            asked = {"prompt": "login", "max_age": "0"} if again else {}
            place, _ = client.create_authorization_url(
                self._endpoint("authorization_endpoint"),
                state=way.state,
                nonce=way.nonce,
                code_verifier=way.verifier,
                **asked,
            )
        return str(place), way

    def end(self, back: str, way: Way, state: str, code: str, issuer: str | None) -> Claimed:
        """Who it is that came back with a code. Raises `ForbiddenError` if they did not go this
        way, `ProviderError` if the provider's word cannot be had or believed.
        """
        if not hmac.compare_digest(way.state.encode(), state.encode()):
            raise ForbiddenError("This sign-in was begun elsewhere. Begin it here once more.")
        # RFC 9207: another provider's answer is not handed to this one.
        if issuer is not None and issuer != self._issuer:
            raise ForbiddenError("This sign-in came from another provider. Begin once more.")
        with self._client_at(back) as client:
            try:
                answer = client.fetch_token(
                    self._endpoint("token_endpoint"),
                    code=code,
                    grant_type="authorization_code",
                    code_verifier=way.verifier,
                    redirect_uri=back,
                    timeout=_SECONDS,
                )
            except AnswerError as error:
                raise ForbiddenError(
                    f"The provider did not take the sign-in ({_short(error.error)}). Begin it "
                    "once more."
                ) from None
            except (requests.RequestException, ValueError) as error:
                raise self._away(error) from None
        return self._believed(answer, way)

    def _believed(self, answer: dict[str, Any], way: Way) -> Claimed:
        """What an ID token says, which is checked as section 3.1.3.7 has it."""
        given = answer.get("id_token")
        if not isinstance(given, str):
            raise ProviderError(
                "The provider named nobody: it sent no ID token. Let it give this client the "
                "scope “openid”."
            )
        try:
            keys = KeySet.import_key_set(self._fetched(self._endpoint("jwks_uri")))  # type: ignore[arg-type]
            token = jwt.decode(given, keys, algorithms=_SIGNATURES)
            claims = CodeIDToken(
                token.claims,
                token.header,
                {"iss": {"value": self._issuer}, "aud": {"value": self._client}},
                {
                    "nonce": way.nonce,
                    "client_id": self._client,
                    "access_token": answer.get("access_token"),
                },
            )
            claims.validate(leeway=_CLOCKS_APART)
        except (JoseError, ValueError, KeyError, TypeError) as error:
            raise ProviderError(
                f"What the provider says of who you are cannot be believed "
                f"({_short(str(error) or type(error).__name__)})."
            ) from None
        subject, name, seen = claims["sub"], claims.get(self._claim), claims.get("auth_time")
        if not isinstance(name, str) or not name or not isinstance(subject, str) or not subject:
            raise ProviderError(
                f"The provider did not say your name: its ID token has no claim “{self._claim}”. "
                "HORNFELS_OPENID_CLAIM names another one."
            )
        seen_at = datetime.fromtimestamp(seen, UTC) if seen else None
        return Claimed(f"{self._issuer} {subject}", name, seen_at)

    def _client_at(self, back: str) -> Any:
        client = OAuth2Session(
            self._client,
            self._secret or None,
            scope="openid profile email",
            redirect_uri=back,
            code_challenge_method="S256",
            token_endpoint_auth_method=self._shown_by(),
        )
        if self._authorities:
            client.verify = self._authorities
        return client

    def _shown_by(self) -> str:
        """How the client's secret is shown: as the provider takes it."""
        if not self._secret:
            return "none"
        taken = self._description().get("token_endpoint_auth_methods_supported")
        basic = not isinstance(taken, list) or "client_secret_basic" in taken
        return "client_secret_basic" if basic else "client_secret_post"

    def _endpoint(self, name: str) -> str:
        found = self._description().get(name)
        try:
            refuse_issuer(str(found).partition("?")[0])
        except ValueError:
            raise ProviderError(
                f"The provider at {self._issuer} does not say where its {name} is."
            ) from None
        return str(found)

    def _description(self) -> dict[str, Any]:
        """What the provider says of itself (OpenID Connect Discovery 1.0, section 4)."""
        now = time.monotonic()
        if self._described is None or self._described[0] + _DESCRIBED_FOR < now:
            place = f"{self._issuer.rstrip('/')}/.well-known/openid-configuration"
            found = self._fetched(place)
            if found.get("issuer") != self._issuer:
                raise ProviderError(
                    f"The provider at {self._issuer} calls itself {_short(found.get('issuer'))}. "
                    "HORNFELS_OPENID_ISSUER has to be exactly what it calls itself."
                )
            self._described = (now, found)
        return self._described[1]

    def _fetched(self, place: str) -> dict[str, Any]:
        try:
            answer = requests.get(place, timeout=_SECONDS, verify=self._authorities or True)
            answer.raise_for_status()
            found = answer.json()
        except (requests.RequestException, ValueError, OSError) as error:
            raise self._away(error) from None
        if not isinstance(found, dict):
            raise self._away(ValueError("not what was asked for"))
        return found

    def _away(self, error: Exception) -> ProviderError:
        match error:
            case requests.exceptions.SSLError():
                why = "its certificate cannot be trusted; HORNFELS_OPENID_AUTHORITIES names others"
            case requests.Timeout():
                why = "it does not answer in time"
            case requests.ConnectionError():
                why = "nobody answers there"
            case requests.HTTPError(response=requests.Response() as answer):
                why = f"it answers with status {answer.status_code}"
            case _:
                why = "its answer cannot be read"
        return ProviderError(f"The provider at {self._issuer} cannot be asked: {why}.")


def _short(words: object) -> str:
    """Somebody else's words, short and without what is not seen."""
    return "".join(c for c in str(words) if c.isprintable())[:80]
