"""How many machines agreed, day by day, as their templates were read again and again."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from datetime import date, datetime
from itertools import groupby
from typing import NamedTuple

from hornfels.core.policy.catalogue import Template
from hornfels.core.servers.agreement import Coverage, agreement


class Reading(NamedTuple):
    """A machine's template as it was found, None where it could not be read."""

    at: datetime
    machine: str
    template: Template | None


class Held(NamedTuple):
    """What machines are held against: the template of one of them, else the one that was agreed
    on, else what most of them say.
    """

    like: str | None = None
    agreed: Template | None = None

    def reference(self, machines: Mapping[str, Template | None]) -> Template | None:
        """The reference among machines as they are; None for what most say, which is also what a
        machine that cannot be read stands for.
        """
        return self.agreed if self.like is None else machines.get(self.like)


def course(readings: Iterable[Reading], held: Held) -> Iterator[tuple[date, Coverage]]:
    """How it stood at the end of each day on which a template was read, held against what counts
    now. The readings come in the order in which they were made.
    """
    machines: dict[str, Template | None] = {}
    for day, of_day in groupby(readings, key=lambda reading: reading.at.date()):
        machines |= {reading.machine: reading.template for reading in of_day}
        yield day, agreement(machines, held.reference(machines)).coverage
