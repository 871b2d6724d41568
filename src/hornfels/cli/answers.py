"""`hornfels resolve` and `hornfels try`: answers from a dump, without a database."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from hornfels.cli.errors import fail, opened
from hornfels.core.account_state import settings_of
from hornfels.core.estate import Estate, LinkedGroups
from hornfels.core.resolution import DOMAIN_POLICY, bringing_groups, resolve, winners
from hornfels.core.time import moment_from_datetime
from hornfels.core.verdict import Moment, Operation, Subject, Verdict, compile_policy, judge
from hornfels.formats.dump import DumpError, LdifError, load_dump


def read_estate(file: Path, linked_groups: LinkedGroups) -> Estate:
    """The estate in a dump; notices go to standard error."""
    with opened(file) as source:
        try:
            dump = load_dump(source, linked_groups=linked_groups)
        except (LdifError, DumpError) as error:
            fail(f"{file}: {error}")
        except OSError as error:
            fail(f"{file}: {error.strerror or error}")
    for notice in dump.notices:
        print(f"hornfels: note: {notice}", file=sys.stderr)
    return dump.estate


def _account(estate: Estate, name: str, file: Path) -> int:
    row = estate.find_account(name)
    if row is None:
        fail(f"{file}: no account is named '{name}'; give its sAMAccountName or its full DN")
    return row


def print_resolution(file: Path, names: list[str], linked_groups: LinkedGroups, *, as_json: bool) -> None:
    estate = read_estate(file, linked_groups)
    rows = [_account(estate, name, file) for name in names] if names else range(len(estate.accounts))
    answers = _answers(estate, rows)
    if as_json:
        out = sys.stdout
        for answer in answers:
            out.write(json.dumps(answer, ensure_ascii=False) + "\n")
        return
    table: list[tuple[str, ...]] = [("account", "policy", "source", "through")]
    policy_names = {p.dn: p.name for p in estate.policies}
    group_names = dict(zip(estate.groups.dn, estate.groups.name, strict=True))
    for answer in answers:
        policy = policy_names[answer["resultant_pso"]] if answer["resultant_pso"] else "domain policy"
        table.append((answer["account"], policy, answer["source"], group_names.get(answer["via"], "")))
    _print_table(table)


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
        print("  ".join(cell.ljust(width) for cell, width in zip(row, widths, strict=True)).rstrip())


def _moment(text: str, option: str) -> int:
    try:
        return moment_from_datetime(datetime.fromisoformat(text))
    except ValueError:
        fail(f"{option}: '{text}' is not an ISO 8601 date and time, such as 2026-03-01T08:00:00+01:00")


def _json_string(line: str, place: str) -> str:
    try:
        value = json.loads(line)
    except ValueError:
        fail(f"{place}: not a JSON string; put the password in double quotes and escape it as JSON")
    if not isinstance(value, str):
        fail(f"{place}: not a JSON string but {type(value).__name__}")
    return value


def _previous(file: Path) -> list[str]:
    with opened(file) as source:
        try:
            text = source.read().decode("utf-8")
        except UnicodeDecodeError:
            fail(f"{file}: not UTF-8 text")
    # Only the line feed separates: other line separators may stand inside a password.
    return [_json_string(line, f"{file}, line {n}") for n, line in enumerate(text.split("\n"), 1) if line.strip()]


def _candidates(*, json_input: bool) -> Iterator[str]:
    for number, raw in enumerate(sys.stdin.buffer, 1):
        place = f"standard input, line {number}"
        try:
            line = raw.decode("utf-8")
        except UnicodeDecodeError:
            fail(f"{place}: not UTF-8 text")
        if json_input:
            if line.strip():
                yield _json_string(line, place)
        else:
            yield line.removesuffix("\n").removesuffix("\r")


def print_verdicts(
    file: Path,
    name: str,
    operation: Operation,
    *,
    previous: Path | None,
    last_set: str | None,
    now: str | None,
    linked_groups: LinkedGroups,
    json_input: bool,
    as_json: bool,
) -> None:
    moment_now = _moment(now, "--now") if now else moment_from_datetime(datetime.now(UTC))
    moment_set = _moment(last_set, "--last-set") if last_set else None
    earlier = _previous(previous) if previous else None
    estate = read_estate(file, linked_groups)
    row = _account(estate, name, file)
    policy = int(winners(estate)[row])
    rules = compile_policy(settings_of(estate, policy))
    subject = Subject(estate.accounts.name[row], estate.accounts.display_name[row])
    moment = Moment(operation, moment_now, int(estate.accounts.password_set[row]) if moment_set is None else moment_set, earlier)
    if not as_json:
        print(f"{subject.name}: {estate.policies[policy].name if policy >= 0 else 'domain policy'}")
    for candidate in _candidates(json_input=json_input):
        verdict = judge(rules, candidate, subject, moment)
        if as_json:
            sys.stdout.write(json.dumps(_plain(verdict), ensure_ascii=False) + "\n")
        else:
            _print_verdict(verdict)
        sys.stdout.flush()


def _plain(verdict: Verdict) -> dict[str, Any]:
    return {
        "accepted": verdict.accepted,
        "rules": [
            {"rule": f.rule, "passed": f.passed, "detail": f"{f.detail}: {f.repair}" if f.repair else f.detail}
            for f in verdict.findings
        ],
    }


_SIGNS = {"passed": "✓", "failed": "✕", "not asked": "–", "not checkable": "?"}


def _print_verdict(verdict: Verdict) -> None:
    print(
        "accepted"
        if verdict.certain and verdict.accepted
        else "accepted as far as can be checked"
        if verdict.accepted
        else "refused"
    )
    for f in verdict.findings:
        print(f"  {_SIGNS[f.status]} {f.rule.replace('_', ' '):<12}  {f.detail}{': ' + f.repair if f.repair else ''}")
