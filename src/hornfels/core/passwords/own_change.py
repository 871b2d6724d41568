"""A person's own change of their password: what can be said of it, and what a directory's refusal
means.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Literal

from hornfels.core.domain.account_state import Expiry
from hornfels.core.passwords.card import in_words
from hornfels.core.passwords.judge import Verdict
from hornfels.core.passwords.rules.rule import Judgement, Occasion, plural
from hornfels.core.policy.model import Settings
from hornfels.core.values.time import Span

Named = Literal["length", "complexity", "history", "minimum_age"]
"""The rules of its own that a directory can name."""

_HISTORY = "history"


def why_then(ends: Expiry, max_age: Span) -> str:
    """Why somebody's password ends when it does, in plain words."""
    if ends.kind == "at" and max_age is not None:
        return f"A password lasts {in_words(max_age)} from the moment it was set."
    return ends.reason


def why_by_length(*, known: bool) -> str:
    """Why a password ends by its length; where nobody has seen how long it is, it is taken for one
    of the shortest.
    """
    if known:
        return "The longer a password is, the longer it lasts: by its length yours lasts so long."
    return (
        "The longer a password is, the longer it lasts. How long yours is was never seen, so it "
        "counts as one of the shortest."
    )


def own_change(now: int, password_set: int, present: str | None) -> Occasion:
    """Somebody changes their own password at a moment, in ticks; the `present` one if they have
    said it.
    """
    return Occasion("change", now, password_set, None if not present else (present,))


def as_far_as_known(verdict: Verdict, settings: Settings) -> Verdict:
    """A verdict in which the present password alone does not stand for all that the directory
    remembers: what is not the present one may be one of the others.
    """
    if settings.history_length <= 1:
        return verdict
    return Verdict(tuple(_open(one, settings.history_length) for one in verdict.judgements))


def _open(one: Judgement, depth: int) -> Judgement:
    if one.path or one.rule != _HISTORY or one.status != "passed":
        return one
    plain = f"It must not be one of your last {depth:,} passwords; only the directory knows those."
    return replace(one, status="not checkable", detail="only the directory knows", plain=plain)


_READ_BEFORE = "the policy may have been changed since Hornfels read it"


def refused_by(rule: Named, settings: Settings) -> str:
    """What a directory's refusal means that names its rule, for a password that is good by what was
    read.
    """
    if rule == _HISTORY:
        held = plural(settings.history_length, "password")
        return (
            "The directory refuses it: you had it before. It remembers your last "
            f"{held if settings.history_length > 1 else 'password'}. Choose one you never had."
        )
    return f"{_NAMED[rule]} By what was read it would do: {_READ_BEFORE}."


_NAMED: Mapping[Named, str] = {
    "length": "The directory refuses it as too short. Choose a longer one.",
    "complexity": (
        "The directory refuses it for its kinds of characters, or since your name stands in it. "
        "Mix more kinds, and leave your name out."
    ),
    "minimum_age": (
        "The directory refuses it since your present password is too new. Try again later, or ask "
        "the help desk."
    ),
}


def refused_by_some(settings: Settings) -> str:
    """What a directory's refusal means that names no rule, for a password that is good by what was
    read: what is left is what only the directory knows.
    """
    lead = "The directory refuses it and does not say by which rule."
    if settings.history_length > 1:
        return (
            f"{lead} By all that Hornfels can check it is good, so it is most likely one of your "
            f"last {settings.history_length:,} passwords. Choose one you never had."
        )
    return (
        f"{lead} Hornfels finds nothing wrong with it: {_READ_BEFORE}. Try a longer one with more "
        "kinds of characters, or ask the help desk."
    )
