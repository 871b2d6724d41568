"""`hornfels load`: a dump into the database."""

from __future__ import annotations

import sys
from pathlib import Path

from hornfels.cli.errors import fail, opened, say
from hornfels.cli.people import COMMAND, changing
from hornfels.core.domain.estate import LinkedGroups
from hornfels.formats.dump import Dump, DumpError, LdifError, load_dump
from hornfels.refusals import ConflictError
from hornfels.service import acts, import_review
from hornfels.store.estates import save_dump
from hornfels.store.trail import note


def load_file(file: Path, linked_groups: LinkedGroups, smaller: str) -> None:
    """Store the domain of a dump, also a dump that takes protection away if `smaller` says why."""
    with opened(file) as source:
        try:
            dump = load_dump(
                source,
                linked_groups=linked_groups,
                other_names=True,
                progress=_show_progress,
            )
        except (LdifError, DumpError) as error:
            fail(f"{file}: {error}; nothing was stored")
    with changing() as session:
        estate = dump.estate
        try:
            import_review.refuse_dump(session, estate.domain.dns_name)
            lost = import_review.review(session, estate, file.name)
        except ConflictError as error:
            fail(f"{file}: {error}")
        words = "".join(f"\n  {one}" for one in import_review.in_words(import_review.as_json(lost)))
        if lost and acts.second_needed(session, estate.domain.dns_name):
            fail(
                f"{file}: the domain would lose protection, and a second person has to confirm "
                f"that. Nothing was stored. Upload the file in Hornfels (Sources).{words}"
            )
        if lost and not smaller:
            fail(
                f"{file}: the domain would lose protection. Nothing was stored. Give the reason "
                f"with --smaller if this is meant.{words}"
            )
        if lost:
            note(session, "act: load", file.name, losses=words.split("\n  ")[1:], reason=smaller)
        try:
            save_dump(session, dump, file.name, COMMAND)
        except DumpError as error:
            fail(f"{file}: {error}; nothing was stored")
    _clear_progress()
    say(f"{dump.estate.domain.dns_name}: {_counted(dump)}.")
    for notice in dump.notices:
        say(f"  note: {notice}")


def _counted(dump: Dump) -> str:
    e = dump.estate
    edges = len(e.memberships.account) + len(e.memberships.child)
    return (
        f"{len(e.accounts):,} accounts, {len(e.groups):,} groups, {edges:,} memberships, "
        f"{len(e.policies):,} policies"
    )


def _show_progress(count: int) -> None:
    if sys.stderr.isatty():
        print(f"\r{count:,} entries read", end="", file=sys.stderr, flush=True)


def _clear_progress() -> None:
    if sys.stderr.isatty():
        print("\r\033[K", end="", file=sys.stderr, flush=True)
