"""Stories that a real server plays: what it does is what the drill says."""

from __future__ import annotations

import time
from dataclasses import replace

import ldap
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from directory_server import REALM, DirectoryServer, account, change, policy
from hornfels.core.lockout.machine import EventKind, Outcome, Tries, locked, step
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import HOUR, NEVER, TICKS_PER_SECOND
from hornfels.directory.link import Link, linked
from hornfels.directory.reach import RefusedError

OLD, NOW = "Quiet-Harbour-19", "Slow-Eclipse-2031"
TINY = 1
"""A tick: over before the next try comes. Nothing of a story waits for time to pass."""


def asked(server: DirectoryServer, name: str, secret: str) -> Outcome:
    """What becomes of a try, by the server's own answer."""
    try:
        linked(server.reach(f"{name}@{REALM}", secret)).close()
    except RefusedError as error:
        return "locked" if "is locked" in str(error) else "refused"
    return "accepted"


def set_password(link: Link, dn: str, secret: str) -> None:
    written = f'"{secret}"'.encode("utf-16-le")
    change(link, dn, (ldap.MOD_REPLACE, "unicodePwd", [written]))


def held(link: Link, dn: str) -> Tries:
    found = link.entry(dn, ["badPwdCount", "badPasswordTime", "lockoutTime"])
    names = ("badpwdcount", "badpasswordtime", "lockouttime")
    return Tries._make(int(found.get(name, [b"0"])[0]) for name in names)


EVENTS: list[EventKind] = ["bad", "bad", "bad", "good", "unlock", "old"]


@settings(max_examples=12, suppress_health_check=list(HealthCheck))
@given(
    threshold=st.integers(0, 3),
    window=st.sampled_from([TINY, HOUR]),
    duration=st.sampled_from([HOUR, NEVER]),
    events=st.lists(st.sampled_from(EVENTS), min_size=1, max_size=9),
)
def test_a_server_does_what_the_drill_says(
    link: Link,
    server: DirectoryServer,
    threshold: int,
    window: int,
    duration: int,
    events: list[EventKind],
) -> None:
    rule = replace(
        DEFAULTS, lockout_threshold=threshold, lockout_window=window, lockout_duration=duration
    )
    name = f"p{time.monotonic_ns()}"
    dn = account(link, name)
    for secret in (OLD, NOW):
        set_password(link, dn, secret)
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    place = policy(link, name, 10, [dn], **lockout_of(rule))
    tries, now = Tries(), 1000 * TICKS_PER_SECOND
    secrets = {"bad": "wrong", "good": NOW, "old": OLD}
    for number, event in enumerate(events):
        # A second between two events: far within an hour, far beyond a tick.
        now += TICKS_PER_SECOND
        tries, outcome = step(tries, event, now, rule)
        so_far = f"{events[: number + 1]} with {threshold}, {window}, {duration}"
        if event == "unlock":
            change(link, dn, (ldap.MOD_REPLACE, "lockoutTime", [b"0"]))
        else:
            assert asked(server, name, secrets[event]) == outcome, so_far
        there = held(link, dn)
        assert (there.lockout_time > 0) == (tries.lockout_time > 0), so_far
        if window == HOUR:
            # docs/rules.md: where the window has passed the server leaves an old count standing.
            assert there.bad_count == tries.bad_count, so_far
        assert not (event == "good" and outcome == "accepted" and locked(tries, rule, now))
    link.do("", lambda library: library.delete_s(place))


def test_a_lock_opens_by_itself_and_trying_does_not_keep_it(
    link: Link, server: DirectoryServer
) -> None:
    rule = replace(
        DEFAULTS,
        lockout_threshold=2,
        lockout_window=TICKS_PER_SECOND,
        lockout_duration=TICKS_PER_SECOND,
    )
    dn = account(link, "keeper")
    set_password(link, dn, NOW)
    change(link, dn, (ldap.MOD_REPLACE, "userAccountControl", [b"512"]))
    policy(link, "Short", 10, [dn], **lockout_of(rule))
    assert [asked(server, "keeper", "wrong") for _ in range(2)] == ["refused", "refused"]
    at = held(link, dn)
    assert (at.bad_count, at.lockout_time > 0) == (2, True)
    answers: list[Outcome] = []
    until = time.monotonic() + 30
    while not answers or answers[-1] == "locked":
        assert time.monotonic() < until
        answers.append(asked(server, "keeper", NOW))
        if answers[-1] == "locked":
            assert held(link, dn) == at, "trying changes nothing"
    assert answers[0] == "locked"
    assert answers[-1] == "accepted"
    assert held(link, dn).lockout_time == 0


def lockout_of(rule: Settings) -> dict[str, str]:
    forever = str(-(2**63))
    return {
        "msDS_LockoutThreshold": str(rule.lockout_threshold),
        "msDS_LockoutObservationWindow": str(-int(rule.lockout_window or 0)),
        "msDS_LockoutDuration": forever
        if rule.lockout_duration is NEVER
        else str(-int(rule.lockout_duration or 0)),
        "msDS_PasswordHistoryLength": "5",
    }
