"""Steps between two lists of operations, kept as what is put in place of what: a step of a long
draft stays short.
"""

from __future__ import annotations

from typing import Any

from hornfels.store.operations import Written


def step_between(before: Written, after: Written) -> dict[str, Any]:
    """What leads from one list to another: ``put`` in place of ``count`` operations from number
    ``at``.
    """
    shorter = min(len(before), len(after))
    head = next((n for n in range(shorter) if before[n] != after[n]), shorter)
    tail = next(
        (n for n in range(shorter - head) if before[-1 - n] != after[-1 - n]), shorter - head
    )
    return {"at": head, "count": len(before) - head - tail, "put": after[head : len(after) - tail]}


def stepped(operations: Written, step: dict[str, Any]) -> Written:
    """The list that a step leads to."""
    at, count = step["at"], step["count"]
    return [*operations[:at], *step["put"], *operations[at + count :]]
