"""`hornfels try`: a stream of candidate passwords against one account of a dump, in bounded
memory.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Sequence
from datetime import UTC, datetime
from functools import partial
from io import BufferedIOBase
from itertools import groupby
from pathlib import Path
from typing import Any, cast

from hornfels.cli.errors import fail, json_line, opened, say
from hornfels.cli.lines import blocks
from hornfels.cli.moments import moment_given
from hornfels.cli.resolve import account_row, read_estate
from hornfels.core.domain.account_state import settings_of
from hornfels.core.domain.estate import LinkedGroups
from hornfels.core.passwords.characters import Candidate
from hornfels.core.passwords.judge import Judge, Verdict, compile_policy
from hornfels.core.passwords.rules.rule import (
    Judgement,
    Occasion,
    Operation,
    Rule,
    Subject,
    subject_of,
)
from hornfels.core.passwords.stream import Stream
from hornfels.core.resolution.engine import winners
from hornfels.core.values.text import printable
from hornfels.core.values.time import moment_from_datetime


def _previous(file: Path) -> list[str]:
    with opened(file) as source:
        try:
            text = source.read().decode("utf-8")
        except UnicodeDecodeError:
            fail(f"{file}: not UTF-8 text")
    # Only the line feed separates: other line separators may stand inside a password.
    read = (_json_string(line, f"{file}, line {n}") for n, line in enumerate(text.split("\n"), 1))
    return [password for password in read if password is not None]


def _earlier(previous: Path | None, present: Path | None) -> list[str] | None:
    """The passwords that the account has had, the present one first; None if none is known."""
    found = _previous(previous) if previous else None
    if present is None:
        return found
    given = _previous(present)
    if len(given) != 1:
        fail(f"{present}: one JSON string is expected, the present password; here are {len(given)}")
    return given if not found else [*given, *(found[1:] if found[0] == given[0] else found)]


def print_verdicts(
    file: Path,
    name: str,
    operation: Operation,
    *,
    previous: Path | None,
    last_set: str | None,
    now: str | None,
    linked_groups: LinkedGroups,
    policies: Path | None,
    corpora: Sequence[str],
    present: Path | None,
    json_input: bool,
    as_json: bool,
) -> None:
    """Judge each candidate of standard input. With `policies`, a policy file, under the policies as
    it has them, with their additions.
    """
    moment_now = moment_given("--now", now) if now else moment_from_datetime(datetime.now(UTC))
    moment_set = moment_given("--last-set", last_set) if last_set else None
    earlier = _earlier(previous, present)
    estate = read_estate(file, linked_groups, other_names=policies is not None)
    row = account_row(estate, name, file)
    subject = subject_of(estate, row)
    beyond: tuple[Rule, ...] = ()
    if corpora and policies is None:
        fail("--corpus: only additions look things up in corpora; give a policy file (--policies)")
    if policies is not None:
        # Reading policies as text takes as long to load as all else here together.
        from hornfels.cli.try_policies import under_file

        estate, beyond = under_file(policies, corpora, estate, row)
    policy = int(winners(estate)[row])
    rules = (*compile_policy(settings_of(estate, policy)), *beyond)
    moment = Occasion(
        operation,
        moment_now,
        int(estate.accounts.password_set[row]) if moment_set is None else moment_set,
        earlier,
    )
    if not as_json:
        say(f"{subject.name}: {estate.policies[policy].name if policy >= 0 else 'domain policy'}")
    read = _json_string if json_input else _as_typed
    judge = (
        json_lines(rules, subject, moment, with_source=policies is not None)
        if as_json
        else Judge(rules, subject, moment, _lines)
    )
    answer_stream(
        cast(BufferedIOBase, sys.stdin.buffer), sys.stdout.write, sys.stdout.flush, read, judge
    )


def json_lines(
    rules: Sequence[Rule], subject: Subject, moment: Occasion, *, with_source: bool
) -> Callable[[Candidate], str]:
    """Judges to a line of JSON. `with_source` says of each rule who judges by it, and on which path
    of an addition.
    """
    stream = Stream(rules, subject, moment, partial(_as_json, with_source=with_source), ", ")
    heads = {True: '{"accepted": true, "rules": [', False: '{"accepted": false, "rules": ['}

    def line(candidate: Candidate) -> str:
        accepted, written = stream(candidate)
        return f"{heads[accepted]}{written}]}}\n"

    return line


def answer_stream(
    source: BufferedIOBase,
    write: Callable[[str], object],
    flush: Callable[[], None],
    read: Callable[[str, str], str | None],
    judge: Callable[[Candidate], str],
) -> None:
    """Answer every line that is there at once, then wait for more: quick for files, prompt for
    whoever waits for each answer.
    """
    for number, lines in blocks(source):
        answers: list[str] = []
        try:
            for n, line in enumerate(lines, number):
                text = read(line, f"standard input, line {n}")
                if text is not None:
                    answers.append(judge(Candidate(text)))
        finally:
            # What stood before an unreadable line is answered all the same.
            write("".join(answers))
            flush()


def _as_typed(line: str, _place: str) -> str:
    return line.removesuffix("\r")


def _json_string(line: str, place: str) -> str | None:
    """The string that a line of JSON stands for; None for an empty line."""
    if not line.strip():
        return None
    try:
        value = json.loads(line)
    except ValueError:
        fail(f"{place}: not a JSON string; put the password in double quotes and escape it as JSON")
    if not isinstance(value, str):
        fail(f"{place}: not a JSON string but {type(value).__name__}")
    return value


def _as_json(f: Judgement, *, with_source: bool) -> str:
    answer: dict[str, Any] = {
        "rule": f.rule,
        "passed": f.passed,
        "detail": f"{f.detail}: {f.repair}" if f.repair else f.detail,
        **(_source(f) if with_source else {}),
    }
    return json_line(answer)


def _source(judgement: Judgement) -> dict[str, str]:
    if judgement.path:
        return {"by": "hornfels", "path": judgement.path}
    return {"by": "directory"}


_SIGNS = {"passed": "✓", "failed": "✕", "not asked": "–", "not checkable": "?"}


def _lines(verdict: Verdict) -> str:
    how = (
        "refused"
        if not verdict.accepted
        else "accepted"
        if verdict.certain
        else "accepted as far as can be checked"
    )
    said = []
    for path, judgements in groupby(verdict.judgements, key=lambda f: f.path):
        if path:
            said.append(f"  Hornfels, as a {path}:")
        said += [
            printable(
                f"  {_SIGNS[f.status]} {f.rule.replace('_', ' '):<12}  "
                f"{f.detail}{': ' + f.repair if f.repair else ''}"
            )
            for f in judgements
        ]
    return "\n".join([how, *said, ""])
