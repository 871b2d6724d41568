"""Policy files, as the API tells of them."""

from __future__ import annotations

from pydantic import BaseModel, Field

from hornfels.api.publication_schemas import SaidInfo
from hornfels.api.schemas import DraftInfo


class PolicyFilePlan(BaseModel):
    """What a policy file would change of live."""

    changes: list[SaidInfo]
    new_trials: int = Field(description="trials of the file that the domain does not keep yet")


class FileProblem(BaseModel):
    """Something wrong with a file: where, and what to do."""

    place: str
    message: str


class WatchedFile(BaseModel):
    """The domain's policy file on the machine, held against live. ``plan`` is null where something
    is ``wrong`` with it.
    """

    name: str
    changed_at: str
    plan: PolicyFilePlan | None
    wrong: list[FileProblem]
    behind_since: str | None = Field(
        description="from when live was as the file has it, if it has changed since"
    )


class WatchedAnswer(BaseModel):
    """``file`` is null where no file is watched for this domain."""

    file: WatchedFile | None


class PolicyFileTaken(BaseModel):
    """What was made of a policy file."""

    draft: DraftInfo | None = Field(description="null where policies are as the file has them")
    new_trials: int
