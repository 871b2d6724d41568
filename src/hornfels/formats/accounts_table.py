"""Accounts as a table for a spreadsheet."""

from __future__ import annotations

from collections.abc import Iterable

from hornfels.core.domain.estate import Estate
from hornfels.core.resolution.engine import Source
from hornfels.core.resolution.listing import Listed
from hornfels.core.values.time import datetime_from_moment
from hornfels.formats.table import write_table

HEADINGS = (
    "Account",
    "Display name",
    "Policy",
    "Why",
    "Through group",
    "Decided by a tie",
    "Password set (UTC)",
    "Password expires (UTC)",
    "Expiry",
    "Bad tries",
    "Locked",
    "Flags",
    "Container",
)

_WHY: dict[Source, str] = {
    "account": "linked to the account",
    "group": "linked to a group",
    "domain": "no other policy reaches it",
    "exempt": "exempt from fine-grained policies",
}


def accounts_table(estate: Estate, accounts: Iterable[Listed]) -> str:
    """The accounts as comma-separated values, in the order given."""
    return write_table(HEADINGS, (_cells(estate, account) for account in accounts))


def _cells(estate: Estate, account: Listed) -> tuple[str, ...]:
    end = _moment(account.expires_at)
    expiry_word = {
        "never": "never",
        "now": "expired" if end else "must change",
        "unknown": "unknown",
        "at": "",
    }
    policy = account.policy
    return (
        estate.accounts.name[account.row],
        estate.accounts.display_name[account.row],
        estate.policies[policy].name if policy >= 0 else "Domain policy",
        _WHY[account.source],
        estate.groups.name[account.through] if account.through >= 0 else "",
        "yes" if account.tie else "",
        _moment(account.set_at),
        end,
        expiry_word[account.expiry],
        str(account.bad_tries),
        "yes" if account.locked else "",
        "; ".join(effect.flag for effect in account.flags),
        account.container,
    )


def _moment(moment: int) -> str:
    at = datetime_from_moment(moment) if moment > 0 else None
    return at.isoformat() if at else ""
