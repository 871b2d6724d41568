"""The drill: one story at several accounts and policies, as a place has them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from hornfels.core.domain.account_state import settings_of
from hornfels.core.lockout.notation import LONGEST, NotationError, read_story
from hornfels.core.lockout.ready_made import READY_MADE, ReadyMade
from hornfels.core.lockout.story import Event, Played, Story, in_order, play
from hornfels.core.values.time import TICKS_PER_SECOND
from hornfels.refusals import FieldsError
from hornfels.service.naming import policy_number
from hornfels.service.snapshots import Snapshot


@dataclass(frozen=True, slots=True)
class Subject:
    """Whom a story happens to: an account's name, or anybody under a policy (by number)."""

    account: str | None
    policy: int


@dataclass(frozen=True, slots=True)
class Drilled:
    """What becomes of a story at one of them; ``lesson`` is "" for a story of one's own."""

    subject: Subject
    played: Played
    lesson: str


def subjects(
    current: Snapshot, accounts: Iterable[str], policies: Iterable[str]
) -> tuple[list[Subject], list[str]]:
    """Those that are named, and the names of those that are not there."""
    found, unknown = [], []
    for name in dict.fromkeys(accounts):
        row = current.estate.find_account(name)
        if row is None:
            unknown.append(name)
        else:
            policy = int(current.resolution.winner_of_account[row])
            found.append(Subject(current.estate.accounts.name[row], policy))
    for key in dict.fromkeys(policies):
        number = policy_number(current, key)
        if number is None:
            unknown.append(key)
        else:
            found.append(Subject(None, number))
    return found, unknown


def as_written(text: str) -> Story:
    try:
        return read_story(text)
    except NotationError as error:
        raise FieldsError(("story", str(error))) from None


def as_placed(events: Iterable[Event]) -> Story:
    """Events as somebody has placed them, their moments in ticks."""
    story = in_order(events)
    if story and not 0 <= story[0].at <= story[-1].at <= LONGEST:
        longest = LONGEST // TICKS_PER_SECOND
        raise FieldsError(("events", f"An event happens from 0 to {longest:,} s after the start."))
    return story


def ready_made(key: str) -> ReadyMade:
    found = next((ready for ready in READY_MADE if ready.key == key), None)
    if found is None:
        known = ", ".join(ready.key for ready in READY_MADE)
        raise FieldsError(("ready", f"There is no such story. There are {known}."))
    return found


def drill(
    current: Snapshot, who: Iterable[Subject], story: Story, ready: ReadyMade | None = None
) -> list[Drilled]:
    """Play a story at each of them."""
    drilled = []
    for subject in who:
        played = play(story, settings_of(current.estate, subject.policy))
        drilled.append(Drilled(subject, played, ready.lesson(played) if ready else ""))
    return drilled
