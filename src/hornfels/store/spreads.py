"""Shorter maximum ages that are brought in over weeks: who is told when, and how far that is."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from typing import Literal

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from hornfels.core.domain.estate import Int64
from hornfels.core.drafts.spread import Risk
from hornfels.store.models import SpreadRow

State = Literal["running", "stopped", "done"]
WaveState = Literal["waiting", "begun", "done"]
_SHAPE = np.dtype([("rid", "<i8"), ("set_at", "<i8"), ("wave", "<i2")])


@dataclass(frozen=True, slots=True)
class Wave:
    """How many accounts are told in a wave, by their risk, how many passwords end by themselves in
    its week; how far it is, on which day (ISO) it was carried out, what came of it, and at which
    point in history.
    """

    told: dict[Risk, int]
    by_themselves: int
    state: WaveState = "waiting"
    done_on: str | None = None
    said: str = ""
    point: int | None = None


@dataclass(frozen=True, eq=False)
class Members:
    """Who is told: RIDs, when the password was set that was read, and the wave of each."""

    rid: Int64
    set_at: Int64
    wave: Int64


def packed(members: Members) -> bytes:
    table = np.empty(len(members.rid), _SHAPE)
    table["rid"], table["set_at"], table["wave"] = members.rid, members.set_at, members.wave
    return zlib.compress(table.tobytes(), 1)


def members_of(row: SpreadRow) -> Members:
    table = np.frombuffer(zlib.decompress(row.accounts), _SHAPE)
    rid, set_at, wave = (table[name].astype(np.int64) for name in ("rid", "set_at", "wave"))
    return Members(rid, set_at, wave)


def waves_of(row: SpreadRow) -> list[Wave]:
    return [Wave(**written) for written in row.waves]


def set_wave(row: SpreadRow, number: int, wave: Wave) -> None:
    row.waves = [asdict(wave) if n == number else one for n, one in enumerate(row.waves)]


def written(waves: Sequence[Wave]) -> list[dict[str, object]]:
    return [asdict(wave) for wave in waves]


def running(session: Session, domain_id: int, *, for_writing: bool = False) -> SpreadRow | None:
    """The one that is under way in a domain, if one is."""
    asked = select(SpreadRow).where(SpreadRow.domain_id == domain_id, SpreadRow.state == "running")
    return session.scalars(asked.with_for_update() if for_writing else asked).one_or_none()


def latest(session: Session, domain_id: int, most: int) -> Sequence[SpreadRow]:
    """The latest ones, the latest first."""
    asked = select(SpreadRow).where(SpreadRow.domain_id == domain_id)
    return session.scalars(asked.order_by(SpreadRow.id.desc()).limit(most)).all()
