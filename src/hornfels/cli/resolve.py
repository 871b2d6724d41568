"""`hornfels resolve`: who gets which policy, from a dump, without a database."""

from __future__ import annotations

import sys
from collections.abc import Iterator, Sequence
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from hornfels.cli.errors import fail, json_line, note, opened, say
from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import Estate, LinkedGroups
from hornfels.core.resolution.engine import DOMAIN_POLICY, bringing_groups, resolve
from hornfels.core.resolution.listing import listed
from hornfels.core.resolution.roster import Roster
from hornfels.core.values.time import moment_from_datetime
from hornfels.formats.accounts_table import accounts_table
from hornfels.formats.dump import DumpError, LdifError, load_dump


def read_estate(
    file: Path,
    linked_groups: LinkedGroups,
    *,
    names_only: bool = False,
    other_names: bool = False,
) -> Estate:
    """The estate in a dump; notices go to standard error."""
    with opened(file) as source:
        try:
            dump = load_dump(
                source,
                linked_groups=linked_groups,
                names_only=names_only,
                other_names=other_names,
            )
        except (LdifError, DumpError) as error:
            fail(f"{file}: {error}")
        except OSError as error:
            fail(f"{file}: {error.strerror or error}")
    for notice in dump.notices:
        note(notice)
    return dump.estate


def account_row(estate: Estate, name: str, file: Path) -> int:
    row = estate.find_account(name)
    if row is None:
        fail(f"{file}: no account is named '{name}'; give its sAMAccountName or its full DN")
    return row


def print_resolution(
    file: Path, names: list[str], linked_groups: LinkedGroups, *, as_json: bool
) -> None:
    estate = read_estate(file, linked_groups)
    rows = _rows(estate, names, file)
    answers = _answers(estate, rows)
    if as_json:
        out = sys.stdout
        for answer in answers:
            out.write(json_line(answer) + "\n")
        return
    table: list[tuple[str, ...]] = [("account", "policy", "source", "through")]
    policy_names = {p.dn: p.name for p in estate.policies}
    group_names = dict(zip(estate.groups.dn, estate.groups.name, strict=True))
    for answer in answers:
        policy = (
            policy_names[answer["resultant_pso"]] if answer["resultant_pso"] else "domain policy"
        )
        table.append(
            (answer["account"], policy, answer["source"], group_names.get(answer["via"], ""))
        )
    _print_table(table)


def print_accounts(file: Path, names: list[str], linked_groups: LinkedGroups) -> None:
    """The accounts of a dump as comma-separated values, as they stand now."""
    estate = read_estate(file, linked_groups)
    rows, resolution = _rows(estate, names, file), resolve(estate)
    now = moment_from_datetime(datetime.now(UTC))
    found = listed(estate, resolution, Roster(estate, resolution), rows, now)
    sys.stdout.write(accounts_table(estate, found))


def _rows(estate: Estate, names: list[str], file: Path) -> Sequence[int]:
    """The rows of the accounts that are named, or of all."""
    if not names:
        return range(len(estate.accounts))
    return [account_row(estate, name, file) for name in names]


def _answers(estate: Estate, rows: Any) -> Iterator[dict[str, Any]]:
    resolution = resolve(estate)
    via = bringing_groups(estate, resolution)
    plain = {p: settings_of(estate, p).plain() for p in range(DOMAIN_POLICY, len(estate.policies))}
    for row in rows:
        population = resolution.population[row]
        policy = int(resolution.winners[population])
        yield {
            "account": estate.accounts.name[row],
            "dn": estate.accounts.dn[row],
            "resultant_pso": estate.policies[policy].dn if policy >= 0 else None,
            "source": resolution.stacks[population].source,
            "via": estate.groups.dn[int(via[row])] if via[row] >= 0 else None,
            "settings": plain[policy],
        }


def _print_table(rows: list[tuple[str, ...]]) -> None:
    widths = [max(len(row[i]) for row in rows) for i in range(len(rows[0]))]
    for row in rows:
        say("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())
