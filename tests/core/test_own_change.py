"""What can be said of a person's own change, and what a directory's refusal means."""

from __future__ import annotations

from dataclasses import replace

import pytest

from hornfels.core.passwords.judge import compile_policy, judge
from hornfels.core.passwords.own_change import (
    as_far_as_known,
    own_change,
    refused_by,
    refused_by_some,
)
from hornfels.core.passwords.rules.rule import Subject
from hornfels.core.policy.model import DEFAULTS, Settings
from hornfels.core.values.time import DAY
from hornfels.directory.person import ChangeRefused, change_refused
from hornfels.directory.reach import DirectoryError

NOW = 134_000_000_000_000_000
PLAIN = replace(DEFAULTS, min_length=8, complexity=False, history_length=24, min_age=0)
ILSE = Subject("ilse.varga", "Ilse Varga")


def status(settings: Settings, candidate: str, present: str) -> str:
    occasion = own_change(NOW, NOW - 30 * DAY, present)
    said = as_far_as_known(judge(compile_policy(settings), candidate, ILSE, occasion), settings)
    return next(one.status for one in said.judgements if one.rule == "history")


def test_the_present_password_alone_does_not_stand_for_all_that_is_remembered() -> None:
    assert status(PLAIN, "another one", "present one") == "not checkable"
    assert status(PLAIN, "another one", "") == "not checkable"
    assert status(PLAIN, "present one", "present one") == "failed"
    assert status(replace(PLAIN, history_length=1), "another one", "present one") == "passed"
    assert status(replace(PLAIN, history_length=0), "present one", "present one") == "not asked"


def test_a_refusal_that_names_no_rule_is_told_by_what_is_left() -> None:
    assert "one of your last 24 passwords" in refused_by_some(PLAIN)
    assert "may have been changed" in refused_by_some(replace(PLAIN, history_length=0))
    assert "last 24 passwords" in refused_by("history", PLAIN)
    assert "too short" in refused_by("length", PLAIN)


@pytest.mark.parametrize(
    ("code", "info", "meant"),
    [
        (19, "0000052D: AtrErr: DSID-03191083, #1: problem 1005 (CONSTRAINT_ATT_TYPE)", "rules"),
        (53, "0000052D: SvcErr: DSID-031A12D2, problem 5003 (WILL_NOT_PERFORM), data 0", "rules"),
        (19, "0000052d: Constraint violation - the password is too short. 7!", "length"),
        (19, "0000052D: the password was already used (in history)!", "history"),
        (19, "0000052D: password is too young to change!", "minimum_age"),
        (19, "0000052D: the password does not meet the complexity criteria!", "complexity"),
        (19, "00000056: AtrErr: DSID-03191083, problem 1005", "present"),
        (19, "00000775: the account is locked out", "locked"),
        (50, "00002098: SecErr: insufficient access", "not allowed"),
        (53, "something else", None),
        (None, "", None),
    ],
)
def test_what_directories_say_is_understood(
    code: int | None, info: str, meant: ChangeRefused | None
) -> None:
    assert change_refused(DirectoryError("No.", code, info)) == meant
