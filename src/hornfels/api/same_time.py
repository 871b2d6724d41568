"""Refusals that take as long whatever was the reason, so that the time tells a stranger nothing."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from math import ceil

from hornfels.refusals import ForbiddenError

STEP_S = 0.75
"""A refusal takes this long, or a multiple where the directory took longer. Longer than the slowest
of the searches and binds that only some names need.
"""


@asynccontextmanager
async def same_time_for_refusals() -> AsyncIterator[None]:
    """Hold a `ForbiddenError` back until a multiple of `STEP_S` after the beginning."""
    now = asyncio.get_running_loop().time
    began = now()
    try:
        yield
    except ForbiddenError:
        spent = now() - began
        await asyncio.sleep(ceil(spent / STEP_S) * STEP_S - spent)
        raise
