"""One good request for every operation that takes a body."""

from __future__ import annotations

from datetime import date
from typing import Any

from fastapi.testclient import TestClient

from api_help import DOMAIN, DRAFT, policy

CANDIDATE = "Try-me 2"


def requests(client: TestClient) -> list[tuple[str, str, Any]]:
    """Each as method, path and body; ann is signed in and has draft 1 open."""
    night = policy(client, "Night operators")
    guid, version = night["guid"], night["version"]
    bedrock = client.get(f"{DRAFT}/strata").json()["bedrock"]
    gpo = bedrock["sources"][0]["gpo"]
    bench = {
        "operation": "change",
        "previous": ["Old-one 1"],
        "now": "2026-11-25T09:00:00Z",
        "password_set": "2026-01-25T09:00:00Z",
    }
    one = {"account": "ilse.varga"}
    settings = {"min_length": 9, "max_age": 86400.5}
    return [
        ("POST", "/api/session", {"name": "nobody", "password": "none"}),
        ("POST", "/api/you/session", {"name": "nobody", "password": "none", "domain": None}),
        ("POST", "/api/adjustments", {"settings": settings, "changed": "min_length"}),
        ("PATCH", DOMAIN, {"version": 1, "linked_groups": "any", "reason": "Why"}),
        ("POST", f"{DOMAIN}/drafts", {"title": "Another"}),
        ("PATCH", f"{DRAFT}/draft", {"version": 1, "title": "Mine", "reason": "Why not"}),
        ("POST", f"{DRAFT}/draft/undo", {"version": 1}),
        ("POST", f"{DRAFT}/draft/publish", {"version": 99}),
        ("POST", f"{DOMAIN}/publication", {"back": False}),
        ("POST", f"{DOMAIN}/publication/close", {"reason": "Why"}),
        (
            "POST",
            f"{DOMAIN}/rehearsals",
            {"policy": guid, "candidate": CANDIDATE, "boundary_set": True, "story": "3 bad"},
        ),
        ("POST", f"{DRAFT}/draft/operations/0/keep", {"version": 1}),
        (
            "POST",
            f"{DRAFT}/draft/memberships",
            {"member": "ilse.varga", "group": "gs-visiting-astronomers", "join": True},
        ),
        ("POST", f"{DRAFT}/draft/flags", {**one, "flag": "NOT_DELEGATED", "on": True}),
        ("POST", f"{DOMAIN}/mailing/planned", {"mailing": {"days": [7]}}),
        (
            "POST",
            f"{DOMAIN}/mailing/sample",
            {"mailing": {"page": ""}, "account": "ilse.varga", "kind": "locked", "language": "de"},
        ),
        ("PUT", f"{DOMAIN}/mailing", {"mailing": {"on": False}, "version": 0, "reason": "Why"}),
        (
            "POST",
            f"{DRAFT}/spreads",
            {"weeks": 2, "begins": date.today().isoformat(), "seen": "", "reason": "Why"},
        ),
        ("POST", f"{DOMAIN}/spreads/1/stop", {"reason": "Why"}),
        (
            "PUT",
            f"{DOMAIN}/report-order",
            {"order": {"to": ["a@tarnholt.example"]}, "version": 0, "reason": "Why"},
        ),
        ("POST", f"{DOMAIN}/gate/callers", {"title": "dc1", "kind": "hook", "reason": "r"}),
        ("PUT", f"{DOMAIN}/gate/lifetimes", {"enforced": False, "spared": [], "reason": "Why"}),
        (
            "PUT",
            f"{DRAFT}/additions/{guid}",
            {"version": version, "addition": {"password": [{"run": {"max": 3}}], "bands": []}},
        ),
        (
            "POST",
            f"{DRAFT}/additions/domain/effects",
            {"addition": {"phrase": [{"words": {"min": 3}}]}, "sample": [CANDIDATE]},
        ),
        (
            "POST",
            f"{DRAFT}/policies",
            {
                "name": "New one",
                "precedence": 77,
                "settings": settings,
                "links": [night["links"][0]["dn"]],
            },
        ),
        (
            "PATCH",
            f"{DRAFT}/policies/{guid}",
            {"version": version, "name": "Nights", "precedence": 78, "settings": settings},
        ),
        (
            "PATCH",
            f"{DRAFT}/policies/domain",
            {"version": bedrock["version"], "settings": settings},
        ),
        ("POST", f"{DRAFT}/policies/{guid}/links", {"version": version, "dn": "CN=none"}),
        (
            "PATCH",
            f"{DRAFT}/sources/template",
            {"gpo": gpo, "settings": {"min_length": 9}, "unset": ["complexity"]},
        ),
        ("PATCH", f"{DRAFT}/sources/link", {"gpo": gpo, "place": 0, "enforced": True}),
        ("POST", f"{DOMAIN}/server-sets", {"name": "Web servers"}),
        ("PATCH", f"{DOMAIN}/server-sets/1", {"name": "Domes"}),
        (
            "POST",
            f"{DOMAIN}/server-sets/1/held-against",
            {"way": "server", "server": "DOME-01", "seen": ""},
        ),
        (
            "POST",
            f"{DRAFT}/baselines/privileged/gaps",
            {"recommendation": "length", "policy": guid},
        ),
        (
            "POST",
            f"{DOMAIN}/baselines/privileged/exceptions",
            {"recommendation": "length", "reason": "because", "until": "2099-01-01"},
        ),
        ("POST", f"{DOMAIN}/what-if", {"guid": guid, "precedence": 3}),
        ("POST", f"{DOMAIN}/what-if", {"guid": guid, "place": 0}),
        ("POST", f"{DOMAIN}/what-if", {"guid": guid, "link": "CN=none"}),
        (
            "POST",
            f"{DOMAIN}/verdicts",
            {**bench, "candidate": CANDIDATE, "accounts": ["ilse.varga"], "policies": ["domain"]},
        ),
        (
            "POST",
            f"{DOMAIN}/verdicts/many",
            {"operation": "reset", "candidates": [CANDIDATE], "accounts": ["ilse.varga"]},
        ),
        ("POST", f"{DOMAIN}/suggestions", {**one, "previous": ["Old-one 1"]}),
        ("POST", f"{DOMAIN}/boundaries", {**one, "operation": "change"}),
        (
            "POST",
            f"{DOMAIN}/trials",
            {
                "title": "T",
                "candidate": CANDIDATE,
                "kind": "account",
                "target": "ilse.varga",
                "expected": "refused",
                "rule": "",
                "invented": True,
            },
        ),
        (
            "POST",
            f"{DOMAIN}/findings/accepted",
            {"key": "none", "reason": "because", "until": "2099-01-01"},
        ),
    ]
