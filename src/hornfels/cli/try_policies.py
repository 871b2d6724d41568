"""Policies as a file has them, for whoever tries candidates under them."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path

from hornfels.cli.errors import fail
from hornfels.cli.policy_files import planned, read_file
from hornfels.core.domain.estate import Estate
from hornfels.core.passwords.additions import Lists
from hornfels.core.passwords.rulebook import Rulebook
from hornfels.core.passwords.rules.rule import Rule
from hornfels.core.resolution.engine import winners
from hornfels.formats.corpus.layout import CorpusError
from hornfels.formats.corpus.reading import Corpus
from hornfels.formats.corpus.shelf import Part, exposed_in


def under_file(
    file: Path, corpora: Sequence[str], estate: Estate, row: int
) -> tuple[Estate, tuple[Rule, ...]]:
    """The estate as a policy file would have it, and the rules that the addition of an account's
    policy makes there; corpora as ``NAME=FILE.hfc``. All that is wrong with the files ends the
    command.
    """
    parts = dict(_corpus(given) for given in corpora)
    found = planned(read_file(file), file, estate)
    policy = int(winners(found.estate)[row])
    return found.estate, Rulebook(
        found.estate, Lists(found.terms_of(), partial(exposed_in, parts))
    ).beyond(policy)


def _corpus(given: str) -> tuple[str, list[Part]]:
    name, equals, file = given.partition("=")
    if not (name and equals and file):
        fail(f"--corpus {given}: give a name and a file, as in known=known.hfc")
    try:
        return name, [Part(file, Corpus(Path(file)))]
    except CorpusError as error:
        fail(f"{file}: {error}")
    except OSError as error:
        fail(f"{file}: {error.strerror or error}")
