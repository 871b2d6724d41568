"""Whether a directory resolves as we do: its own word beside ours, account by account."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, NamedTuple

from hornfels.core.domain.account_state import EXPIRES_NEVER
from hornfels.core.domain.estate import UNKNOWN_TIME, Estate
from hornfels.core.domain.wording import name_of
from hornfels.core.resolution.engine import DOMAIN_POLICY
from hornfels.core.resolution.explanation import explain
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.dn import loose_key
from hornfels.core.values.time import datetime_from_moment


class Word(NamedTuple):
    """What a directory says of an account: the DN of its fine-grained policy ("" for none), and
    when its password expires in ticks, None where it does not say ([MS-ADTS] 3.1.1.4.5.36,
    3.1.1.4.5.34).
    """

    policy: str
    expires: int | None


class Disagreement(NamedTuple):
    """One account of which a directory says something else, and our reason."""

    account: str
    about: Literal["policy", "expiry"]
    ours: str
    theirs: str
    reason: str


def disagreements(roster: Roster, words: Mapping[int, Word]) -> list[Disagreement]:
    """What the directory says otherwise of the accounts whose rows are given. Where both name
    another policy the expiry is not compared: it follows from that.
    """
    estate, resolution = roster.estate, roster.resolution
    found = []
    for row, word in words.items():
        name = estate.accounts.name[row]
        winner = int(resolution.winner_of_account[row])
        ours = estate.policies[winner].dn if winner != DOMAIN_POLICY else ""
        if loose_key(ours) != loose_key(word.policy):
            reason = explain(estate, resolution, row).reason
            told = _called(estate, word.policy)
            found.append(Disagreement(name, "policy", name_of(estate, winner), told, reason))
            continue
        at = int(roster.expires[row])
        if word.expires is None or at == UNKNOWN_TIME or at == word.expires:
            continue
        reason = f"By {name_of(estate, winner)} and the account's own flags."
        found.append(Disagreement(name, "expiry", _moment(at), _moment(word.expires), reason))
    return found


def _called(estate: Estate, dn: str) -> str:
    key = loose_key(dn)
    names = (policy.name for policy in estate.policies if loose_key(policy.dn) == key)
    return next(names, dn) if dn else "Domain policy"


def _moment(ticks: int) -> str:
    if ticks == EXPIRES_NEVER:
        return "never"
    if ticks == 0:
        return "must change now"
    moment = datetime_from_moment(ticks)
    return moment.isoformat(timespec="seconds") if moment else f"{ticks} ticks"
