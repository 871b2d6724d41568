"""Files on their way to a worker, which may run on another machine: in parts, in the database."""

from __future__ import annotations

import uuid
import zlib
from uuid import UUID

from sqlalchemy import Engine, func, select, update
from sqlalchemy.orm import Session

from hornfels.store.models import UploadPartRow, UploadRow

PART = 1 << 20
"""Bytes of a part before it is packed."""
_FAST = 1


def begin(session: Session, name: str) -> UUID:
    upload = UploadRow(id=uuid.uuid4(), name=name)
    session.add(upload)
    session.flush()
    return upload.id


def add(session: Session, upload: UUID, number: int, part: bytes) -> None:
    """Keep one part; parts are numbered from 0."""
    session.add(UploadPartRow(upload_id=upload, number=number, packed=zlib.compress(part, _FAST)))
    session.execute(update(UploadRow).where(UploadRow.id == upload).values(at=func.now()))


def finish(session: Session, upload: UUID, size: int) -> None:
    session.execute(
        update(UploadRow).where(UploadRow.id == upload).values(size=size, at=func.now())
    )


def drop(session: Session, upload: UUID) -> None:
    row = session.get(UploadRow, upload)
    if row:
        session.delete(row)


class UploadReader:
    """Reads an upload like a file, part by part, without holding a connection in between."""

    def __init__(self, engine: Engine, upload: UUID) -> None:
        self._engine, self._upload = engine, upload
        self._number, self._rest = 0, b""
        self.at = 0
        """Bytes read so far."""

    def read(self, size: int) -> bytes:
        if not self._rest:
            self._rest = self._part()
        data, self._rest = self._rest[:size], self._rest[size:]
        self.at += len(data)
        return data

    def _part(self) -> bytes:
        wanted = select(UploadPartRow.packed).where(
            UploadPartRow.upload_id == self._upload, UploadPartRow.number == self._number
        )
        with Session(self._engine) as session:
            packed = session.scalar(wanted)
        self._number += 1
        return zlib.decompress(packed) if packed else b""
