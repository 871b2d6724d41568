"""What a policy file wants of a domain: the estate as the file has it, and the trials in it."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any
from uuid import UUID

from hornfels.core.domain.estate import Estate, Link
from hornfels.core.drafts.comparison import differences
from hornfels.core.drafts.edits import find_target, link_to, policy_dn
from hornfels.core.drafts.operations import Operations, Target
from hornfels.core.lockout.notation import read_story, write_story
from hornfels.core.passwords.additions import TermsOf, terms_in
from hornfels.core.policy.addition import Addition
from hornfels.core.policy.catalogue import SettingKey, Value
from hornfels.core.policy.model import (
    DEFAULTS,
    Policy,
    Settings,
    fresh_errors,
    name_problem,
    problems,
)
from hornfels.core.policy.term_lists import TermList, list_of, tidied
from hornfels.core.trials.trial import Expected, TargetKind, Trial
from hornfels.core.values.dn import loose_key, name_key
from hornfels.core.values.lookalikes import skeleton
from hornfels.core.values.text import visible
from hornfels.formats.policy_file.additions import missing_lists
from hornfels.formats.policy_file.matching import matched
from hornfels.formats.policy_file.model import PolicyPart, SettingsPart, TrialPart
from hornfels.formats.policy_file.reading import Read, as_reason
from hornfels.formats.yaml_tree import Path, Problem, YamlError


@dataclass(frozen=True, slots=True)
class Wanted:
    """The estate as a file has it, the operations that lead there, the file's trials, and the
    blocked terms that stand in it, by list.
    """

    estate: Estate
    operations: Operations
    trials: tuple[Trial, ...]
    terms: Mapping[str, tuple[str, ...]]

    def terms_of(self) -> TermsOf:
        """The terms in the file, to judge by."""
        return terms_in(self.terms)


def wanted(read: Read, estate: Estate, new_guid: Callable[[], UUID]) -> Wanted:
    """What the file wants of a domain as it is. ``new_guid`` gives GUIDs for what it adds. Raises
    `YamlError` for all of it that does not fit the domain.
    """
    made = _Made(read, estate, new_guid)
    made.blocked_terms()
    made.domain()
    made.policies()
    trials = tuple(made.trials())
    if made.problems:
        raise YamlError(sorted(made.problems))
    after = made.estate()
    return Wanted(after, differences(estate, after), trials, made.terms)


def target_named(estate: Estate, text: str) -> Target | list[str]:
    """The account or group that a text names, by its ``sAMAccountName`` or its DN; else the DNs of
    all it may mean, none or several.
    """
    if "=" in text:
        found = find_target(estate, text) or find_target(estate, re.sub(", +", ",", text))
        return found or []
    sides = ((estate.groups, "group"), (estate.accounts, "account"))
    matches = [
        Target(dn=side.dn[row], kind=kind)
        for side, kind in sides
        for row in side.name.find(text).tolist()
        # Spelt with escapes it would be another text than the one that it names.
        if name_key(side.name[row]) == name_key(text)
    ]
    return matches[0] if len(matches) == 1 else [match.dn for match in matches]


@dataclass
class _Made:
    read: Read
    before: Estate
    new_guid: Callable[[], UUID]
    problems: list[Problem] = field(default_factory=list)
    settings: Settings = field(init=False)
    kept: list[tuple[Policy, list[Link]]] = field(default_factory=list)
    addition: Addition | None = field(init=False)
    lists: dict[str, TermList] = field(init=False)
    terms: dict[str, tuple[str, ...]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        held = self.before.domain
        self.settings, self.addition = held.settings, held.addition
        self.lists = dict(held.term_lists)

    def estate(self) -> Estate:
        ordered = sorted(self.kept, key=lambda one: one[0].rank)
        after = self.before.with_policies(
            tuple(policy for policy, _ in ordered),
            tuple(
                link._replace(policy=index)
                for index, (_, links) in enumerate(ordered)
                for link in links
            ),
        )
        domain = replace(
            after.domain, settings=self.settings, addition=self.addition, term_lists=self.lists
        )
        return replace(after, domain=domain)

    def _wrong(self, path: Path, reason: str) -> None:
        self.problems.append(self.read.tree.problem(path, reason))

    def domain(self) -> None:
        content, name = self.read.content, self.before.domain.dns_name
        if content.domain.lower() != name.lower():
            self._wrong(("domain",), f"this is the file of another domain than {name}")
        part: Any = content.domain_policy
        if part:
            self.settings = self._edited(
                ("domain_policy",), self.settings, None, None, part.given()
            )
            self.addition = self._added(("domain_policy",), part, self.addition)

    def blocked_terms(self) -> None:
        """The lists as the file has them. One whose terms are elsewhere has to be held already."""
        given = self.read.content.blocked_terms
        if given is None:
            return
        self.lists = {}
        for name, held in given.items():
            if isinstance(held, tuple):
                self.terms[name] = tuple(tidied(held))
                self.lists[name] = list_of(self.terms[name])
            else:
                self.lists[name] = TermList(held.sha256, held.terms)

    def _added(self, path: Path, part: SettingsPart, held: Addition | None) -> Addition | None:
        """What a policy asks besides. Lists that the file leaves out have to be there."""
        addition = part.adds(held)
        if addition and addition != held and self.read.content.blocked_terms is None:
            for below, told in missing_lists(addition, self.lists):
                self._wrong((*path, "addition", *below), as_reason(told))
        return addition

    def _edited(
        self,
        path: Path,
        held: Settings,
        held_number: int | None,
        number: int | None,
        given: Mapping[SettingKey, Value],
        *,
        fresh: bool = False,
    ) -> Settings:
        """Settings with some of them as given. What a directory holds already may stay as it
        is.
        """
        settings = held.changed(given)
        before = [] if fresh else problems(held, held_number)
        for one in fresh_errors(settings, number, before):
            self._wrong((*path, one.field), one.message.rstrip("."))
        return settings

    def policies(self) -> None:
        parts = self.read.content.policies
        links = self._links_held()
        if parts is None:
            self.kept = [(policy, links[policy.guid]) for policy in self.before.policies]
            return
        match = matched(parts, self.before.policies)
        for place, reason in match.wrong:
            self._wrong(place, reason)
        found = match.policies
        for number, (part, held) in enumerate(zip(parts, found, strict=True)):
            path: Path = ("policies", number)
            settings = self._edited(
                path,
                held.settings if held else DEFAULTS,
                held.precedence if held else None,
                part.precedence,
                part.given(),
                fresh=held is None,
            )
            policy = Policy(
                guid=held.guid if held else self.new_guid(),
                dn=held.dn if held else "",
                name=held.name if held else "",
                precedence=part.precedence,
                settings=settings,
                guarded=held.guarded
                if held and "guarded" not in part.model_fields_set
                else part.guarded,
                addition=self._added(path, part, held.addition if held else None),
            )
            if policy.name != part.name:
                dn = policy_dn(part.name, self.before.domain.dn)
                policy = replace(policy, name=part.name, dn=dn)
            there = links[held.guid] if held else []
            self.kept.append((policy, list(self._linked(path, part, there))))
        self._check_names(parts, found)

    def _links_held(self) -> dict[UUID, list[Link]]:
        links: dict[UUID, list[Link]] = {policy.guid: [] for policy in self.before.policies}
        for link in self.before.links:
            links[self.before.policies[link.policy].guid].append(link)
        return links

    def _check_names(self, parts: tuple[PolicyPart, ...], found: list[Policy | None]) -> None:
        """New names have to be good ones, and none may be taken for another."""
        keys: dict[str, int] = {}
        looks: dict[str, int] = {}
        for number, (part, held) in enumerate(zip(parts, found, strict=True)):
            path: Path = ("policies", number, "name")
            fresh = held is None or held.name != part.name
            wrong = name_problem(part.name) if fresh else ""
            first = keys.setdefault(name_key(part.name), number)
            alike = looks.setdefault(skeleton(part.name), number)
            if held and found[first] is held and first != number:
                continue  # told already: it stands there twice
            if wrong:
                self._wrong(path, wrong.rstrip("."))
            elif first != number and (fresh or self._is_new(parts[first], found[first])):
                line = self.read.tree.at(("policies", first))[0]
                self._wrong(path, f"the policy in line {line} has this name; choose another one")
            elif first == number != alike and (fresh or self._is_new(parts[alike], found[alike])):
                line = self.read.tree.at(("policies", alike))[0]
                self._wrong(
                    path,
                    f"it looks like the name in line {line} and is another one; choose one that "
                    "nobody takes for it",
                )

    @staticmethod
    def _is_new(part: PolicyPart, held: Policy | None) -> bool:
        return held is None or held.name != part.name

    @cached_property
    def _known(self) -> dict[str, Link]:
        """Whatever policies are linked to already: it may be linked, even to what is not in the
        estate.
        """
        return {loose_key(link.dn): link for link in self.before.links}

    def _linked(self, path: Path, part: PolicyPart, held: list[Link]) -> Iterator[Link]:
        if part.applies_to is None:
            yield from held
            return
        there = self._known | {loose_key(link.dn): link for link in held}
        seen: set[str] = set()
        for number, text in enumerate(part.applies_to):
            at: Path = (*path, "applies_to", number)
            target = target_named(self.before, text)
            if isinstance(target, Target):
                link = there.get(loose_key(target.dn)) or link_to(self.before, target)
            elif loose_key(text) in there:
                link = there[loose_key(text)]
            else:
                self._wrong(at, self._unknown(text, target))
                continue
            if loose_key(link.dn) in seen:
                self._wrong(at, f"{visible(text[:60])} stands here twice; keep one")
            seen.add(loose_key(link.dn))
            yield link

    def _unknown(self, text: str, meant: list[str]) -> str:
        shown = visible(text[:100])
        if meant:
            return f"“{shown}” may be {' or '.join(meant[:3])}; write the one that is meant"
        alike = self._looks.get(skeleton(text))
        repair = (
            f"{visible(alike)} looks like it and is written otherwise; is that meant?"
            if alike
            else "give the sAMAccountName or the distinguished name of one"
        )
        return f"there is no account or group “{shown}”; {repair}"

    @cached_property
    def _looks(self) -> dict[str, str]:
        """Names of groups by what they look like."""
        return {skeleton(name): name for name in self.before.groups.name}

    def trials(self) -> Iterator[Trial]:
        for number, part in enumerate(self.read.content.trials):
            trial = self._trial(("trials", number), part)
            if trial:
                yield trial

    def _trial(self, path: Path, part: TrialPart) -> Trial | None:
        kinds: tuple[TargetKind, ...] = ("account", "population", "group")
        kind = next(kind for kind in kinds if getattr(part, kind))
        text: str = getattr(part, kind)
        found = target_named(self.before, text)
        wanted_kind = "group" if kind == "group" else "account"
        if not isinstance(found, Target) or found.kind != wanted_kind:
            reason = f"there is no {wanted_kind} “{visible(text[:100])}” in this domain; name one"
            self._wrong((*path, kind), reason)
            return None
        row = link_to(self.before, found).target
        expected: dict[str, Expected] = {"stays open": "stays_open"}
        return Trial(
            candidate=part.candidate.get_secret_value() if part.candidate else "",
            kind=kind,
            target=found.dn if kind == "group" else self.before.accounts.name[row],
            expected=expected.get(part.expect, part.expect),  # type: ignore[arg-type]
            rule=part.refused_by or "",
            story=write_story(read_story(part.story)) if part.story else "",
            present=part.present.get_secret_value() if part.present else "",
        )
