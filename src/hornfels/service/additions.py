"""What policies ask beyond the directory's own rules, in the draft that is shown: looked at,
weighed, changed; and the lists of blocked terms that it names.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from random import Random

from hornfels.core.domain.account_state import addition_of, settings_of
from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.edits import addition_edits, index_of, term_edits
from hornfels.core.drafts.operations import Operation
from hornfels.core.passwords.additions import OnPath, compile_addition
from hornfels.core.passwords.rule_effects import Effects, effects
from hornfels.core.passwords.space_left import SpaceLeft, space_left
from hornfels.core.passwords.typical import typical
from hornfels.core.policy.addition import Addition, PathName
from hornfels.core.policy.model import PolicyRef
from hornfels.core.policy.term_lists import (
    TermList,
    list_name_problem,
    term_problems,
    tidied,
)
from hornfels.formats.policy_file.additions import wrong
from hornfels.refusals import ChangedMeanwhileError, ConflictError, FieldsError, NotFoundError
from hornfels.service.editing import Editing
from hornfels.service.policies import expect_seen
from hornfels.service.snapshots import Snapshot
from hornfels.store import terms

SAMPLE = 1000
"""Typical passwords that rules are held against where nobody brings any."""


def set_addition(
    edit: Editing, policy: PolicyRef, version: int, addition: Addition | None
) -> Snapshot:
    """Give a policy an addition, or none, if it is as it was when it was read. Raises `FieldsError`
    for what cannot be in one, by path and number as in “password 2”.
    """

    def changed(estate: Estate) -> Iterable[Operation]:
        if policy != "domain":
            index_of(estate, policy)
        expect_seen(estate, policy, version, edit)
        check(addition, estate)
        return addition_edits(estate, policy, addition)

    return edit.change(changed)


def check(addition: Addition | None, estate: Estate) -> None:
    """Raises `FieldsError` for what cannot be in an addition here."""
    if addition is None:
        return
    if addition.password is None and addition.phrase is None and not addition.bands:
        raise FieldsError(("", "It asks nothing. Give it a rule, or take the addition away."))
    told = [
        (" ".join(str(part + 1 if isinstance(part, int) else part) for part in place), message)
        for place, message in wrong(addition, estate.domain.term_lists)
    ]
    if told:
        raise FieldsError(*told)


@dataclass(frozen=True, slots=True)
class Weighed:
    """What the rules of an addition do, and what each path leaves of what a keyboard writes, where
    that can be told.
    """

    effects: Effects
    spaces: tuple[tuple[PathName, SpaceLeft], ...]


def weigh(
    current: Snapshot, policy: int, addition: Addition, sample: Sequence[str], random: Random
) -> Weighed:
    """What an addition does under a policy, as it stands or is being thought of. Without a
    `sample`, it is held against typical passwords of our own.
    """
    check(addition, current.estate)
    settings = settings_of(current.estate, policy)
    beyond = compile_addition(addition, current.lists)
    # The same texts each time, so that two additions can be told apart by what they refuse.
    steady = Random(SAMPLE)  # noqa: S311 - nobody's passwords
    tried = sample or typical(SAMPLE, steady)
    rules = iter(rule for rule in beyond if isinstance(rule, OnPath))
    spaces = (
        (path, space_left(settings, asked, [next(rules) for _ in asked], steady))
        for path, asked in addition.paths()
    )
    return Weighed(
        effects(settings, addition, beyond, tried, random),
        tuple((path, left) for path, left in spaces if left),
    )


def users_of(estate: Estate, name: str) -> list[int]:
    """The policies by number whose addition names a list, −1 the domain policy."""
    return [
        policy
        for policy in (*range(len(estate.policies)), -1)
        if name in (addition_of(estate, policy) or Addition()).lists
    ]


def set_terms(edit: Editing, name: str, seen: str, given: Iterable[str]) -> Snapshot:
    """Make a list hold these terms, if it still holds those of the digest that was `seen`, "" for a
    new one.
    """
    lines = [line.strip() for line in given]
    fresh = tuple(tidied(lines))
    told = [(f"line {number + 1}", message) for number, message in term_problems(lines)]
    if problem := list_name_problem(name):
        told.insert(0, ("name", problem))
    if told:
        raise FieldsError(*told[:20])
    held = terms.keep(edit.database, edit.current.domain_id, fresh)
    return edit.change(lambda estate: _seen_terms(estate, name, seen, held))


def drop_terms(edit: Editing, name: str, seen: str) -> Snapshot:
    """Take a list away that no rule names."""

    def dropped(estate: Estate) -> Iterable[Operation]:
        if name not in estate.domain.term_lists:
            raise NotFoundError(f"There is no list “{name[:60]}” any more.")
        users = users_of(estate, name)
        if users:
            who = estate.policies[users[0]].name if users[0] >= 0 else "the domain policy"
            raise ConflictError(f"{who} blocks its terms. Take it out of that rule first.")
        return _seen_terms(estate, name, seen, None)

    return edit.change(dropped)


def _seen_terms(
    estate: Estate, name: str, seen: str, wanted: TermList | None
) -> Iterable[Operation]:
    held = estate.domain.term_lists.get(name)
    if held and not seen:
        raise ConflictError(
            f"There is a list “{name[:60]}” already. Open that one, or choose another name."
        )
    if (held.digest if held else "") != seen:
        raise ChangedMeanwhileError(
            f"Nothing was done: the list “{name[:60]}” is another one by now. Look at it as it is "
            "before going on."
        )
    return term_edits(estate, {name: wanted})
