"""Findings about what policies ask beyond the directory's own rules."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.domain.estate import Estate
from hornfels.core.domain.wording import name_in_sentence, ref_of
from hornfels.core.findings.finding import Finding
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.drawing import needs_of
from hornfels.core.passwords.rules.patterns import Patterns
from hornfels.core.policy.addition import Addition, Asked, Blocked, LengthRange, PathName, Pattern
from hornfels.core.policy.model import expires
from hornfels.core.resolution.engine import DOMAIN_POLICY, Resolution
from hornfels.core.values.time import describe_span

_UNLIKE = ("", "a", "Z", "7", "-", " ", "é", "漢", "Ab3-", "xQ9 !zz")
"""Texts that have little in common: what is found in all of them is found in everything."""


Enforced = Literal["here", "hook", "everywhere"]
"""Where additions hold: in Hornfels alone; where a directory server asks at the gate, which it does
only under policies with complexity; or under every policy.
"""


def beyond_the_directory(
    estate: Estate, resolution: Resolution, enforced: Enforced
) -> Iterator[Finding]:
    """What is wrong with additions, and where nothing but Hornfels judges by them."""
    for policy in (*resolution.order, DOMAIN_POLICY):
        addition = addition_of(estate, policy)
        if addition is None:
            continue
        count = resolution.governed(policy)
        name, identity = name_in_sentence(estate, policy), ref_of(estate, policy)
        for kind, title, why in _wrong(estate, policy, addition):
            yield Finding(
                f"{kind}:{identity}",
                kind.partition("-")[0],
                "high" if kind.startswith("impossible") else "medium",
                f"{name} {title}",
                why,
                policy,
                count,
                "addition",
            )
        held = settings_of(estate, policy).complexity if enforced == "hook" else None
        if count and (enforced == "here" or held is False):
            title, why = _NO_GATE if enforced == "here" else _UNASKED
            yield Finding(
                f"ungated:{identity}",
                "ungated",
                "medium",
                title.format(name),
                why,
                policy,
                count,
                "addition",
            )


_NO_GATE = (
    "What {} asks besides is judged here only",
    "No directory server asks at the gate about new passwords, so one that the addition refuses is "
    "still taken when it is set elsewhere. Let the server ask (Sources, Gate).",
)
_UNASKED = (
    "What {} asks besides is not enforced by the directory server",
    "The server asks at the gate only where the policy has complexity on, and this one has it off: "
    "a password that the addition refuses is taken. Turn complexity on; the gate then asks for "
    "the character groups too.",
)


def _wrong(estate: Estate, policy: int, addition: Addition) -> Iterator[tuple[str, str, str]]:
    settings = settings_of(estate, policy)
    impossible = {
        path: needs_of(settings, asked).contradiction() for path, asked in addition.paths()
    }
    if impossible and all(impossible.values()):
        yield (
            "impossible",
            "asks for what no password can have",
            f"{'; '.join(f'As a {path}: {why}' for path, why in impossible.items())}. Whoever is "
            "under it cannot set a password that is accepted.",
        )
    for path, asked in addition.paths():
        if impossible[path] and not all(impossible.values()):
            yield (
                f"closed-{path}",
                f"has a {path} path that nothing can keep",
                f"It asks {impossible[path]}. Only the other path is left.",
            )
        yield from _of_path(estate, path, asked)
        longest = needs_of(None, asked).longest
        short = [one for one in asked if isinstance(one, LengthRange) and one.min]
        if path == "phrase" and short and max(o.min for o in short) < settings.min_length:
            yield (
                "short-phrase",
                "asks shorter phrases than the directory takes",
                f"A phrase has {max(o.min for o in short)} characters at least, the directory "
                f"wants {settings.min_length}: the number of the addition says nothing.",
            )
        if longest is not None and longest < settings.min_length:
            yield (
                f"above-{path}",
                f"allows a {path} fewer characters than the directory wants",
                f"At most {longest} are allowed and {settings.min_length} wanted.",
            )
    last = max((band.lifetime for band in addition.bands), default=0)
    if expires(settings.max_age) and last > (settings.max_age or 0):
        yield (
            "bands",
            "lets long passwords live longer than the directory does",
            f"The longest band is {describe_span(last)}, the maximum age "
            f"{describe_span(settings.max_age)}: the directory ends them earlier. Lengthen the "
            "maximum age to the longest band.",
        )


def _of_path(
    estate: Estate, path: PathName, asked: tuple[Asked, ...]
) -> Iterator[tuple[str, str, str]]:
    lists = estate.domain.term_lists
    for number, one in enumerate(asked, 1):
        if isinstance(one, Blocked):
            for name in one.lists:
                if name not in lists:
                    yield (
                        f"missing-{path}-{number}-{name}",
                        f"blocks the terms of a list that is not there: {name}",
                        "Nobody can say whether a password holds one of them. Bring the list "
                        "back, or take it out of the rule.",
                    )
                elif not lists[name].count:
                    yield (
                        f"empty-{path}-{number}-{name}",
                        f"blocks the terms of an empty list: {name}",
                        "The rule refuses nothing as long as no term is on the list.",
                    )
        if isinstance(one, Pattern) and _matches_everything(one):
            yield (
                f"{'idle' if one.must else 'impossible'}-{path}-{number}",
                "has a pattern that every text matches",
                f"{one.expression} is found in everything: the rule refuses "
                f"{'nothing' if one.must else 'every password'}.",
            )


def _matches_everything(one: Pattern) -> bool:
    patterns = Patterns([one.expression])
    return all(patterns.found(Candidate(text)) for text in _UNLIKE)
