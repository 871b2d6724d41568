"""What guessing costs under a policy: each number with its formula and what went into it (domain
rules §10).
"""

from __future__ import annotations

from dataclasses import dataclass
from math import log2

from hornfels.core.lockout.popularity import chance
from hornfels.core.passwords.space import IN_NO_GROUP, KEYBOARD, left_by
from hornfels.core.policy.lockout import guesses_locking, guesses_within, limits
from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import DAY, HOUR, Span, describe_span

YEAR = 365 * DAY
"""Taken for the life of a password that never expires."""


@dataclass(frozen=True, slots=True)
class Assumptions:
    """What nobody can read from a directory: how passwords are chosen (`skew` is the s of the
    shape, `size` how many there are to choose from), the chance of a typing mistake at one try,
    the tries an hour that an attacker's line carries, and the guesses a second at stolen hashes.
    """

    skew: float = 0.8
    size: int = 10_000_000
    mistakes: float = 0.05
    line: float = 3_600.0
    offline: float = 1e10


@dataclass(frozen=True, slots=True)
class Figure:
    """A number of the sheet: `value` in `unit`, None where there is none; `shown` is how people
    read it and `note` what it means or why there is none. ``inputs`` are names and values.
    """

    key: str
    label: str
    value: float | None
    unit: str
    shown: str
    note: str
    formula: str
    inputs: tuple[tuple[str, str], ...]


def life(settings: Settings) -> int:
    """How long a password is of use to whoever guesses it, in ticks; a year if it never expires."""
    return (settings.max_age or 0) if expires(settings.max_age) else YEAR


def accidental_locks(threshold: float, mistakes: float) -> float:
    """Accounts locked by typing mistakes in 1,000 sign-ins, where each try fails with the chance
    `mistakes` whatever came before and a good one clears the count.
    """
    return 1000 * mistakes**threshold if threshold > 0 else 0.0


def held_locked(settings: Settings, line: float) -> float | None:
    """Accounts that an attacker with `line` tries an hour holds locked, each tried again as soon as
    it opens; where locks last until unlocked, how many more each hour. None if nothing locks.
    """
    if not limits(settings):
        return None
    if until_unlocked(settings.lockout_duration):
        return line / settings.lockout_threshold
    duration = settings.lockout_duration or 0
    # A window longer than the lock lets the count outlive it: then one try locks again.
    tries = 1 if settings.lockout_window > duration else settings.lockout_threshold
    return line * (duration / HOUR) / tries


def guessing_sheet(settings: Settings, assumed: Assumptions) -> list[Figure]:
    """Every number for one policy, in the order in which they are read."""
    return [
        *_online(settings, assumed, locking=False),
        *_online(settings, assumed, locking=True),
        _held(settings, assumed),
        _mistaken(settings, assumed),
        *_offline(settings, assumed),
        _favourite(settings),
        _stolen(settings),
    ]


def number(value: float) -> str:
    """A number of 0 or more as people read it: whole where it is large, in powers of ten where it
    is beyond that.
    """
    if value == 0:
        return "0"
    if value < 1e-9:
        return "under 10⁻⁹"
    if 1e-3 <= value < 1e7:
        return f"{value:,.0f}" if value >= 100 else f"{value:.3g}"
    mantissa, power = f"{value:.1e}".split("e")
    return f"{mantissa} × 10{_raised(int(power))}"


def _raised(power: int) -> str:
    return str(power).translate(str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹"))


def share(value: float) -> str:
    """A chance as people read it: in percent, or one in so many."""
    if value <= 0:
        return "none"
    if value >= 0.001:
        return f"{100 * value:.3g} %"
    # The inverse of a smaller one is more than a float holds.
    return f"1 in {number(1 / value)}" if value > 1e-300 else f"under 1 in 10{_raised(300)}"


_UNLIMITED = "Nothing limits it: as many as the line carries, since the account never locks."


def _lock_inputs(settings: Settings) -> tuple[tuple[str, str], ...]:
    return (
        ("T, lockout threshold", f"{settings.lockout_threshold:,}"),
        ("W, observation window", describe_span(settings.lockout_window)),
        ("D, lockout duration", _duration(settings)),
    )


def _duration(settings: Settings) -> str:
    if until_unlocked(settings.lockout_duration):
        return "until unlocked"
    return describe_span(settings.lockout_duration)


def _life_input(settings: Settings) -> tuple[str, str]:
    if expires(settings.max_age):
        return ("A, maximum age", describe_span(settings.max_age))
    return ("A, taken where it never expires", "365 d")


def _online(settings: Settings, assumed: Assumptions, *, locking: bool) -> list[Figure]:
    guesses = guesses_locking if locking else guesses_within
    key = "locking" if locking else "under"
    who = "letting it lock" if locking else "staying under the lock"
    turn = "max(D, W)" if locking else "W"
    many = "T" if locking else "(T − 1)"
    endless = locking and until_unlocked(settings.lockout_duration)
    told = "Until an operator unlocks it these are all." if endless else ""
    spans = (("day", "a day", DAY), ("life", "in a password’s life", life(settings)))
    figures = []
    for which, label, span in spans:
        tries = guesses(settings, span)
        length = "1 d" if which == "day" else "A"
        inputs = _lock_inputs(settings)[: 3 if locking else 2]
        figures.append(
            Figure(
                f"{key}_{which}",
                f"Tries {label}, {who}",
                tries,
                "tries",
                "no limit" if tries is None else number(tries),
                _UNLIMITED if tries is None else told,
                "T" if endless else f"{many} · ⌊{length} / {turn}⌋",
                inputs if which == "day" else (*inputs, _life_input(settings)),
            )
        )
    tries = guesses(settings, life(settings))
    hit = None if tries is None else float(chance(tries, assumed.size, assumed.skew))
    figures.append(
        Figure(
            f"{key}_chance",
            f"Chance to hit with them, {who}",
            hit,
            "",
            "no number" if hit is None else share(hit),
            _UNLIMITED if hit is None else "Trying the most popular passwords first.",
            "Σ r^−s for r = 1 … g, divided by Σ r^−s for r = 1 … N",
            (
                ("g, tries in a password’s life", "no limit" if tries is None else number(tries)),
                ("s, shape of the choice", f"{assumed.skew:g}"),
                ("N, passwords to choose from", f"{assumed.size:,}"),
            ),
        )
    )
    return figures


def _held(settings: Settings, assumed: Assumptions) -> Figure:
    held = held_locked(settings, assumed.line)
    endless = until_unlocked(settings.lockout_duration)
    outlives = not endless and settings.lockout_window > (settings.lockout_duration or 0)
    if held is None:
        note = "Nothing locks, so nobody can be locked out."
    elif endless:
        note = "More with every hour, until operators unlock them."
    else:
        note = "At any time, each tried again as soon as it opens."
    return Figure(
        "held",
        "Accounts an attacker locks in each hour of tries"
        if endless
        else "Accounts an attacker can hold locked",
        held,
        "accounts",
        "none" if held is None else number(held),
        note,
        "R / T" if endless else "R · D" if outlives else "R · D / T",
        (("R, tries an hour", number(assumed.line)), *_lock_inputs(settings)),
    )


def _mistaken(settings: Settings, assumed: Assumptions) -> Figure:
    never = not limits(settings)
    locks = 0.0 if never else accidental_locks(settings.lockout_threshold, assumed.mistakes)
    return Figure(
        "accidental",
        "Accounts locked by typing mistakes, in 1,000 sign-ins",
        locks,
        "locks",
        number(locks),
        "Nothing locks here." if never else "One mistake after the other, the count never cleared.",
        "1,000 · p^T",
        (
            ("p, chance of a mistake at one try", share(assumed.mistakes)),
            ("T, lockout threshold", f"{settings.lockout_threshold:,}"),
        ),
    )


def _offline(settings: Settings, assumed: Assumptions) -> list[Figure]:
    space = left_by(settings.min_length, complexity=settings.complexity)
    bits = log2(space) if space else 0.0
    sizes = " + ".join(map(str, (*KEYBOARD, IN_NO_GROUP)))
    inputs = (
        ("L, minimum length", f"{settings.min_length:,} characters"),
        ("characters: A–Z, a–z, 0–9, symbols, space", sizes),
        ("three groups wanted", "yes" if settings.complexity else "no"),
    )
    # Whole numbers of that size are beyond what a float holds.
    seconds = space // max(1, int(assumed.offline))
    return [
        Figure(
            "space",
            "Passwords of the minimum length that the rules leave",
            bits,
            "bits",
            f"{_large(space)}, {bits:.1f} bits",
            "All of them, as if each were as likely as any other. People’s choices are not."
            if space
            else "No password of that length has characters of three groups.",
            "texts with three of the groups, by inclusion–exclusion"
            if settings.complexity
            else "95^L",
            inputs,
        ),
        Figure(
            "offline",
            "Time to run through them all at stolen hashes",
            min(float(seconds), 1e300) if seconds < 10**300 else 1e300,
            "s",
            _long(seconds),
            "Half of that on average.",
            "passwords / rate",
            (
                ("passwords", _large(space)),
                ("rate", f"{number(assumed.offline)} guesses a second"),
            ),
        ),
    ]


def _large(count: int) -> str:
    if count < 10**7:
        return f"{count:,}"
    digits = str(count)
    return f"{digits[0]}.{digits[1]} × 10{_raised(len(digits) - 1)}"


def _long(seconds: int) -> str:
    if seconds < 1:
        return "under 1 s"
    if seconds < YEAR // 10**7:
        return describe_span(seconds * 10**7, up=False)
    years = seconds // (YEAR // 10**7)
    return f"{_large(years)} {'year' if years == 1 else 'years'}"


def _favourite(settings: Settings) -> Figure:
    n, age = settings.history_length, settings.min_age
    away: Span = (n + 1) * age if n > 0 else 0
    if n <= 0:
        note = "Without a history the same password can be set again at once."
    elif age <= 0:
        note = f"{n:,} changes in a row take minutes without a minimum age."
    else:
        note = "At the earliest, after as many others as are remembered."
    return Figure(
        "favourite",
        "How long a favourite stays away",
        (away or 0) / 10**7,
        "s",
        describe_span(away) if away else "not at all",
        note,
        "(n + 1) · m",
        (("n, passwords remembered", f"{n:,}"), ("m, minimum age", describe_span(age))),
    )


def _stolen(settings: Settings) -> Figure:
    ages = expires(settings.max_age)
    return Figure(
        "stolen",
        "How long a stolen password is of use",
        (settings.max_age or 0) / 10**7 if ages else None,
        "s",
        f"up to {describe_span(settings.max_age)}" if ages else "until somebody changes it",
        "Half of that on average." if ages else "It never expires.",
        "A" if ages else "no end",
        (("A, maximum age", describe_span(settings.max_age) if ages else "never"),),
    )
