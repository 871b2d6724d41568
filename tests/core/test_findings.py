"""What is raised, for whom, and that mending it makes it go away."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given

from hornfels.core.domain.estate import Estate
from hornfels.core.findings.finding import Finding
from hornfels.core.findings.survey import findings
from hornfels.core.policy.model import DEFAULTS
from hornfels.core.resolution.engine import resolve
from hornfels.core.values.time import DAY, HOUR, MINUTE, NEVER
from hornfels.formats.dump import Dump
from worlds import World, read, worlds


def raised(estate: Estate) -> dict[str, Finding]:
    return {f.key: f for f in findings(estate, resolve(estate))}


def kinds(estate: Estate) -> set[str]:
    return {f.kind for f in raised(estate).values()}


def one_policy(**settings: Any) -> Estate:
    estate = read(
        World(7, [(2, True)], [(0x200, 0, 2000)], set(), [(10, bytes(range(16)), ["g0"])])
    ).estate
    policy = replace(estate.policies[0], settings=replace(DEFAULTS, **settings))
    return estate.with_policies((policy,), estate.links)


def mended(estate: Estate, finding: Finding) -> Estate:
    assert finding.mend
    policies = list(estate.policies)
    old = policies[finding.mend.policy]
    settings = old.settings.changed(finding.mend.settings)
    policies[finding.mend.policy] = replace(
        old, settings=settings, precedence=finding.mend.precedence or old.precedence
    )
    return estate.with_policies(tuple(policies), estate.links)


@pytest.mark.parametrize(
    ("settings", "kind", "mends"),
    [
        ({"reversible_encryption": True}, "reversible", True),
        ({"lockout_threshold": 2}, "threshold", False),
        ({}, "lockout", False),
        (
            {"lockout_threshold": 5, "lockout_window": HOUR, "lockout_duration": MINUTE},
            "window",
            True,
        ),
        ({"min_age": 0}, "history", True),
        ({"max_age": NEVER, "min_length": 8}, "forever", False),
        ({"min_length": 3}, "weaker", False),
    ],
)
def test_settings_that_are_raised_and_mended(
    settings: dict[str, object], kind: str, mends: bool
) -> None:
    estate = one_policy(**settings)
    found = next(f for f in raised(estate).values() if f.kind == kind and f.policy == 0)
    assert found.accounts == 1
    assert (found.mend is not None) == mends
    if mends:
        assert found.key not in raised(mended(estate, found))


def test_sound_settings_raise_nothing() -> None:
    assert (
        kinds(one_policy(lockout_threshold=10, max_age=90 * DAY, min_length=14))
        - {"lockout", "weaker"}
        == set()
    )


@given(worlds())
def test_findings_are_told_apart_and_complete(world: World) -> None:
    estate = read(world).estate
    found = findings(estate, resolve(estate))
    assert len({f.key for f in found}) == len(found)
    for f in found:
        about = None if f.policy is None or f.policy < 0 else estate.policies[f.policy].name
        assert about is None or about in f.title
        assert (
            f.policy is None or f.policy >= 0 or "domain" in f.title.lower() or "linked" in f.title
        )
        assert 0 <= f.accounts <= len(estate.accounts)
        if f.mend and f.mend.precedence:
            assert f.key not in raised(mended(estate, f))


def test_every_planted_finding_of_the_demo_is_found(demo: Dump) -> None:
    found = {f.key.split(":")[0]: f for f in raised(demo.estate).values()}
    assert (found["tie"].title, found["tie"].accounts) == (
        "Grants office and Night operators share precedence 30",
        6,
    )
    assert found["idle"].title == "Phrase pilot governs nobody"
    assert (found["direct"].severity, found["direct"].accounts) == ("high", 12)
    assert found["history"].title.startswith("Visiting astronomers")
    assert found["services"].account == "svc-allsky"
    assert {"root-objects", "ou-object"} <= found.keys()
    everyone = [f.why for f in raised(demo.estate).values() if f.kind == "flag-never"]
    assert everyone
    assert "2 of them belong to administrators" in everyone[0]


def test_unguarded_policies_are_raised_with_the_guard_as_mend(demo: Dump) -> None:
    policies = (replace(demo.estate.policies[0], guarded=False), *demo.estate.policies[1:])
    estate = demo.estate.with_policies(policies, demo.estate.links)
    found = findings(estate, resolve(estate))
    assert [f.mend.guard for f in found if f.kind == "unguarded" and f.mend] == [True]
