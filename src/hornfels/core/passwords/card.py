"""A policy told to somebody who is under it, in words that need no explanation."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from hornfels.core.domain.account_state import Expiry, effective_settings, expiry
from hornfels.core.domain.estate import UNKNOWN_TIME, Control
from hornfels.core.passwords.rules.complexity import EVERYDAY, GROUPS_WANTED, PLAIN_GROUPS
from hornfels.core.passwords.rules.own_name import OwnName
from hornfels.core.passwords.rules.rule import Subject, plural
from hornfels.core.policy.addition import (
    Addition,
    Asked,
    Blocked,
    Closeness,
    Edge,
    Exposed,
    LengthRange,
    OwnNames,
    PathName,
    Pattern,
)
from hornfels.core.policy.addition_words import band_said, said
from hornfels.core.policy.model import Settings, expires, until_unlocked
from hornfels.core.values.time import DAY, HOUR, MINUTE, TICKS_PER_SECOND, Span

_UNITS = (("day", DAY), ("hour", HOUR), ("minute", MINUTE), ("second", TICKS_PER_SECOND))
_NUMBERS = {2: "two", 3: "three", 4: "four", 5: "five"}


@dataclass(frozen=True, slots=True)
class Line:
    """One thing asked. ``rule`` is the key of the verdict's rule that ticks it off."""

    rule: str
    text: str


@dataclass(frozen=True, slots=True)
class Way:
    """A path of an addition: all that it asks."""

    path: PathName
    lines: tuple[Line, ...]


@dataclass(frozen=True, slots=True)
class Card:
    """``must`` is what a password needs; where there are ``ways``, all of one of them besides;
    ``refusals`` says why one may be refused all the same; ``later`` is what follows.
    """

    must: tuple[Line, ...]
    ways: tuple[Way, ...]
    refusals: tuple[str, ...]
    later: tuple[str, ...]
    expiry: Expiry


def card(
    settings: Settings,
    subject: Subject,
    control: int = 0,
    password_set: int = UNKNOWN_TIME,
    now: int = 0,
    addition: Addition | None = None,
) -> Card:
    """The card of an account, or of anybody under a policy if the subject has no name. `now` is a
    moment in ticks.
    """
    ends = expiry(control, password_set, effective_settings(settings, control).max_age)
    if ends.kind == "at" and ends.at <= now:
        ends = Expiry("now", 0, "The password has expired.")
    later = [*_later(settings, control, password_set, ends), *_bands(addition)]
    return Card(
        tuple(_must(settings, subject)),
        tuple(_ways(addition)),
        tuple(_refusals(settings, control)),
        tuple(later),
        ends,
    )


def in_words(span: int) -> str:
    """A span in everyday words and at most two units: “1 day and 12 hours”."""
    if span < TICKS_PER_SECOND:
        return "a moment"
    words = []
    for name, size in _UNITS:
        count, span = divmod(span, size)
        if count:
            words.append(plural(count, name))
    return " and ".join(words[:2])


def _must(settings: Settings, subject: Subject) -> list[Line]:
    lines = []
    if settings.min_length > 0:
        lines.append(
            Line(
                "length",
                (
                    f"Have at least {plural(settings.min_length, 'character')}. A few words in a "
                    "row work well."
                ),
            )
        )
    if settings.complexity:
        kinds = ", ".join(PLAIN_GROUPS[g] for g in EVERYDAY)
        lines.append(
            Line("complexity", f"Mix at least {_NUMBERS[GROUPS_WANTED]} of these kinds: {kinds}.")
        )
        names = [f"“{name}”" for name, _ in OwnName(on=True).names(subject)]
        own = (
            f"Not contain your own name: {', '.join(names)}."
            if names
            else "Not contain your sign-in name or a part of your own name."
        )
        lines.append(Line("own_name", own))
    if settings.history_length == 1:
        lines.append(Line("history", "Not be the password you have now."))
    elif settings.history_length > 1:
        lines.append(
            Line("history", f"Not be one of your last {settings.history_length:,} passwords.")
        )
    return lines


def _ways(addition: Addition | None) -> Iterator[Way]:
    for path, asked in addition.paths() if addition else ():
        yield Way(path, tuple(Line(one.key, _plain(one)) for one in asked))


def _plain(one: Asked) -> str:
    """What a rule asks, for somebody who knows no lists and no expressions."""
    match one:
        case Blocked(_, True):
            return "Not be one of the passwords that are blocked here."
        case Blocked():
            return "Not contain a word that is blocked here, however it is written."
        case Exposed():
            return "Not be known to others: it is looked for among passwords that were exposed."
        case OwnNames():
            return (
                "Not contain any of your own names, nor the names before the @ of your addresses."
            )
        case Pattern(expression, must):
            return f"{'Have' if must else 'Not have'} what the expression {expression} stands for."
        case Edge():
            return f"{_capital(said(one).replace('beginning', 'begin').replace('ending', 'end'))}."
        case Closeness():
            asked = said(one).removeprefix("on a change ")
            return f"Be far from the one you have now: {asked}."
        case _:
            return f"Have {said(one)}." if not isinstance(one, LengthRange) else f"Be {said(one)}."


def _capital(text: str) -> str:
    return text[0].upper() + text[1:]


def _bands(addition: Addition | None) -> Iterator[str]:
    if addition and addition.bands:
        told = ", ".join(band_said(band) for band in addition.bands)
        yield f"The longer it is, the longer it lasts: {told}."


def _refusals(settings: Settings, control: int) -> list[str]:
    found = [
        (
            "The computer gives the same answer whatever is wrong; the list above says what it "
            "looks at."
        )
    ]
    if settings.min_age > 0:
        found.append(
            f"After a change you have to wait {in_words(settings.min_age)} before the next one. "
            "Sooner, even a good one is refused. The help desk can set one for you at any time."
        )
    if control & Control.SMART_CARD_REQUIRED:
        found.append("You sign in with a smart card; the password is not what opens your account.")
    return found


def _later(settings: Settings, control: int, password_set: int, ends: Expiry) -> list[str]:
    lines = []
    if ends.kind == "never":
        lines.append("Your password does not expire.")
    elif ends.kind == "now":
        expired = password_set > 0
        what = (
            "Your present password has expired. You are asked for a new one"
            if expired
            else "You are asked for a new password"
        )
        lines.append(f"{what} the next time you sign in.")
    elif ends.kind == "unknown" and expires(settings.max_age):
        lines.append(
            f"A password lasts {in_words(settings.max_age or 0)}; then you are asked for a "
            "new one when you sign in."
        )
    if settings.lockout_threshold > 0:
        tries = (
            "1 wrong try"
            if settings.lockout_threshold == 1
            else f"{settings.lockout_threshold:,} wrong tries"
        )
        window = f"each within {in_words(settings.lockout_window)} of the one before"
        lines.append(
            f"After {tries}, {window}, your account locks. {_opens(settings.lockout_duration)}"
        )
    if control & Control.DISABLED:
        lines.append("Your account is switched off at the moment; ask the help desk.")
    return lines


def _opens(duration: Span) -> str:
    if until_unlocked(duration):
        return "Only the help desk can open it."
    return (
        f"It opens by itself after {in_words(duration or 0)}, and trying meanwhile does not make "
        "it longer."
    )
