"""What guessing costs, against closed forms, counting and simulation (domain rules §10)."""

from __future__ import annotations

from dataclasses import replace
from itertools import product
from random import Random

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hornfels.core.lockout.guessing import (
    Assumptions,
    Figure,
    accidental_locks,
    guessing_sheet,
    held_locked,
    number,
    share,
)
from hornfels.core.lockout.machine import Tries, locked, step
from hornfels.core.lockout.popularity import chance, guesses_for
from hornfels.core.lockout.tradeoff import MOST_TRIES, SHORTEST, Plane, grid, lines, mark
from hornfels.core.passwords.characters import groups_in
from hornfels.core.passwords.space import left_by, passwords_of
from hornfels.core.policy.lockout import guesses_locking, guesses_within
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.policy.starting_points import STARTING_POINTS
from hornfels.core.values.time import DAY, HOUR, MINUTE, NEVER, TICKS_PER_SECOND

FIVE = replace(DEFAULTS, lockout_threshold=5, max_age=40 * DAY)
ASSUMED = Assumptions()


def sheet(settings: Settings, assumed: Assumptions = ASSUMED) -> dict[str, Figure]:
    return {figure.key: figure for figure in guessing_sheet(settings, assumed)}


@pytest.mark.parametrize("skew", [0.0, 0.3, 0.7, 0.9, 1.0, 1.4])
def test_the_chance_is_the_sum_of_the_shares(skew: float) -> None:
    size = 300_000
    shares = np.arange(1, size + 1.0) ** -skew
    exact = np.cumsum(shares) / shares.sum()
    guesses = np.array([1, 2, 1023, 1024, 1025, 1026, 5_000, 299_999, 300_000])
    assert np.abs(chance(guesses, size, skew) - exact[guesses - 1]).max() < 1e-12


def test_no_guess_never_hits_and_all_of_them_always_do() -> None:
    assert chance([0, 10, 99], 10, 0.8).tolist() == [0, 1, 1]
    assert chance(4, 16, 0) == pytest.approx(0.25), "all equally likely"


@given(st.floats(1e-6, 0.999), st.integers(1, 10**9), st.floats(0, 1.5))
def test_so_many_guesses_have_the_chance_and_one_fewer_has_not(
    wanted: float, size: int, skew: float
) -> None:
    guesses = guesses_for(wanted, size, skew)
    assert chance(guesses, size, skew) >= wanted
    assert guesses == 0 or chance(guesses - 1, size, skew) < wanted


@given(st.lists(st.integers(0, 3), min_size=1, max_size=4), st.integers(0, 3), st.integers(0, 4))
def test_the_space_is_counted_as_if_each_password_were_written_down(
    groups: list[int], wanted: int, length: int
) -> None:
    letters = [(group, n) for group, many in enumerate(groups) for n in range(many)] + [(-1, 0)]
    written = (
        len({group for group, _ in text if group >= 0}) for text in product(letters, repeat=length)
    )
    assert passwords_of(length, wanted, groups, 1) == sum(n >= wanted for n in written)


def test_the_keyboard_has_95_characters_and_the_groups_of_the_rules() -> None:
    assert left_by(2, complexity=False) == 95**2
    assert left_by(2, complexity=True) == 0, "two characters are of two groups at most"
    printable = [chr(n) for n in range(32, 127)]
    three = sum(len(groups_in("".join(text))) >= 3 for text in product(printable, repeat=3))
    assert left_by(3, complexity=True) == three


def under_the_lock(settings: Settings, span: int) -> int:
    """Tries that a guesser makes who never locks the account, one at a time on the machine: all
    but the last of a window at once, then a pause until they are forgotten.
    """
    tries, now, made = Tries(), 1, 0
    while now < span:
        for _ in range(settings.lockout_threshold - 1):
            tries, outcome = step(tries, "bad", now, settings)
            assert outcome == "refused"
            made += 1
        assert not locked(tries, settings, now)
        now += settings.lockout_window
    return made


def letting_it_lock(settings: Settings, span: int, pause: int) -> int:
    """Tries of one who comes back as soon as there are as many again: when the lock has ended and
    the count is forgotten.
    """
    tries, now, made = Tries(), 1, 0
    while now < span:
        while not locked(tries, settings, now):
            tries, _ = step(tries, "bad", now, settings)
            made += 1
        now += pause
    return made


@pytest.mark.parametrize("threshold", [2, 3, 10])
@pytest.mark.parametrize(("window", "duration"), [(10, 30), (30, 30), (45, 30)])
def test_the_tries_of_both_guessers_are_those_the_machine_lets_them_make(
    threshold: int, window: int, duration: int
) -> None:
    policy = replace(
        FIVE,
        lockout_threshold=threshold,
        lockout_window=window * MINUTE,
        lockout_duration=duration * MINUTE,
    )
    # Spans that hold whole turns.
    assert under_the_lock(policy, 90 * HOUR) == guesses_within(policy, 90 * HOUR)
    turn = max(window, duration) * MINUTE
    assert letting_it_lock(policy, 90 * HOUR, turn) == guesses_locking(policy, 90 * HOUR)


@pytest.mark.parametrize("window", [10, 60])
def test_accounts_held_locked_are_as_many_as_the_tries_reach_again_in_time(window: int) -> None:
    policy = replace(FIVE, lockout_window=window * MINUTE, lockout_duration=30 * MINUTE)
    held = held_locked(policy, 600)
    assert held is not None
    # So many accounts that have been locked one after the other, and a try every six seconds at the
    # first one that is open.
    pause = 6 * TICKS_PER_SECOND
    tries_each = 1 if window > 30 else 5
    accounts = [Tries(5, moment, moment) for moment in range(1, 30 * MINUTE, tries_each * pause)]
    assert len(accounts) == held
    now = 1 + 30 * MINUTE
    for _ in range(4 * len(accounts) * tries_each):
        still = next((n for n, one in enumerate(accounts) if not locked(one, policy, now)), None)
        if still is not None:
            accounts[still], _ = step(accounts[still], "bad", now, policy)
        assert sum(not locked(one, policy, now) for one in accounts) <= 1
        now += pause


def test_accidental_locks_are_those_of_clumsy_people_on_the_machine() -> None:
    random, policy = Random(20260302), replace(FIVE, lockout_threshold=2)
    locks, people, now = 0, 40_000, 1
    for _ in range(people):
        tries = Tries()
        while True:
            kind = "bad" if random.random() < 0.2 else "good"
            tries, outcome = step(tries, kind, now, policy)  # type: ignore[arg-type]
            if outcome == "accepted":
                break
            if locked(tries, policy, now):
                locks += 1
                break
    assert 1000 * locks / people == pytest.approx(accidental_locks(2, 0.2), rel=0.08)


def test_every_number_has_its_formula_and_what_went_into_it() -> None:
    for settings in (*(p.settings for p in STARTING_POINTS), replace(FIVE, lockout_duration=NEVER)):
        figures = guessing_sheet(settings, ASSUMED)
        assert len({f.key for f in figures}) == len(figures) == 12
        for figure in figures:
            assert figure.formula
            assert figure.inputs
            assert figure.shown
            assert figure.value is not None or figure.note


def test_numbers_of_a_policy_as_they_are_read() -> None:
    found = sheet(FIVE)
    assert (found["under_day"].value, found["under_life"].value) == (4 * 48, 4 * 48 * 40)
    assert (found["locking_day"].value, found["locking_life"].value) == (5 * 48, 5 * 48 * 40)
    assert found["held"].value == 3600 * 0.5 / 5
    assert found["accidental"].value == pytest.approx(1000 * 0.05**5)
    assert found["favourite"].shown == "25 d"
    assert found["stolen"].shown == "up to 40 d"
    assert found["space"].shown.startswith("6.3 × 10¹³, 45.8 bits")
    endless = sheet(replace(FIVE, lockout_duration=0, max_age=0))
    assert endless["locking_life"].value == 5
    assert endless["held"].formula == "R / T"
    assert endless["stolen"].value is None
    assert dict(endless["under_life"].inputs)["A, taken where it never expires"] == "365 d"


@pytest.mark.parametrize(
    "unlimited",
    [replace(FIVE, lockout_threshold=0), replace(FIVE, lockout_window=0)],
    ids=["no threshold", "no window"],
)
def test_where_nothing_locks_no_number_is_made_up(unlimited: Settings) -> None:
    found = sheet(unlimited)
    for key in ("under_day", "under_life", "under_chance", "locking_life", "held"):
        assert found[key].value is None
        assert "ever locks" in found[key].note or "Nothing locks" in found[key].note
    assert mark(unlimited, ASSUMED, "window").chance is None


def test_odd_settings_have_numbers_too() -> None:
    odd = replace(FIVE, min_length=255, lockout_threshold=65_535, max_age=10**18, min_age=-5)
    assert "10⁵⁰⁴" in sheet(odd)["space"].shown
    assert sheet(replace(FIVE, min_length=0))["space"].note.startswith("No password")
    assert sheet(replace(FIVE, min_length=0, complexity=False))["space"].value == 0
    one = sheet(replace(FIVE, lockout_threshold=1))
    assert (one["under_life"].value, one["under_chance"].shown) == (0, "none")


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        (0, "0"),
        (0.5, "0.5"),
        (1234567, "1,234,567"),
        (2.5e9, "2.5 × 10⁹"),
        (3e-7, "3.0 × 10⁻⁷"),
        (1e-12, "under 10⁻⁹"),
    ],
)
def test_a_number_is_shown_as_people_read_it(value: float, shown: str) -> None:
    assert number(value) == shown


def test_a_chance_is_shown_in_percent_or_as_one_in_so_many() -> None:
    assert [share(c) for c in (0, 0.25, 0.001, 0.0005)] == ["none", "25 %", "0.1 %", "1 in 2,000"]
    assert share(5e-324) == "under 1 in 10³⁰⁰"


@pytest.mark.parametrize("plane", ["duration", "window"])
def test_the_plane_agrees_with_each_policy_in_it(plane: Plane) -> None:
    found = grid(FIVE, ASSUMED, plane, columns=MOST_TRIES)
    assert found.chance.shape == found.tries.shape == (100, 50)
    assert found.accidental.shape == (50,)
    for row, column in ((0, 0), (40, 20), (99, 49)):
        threshold, span = int(found.thresholds[column]), int(found.spans[row])
        changes = {"lockout_threshold": threshold, f"lockout_{plane}": span}
        stands = mark(replace(FIVE, **changes), ASSUMED, plane)  # type: ignore[arg-type]
        assert stands.tries == found.tries[row, column]
        assert stands.chance == pytest.approx(found.chance[row, column])
        assert stands.accidental == pytest.approx(found.accidental[column])


@pytest.mark.parametrize("plane", ["duration", "window"])
def test_chances_fall_with_longer_times_and_grow_with_more_tries(plane: Plane) -> None:
    found = grid(FIVE, ASSUMED, plane).chance
    assert (np.diff(found, axis=0) <= 1e-15).all()
    assert (np.diff(found, axis=1) >= -1e-15).all()


@pytest.mark.parametrize("plane", ["duration", "window"])
def test_a_line_goes_through_policies_of_its_chance(plane: Plane) -> None:
    long_lived = replace(FIVE, max_age=400 * DAY, lockout_window=SHORTEST)
    found = lines(long_lived, ASSUMED, plane)
    assert [line.chance for line in found] == sorted(line.chance for line in found)
    assert len(found) >= 2
    for line in found:
        assert line.thresholds.max() <= MOST_TRIES
        for threshold, span in zip(line.thresholds, line.spans, strict=True):
            changes = {"lockout_threshold": int(threshold), f"lockout_{plane}": int(span)}
            stands = mark(replace(long_lived, **changes), ASSUMED, plane)  # type: ignore[arg-type]
            assert stands.chance == pytest.approx(line.chance, rel=0.02)
