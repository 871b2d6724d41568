"""Policy files, as the API tells of them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.schemas import DraftInfo


class PolicyFilePlan(BaseModel):
    """What a policy file would change of live."""

    changes: list[SaidInfo]
    new_trials: int = Field(description="trials of the file that the domain does not keep yet")


class PolicyFileTaken(BaseModel):
    """What was made of a policy file."""

    draft: DraftInfo | None = Field(description="null where policies are as the file has them")
    new_trials: int
