"""A domain's policies and trials as a policy file in its one canonical form: the same content gives
the same bytes.
"""

from __future__ import annotations

import json
import re
from collections import Counter
from collections.abc import Iterable, Iterator

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.operations import Target
from hornfels.core.policy.catalogue import CATALOGUE, Setting, Value
from hornfels.core.policy.model import Policy, Settings
from hornfels.core.trials.trial import Trial
from hornfels.core.values.dn import loose_key, name_key
from hornfels.core.values.time import exact_span
from hornfels.formats.policy_file.model import SWITCH, VERSION, endless_word
from hornfels.formats.policy_file.wanted import target_named

_PLAIN = re.compile(r"[A-Za-z][A-Za-z0-9._/()-]*(?: [A-Za-z0-9._/()-]+)*")
_WORDS = {"true", "false", "null", "yes", "no", "on", "off", "y", "n"}
"""What some reader of YAML takes for something else than text."""


def write_policy_file(estate: Estate, trials: Iterable[tuple[str, Trial]] = ()) -> Iterator[str]:
    """The lines of the file. `trials` come with their titles."""
    yield f"hornfels: {VERSION}\n"
    yield f"domain: {scalar(estate.domain.dns_name)}\n"
    yield "\ndomain_policy:\n"
    yield from _settings(estate.domain.settings, "  ")
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
    first = True
    for title, trial in trials:
        yield "\ntrials:\n" if first else "\n"
        first = False
        yield from _trial(estate, title, trial)


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
