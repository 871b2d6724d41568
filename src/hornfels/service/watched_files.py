"""Policy files that are kept on the machine, such as a repository's: how each and live have drifted
apart.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, datetime
from stat import S_ISREG

from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Estate
from hornfels.formats.policy_file.rewriting import rewrite
from hornfels.formats.policy_file.writing import write_policy_file
from hornfels.formats.yaml_tree import MOST_BYTES
from hornfels.refusals import ConflictError, FieldsError
from hornfels.service.policy_files import Planned, look
from hornfels.service.snapshots import Snapshot
from hornfels.settings import Settings
from hornfels.store import history
from hornfels.store.estates import successors_in

MOST_POINTS = 20
"""How far back in history the state is looked for that a file has."""


@dataclass(frozen=True, slots=True)
class Watched:
    """A domain's file, held against live: what it would change, or all that is ``wrong`` with it.
    ``behind_since`` is the moment from which live was as the file has it, where live was so once
    and has changed since; None where the file wants what live never was.
    """

    name: str
    data: bytes
    changed_at: datetime
    planned: Planned | None
    behind_since: datetime | None = None
    wrong: tuple[tuple[str, str], ...] = ()


def watched(database: Session, live: Snapshot, where: Settings) -> Watched | None:
    """The domain's file in the folder that is set; None if none is set, or none is there. Raises
    `ConflictError` for one that cannot be read.
    """
    if where.policies is None:
        return None
    file = where.policies / f"{live.estate.domain.dns_name}.yaml"
    try:
        found = file.stat()
        if not S_ISREG(found.st_mode):
            raise ConflictError(f"{file.name} is no file. Put the policy file in its place.")
        with file.open("rb") as source:
            data = source.read(MOST_BYTES + 1)
    except FileNotFoundError:
        return None
    except OSError as error:
        raise ConflictError(
            f"{file.name} cannot be read ({error.strerror}). Let the account that Hornfels runs as "
            "read it."
        ) from None
    changed_at = datetime.fromtimestamp(found.st_mtime, UTC)
    try:
        planned = look(database, live, data)
    except FieldsError as error:
        return Watched(file.name, data, changed_at, None, wrong=error.problems)
    behind = _once(database, live, planned) if planned.wanted.operations else None
    return Watched(file.name, data, changed_at, planned, behind)


def _once(database: Session, live: Snapshot, planned: Planned) -> datetime | None:
    """From when on live was as the file has it, lately; None if it was not."""
    successors = successors_in(database, live.domain_id)
    wanted = _text(planned.wanted.estate)
    for point in history.points(database, live.domain_id)[:MOST_POINTS]:
        if _text(history.estate_at(point, live.estate, successors)) == wanted:
            return point.at
    return None


def _text(estate: Estate) -> str:
    return "".join(write_policy_file(estate))


def brought_up_to_date(one: Watched, live: Snapshot) -> bytes:
    """The file as it says what live is by now, its comments kept. Raises `ConflictError` for one
    that is wrong.
    """
    if one.planned is None:
        raise ConflictError(f"{one.name} is wrong. Mend it first.")
    return rewrite(one.data, live.estate)
