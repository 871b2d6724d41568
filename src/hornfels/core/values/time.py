"""Exact spans and moments of time.

A *span* is a count of ticks of 100 ns held as a Python integer, or ``NEVER``. Directories store
spans as negative signed 64-bit counts of the same ticks, with the smallest value standing for
"never" or "until unlocked" (domain rules §2). A *moment* is a count of ticks since 1601-01-01 UTC,
as in ``pwdLastSet``.
"""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

TICKS_PER_SECOND = 10_000_000
MINUTE = 60 * TICKS_PER_SECOND
HOUR = 60 * MINUTE
DAY = 24 * HOUR

NEVER = None
"""The span that has no end: a password that never expires, a lock that lasts until an operator
lifts it.
"""

Span = int | None

LDAP_NEVER = -(2**63)
_EPOCH = datetime(1601, 1, 1, tzinfo=UTC)


def span_from_ldap(value: int, *, endless: bool) -> Span:
    """The span that a directory value stands for; the smallest value is ``NEVER`` where the setting
    knows one (`endless`).
    """
    return NEVER if endless and value == LDAP_NEVER else -value


def span_to_ldap(span: Span) -> int:
    """The directory value for a span, exactly the one that `span_from_ldap` read."""
    return LDAP_NEVER if span is NEVER else -span


def seconds(span: Span) -> int | float | None:
    """A span in seconds: an integer where it is whole, else a float; ``None`` for ``NEVER``."""
    if span is NEVER:
        return None
    whole, rest = divmod(span, TICKS_PER_SECOND)
    return whole if rest == 0 else span / TICKS_PER_SECOND


def span_from_seconds(value: float | None) -> Span:
    """The span for a number of seconds, to the nearest tick; ``None`` is ``NEVER``."""
    if value is None:
        return NEVER
    # A float that large is whole already, and its ticks may be more than a float can hold.
    whole = isinstance(value, int) or abs(value) >= 2**53
    return int(value) * TICKS_PER_SECOND if whole else round(value * TICKS_PER_SECOND)


def moment_from_datetime(value: datetime) -> int:
    """Ticks since 1601-01-01 UTC. A value without a zone is taken as UTC."""
    aware = value if value.tzinfo else value.replace(tzinfo=UTC)
    since = aware - _EPOCH
    return (since.days * 86_400 + since.seconds) * TICKS_PER_SECOND + since.microseconds * 10


def datetime_from_moment(moment: int) -> datetime | None:
    """The UTC date and time of a moment, cut to microseconds; ``None`` where it lies outside the
    calendar.
    """
    try:
        return _EPOCH + timedelta(microseconds=moment // 10)
    except OverflowError:
        return None


_UNITS = (("d", DAY), ("h", HOUR), ("min", MINUTE), ("s", TICKS_PER_SECOND))


def describe_span(span: Span, *, never: str = "never", parts: int = 2, up: bool = True) -> str:
    """A span in words, as "42 d", "9 h 12 min" or "0 min": at most `parts` units.

    Rounded up, so that waiting that long is enough, or down for what has passed (`up` false).
    """
    if span is NEVER:
        return never
    if span < 0:
        return "−" + describe_span(-span, parts=parts, up=up)
    if 0 < span < TICKS_PER_SECOND:
        return "under 1 s"
    if span == 0:
        return "0 min"
    start = next(n for n, (_, size) in enumerate(_UNITS) if span >= size)
    smallest = _UNITS[min(start + parts, len(_UNITS)) - 1][1]
    rest = (-(-span // smallest) if up else span // smallest) * smallest
    if start and rest >= _UNITS[start - 1][1]:
        start -= 1
    words = []
    for name, size in _UNITS[start : start + parts]:
        count, rest = divmod(rest, size)
        if count:
            words.append(f"{count:,} {name}")
    return " ".join(words)


def exact_span(span: int) -> str:
    """A span to the tick, as "1 h 30 min" or "0.5 s"."""
    if span < 0:
        return f"-{exact_span(-span)}"
    words = []
    for name, size in _UNITS[:-1]:
        count, span = divmod(span, size)
        if count:
            words.append(f"{count} {name}")
    whole, rest = divmod(span, TICKS_PER_SECOND)
    if rest:
        words.append(f"{whole}.{rest:07d}".rstrip("0") + " s")
    elif whole or not words:
        words.append(f"{whole} s")
    return " ".join(words)
