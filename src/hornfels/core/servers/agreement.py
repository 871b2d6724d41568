"""Where templates of machines agree with one another or with a reference, setting by setting."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from typing import NamedTuple

from hornfels.core.policy.catalogue import TEMPLATE_SETTINGS, Template, TemplateKey, Value

Answer = tuple[Value, ...]
"""What a template says of a setting: nothing (empty), or one value."""


class Row(NamedTuple):
    """One setting: what each template says of it, what is wanted of all, and how many say that."""

    key: TemplateKey
    answers: tuple[Answer, ...]
    wanted: Answer
    like: int

    @property
    def agree(self) -> bool:
        """Whether all say what is wanted."""
        return self.like == len(self.answers)


def answer(template: Template, key: TemplateKey) -> Answer:
    return (template[key],) if key in template else ()


def compared(templates: Sequence[Template], reference: Template | None = None) -> list[Row]:
    """A row for each setting of which any of the templates, or the reference, says something. What
    is wanted is what the reference says, without one what most say.
    """
    among = [*templates, reference or {}]
    rows = []
    for key in TEMPLATE_SETTINGS:
        if not any(key in template for template in among):
            continue
        answers = tuple(answer(template, key) for template in templates)
        wanted = answer(reference, key) if reference is not None else _most(answers)
        rows.append(Row(key, answers, wanted, answers.count(wanted)))
    return rows


def majority(templates: Sequence[Template]) -> Template:
    """What most templates say of each setting; a setting of which most say nothing is left out."""
    return {row.key: row.wanted[0] for row in compared(templates) if row.wanted}


def _most(answers: Sequence[Answer]) -> Answer:
    """The answer given most often; of equally many the first one, whoever gives it."""
    return Counter(answers).most_common(1)[0][0] if answers else ()
