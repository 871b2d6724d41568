"""Policies as a file has them, for whoever tries candidates under them."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from hornfels.cli.corpus import exposed_by
from hornfels.cli.policy_files import planned, read_file
from hornfels.core.domain.estate import Estate
from hornfels.core.passwords.additions import Lists
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.passwords.rules.rule import Rule
from hornfels.core.resolution.engine import winners


def under_file(
    file: Path, corpora: Sequence[str], estate: Estate, row: int
) -> tuple[Estate, tuple[Rule, ...]]:
    """The estate as a policy file would have it, and the rules that the addition of an account's
    policy makes there; corpora as ``NAME=FILE.hfc``. All that is wrong with the files ends the
    command.
    """
    found = planned(read_file(file), file, estate)
    policy = int(winners(found.estate)[row])
    lists = Lists(found.terms_of(), exposed_by(corpora))
    return found.estate, Rulebook(found.estate, lists).beyond(policy)
