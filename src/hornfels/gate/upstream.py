"""What a gate on another machine and Hornfels say to each other, by HTTP."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import urlsplit

import requests

from hornfels.gate.spool import Written

_PATIENCE = 5.0, 60.0
"""Seconds until a connection stands, and until something comes over it."""
_LOOPBACK = frozenset({"localhost", "127.0.0.1", "::1"})


class UpstreamError(Exception):
    """Hornfels could not be asked, or would not answer; the message says why."""


class Fetched(NamedTuple):
    """A rule set as a file, and what tells it from others."""

    version: str
    file: bytes


def refuse_address(address: str) -> None:
    """Raises ValueError for an address that is none, or to which others could read along."""
    parts = urlsplit(address)
    if parts.scheme not in ("https", "http") or not parts.hostname:
        raise ValueError("give the address of Hornfels, such as https://hornfels.example.com")
    if parts.scheme == "http" and parts.hostname not in _LOOPBACK:
        raise ValueError("others could read the token along: give an address with https")


class Upstream:
    """Hornfels as a caller sees it."""

    def __init__(self, address: str, token: str, authorities: Path | None = None) -> None:
        self._root = f"{address.rstrip('/')}/api/gate/v1"
        self._session = requests.Session()
        # Neither a proxy nor a password file of whoever starts it.
        self._session.trust_env = False
        self._session.headers["Authorization"] = f"Bearer {token}"
        if authorities is not None:
            self._session.verify = str(authorities)

    def rules(self, version: str) -> Fetched | None:
        """The present rules, None if they are the ones of this version still. Raises
        `UpstreamError`.
        """
        held = {"If-None-Match": f'"{version}"'}
        answer = self._asked("GET", "rules", headers=held)
        if answer.status_code == 304:
            return None
        return Fetched(answer.headers.get("ETag", "").strip('"'), answer.content)

    def tell(self, version: str, otherwise: str, records: Sequence[Written]) -> None:
        """Tell what was answered, and how things stand. Raises `UpstreamError`."""
        body = {"rules": version, "otherwise": otherwise, "records": list(records)}
        self._asked("POST", "records", json=body)

    def _asked(
        self,
        method: str,
        what: str,
        headers: dict[str, str] | None = None,
        json: dict[str, Any] | None = None,
    ) -> requests.Response:
        try:
            answer = self._session.request(
                method, f"{self._root}/{what}", headers=headers, json=json, timeout=_PATIENCE
            )
        except requests.RequestException as error:
            raise UpstreamError(f"Hornfels does not answer ({type(error).__name__})") from None
        if answer.status_code == 401:
            raise UpstreamError("Hornfels does not know this token: make a caller for it (Sources)")
        if not answer.ok:
            raise UpstreamError(f"Hornfels answered {answer.status_code} to {what}")
        return answer
