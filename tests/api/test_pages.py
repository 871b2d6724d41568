"""What the front end is served as: packed, kept by its hash, and answers packed on the way."""

from __future__ import annotations

import gzip
import re

import pytest
from fastapi.testclient import TestClient

from api_help import DOMAIN
from hornfels.api.app import STATIC


@pytest.fixture(scope="module")
def script() -> str:
    """The largest one: what all screens share."""
    return max((STATIC / "assets").glob("index-*.js"), key=lambda path: path.stat().st_size).name


def test_assets_are_kept_for_good_and_pages_are_asked_for_again(
    anonymous: TestClient, script: str
) -> None:
    assert (
        anonymous.get(f"/assets/{script}").headers["cache-control"]
        == "public, max-age=31536000, immutable"
    )
    for page in ("/", "/sky.tarnholt.example/strata", "/mark.svg"):
        assert "max-age" not in anonymous.get(page).headers.get("cache-control", "")


@pytest.mark.parametrize(
    ("accepted", "encoding"),
    [("gzip, br", "br"), ("gzip", "gzip"), ("identity", None), ("", None), ("bzip2", None)],
)
def test_assets_come_packed_as_the_browser_takes_them(
    anonymous: TestClient, script: str, accepted: str, encoding: str | None
) -> None:
    with anonymous.stream(
        "GET", f"/assets/{script}", headers={"accept-encoding": accepted}
    ) as answer:
        sent = b"".join(answer.iter_raw())
    whole = (STATIC / "assets" / script).read_bytes()
    assert answer.headers.get("content-encoding") == encoding
    assert answer.headers["content-type"].startswith("text/javascript")
    assert answer.headers["vary"] == "Accept-Encoding"
    assert (len(sent) < len(whole) / 2) == (encoding is not None)
    if encoding is None:
        assert sent == whole


def test_long_answers_are_packed_and_short_ones_are_not(client: TestClient) -> None:
    with client.stream("GET", f"{DOMAIN}/strata", headers={"accept-encoding": "gzip"}) as answer:
        sent = b"".join(answer.iter_raw())
    assert (answer.headers["content-encoding"], int(answer.headers["content-length"])) == (
        "gzip",
        len(sent),
    )
    assert (
        gzip.decompress(sent)
        == client.get(f"{DOMAIN}/strata", headers={"accept-encoding": "identity"}).content
    )
    assert (
        "content-encoding"
        not in client.get("/api/session", headers={"accept-encoding": "gzip"}).headers
    )


def test_nothing_in_line_is_taken_but_what_carries_the_answers_own_nonce(
    anonymous: TestClient,
) -> None:
    seen = set()
    for path in ("/", "/index.html", "/sky.tarnholt.example/strata", "/"):
        answer = anonymous.get(path)
        policy = answer.headers["content-security-policy"]
        carried = re.search(r'<meta name="style-nonce" content="([^"]+)"', answer.text)
        assert carried
        assert f"style-src 'self' 'nonce-{carried[1]}'" in policy
        assert "unsafe" not in policy
        assert not re.search(r"<script>|<style|style=|onclick=", answer.text)
        seen.add(carried[1])
    assert len(seen) == 4
