"""Smaller ways round: formulas in headings, one client that takes all places, files that take
long to parse, names that are echoed, foreign names of the server.
"""

from __future__ import annotations

import asyncio
import csv
import io

import pytest
from fastapi.testclient import TestClient
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import Engine

from api_help import DOMAIN
from hornfels.api.app import create_app
from hornfels.api.turnstile import FullError, Turnstile
from hornfels.formats.table import write_table
from hornfels.formats.yaml_tree import YamlError, read_tree

FORMULAS = ("=", "+", "-", "@", "\t", "\r")
cells = st.text() | st.sampled_from(["+1+1", "\t=1+1", "@SUM(A1)", "-2", "\r=1", "=1\n=2"])


@given(st.lists(st.lists(cells, min_size=2, max_size=2), min_size=1, max_size=5))
def test_no_cell_and_no_heading_of_a_file_is_a_formula(rows: list[list[str]]) -> None:
    read = list(csv.reader(io.StringIO(write_table(rows[0], rows[1:]))))
    assert len(read) == len(rows)
    for row in read:
        assert not any(cell.startswith(FORMULAS) for cell in row)


def test_one_client_takes_its_share_of_the_places_and_no_more() -> None:
    async def crowd() -> tuple[int, int]:
        places = Turnstile(at_work=2, waiting=100, patience=5.0, share=4)
        leave, refused, served = asyncio.Event(), 0, 0

        async def comes(address: str) -> None:
            nonlocal refused, served
            try:
                async with places.share(address):
                    await leave.wait()
                    served += 1
            except FullError:
                refused += 1

        strangers = [asyncio.create_task(comes("10.0.0.1")) for _ in range(120)]
        await asyncio.sleep(0)
        honest = [asyncio.create_task(comes(f"10.0.1.{number}")) for number in range(21)]
        await asyncio.sleep(0)
        leave.set()
        await asyncio.gather(*strangers, *honest)
        return refused, served

    assert asyncio.run(crowd()) == (116, 4 + 21)


def test_a_file_of_many_values_is_refused_before_it_is_parsed(client: TestClient) -> None:
    content = b"hornfels: [" + b"a," * 450_000 + b"]\n"
    with pytest.raises(YamlError, match=r"about 450,001 values"):
        read_tree(content)
    answer = client.post(f"{DOMAIN}/policy-file/plan", content=content)
    assert "values" in answer.text


@pytest.mark.parametrize("path", ["", "/proof", "/password"])
def test_a_field_that_is_too_many_is_not_echoed(client: TestClient, path: str) -> None:
    body = {"name": "ann", "password": "x", "hunter2-canary": "y"}
    answer = client.post(f"/api/session{path}", json=body)
    assert answer.status_code == 422
    assert "hunter2-canary" not in answer.text


@pytest.mark.parametrize(
    ("hosts", "host", "served"),
    [
        ({"hornfels.example"}, "hornfels.example", True),
        ({"hornfels.example"}, "HORNFELS.example:8443", True),
        ({"hornfels.example"}, "evil.example", False),
        ({"hornfels.example"}, "hornfels.example.evil.example", False),
        ({"hornfels.example"}, "192.0.2.7", True),
        ({"127.0.0.1", "localhost"}, "192.0.2.7", False),
        ({"127.0.0.1", "localhost"}, "localhost:8470", True),
    ],
)
@pytest.mark.parametrize("path", ["/", "/api/session", "/healthz"])
def test_only_names_of_ours_are_answered(
    engine: Engine, hosts: set[str], host: str, served: bool, path: str
) -> None:
    with TestClient(create_app(engine, frozenset(hosts))) as client:
        answer = client.get(path, headers={"Host": host})
    assert (answer.status_code != 421) is served
    if not served:
        assert "HORNFELS_HOSTS" in answer.text
