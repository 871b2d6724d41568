"""A domain's policies and trials as a policy file in its one canonical form: the same content gives
the same bytes.
"""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import fields
from typing import Any

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.operations import Target
from hornfels.core.drafts.written_additions import rule_written
from hornfels.core.policy.addition import Addition, Asked
from hornfels.core.policy.catalogue import CATALOGUE, Setting, Value
from hornfels.core.policy.model import Policy, Settings
from hornfels.core.policy.term_lists import TermList
from hornfels.core.trials.trial import Trial
from hornfels.core.values.dn import loose_key, name_key
from hornfels.core.values.time import exact_span
from hornfels.formats.policy_file.additions import NONE
from hornfels.formats.policy_file.model import SWITCH, VERSION, endless_word
from hornfels.formats.policy_file.wanted import target_named

_PLAIN = re.compile(r"[A-Za-z][A-Za-z0-9._/()-]*(?: [A-Za-z0-9._/()-]+)*")
_WORDS = {"true", "false", "null", "yes", "no", "on", "off", "y", "n"}
"""What some reader of YAML takes for something else than text."""


MOST_WRITTEN = 1000
"""Terms of a list that are written one by one; of a longer one only what tells it."""

TermsHeld = Callable[[TermList], Sequence[str]]


def write_policy_file(
    estate: Estate, trials: Iterable[tuple[str, Trial]] = (), terms: TermsHeld | None = None
) -> Iterator[str]:
    """The lines of the file. `trials` come with their titles. With `terms`, which gives those of a
    list, what policies ask beyond the directory's own rules is written too.
    """
    beyond = terms is not None
    yield f"hornfels: {VERSION}\n"
    yield f"domain: {scalar(estate.domain.dns_name)}\n"
    yield "\ndomain_policy:\n"
    yield from _settings(estate.domain.settings, "  ")
    yield from _addition(estate.domain.addition, "  ") if beyond else ()
    yield "\npolicies:" + (" []\n" if not estate.policies else "\n")
    names = Counter(name_key(policy.name) for policy in estate.policies)
    links: dict[int, list[str]] = {}
    for link in estate.links:
        links.setdefault(link.policy, []).append(link.dn)
    for index, policy in enumerate(estate.policies):
        if index:
            yield "\n"
        alone = names[name_key(policy.name)] == 1
        yield from _policy(estate, policy, links.get(index, []), alone=alone)
        yield from _addition(policy.addition, "    ") if beyond else ()
    first = True
    for title, trial in trials:
        yield "\ntrials:\n" if first else "\n"
        first = False
        yield from _trial(estate, title, trial)
    if terms and estate.domain.term_lists:
        yield "\nblocked_terms:\n"
        for name, held in sorted(estate.domain.term_lists.items()):
            yield from _terms(name, held, terms)


def _addition(addition: Addition | None, indent: str) -> Iterator[str]:
    if addition is None:
        yield f"{indent}addition: {NONE}\n"
        return
    yield f"{indent}addition:\n"
    for path, asked in addition.paths():
        yield f"{indent}  {path}:{'' if asked else ' []'}\n"
        yield from (f"{indent}    - {_rule(one)}\n" for one in asked)
    if addition.bands:
        yield f"{indent}  lifetime:\n"
        for band in addition.bands:
            lives = exact_span(band.lifetime)
            yield f"{indent}    - {{from: {band.length}, lives: {scalar(lives)}}}\n"


def _rule(one: Asked) -> str:
    """A rule in one line, without what it would be by itself."""
    defaults = {f.name: f.default for f in fields(one)}
    values = ((key, value) for key, value in rule_written(one)[one.key].items())
    told = (
        f"{key}: {_flow(value)}" for key, value in values if value != _listed(defaults.get(key))
    )
    return f"{one.key}: {{{', '.join(told)}}}"


def _listed(value: Any) -> Any:
    return list(value) if isinstance(value, tuple) else value


def _flow(value: Any) -> str:
    if isinstance(value, bool):
        return SWITCH[value]
    if isinstance(value, list):
        return f"[{', '.join(scalar(one) for one in value)}]"
    return str(value) if isinstance(value, int) else scalar(value)


def _terms(name: str, held: TermList, terms: TermsHeld) -> Iterator[str]:
    if held.count > MOST_WRITTEN:
        yield f"  {scalar(name)}: {{sha256: {scalar(held.digest)}, terms: {held.count}}}\n"
        return
    yield f"  {scalar(name)}:{'' if held.count else ' []'}\n"
    yield from (f"    - {scalar(term)}\n" for term in terms(held))


def _policy(estate: Estate, policy: Policy, dns: list[str], *, alone: bool) -> Iterator[str]:
    yield f"  - name: {scalar(policy.name)}\n"
    if not alone:
        yield f"    guid: {scalar(str(policy.guid))}\n"
    yield f"    precedence: {policy.precedence}\n"
    named = sorted({loose_key(dn): shortest_name(estate, dn) for dn in dns}.values())
    yield "    applies_to:" + (" []\n" if not named else "\n")
    yield from (f"      - {scalar(name)}\n" for name in named)
    yield f"    guarded: {SWITCH[policy.guarded]}\n"
    yield from _settings(policy.settings, "    ")


def _settings(settings: Settings, indent: str) -> Iterator[str]:
    for setting in CATALOGUE:
        yield f"{indent}{setting.key}: {value_text(setting, getattr(settings, setting.key))}\n"


def value_text(setting: Setting, value: Value) -> str:
    """A setting's value as the file writes it."""
    if setting.kind == "switch":
        return SWITCH[bool(value)]
    if setting.kind == "count":
        return str(value)
    return endless_word(setting) if value is None else exact_span(value)


def shortest_name(estate: Estate, dn: str) -> str:
    """An account or group by its name where that leads to it and nothing else, else its DN."""
    for side in (estate.groups, estate.accounts):
        for row in side.dn.find(dn).tolist():
            name: str = side.name[row]
            found = target_named(estate, name)
            if isinstance(found, Target) and "=" not in name and found.dn == dn:
                return name
    return dn


def _trial(estate: Estate, title: str, trial: Trial) -> Iterator[str]:
    values = {
        "title": title,
        "candidate": trial.candidate if not trial.story else "",
        "present": trial.present,
        "story": trial.story,
        trial.kind: shortest_name(estate, trial.target) if trial.kind == "group" else trial.target,
        "expect": trial.expected.replace("_", " "),
        "refused_by": trial.rule,
    }
    start = "  - "
    for key, value in values.items():
        if value or (key == "candidate" and not trial.story):
            yield f"{start}{key}: {scalar(value)}\n"
            start = "    "


def scalar(text: str) -> str:
    """Text as every reader of YAML takes it for this text: plain where that is sure, else in double
    quotes, with what is not seen escaped.
    """
    if _PLAIN.fullmatch(text) and text.lower() not in _WORDS:
        return text
    quoted = json.dumps(text, ensure_ascii=False)
    return "".join(c if c.isprintable() else _escape(c) for c in quoted)


def _escape(c: str) -> str:
    code = ord(c)
    if code < 0x100:
        return f"\\x{code:02x}"
    return f"\\u{code:04x}" if code < 0x10000 else f"\\U{code:08x}"
