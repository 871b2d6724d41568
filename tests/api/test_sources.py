"""Templates read in, and the domain policy changed where it comes from."""

from __future__ import annotations

from typing import Any

import pytest
from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, read_templates
from hornfels.demo.tarnholt import templates


@pytest.fixture
def sources(client: TestClient) -> dict[str, str]:
    """Names of the group policy objects to their DNs, with their templates read in."""
    read_templates(client)
    return {s["name"]: s["gpo"] for s in bedrock(client, DOMAIN)["sources"]}


def bedrock(client: TestClient, place: str = DRAFT) -> dict[str, Any]:
    answer: dict[str, Any] = client.get(f"{place}/strata").json()["bedrock"]
    return answer


def origin(client: TestClient, key: str, place: str = DRAFT) -> dict[str, Any]:
    return next(o for o in bedrock(client, place)["origins"] if o["key"] == key)


def publish(client: TestClient) -> Any:
    return client.post(
        f"{DRAFT}/draft/publish", json={"version": client.get(f"{DRAFT}/draft").json()["version"]}
    )


@pytest.mark.usefixtures("sources")
def test_each_setting_names_its_source_and_who_is_ignored(client: TestClient) -> None:
    length = origin(client, "min_length")
    assert (length["said"], length["source"]) == ("8 characters", "Observatory account rules")
    assert length["ignored"] == [
        {
            "source": "Default Domain Policy",
            "said": "7 characters",
            "why": "Observatory account rules comes first",
        }
    ]
    assert origin(client, "ticket_age")["said"] == "10 h"
    assert origin(client, "relaxed_limit")["source"] == ""
    elsewhere = next(s for s in bedrock(client)["sources"] if not s["at_root"])
    assert elsewhere["says"] == {"min_length": 6, "complexity": False, "max_age": None}
    titles = [
        f["title"]
        for f in client.get(f"{DRAFT}/findings").json()["findings"]
        if f["kind"] == "root-objects"
    ]
    assert titles == [
        (
            "Sources of the domain policy disagree about minimum length, maximum age and lockout "
            "threshold"
        )
    ]


def test_a_setting_is_changed_in_its_source_and_published(
    client: TestClient, sources: dict[str, str]
) -> None:
    rules = sources["Observatory account rules"]
    done = client.patch(
        f"{DRAFT}/sources/template",
        json={"gpo": rules, "settings": {"min_length": 12, "clock_skew": 600}},
    ).json()
    assert (done["settings"]["min_length"], done["live"]["min_length"]) == (12, 8)
    unset = client.patch(
        f"{DRAFT}/sources/template", json={"gpo": rules, "unset": ["max_age"]}
    ).json()
    assert unset["settings"]["max_age"] == 42 * 86400
    said = [
        (g["subject"], c["text"], c["before"], c["after"])
        for g in client.get(f"{DRAFT}/draft").json()["groups"]
        for c in g["changes"]
    ]
    assert said == [
        (
            "Template of Observatory account rules",
            "Minimum length",
            "8 characters",
            "12 characters",
        ),
        ("Template of Observatory account rules", "Clock tolerance", "not set here", "10 min"),
        ("Template of Observatory account rules", "Maximum age", "90 d", "not set here"),
    ]
    impact = client.get(f"{DRAFT}/draft/impact").json()
    assert {s["key"] for s in impact["settings"]} == {"min_length", "max_age"}
    assert (
        "Template of Observatory account rules: Minimum length"
        in client.get(f"{DRAFT}/draft/changes.ldif").text
    )
    assert publish(client).status_code == 200
    assert bedrock(client, DOMAIN)["settings"]["min_length"] == 12
    assert origin(client, "clock_skew", DOMAIN)["said"] == "10 min"


def test_links_are_ordered_enforced_and_switched_off(
    client: TestClient, sources: dict[str, str]
) -> None:
    default = sources["Default Domain Policy"]

    def edit(**change: object) -> dict[str, Any]:
        asked = {"gpo": default, **change}
        answer: dict[str, Any] = client.patch(f"{DRAFT}/sources/link", json=asked).json()
        return answer

    assert edit(place=0)["settings"]["min_length"] == 7
    assert edit(place=1)["settings"]["min_length"] == 8
    assert client.get(f"{DRAFT}/draft").json()["groups"] == []
    assert edit(enforced=True)["settings"]["min_length"] == 7
    ignored = origin(client, "min_length")["ignored"]
    assert ignored == [
        {
            "source": "Observatory account rules",
            "said": "8 characters",
            "why": "Default Domain Policy is enforced",
        }
    ]
    text = client.get(f"{DRAFT}/draft/changes.ldif").text.replace("\n ", "")
    assert f"[LDAP://{default};2][LDAP://{sources['Observatory account rules']};0]" in text
    assert edit(enforced=False, disabled=True)["settings"]["min_length"] == 8
    assert "switched off" in origin(client, "min_length")["ignored"][0]["why"]


@pytest.mark.parametrize(
    ("body", "field", "words"),
    [
        ({"settings": {"min_length": 20}}, "min_length", "switch on"),
        ({"settings": {"min_length": True}}, "min_length", "of its own kind"),
        ({"settings": {"complexity": 1}}, "complexity", "of its own kind"),
        ({"settings": {"min_size": 3}}, "settings.min_size", "Give one of 'min_length'"),
        ({"settings": {"min_age": 100 * 86400}}, "max_age", "longer than the minimum age"),
    ],
)
def test_what_a_template_cannot_say_is_refused(
    client: TestClient, sources: dict[str, str], body: Any, field: str, words: str
) -> None:
    refused = client.patch(
        f"{DRAFT}/sources/template", json={"gpo": sources["Observatory account rules"], **body}
    )
    assert refused.status_code == 422
    assert words in {d["field"]: d["message"] for d in refused.json()["detail"]}[field]


def test_a_file_too_large_for_a_template_is_refused_unread(client: TestClient) -> None:
    refused = client.put(
        f"{DOMAIN}/sources/template", params={"gpo": "any"}, content=b"x" * 5_000_000
    )
    assert (refused.status_code, "too large" in refused.json()["detail"]) == (413, True)


def test_templates_are_read_into_live_only_and_broken_ones_refused(client: TestClient) -> None:
    (gpo, good), *_ = templates().items()
    assert (
        client.put(f"{DRAFT}/sources/template", params={"gpo": gpo}, content=good).status_code
        == 409
    )
    for place, content, words in (
        (gpo, b"nonsense", "line 1"),
        ("CN=none", good, "No group policy object"),
    ):
        refused = client.put(f"{DOMAIN}/sources/template", params={"gpo": place}, content=content)
        assert refused.status_code == 422
        assert words in refused.json()["detail"][0]["message"]
    assert bedrock(client, DOMAIN)["origins"] == []


def test_the_domain_policy_is_edited_directly_where_no_template_is_known(
    client: TestClient,
) -> None:
    path, seen = f"{DRAFT}/policies/domain", bedrock(client)["version"]
    edited = {"version": seen, "settings": {"min_length": 12}}
    done = client.patch(path, json=edited).json()
    assert done["settings"]["min_length"] == 12
    stale = client.patch(path, json={"version": seen, "settings": {"min_age": 0}})
    assert stale.status_code == 409
    assert "Nothing of yours was saved" in stale.json()["message"]
    assert stale.json()["current"] == bedrock(client) == done
    long = {"version": done["version"], "settings": {"min_length": 300}}
    assert client.patch(path, json=long).status_code == 422
    assert publish(client).status_code == 200
    assert bedrock(client, DOMAIN)["settings"]["min_length"] == 12


def test_starting_points_and_adjustments_are_served(client: TestClient) -> None:
    assert [p["key"] for p in client.get("/api/starting-points").json()] == [
        "new-domain",
        "privileged",
        "services",
        "kiosks",
        "everyone",
    ]
    asked = {
        "settings": {"lockout_window": 7200, "lockout_duration": 1800},
        "changed": "lockout_window",
    }
    assert [(c["key"], c["value"]) for c in client.post("/api/adjustments", json=asked).json()] == [
        ("lockout_duration", 7200)
    ]
