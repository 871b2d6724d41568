"""A policy file brought to what a domain has by now: what is so already stays as it is written,
comments stay where they stand.
"""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping
from typing import Any
from uuid import uuid4

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.comparison import differences
from hornfels.core.drafts.edits import without_additions
from hornfels.core.drafts.operations import Target
from hornfels.core.policy.catalogue import BY_KEY, SettingKey, Value
from hornfels.core.policy.model import Policy, Settings
from hornfels.core.values.dn import loose_key
from hornfels.formats.policy_file.matching import matched
from hornfels.formats.policy_file.model import SWITCH, PolicyPart
from hornfels.formats.policy_file.reading import Read, read_policy_file
from hornfels.formats.policy_file.wanted import target_named, wanted
from hornfels.formats.policy_file.writing import shortest_name, value_text, write_policy_file
from hornfels.formats.yaml_tree import YamlError


def rewrite(data: bytes, estate: Estate) -> bytes:
    """The file as it says what a directory has of the estate. What it leaves out stays left out;
    its trials stay, and what policies ask besides.
    Raises `YamlError` for a file that cannot be read.
    """
    read = read_policy_file(data)
    yaml = YAML()
    yaml.preserve_quotes = True
    yaml.width = 1 << 20
    yaml.indent(mapping=2, sequence=4, offset=2)
    document = yaml.load(data)
    changed = _domain(document, read, estate) + _policies(document, read, estate)
    if not changed:
        return data
    out = io.BytesIO()
    yaml.dump(document, out)
    found = read_policy_file(out.getvalue())
    bare = without_additions(wanted(found, estate, uuid4).estate)
    assert not differences(without_additions(estate), bare)  # noqa: S101 - it says what there is
    return out.getvalue()


def _domain(document: Any, read: Read, estate: Estate) -> int:
    part: Any = read.content.domain_policy
    if part is None:
        return 0
    return _settings(document["domain_policy"], part.given(), estate.domain.settings)


def _settings(node: Any, given: Mapping[SettingKey, Value], held: Settings) -> int:
    """Bring the settings that are given to what they are; how many were otherwise."""
    otherwise = [key for key, value in given.items() if getattr(held, key) != value]
    for key in otherwise:
        node[key] = _written(key, getattr(held, key))
    return len(otherwise)


def _written(key: SettingKey, value: Value) -> Any:
    setting = BY_KEY[key]
    return value if setting.kind == "count" else value_text(setting, value)


def _policies(document: Any, read: Read, estate: Estate) -> int:
    parts = read.content.policies
    if parts is None:
        return 0
    match = matched(parts, estate.policies)
    if match.wrong:
        raise YamlError([read.tree.problem(*wrong) for wrong in match.wrong])
    held = match.policies
    nodes = document["policies"]
    links: dict[int, list[str]] = {}
    for link in estate.links:
        links.setdefault(link.policy, []).append(link.dn)
    index = {policy.guid: n for n, policy in enumerate(estate.policies)}
    changed = 0
    for number in range(len(parts) - 1, -1, -1):
        policy = held[number]
        if policy is None:
            del nodes[number]
            changed += 1
        else:
            dns = links.get(index[policy.guid], [])
            changed += _policy(nodes[number], parts[number], policy, dns, estate)
    there = {policy.guid for policy in held if policy}
    for fresh in _fresh(estate, {policy.guid for policy in estate.policies} - there):
        nodes.append(fresh)
        changed += 1
    return changed


def _policy(node: Any, part: PolicyPart, policy: Policy, dns: list[str], estate: Estate) -> int:
    changed = _settings(node, part.given(), policy.settings)
    for key, now in (("name", policy.name), ("precedence", policy.precedence)):
        if getattr(part, key) != now:
            node[key] = now
            changed += 1
    if "guarded" in part.model_fields_set and part.guarded != policy.guarded:
        node["guarded"] = SWITCH[policy.guarded]
        changed += 1
    if part.applies_to is not None:
        changed += _links(node, part.applies_to, dns, estate)
    return changed


def _links(node: Any, texts: tuple[str, ...], dns: list[str], estate: Estate) -> int:
    wanted_keys = {loose_key(dn): dn for dn in dns}
    listed = []
    for text in texts:
        found = target_named(estate, text)
        listed.append(loose_key(found.dn if isinstance(found, Target) else text))
    items = node["applies_to"]
    gone = [n for n, key in enumerate(listed) if key not in wanted_keys or key in listed[:n]]
    for number in reversed(gone):
        del items[number]
    come = [dn for key, dn in wanted_keys.items() if key not in listed]
    items.extend(sorted(shortest_name(estate, dn) for dn in come))
    return len(gone) + len(come)


def _fresh(estate: Estate, guids: set[Any]) -> Iterator[CommentedMap]:
    """Entries for policies that the file does not have, in the canonical form."""
    plain = YAML(typ="safe").load("".join(write_policy_file(estate)))
    for policy, written in zip(estate.policies, plain["policies"], strict=True):
        if policy.guid in guids:
            node = CommentedMap(written)
            node["applies_to"] = CommentedSeq(written["applies_to"])
            yield node
