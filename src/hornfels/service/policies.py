"""Policies in the draft that is shown: made, edited, removed, linked."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from uuid import UUID, uuid4

from hornfels.core.domain.estate import Estate
from hornfels.core.drafts.edits import (
    GONE,
    edits,
    find_target,
    fingerprint,
    index_of,
    removal,
    target_of,
)
from hornfels.core.drafts.operations import AddPolicy, LinkPolicy, Operation, Target, UnlinkPolicy
from hornfels.core.policy.catalogue import PlainValue, SettingKey
from hornfels.core.policy.model import Policy, PolicyRef, Problem, Settings, fresh_errors, problems
from hornfels.core.policy.starting_points import StartKey, starting_point
from hornfels.refusals import ChangedMeanwhileError, FieldsError, NotFoundError
from hornfels.service.editing import Editing, shown_draft
from hornfels.service.snapshots import Snapshot

Changes = Mapping[SettingKey, PlainValue]
"""Settings to change, spans in seconds; the others stay exactly as they are."""


class StalePolicyError(ChangedMeanwhileError):
    """Somebody else changed the policy in the same draft since it was read; ``current`` is how
    things stand.
    """

    def __init__(self, policy: PolicyRef, current: Snapshot) -> None:
        super().__init__(str(policy))
        self.policy = policy
        self.current = current


def create(
    edit: Editing,
    name: str,
    precedence: int,
    begin_with: StartKey | UUID,
    changes: Changes,
    links: Sequence[str],
    *,
    same_links: bool = False,
) -> tuple[UUID, Snapshot]:
    """Add a policy that begins with a starting point, or as a copy of a policy as it is by then,
    and where `same_links` with its links too.
    """
    guid = uuid4()
    targets = tuple(_target(edit.current, dn) for dn in links)

    def add(estate: Estate) -> Iterable[Operation]:
        held: tuple[Target, ...] = ()
        # What a directory holds already may be copied as it is.
        before: list[Problem] = []
        if isinstance(begin_with, UUID):
            index = index_of(estate, begin_with)
            settings, addition = estate.policies[index].settings, estate.policies[index].addition
            before = problems(settings)
            if same_links:
                held = tuple(target_of(link) for link in estate.links if link.policy == index)
        else:
            settings, addition = starting_point(begin_with).settings, None
        settings = settings.edited(changes)
        check(settings, precedence, before)
        yield AddPolicy(
            policy=guid,
            name=name,
            precedence=precedence,
            settings=settings,
            links=(*held, *targets),
            addition=addition,
        )

    return guid, edit.change(add)


def edit_policy(
    edit: Editing,
    guid: UUID,
    version: int,
    changes: Changes,
    *,
    name: str | None = None,
    precedence: int | None = None,
    guarded: bool | None = None,
) -> Snapshot:
    """Change what is given of a policy, if it is as it was when it was read."""

    def changed(estate: Estate) -> Iterator[Operation]:
        before = _seen(estate, guid, version, edit)
        settings = before.settings.edited(changes)
        number = before.precedence if precedence is None else precedence
        check(settings, number, problems(before.settings, before.precedence))
        return edits(
            estate, guid, name=name, precedence=precedence, guarded=guarded, settings=settings
        )

    return edit.change(changed)


def edit_domain_policy(edit: Editing, version: int, changes: Changes) -> Snapshot:
    """Change what is given of the domain policy, if it is as it was when it was read."""

    def changed(estate: Estate) -> Iterator[Operation]:
        expect_seen(estate, "domain", version, edit)
        before = estate.domain.settings
        settings = before.edited(changes)
        check(settings, None, problems(before))
        return edits(estate, "domain", settings=settings)

    return edit.change(changed)


def remove(edit: Editing, guid: UUID, version: int) -> None:
    """Take a policy away that is not guarded."""

    def removed(estate: Estate) -> list[Operation]:
        policy = _seen(estate, guid, version, edit)
        if policy.guarded:
            message = f"{policy.name} is guarded against deletion. Lift the guard first."
            raise FieldsError(("guarded", message))
        return [removal(estate, guid)]

    edit.change(removed)


def link(edit: Editing, guid: UUID, dn: str, version: int) -> Snapshot:
    """Link a policy to an account or group of the estate, by its DN."""
    target = _target(edit.current, dn)

    def linked(estate: Estate) -> list[Operation]:
        _seen(estate, guid, version, edit)
        return [LinkPolicy(policy=guid, target=target)]

    return edit.change(linked)


def unlink(edit: Editing, guid: UUID, dn: str, version: int) -> Snapshot:
    def unlinked(estate: Estate) -> list[Operation]:
        _seen(estate, guid, version, edit)
        known = next(
            (
                link
                for link in estate.links
                if link.dn == dn and estate.policies[link.policy].guid == guid
            ),
            None,
        )
        return [UnlinkPolicy(policy=guid, target=target_of(known) if known else Target(dn=dn))]

    return edit.change(unlinked)


def check(settings: Settings, precedence: int | None, before: list[Problem]) -> None:
    """Refuse errors that this edit would bring in. What a directory already held may stay
    as it is.
    """
    fresh = fresh_errors(settings, precedence, before)
    if fresh:
        raise FieldsError(*((p.field, p.message) for p in fresh))


def _seen(estate: Estate, guid: UUID, version: int, edit: Editing) -> Policy:
    """The policy as the draft has it, if that is the state the write was made for."""
    policy = next((p for p in estate.policies if p.guid == guid), None)
    if policy is None:
        raise NotFoundError(GONE)
    expect_seen(estate, guid, version, edit)
    return policy


def expect_seen(estate: Estate, policy: PolicyRef, version: int, edit: Editing) -> None:
    """Raises `StalePolicyError` unless a policy is the version that was seen."""
    if fingerprint(estate, policy) != version:
        draft = shown_draft(edit.current)
        edit.database.rollback()  # the draft is read anew, by another connection
        raise StalePolicyError(policy, edit.snapshots.with_draft(draft.live, draft.id))


def _target(current: Snapshot, dn: str) -> Target:
    found = find_target(current.estate, dn)
    if found is None:
        raise FieldsError(("link", f"There is no account or group '{dn}' in this domain."))
    return found
