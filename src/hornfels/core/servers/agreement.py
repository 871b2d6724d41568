"""Where templates of machines agree with one another or with a reference, setting by setting."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS, Template, TemplateKey, Value

Answer = tuple[Value, ...]
"""What a template says of a setting: nothing (empty), or one value."""


class Row(NamedTuple):
    """One setting: what each template says of it, what is wanted of all, and how many say that.
    ``tied`` where what is wanted is what most say, and another answer is given as often.
    """

    key: TemplateKey
    answers: tuple[Answer, ...]
    wanted: Answer
    like: int
    tied: bool

    @property
    def agree(self) -> bool:
        """Whether all say what is wanted."""
        return self.like == len(self.answers)


def answer(template: Template, key: TemplateKey) -> Answer:
    return (template[key],) if key in template else ()


def compared(templates: Sequence[Template], reference: Template | None = None) -> list[Row]:
    """A row for each setting of which any of the templates, or the reference, says something. What
    is wanted is what the reference says, without one what most say; of answers given equally often
    the one that is given first.
    """
    among = [*templates, reference or {}]
    rows = []
    for key in TEMPLATE_SETTINGS:
        if not any(key in template for template in among):
            continue
        answers = tuple(answer(template, key) for template in templates)
        counts = Counter(answers)
        ranked = [*counts.most_common(2), ((), 0)]
        wanted = ranked[0][0] if reference is None else answer(reference, key)
        tied = reference is None and len(counts) > 1 and ranked[0][1] == ranked[1][1]
        rows.append(Row(key, answers, wanted, counts[wanted], tied))
    return rows


def majority(templates: Sequence[Template]) -> Template:
    """What most templates say of each setting; a setting of which most say nothing is left out."""
    return {row.key: row.wanted[0] for row in compared(templates) if row.wanted}


class Coverage(NamedTuple):
    """How many machines say all that is wanted, how many something else, and of how many the
    template could not be read.
    """

    agree: int
    differ: int
    unread: int

    @property
    def machines(self) -> int:
        return sum(self)


@dataclass(frozen=True, slots=True)
class Agreement:
    """Machines held against one another. ``odd`` are the settings in which each machine that could
    be read differs; ``wanted`` is what all should say.
    """

    rows: tuple[Row, ...]
    odd: Mapping[str, tuple[TemplateKey, ...]]
    unread: tuple[str, ...]

    @property
    def wanted(self) -> Template:
        return {row.key: row.wanted[0] for row in self.rows if row.wanted}

    @property
    def coverage(self) -> Coverage:
        differ = sum(map(bool, self.odd.values()))
        return Coverage(len(self.odd) - differ, differ, len(self.unread))


def agreement(
    machines: Mapping[str, Template | None], reference: Template | None = None
) -> Agreement:
    """Hold machines' templates, None where one could not be read, against a reference or what most
    of them say.
    """
    read = {name: template for name, template in machines.items() if template is not None}
    rows = compared(list(read.values()), reference)
    odd = {
        name: tuple(row.key for row in rows if row.answers[number] != row.wanted)
        for number, name in enumerate(read)
    }
    return Agreement(tuple(rows), odd, tuple(name for name in machines if name not in read))
