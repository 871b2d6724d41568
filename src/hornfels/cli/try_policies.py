"""Policies as a file has them, for whoever tries candidates under them."""

from __future__ import annotations

from pathlib import Path

from hornfels.cli.policy_files import planned, read_file
from hornfels.core.domain.estate import Estate
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.passwords.rules.rule import Rule
from hornfels.core.resolution.engine import winners


def under_file(file: Path, estate: Estate, row: int) -> tuple[Estate, tuple[Rule, ...]]:
    """The estate as a policy file would have it, and the rules that the addition of an account's
    policy makes there. All that is wrong with the file ends the command.
    """
    found = planned(read_file(file), file, estate)
    policy = int(winners(found.estate)[row])
    return found.estate, Rulebook(found.estate, found.terms_of()).beyond(policy)
