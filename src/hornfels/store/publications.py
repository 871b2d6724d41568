"""What is being written into a directory: every step is written down before it is begun and after
it is done, so that whoever comes after a crash knows where to look.
"""

from __future__ import annotations

from collections.abc import Iterable
from uuid import UUID

from pydantic import TypeAdapter
from sqlalchemy import Engine, select, update
from sqlalchemy.orm import Session

from hornfels.formats.writes import Step
from hornfels.store.models import PublicationRow, PublicationStepRow

UNFINISHED = ("going", "stopped")
_STEP: TypeAdapter[Step] = TypeAdapter(Step)


def add(
    session: Session, domain_id: int, draft_id: int, author: str, steps: Iterable[Step]
) -> PublicationRow:
    row = PublicationRow(domain_id=domain_id, draft_id=draft_id, author=author)
    session.add(row)
    session.flush()
    session.add_all(
        PublicationStepRow(
            publication_id=row.id, number=number, step=_STEP.dump_python(step, mode="json")
        )
        for number, step in enumerate(steps)
    )
    session.flush()
    return row


def unfinished(
    session: Session, domain_id: int, *, for_writing: bool = False
) -> PublicationRow | None:
    """What is being written into the domain's directory, or has stopped on the way."""
    asked = select(PublicationRow).where(
        PublicationRow.domain_id == domain_id, PublicationRow.state.in_(UNFINISHED)
    )
    if for_writing:
        asked = asked.with_for_update().execution_options(populate_existing=True)
    return session.scalars(asked.order_by(PublicationRow.id.desc()).limit(1)).one_or_none()


def steps_of(session: Session, publication: int) -> list[tuple[PublicationStepRow, Step]]:
    """The steps in their order, as they stand by now."""
    asked = (
        select(PublicationStepRow)
        .where(PublicationStepRow.publication_id == publication)
        .order_by(PublicationStepRow.number)
        .execution_options(populate_existing=True)
    )
    return [(row, _STEP.validate_python(row.step)) for row in session.scalars(asked)]


def mark(
    engine: Engine, publication: int, number: int, state: str, guid: UUID | None = None
) -> None:
    """Write down how a step stands, at once."""
    where = (
        PublicationStepRow.publication_id == publication,
        PublicationStepRow.number == number,
    )
    values = {"state": state, **({"guid": guid} if guid else {})}
    with Session(engine) as session, session.begin():
        session.execute(update(PublicationStepRow).where(*where).values(**values))
